package resolve_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/text/mention"
)

// TestBare: names without a folder are matched by name, else by stem, in any
// letter case, in the project folder and the given drives and nowhere else.
func TestBare(t *testing.T) {
	dir := t.TempDir()
	for _, f := range []string{"film/tapes/TAPE01.mov", "film/a/bell.wav", "quay/Bell.aif", "quay/horn.flac", "film/take.mov", "film/b/bell.wav", "film/horn.txt", "elsewhere/gull.wav", "film/x.wav", "film/x.mov"} {
		p := filepath.Join(dir, f)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(f), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	drives := []drive.Drive{{ID: "q", Name: "Quay", Dir: filepath.Join(dir, "quay")}}
	doc := filepath.Join(dir, "film/cut.edl")
	for name, want := range map[string]string{
		"tape01": "here film/tapes/TAPE01.mov", "tape01.mxf": "here film/tapes/TAPE01.mov", "BELL": "twins 3", "a/bell.wav": "here film/a/bell.wav", `..\film\b\bell.wav`: "here film/b/bell.wav", "c/bell.wav": "twins 2", "take.01": "missing", "take": "here film/take.mov", "bell.AIF": "away quay/Bell.aif", "horn": "away quay/horn.flac",
		"gull": "missing", "x.mov": "here film/x.mov", "x": "twins 2", `D:\old\tape01.mov`: "here film/tapes/TAPE01.mov", "cut": "missing",
	} {
		r := resolve.Resolver{Reach: drive.System{Drives: drives}, Drives: drives, Root: filepath.Join(dir, "film")}
		p := r.Resolve(doc, &mention.Mention{Spelling: mention.Bare}, name, name)
		got := string(p.State)
		switch {
		case p.State == graph.Twins:
			got += " " + string(rune('0'+len(p.Files)))
		case p.Path != "":
			got += " " + strings.TrimPrefix(p.Path, dir+"/")
		}
		if got != want {
			t.Errorf("%s: %s, wanted %s", name, got, want)
		}
	}
	// A path without a folder roams only where it may and is not beside the document.
	for name, want := range map[string]string{"horn.wav": "quay/horn.flac", "bell.flac": "", "x.wav": "film/x.wav", "a/horn.wav": "", "take.wav": "film/take.mov"} {
		for _, roams := range []bool{true, false} {
			r := resolve.Resolver{Reach: drive.System{Drives: drives}, Drives: drives, Root: filepath.Join(dir, "film")}
			p := r.Resolve(filepath.Join(dir, "film/x.cue"), &mention.Mention{Spelling: mention.Path, Nature: map[bool]mention.Nature{true: mention.Roaming}[roams]}, name, name)
			if got := strings.TrimPrefix(p.Path, dir+"/"); got != want && roams || !roams && p.State != graph.Missing && name != "x.wav" {
				t.Errorf("%s, %v: %+v, wanted %s", name, roams, p, want)
			}
		}
	}
	// A repair decides between twins.
	r := resolve.Resolver{Reach: drive.System{}, Drives: drives, Root: filepath.Join(dir, "film"), Repairs: []resolve.Repair{{From: filepath.Join(dir, "film/x"), To: filepath.Join(dir, "film/x.wav")}}}
	if p := r.Resolve(doc, &mention.Mention{Spelling: mention.Bare}, "x", "x"); !p.Repaired || filepath.Base(p.Path) != "x.wav" {
		t.Errorf("%+v", p)
	}
}

// TestTiles: tiles are found by number, said with their token, in paths as in
// URIs.
func TestTiles(t *testing.T) {
	dir := t.TempDir()
	for _, f := range []string{"tex/hull a.1001.png", "tex/hull a.1002.png", "tex/hull a.1005.png", "tex/hull a.12.png", "tex/hull a.10010.png"} {
		p := filepath.Join(dir, f)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, nil, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for _, sp := range []mention.Spelling{mention.Path, mention.URI} {
		space := map[mention.Spelling]string{mention.Path: " ", mention.URI: "%20"}[sp]
		m := &mention.Mention{Spelling: sp, Sequence: &mention.Sequence{Head: "tex/hull" + space + "a.", Tail: ".png", Digits: 4, First: 1001, Step: 1, Token: "<UDIM>"}}
		r := resolve.Resolver{Reach: drive.System{}, Root: dir}
		p := r.Resolve(filepath.Join(dir, "deck.mtlx"), m, "", "tex/hull a.<UDIM>.png")
		// Two tiles more than 4 digits are a number too long for the pattern's files.
		if p.State != graph.Here || len(p.Files) < 3 || len(p.Gaps) == 0 || p.Gaps[0] != (graph.Gap{First: 1003, Last: 1004, Step: 1}) {
			t.Errorf("%+v", p)
		}
		said := resolve.SayPatternRelative(m, "tex/hull"+space+"a.<UDIM>.png", "/c/docs", graph.Pattern{Dir: "/c/images/hull", Head: "hull a.", Tail: ".png", Digits: 4})
		if want := "../images/hull/hull" + space + "a.<UDIM>.png"; said != want {
			t.Errorf("said %q, wanted %q", said, want)
		}
	}
}
