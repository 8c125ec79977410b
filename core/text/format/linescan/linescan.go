// Package linescan reads texts line by line with byte positions.
package linescan

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Each calls f with every line, without its ending (LF, CRLF or CR LF), and
// its offset. A byte order mark before the first line is passed over.
func Each(b []byte, f func(off int64, line []byte)) {
	at := 0
	if bytes.HasPrefix(b, []byte("\xEF\xBB\xBF")) {
		at = 3
	}
	for at < len(b) {
		end := bytes.IndexByte(b[at:], '\n')
		next := len(b)
		if end >= 0 {
			next = at + end + 1
			end += at
		} else {
			end = len(b)
		}
		line := b[at:end]
		if n := len(line); n > 0 && line[n-1] == '\r' {
			line = line[:n-1]
		}
		f(int64(at), line)
		at = next
	}
}

// Word cuts the first word off a line: its offset within the line, the word,
// and what follows without the white space between.
func Word(line []byte) (at int, word, rest []byte) {
	for at < len(line) && (line[at] == ' ' || line[at] == '\t') {
		at++
	}
	end := at
	for end < len(line) && line[end] != ' ' && line[end] != '\t' {
		end++
	}
	return at, line[at:end], bytes.TrimLeft(line[end:], " \t")
}

// Lower is a line in lower case, of ASCII letters alone: its bytes stay where
// they are.
func Lower(line []byte) []byte {
	out := bytes.Clone(line)
	for i, c := range out {
		if c >= 'A' && c <= 'Z' {
			out[i] = c + 'a' - 'A'
		}
	}
	return out
}

// Fields parts a line at white space. Unlike bytes.Fields its pieces keep the
// line's capacity, so that Within can place them.
func Fields(line []byte) [][]byte {
	var list [][]byte
	for {
		_, word, rest := Word(line)
		if len(word) == 0 {
			return list
		}
		list, line = append(list, word), rest
	}
}

// Within is the span of a piece of a line that begins at off.
func Within(off int64, line, piece []byte) mention.Span {
	// piece is a slice of line, so their capacities end at the same place.
	from := off + int64(cap(line)-cap(piece))
	return mention.Span{Off: from, End: from + int64(len(piece))}
}

// Plain is the coding of a name that stands bare on a line. It cannot begin or
// end with white space, hold a line end, or begin with anything of Not.
type Plain struct {
	Not    string // first characters that mean something else
	Never  string // characters that mean something else anywhere
	Spaces bool   // white space may stand within
}

// Decode takes the bytes as they are.
func (Plain) Decode(raw []byte) (string, error) { return string(raw), nil }

// Encode refuses what would read as something else.
func (p Plain) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	var no error
	switch {
	case s == "":
		no = problem.No(problem.EmptyName)
	case strings.TrimSpace(s) != s || strings.Trim(s, "\x00") != s:
		no = problem.No(problem.WhiteEnds)
	case strings.ContainsAny(s, "\r\n\v\f\x00\u0085\u2028\u2029"):
		no = problem.No(problem.LineEnd)
	case !p.Spaces && strings.ContainsAny(s, " \t"):
		no = problem.No(problem.WhiteSpace)
	case strings.ContainsAny(s[:1], p.Not):
		no = problem.No(problem.AtItsStart, s[:1])
	case strings.ContainsAny(s, p.Never):
		no = problem.No(problem.NoneOf, p.Never)
	case strings.HasPrefix(s, "\uFEFF"):
		no = problem.No(problem.ByteOrderMark)
	case !utf8.ValidString(s):
		no = problem.No(problem.NotUTF8)
	case strings.ContainsFunc(s, func(r rune) bool { return !fits(r) }):
		no = problem.No(problem.LacksIn)
	}
	if no != nil {
		return nil, no
	}
	return []byte(s), nil
}

// Quoted is the coding of a name in quotes that knows no escapes; the quotes
// belong to the span. With Bare, an old name without quotes gets them only
// where it needs them.
type Quoted struct{ Bare bool }

// Decode takes what stands between the quotes.
func (q Quoted) Decode(raw []byte) (string, error) {
	if n := len(raw); n >= 2 && raw[0] == '"' && raw[n-1] == '"' {
		return string(raw[1 : n-1]), nil
	}
	if q.Bare {
		return string(raw), nil
	}
	return "", fmt.Errorf("no quoted name")
}

// Encode refuses quotes and line ends.
func (q Quoted) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if strings.ContainsAny(s, "\"\r\n\x00") || !utf8.ValidString(s) || strings.ContainsFunc(s, func(r rune) bool { return !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	if q.Bare && len(old) > 0 && old[0] != '"' && s != "" && !strings.ContainsAny(s, " \t") && strings.TrimSpace(s) == s {
		return []byte(s), nil
	}
	return []byte(`"` + s + `"`), nil
}
