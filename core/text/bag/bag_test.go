package bag_test

import (
	"bytes"
	"maps"
	"strings"
	"testing"
	"testing/quick"

	"boundcrate/core/text/bag"
)

// TestManifest: what is written is read (RFC 8493 §2.1.3), whatever the names;
// CR, LF and percent signs are escaped, and nothing else.
func TestManifest(t *testing.T) {
	law := func(names []string) bool {
		sums := map[string]string{}
		for _, n := range names {
			if n = strings.Trim(n, " \t*./\x00"); n != "" {
				sums["data/"+n] = "0a1b"
			}
		}
		var b bytes.Buffer
		if err := bag.WriteManifest(&b, sums); err != nil {
			return false
		}
		got, bad, err := bag.ReadManifest(&b)
		return err == nil && len(bad) == 0 && maps.Equal(got, sums)
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
	var b bytes.Buffer
	if err := bag.WriteManifest(&b, map[string]string{"data/50% of\nit\r.wav": "ff"}); err != nil || b.String() != "ff  data/50%25 of%0Ait%0D.wav\n" {
		t.Errorf("%q %v", b.String(), err)
	}
	got, bad, err := bag.ReadManifest(strings.NewReader("FF *./data/a\r\n\nzz  data/b\n00\n"))
	if err != nil || len(got) != 1 || got["data/a"] != "ff" || len(bad) != 2 || bad[0] != 3 {
		t.Errorf("%v %v %v", got, bad, err)
	}
}

// TestUnsafe: names that would leave the folder they are unpacked to (RFC 8493
// §5.1), and those that would not.
func TestUnsafe(t *testing.T) {
	for name, want := range map[string]bag.Danger{
		"data/a.wav": "", "data/..a/b": "", "data/a..": "", "data/deep/": "",
		"": bag.NoName, "/": bag.NoName, "/etc/passwd": bag.IsAbsolute, `C:\a`: bag.IsAbsolute, `\\host\a`: bag.IsAbsolute,
		"../a": bag.LeadsOut, "data/../../a": bag.LeadsOut, `data\..\..\a`: bag.LeadsOut, "data/..": bag.LeadsOut,
		"data//a": bag.NotPlain, "./a": bag.NotPlain, "data/a\x00b": bag.HasNUL,
	} {
		if got := bag.Unsafe(name); got != want {
			t.Errorf("%q: %q, wanted %q", name, got, want)
		}
	}
	for name, want := range map[string]bag.Danger{"crate": "", ".git": bag.HiddenBase, "-rf": bag.OptionLike, "a/b": bag.NotPlain, "": bag.NotPlain} {
		if got := bag.UnsafeBase(name); got != want {
			t.Errorf("base %q: %q, wanted %q", name, got, want)
		}
	}
}

// TestInfo: labels are read as they were written, and folded lines (§2.2.2) as
// one.
func TestInfo(t *testing.T) {
	var b bytes.Buffer
	if err := bag.WriteInfo(&b, []bag.Label{{"Source-Organization", "Saltmarsh\nLightship"}, {"Payload-Oxum", bag.Oxum(279164409832, 1198)}}); err != nil {
		t.Fatal(err)
	}
	got := bag.ReadInfo(strings.NewReader(b.String() + "External-Description: two\n  lines\nContact-Name: A\nContact-Name: B\n"))
	// The oxum is the example of RFC 8493 §2.2.2.
	if got["Payload-Oxum"][0] != "279164409832.1198" || got["Source-Organization"][0] != "Saltmarsh Lightship" || got["External-Description"][0] != "two lines" || len(got["Contact-Name"]) != 2 {
		t.Errorf("%q", got)
	}
}

// TestLineEnds: lines end with LF, CR or both (RFC 8493 §2.1.3).
func TestLineEnds(t *testing.T) {
	for _, end := range []string{"\n", "\r", "\r\n"} {
		text := "00  data/a.wav" + end + end + "01  data/b.wav"
		sums, bad, err := bag.ReadManifest(strings.NewReader(text))
		if err != nil || len(bad) > 0 || sums["data/a.wav"] != "00" || sums["data/b.wav"] != "01" || len(sums) != 2 {
			t.Errorf("%q: %v %v %v", text, sums, bad, err)
		}
		info := bag.ReadInfo(strings.NewReader("A: b" + end + "  c" + end + "D: e" + end))
		if len(info["A"]) != 1 || info["A"][0] != "b c" || len(info["D"]) != 1 {
			t.Errorf("%q: %q", end, info)
		}
	}
}
