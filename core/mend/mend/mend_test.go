package mend_test

import (
	"context"
	"errors"
	"math"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// TestLikeness holds the examples of Winkler 1990, table 1.
func TestLikeness(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"MARTHA", "MARHTA", 0.961}, {"DIXON", "DICKSONX", 0.813}, {"DWAYNE", "DUANE", 0.840}, {"same", "same", 1}, {"abc", "xyz", 0}, {"", "a", 0}} {
		if got := mend.Likeness(c.a, c.b); math.Abs(got-c.want) > 0.0005 {
			t.Errorf("%s/%s: %.4f, wanted %.3f", c.a, c.b, got, c.want)
		}
	}
}

func hashOf(t *testing.T, p string) string {
	t.Helper()
	sum, err := drive.Fingerprint(context.Background(), drive.System{}, p, nil)
	if err != nil {
		t.Fatal(err)
	}
	return sum
}

func reading(seen map[string]mend.Seen) mend.Reading {
	return mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: func(_, p string) (mend.Seen, bool) { s, ok := seen[p]; return s, ok }}
}

func options() trace.Options { return trace.Options{Formats: all.Formats(), Reach: drive.System{}} }

// write is writing.Repairs, taken apart.
func write(g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) ([]writing.Written, []problem.Problem, error) {
	out, err := writing.Repairs(g, o, keep, journals)
	return out.Written, out.Problems, err
}

// find asks an index of a folder for one wanted file.
func find(t *testing.T, dir string, w mend.Wanted, seen map[string]mend.Seen) []mend.Candidate {
	t.Helper()
	x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{dir}})
	if err != nil {
		t.Fatal(err)
	}
	cs, err := mend.Find(context.Background(), x, []mend.Wanted{w}, reading(seen), nil)
	if err != nil {
		t.Fatal(err)
	}
	return cs[0]
}

// TestCandidates: each case is a folder of files and what is said of them.
// The wanted file was /gone/sound/gull cry.wav with the content "gull".
func TestCandidates(t *testing.T) {
	for _, c := range []struct {
		name   string
		files  map[string]string
		unseen bool
		want   []string // certainty, file, part of a reason or warning
	}{
		{"moved", map[string]string{"a/gull cry.wav": "gull", "a/horn.wav": "horn"}, false, []string{"certain|a/gull cry.wav|same content"}},
		{"renamed", map[string]string{"x.wav": "gull", "y.wav": "horn"}, false, []string{"certain|x.wav|another name"}},
		{"renamed and alike", map[string]string{"gull cry old.wav": "other"}, false, []string{"possible|gull cry old.wav|“old” added after"}},
		{"namesake", map[string]string{"gull cry.wav": "mews"}, false, []string{"possible|gull cry.wav|content differs"}},
		{"namesake of another size", map[string]string{"gull cry.wav": "longer"}, false, []string{"possible|gull cry.wav|6 bytes"}},
		{"two of one content", map[string]string{"a.wav": "gull", "b.wav": "gull"}, false, []string{"likely|a.wav|one of 2", "likely|b.wav|one of 2"}},
		{"two, one of the name", map[string]string{"gull cry.wav": "gull", "b.wav": "gull"}, false, []string{"certain|gull cry.wav|same name", "likely|b.wav|one of 2"}},
		{"two, both of the name", map[string]string{"1/gull cry.wav": "gull", "2/gull cry.wav": "gull"}, false, []string{"likely|1/gull cry.wav|", "likely|2/gull cry.wav|"}},
		{"never seen, same name", map[string]string{"gull cry.wav": "gull"}, true, []string{"possible|gull cry.wav|same name"}},
		{"never seen, two of the name", map[string]string{"1/gull cry.wav": "a", "2/gull cry.wav": "b"}, true, []string{"possible|1/gull cry.wav|", "possible|2/gull cry.wav|"}},
		{"never seen, words parted otherwise", map[string]string{"Gull_Cry.wav": "gull"}, true, []string{"possible|Gull_Cry.wav|other separators"}},
		{"never seen, extension", map[string]string{"gull cry.flac": "gull"}, true, []string{"possible|gull cry.flac|extension .flac"}},
		{"another kind is no candidate", map[string]string{"gull cry.png": "x"}, true, nil},
		{"content first, namesake after", map[string]string{"gull cry.wav": "mews", "n.wav": "gull"}, false, []string{"certain|n.wav|", "possible|gull cry.wav|"}},
	} {
		dir := t.TempDir()
		for f, content := range c.files {
			coretest.Write(t, filepath.Join(dir, f), content)
		}
		ref := filepath.Join(t.TempDir(), "ref")
		coretest.Write(t, ref, "gull")
		w := mend.Wanted{Expected: "/gone/sound/gull cry.wav", Kind: facts.Audio}
		if !c.unseen {
			w.Last = &mend.Seen{Size: 4, SHA256: hashOf(t, ref)}
		}
		cs := find(t, dir, w, nil)
		if len(cs) != len(c.want) {
			t.Errorf("%s: %+v", c.name, cs)
			continue
		}
		for i, want := range c.want {
			part := strings.Split(want, "|")
			said := strings.Join(append(words.AllEvidence(cs[i].For), words.AllEvidence(cs[i].Against)...), "; ")
			if string(cs[i].Certainty) != part[0] || cs[i].Path != filepath.Join(dir, part[1]) || !strings.Contains(said, part[2]) {
				t.Errorf("%s: %d is %s %s (%s), wanted %s", c.name, i, cs[i].Certainty, cs[i].Path, said, want)
			}
		}
	}
}

func TestSequenceCandidates(t *testing.T) {
	dir := t.TempDir()
	seen := map[string]mend.Seen{}
	for i, n := range []string{"0001", "0002", "0003"} {
		p := filepath.Join(dir, "moved", "sun."+n+".png")
		coretest.Write(t, p, "frame "+n)
		coretest.Write(t, filepath.Join(dir, "other", "sun."+n+".png"), "else "+n)
		coretest.Write(t, filepath.Join(dir, "dawn", "sunn."+n+".png"), "x")
		seen["/gone/sun."+n+".png"] = mend.Seen{Size: int64(6 + len(n)), SHA256: hashOf(t, p)}
		_ = i
	}
	w := mend.Wanted{Expected: "/gone/sun.<4>.png", Kind: facts.Sequence, Sequence: &mention.Sequence{Head: "sun.", Tail: ".png", Digits: 4, First: 1, Step: 1, Count: 3}}
	cs := find(t, dir, w, seen)
	if len(cs) != 3 {
		t.Fatalf("%+v", cs)
	}
	if best, ok := mend.Sure(cs); !ok || best.Path != filepath.Join(dir, "moved", "sun.<4>.png") || best.Files != 3 {
		t.Errorf("%+v", cs[0])
	}
	if w.Repair(cs[0]) != (resolve.Repair{From: w.Expected, To: cs[0].Path}) {
		t.Error(w.Repair(cs[0]))
	}
}

func TestSearchStops(t *testing.T) {
	dir := t.TempDir()
	coretest.Write(t, filepath.Join(dir, "a"), "x")
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := index.Build(ctx, index.Options{Reach: drive.System{}, Dirs: []string{dir}}); err == nil {
		t.Error("a stopped search went on")
	}
}

// TestCheck: a file chosen by hand is held against what was last seen.
func TestCheck(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"same.wav": "gull", "size.wav": "horn", "other.wav": "a longer sound"})
	ev := reading(nil)
	sum, err := ev.Hash(context.Background(), filepath.Join(dir, "same.wav"))
	if err != nil {
		t.Fatal(err)
	}
	w := mend.Wanted{Expected: "/gone/gull.wav", Kind: facts.Audio, Last: &mend.Seen{Size: 4, SHA256: sum}}
	for name, c := range map[string]struct {
		certainty mend.Certainty
		warns     string
	}{"same.wav": {mend.Certain, ""}, "size.wav": {mend.Possible, "same size, but content differs"}, "other.wav": {mend.Possible, "14 bytes, last seen with 4"}} {
		got, err := w.Check(context.Background(), filepath.Join(dir, name), ev)
		if err != nil || got.Certainty != c.certainty || !strings.Contains(strings.Join(words.AllEvidence(got.Against), ";"), c.warns) || c.warns == "" && len(got.Against) > 0 {
			t.Errorf("%s: %+v %v", name, got, err)
		}
	}
	if _, err := w.Check(context.Background(), dir, ev); !errors.Is(err, drive.ErrNotRegular) {
		t.Error(err)
	}
}
