package mend

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"boundcrate/core/text/names"
)

// spelled is a name, read once: its words, numbers and dates in order, without what
// systems and people change in passing.
type spelled struct {
	stem, ext string // the stem loosely; the extension as it is
	parts     []part
}

// part is a word, a number without the zeros before it, or a date as year, month and day.
type part struct {
	kind partKind
	text string
}

type partKind int

const (
	word partKind = iota
	number
	date
)

// spell reads a name. A v, or v., before a number says that it is a version, as brackets do,
// and counts no more than they. Accents are part of a name, but for comparing they are not:
// many systems lose them.
func spell(name string) spelled {
	stem, ext := names.Split(name)
	s := spelled{stem: names.Loose(stem), ext: ext}
	text := bareLetters(s.stem)
	for i := 0; i < len(text); {
		k := i
		switch c := text[i]; {
		case digit(c):
			for k < len(text) && digit(text[k]) {
				k++
			}
			value := strings.TrimLeft(text[i:k], "0")
			if value == "" {
				value = "0"
			}
			if d, to, ok := dateAt(text, i, k); ok {
				s.parts = append(s.parts, part{date, d})
				k = to
			} else {
				s.parts = append(s.parts, part{number, value})
			}
		case separates(c):
			k++
		default:
			for k < len(text) && !digit(text[k]) && !separates(text[k]) {
				k++
			}
			if w := text[i:k]; w != "v" || k == len(text) || !digit(text[k]) {
				s.parts = append(s.parts, part{word, w})
			}
		}
		i = k
	}
	return s
}

// separates tells what stands between the words of a name.
func separates(c byte) bool { return strings.IndexByte(" _-.()[]{}+,;&#'~=", c) >= 0 }

// dateAt reads a date of this century or the last that begins with the number from i to k:
// eight digits in one, or three numbers one after the other.
func dateAt(s string, i, k int) (d string, to int, ok bool) {
	valid := func(d string) bool {
		return (d[:2] == "19" || d[:2] == "20") && d[4:6] >= "01" && d[4:6] <= "12" && d[6:] >= "01" && d[6:] <= "31"
	}
	if k-i == 8 && valid(s[i:k]) {
		return s[i:k], k, true
	}
	if k-i != 4 || len(s) < i+10 {
		return "", 0, false
	}
	rest := s[k : i+10]
	if !separates(rest[0]) || !digit(rest[1]) || !digit(rest[2]) || !separates(rest[3]) || !digit(rest[4]) || !digit(rest[5]) || len(s) > i+10 && digit(s[i+10]) {
		return "", 0, false
	}
	if d = s[i:k] + rest[1:3] + rest[4:]; !valid(d) {
		return "", 0, false
	}
	return d, i + 10, true
}

var otherLetters = strings.NewReplacer("ł", "l", "ø", "o", "đ", "d", "ß", "ss", "æ", "ae", "œ", "oe")

// bareLetters takes accents off (UAX #15, compatibility decomposition).
func bareLetters(s string) string {
	for i := 0; i < len(s); i++ {
		if s[i] >= 0x80 {
			return otherLetters.Replace(strings.Map(func(r rune) rune {
				if unicode.Is(unicode.Mn, r) {
					return -1
				}
				return r
			}, norm.NFKD.String(s)))
		}
	}
	return s
}

// compact is what names that are spelled otherwise have in common, as one text: words and
// numbers without what stands between them; ends are where each of them ends. It is spell's
// parts, made without them for the millions of names of an index.
func compact(stem string, room []byte, ends []int) ([]byte, []int) {
	stem = bareLetters(stem)
	out := room[:0]
	numbered := false // the last part was a number
	end := func() {
		if len(out) > 0 && len(ends) < cap(ends) && (len(ends) == 0 || ends[len(ends)-1] != len(out)) {
			ends = append(ends, len(out))
		}
	}
	for i := 0; i < len(stem); {
		c := stem[i]
		switch {
		case digit(c):
			if end(); numbered {
				out = append(out, '|')
			}
			for i < len(stem)-1 && stem[i] == '0' && digit(stem[i+1]) {
				i++
			}
			for ; i < len(stem) && digit(stem[i]); i++ {
				out = append(out, stem[i])
			}
			end()
			numbered = true
			continue
		case separates(c):
			end()
		case c == 'v' && i+1 < len(stem) && digit(stem[i+1]) && (i == 0 || separates(stem[i-1]) || digit(stem[i-1])):
		default:
			out = append(out, c)
			numbered = false
		}
		i++
	}
	return out, ends
}

// inside finds the parts of one name in another, as a whole and in order, and tells what
// stands before and after them there.
func inside(small, large []part) (before, after []part, ok bool) {
	if len(small) == 0 || len(small) >= len(large) {
		return nil, nil, false
	}
	for at := 0; at+len(small) <= len(large); at++ {
		if slices.Equal(large[at:at+len(small)], small) {
			return large[:at], large[at+len(small):], true
		}
	}
	return nil, nil, false
}

// otherCount tells names of which each has a number or a date that the other has not:
// another take, another version, another part, another day.
func otherCount(a, b []part) bool {
	lacks := func(a, b []part) bool {
		return slices.ContainsFunc(a, func(p part) bool { return p.kind != word && !slices.Contains(b, p) })
	}
	return lacks(a, b) && lacks(b, a)
}

// aSlip tells names that are one but for a slip in a word.
func aSlip(a, b []part) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] && (a[i].kind != word || b[i].kind != word || likeness(a[i].text, b[i].text) < slip) {
			return false
		}
	}
	return true
}

// otherWords tells names of which each has a word that the other has not, nor one that is a
// slip of it: left and right. A last word of which only the beginning is left was cut short.
func otherWords(a, b []part) bool {
	lacks := func(a, b []part) bool {
		return slices.ContainsFunc(a, func(p part) bool {
			return p.kind == word && !slices.ContainsFunc(b, func(q part) bool { return q.kind == word && (p.text == q.text || likeness(p.text, q.text) >= slip) })
		})
	}
	if n := min(len(a), len(b)); n > 1 && len(a) == len(b) && slices.Equal(a[:n-1], b[:n-1]) && cut(a[n-1], b[n-1]) {
		return false
	}
	return lacks(a, b) && lacks(b, a)
}

// cut tells that one of two words is the beginning of the other.
func cut(a, b part) bool {
	return a.kind == word && b.kind == word && (strings.HasPrefix(a.text, b.text) || strings.HasPrefix(b.text, a.text))
}

// slip is the Jaro–Winkler measure from which two words are one with a slip in it.
const slip = 0.84

// allOf tells that there are parts, and all are of a kind.
func allOf(list []part, kind partKind) bool {
	return len(list) > 0 && !slices.ContainsFunc(list, func(p part) bool { return p.kind != kind })
}

func textsOf(list []part) (out []string) {
	for _, p := range list {
		out = append(out, p.text)
	}
	return out
}
