package jsonscan

import (
	"encoding/json"
	"strings"
	"testing"
	"unicode/utf8"

	"boundcrate/core/text/mention"
)

// values walks a text and returns every string in it, in order.
func values(b []byte) ([]string, error) {
	s := New(b)
	var out []string
	var walk func() error
	walk = func() error {
		switch s.Peek() {
		case '{':
			return s.Object(func(k string) error { out = append(out, k); return walk() })
		case '[':
			return s.Array(func(int) error { return walk() })
		case '"':
			span, err := s.String()
			if err == nil {
				out = append(out, s.Text(span))
			}
			return err
		}
		_, err := s.Skip()
		return err
	}
	if err := walk(); err != nil {
		return out, err
	}
	return out, s.End()
}

// oracle does the same with the standard library.
func oracle(b []byte) ([]string, error) {
	d := json.NewDecoder(strings.NewReader(string(b)))
	var out []string
	for {
		tok, err := d.Token()
		if err != nil {
			if err.Error() == "EOF" {
				return out, nil
			}
			return out, err
		}
		if s, ok := tok.(string); ok {
			out = append(out, s)
		}
	}
}

func compare(t *testing.T, b []byte) {
	if !json.Valid(b) || !utf8.Valid(b) {
		_, _ = values(b) // must end without a panic
		return
	}
	want, err := oracle(b)
	if err != nil {
		return
	}
	got, err := values(b)
	if err != nil {
		t.Fatalf("%q: %v", b, err)
	}
	if strings.Join(got, "\x00") != strings.Join(want, "\x00") {
		t.Fatalf("%q: got %q, want %q", b, got, want)
	}
}

var seeds = []string{
	`{"a":[1,-2.5e+3,true,false,null,"x\n\u00fc\ud83d\udc1a\/\\\""],"b":{}}`, `[]`, `""`, ` [ { } , [ ] ] `, `{"\u0061":"\ud800"}`, `1`, `[1e999]`,
}

// TestOracle compares with encoding/json over valid texts and all their
// truncations.
func TestOracle(t *testing.T) {
	for _, s := range seeds {
		for i := range len(s) + 1 {
			compare(t, []byte(s[:i]))
		}
	}
}

func FuzzOracle(f *testing.F) {
	for _, s := range seeds {
		f.Add([]byte(s))
	}
	f.Fuzz(compare)
}

func TestRejects(t *testing.T) {
	for _, s := range []string{`{"a" 1}`, `[1 2]`, `{a:1}`, `[1,]x`, `{"a":}`, `[}`, `{"a":[}`, `tru`, `[01x]`, `"abc`, `{"a":{"b":]}}`} {
		sc := New([]byte(s))
		_, err := sc.Skip()
		if _, err2 := values([]byte(s)); err == nil && err2 == nil {
			t.Errorf("%s was accepted", s)
		}
	}
}

// TestCoding: what is written in the old manner reads back.
func TestCoding(t *testing.T) {
	all := func(rune) bool { return true }
	for _, c := range []struct{ s, old, want string }{
		{"a/b", `"x\/y"`, `"a\/b"`},
		{"a/b", `"x/y"`, `"a/b"`},
		{"ü🐚", `"\u00e9"`, `"\u00fc\ud83d\udc1a"`},
		{"ü", `"é"`, `"ü"`},
		{"a\"\\\n\x01", `""`, `"a\"\\\n\u0001"`},
		{"x", `null`, `"x"`},
	} {
		b, err := String.Encode(c.s, []byte(c.old), all)
		if err != nil || string(b) != c.want {
			t.Errorf("%q in the manner of %s: %s, %v", c.s, c.old, b, err)
		}
		if back, err := String.Decode(b); err != nil || back != c.s {
			t.Errorf("%s reads back as %q, %v", b, back, err)
		}
	}
	if _, err := String.Encode("bad\xff", nil, all); err == nil {
		t.Error("a name that is no UTF-8 was written into JSON")
	}
	b, err := Absent("k").Encode("v", nil, all)
	if err != nil || string(b) != `"k": "v", ` {
		t.Errorf("%s %v", b, err)
	}
	if s, err := Absent("k").Decode(b); err != nil || s != "v" {
		t.Errorf("%q %v", s, err)
	}
	_ = mention.Span{}
}
