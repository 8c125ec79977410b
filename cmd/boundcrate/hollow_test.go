package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
)

// TestSealSaysSuspects: what trace says of a hollow file, sealing says too: a problem, the
// exit status, the sheet; and so does a check, wherever the crate lies.
func TestSealSaysSuspects(t *testing.T) {
	dir, data := coretest.Lay(t, map[string]string{"film/cut.m3u8": "#EXTM3U\na.wav\nb.wav\nc.mp3\nd.wav\n", "film/a.wav": "", "film/b.wav": strings.Repeat("\x00", 5000), "film/c.mp3": "<!doctype html><p>Sign in first", "film/d.wav": "sound of a kind that nobody here knows"}), t.TempDir()
	doc, crate := filepath.Join(dir, "film/cut.m3u8"), filepath.Join(dir, "crate")
	want := map[string]graph.Suspicion{"a.wav": graph.HoldsNothing, "b.wav": graph.HoldsNothing, "c.mp3": graph.NotAsNamed, "d.wav": ""}
	tr := answer[report.Trace](t, data, 1, "trace", "--json", doc)
	for _, f := range tr.Files {
		if w := want[filepath.Base(f.Path)]; w != "" && (len(f.Suspect) != 1 || f.Suspect[0] != w) || w == "" && len(f.Suspect) > 0 {
			t.Errorf("%s: %q, wanted %q", f.Path, f.Suspect, w)
		}
	}
	says := func(rep report.Seal) {
		t.Helper()
		n := 0
		for _, p := range rep.Problems {
			if p.Code == "suspect" {
				n++
			}
		}
		if n != 3 || rep.Proof.Suspect != 3 || !rep.Complete {
			t.Errorf("%+v", rep)
		}
	}
	says(answer[report.Seal](t, data, 1, "seal", "--json", "--out", crate, doc))
	says(answer[report.Seal](t, data, 1, "check", "--json", crate))
	sheet, err := os.ReadFile(filepath.Join(crate, "READ ME.txt"))
	if err != nil || !strings.Contains(string(sheet), "Please check") || strings.Count(string(sheet), "contains only zeros") != 2 {
		t.Errorf("%v\n%s", err, sheet)
	}
}
