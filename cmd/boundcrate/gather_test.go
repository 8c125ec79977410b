package main

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
	"boundcrate/core/say/report/keeping"
)

// TestGatherCommand: a loose set is a document like any other: traced, sealed, complete elsewhere.
func TestGatherCommand(t *testing.T) {
	dir, data := coretest.Lay(t, map[string]string{"n/a 1.png": "a", "n/a 2.png": "b", "n/log.txt": "l", "n/deep/z.png": "z", "theirs/ro-crate-metadata.json": "{}"}), t.TempDir()
	at := func(p string) string { return filepath.Join(dir, p) }
	out := at("n/ro-crate-metadata.json")
	for range 2 { // it is ours, and written anew
		got := answer[keeping.Set](t, data, 0, "gather", "--json", "--out", out, "--title", "Night", "--author", "Chart room", "--group", "pictures="+at("n/a*.png"), "--group", "pictures="+at("n/**/z.png"), at("n/log.txt"))
		if len(got.Files) != 4 || len(got.Groups) != 1 || !slices.Equal(got.Groups[0].Files, []string{at("n/a 1.png"), at("n/a 2.png"), at("n/deep/z.png")}) || got.Bytes != 4 {
			t.Fatalf("gathered %+v", got)
		}
	}
	if tr := answer[report.Trace](t, data, 0, "trace", "--json", out); tr.Format != "rocrate" || len(tr.References) != 4 {
		t.Errorf("traced %+v", tr)
	}
	crate := filepath.Join(t.TempDir(), "night.zip")
	if rep := answer[report.Seal](t, data, 0, "seal", "--json", "--out", crate, out); !rep.Complete || rep.Files != 5 {
		t.Errorf("sealed %+v", rep)
	}
	os.RemoveAll(dir + "/n")
	if rep := answer[report.Seal](t, data, 0, "check", "--json", crate); !rep.Complete {
		t.Errorf("checked %+v", rep)
	}
	for _, x := range []struct {
		args []string
		says string
	}{
		{[]string{"--out", at("theirs/ro-crate-metadata.json"), "--title", "x", at("theirs/*.json")}, "no file matches"},
		{[]string{"--out", at("theirs/ro-crate-metadata.json"), "--title", "x", crate}, "not made by this program"},
		{[]string{"--out", at("x.json"), "--title", "x", crate}, "--out"},
		{[]string{"--out", at("y/ro-crate-metadata.json"), crate}, "--title"},
		{[]string{"--out", at("theirs/ro-crate-metadata.json"), "--title", "x"}, "Name the files"},
		{[]string{"--out", at("theirs/ro-crate-metadata.json"), "--title", "x", "--group", "x", crate}, "NAME=GLOB"},
		{[]string{"--out", at("theirs/ro-crate-metadata.json"), "--title", "x", dir}, "is a folder"},
	} {
		if code, _, errs := invoke(t, data, append([]string{"gather"}, x.args...)...); code != 2 || !strings.Contains(errs, x.says) {
			t.Errorf("%v: %d, %s", x.args, code, errs)
		}
	}
	if b, _ := os.ReadFile(at("theirs/ro-crate-metadata.json")); string(b) != "{}" {
		t.Errorf("theirs says %s", b)
	}
}
