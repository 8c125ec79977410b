package main

import (
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/bring/home"
	"boundcrate/core/coretest"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
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

// TestBringHomeTells: what did not come home, or not whole, is told and the exit status is
// 1; what a document cannot be made to name is not copied beside itself, where its name
// would mean both.
func TestBringHomeTells(t *testing.T) {
	frame := `{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ImageSequenceReference.1","target_url_base":"../loose/img/","name_prefix":"f.","name_suffix":".png","start_frame":1,"frame_step":1,"rate":24,"frame_zero_padding":2,"available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":1},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":24,"value":4}}}}`
	images := `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[` + frame + `]}]}}`
	edl := "TITLE: x\nFCM: NON-DROP FRAME\n\n001  AX       A     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: horn.wav\n"
	whole := map[string]string{"loose/img/f.01.png": "1", "loose/img/f.02.png": "2", "loose/img/f.03.png": "3", "loose/img/f.04.png": "4", "loose/horn.wav": "horn", "film/cut.otio": images, "film/cut.edl": edl}
	for _, x := range []struct {
		name   string
		lacks  string // of what there is
		docs   []string
		code   int
		copied int
		left   []string
	}{
		{"a whole sequence", "", []string{"cut.otio"}, 0, 4, nil},
		{"one with a gap", "loose/img/f.03.png", []string{"cut.otio"}, 1, 3, []string{"f.##.png gaps"}},
		{"a list that says bare names", "", []string{"cut.edl"}, 1, 0, []string{"horn.wav unsaid"}},
		{"all of them", "loose/img/f.03.png", []string{"cut.edl", "cut.otio"}, 1, 3, []string{"f.##.png gaps", "horn.wav unsaid"}},
	} {
		files := maps.Clone(whole)
		delete(files, x.lacks)
		dir, data := coretest.Lay(t, files), t.TempDir()
		args := []string{"--json", "--drive", "D=" + dir}
		for _, d := range x.docs {
			args = append(args, filepath.Join(dir, "film", d))
		}
		got := answer[report.BringHome](t, data, x.code, append([]string{"bring-home"}, args...)...)
		var left []string
		for _, l := range got.Left {
			left = append(left, filepath.Base(l.Path)+" "+string(l.Why))
		}
		slices.Sort(left)
		if len(got.Copied) != x.copied || !slices.Equal(left, x.left) {
			t.Errorf("%s: %+v", x.name, got)
		}
		after := allWell
		if x.lacks != "" {
			after = 1
		}
		for _, r := range answer[struct {
			References []struct {
				Document string
				State    graph.State
			}
		}](t, data, after, append([]string{"trace"}, args...)...).References {
			if want := map[string]graph.State{".otio": graph.Here, ".edl": graph.Away}[filepath.Ext(r.Document)]; r.State != want {
				t.Errorf("%s: %+v", x.name, r)
			}
		}
		if _, err := os.Stat(filepath.Join(dir, "film/audio")); err == nil {
			t.Errorf("%s: an empty folder stayed", x.name)
		}
	}
}
