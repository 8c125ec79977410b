package seal

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/drive"
)

// ErrReadBack: a byte read back is not the byte written.
var ErrReadBack = errors.New("what was read back differs from what was written")

// A batch is synced, read back and journalled together.
const (
	batchBytes = 512 << 20
	batchFiles = 1000
)

// entry is a line of the journal: a payload file that is copied, safe and read
// back. After a crash what the journal holds is not copied again.
type entry struct {
	To    string    `json:"to"`
	From  string    `json:"from"`
	Size  int64     `json:"size"`
	Mod   time.Time `json:"mod"`
	Sum   string    `json:"sha256"`
	Quick uint64    `json:"xxh3"`
}

// partialEnd ends the names of crates that are not whole yet.
const partialEnd = ".partial"

// UnderWay tells names of crates that are not whole yet.
func UnderWay(name string) bool { return strings.HasSuffix(name, partialEnd) }

// folder makes a crate that is a folder.
func (s *sealer) folder(ctx context.Context, items []item) (err error) {
	partial := s.Out + partialEnd
	done, err := s.resume(partial)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			os.RemoveAll(partial)
		}
	}()
	j, err := os.OpenFile(filepath.Join(partial, journal), os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		return &CopyError{partial, err}
	}
	defer j.Close()
	var todo []item
	wanted := map[string]bool{}
	for _, it := range items {
		wanted[it.to] = true
		e, ok := done[it.to]
		if fi, err := os.Stat(filepath.Join(partial, it.to)); ok && err == nil &&
			e.From == it.from && e.Mod.Equal(it.mod) && e.Size == it.size && fi.Size() == e.Size {
			s.sums[it.to] = digest{e.Sum, e.Quick, e.Size}
			s.back.Add(e.Size) // before the crash: the journal holds what was read back
			s.tick("copying", 2*it.size, it.to)
			continue
		}
		todo = append(todo, it)
	}
	if err := sweep(partial, wanted); err != nil {
		return &CopyError{partial, err}
	}
	for len(todo) > 0 {
		n, bytes := 0, int64(0)
		for n < len(todo) && n < batchFiles && (n == 0 || bytes+todo[n].size <= batchBytes) {
			bytes += todo[n].size
			n++
		}
		if err := s.batch(ctx, partial, todo[:n]); err != nil {
			return err
		}
		w := json.NewEncoder(j)
		for _, it := range todo[:n] {
			d := s.sums[it.to]
			if err := w.Encode(entry{it.to, it.from, it.size, it.mod, d.sum, d.quick}); err != nil {
				return &CopyError{partial, err}
			}
		}
		if err := j.Sync(); err != nil {
			return &CopyError{partial, err}
		}
		todo = todo[n:]
	}
	tags := s.tags()
	if err := s.batch(ctx, partial, tags); err != nil {
		return err
	}
	if err := s.batch(ctx, partial, []item{s.tagManifest(tags)}); err != nil {
		return err
	}
	if err := os.Remove(filepath.Join(partial, journal)); err != nil {
		return &CopyError{partial, err}
	}
	s.tick("proving", 0, "")
	if err := s.prove(ctx, drive.Confined{Dir: partial}, partial, s.Out); err != nil {
		return err
	}
	return s.settle(partial)
}

// settle gives the crate its own name. An earlier crate of the same documents
// goes only once the new one has taken its place.
func (s *sealer) settle(partial string) error {
	old := ""
	if _, err := os.Stat(s.Out); err == nil {
		old = s.Out + ".earlier" + partialEnd
		if err := os.RemoveAll(old); err != nil {
			return &CopyError{old, err}
		}
		if err := os.Rename(s.Out, old); err != nil {
			return &CopyError{s.Out, err}
		}
	}
	if err := os.Rename(partial, s.Out); err != nil {
		if old != "" {
			_ = os.Rename(old, s.Out)
		}
		return &CopyError{s.Out, err}
	}
	if old != "" {
		_ = os.RemoveAll(old) // the new crate stands; a rest of the old one harms nothing
	}
	return drive.SyncDir(filepath.Dir(s.Out))
}

// resume makes the folder of a crate under way, or takes up one that a crash
// left, by its journal. Any other folder of that name is refused.
func (s *sealer) resume(partial string) (map[string]entry, error) {
	f, err := os.Open(filepath.Join(partial, journal))
	if errors.Is(err, fs.ErrNotExist) {
		if es, err := os.ReadDir(partial); err == nil && len(es) > 0 {
			return nil, &Refusal{s.Out, "‘" + partial + "’ is in the way and is no crate under way"}
		}
		if err := os.MkdirAll(partial, 0o755); err != nil {
			return nil, &CopyError{partial, err}
		}
		return nil, nil
	}
	if err != nil {
		return nil, &CopyError{partial, err}
	}
	defer f.Close()
	done := map[string]entry{}
	sc := bufio.NewScanner(f)
	sc.Buffer(make([]byte, 1<<16), 1<<20)
	for sc.Scan() {
		var e entry
		if json.Unmarshal(sc.Bytes(), &e) == nil {
			done[e.To] = e // a torn last line is simply not done
		}
	}
	return done, nil
}

// sweep takes away what an earlier try left and this plan does not want.
func sweep(partial string, wanted map[string]bool) error {
	return filepath.WalkDir(partial, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, _ := filepath.Rel(partial, p)
		if rel = filepath.ToSlash(rel); rel != journal && !wanted[rel] {
			return os.Remove(p)
		}
		return nil
	})
}

// batch writes items, makes them safe, and reads every byte back.
func (s *sealer) batch(ctx context.Context, dir string, items []item) error {
	paths := make([]string, len(items))
	made := map[string]bool{}
	for i, it := range items {
		paths[i] = filepath.Join(dir, filepath.FromSlash(it.to))
		if d := filepath.Dir(paths[i]); !made[d] {
			if err := os.MkdirAll(d, 0o755); err != nil {
				return &CopyError{it.from, err}
			}
			made[d] = true
		}
	}
	err := each(ctx, items, func(ctx context.Context, it item) error {
		f, err := os.OpenFile(filepath.Join(dir, it.to), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o644)
		if err != nil {
			return &CopyError{it.from, err}
		}
		d, err := s.take(ctx, it, f)
		if cerr := f.Close(); err == nil && cerr != nil {
			err = &CopyError{it.from, cerr}
		}
		if err != nil {
			return err
		}
		s.mu.Lock()
		s.sums[it.to] = d
		s.mu.Unlock()
		return nil
	})
	if err != nil {
		return err
	}
	if err := syncAll(dir, paths); err != nil {
		return &CopyError{dir, err}
	}
	return each(ctx, items, func(ctx context.Context, it item) error {
		f, err := os.Open(filepath.Join(dir, it.to))
		if err != nil {
			return &CopyError{it.from, err}
		}
		defer f.Close()
		forget(f)
		s.mu.Lock()
		want := s.sums[it.to]
		s.mu.Unlock()
		return s.readBack(ctx, it.to, f, want)
	})
}

func (s *sealer) readBack(ctx context.Context, name string, r io.Reader, want digest) error {
	h := xxh3.New()
	buf := make([]byte, 1<<18)
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		n, err := r.Read(buf)
		h.Write(buf[:n])
		s.tick("reading back", int64(n), "")
		if err == io.EOF {
			break
		}
		if err != nil {
			return &CopyError{name, err}
		}
	}
	if h.Sum64() != want.quick {
		return &CopyError{name, ErrReadBack}
	}
	if strings.HasPrefix(name, payloadDir+"/") {
		s.back.Add(want.size)
		s.tick("reading back", 0, name)
	}
	return nil
}

// archive makes a crate that is one file.
func (s *sealer) archive(ctx context.Context, c Carrier, items []item) (err error) {
	if err := os.MkdirAll(filepath.Dir(s.Out), 0o755); err != nil {
		return &CopyError{s.Out, err}
	}
	f, err := place(s.Out)
	if err != nil {
		return &CopyError{s.Out, err}
	}
	defer func() {
		f.Close()
		if err != nil {
			os.Remove(f.Name())
		}
	}()
	buffered := bufio.NewWriterSize(f, 1<<20)
	p, err := newPacker(c, buffered, s.name, s.Now)
	if err != nil {
		return err
	}
	put := func(it item) error {
		var d digest
		err := p.add(it.to, it.size, it.kind, func(w io.Writer) (err error) {
			d, err = s.take(ctx, it, w)
			return err
		})
		if err == nil && d.size != it.size {
			err = &ChangedError{it.from}
		}
		if err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return wrapCopy(it.from, err)
		}
		s.sums[it.to] = d
		return nil
	}
	for _, it := range items {
		if err := put(it); err != nil {
			return err
		}
	}
	tags := s.tags()
	for _, it := range tags {
		if err := put(it); err != nil {
			return err
		}
	}
	if err := put(s.tagManifest(tags)); err != nil {
		return err
	}
	if err := errors.Join(p.close(), buffered.Flush(), f.Chmod(0o644), f.Sync()); err != nil {
		return &CopyError{s.Out, err}
	}
	forget(f)
	v := newVault(s.Out+"!", s.Formats)
	defer v.close()
	seen := 0
	err = members(ctx, f.Name(), func(m member, r io.Reader) error {
		name := strings.TrimPrefix(m.name, s.name+"/")
		want, ok := s.sums[name]
		if !ok || r == nil {
			return &CopyError{m.name, ErrReadBack}
		}
		seen++
		h := xxh3.New()
		if err := v.take(path.Join(s.name, name), m.size, io.TeeReader(cancelled{ctx, r}, ticking{h, func(n int) { s.tick("reading back", int64(n), "") }})); err != nil {
			return err
		}
		if h.Sum64() != want.quick {
			return &CopyError{m.name, ErrReadBack}
		}
		if strings.HasPrefix(name, payloadDir+"/") {
			s.back.Add(want.size)
		}
		s.tick("reading back", 0, name)
		return nil
	})
	if err == nil && seen != len(s.sums) {
		err = &CopyError{s.Out, ErrReadBack}
	}
	if err != nil {
		return wrapCopy(s.Out, err)
	}
	s.tick("proving", 0, "")
	base := s.Out + "!/" + s.name
	if err := s.prove(ctx, v, base, base); err != nil {
		return err
	}
	if err := os.Rename(f.Name(), s.Out); err != nil {
		return &CopyError{s.Out, err}
	}
	return drive.SyncDir(filepath.Dir(s.Out))
}

func wrapCopy(name string, err error) error {
	var c *CopyError
	var ch *ChangedError
	if errors.As(err, &c) || errors.As(err, &ch) || errors.Is(err, context.Canceled) {
		return err
	}
	return &CopyError{name, err}
}

type ticking struct {
	w    io.Writer
	tick func(int)
}

func (t ticking) Write(b []byte) (int, error) {
	n, err := t.w.Write(b)
	t.tick(n)
	return n, err
}

// prove traces the crate with nothing else reachable. at is where it stands
// now, final where it will stand.
func (s *sealer) prove(ctx context.Context, reach drive.Reach, at, final string) error {
	var docs []string
	for _, d := range s.record().Documents {
		docs = append(docs, filepath.Join(at, d.Path))
	}
	p, err := prove(ctx, s.Formats, reach, filepath.Join(at, payloadDir), docs)
	if err != nil {
		return err
	}
	s.complete = p.complete && len(s.unsaid()) == 0
	for _, pr := range p.problems {
		pr.Path, pr.Document = rebase(pr.Path, at, final), rebase(pr.Document, at, final)
		pr.Message = strings.ReplaceAll(pr.Message, at, final)
		s.problems = append(s.problems, pr)
	}
	return nil
}

func rebase(p, from, to string) string {
	if drive.Within(from, p) {
		return to + strings.TrimPrefix(p, from)
	}
	return p
}
