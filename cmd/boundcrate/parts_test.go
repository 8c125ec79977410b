package main

import (
	"archive/zip"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// unzip unpacks an archive into a folder by the standard library alone.
func unzip(t *testing.T, from, into string) {
	t.Helper()
	z, err := zip.OpenReader(from)
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		coretest.Write(t, filepath.Join(into, filepath.FromSlash(f.Name)), string(b))
	}
}

// judged runs a digest program of the system over a manifest.
func judged(t *testing.T, dir, program, manifest string) {
	t.Helper()
	if _, err := exec.LookPath(program); err != nil {
		t.Skip(program + " is not installed")
	}
	c := exec.Command(program, "--quiet", "--strict", "-c", manifest)
	c.Dir = dir
	if out, err := c.CombinedOutput(); err != nil {
		t.Errorf("%s of %s: %s", program, dir, out)
	}
}

// TestParts: an archive in parts (RFC 8493 §2.2.2, Bag-Count): none larger than it may be,
// about as few as can be (Dósa 2007), each a bag that sha256sum and sha512sum find whole by
// itself; any one of them leads to all; unpacked into one folder, by whatever program, they
// are the crate; one that lacks, is damaged or of another seal is told and nothing is
// unpacked.
func TestParts(t *testing.T) {
	const limit = 1_000_000
	rng := rand.New(rand.NewPCG(3, 5))
	noise := func(n int) string {
		b := make([]byte, n)
		for i := range b {
			b[i] = byte(rng.Uint32())
		}
		return string(b)
	}
	dir := coretest.Lay(t, nil)
	var names []string
	total := 0
	for i := range 24 {
		n := fmt.Sprintf("sound/take %02d.bin", i)
		size := 20_000 + rng.IntN(400_000)
		total += size
		names = append(names, n)
		coretest.Write(t, filepath.Join(dir, "film", n), noise(size))
	}
	list := coretest.Write(t, filepath.Join(dir, "film/list.m3u"), strings.Join(names, "\n")+"\n")
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "parts: 1MB\ndigests: [sha256, sha512]\n")
	data := t.TempDir()
	for _, ending := range []string{".zip", ".tar", ".tar.gz", ".tar.zst"} {
		t.Run(ending, func(t *testing.T) {
			at := t.TempDir()
			rep := answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", filepath.Join(at, "film"+ending), list)
			if !rep.Complete || rep.Files != 25 || len(rep.Parts) < total/limit+1 || len(rep.Parts) > total*11/limit/9+2 {
				t.Fatalf("%d bytes in %d parts: %+v", total, len(rep.Parts), rep)
			}
			for i, p := range rep.Parts {
				if want := filepath.Join(at, fmt.Sprintf("film-%dof%d%s", i+1, len(rep.Parts), ending)); p != want {
					t.Errorf("%s, not %s", p, want)
				}
				fi, err := os.Stat(p)
				if err != nil || fi.Size() > limit {
					t.Errorf("%v of %v bytes", err, fi.Size())
				}
			}
			if entries, err := os.ReadDir(at); err != nil || len(entries) != len(rep.Parts) {
				t.Errorf("%v lie there: %v", entries, err)
			}
			last := rep.Parts[len(rep.Parts)-1]
			if got := answer[report.Seal](t, data, 0, "check", "--json", last); !got.Complete || got.Files != 25 || len(got.Parts) != len(rep.Parts) {
				t.Errorf("%+v", got)
			}
			into := t.TempDir()
			got := answer[report.Receive](t, t.TempDir(), 0, "receive", "--json", "--into", into, last)
			judged(t, got.Into, "sha256sum", "manifest-sha256.txt")
			judged(t, got.Into, "sha512sum", "manifest-sha512.txt")
			judged(t, got.Into, "sha256sum", "tagmanifest-sha256.txt")
			if again := answer[report.Seal](t, data, 0, "check", "--json", got.Into); !again.Complete || again.Files != 25 || len(again.Parts) != 0 {
				t.Errorf("received: %+v", again)
			}
			// Over the same parts again; not over a number of others.
			answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", filepath.Join(at, "film"+ending), list)
			other := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "parts: 3MB\n")
			if code, _, errs := invoke(t, data, "seal", "--recipe", other, "--out", filepath.Join(at, "film"+ending), list); code != 2 || !strings.Contains(errs, "of an earlier crate") {
				t.Errorf("%d %s", code, errs)
			}
		})
	}

	at := t.TempDir()
	out := filepath.Join(at, "film.zip")
	rep := answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", out, list)
	byHand := t.TempDir()
	for _, p := range rep.Parts {
		alone := t.TempDir()
		unzip(t, p, alone)
		judged(t, filepath.Join(alone, "film"), "sha256sum", "manifest-sha256.txt")
		judged(t, filepath.Join(alone, "film"), "sha512sum", "tagmanifest-sha512.txt")
		unzip(t, p, byHand)
	}
	for _, f := range answer[report.Trace](t, t.TempDir(), 0, "trace", "--json", filepath.Join(byHand, "film/data/list.m3u")).References {
		if f.State != "here" {
			t.Errorf("unpacked by hand, %s is %s", f.Written, f.State)
		}
	}

	first, second := rep.Parts[0], rep.Parts[1]
	whole, err := os.ReadFile(second)
	if err != nil {
		t.Fatal(err)
	}
	refused := func(want string, status int) {
		t.Helper()
		into := t.TempDir()
		code, said, errs := invoke(t, data, "receive", "--into", into, first)
		if code != status || !strings.Contains(said+errs, want) {
			t.Errorf("%d %s %s", code, said, errs)
		}
		if entries, _ := os.ReadDir(into); len(entries) != 0 {
			t.Errorf("%v were unpacked", entries)
		}
	}
	other := filepath.Join(t.TempDir(), "of another name.zip") // which does not tell those of the others
	if err := os.Rename(second, other); err != nil {
		t.Fatal(err)
	}
	if got := answer[report.Seal](t, data, 1, "check", "--json", other); got.Complete || len(got.Problems) != len(rep.Parts)-1 || !strings.HasSuffix(got.Problems[0].Path, "part 1 of "+fmt.Sprint(len(rep.Parts))) {
		t.Errorf("%+v", got.Problems)
	}
	if got := answer[report.Seal](t, data, 1, "check", "--json", first); got.Complete || len(got.Problems) != 1 || got.Problems[0].Path != second {
		t.Errorf("%+v", got.Problems)
	}
	refused(filepath.Base(second), 2)
	broken := []byte(string(whole))
	broken[len(broken)/2] ^= 1
	if err := os.WriteFile(second, broken, 0o644); err != nil {
		t.Fatal(err)
	}
	refused(filepath.Base(second)+"!/", 1)
	elsewhere := answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", filepath.Join(t.TempDir(), "film.zip"), list)
	b, err := os.ReadFile(elsewhere.Parts[1])
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(second, b, 0o644); err != nil {
		t.Fatal(err)
	}
	if got := answer[report.Seal](t, data, 1, "check", "--json", first); got.Complete || len(got.Problems) != 1 || got.Problems[0].Path != second || got.Problems[0].Code != "foreign" {
		t.Errorf("%+v", got.Problems)
	}
	refused(filepath.Base(second), 2)

	// A file that no part holds: nothing is made.
	coretest.Write(t, filepath.Join(dir, "film", names[3]), noise(limit))
	at = t.TempDir()
	if code, _, errs := invoke(t, data, "seal", "--recipe", recipe, "--out", filepath.Join(at, "film.zip"), list); code != 2 || !strings.Contains(errs, "take 03.bin") || !strings.Contains(errs, "than a part can hold") {
		t.Errorf("%d %s", code, errs)
	}
	if entries, _ := os.ReadDir(at); len(entries) != 0 {
		t.Errorf("%v were left", entries)
	}
}
