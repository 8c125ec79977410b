package main

import (
	"crypto/sha256"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/report"
	"boundcrate/core/words"
)

func sumLine(text, name string) string {
	return fmt.Sprintf("%x  %s\n", sha256.Sum256([]byte(text)), name)
}

// TestListsStayTrue: a checksum list judges files by their bytes, whatever they could be read
// as: sealed, sha256sum (coreutils) finds every line true. Where a file that it lists must
// change, the list is told to be false there, and nothing is called complete.
func TestListsStayTrue(t *testing.T) {
	cut := "#EXTM3U\nsound/gull.wav\n"
	dir := coretest.Lay(t, map[string]string{
		"job/cut.m3u8": cut, "job/sound/gull.wav": "gull", "job/broken.otio": "no timeline", "job/SHA256SUMS": sumLine(cut, "cut.m3u8") + sumLine("gull", "sound/gull.wav") + sumLine("no timeline", "broken.otio"),
	})
	at := func(p string) string { return filepath.Join(dir, p) }
	recipe := coretest.Write(t, at("r.yaml"), "layout: kind\n")
	alone := at("alone")
	rep := answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--recipe", recipe, "--out", alone, at("job/SHA256SUMS"))
	if !rep.Complete || rep.Files != 4 {
		t.Errorf("%+v", rep)
	}
	list, err := filepath.Glob(filepath.Join(alone, "data", "*", "SHA256SUMS"))
	if more, _ := filepath.Glob(filepath.Join(alone, "data", "SHA256SUMS")); len(more) > 0 {
		list = more
	}
	if err != nil || len(list) != 1 {
		t.Fatal(list, err)
	}
	check := exec.Command("sha256sum", "-c", filepath.Base(list[0]))
	check.Dir = filepath.Dir(list[0])
	if out, err := check.CombinedOutput(); err != nil {
		t.Errorf("sha256sum: %s", out)
	}
	both := at("both")
	rep = answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--recipe", recipe, "--out", both, at("job/cut.m3u8"), at("job/SHA256SUMS"))
	if rep.Complete || !slices.ContainsFunc(rep.Problems, func(p words.Problem) bool { return p.Code == "false-sum" && filepath.Base(p.Path) == "SHA256SUMS" }) {
		t.Errorf("%+v", rep)
	}
	if rep = answer[report.Seal](t, t.TempDir(), 1, "check", "--json", both); rep.Complete {
		t.Errorf("%+v", rep)
	}
}

// TestBagsStayWhole: documents in a bag are not written to, nor does anything come to stand
// in its payload; a bag's manifest never names what lies outside it.
func TestBagsStayWhole(t *testing.T) {
	cut := "gull.wav\n"
	dir := coretest.Lay(t, map[string]string{
		"bag/bagit.txt": "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", "bag/data/cut.m3u8": cut, "bag/manifest-sha256.txt": sumLine(cut, "data/cut.m3u8"), "shelf/gull.wav": "gull",
	})
	doc := filepath.Join(dir, "bag/data/cut.m3u8")
	before := coretest.Sums(t, dir)
	code, out, errs := invoke(t, t.TempDir(), "mend", "--write", "--accept", "likely", "--search", filepath.Join(dir, "shelf"), doc)
	if code != 1 || strings.Contains(out, "Written") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	after := coretest.Sums(t, dir)
	for p, sum := range after {
		if before[p] != sum {
			t.Errorf("%s came or changed", p)
		}
	}
	crate := filepath.Join(dir, "crate")
	_, _, _ = invoke(t, t.TempDir(), "seal", "--out", crate, filepath.Join(dir, "bag/manifest-sha256.txt"))
	_ = filepath.WalkDir(crate, func(p string, d os.DirEntry, _ error) error {
		if b, err := os.ReadFile(p); err == nil && filepath.Base(p) == "manifest-sha256.txt" {
			for l := range strings.Lines(string(b)) {
				if _, name, ok := strings.Cut(strings.TrimSpace(l), "  "); ok && !strings.HasPrefix(name, "data/") {
					t.Errorf("%s names %q", p, name)
				}
			}
		}
		return nil
	})
}
