package main

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/home"
	"boundcrate/core/report"
)

// TestBringHome: what lies outside is copied in, under its own name or with a
// number, and the documents name it there, an edition of each kept; originals and
// namesakes stay as they are. A library, and another project's document, stay out.
func TestBringHome(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"film/cut.otio": clips("sound/own.wav", "../downloads/got.wav", "../other/horn.wav", "../lib/hit.wav", "../loose/own.wav"), "film/sound/own.wav": "own",
		"film/nested.m3u": "#EXTM3U\n../downloads/got.wav\n", "film/audio/got.wav": "another of that name", "downloads/got.wav": "got", "other/horn.wav": "horn", "other/their.otio": clips(),
		"lib/hit.wav": "hit", "loose/own.wav": "another own",
	})
	data := t.TempDir()
	at := func(p string) string { return filepath.Join(dir, p) }
	before := coretest.Sums(t, dir)
	docs := []string{at("film/cut.otio"), at("film/nested.m3u")}
	got := answer[report.BringHome](t, data, allWell, append([]string{"bring-home", "--json", "--library", at("lib")}, docs...)...)
	var pairs []string
	for _, c := range got.Copied {
		from, _ := filepath.Rel(dir, c.From)
		to, _ := filepath.Rel(dir, c.To)
		pairs = append(pairs, from+" "+to)
	}
	slices.Sort(pairs)
	if want := []string{"downloads/got.wav film/audio/got-2.wav", "loose/own.wav film/audio/own.wav", "other/horn.wav film/audio/horn.wav"}; !slices.Equal(pairs, want) {
		t.Errorf("%q, want %q", pairs, want)
	}
	if len(got.Documents) != 2 || len(got.Editions) != 2 || len(got.Left) != 1 || got.Left[0].Path != at("lib/hit.wav") || got.Left[0].Why != home.NotChosen {
		t.Errorf("%+v", got)
	}
	for p, sum := range before {
		if p == docs[0] || p == docs[1] {
			continue
		}
		if coretest.Sums(t, dir)[p] != sum {
			t.Errorf("%s is not as it was", p)
		}
	}
	tr := answer[report.Trace](t, data, allWell, append([]string{"trace", "--json", "--library", at("lib")}, docs...)...)
	for _, r := range tr.References {
		if r.State != "here" && *r.Path != at("lib/hit.wav") {
			t.Errorf("%s is %s", r.Written, r.State)
		}
	}
	// Again there is nothing to do.
	if again := answer[report.BringHome](t, data, allWell, append([]string{"bring-home", "--json", "--library", at("lib")}, docs...)...); len(again.Copied) != 0 || len(again.Documents) != 0 {
		t.Errorf("%+v", again)
	}
	if code, _, errs := invoke(t, data, "bring-home", "--origin", "moon", docs[0]); code != notDone || !strings.Contains(errs, "moon") {
		t.Errorf("%d %s", code, errs)
	}
}

// TestBringHomeFails: where a file cannot be copied nothing is brought home, no
// document is changed, and no folder is left.
func TestBringHomeFails(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": clips("../loose/a.wav", "../loose/b.wav"), "loose/a.wav": "a", "loose/b.wav": "b", "film/audio.txt": "x"})
	before := coretest.Sums(t, dir)
	// The folder of sounds is a file here.
	if err := os.Rename(filepath.Join(dir, "film/audio.txt"), filepath.Join(dir, "film/audio")); err != nil {
		t.Fatal(err)
	}
	code, out, errs := invoke(t, t.TempDir(), "bring-home", filepath.Join(dir, "film/cut.otio"))
	if code != notDone || out != "" || errs == "" {
		t.Errorf("%d %s %s", code, out, errs)
	}
	after := coretest.Sums(t, dir)
	if len(after) != len(before) || after[filepath.Join(dir, "film/cut.otio")] != before[filepath.Join(dir, "film/cut.otio")] {
		t.Errorf("%d files, %d before", len(after), len(before))
	}
}
