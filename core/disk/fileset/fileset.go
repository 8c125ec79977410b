// Package fileset writes several files as one. What shall take a file's place is staged
// beside it under a temporary name, new files are made at names that nothing has, and
// at the last moment every target is looked at once more. Before the commit an error
// undoes all of it. From the first rename on nothing is undone: what could not be
// finished is told, and finished by Recover from the journal, which is made safe before
// that rename and names everything.
package fileset

import (
	"bufio"
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
)

// ErrBusy: another writes what the journal is about.
var ErrBusy = errors.New("another writes into these files at this moment")

// ErrChanged: a target is not what it was when it was staged.
var ErrChanged = errors.New("it changed meanwhile")

// Place is a target, what will stand there, and what proves of each that it is the one
// that is meant.
type Place struct {
	Path    string `json:"document"`
	Fresh   string `json:"fresh"`   // under a temporary name in the same folder, safe
	Edition string `json:"edition"` // what stood there, kept and safe; "" nowhere
	Was     string `json:"was"`     // SHA-256 in hex
	Becomes string `json:"becomes"`
	look    func() error
}

// Txn is one writing. It must be closed.
type Txn struct {
	id      string
	journal *journal
	folders []string
	staged  []Place
	made    []made // the outermost first
	done    bool   // committed
	settled bool   // nothing is left for Recover
}

// made is a file or folder that did not exist.
type made struct {
	Path  string      `json:"made"`
	Stamp drive.Stamp `json:"stamp"`
	Dir   bool        `json:"dir,omitempty"`
}

// Begin begins a writing. Journals is the folder its journal lies in, of the user alone:
// a folder somebody sent must not be able to make us write. With "" there is none, and
// what a kill leaves in the middle stays so. About is what is written, a project's first
// document: two writings about one thing exclude each other (ErrBusy).
func Begin(journals, about string) (*Txn, error) {
	var b [6]byte
	if _, err := rand.Read(b[:]); err != nil {
		return nil, err
	}
	t := &Txn{id: hex.EncodeToString(b[:])}
	var err error
	if t.journal, err = open(journals, about); err != nil {
		return nil, err
	}
	return t, t.journal.line(header{ID: t.id})
}

// Mark begins the names of all that a writing makes for the time being.
func (t *Txn) Mark() string { return tempMark + t.id + "-" }

const tempMark = ".boundcrate-"

// header is the first line of a journal.
type header struct {
	ID      string   `json:"id"`
	Folders []string `json:"folders,omitempty"`
}

// in tells the journal of a folder that temporary files are made in.
func (t *Txn) in(dir string) error {
	if slices.Contains(t.folders, dir) {
		return nil
	}
	t.folders = append(t.folders, dir)
	return t.journal.line(header{ID: t.id, Folders: []string{dir}})
}

// Within tells the journal beforehand of folders that temporary files are made in.
func (t *Txn) Within(dirs ...string) error {
	var list []string
	for _, d := range dirs {
		if !slices.Contains(t.folders, d) {
			t.folders, list = append(t.folders, d), append(list, d)
		}
	}
	if len(list) == 0 {
		return nil
	}
	return t.journal.line(header{ID: t.id, Folders: list})
}

// Dirs makes a folder and those above it, of which the journal is told before.
func (t *Txn) Dirs(dir string) error {
	for _, d := range missing(dir) {
		m := made{Path: d, Dir: true}
		t.made = append(t.made, m)
		if err := t.journal.note(m); err != nil {
			return err
		}
	}
	_, err := MakeDirs(dir)
	return err
}

// Kept tells of a file that was made for this writing: it goes where the writing does not
// come about.
func (t *Txn) Kept(path string) error {
	return t.makes(path, path)
}

// Create makes a new file at a name that nothing has, whole or not at all. written, where
// it is not nil, is told its temporary name before it has its own: its error leaves nothing.
func (t *Txn) Create(path string, mode os.FileMode, mod time.Time, write func(io.Writer) error, written func(tmp string) error) error {
	if err := t.in(filepath.Dir(path)); err != nil {
		return err
	}
	return create(path, t.Mark(), mode, mod, write, func(tmp string) error {
		if written != nil {
			if err := written(tmp); err != nil {
				return err
			}
		}
		return t.makes(path, tmp)
	})
}

// makes tells the journal of a file before it has its name: whoever is stopped in between
// leaves nothing that nobody knows of.
func (t *Txn) makes(path, as string) error {
	info, err := drive.System{}.Lstat(as)
	if err != nil {
		return err
	}
	m := made{Path: path, Stamp: info.Stamp()}
	t.made = append(t.made, m)
	return t.journal.note(m)
}

// Stage makes what shall take the place of a file. look tells at the last moments whether
// it is still the one that is meant; its error ends the writing. edition is where its
// present bytes are kept.
func (t *Txn) Stage(path string, mode os.FileMode, edition string, look func() error, write func(io.Writer) error) error {
	if err := t.in(filepath.Dir(path)); err != nil {
		return err
	}
	p := Place{Path: path, Edition: edition, look: look}
	fresh, err := temp(filepath.Dir(path), t.Mark(), mode, time.Time{}, write)
	if err != nil {
		return err
	}
	p.Fresh = fresh
	t.staged = append(t.staged, p)
	last := &t.staged[len(t.staged)-1]
	if last.Was, err = sumOf(path); err == nil {
		last.Becomes, err = sumOf(fresh)
	}
	if err == nil {
		err = copyAttributes(path, fresh)
	}
	if err == nil && edition != "" {
		var kept string
		if kept, err = sumOf(edition); err == nil && kept != last.Was {
			err = ErrChanged
		}
	}
	return err
}

// Check looks at all targets once more: each is what it was when it was staged.
func (t *Txn) Check() error {
	for i := range t.staged {
		if err := t.staged[i].look(); err != nil {
			return &Error{t.staged[i].Path, err}
		}
	}
	return nil
}

// Error is a target that is not what it was, or could not be written.
type Error struct {
	Path string
	Err  error
}

func (e *Error) Error() string { return fmt.Sprintf("‘%s’: %v", e.Path, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Settled is what came of a commit.
type Settled struct {
	Done     []Place
	Left     []Error  // targets that are not written: changed at the last moment, or for Recover to finish
	Unsynced []string // folders whose file system cannot say that a new name is safe
}

// Commit checks, makes the journal safe, and gives everything its name. An error means
// that nothing was changed; a target that could not be written once the first was is
// told in Settled.
func (t *Txn) Commit() (*Settled, error) {
	if err := t.Check(); err != nil {
		return nil, err
	}
	if err := t.journal.line(t.staged); err != nil {
		return nil, err
	}
	s := &Settled{}
	wait := false
	for i := range t.staged {
		p := &t.staged[i]
		err := p.look()
		changed := err != nil
		if err == nil {
			err = os.Rename(p.Fresh, p.Path)
		}
		switch {
		case err == nil:
			s.Done = append(s.Done, *p)
			t.done = true
		case !t.done && i == 0:
			return nil, &Error{p.Path, err}
		default:
			s.Left = append(s.Left, Error{p.Path, err})
			if changed || t.journal == nil {
				os.Remove(p.Fresh) // it is theirs now
			} else {
				wait = true
			}
		}
	}
	t.done, t.settled = true, !wait
	folders := map[string]bool{}
	for _, p := range s.Done {
		folders[filepath.Dir(p.Path)] = true
	}
	for _, m := range t.made {
		folders[filepath.Dir(m.Path)] = true
	}
	for dir := range folders {
		if ok, err := synced(dir); err != nil || !ok {
			s.Unsynced = append(s.Unsynced, dir)
		}
	}
	slices.Sort(s.Unsynced)
	return s, nil
}

// Close ends a writing: one that was not committed leaves nothing.
func (t *Txn) Close() error {
	if !t.done {
		for i := range t.staged {
			os.Remove(t.staged[i].Fresh)
		}
		for _, m := range slices.Backward(t.made) {
			m.remove()
		}
		t.settled = true
	}
	return t.journal.end(t.settled)
}

// remove takes away what was made, unless somebody else stands there now; folders, too,
// where nothing else is in them.
func (m made) remove() {
	if m.Dir {
		os.Remove(m.Path)
		return
	}
	info, err := drive.System{}.Lstat(m.Path)
	if err != nil {
		return
	}
	is := info.Stamp()
	is.Node.Changed, m.Stamp.Node.Changed = 0, 0 // that it has its name came after
	if is == m.Stamp {
		os.Remove(m.Path)
	}
}

func sumOf(path string) (string, error) {
	return drive.Fingerprint(context.Background(), drive.System{}, path, nil)
}

// journal is an open one; nil keeps nothing.
type journal struct{ *os.File }

// journalEnd ends the names of journals.
const journalEnd = ".writing"

func open(dir, about string) (*journal, error) {
	if dir == "" {
		return nil, nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	f, held, err := drive.Hold(filepath.Join(dir, fmt.Sprintf("%016x%s", xxh3.HashString(about), journalEnd)), os.O_RDWR|os.O_CREATE)
	if err == nil && !held {
		err = ErrBusy
	}
	if err != nil {
		return nil, err
	}
	return &journal{f}, f.Truncate(0)
}

// note writes one line; that it is lost in a power cut leaves a file too many.
func (j *journal) note(v any) error {
	if j == nil {
		return nil
	}
	b, err := json.Marshal(v)
	if err == nil {
		_, err = j.Write(append(b, '\n'))
	}
	return err
}

// line makes one line safe.
func (j *journal) line(v any) error {
	if j == nil {
		return nil
	}
	return errors.Join(j.note(v), j.Sync(), SyncDir(filepath.Dir(j.Name())))
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

// Recover finishes writings that were ended in the middle, by a kill or a power cut, from
// the journals of a folder, and returns the files that now say what was asked for. One
// that somebody changed since is left to them: it is an *Error of ErrChanged. A writing
// whose files cannot be reached now waits for the next time; one that is under way is
// not touched, nor what it made.
func Recover(journals string) (done []Place, err error) {
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

// maxJournal bounds what is read of a journal.
const maxJournal = 64 << 20

// finish gives every target of a committed journal what it was to become, and takes away
// what one that was not committed made.
func (j *journal) finish() (done []Place, over bool, err error) {
	var id string
	var folders []string
	var things []made
	var list []Place
	committed := false
	lines := bufio.NewScanner(io.LimitReader(j, maxJournal))
	lines.Buffer(nil, maxJournal)
	for lines.Scan() {
		line := lines.Bytes()
		var h header
		var m made
		switch {
		case json.Unmarshal(line, &list) == nil && len(list) > 0 && list[0].Path != "":
			committed = true
		case json.Unmarshal(line, &m) == nil && m.Path != "":
			things = append(things, m)
		case json.Unmarshal(line, &h) == nil && h.ID != "":
			id, folders = h.ID, append(folders, h.Folders...)
		}
	}
	if !committed {
		for _, dir := range folders {
			sweep(dir, tempMark+id+"-")
		}
		for _, m := range slices.Backward(things) {
			m.remove()
		}
		return nil, true, nil
	}
	for _, p := range list {
		if _, err := os.Stat(p.Path); errors.Is(err, fs.ErrNotExist) {
			return nil, false, nil // the drive is out, and comes back as it was
		}
	}
	for _, p := range list {
		fail := func(e error) { err = errors.Join(err, &Error{p.Path, e}) }
		switch sum, serr := sumOf(p.Path); {
		case serr != nil:
			fail(serr)
		case sum == p.Becomes:
			done = append(done, p)
		case sum != p.Was:
			fail(ErrChanged)
		default:
			if rerr := errors.Join(os.Rename(p.Fresh, p.Path), SyncDir(filepath.Dir(p.Path))); rerr != nil {
				fail(rerr)
				continue
			}
			done = append(done, p)
		}
	}
	for _, p := range list {
		os.Remove(p.Fresh)
	}
	return done, true, err
}

// sweep takes away what one writing left in a folder that was ended before its commit.
func sweep(dir, mark string) {
	entries, _ := os.ReadDir(dir)
	for _, e := range entries {
		if len(e.Name()) > len(mark) && e.Name()[:len(mark)] == mark {
			os.Remove(filepath.Join(dir, e.Name()))
		}
	}
}
