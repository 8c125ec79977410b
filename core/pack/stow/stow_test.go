package stow

import (
	"strings"
	"testing"
)

// TestPortable: names reserved by POSIX.1 §3.282, the Windows naming rules and
// FAT32.
func TestPortable(t *testing.T) {
	for name, want := range map[string]string{
		"plain.wav": "plain.wav", "a:b?.wav": "a_b_.wav", "CON": "CON_", "con.txt": "con_.txt", "COM1.wav": "COM1_.wav", "COM10.wav": "COM10.wav", "LPT9": "LPT9_", "COM0": "COM0",
		"ends.": "ends_", "ends ": "ends_", " x": "_x", "a\x01b": "a_b", "e\u0301.wav": "\u00e9.wav", `a"<>|*b`: "a_____b", "bad\xff": "bad_", "100%.wav": "100_.wav",
		strings.Repeat("x", 300) + ".wav": strings.Repeat("x", 251) + ".wav", "…" + strings.Repeat("ü", 200) + ".png": "…" + strings.Repeat("ü", 124) + ".png",
	} {
		got := Portable(name)
		if got != want {
			t.Errorf("%q becomes %q, wanted %q", name, got, want)
		}
		if again := Portable(got); again != got {
			t.Errorf("%q is not stable: %q", got, again)
		}
	}
}

func TestWithExtension(t *testing.T) {
	for _, c := range [][3]string{{"new", "old.wav", "new.wav"}, {"new.WAV", "old.wav", "new.WAV"}, {"new.mp3", "old.wav", "new.mp3.wav"}, {"", "old.wav", "old.wav"}, {"../x", "old.wav", ".._x.wav"}, {"..", "o.wav", "o.wav"}} {
		if got := withExtension(c[0], c[1]); got != c[2] {
			t.Errorf("%q for %q: %q, wanted %q", c[0], c[1], got, c[2])
		}
	}
	if got := cleanFolder(` ..\a/../b//c `); got != "b/c" {
		t.Error(got)
	}
}
