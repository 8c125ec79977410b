package names_test

import (
	"testing"
	"testing/quick"

	"boundcrate/core/text/names"
)

// TestFold: UAX #15 says which forms are one; case folding and RFC 3986 §2.1
// the rest.
func TestFold(t *testing.T) {
	for _, c := range []struct {
		a, b string
		fold bool // one when looked for
		same bool // one on many systems
	}{
		{"Horn.WAV", "horn.wav", true, true},
		{"Hörn.wav", "Ho\u0308rn.wav", true, true},
		{"fog%20horn.wav", "fog horn.wav", true, false},
		{"a%2Fb.wav", "a/b.wav", false, false},
		{"100%.wav", "100%.WAV", true, true},
		{"STRASSE.wav", "straße.wav", false, true},
		{"strasse.wav", "straße.wav", false, true},
		{"film.wav", "ﬁlm.wav", false, true},
		{"ΑΣ.wav", "ας.wav", true, true},
		{"ſea.wav", "SEA.wav", true, true},
		{"horn.wav", "hornn.wav", false, false},
	} {
		if got := names.Fold(c.a) == names.Fold(c.b); got != c.fold {
			t.Errorf("%q and %q are one when looked for: %v", c.a, c.b, got)
		}
		if clash := names.Clash(c.a) == names.Clash(c.b); clash != (c.fold || c.same) {
			t.Errorf("%q and %q may clash: %v", c.a, c.b, clash)
		}
		if got := names.Same(c.a) == names.Same(c.b); got != c.same {
			t.Errorf("%q and %q are one on many systems: %v", c.a, c.b, got)
		}
	}
}

// TestIdempotent: a key of a key is the key, for names of the scripts names are
// written in. (The folding of golang.org/x/text swaps Cherokee letters instead;
// two such names that differ in case alone are two.)
func TestIdempotent(t *testing.T) {
	const letters = "aAzZßẞÅÄäöÜéÉıİﬁﬂſÀàÑñœŒ΅ΆαΩςσΣЖжЙйЁёאבגم한글かガ日本_-. 019\u0301\u0308\u0327%"
	runes := []rune(letters)
	for what, f := range map[string]func(string) string{"Same": names.Same} {
		if err := quick.Check(func(picks []uint8) bool {
			var s []rune
			for _, p := range picks {
				s = append(s, runes[int(p)%len(runes)])
			}
			return f(f(string(s))) == f(string(s))
		}, nil); err != nil {
			t.Errorf("%s: %v", what, err)
		}
	}
}

func TestSplitAndLoose(t *testing.T) {
	for _, c := range []struct{ name, stem, ext, loose string }{
		{"Fog_Horn-2.wav", "Fog_Horn-2", ".wav", "fog horn 2"},
		{"fog  horn 2.WAV", "fog  horn 2", ".WAV", "fog horn 2"},
		{"no extension", "no extension", "", "no extension"},
		{"archive.tar.gz", "archive.tar", ".gz", "archive tar"},
	} {
		stem, ext := names.Split(c.name)
		if stem != c.stem || ext != c.ext || names.Loose(stem) != c.loose {
			t.Errorf("%q: %q %q %q", c.name, stem, ext, names.Loose(stem))
		}
	}
}
