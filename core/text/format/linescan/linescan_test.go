package linescan

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// TestEach: line ends of every system, offsets, and a byte order mark.
func TestEach(t *testing.T) {
	text := "\xEF\xBB\xBFone\r\ntwo\n\nthree"
	var got []string
	Each([]byte(text), func(off int64, line []byte) {
		got = append(got, fmt.Sprintf("%d %s", off, line))
		if text[off:off+int64(len(line))] != string(line) {
			t.Errorf("%q does not stand at %d", line, off)
		}
		for _, f := range Fields(line) {
			if s := Within(off, line, f); text[s.Off:s.End] != string(f) {
				t.Errorf("%q is placed at %v", f, s)
			}
		}
	})
	if strings.Join(got, "|") != "3 one|8 two|12 |13 three" {
		t.Error(got)
	}
	at, word, rest := Word([]byte("  word \t more words "))
	if at != 2 || string(word) != "word" || string(rest) != "more words " {
		t.Error(at, string(word), string(rest))
	}
}

// TestCodings: what a line cannot hold is refused, the rest is kept.
func TestCodings(t *testing.T) {
	all := func(rune) bool { return true }
	ascii := func(r rune) bool { return r < 0x80 }
	for _, c := range []struct {
		coding mention.Coding
		name   string
		fits   func(rune) bool
		want   string
	}{
		{Plain{Spaces: true}, "a b", all, "a b"}, {Plain{}, "a b", all, ""}, {Plain{Spaces: true}, " a", all, ""}, {Plain{Spaces: true}, "a\nb", all, ""}, {Plain{}, "", all, ""},
		{Plain{Not: "#"}, "#a", all, ""}, {Plain{Not: "#"}, "a#", all, "a#"}, {Plain{Never: "<"}, "a<", all, ""}, {Plain{}, "ü", ascii, ""}, {Plain{}, "\xff", all, ""}, {Plain{}, "\uFEFFa", all, ""},
		{Quoted{}, "a b", all, `"a b"`}, {Quoted{}, `a"b`, all, ""}, {Quoted{}, "", all, `""`}, {Quoted{}, "ü", ascii, ""}, {Quoted{Bare: true}, "ab", all, "ab"}, {Quoted{Bare: true}, "a b", all, `"a b"`},
	} {
		got, err := c.coding.Encode(c.name, []byte("old"), c.fits)
		if c.want == "" {
			if !errors.Is(err, problem.ErrCannotSay) {
				t.Errorf("%+v %q: %q %v", c.coding, c.name, got, err)
			}
			continue
		}
		if err != nil || string(got) != c.want {
			t.Errorf("%+v %q: %q %v", c.coding, c.name, got, err)
		}
		if back, err := c.coding.Decode(got); err != nil || back != c.name {
			t.Errorf("%+v %q: read %q %v", c.coding, c.name, back, err)
		}
	}
}
