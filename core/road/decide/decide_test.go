package decide_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// world is a project on a drive that can be moved about.
type world struct {
	t    *testing.T
	dir  string // where the drive is plugged in
	n    int
	log  decide.Log
	next int64
}

const takes = 6

func newWorld(t *testing.T) *world {
	w := &world{t: t, dir: filepath.Join(t.TempDir(), "mnt0")}
	doc := "#EXTM3U\n"
	for i := range takes {
		doc += fmt.Sprintf("sound/take %d.wav\n", i)
		name := fmt.Sprintf("sound/take %d.wav", i)
		if i%2 == 1 { // the odd ones are lost
			name = fmt.Sprintf("attic/found %d.wav", i)
		}
		coretest.Write(t, filepath.Join(w.dir, "film", name), fmt.Sprint("take ", i))
	}
	coretest.Write(t, filepath.Join(w.dir, "film", "cut.m3u"), doc)
	return w
}

func (w *world) drives() []drive.Drive { return []drive.Drive{{ID: "d1", Name: "Shuttle", Dir: w.dir}} }

func (w *world) trace() *graph.Graph {
	w.t.Helper()
	d := w.drives()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{Drives: d}, Drives: d, Repairs: w.log.Repairs(d)}, filepath.Join(w.dir, "film", "cut.m3u"))
	if err != nil {
		w.t.Fatal(err)
	}
	return g
}

func (w *world) decide(list ...decide.Decision) {
	w.next++
	for _, d := range list {
		d.ID, d.Batch = int64(len(w.log)+1), w.next
		w.log = append(w.log, d)
	}
}

func (w *world) undone(ids []int64, undone bool) {
	for i := range w.log {
		if slices.Contains(ids, w.log[i].ID) {
			w.log[i].Undone = undone
		}
	}
}

// TestLog is a property over decisions: after any sequence of repairs, wishes,
// undos, redos, retraces and drives that come back elsewhere, every decision
// that holds is still in force for its file, or Lost says that it lost its
// ground.
func TestLog(t *testing.T) {
	for seed := range uint64(60) {
		rng := rand.New(rand.NewPCG(seed, 7))
		w := newWorld(t)
		at := func(p string) drive.Path { return drive.Path{Drive: "d1", Path: "/film/" + p} }
		var story []string
		for range 14 {
			i := rng.IntN(takes)
			name := fmt.Sprintf("new %d.wav", rng.IntN(100))
			g := w.trace()
			ref := &g.References[i]
			switch rng.IntN(8) {
			case 0, 1:
				w.decide(decide.Decision{Kind: decide.Mend, From: at(fmt.Sprintf("sound/take %d.wav", i|1)), To: at(fmt.Sprintf("attic/found %d.wav", i|1))})
				story = append(story, fmt.Sprint("mend ", i|1))
			case 2, 3:
				d := decide.Decision{Kind: decide.Wish, Name: &name}
				d.File, d.By = decide.On(g, ref.File, w.drives())
				w.decide(d)
				story = append(story, fmt.Sprint("wish ", i, " ", name))
			case 4:
				d := decide.Decision{Kind: []decide.Kind{decide.Leave, decide.Carry}[rng.IntN(2)]}
				d.File, d.By = decide.On(g, ref.File, w.drives())
				w.decide(d)
				story = append(story, fmt.Sprint(d.Kind, " ", i))
			case 5:
				w.undone(w.log.Undo(), true)
				story = append(story, "undo")
			case 6:
				w.undone(w.log.Redo(), false)
				story = append(story, "redo")
			case 7:
				w.n++
				to := filepath.Join(filepath.Dir(w.dir), fmt.Sprint("mnt", w.n))
				if err := os.Rename(w.dir, to); err != nil {
					t.Fatal(err)
				}
				w.dir = to
				story = append(story, "moved")
			}
			w.holds(seed, story)
		}
	}
}

// holds checks that every decision in force does what it says.
func (w *world) holds(seed uint64, story []string) {
	w.t.Helper()
	g, drives := w.trace(), w.drives()
	lost := map[int64]bool{}
	for _, d := range w.log.Lost(g, drives) {
		lost[d.ID] = true
	}
	byHand := w.log.Of(g, drives)
	last := map[string]*decide.Decision{} // what was said last of a file
	for i := range w.log {
		d := &w.log[i]
		if d.Undone || lost[d.ID] {
			continue
		}
		switch d.Kind {
		case decide.Mend:
			from, _ := drive.Abs(drives, d.From)
			ok := slices.ContainsFunc(g.References, func(r graph.Reference) bool { return r.Expected == from && r.Repaired && r.State.Found() })
			if !ok {
				w.t.Fatalf("seed %d: %v: the repair of %s holds no more, and nobody says so", seed, story, from)
			}
		default:
			what := "stays"
			if d.Kind == decide.Wish {
				what = "wish"
			}
			last[d.By.Written+what] = d
		}
	}
	for _, d := range last {
		i := slices.IndexFunc(g.References, func(r graph.Reference) bool { return r.Written == d.By.Written })
		h := byHand[g.References[i].File]
		ok := d.Kind == decide.Wish && h.Name != nil && *h.Name == *d.Name || d.Kind == decide.Leave && h.Stays || d.Kind == decide.Carry && h.Travels
		if !ok {
			w.t.Fatalf("seed %d: %v: %s of %s is %+v", seed, story, d.Kind, d.By.Written, h)
		}
	}
}

// TestLost: a decision whose file no document names any more is told, and comes
// back with the file.
func TestLost(t *testing.T) {
	w := newWorld(t)
	g := w.trace()
	name := "x.wav"
	d := decide.Decision{Kind: decide.Wish, Name: &name}
	d.File, d.By = decide.On(g, g.References[0].File, w.drives())
	w.decide(d)
	if lost := w.log.Lost(g, w.drives()); len(lost) != 0 {
		t.Errorf("lost at once: %+v", lost)
	}
	doc := filepath.Join(w.dir, "film", "cut.m3u")
	was, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, doc, "#EXTM3U\nsound/take 2.wav\n")
	if lost := w.log.Lost(w.trace(), w.drives()); len(lost) != 1 {
		t.Errorf("nobody says that it is lost: %+v", lost)
	}
	coretest.Write(t, doc, string(was))
	if lost := w.log.Lost(w.trace(), w.drives()); len(lost) != 0 {
		t.Errorf("it came back and is lost: %+v", lost)
	}
}
