package sift_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

var bg = context.Background()

func traced(t *testing.T, dir, doc string) *graph.Graph {
	t.Helper()
	g, err := trace.Run(bg, trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, doc))
	if err != nil {
		t.Fatal(err)
	}
	return g
}

const table = "path,use\na.wav,\na.wav,dormant\n./a.wav,listed\nold.wav,dormant\nold.wav,listed\nspare.wav,listed\ngone.wav,\nlist.csv,\n"

var files = map[string]string{"list.csv": table, "a.wav": "aaaa", "old.wav": "oo", "spare.wav": "s"}

// TestFiles: every file once, by whatever name, as lively as its liveliest
// mention; the document that was asked for is not weighed.
func TestFiles(t *testing.T) {
	g := traced(t, coretest.Lay(t, files), "list.csv")
	var got []string
	for i := range g.Files {
		if f := &g.Files[i]; sift.Weighable(g, graph.FileID(i)) {
			got = append(got, fmt.Sprintf("%s %s %d %v", filepath.Base(f.Path), f.Use, f.Size, f.Carried))
		}
	}
	if want := []string{"a.wav used 4 true", "old.wav dormant 2 true", "spare.wav listed 1 true", "gone.wav used 0 false"}; !slices.Equal(got, want) {
		t.Errorf("%q, wanted %q", got, want)
	}
}

// TestWeigh: the sums of all lines are the sums of all that was found, whatever
// stays.
func TestWeigh(t *testing.T) {
	g := traced(t, coretest.Lay(t, files), "list.csv")
	for _, c := range []sift.Choice{{}, {Dormant: true}, {Dormant: true, Listed: true}, {Kinds: []facts.Kind{facts.Audio}}} {
		n, bytes := 0, int64(0)
		lines := sift.Weigh(g, nil, sift.Decide(sift.Of{Graph: g}, c))
		for i, l := range lines {
			n, bytes = n+l.Files, bytes+l.Bytes
			if i > 0 && l.Bytes > lines[i-1].Bytes {
				t.Errorf("%+v stands behind %+v", l, lines[i-1])
			}
		}
		if n != 3 || bytes != 7 || len(lines) != 3 {
			t.Errorf("%d files, %d bytes in %+v", n, bytes, lines)
		}
	}
}

// TestDecide: only what no livelier mention needs stays; a choice by hand wins;
// what only things that stay need stays too, to the end.
func TestDecide(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"list.csv": table + "old.m3u,dormant\n", "a.wav": "aaaa", "old.wav": "oo", "spare.wav": "s", "old.m3u": "deep.m3u\na.wav\n", "deep.m3u": "leaf.wav\n", "leaf.wav": "l",
	})
	g := traced(t, dir, "list.csv")
	id := func(name string) graph.FileID {
		for i := range g.Files {
			if filepath.Base(g.Files[i].Path) == name {
				return graph.FileID(i)
			}
		}
		t.Fatal(name)
		return 0
	}
	for _, c := range []struct {
		choice sift.Choice
		hand   map[graph.FileID]decide.ByHand
		want   []string
		passes []int
	}{
		{sift.Choice{}, nil, nil, []int{0}},
		{sift.Choice{Listed: true}, nil, []string{"spare.wav listed"}, []int{1, 0}},
		{sift.Choice{Drop: []string{"old.m3u"}}, nil, []string{"deep.m3u freed", "leaf.wav freed", "old.m3u chosen"}, []int{1, 1, 1, 0}},
		{sift.Choice{Drop: []string{"**/*.m3u"}, Keep: []string{"leaf.wav"}}, nil, []string{"deep.m3u chosen", "old.m3u chosen"}, []int{2, 0}},
		{sift.Choice{Listed: true}, map[graph.FileID]decide.ByHand{id("spare.wav"): {Travels: true}, id("a.wav"): {Stays: true}}, []string{"a.wav chosen"}, []int{1, 0}},
		{sift.Choice{Kinds: []facts.Kind{facts.Audio}}, nil, []string{"a.wav kind", "gone.wav kind", "leaf.wav kind", "old.wav kind", "spare.wav kind"}, []int{5, 0}},
	} {
		s := sift.Decide(sift.Of{Graph: g, ByHand: c.hand}, c.choice)
		var got []string
		for f, why := range s.Stays {
			got = append(got, filepath.Base(g.Files[f].Path)+" "+string(why))
		}
		slices.Sort(got)
		if !slices.Equal(got, c.want) || !slices.Equal(s.Passes, c.passes) {
			t.Errorf("%+v leaves %q in passes %v, wanted %q in %v", c.choice, got, s.Passes, c.want, c.passes)
		}
	}
}

// TestMatch: ** is any number of folders.
func TestMatch(t *testing.T) {
	for _, c := range []struct {
		glob, path string
		want       bool
	}{{"*.wav", "a.wav", true}, {"*.wav", "s/a.wav", false}, {"**/old/*", "old/a", true}, {"**/old/*", "x/y/old/a", true}, {"**/old/*", "old/a/b", false}, {"a/**", "a/b/c", true}, {"a/**", "b", false}, {"**", "x", true}} {
		if got := sift.Match(c.glob, c.path); got != c.want {
			t.Errorf("%s matches %s: %v", c.glob, c.path, got)
		}
	}
}

// TestTwins: duplicates by content, hard links being one file; namesakes of
// other content; strays, the newest first.
func TestTwins(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"list.csv": "path\na/wave.wav\nb/wave.wav\nc/WAVE.wav\nd.wav\nlink.wav\n", "a/wave.wav": "same", "b/wave.wav": "same", "c/WAVE.wav": "else", "d.wav": "same",
		"old take.wav": "stray", "new take.wav": "stray too", ".hidden": "x",
	})
	if err := os.Link(filepath.Join(dir, "d.wav"), filepath.Join(dir, "link.wav")); err != nil {
		t.Skip("no hard links here:", err)
	}
	if err := os.Chtimes(filepath.Join(dir, "old take.wav"), time.Time{}, time.Now().Add(-time.Hour)); err != nil {
		t.Fatal(err)
	}
	g := traced(t, dir, "list.csv")
	dups, err := sift.Duplicates(bg, g, drive.System{}, mend.Once(drive.System{}, nil))
	if err != nil || len(dups) != 1 || len(dups[0].Paths) != 3 || dups[0].Bytes != 4 {
		t.Errorf("%+v %v", dups, err)
	}
	if ns := sift.Namesakes(g, dups); len(ns) != 1 || len(ns[0].Paths) != 3 {
		t.Errorf("%+v", ns)
	}
	x, err := index.Build(bg, index.Options{Reach: drive.System{}, Dirs: []string{dir}})
	if err != nil {
		t.Fatal(err)
	}
	l, err := sift.LooseOf(g, &origin.Judged{}, origin.DefaultHabits, drive.System{}, x, edition.Keeper{})
	if err != nil {
		t.Fatal(err)
	}
	if strays := l.Strays(); len(strays) != 2 || filepath.Base(strays[0].Path) != "new take.wav" || strays[1].Bytes != 5 {
		t.Errorf("%+v", strays)
	}
}
