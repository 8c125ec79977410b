// Package jsonscan reads JSON (RFC 8259) with byte positions, for formats that
// keep the exact place of every value they care about.
//
// It accepts NaN, Infinity and -Infinity as numbers, because writers of real
// documents emit them, and a leading UTF-8 byte order mark. It copies nothing
// it is not asked for: skipping a value costs a walk over its bytes.
package jsonscan

import (
	"fmt"
	"strconv"
	"unicode/utf8"

	"boundcrate/core/text/mention"
)

// MaxDepth is the deepest nesting read; deeper is refused so that a hostile
// document cannot exhaust the stack.
const MaxDepth = 10_000

// SyntaxError tells where a text stops being JSON.
type SyntaxError struct {
	Off int64
	Msg string
}

func (e *SyntaxError) Error() string { return e.Msg }

// Scanner walks one JSON text. Each value must be consumed by exactly one of
// Object, Array, String, Number, Skip.
type Scanner struct {
	b     []byte
	pos   int
	depth int
	keys  [64]string // keys seen, by a small hash: documents repeat a few without end
}

// New begins at the first value of b.
func New(b []byte) *Scanner {
	s := &Scanner{b: b}
	if len(b) >= 3 && b[0] == 0xEF && b[1] == 0xBB && b[2] == 0xBF {
		s.pos = 3
	}
	return s
}

// Pos is the present byte offset.
func (s *Scanner) Pos() int64 { return int64(s.pos) }

func (s *Scanner) fail(format string, a ...any) error {
	if s.pos >= len(s.b) {
		return &SyntaxError{int64(len(s.b)), "the text ends in the middle"}
	}
	return &SyntaxError{int64(s.pos), fmt.Sprintf(format, a...)}
}

func (s *Scanner) space() {
	for s.pos < len(s.b) {
		switch s.b[s.pos] {
		case ' ', '\t', '\n', '\r':
			s.pos++
		default:
			return
		}
	}
}

// Peek returns the first byte of the next value, 0 at the end: '{', '[', '"',
// a digit or '-', or the first letter of a word.
func (s *Scanner) Peek() byte {
	s.space()
	if s.pos >= len(s.b) {
		return 0
	}
	return s.b[s.pos]
}

// Object reads an object; each is called once a key with the decoded key, and
// must consume the value.
func (s *Scanner) Object(each func(key string) error) error {
	if s.Peek() != '{' {
		return s.fail("an object was expected")
	}
	return s.list('}', func(int) error {
		span, err := s.String()
		if err != nil {
			return err
		}
		key := s.key(span)
		if s.Peek() != ':' {
			return s.fail("a colon was expected after %q", key)
		}
		s.pos++
		s.space()
		return each(key)
	})
}

// Array reads an array; each is called with the index and must consume the
// value.
func (s *Scanner) Array(each func(i int) error) error {
	if s.Peek() != '[' {
		return s.fail("an array was expected")
	}
	return s.list(']', each)
}

func (s *Scanner) list(end byte, each func(i int) error) error {
	if s.depth++; s.depth > MaxDepth {
		return s.fail("nested deeper than %d levels", MaxDepth)
	}
	s.pos++
	for i := 0; ; i++ {
		switch c := s.Peek(); {
		case c == end && i == 0:
			s.pos++
			s.depth--
			return nil
		case c == 0:
			return s.fail("")
		}
		before := s.pos
		if err := each(i); err != nil {
			return err
		}
		if s.pos == before {
			return s.fail("a value was expected")
		}
		switch s.Peek() {
		case ',':
			s.pos++
		case end:
			s.pos++
			s.depth--
			return nil
		default:
			return s.fail("a comma or %q was expected", string(end))
		}
	}
}

// String reads a string and returns its bytes with the quotes.
func (s *Scanner) String() (mention.Span, error) {
	if s.Peek() != '"' {
		return mention.Span{}, s.fail("a string was expected")
	}
	off := s.pos
	if !s.skipString() {
		s.pos = len(s.b)
		return mention.Span{}, s.fail("")
	}
	return mention.Span{Off: int64(off), End: int64(s.pos)}, nil
}

func (s *Scanner) skipString() bool {
	b := s.b
	for i := s.pos + 1; i < len(b); i++ {
		switch b[i] {
		case '"':
			s.pos = i + 1
			return true
		case '\\':
			i++
		}
	}
	return false
}

// key is Text for keys, each made once.
func (s *Scanner) key(span mention.Span) string {
	raw := s.b[span.Off+1 : span.End-1]
	if len(raw) == 0 {
		return ""
	}
	slot := &s.keys[(len(raw)*31+int(raw[0])*7+int(raw[len(raw)-1]))%len(s.keys)]
	if *slot != string(raw) {
		k := s.Text(span)
		if k != string(raw) {
			return k // it holds escapes
		}
		*slot = k
	}
	return *slot
}

// Text decodes a span String returned.
func (s *Scanner) Text(span mention.Span) string {
	t, err := String.Decode(s.b[span.Off:span.End])
	if err != nil {
		return string(s.b[span.Off+1 : span.End-1])
	}
	return t
}

// Number reads a number; null reads as not ok.
func (s *Scanner) Number() (v float64, ok bool, err error) {
	v, _, ok, err = s.NumberAt()
	return v, ok, err
}

// NumberAt is Number, and where it stands.
func (s *Scanner) NumberAt() (v float64, span mention.Span, ok bool, err error) {
	s.Peek()
	if span, err = s.Skip(); err != nil {
		return 0, span, false, err
	}
	v, err = strconv.ParseFloat(string(s.b[span.Off:span.End]), 64)
	return v, span, err == nil, nil
}

// Skip passes over a value of any kind and returns its bytes.
func (s *Scanner) Skip() (mention.Span, error) {
	c := s.Peek()
	off := s.pos
	switch c {
	case 0:
		return mention.Span{}, s.fail("")
	case '"':
		if !s.skipString() {
			s.pos = len(s.b)
			return mention.Span{}, s.fail("")
		}
	case '{', '[':
		if err := s.skipNest(); err != nil {
			return mention.Span{}, err
		}
	default:
		if err := s.skipWord(); err != nil {
			return mention.Span{}, err
		}
	}
	return mention.Span{Off: int64(off), End: int64(s.pos)}, nil
}

// skipNest passes over brackets by count. What stands between is held to the
// grammar only as far as strings and the pairing of brackets go: damage there
// concerns no mention.
func (s *Scanner) skipNest() error {
	b, depth := s.b, 0
	var kinds []byte
	for i := s.pos; i < len(b); i++ {
		switch c := b[i]; c {
		case '"':
			s.pos = i
			if !s.skipString() {
				s.pos = len(b)
				return s.fail("")
			}
			i = s.pos - 1
		case '{', '[':
			if depth++; depth+s.depth > MaxDepth {
				s.pos = i
				return s.fail("nested deeper than %d levels", MaxDepth)
			}
			kinds = append(kinds, c+2) // '{'+2 == '}', '['+2 == ']'
		case '}', ']':
			if kinds[depth-1] != c {
				s.pos = i
				return s.fail("%q was expected, not %q", string(kinds[depth-1]), string(c))
			}
			kinds = kinds[:depth-1]
			if depth--; depth == 0 {
				s.pos = i + 1
				return nil
			}
		}
	}
	s.pos = len(b)
	return s.fail("")
}

func (s *Scanner) skipWord() error {
	off := s.pos
	for s.pos < len(s.b) {
		switch c := s.b[s.pos]; {
		case c >= '0' && c <= '9', c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '-', c == '+', c == '.':
			s.pos++
			continue
		}
		break
	}
	word := s.b[off:s.pos]
	switch string(word) {
	case "true", "false", "null", "NaN", "Infinity", "-Infinity":
		return nil
	}
	if len(word) > 0 && (word[0] == '-' || word[0] >= '0' && word[0] <= '9') {
		if _, err := strconv.ParseFloat(string(word), 64); err == nil {
			return nil
		} else if ne, ok := err.(*strconv.NumError); ok && ne.Err == strconv.ErrRange {
			return nil
		}
	}
	if s.pos == len(s.b) {
		return s.fail("")
	}
	s.pos = off
	return s.fail("%q is no JSON value", clip(s.b[off:]))
}

func clip(b []byte) string {
	if len(b) > 12 {
		b = b[:12]
	}
	return string(b)
}

// Bool tells whether the bytes of a value are true, and whether they are a
// boolean at all.
func (s *Scanner) Bool(span mention.Span) (v, ok bool) {
	switch string(s.b[span.Off:span.End]) {
	case "true":
		return true, true
	case "false":
		return false, true
	}
	return false, false
}

// End checks that nothing but white space follows.
func (s *Scanner) End() error {
	if s.Peek() != 0 {
		return s.fail("there is more text after the end")
	}
	return nil
}

// validKey guards the assumption of Absent that a key needs no escape.
func validKey(k string) bool {
	return utf8.ValidString(k) && strconv.Quote(k) == `"`+k+`"`
}
