package sums

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad  data/sound/gull cry.wav\nd41d8cd98f00b204e9800998ecf8427e *empty.bin\n"

// TestMentions: the digest of "abc" is that of FIPS 180-4; of "", that of the
// test suite of RFC 1321.
func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.sha256", sample, "used line 1 | data/sound/gull cry.wav", "used line 2 | empty.bin")
	// As sha256sum writes names with a backslash or a line end, and with --tag.
	formattest.Table(t, Format{}, "x.md5", "\\d41d8cd98f00b204e9800998ecf8427e  a\\\\b\\nc.txt\nd41d8cd98f00b204e9800998ecf8427e  a\\b.txt\nMD5 (gull (2).wav) = d41d8cd98f00b204e9800998ecf8427e\n",
		"used line 1 | a\\b\nc.txt", `used line 2 | a\b.txt`, "used line 3 | gull (2).wav")
	// RFC 8493 §2.1.3: CR, LF and % are escaped in a manifest.
	formattest.Table(t, Format{}, "manifest-md5.txt", "d41d8cd98f00b204e9800998ecf8427e  data/a%0A%25.txt\n", "used line 1 | data/a\n%.txt")
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.sha256", sample+"nonsense\n", "line 3: no-sum-line", 2)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.sha256", []byte(sample))
}

// TestByItsWriter: names that sha256sum itself writes, in both of its forms.
func TestByItsWriter(t *testing.T) {
	if _, err := exec.LookPath("sha256sum"); err != nil {
		t.Skip("sha256sum is not installed")
	}
	want := []string{"100% (2).wav", "a  b.wav", `back\slash.wav`, "line\nend.wav", "plain.wav"}
	dir := t.TempDir()
	for _, n := range want {
		if err := os.WriteFile(filepath.Join(dir, n), nil, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for _, flag := range []string{"--text", "--binary", "--tag"} {
		cmd := exec.Command("sha256sum", append([]string{flag, "--"}, want...)...)
		cmd.Dir = dir
		out, err := cmd.Output()
		if err != nil {
			t.Fatal(err)
		}
		file, err := formattest.Open(Format{}, "x.sha256", out)
		if err != nil || len(file.Doc.Mentions) != len(want) {
			t.Fatalf("%s: %v\n%s", flag, err, out)
		}
		for i, n := range want {
			if got := file.Doc.Name(i); got != n {
				t.Errorf("%s: %q, wanted %q", flag, got, n)
			}
		}
		formattest.Laws(t, Format{}, "x.sha256", out)
	}
}
