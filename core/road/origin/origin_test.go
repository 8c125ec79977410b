package origin_test

import (
	"context"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

func judged(t *testing.T, dir, doc string, o origin.Options) (*graph.Graph, *origin.Judged) {
	t.Helper()
	o.Drives = append(o.Drives, drive.Drive{ID: "d", Name: "Bench", Dir: dir})
	o.Reach = drive.System{Drives: o.Drives}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: o.Reach, Drives: o.Drives}, filepath.Join(dir, doc))
	if err != nil {
		t.Fatal(err)
	}
	return g, origin.Judge(g, o)
}

func list(names ...string) string {
	text := "#EXTM3U\n"
	for _, n := range names {
		text += n + "\n"
	}
	return text
}

// TestOrigins: whose each file is, by the folder it lies in.
func TestOrigins(t *testing.T) {
	names := map[string]graph.Origin{
		"sound/own.wav": graph.OfProject, "../downloads/got.wav": graph.OfDump, "../New Folder/deep/x.wav": graph.OfDump, "../other/cut/theirs.wav": graph.OfOtherProject,
		"../library/hit.wav": graph.OfLibrary, "../vault/rev-3/p.wav": graph.OfStore, "../loose/l.wav": graph.Loose, "none.wav": graph.Nowhere,
	}
	files := map[string]string{"other/their.otio": `{"OTIO_SCHEMA":"Timeline.1"}`}
	var all []string
	for n, o := range names {
		all = append(all, n)
		if o != graph.Nowhere {
			files[filepath.Join("film", n)] = n
		}
	}
	slices.Sort(all)
	files["film/cut.m3u"] = list(all...)
	dir := coretest.Lay(t, files)
	g, j := judged(t, dir, "film/cut.m3u", origin.Options{Libraries: []string{filepath.Join(dir, "library")}, Stores: []string{filepath.Join(dir, "vault")}})
	for i := range g.References {
		r := &g.References[i]
		if got := j.File(g, r.File).Origin; got != names[r.Written] {
			t.Errorf("%s is of %q, wanted %q", r.Written, got, names[r.Written])
		}
	}
	codes := map[origin.WarningCode]int{}
	for _, w := range j.Warnings {
		codes[w.Code] = len(w.Paths)
	}
	if codes[origin.DumpingGround] != 2 || codes[origin.Scattered] != 4 {
		t.Errorf("%+v", j.Warnings)
	}
	kinds := map[origin.PlaceKind]int{}
	files2 := 0
	for _, p := range j.Places {
		kinds[p.Kind]++
		files2 += p.Files
	}
	if kinds[origin.OwnPlace] != 1 || kinds[origin.DumpPlace] != 2 || kinds[origin.ProjectPlace] != 1 || kinds[origin.LibraryPlace] == 0 || kinds[origin.MissingPlace] != 1 || files2 != len(names) {
		t.Errorf("%+v", j.Places)
	}
}

// TestMoved: an old root that many absolute names share is told once, when what
// they go on with is there below the project's own.
func TestMoved(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/cut.m3u":     list("/old/disk/film/sound/a.wav", "/old/disk/film/sound/b.wav", "/old/disk/film/none.wav", "/old/disk/film/stills/c.png", "sound/a.wav", "/elsewhere/x.wav"),
		"film/sound/a.wav": "a", "film/sound/b.wav": "b", "film/stills/c.png": "c",
	})
	_, j := judged(t, dir, "film/cut.m3u", origin.Options{})
	want := origin.Move{From: "/old/disk/film", To: filepath.Join(dir, "film"), References: 4, Present: 3}
	if len(j.Moved) != 1 || j.Moved[0] != want {
		t.Errorf("%+v", j.Moved)
	}
	// One alone may be chance.
	dir = coretest.Lay(t, map[string]string{"film/cut.m3u": list("/old/sound/a.wav", "/far/b.wav"), "film/sound/a.wav": "a"})
	if _, j := judged(t, dir, "film/cut.m3u", origin.Options{}); len(j.Moved) != 0 {
		t.Errorf("%+v", j.Moved)
	}
}

// TestPoints: where new material goes is flagged by what a copy of the project
// would do there.
func TestPoints(t *testing.T) {
	track := func(name, to string) string {
		return `{"OTIO_SCHEMA":"Track.1","name":"` + name + `","metadata":{"bound_crate.record_to":"` + to + `"},"children":[]}`
	}
	usb := t.TempDir()
	dir := coretest.Lay(t, map[string]string{
		"film/cut.otio": `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[` +
			track("root", ".") + "," + track("inner", "sound") + "," + track("gone", "nowhere") + "," + track("loose", "../loose") + "," + track("theirs", "../other/takes") + "," + track("usb", usb) + `]}}`,
		"film/sound/a.wav": "a", "loose/x.wav": "x", "other/their.otio": `{"OTIO_SCHEMA":"Timeline.1"}`, "other/takes/t.wav": "t",
	})
	g, j := judged(t, dir, "film/cut.otio", origin.Options{Drives: []drive.Drive{{ID: "usb", Name: "Shuttle", Dir: usb}}})
	want := map[string][]graph.Flag{
		"Track root": nil, "Track inner": {graph.InnerFolder}, "Track gone": {graph.InnerFolder, graph.Absent}, "Track loose": {graph.Outside},
		"Track theirs": {graph.Outside, graph.OtherProject}, "Track usb": {graph.Outside, graph.OtherDrive},
	}
	if len(g.WritePoints) != len(want) {
		t.Fatalf("%+v", g.WritePoints)
	}
	for i, w := range g.WritePoints {
		if !slices.Equal(j.FlagsOf(i), want[w.Owner]) {
			t.Errorf("%s: %q, wanted %q", w.Owner, j.FlagsOf(i), want[w.Owner])
		}
	}
	if !tally.Of(g, j, nil).NeedsPerson() {
		t.Error("a project that writes elsewhere is called well")
	}
}

// TestCompanions: a data folder beside a document is told with the rule that
// finds it.
func TestCompanions(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"cut.m3u": list("a.wav"), "a.wav": "a", "cut_data/peaks.bin": "p", "other_data/x": "x"})
	_, j := judged(t, dir, "cut.m3u", origin.Options{})
	want := origin.Companion{Of: filepath.Join(dir, "cut.m3u"), Path: filepath.Join(dir, "cut_data"), Rule: "NAME_data", State: graph.Here}
	if len(j.Companions) != 1 || j.Companions[0] != want {
		t.Errorf("%+v", j.Companions)
	}
}

// TestUnknown: a document not recognised is a warning, and one
// that was guessed at another.
func TestUnknown(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"a.strange": "nothing here leads anywhere\n", "b.strange": "load sound/a.wav at 10\n", "sound/a.wav": "a"})
	for doc, want := range map[string]origin.WarningCode{"a.strange": origin.NothingRecognised, "b.strange": origin.Guessed} {
		g, j := judged(t, dir, doc, origin.Options{})
		if len(j.Warnings) != 1 || j.Warnings[0].Code != want || j.Warnings[0].Paths[0] != filepath.Join(dir, doc) {
			t.Errorf("%s: %+v", doc, j.Warnings)
		}
		if tally.Of(g, j, nil).NeedsPerson() != (want == origin.NothingRecognised) {
			t.Errorf("%s needs a person: %v", doc, tally.Of(g, j, nil).NeedsPerson())
		}
	}
}
