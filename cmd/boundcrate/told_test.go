package main

import (
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
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
}

// TestListsToldAnew: where a file that a list tells of has other bytes in the crate, the list
// tells those, in every format, itself sealed from what it is given with or as something that goes
// along, and a list of lists too. The digests are judged by coreutils and xxhsum, sizes by stat.
// Where that cannot be, the list is told to be false and nothing is called complete.
func TestListsToldAnew(t *testing.T) {
	cut := "#EXTM3U\nsound/gull.wav\n"
	crate := func(meta string) string { // RO-Crate 1.1
		return `{"@context":"https://w3id.org/ro/crate/1.1/context","@graph":[{"@id":"ro-crate-metadata.json","@type":"CreativeWork","about":{"@id":"./"}},{"@id":"./","@type":"Dataset","hasPart":[{"@id":"cut.m3u8"}]},{"@id":"cut.m3u8","@type":"File",` + meta + `}]}`
	}
	size := fmt.Sprint(len(cut))
	md5sum, sha1sum, sha512sum := fmt.Sprintf("%x", md5.Sum([]byte(cut))), fmt.Sprintf("%x", sha1.Sum([]byte(cut))), fmt.Sprintf("%x", sha512.Sum512([]byte(cut)))
	sums := sumLine(cut, "cut.m3u8") + sumLine("gull", "sound/gull.wav")
	hashes := func(inner string) string {
		return `<?xml version="1.0"?><hashlist version="1.1"><hash><file>cut.m3u8</file>` + inner + `</hash></hashlist>`
	}
	for _, x := range []struct {
		name, list, text string
		falsely          bool
		judge            func(dir, list string) error
	}{
		{"lines", "SHA256SUMS", sums, false, byCoreutils("sha256sum")},
		{"lines in capitals", "SHA256SUMS", strings.ToUpper(sums[:64]) + sums[64:], false, byCoreutils("sha256sum")},
		{"tagged lines", "all.md5", "MD5 (cut.m3u8) = " + md5sum + "\n", false, byCoreutils("md5sum")},
		{"SHA-1", "all.sha1", sha1sum + " *cut.m3u8\n", false, byCoreutils("sha1sum")},
		{"SHA-512", "all.sha512", sha512sum + "  cut.m3u8\n", false, byCoreutils("sha512sum")},
		{"an algorithm nobody here computes", "all.sums", "BLAKE2b (cut.m3u8) = " + sha512sum + "\n", true, nil},
		{"a media hash list", "all.mhl", hashes("<size>" + size + "</size><md5>" + md5sum + "</md5><xxhash64be>0123456789abcdef</xxhash64be>"), false, toldIn(`<size>(\d+)</size><md5>(\w+)</md5><xxhash64be>(\w+)</xxhash64be>`, "md5", "xxh64")},
		{"one with a digest nobody here computes", "all.mhl", hashes("<md5>" + md5sum + "</md5><c4>c43zYcLni5LF9rR4Lg4B8h3Jp8SBwjcnyyeh4bc6gTPHndKuKdjUWx1kJPYhZxYt3zV6tQXpDs2shPsPYjgG81wZM1</c4>"), true, nil},
		{"research object", "ro-crate-metadata.json", crate(`"contentSize":"` + size + `","sha256":"` + sumLine(cut, "")[:64] + `"`), false, toldIn(`"contentSize":"(\d+)","sha256":"(\w+)"`, "sha256")},
		{"a table", "files.csv", "path,bytes,sha1\ncut.m3u8," + size + "," + sha1sum + "\n", false, toldIn(`,(\d+),(\w+)`, "sha1")},
	} {
		for _, along := range []bool{false, true} {
			dir := coretest.Lay(t, map[string]string{"job/cut.m3u8": cut, "job/sound/gull.wav": "gull", "job/" + x.list: x.text})
			at := func(p string) string { return filepath.Join(dir, p) }
			recipe, docs := "layout: kind\n", []string{at("job/cut.m3u8"), at("job/" + x.list)}
			if along {
				recipe, docs = "layout: kind\nalso: [strays]\n", docs[:1]
			}
			status := 0
			if x.falsely {
				status = 1
			}
			out := at("crate")
			rep := answer[report.Seal](t, t.TempDir(), status, append([]string{"seal", "--json", "--recipe", coretest.Write(t, at("r.yaml"), recipe), "--out", out}, docs...)...)
			if rep.Complete == x.falsely || x.falsely != slices.ContainsFunc(rep.Problems, func(p words.Problem) bool { return p.Code == "false-sum" && filepath.Base(p.Path) == x.list }) {
				t.Errorf("%s, along %v: %+v", x.name, along, rep)
			}
			if x.falsely {
				continue
			}
			var lies string
			_ = filepath.WalkDir(out, func(p string, d os.DirEntry, _ error) error {
				if d.Name() == x.list {
					lies = p
				}
				return nil
			})
			if err := x.judge(filepath.Dir(lies), lies); err != nil {
				b, _ := os.ReadFile(lies)
				t.Errorf("%s, along %v: %v\n%s", x.name, along, err, b)
			}
		}
	}

	// A list of lists tells what those tell by then; two that tell of each other cannot.
	one, two := sumLine(cut, "cut.m3u8"), ""
	two = sumLine(one, "one.sha256")
	dir := coretest.Lay(t, map[string]string{"job/cut.m3u8": cut, "job/sound/gull.wav": "gull", "job/one.sha256": one, "job/two.sha256": two, "job/three.sha256": sumLine("x", "four.sha256"), "job/four.sha256": sumLine("x", "three.sha256") + sumLine(cut, "cut.m3u8")})
	at := func(p string) string { return filepath.Join(dir, p) }
	recipe := coretest.Write(t, at("r.yaml"), "layout: kind\n")
	rep := answer[report.Seal](t, t.TempDir(), 0, "seal", "--json", "--recipe", recipe, "--out", at("chain"), at("job/cut.m3u8"), at("job/one.sha256"), at("job/two.sha256"))
	for _, l := range []string{"one.sha256", "two.sha256"} {
		if err := byCoreutils("sha256sum")(at("chain/data"), at("chain/data/"+l)); err != nil || !rep.Complete {
			t.Errorf("%s: %v %+v", l, err, rep)
		}
	}
	rep = answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--recipe", recipe, "--out", at("circle"), at("job/cut.m3u8"), at("job/three.sha256"), at("job/four.sha256"))
	if rep.Complete {
		t.Errorf("%+v", rep)
	}
}

// byCoreutils checks a list with one of coreutils.
func byCoreutils(program string) func(dir, list string) error {
	return func(dir, list string) error {
		check := exec.Command(program, "--strict", "-c", filepath.Base(list))
		check.Dir = dir
		if out, err := check.CombinedOutput(); err != nil {
			return fmt.Errorf("%s: %w: %s", program, err, out)
		}
		return nil
	}
}

// toldIn finds a size and digests in a list, and asks the file and other programs for them.
func toldIn(pattern string, by ...string) func(dir, list string) error {
	return func(dir, list string) error {
		text, err := os.ReadFile(list)
		if err != nil {
			return err
		}
		got := regexp.MustCompile(pattern).FindStringSubmatch(string(text))
		if got == nil {
			return fmt.Errorf("no %s", pattern)
		}
		var file string
		top := dir
		for filepath.Base(top) != "data" {
			top = filepath.Dir(top)
		}
		_ = filepath.WalkDir(top, func(p string, d os.DirEntry, _ error) error {
			if d.Name() == "cut.m3u8" {
				file = p
			}
			return nil
		})
		info, err := os.Stat(file)
		if err != nil || fmt.Sprint(info.Size()) != got[1] {
			return fmt.Errorf("the size is %v, told %s: %v", info, got[1], err)
		}
		for i, b := range by {
			args := map[string][]string{"xxh64": {"xxhsum", "-H1"}}[b]
			if args == nil {
				args = []string{b + "sum"}
			}
			if _, err := exec.LookPath(args[0]); err != nil {
				continue // make test installs it where it may
			}
			out, err := exec.Command(args[0], append(args[1:], file)...).Output()
			if err != nil || strings.Fields(string(out))[0] != got[i+2] {
				return fmt.Errorf("%s: %s, told %s: %v", b, out, got[i+2], err)
			}
		}
		return nil
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
