package mend

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/zeebo/xxh3"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/facts"
	"boundcrate/core/trace"
)

// A journal tells, while documents are written, what shall take whose place. It
// lies in the user's data folder, named after the project's first document: a
// folder somebody sent must not be able to make us write. It is the lock of the
// writing, too. Its first line names the folders that temporary files are made
// in, its second the places, once all of them are safe.
const journalEnd = ".writing"

// freshMark begins the names of what shall take a document's place.
const freshMark = ".boundcrate-writing-"

// place is a document, what will stand there, and what of each proves that it is
// the one that is meant.
type place struct {
	Document string `json:"document"`
	Fresh    string `json:"fresh"`   // under a temporary name in the same folder, safe
	Edition  string `json:"edition"` // what stood there, safe
	Was      string `json:"was"`     // SHA-256 in hex
	Becomes  string `json:"becomes"`
}

// journal is an open one; nil keeps nothing.
type journal struct{ *os.File }

// begin opens a document's journal in a folder and takes it. With no folder
// there is none, and what a kill leaves in the middle stays so.
func begin(dir, document string) (*journal, error) {
	if dir == "" {
		return nil, nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	f, held, err := drive.Hold(filepath.Join(dir, fmt.Sprintf("%016x%s", xxh3.HashString(document), journalEnd)), os.O_RDWR|os.O_CREATE)
	if err == nil && !held {
		err = errBusy
	}
	if err != nil {
		return nil, err
	}
	return &journal{f}, f.Truncate(0)
}

var errBusy = errors.New("another writes into these documents at this moment")

// line makes one line safe.
func (j *journal) line(v any) error {
	if j == nil {
		return nil
	}
	b, err := json.Marshal(v)
	if err == nil {
		_, err = j.Write(append(b, '\n'))
	}
	return errors.Join(err, j.Sync(), drive.SyncDir(filepath.Dir(j.Name())))
}

// end takes the journal away, or leaves it to Recover.
func (j *journal) end(over bool) error {
	if j == nil {
		return nil
	}
	var err error
	if over {
		err = os.Remove(j.Name())
	}
	return errors.Join(err, j.Close())
}

// commit writes documents all or none. First everything is made beside them:
// whatever fails then, a full disk among it, has changed nothing. Then the
// journal is made safe; from there on the documents only change names, which a
// later Recover can finish. first is the project's first document.
func commit(reach drive.Reach, first string, jobs []write, keep edition.Keeper, journals string) (done []Written, err error) {
	j, err := begin(journals, first)
	if err != nil {
		step := Writing
		if errors.Is(err, errBusy) {
			step = Busy
		}
		return nil, &WriteError{Document: first, Step: step, Err: err}
	}
	defer func() {
		if ferr := j.end(true); err == nil && ferr != nil {
			err = &WriteError{Document: first, Step: Syncing, Err: ferr}
		}
	}()
	list, err := prepareAll(reach, first, jobs, keep, j)
	if err != nil {
		return nil, err
	}
	for i, w := range jobs {
		err := unchanged(reach, w)
		if err == nil {
			err = os.Rename(list[i].Fresh, list[i].Document)
		}
		if err != nil {
			drop(list[i:], true)
			return nil, undo(list[:i], w.doc.Path, err)
		}
		done = append(done, Written{list[i].Document, list[i].Edition, w.count, list[i].Becomes})
	}
	return done, syncAll(list)
}

// prepareAll makes everything that is needed beside the documents; where it
// fails nothing of it stays.
func prepareAll(reach drive.Reach, first string, jobs []write, keep edition.Keeper, j *journal) (list []place, err error) {
	var folders []string
	for _, w := range jobs {
		for _, dir := range []string{filepath.Dir(w.doc.Info.Real), keep.Of(w.doc.Info.Real)} {
			if !slices.Contains(folders, dir) {
				folders = append(folders, dir)
			}
		}
	}
	defer func() {
		if err != nil {
			drop(list, true)
		}
	}()
	if err := j.line(folders); err != nil {
		return nil, &WriteError{Document: first, Step: Writing, Err: err}
	}
	for _, w := range jobs {
		p, step, err := prepare(reach, w, keep)
		list = append(list, p)
		if err != nil {
			return list, &WriteError{Document: w.doc.Path, Step: step, Err: err}
		}
	}
	if err := j.line(list); err != nil {
		return list, &WriteError{Document: first, Step: Writing, Err: err}
	}
	return list, nil
}

// drop takes away what was made for places that were not taken; editions of
// documents that stay as they are, too.
func drop(list []place, editions bool) {
	for _, p := range list {
		os.Remove(p.Fresh)
		if editions {
			os.Remove(p.Edition)
		}
	}
}

// syncAll makes the new names safe. That it cannot is told: the documents are
// written.
func syncAll(list []place) error {
	synced := map[string]bool{}
	for _, p := range list {
		dir := filepath.Dir(p.Document)
		if synced[dir] {
			continue
		}
		synced[dir] = true
		if err := drive.SyncDir(dir); err != nil {
			return &WriteError{Document: p.Document, Step: Syncing, Err: err, Edition: p.Edition}
		}
	}
	return nil
}

// unchanged tells that a document is still the one that was traced.
func unchanged(reach drive.Reach, w write) error {
	info, err := reach.Stat(w.doc.Path)
	if err == nil && !info.Same(w.doc.Info) {
		err = &trace.ChangedError{Path: w.doc.Path}
	}
	return err
}

// prepare keeps an edition and writes what shall stand in its place.
func prepare(reach drive.Reach, job write, keep edition.Keeper) (p place, step WriteStep, err error) {
	p = place{Document: job.doc.Info.Real}
	if p.Edition, err = keep.Keep(p.Document); err != nil {
		return p, Keeping, err
	}
	f, err := os.CreateTemp(filepath.Dir(p.Document), freshMark+"*")
	if err != nil {
		return p, Writing, err
	}
	p.Fresh = f.Name()
	w := bufio.NewWriterSize(f, 1<<18)
	if err = job.text(reach, w); err == nil {
		err = w.Flush()
	}
	if err = errors.Join(err, f.Chmod(job.doc.Info.Mode.Perm()), f.Sync(), f.Close()); err != nil {
		return p, Writing, err
	}
	if p.Was, err = sumOf(p.Edition); err == nil {
		p.Becomes, err = sumOf(p.Fresh)
	}
	return p, Writing, err
}

// text writes what shall stand in the document.
func (w write) text(reach drive.Reach, to io.Writer) error {
	if w.from != "" {
		f, err := os.Open(w.from)
		if err != nil {
			return err
		}
		defer f.Close()
		_, err = io.Copy(to, f)
		return err
	}
	// What the texts do not hold, the other members of a package, is read from the
	// file once more.
	src, err := drive.OpenSized(reach, w.doc.Path)
	if err != nil {
		return err
	}
	defer src.Close()
	return w.file.RewriteFrom(src, to, w.edits)
}

func sumOf(path string) (string, error) {
	return facts.Fingerprint(context.Background(), drive.System{}, path, nil)
}

// undo puts back what stood in the documents that were written already, and
// says why the rest was not.
func undo(written []place, document string, cause error) *WriteError {
	e := &WriteError{Document: document, Step: Writing, Err: cause}
	for _, p := range written {
		if err := restore(p); err != nil {
			e.Step, e.Edition, e.Err = Undoing, p.Edition, errors.Join(e.Err, err)
		}
	}
	return e
}

func restore(p place) error {
	src, err := os.Open(p.Edition)
	if err != nil {
		return err
	}
	defer src.Close()
	info, err := os.Stat(p.Document)
	if err != nil {
		return err
	}
	return drive.Replace(p.Document, info.Mode().Perm(), func(w io.Writer) error { _, err := io.Copy(w, src); return err })
}

// Recover finishes writings that were ended in the middle, by a kill or a power
// cut, from the journals of a folder, and returns the documents that now say what
// was asked for. One that somebody changed since is left to them: it is a
// *WriteError. A writing whose documents cannot be reached now waits for the next
// time; one that is under way is not touched.
func Recover(journals string) (done []string, err error) {
	list, _ := filepath.Glob(filepath.Join(journals, "*"+journalEnd))
	for _, at := range list {
		f, held, herr := drive.Hold(at, os.O_RDWR)
		if !held {
			if herr != nil && !errors.Is(herr, fs.ErrNotExist) {
				err = errors.Join(err, herr)
			}
			continue
		}
		j := &journal{f}
		finished, over, ferr := j.finish()
		done = append(done, finished...)
		err = errors.Join(err, ferr, j.end(over))
	}
	return done, err
}

// finish gives every document of a journal what it was to become.
func (j *journal) finish() (done []string, over bool, err error) {
	var folders []string
	var list []place
	d := json.NewDecoder(io.LimitReader(j, maxJournal))
	if d.Decode(&folders) != nil || d.Decode(&list) != nil {
		// No document was touched yet.
		for _, dir := range folders {
			sweep(dir)
		}
		return nil, true, nil
	}
	for _, p := range list {
		if _, err := os.Stat(p.Document); errors.Is(err, fs.ErrNotExist) {
			return nil, false, nil // the drive is out, and comes back as it was
		}
	}
	for _, p := range list {
		fail := func(e error) {
			err = errors.Join(err, &WriteError{Document: p.Document, Step: Undoing, Err: e, Edition: p.Edition})
		}
		switch sum, serr := sumOf(p.Document); {
		case serr != nil:
			fail(serr)
		case sum == p.Becomes:
			done = append(done, p.Document)
		case sum != p.Was:
			fail(&trace.ChangedError{Path: p.Document})
		default:
			if rerr := errors.Join(os.Rename(p.Fresh, p.Document), drive.SyncDir(filepath.Dir(p.Document))); rerr != nil {
				fail(rerr)
				continue
			}
			done = append(done, p.Document)
		}
	}
	drop(list, false)
	return done, true, err
}

// maxJournal bounds what is read of a journal.
const maxJournal = 64 << 20

// sweep takes away what a writing left in a folder that was ended before its
// journal was whole.
func sweep(dir string) {
	entries, _ := os.ReadDir(dir)
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), freshMark) || strings.HasPrefix(e.Name(), edition.Mark) {
			os.Remove(filepath.Join(dir, e.Name()))
		}
	}
}
