package line

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/text/names"
)

// ErrNone: no edition of these documents is kept.
var ErrNone = errors.New("no edition of it is kept")

// ErrBusy: another process keeps editions at this moment.
var ErrBusy = errors.New("another process is keeping editions at this moment")

// Store is a folder of editions.
type Store struct{ dir string }

// Open is the store of a folder, which is made when something is kept.
func Open(dir string) *Store { return &Store{dir} }

// Dir is its folder.
func (s *Store) Dir() string { return s.dir }

func (s *Store) file(key string) string { return filepath.Join(s.dir, "lines", key+".jsonl") }

// patience is how long one process waits for another.
const patience = 20 * time.Second

// hold takes the store for this process.
func (s *Store) hold(ctx context.Context) (release func(), err error) {
	if _, err := fileset.MakeDirs(filepath.Join(s.dir, "lines")); err != nil {
		return nil, err
	}
	at := filepath.Join(s.dir, "lock")
	for until := time.Now().Add(patience); ; {
		f, held, err := drive.Hold(at, os.O_RDWR|os.O_CREATE)
		if err != nil {
			return nil, err
		}
		if held {
			return func() { f.Close() }, nil
		}
		if time.Now().After(until) {
			return nil, ErrBusy
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(5 * time.Millisecond):
		}
	}
}

// Find is the line of a project: the one all documents were given to, the one with no others first, then
// the youngest. ErrNone where there is none.
func (s *Store) Find(docs []string, drives []drive.Drive) (*Line, error) {
	lines, err := s.all()
	if err != nil {
		return nil, err
	}
	var best *Line
	for _, l := range lines {
		last := l.Last()
		if last == nil || !last.names(docs, drives) {
			continue
		}
		if best == nil || closer(last, best.Last(), len(docs)) {
			best = l
		}
	}
	if best == nil {
		return nil, ErrNone
	}
	return best, nil
}

func closer(a, b *Edition, n int) bool {
	if x, y := len(a.Given) == n, len(b.Given) == n; x != y {
		return x
	}
	return a.At.After(b.At)
}

// grown is the line of a project that had some of the documents and no others.
func (s *Store) grown(docs []string, drives []drive.Drive) *Line {
	lines, _ := s.all()
	var best *Line
	for _, l := range lines {
		last := l.Last()
		if last == nil || len(last.Given) >= len(docs) {
			continue
		}
		within := true
		for i := range last.Given {
			within = within && slices.ContainsFunc(docs, func(d string) bool { return last.given(d, drives) == i })
		}
		if within && (best == nil || len(last.Given) > len(best.Last().Given)) {
			best = l
		}
	}
	return best
}

func (s *Store) all() (list []*Line, err error) {
	entries, err := os.ReadDir(filepath.Join(s.dir, "lines"))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		key, ok := strings.CutSuffix(e.Name(), ".jsonl")
		if !ok {
			continue
		}
		l, err := s.load(key)
		if err != nil {
			return nil, err
		}
		list = append(list, l)
	}
	return list, nil
}

func (s *Store) load(key string) (*Line, error) {
	text, err := os.ReadFile(s.file(key))
	if err != nil {
		return nil, err
	}
	l := &Line{key: key}
	l.read(text)
	return l, nil
}

// newKey names the line of a new project after its first document.
func newKey(given []string) string {
	var b [4]byte
	_, _ = rand.Read(b[:]) // it never fails (crypto/rand)
	stem, _ := names.Split(filepath.Base(given[0]))
	plain := strings.Map(func(r rune) rune {
		if r < 0x80 && (r == '-' || r == '_' || r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z') {
			return r
		}
		return '-'
	}, stem)
	return plain[:min(len(plain), 40)] + "-" + hex.EncodeToString(b[:])
}

// add appends a line, safely. What is left of one that was ended in the middle is put aside.
func (s *Store) add(key string, v any) error {
	text, err := seal(v)
	if err != nil {
		return err
	}
	at := s.file(key)
	_, statErr := os.Stat(at)
	f, err := os.OpenFile(at, os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return err
	}
	end, err := whole(f)
	if err == nil {
		_, err = f.WriteAt(text, end)
	}
	if err = errors.Join(err, f.Sync(), f.Close()); err == nil && statErr != nil {
		err = fileset.SyncDir(filepath.Dir(at))
	}
	return err
}

// whole is where the last whole line of a file ends; what follows goes to a file beside it.
func whole(f *os.File) (int64, error) {
	info, err := f.Stat()
	if err != nil || info.Size() == 0 {
		return 0, err
	}
	end := info.Size()
	var b [1]byte
	for ; end > 0; end-- {
		if _, err := f.ReadAt(b[:], end-1); err != nil {
			return 0, err
		}
		if b[0] == '\n' {
			break
		}
	}
	if end == info.Size() {
		return end, nil
	}
	aside, err := os.OpenFile(f.Name()+".cut", os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o644)
	if err != nil {
		return 0, err
	}
	_, err = io.Copy(aside, io.NewSectionReader(f, end, info.Size()-end))
	if err = errors.Join(err, aside.Sync(), aside.Close()); err != nil {
		return 0, err
	}
	return end, f.Truncate(end)
}

// Trouble is what is damaged in a store.
type Trouble struct {
	Line     string // of which project, by its file
	Lines    int    // that cannot be read
	Editions []int  // that need bytes which are damaged or gone
}

// Verify reads everything that is kept.
func (s *Store) Verify(ctx context.Context) (list []Trouble, err error) {
	lines, err := s.all()
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		broken, err := s.Broken(ctx, l)
		if err != nil {
			return nil, err
		}
		if l.Damaged > 0 || len(broken) > 0 {
			list = append(list, Trouble{l.key, l.Damaged, broken})
		}
	}
	slices.SortFunc(list, func(a, b Trouble) int { return cmp.Compare(a.Line, b.Line) })
	return list, nil
}

// sums are the digests of all that an edition keeps.
func (e *Edition) sums() (list []string) {
	for _, d := range e.Documents {
		list = append(list, d.SHA256)
	}
	if e.Material.SHA256 != "" {
		list = append(list, e.Material.SHA256)
	}
	return list
}

// Broken are the editions of a project that need bytes which are damaged or gone.
func (s *Store) Broken(ctx context.Context, l *Line) ([]int, error) {
	good := map[string]bool{}
	list := []int{}
	for i := range l.Editions {
		for _, sha := range l.Editions[i].sums() {
			ok, known := good[sha]
			if !known {
				ok = s.Copy(ctx, sha, io.Discard) == nil
				good[sha] = ok
			}
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			if !ok {
				list = append(list, l.Editions[i].ID)
				break
			}
		}
	}
	return list, nil
}

// Note gives an edition another note.
func (s *Store) Note(ctx context.Context, l *Line, id int, note string) error {
	release, err := s.hold(ctx)
	if err != nil {
		return err
	}
	defer release()
	if _, ok := l.Edition(id); !ok {
		return &NoEditionError{id}
	}
	return s.add(l.key, noted{id, note})
}
