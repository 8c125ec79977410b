package origin_test

import (
	"errors"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
)

// TestRebuildable: what a program makes again is counted apart, by its name or a
// folder's, below the project's folder; missing, it needs nobody.
func TestRebuildable(t *testing.T) {
	h := origin.DefaultHabits
	for file, want := range map[string]bool{
		"/w/film/Peaks/gull.dat": true, "/w/film/cut cache/deep/x.bin": true, "/w/film/gull_proxy.mov": true, "/w/film/a.peak": true,
		"/w/film/sound/gull.wav": false, "/w/film/peaks": false, "/cache/film/x.wav": false, "/w/film/proxy notes.txt": false,
	} {
		root := "/w/film"
		if strings.HasPrefix(file, "/cache") {
			root = "/cache/film" // what lies above the project tells nothing
		}
		if got := h.Rebuilt(root)(file); got != want {
			t.Errorf("%s: %v", file, got)
		}
	}
	dir := coretest.Lay(t, map[string]string{"film/list.m3u": "#EXTM3U\na.wav\npeaks/a.dat\nproxies/b.mov\nproxies/c.mov\npreviews/d.wav\n", "film/a.wav": "a", "film/proxies/b.mov": "b", "film/b.mov": "b whole", "film/proxies/c.mov": "the only one"})
	g, j := judged(t, dir, "film/list.m3u", origin.Options{})
	classes := map[string]graph.Class{}
	for i := range g.Files {
		classes[filepath.Base(g.Files[i].Path)] = j.File(g, graph.FileID(i)).Class
	}
	if classes["a.wav"] != graph.Material || classes["a.dat"] != graph.Rebuildable || classes["b.mov"] != graph.Rebuildable || classes["c.mov"] != graph.Material || classes["d.wav"] != graph.Material {
		t.Errorf("%v", classes)
	}
	if n := tally.Of(g, j, nil); n.Pending != 1 || n.Rebuild != 1 || len(j.Warnings) > 0 {
		t.Errorf("a lost peak file is made again, the only file of an item is not: %+v", n)
	}
}

// TestBeside: data folders and sidecars stand with their file, once each; one
// that stayed behind where the project was is told with where it is.
func TestBeside(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"new/sound/gull.wav": "g", "new/sound/horn.wav": "h",
		"new/cut.csv": "path\n", "new/sound/gull.xmp": "x", "new/sound/gull.wav.md5": "m", "new/sound/other.xmp": "no file's",
		"old/cut_data/state": "s", "old/readme.txt": "r",
	})
	doc := filepath.Join(dir, "new/cut.m3u")
	coretest.Write(t, doc, strings.ReplaceAll("#EXTM3U\nsound/gull.wav\nOLD/sound/horn.wav\nOLD/sound/gull.wav\n", "OLD", filepath.Join(dir, "old")))
	_, j := judged(t, dir, "new/cut.m3u", origin.Options{})
	var got []string
	for _, c := range j.Companions {
		rel := func(p string) string { r, _ := filepath.Rel(dir, p); return r }
		line := rel(c.Of) + ": " + rel(c.Path) + " " + string(c.State) + " by " + c.Rule
		if c.Found != "" {
			line += ", at " + rel(c.Found)
		}
		got = append(got, line)
	}
	slices.Sort(got)
	want := []string{
		"new/cut.m3u: new/cut.csv here by NAME.csv", "new/cut.m3u: new/cut_data apart by NAME_data, at old/cut_data",
		"new/sound/gull.wav: new/sound/gull.wav.md5 here by FULL.md5", "new/sound/gull.wav: new/sound/gull.xmp here by NAME.xmp",
	}
	if !slices.Equal(got, want) {
		t.Errorf("%q\nwant %q", got, want)
	}
}

// TestHabits: one's own take the place of those shipped, list by list; a line
// that cannot be followed is named.
func TestHabits(t *testing.T) {
	h, err := origin.ParseHabits([]byte("rebuildable:\n  - made again/\n"))
	if err != nil || !slices.Equal(h.Rebuildable, []string{"made again/"}) || !slices.Equal(h.Companions, origin.DefaultHabits.Companions) {
		t.Errorf("%+v %v", h, err)
	}
	for text, line := range map[string]int{"rebuild:\n  - x\n": 1, "dumps: x\n": 1, "dumps:\n  - ok/\n  - '['\n": 3, "companions:\n  - {a: b}\n": 2, "- x\n": 1, "dumps:\n  - a/b\n": 2} {
		_, err := origin.ParseHabits([]byte(text))
		var bad *origin.HabitsError
		if !errors.As(err, &bad) || bad.Line != line {
			t.Errorf("%q: %v", text, err)
		}
	}
	if back, err := origin.ParseHabits(origin.Shipped()); err != nil || len(back.Dumps) == 0 {
		t.Errorf("what ships cannot be read: %v", err)
	}
}
