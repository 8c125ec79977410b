package mention_test

import (
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// toy is a line format made for these tests, with everything real formats
// have: "prefix=…" lines that all following names lean on, names in quotes,
// names in two pieces "dir|base", and lines that a "!" frees from the prefix.
//
//	prefix=sound/
//	"gull.wav"
//	stills|chart.png
type quoted struct{}

func (quoted) Decode(raw []byte) (string, error) { return strings.Trim(string(raw), `"`), nil }
func (quoted) Encode(s string, _ []byte, _ func(rune) bool) ([]byte, error) {
	if strings.ContainsAny(s, "\"\n") {
		return nil, problem.ErrCannotSay
	}
	return []byte(`"` + s + `"`), nil
}

type bare struct{}

func (bare) Decode(raw []byte) (string, error) { return string(raw), nil }
func (bare) Encode(s string, _ []byte, _ func(rune) bool) ([]byte, error) {
	if strings.ContainsAny(s, "|\n\"") {
		return nil, problem.ErrCannotSay
	}
	return []byte(s), nil
}

func read(text string) *mention.Doc {
	d := &mention.Doc{Texts: []mention.Text{{Bytes: []byte(text)}}}
	var lean []int
	off := 0
	for _, line := range strings.SplitAfter(text, "\n") {
		body := strings.TrimSuffix(line, "\n")
		span := func(from, to int) mention.Span {
			return mention.Span{Off: int64(off + from), End: int64(off + to)}
		}
		switch {
		case body == "":
		case strings.HasPrefix(body, "prefix="):
			d.Shared = append(d.Shared, mention.Shared{
				Piece: mention.Piece{Span: span(7, len(body)), Coding: bare{}},
				Join:  func(shared, own string) string { return shared + own },
				Strip: func(shared, name string) (string, bool) { return strings.CutPrefix(name, shared) },
				Move:  func(name, own string) (string, bool) { return strings.CutSuffix(name, own) },
			})
			lean = []int{len(d.Shared) - 1}
		case strings.Contains(body, "|"):
			i := strings.Index(body, "|")
			d.Mentions = append(d.Mentions, mention.Mention{
				Use:    mention.Used,
				Pieces: []mention.Piece{{Span: span(0, i), Coding: bare{}}, {Span: span(i+1, len(body)), Coding: bare{}}},
				Merge:  func(p []string) string { return p[0] + "/" + p[1] },
				Split: func(name string) ([]string, error) {
					i := strings.LastIndex(name, "/")
					if i < 0 {
						return nil, errors.New("it has no folder")
					}
					return []string{name[:i], name[i+1:]}, nil
				},
			})
		case strings.HasPrefix(body, "!"):
			d.Mentions = append(d.Mentions, mention.Mention{Use: mention.Used, Pieces: []mention.Piece{{Span: span(1, len(body)), Coding: quoted{}}}})
		default:
			m := mention.Mention{Use: mention.Used, Lean: lean, Pieces: []mention.Piece{{Span: span(0, len(body)), Coding: quoted{}}}}
			if len(lean) > 0 && strings.Contains(body, "free") {
				m.Free = &mention.Edit{Span: span(0, 0), New: []byte("!")}
			}
			d.Mentions = append(d.Mentions, m)
		}
		off += len(line)
	}
	return d
}

func retarget(d *mention.Doc, want map[int]string) (string, error) {
	edits, err := d.Retarget(want)
	if err != nil {
		return "", err
	}
	var b bytes.Buffer
	err = mention.Splice(&b, 0, d.Texts[0].Bytes, edits)
	return b.String(), err
}

func TestRetarget(t *testing.T) {
	for _, c := range []struct {
		name, text string
		want       map[int]string
		result     string // "": refused
	}{
		{"own span", "\"a\"\n\"b\"\n", map[int]string{1: "c"}, "\"a\"\n\"c\"\n"},
		{"two pieces, one edit", "d|x\n", map[int]string{0: "d/y"}, "d|y\n"},
		{"two pieces, both", "d|x\n", map[int]string{0: "e/f/y"}, "e/f|y\n"},
		{"two pieces cannot", "d|x\n", map[int]string{0: "y"}, ""},
		{"under the prefix", "prefix=s/\n\"a\"\n", map[int]string{0: "s/b"}, "prefix=s/\n\"b\"\n"},
		{"the prefix moves for all", "prefix=s/\n\"a\"\n\"b\"\n", map[int]string{0: "t/a", 1: "t/b"}, "prefix=t/\n\"a\"\n\"b\"\n"},
		{"freed", "prefix=s/\n\"free a\"\n\"b\"\n", map[int]string{0: "t/a"}, "prefix=s/\n!\"t/a\"\n\"b\"\n"},
		{"neutral prefix, whole names", "prefix=s/\n\"a\"\n\"b\"\n", map[int]string{0: "t/c"}, "prefix=\n\"t/c\"\n\"s/b\"\n"},
		{"cannot be said", "\"a\"\n", map[int]string{0: "x\"y"}, ""},
		{"NUL", "\"a\"\n", map[int]string{0: "x\x00"}, ""},
		{"nothing to do", "prefix=s/\n\"a\"\n", map[int]string{0: "s/a"}, "prefix=s/\n\"a\"\n"},
	} {
		got, err := retarget(read(c.text), c.want)
		if c.result == "" {
			if !errors.Is(err, problem.ErrCannotSay) {
				t.Errorf("%s: %q, %v", c.name, got, err)
			}
		} else if err != nil || got != c.result {
			t.Errorf("%s: %q, %v", c.name, got, err)
		}
	}
}

// TestOneSpan: two mentions in one place agree or are refused.
func TestOneSpan(t *testing.T) {
	d := read("\"a\"\n")
	d.Mentions = append(d.Mentions, d.Mentions[0])
	if got, err := retarget(d, map[int]string{0: "b", 1: "b"}); err != nil || got != "\"b\"\n" {
		t.Errorf("%q %v", got, err)
	}
	if _, err := retarget(d, map[int]string{0: "b", 1: "c"}); !errors.Is(err, problem.ErrCannotSay) {
		t.Error(err)
	}
}

// TestProperty: after random wishes, reading again gives exactly the wanted
// names and keeps all others.
func TestProperty(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	names := []string{"a", "s/a", "t/u/b", "s/long name", "x\"", "t/", "s/sub/c"}
	for range 3000 {
		var text strings.Builder
		for range 1 + rng.IntN(7) {
			switch rng.IntN(5) {
			case 0:
				fmt.Fprintf(&text, "prefix=%s\n", []string{"s/", "t/u/", "v"}[rng.IntN(3)])
			case 1:
				fmt.Fprintf(&text, "d%d|x\n", rng.IntN(3))
			case 2:
				fmt.Fprintf(&text, "\"free%d\"\n", rng.IntN(3))
			default:
				fmt.Fprintf(&text, "\"n%d\"\n", rng.IntN(3))
			}
		}
		d := read(text.String())
		want := map[int]string{}
		for i := range d.Mentions {
			if rng.IntN(2) == 0 {
				want[i] = names[rng.IntN(len(names))]
			}
		}
		out, err := retarget(d, want)
		if err != nil {
			if !errors.Is(err, problem.ErrCannotSay) {
				t.Fatal(err)
			}
			continue
		}
		back := read(out)
		for i := range d.Mentions {
			n, ok := want[i]
			if !ok {
				n = d.Name(i)
			}
			if got := back.Name(i); got != n {
				t.Fatalf("%q → %q: mention %d says %q, wanted %q", text.String(), out, i, got, n)
			}
		}
	}
}
