package mend_test

import (
	"context"
	"path/filepath"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// TestSuggest: where the index knows the names comes first, then where repairs led and
// where siblings are; whole drives come last.
func TestSuggest(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/all.m3u": "wood/a.wav\nwood/b.wav\nwood/c.wav\n../shelf/d.wav\nnone.wav\n", "shelf/d.wav": "d", "attic/1/a.wav": "a", "attic/2/b.wav": "b", "attic/2/c.wav": "c", "tray/x.wav": "x", "tin/e.wav": "e",
	})
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "film", "all.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	drives := []drive.Drive{{ID: "1", Name: "All", Dir: dir}}
	got := mend.Suggest(g, drive.System{}, mend.Known{
		Repairs: []resolve.Repair{{From: "/x/y.wav", To: filepath.Join(dir, "tray", "x.wav")}}, Index: build(t, dir, true), Drives: drives,
		Told: []string{filepath.Join(dir, "tin", "e.wav")}, Named: func(p string) bool { return p == filepath.Join(dir, "attic", "1", "a.wav") },
	})
	want := []mend.Suggestion{
		{Path: "tin", Why: mend.Told, N: 1}, {Path: "attic/1", Why: mend.Theirs, N: 1},
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

// TestElsewhere: what another project mended is offered for the same missing file, a
// folder at a time; a file that what is used contradicts is doubtful, and one that is
// not there is not offered.
func TestElsewhere(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/all.m3u": "wood/a.wav\nwood/b.wav\nwood/c.wav\nrain/x.wav\nnone.wav\n",
		"shelf/a.wav":  "a", "shelf/b.wav": "b", "tray/x.txt": "x",
	})
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "film", "all.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	at := func(p string) string { return filepath.Join(dir, p) }
	repairs := []mend.Foreign{
		{Project: "Trailer", Repair: resolve.Repair{From: at("film/rain/x.wav"), To: at("tray/x.txt")}},
		{Project: "Trailer", Repair: resolve.Repair{From: at("film/wood"), To: at("shelf"), Prefix: true}},
		{Project: "Older", Repair: resolve.Repair{From: at("film/wood/a.wav"), To: at("shelf/b.wav")}},
		{Project: "Older", Repair: resolve.Repair{From: at("film/none.wav"), To: at("gone.wav")}},
	}
	rd := mend.Reading{Reach: drive.System{}, Memory: mend.Nothing}
	got := mend.Elsewhere(mend.Missing(g, nil, mend.Nothing), repairs, rd, func(p string) bool { _, err := drive.System{}.Stat(p); return err == nil })
	type group struct {
		from, to string
		files    int
		doubts   int
		sure     mend.Certainty
	}
	want := []group{{"film/wood", "shelf", 2, 0, mend.Likely}, {"film/rain", "tray", 1, 1, mend.Likely}}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i, w := range want {
		if is := (group{got[i].From, got[i].To, got[i].Files(), got[i].Doubts, got[i].Certainty}); is != (group{at(w.from), at(w.to), w.files, w.doubts, w.sure}) {
			t.Errorf("%d is %+v, wanted %+v", i, is, w)
		}
	}
}
