package mend_test

import (
	"context"
	"path/filepath"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/drive"
	"boundcrate/core/format/all"
	"boundcrate/core/mend"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
)

// TestSuggest: where the index knows the names comes first, then where repairs led and
// where siblings are; whole drives come last.
func TestSuggest(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/all.m3u": "wood/a.wav\nwood/b.wav\nwood/c.wav\n../shelf/d.wav\nnone.wav\n", "shelf/d.wav": "d", "attic/1/a.wav": "a", "attic/2/b.wav": "b", "attic/2/c.wav": "c", "tray/x.wav": "x",
	})
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "film", "all.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	drives := []drive.Drive{{ID: "1", Name: "All", Dir: dir}}
	got := mend.Suggest(g, []resolve.Repair{{From: "/x/y.wav", To: filepath.Join(dir, "tray", "x.wav")}}, build(t, dir, true), drive.System{}, drives)
	want := []mend.Suggestion{
		{Path: "attic", Why: mend.Named, N: 3}, {Path: "attic/2", Why: mend.Named, N: 2}, {Path: "tray", Why: mend.Led, N: 1}, {Path: "shelf", Why: mend.Siblings, N: 1},
		{Path: "film", Why: mend.Root}, {Path: ".", Why: mend.Above},
	}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i, w := range want {
		if w.Path = filepath.Join(dir, w.Path); got[i] != w {
			t.Errorf("%d is %+v, wanted %+v", i, got[i], w)
		}
	}
}
