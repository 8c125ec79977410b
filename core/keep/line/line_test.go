package line_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
)

// project is a folder with documents of which "a" was given.
type project struct {
	t     testing.TB
	dir   string
	store *line.Store
	now   time.Time
}

func newProject(t testing.TB) *project {
	t.Helper()
	return &project{t, coretest.Lay(t, map[string]string{"a": "one", "in/b": "two"}), line.Open(t.TempDir()), time.Date(2026, 3, 1, 9, 0, 0, 0, time.UTC)}
}

func (p *project) present() line.Present {
	return line.Present{Reach: drive.System{}, Root: p.dir, Given: []string{filepath.Join(p.dir, "a")}, Own: []string{filepath.Join(p.dir, "a"), filepath.Join(p.dir, "in", "b")}, Material: &compare.State{}}
}

func (p *project) write(name, text string) {
	p.t.Helper()
	coretest.Write(p.t, filepath.Join(p.dir, name), text)
}

func (p *project) keep(r line.Request) *line.Kept {
	p.t.Helper()
	p.now = p.now.Add(time.Minute)
	r.Now = p.now
	if r.By == "" {
		r.By = line.Hand
	}
	k, err := p.store.Keep(p.t.Context(), p.present(), r)
	if err != nil {
		p.t.Fatal(err)
	}
	return k
}

func (p *project) restore(id int) (*line.Restored, error) {
	p.now = p.now.Add(time.Minute)
	return p.store.Restore(p.t.Context(), line.Restoring{Present: p.present(), Edition: id, Now: p.now})
}

func (p *project) line() *line.Line {
	p.t.Helper()
	l, err := p.store.Find(p.present().Given, nil)
	if err != nil {
		p.t.Fatal(err)
	}
	return l
}

// said are the documents as they stand.
func said(t testing.TB, dir string) string {
	var list []string
	for _, n := range []string{"a", "in/b"} {
		b, err := os.ReadFile(filepath.Join(dir, n))
		if errors.Is(err, fs.ErrNotExist) {
			b = []byte("gone")
		} else if err != nil {
			t.Fatal(err)
		}
		list = append(list, string(b))
	}
	return strings.Join(list, " ")
}

// TestKeep: a state that stands costs nothing; what goes on from an older edition is a line of its own; a
// restore keeps the present first, and takes nothing away that came later.
func TestKeep(t *testing.T) {
	p := newProject(t)
	first := p.keep(line.Request{Note: "as it came"})
	again := p.keep(line.Request{})
	if again.Edition.ID != 1 || !again.Unchanged || first.Unchanged || first.Edition.From != 0 || first.Edition.Line != "1" {
		t.Errorf("kept %+v, then %+v", first.Edition, again.Edition)
	}
	if n := p.keep(line.Request{Note: "shown to the museum"}); !n.Unchanged || n.Edition.Note != "as it came\nshown to the museum" {
		t.Errorf("its note is %q", n.Edition.Note)
	}
	p.write("a", "three")
	p.keep(line.Request{})
	p.write("a", "four") // not kept
	done, err := p.restore(1)
	if err != nil || said(t, p.dir) != "one two" || done.Kept == nil || done.Kept.By != line.BeforeRestore || done.Kept.ID != 3 || len(done.Written) != 1 || len(done.Same) != 1 {
		t.Fatalf("restored %+v, %v: %s", done, err, said(t, p.dir))
	}
	if l := p.line(); l.Current != 1 || len(l.Editions) != 3 {
		t.Errorf("edition %d of %d is current", l.Current, len(l.Editions))
	}
	p.write("a", "five")
	if k := p.keep(line.Request{}); k.Edition.From != 1 || k.Edition.Line != "2" {
		t.Errorf("what goes on from edition 1 is %+v", k.Edition)
	}
	if k := p.keep(line.Request{Alternative: true}); k.Edition.From != 4 || k.Edition.Line != "3" || k.Unchanged {
		t.Errorf("an alternative is %+v", k.Edition)
	}
	os.RemoveAll(p.dir)
	if _, err := p.restore(3); err != nil || said(t, p.dir) != "four two" {
		t.Errorf("of a folder that is gone %q is back, %v", said(t, p.dir), err)
	}
	into := filepath.Join(t.TempDir(), "copy")
	if _, err := p.store.Restore(t.Context(), line.Restoring{Present: p.present(), Edition: 1, Into: into}); err != nil || said(t, into) != "one two" || said(t, p.dir) != "four two" {
		t.Errorf("the copy says %q, the project %q, %v", said(t, into), said(t, p.dir), err)
	}
	if _, err := p.store.Restore(t.Context(), line.Restoring{Present: p.present(), Edition: 1, Into: into}); !errors.Is(err, fs.ErrExist) {
		t.Errorf("over a copy that is there: %v", err)
	}
	one, err := p.store.Restore(t.Context(), line.Restoring{Present: p.present(), Edition: 1, Only: []string{"a"}, Now: p.now})
	if l := p.line(); err != nil || len(one.Written) != 1 || l.Current != 1 || strings.Contains(l.Editions[0].Note, "from") {
		t.Errorf("one document, which makes the first edition: %+v, %v", one, err)
	}
	p.write("in/b", "six")
	p.write("a", "seven")
	one, err = p.store.Restore(t.Context(), line.Restoring{Present: p.present(), Edition: 1, Only: []string{"a"}, Now: p.now})
	if l := p.line(); err != nil || len(one.Written) != 1 || l.Current != l.Last().ID || l.Last().Note != "a from edition 1" {
		t.Errorf("one document: %+v, %v", one, err)
	}
}

// TestOpenStore: zstd and sha256sum read the store; git tells the same states to be one.
func TestOpenStore(t *testing.T) {
	p := newProject(t)
	p.keep(line.Request{})
	p.write("a", "three")
	p.keep(line.Request{})
	p.write("a", "one")
	if k := p.keep(line.Request{}); !k.Unchanged || k.Edition.ID != 1 {
		t.Errorf("the first state kept again is %+v", k.Edition)
	}
	states, _ := filepath.Glob(filepath.Join(p.store.Dir(), "states", "*", "*.zst"))
	for _, at := range states {
		out, err := exec.Command("zstd", "-dcq", at).Output()
		if errors.Is(err, exec.ErrNotFound) {
			t.Skip("zstd is not installed")
		}
		sum := sha256.Sum256(out)
		if err != nil || hex.EncodeToString(sum[:])+".zst" != filepath.Base(at) {
			t.Errorf("%s holds other bytes, %v", at, err)
		}
	}
	for _, trees := range [][2]string{{"one", "one"}, {"one", "three"}} {
		var ids [2]string
		for i, text := range trees {
			cmd := exec.Command("git", "hash-object", "--stdin")
			cmd.Stdin = strings.NewReader(text)
			out, err := cmd.Output()
			if err != nil {
				t.Skip("git is not installed")
			}
			ids[i] = string(out)
		}
		q := newProject(t)
		q.write("a", trees[0])
		q.keep(line.Request{})
		q.write("a", trees[1])
		if k := q.keep(line.Request{}); k.Unchanged != (ids[0] == ids[1]) {
			t.Errorf("%v: unchanged %v, git tells %v", trees, k.Unchanged, ids)
		}
	}
}

// TestDamagedStore: whatever bit of a store is another, a restore brings exact bytes or is refused, and nothing
// in the project changes; the editions that it touches are told, and keeping heals what can be healed.
func TestDamagedStore(t *testing.T) {
	p := newProject(t)
	p.keep(line.Request{})
	p.write("a", "three")
	p.keep(line.Request{})
	var files []string
	err := filepath.WalkDir(p.store.Dir(), func(at string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() && e.Name() != "lock" {
			files = append(files, at)
		}
		return err
	})
	if err != nil || len(files) < 4 {
		t.Fatal(files, err)
	}
	random := rand.New(rand.NewPCG(7, 7))
	refused := 0
	for _, at := range files {
		was, err := os.ReadFile(at)
		if err != nil {
			t.Fatal(err)
		}
		for range 60 {
			bad := bytes.Clone(was)
			switch random.IntN(3) {
			case 0:
				bad = bad[:random.IntN(len(bad))]
			default:
				bad[random.IntN(len(bad))] ^= 1 << random.IntN(8)
			}
			os.WriteFile(at, bad, 0o644)
			into := filepath.Join(t.TempDir(), "x")
			_, err := p.store.Restore(t.Context(), line.Restoring{Present: p.present(), Edition: 1, Into: into})
			if err != nil {
				refused++
			} else if said(t, into) != "one two" {
				t.Fatalf("of a damaged %s came %q", filepath.Base(at), said(t, into))
			}
		}
		os.WriteFile(at, was, 0o644)
	}
	if refused < 60 {
		t.Errorf("%d restores were refused", refused)
	}
	two := filepath.Join(p.store.Dir(), "states")
	sum := sha256.Sum256([]byte("two"))
	name := hex.EncodeToString(sum[:])
	os.WriteFile(filepath.Join(two, name[:2], name+".zst"), []byte("spoiled"), 0o644)
	bad, err := p.store.Verify(t.Context())
	if err != nil || len(bad) != 1 || !slices.Equal(bad[0].Editions, []int{1, 2}) {
		t.Errorf("verified: %+v, %v", bad, err)
	}
	p.write("a", "another")
	p.keep(line.Request{}) // it has "two" at hand
	if bad, err := p.store.Verify(t.Context()); err != nil || len(bad) != 0 {
		t.Errorf("after keeping: %+v, %v", bad, err)
	}
}

// TestCutLine: a line whose writing was ended in the middle is none, and the next stands behind the last whole one.
func TestCutLine(t *testing.T) {
	p := newProject(t)
	p.keep(line.Request{})
	list, _ := filepath.Glob(filepath.Join(p.store.Dir(), "lines", "*.jsonl"))
	f, err := os.OpenFile(list[0], os.O_APPEND|os.O_WRONLY, 0)
	if err != nil {
		t.Fatal(err)
	}
	f.WriteString(`{"id":2,"from":1,"li`)
	f.Close()
	if l := p.line(); l.Damaged != 0 || len(l.Editions) != 1 {
		t.Errorf("%d editions, %d damaged", len(l.Editions), l.Damaged)
	}
	p.write("a", "three")
	if k := p.keep(line.Request{}); k.Edition.ID != 2 {
		t.Errorf("the next is %d", k.Edition.ID)
	}
	if l := p.line(); l.Damaged != 0 || len(l.Editions) != 2 {
		t.Errorf("then %d editions, %d damaged", len(l.Editions), l.Damaged)
	}
}

// TestSequences: after any sequence of keeping, alternatives, restoring, thinning and clocks that jump, every
// edition with a note, and every other that is there, is restored byte for byte; exactly one is current.
func TestSequences(t *testing.T) {
	n := 100
	if os.Getenv("FAULTS") != "" {
		n = 1000
	}
	for shard := range 4 {
		t.Run(fmt.Sprint(shard), func(t *testing.T) {
			t.Parallel()
			for seed := shard; seed < n; seed += 4 {
				sequence(t, seed)
			}
		})
	}
}

func sequence(t *testing.T, seed int) {
	random := rand.New(rand.NewPCG(uint64(seed), 25))
	p := newProject(t)
	told := map[int]string{} // edition → what it says
	noted := map[int]bool{}
	for range 12 {
		switch random.IntN(6) {
		case 0, 1:
			p.write([]string{"a", "in/b"}[random.IntN(2)], fmt.Sprint(random.IntN(5)))
		case 2, 3:
			p.now = p.now.Add(time.Duration(random.IntN(90*24)-24) * time.Hour)
			r := line.Request{By: []line.By{line.Interval, line.Hand}[random.IntN(2)], Alternative: random.IntN(4) == 0}
			if random.IntN(3) == 0 {
				r.Note = "remember"
			}
			k := p.keep(r)
			told[k.Edition.ID] = said(t, p.dir)
			noted[k.Edition.ID] = noted[k.Edition.ID] || r.Note != ""
		case 4:
			if len(told) > 0 {
				list := p.line().Editions
				e := list[random.IntN(len(list))]
				before := said(t, p.dir)
				done, err := p.restore(e.ID)
				if err != nil {
					t.Fatal(seed, err)
				}
				told[done.Kept.ID] = before
			}
		case 5:
			if len(told) > 0 {
				if _, err := p.store.Thin(t.Context(), p.present().Given, p.present(), line.UsualAges, p.now); err != nil {
					t.Fatal(seed, err)
				}
			}
		}
	}
	if len(told) == 0 {
		return
	}
	l := p.line()
	if _, ok := l.Edition(l.Current); !ok {
		t.Fatalf("%d: edition %d is current and not there", seed, l.Current)
	}
	for id := range noted {
		if _, ok := l.Edition(id); noted[id] && !ok {
			t.Fatalf("%d: edition %d had a note and is gone", seed, id)
		}
	}
	for _, e := range l.Editions {
		into := filepath.Join(t.TempDir(), "x")
		if _, err := p.store.Restore(context.Background(), line.Restoring{Present: p.present(), Edition: e.ID, Into: into}); err != nil || said(t, into) != told[e.ID] {
			t.Fatalf("%d: edition %d says %q, was %q, %v", seed, e.ID, said(t, into), told[e.ID], err)
		}
	}
}

// TestThin: all of a day, one an hour of a week, one a day of a year stay of what was made by itself.
func TestThin(t *testing.T) {
	p := newProject(t)
	start := p.now
	for i := range 400 {
		p.write("a", fmt.Sprint(i))
		p.now = start.Add(time.Duration(i) * 20 * time.Minute)
		p.keep(line.Request{By: line.Interval})
	}
	end := start.Add(133 * time.Hour)
	if _, err := p.store.Thin(t.Context(), p.present().Given, p.present(), line.Ages{All: 24 * time.Hour, Hourly: 72 * time.Hour, Daily: 365 * 24 * time.Hour}, end); err != nil {
		t.Fatal(err)
	}
	var all, hours, days int
	for _, e := range p.line().Editions {
		switch age := end.Sub(e.At); {
		case age < 24*time.Hour:
			all++
		case age < 72*time.Hour:
			hours++
		default:
			days++
		}
	}
	if all < 72 || all > 73 || hours < 48 || hours > 49 || days < 3 || days > 4 {
		t.Errorf("%d, %d, %d stay", all, hours, days)
	}
}

// TestTwoKeep: two at once keep one after the other, and neither loses anything.
func TestTwoKeep(t *testing.T) {
	p := newProject(t)
	done := make(chan error)
	for w := range 2 {
		go func() {
			other := line.Open(p.store.Dir())
			var err error
			for i := range 20 {
				dir := coretest.Lay(t, map[string]string{"a": fmt.Sprint(w, i)})
				_, kerr := other.Keep(t.Context(), line.Present{Reach: drive.System{}, Root: dir, Given: []string{filepath.Join(p.dir, "a")}, Own: []string{filepath.Join(dir, "a")}}, line.Request{By: line.Hand, Now: time.Now()})
				err = errors.Join(err, kerr)
			}
			done <- err
		}()
	}
	if err := errors.Join(<-done, <-done); err != nil {
		t.Fatal(err)
	}
	ids := map[int]bool{}
	for _, e := range p.line().Editions {
		ids[e.ID] = true
	}
	if len(ids) != 40 {
		t.Errorf("%d editions", len(ids))
	}
}
