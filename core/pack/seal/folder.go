package seal

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
	"strconv"
	"strings"
	"sync"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
)

// ErrReadBack: a byte read back is not the byte written.
var ErrReadBack = errors.New("what was read back differs from what was written")

// A batch is synced, read back and journalled together, while the next one is
// copied.
const (
	batchBytes = 96 << 20
	batchFiles = 1000
)

// journalName is the file within a crate under way that tells what of it is
// safe. After a crash what it holds is not copied again.
const journalName = ".sealing.journal"

// entry is a line of the journal: a payload file that is copied, safe and read
// back. Another edit of a document is another intent.
type entry struct {
	To     string `json:"to"`
	Intent string `json:"intent"`
	Size   int64  `json:"size"`
	Sum    string `json:"sha256"`
	Long   string `json:"sha512,omitempty"`
	Quick  uint64 `json:"xxh3"`
}

// journal is where they are told.
type journal struct {
	*os.File
	lines *bufio.Writer
	err   error
}

func (j *journal) note(it item, d digest) {
	err := json.NewEncoder(j.lines).Encode(entry{it.to, it.content.Intent(), d.size, d.sum, d.long, d.quick})
	j.err = errors.Join(j.err, err)
}

// safe makes the lines safe that were noted.
func (j *journal) safe() error {
	if err := errors.Join(j.err, j.lines.Flush(), j.Sync()); err != nil {
		return &WriteError{j.Name(), err}
	}
	return nil
}

// partialEnd ends the names of crates that are not whole yet.
const partialEnd = ".partial"

// UnderWay tells names of crates that are not whole yet, and what they will be called.
func UnderWay(name string) (whole string, is bool) { return strings.CutSuffix(name, partialEnd) }

// folder makes a crate that is a folder.
func (s *sealer) folder(ctx context.Context, items []item) (err error) {
	partial := s.Out + partialEnd
	j, done, err := s.resume(partial)
	if err != nil {
		return err
	}
	defer j.Close() // which lets go of the place
	defer func() {
		// What an earlier try left is taken up another time, whatever this one failed of.
		if err != nil && len(done) == 0 {
			os.RemoveAll(partial)
		}
	}()
	todo, needs := items, int64(0)
	if done != nil {
		if todo, err = s.takeUp(partial, items, done, j); err != nil {
			return err
		}
	}
	if todo, err = s.takeOver(ctx, partial, todo, j); err != nil {
		return err
	}
	for _, it := range todo {
		needs += it.size
	}
	if err := s.room(needs); err != nil {
		return err
	}
	if err := s.batches(ctx, partial, todo, j); err != nil {
		return err
	}
	listed, err := s.lists()
	if err == nil {
		err = s.batches(ctx, partial, listed, nil)
	}
	if err != nil {
		return err
	}
	tags := s.tags()
	if err := s.batches(ctx, partial, tags, nil); err != nil {
		return err
	}
	if err := s.batches(ctx, partial, s.tagManifests(tags), nil); err != nil {
		return err
	}
	s.tick(Proving, 0, "")
	reach := confined(partial)
	if len(s.without) > 0 {
		v := newVault(partial, s.Trace.Formats)
		defer v.close()
		if err := s.lend(v, ""); err != nil {
			return err
		}
		reach = over{reach, v}
	}
	if err := s.prove(ctx, reach, partial, s.Out); err != nil {
		return err
	}
	return s.settle(partial)
}

// takeUp keeps of an earlier try what its journal tells, and tells what of the items is to be done. The rest of what
// lies there goes: it may be another name of a file of the earlier crate, which must not be written into. The journal
// goes on with what was kept alone: another file may come to lie where one of its lines tells of one that went.
func (s *sealer) takeUp(partial string, items []item, done map[string]entry, j *journal) (todo []item, err error) {
	kept := map[string]bool{}
	for _, it := range items {
		e, ok := done[it.to]
		if !ok {
			todo = append(todo, it)
			continue
		}
		if fi, err := os.Lstat(filepath.Join(partial, it.to)); err != nil || e.Intent != it.content.Intent() || fi.Size() != e.Size || e.Long == "" && s.SHA512 {
			todo = append(todo, it)
			continue
		}
		kept[it.to] = true
		s.sums[it.to] = digest{e.Sum, e.Long, e.Quick, e.Size}
		j.note(it, s.sums[it.to])
		s.back.Add(e.Size) // before the crash: the journal holds what was read back
		s.tick(Copying, 2*it.size, it.to)
	}
	if err := sweep(partial, kept); err != nil {
		return nil, &WriteError{partial, err}
	}
	if err := j.Truncate(0); err != nil {
		return nil, &WriteError{j.Name(), err}
	}
	return todo, j.safe()
}

// batches copies, and while the next batch is copied makes the one before safe
// and reads it back. What is read back goes into the journal.
func (s *sealer) batches(ctx context.Context, dir string, todo []item, j *journal) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	w := carrier.NewFolder(dir)
	copied := make(chan []item, 1)
	var wg sync.WaitGroup
	wg.Go(func() {
		for batch := range copied {
			if ctx.Err() != nil {
				continue
			}
			if err := s.safe(ctx, dir, batch, j); err != nil {
				cancel(err)
			}
		}
	})
	for len(todo) > 0 && ctx.Err() == nil {
		n, bytes := 0, int64(0)
		for n < len(todo) && n < batchFiles && (n == 0 || bytes+todo[n].size <= batchBytes) {
			bytes += todo[n].size
			n++
		}
		err := each(ctx, todo[:n], func(ctx context.Context, it item) error {
			return s.put(ctx, w, it)
		})
		if err != nil {
			cancel(err)
			break
		}
		copied <- todo[:n]
		todo = todo[n:]
	}
	close(copied)
	wg.Wait()
	return context.Cause(ctx)
}

// put copies one item into a carrier.
func (s *sealer) put(ctx context.Context, w carrier.Writer, it item) error {
	taking := false
	err := w.Add(carrier.File{Name: it.to, Size: it.size, Kind: it.kind, Mode: it.content.Mode(), Mod: it.content.Mod()}, func(w io.Writer) (err error) {
		taking = true
		err = s.take(ctx, it, w)
		taking = err != nil && !isWrite(err)
		return err
	})
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil:
		return ctx.Err()
	case taking:
		return err // the source's own error
	}
	return &WriteError{it.from, err}
}

// isWrite tells errors of the destination, which the system gives no type of
// its own.
func isWrite(err error) bool {
	var pe *fs.PathError
	return errors.As(err, &pe) && pe.Op == "write"
}

// safe makes a batch safe, reads every byte of it back, and keeps a line of
// each file.
func (s *sealer) safe(ctx context.Context, dir string, batch []item, j *journal) error {
	files := make([]string, len(batch))
	for i, it := range batch {
		files[i] = filepath.Join(dir, it.to)
	}
	if err := syncAll(dir, files); err != nil {
		return &WriteError{dir, err}
	}
	err := each(ctx, batch, func(ctx context.Context, it item) error {
		f, err := os.Open(filepath.Join(dir, it.to))
		if err != nil {
			return &WriteError{it.from, err}
		}
		defer f.Close()
		drive.Forget(f)
		return s.readBack(ctx, it.to, f, s.sum(it.to))
	})
	if err != nil || j == nil {
		return err
	}
	for _, it := range batch {
		j.note(it, s.sum(it.to))
	}
	return j.safe()
}

func (s *sealer) readBack(ctx context.Context, name string, r io.Reader, want digest) error {
	got, err := quickly(r, func(n int) error {
		s.tick(ReadingBack, int64(n), "")
		return ctx.Err()
	})
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return &WriteError{name, err}
	case got != want.quick:
		return &WriteError{name, ErrReadBack}
	}
	if strings.HasPrefix(name, bag.Payload+"/") {
		s.back.Add(want.size)
		s.tick(ReadingBack, 0, name)
	}
	return nil
}

// settle gives the crate its own name. An earlier crate of the same documents is looked
// over at this last moment: what somebody put into it or changed in it since it was sealed
// stops the seal. It goes only once the new one has taken its place, file by file, each
// only if it still is what was sealed; what came into it in between stays beside the
// crate, and is told. The journal goes last: a crash before leaves a crate under way, one
// after it a whole one.
func (s *sealer) settle(partial string) error {
	was, err := s.earlier()
	if err != nil {
		return err
	}
	aside := asideOf(s.Out)
	if was == nil {
		if err := os.Rename(partial, s.Out); err != nil {
			return &WriteError{s.Out, err}
		}
	} else {
		if err := fileset.Swap(partial, s.Out, aside); err != nil {
			return &WriteError{s.Out, err}
		}
	}
	if err := os.Remove(filepath.Join(s.Out, journalName)); err != nil {
		return &WriteError{s.Out, err}
	}
	if was != nil {
		if s.kept, err = fileset.Discard(aside, was, kindOrder); err != nil {
			s.kept = append(s.kept, aside) // the new crate stands; a rest of the old one harms nothing
		}
		s.renewMark()
	}
	return fileset.SyncDir(filepath.Dir(s.Out))
}

// earlierEnd ends the name of an earlier crate whose place another has taken.
const earlierEnd = ".earlier" + partialEnd

// earlier are the files of the crate that stands where this one will, each as it was
// sealed; nil where nothing does.
func (s *sealer) earlier() (map[string]drive.Stamp, error) {
	if _, err := os.Lstat(s.Out); errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	was, err := fileset.Inventory(s.Out)
	if err != nil {
		return nil, &WriteError{s.Out, err}
	}
	if err := refuse(s.Plan, s.Out, s.Trace.Drives, s.shared); err != nil { // an empty folder is none
		return nil, err
	}
	return was, nil
}

// asideOf is a name for an earlier crate that nothing has: what somebody put into the one
// before may lie at the first.
func asideOf(out string) string {
	for n := 1; ; n++ {
		at := out + earlierEnd
		if n > 1 {
			at = fmt.Sprintf("%s.earlier-%d%s", out, n, partialEnd)
		}
		if _, err := os.Lstat(at); errors.Is(err, fs.ErrNotExist) {
			return at
		}
	}
}

// kindOrder is when a file of an earlier crate goes: those by which the rest of it can be told come
// last, and at the very end the one that tells of these. So an ending in the middle, wherever, leaves
// what the next seal can take away.
func kindOrder(rel string) int {
	_, tag, ok := bag.IsManifest(rel)
	switch {
	case rel == bag.TagManifest("sha256"):
		return 2
	case ok || tag || rel == recordName || rel == bag.Declaration:
		return 1
	}
	return 0
}

// finishSwap ends a swap, and a discarding, that were ended in their middle: the new crate
// stands, and an earlier one lies where a crate under way would, or beside. Of an earlier
// one, only what its manifests tell goes.
func finishSwap(out, partial string) {
	finishRename(out, partial)
	beside, _ := os.ReadDir(filepath.Dir(out))
	for _, e := range beside {
		if !asideOfCrate(e.Name(), filepath.Base(out)) {
			continue
		}
		aside := filepath.Join(filepath.Dir(out), e.Name())
		if was, err := sealedIn(aside); err == nil {
			_, _ = fileset.Discard(aside, was, kindOrder) // what cannot be removed lies there, and harms nothing
		}
	}
}

// asideOfCrate tells the names that asideOf gives.
func asideOfCrate(name, crate string) bool {
	rest, ours := strings.CutPrefix(name, crate+".earlier")
	number, ends := strings.CutSuffix(rest, partialEnd)
	n, err := strconv.Atoi(strings.TrimPrefix(number, "-"))
	return ours && ends && (number == "" || err == nil && number == fmt.Sprintf("-%d", n))
}

// sealedIn are the files of a crate that are as they were sealed, by its manifests.
func sealedIn(dir string) (map[string]drive.Stamp, error) {
	now, err := fileset.Inventory(dir)
	if err != nil || len(now) == 0 { // folders alone
		return now, err
	}
	m, err := readSealed(dir)
	if err != nil {
		if m, err = readTags(dir); err != nil { // its manifest went already
			return nil, err
		}
	}
	for rel := range now {
		if m.holds(rel) != nil {
			delete(now, rel)
		}
	}
	return now, nil
}

func finishRename(out, partial string) {
	now, was := folderRecord(out), folderRecord(partial)
	if _, err := os.Lstat(filepath.Join(partial, journalName)); err == nil || now == nil || was == nil || !slices.EqualFunc(now.Documents, was.Documents, func(a, b recordDocument) bool { return a.Source == b.Source }) {
		return
	}
	_ = os.Rename(partial, out+earlierEnd) // where it cannot be, it is in the way, and said to be
}

// resume makes the folder of a crate under way, or takes up one that a crash
// left, by its journal. Any other folder of that name is refused, and so is a
// second seal to the same place: the open journal is its lock, which ends with
// the process that holds it. done is nil where nothing lay there.
func (s *sealer) resume(partial string) (j *journal, done map[string]entry, err error) {
	finishSwap(s.Out, partial)
	at := filepath.Join(partial, journalName)
	if _, err := os.Lstat(at); errors.Is(err, fs.ErrNotExist) {
		es, err := os.ReadDir(partial)
		begun := slices.ContainsFunc(es, func(e fs.DirEntry) bool { return e.Name() == journalName }) // by another, at this moment
		if err == nil && len(es) > 0 && !begun {
			return nil, nil, &Refusal{Out: s.Out, Code: OutInTheWay, Detail: partial}
		}
		if err := os.MkdirAll(partial, 0o755); err != nil {
			return nil, nil, &WriteError{partial, err}
		}
	}
	f, held, err := drive.Hold(at, os.O_RDWR|os.O_APPEND|os.O_CREATE)
	if err != nil {
		return nil, nil, &WriteError{partial, err}
	}
	if !held {
		return nil, nil, &Refusal{Out: s.Out, Code: OutBusy}
	}
	j = &journal{File: f, lines: bufio.NewWriter(f)}
	if es, err := os.ReadDir(partial); err == nil && len(es) == 1 {
		return j, nil, nil
	}
	done = map[string]entry{}
	sc := bufio.NewScanner(f)
	sc.Buffer(make([]byte, 1<<16), 1<<20)
	for sc.Scan() {
		var e entry
		if json.Unmarshal(sc.Bytes(), &e) == nil {
			done[e.To] = e // a torn last line is simply not done
		}
	}
	return j, done, nil
}

// sweep takes away what an earlier try left and is not wanted.
func sweep(partial string, wanted map[string]bool) error {
	return filepath.WalkDir(partial, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, _ := filepath.Rel(partial, p)
		if rel = filepath.ToSlash(rel); rel != journalName && !wanted[rel] {
			return os.Remove(p)
		}
		return nil
	})
}
