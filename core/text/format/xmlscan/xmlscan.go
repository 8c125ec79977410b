// Package xmlscan reads XML 1.0 with byte positions, for formats that keep the
// exact place of every value they care about.
//
// It reads what documents really hold: elements, attributes, text, CDATA
// sections, comments, processing instructions. A document type declaration is
// passed over; entities it declares are never expanded and nothing outside is
// ever opened, so an entity that would be needed is reported by its name.
// Names keep their prefix; Local cuts it off.
package xmlscan

import (
	"bytes"
	"errors"
	"fmt"
	"strings"

	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
)

// MaxDepth is the deepest nesting read.
const MaxDepth = 10_000

// SyntaxError tells where a text stops being XML.
type SyntaxError = jsonscan.SyntaxError

// Attr is one attribute; Span has the quotes with it.
type Attr struct {
	Name  string
	Span  mention.Span
	raw   []byte // with the quotes
	value string // of values that hold references; others are made when asked for
}

// Value is the attribute's text with entities and character references undone.
func (a *Attr) Value() string {
	if a.value != "" {
		return a.value
	}
	v, _ := Attribute.Decode(a.raw) // what could fail was decoded by the scanner
	return v
}

// Element is what a handler is told of an open element. It is the handler's
// until the element ends; then its memory serves another.
type Element struct {
	Name   string // with its prefix, as written
	Local  string // without it
	Attrs  []Attr
	Off    int64 // of "<"
	End    int64 // after ">"
	Parent *Element
	Depth  int // 1 for the root
}

// Attr returns the value of an attribute, by its local name.
func (e *Element) Attr(local string) string {
	if a := e.Find(local); a != nil {
		return a.Value()
	}
	return ""
}

// Find returns an attribute by its local name, nil if it is not there. A name
// without a prefix is preferred.
func (e *Element) Find(local string) *Attr {
	var found *Attr
	for i := range e.Attrs {
		if e.Attrs[i].Name == local {
			return &e.Attrs[i]
		}
		if found == nil && Local(e.Attrs[i].Name) == local {
			found = &e.Attrs[i]
		}
	}
	return found
}

// Local is a name without its prefix.
func Local(name string) string {
	if i := strings.IndexByte(name, ':'); i > 0 && i < len(name)-1 {
		return name[i+1:]
	}
	return name // a colon at an end parts nothing
}

// Handler is called in document order; any of its functions may be nil.
type Handler struct {
	Start func(e *Element) error
	// Text is called for each run of character data or CDATA section directly
	// in an element; the span is its raw bytes.
	Text func(e *Element, span mention.Span, cdata bool) error
	End  func(e *Element) error
	// Instruction is a processing instruction: its target and all its bytes.
	Instruction func(target string, span mention.Span) error
}

// Scan reads a whole text. A damaged text calls the handler for what stands
// before the damage and returns a *SyntaxError.
func Scan(b []byte, h Handler) error {
	s := &scanner{b: b, h: h}
	return s.run()
}

type scanner struct {
	b     []byte
	pos   int
	h     Handler
	open  *Element
	seen  bool       // a root element was there
	names [128]known // names seen, by a small hash
	elems []*Element // by depth, to be used again
}

func (s *scanner) fail(at int, format string, a ...any) error {
	return &SyntaxError{Off: int64(at), Msg: fmt.Sprintf(format, a...)}
}

func (s *scanner) cut() error { return s.fail(len(s.b), "the text ends in the middle") }

func (s *scanner) run() error {
	if bytes.HasPrefix(s.b, []byte("\xEF\xBB\xBF")) {
		s.pos = 3
	}
	for s.pos < len(s.b) {
		lt := 0
		if s.b[s.pos] != '<' {
			lt = bytes.IndexByte(s.b[s.pos:], '<')
		}
		end := len(s.b)
		if lt >= 0 {
			end = s.pos + lt
		}
		if end > s.pos {
			if err := s.text(s.pos, end, false); err != nil {
				return err
			}
		}
		if s.pos = end; lt < 0 {
			break
		}
		if err := s.markup(); err != nil {
			return err
		}
	}
	switch {
	case s.open != nil:
		return s.cut()
	case !s.seen:
		return s.fail(len(s.b), "there is no element in it")
	}
	return nil
}

func (s *scanner) text(from, to int, cdata bool) error {
	if s.open == nil {
		if at := bytes.TrimLeft(s.b[from:to], " \t\r\n\x00"); len(at) > 0 {
			return s.fail(to-len(at), "there is text outside the outermost element")
		}
		return nil
	}
	if s.h.Text == nil {
		return nil
	}
	return s.h.Text(s.open, mention.Span{Off: int64(from), End: int64(to)}, cdata)
}

// skip passes over what begins here up to and with an ending.
func (s *scanner) skip(begin int, end string) (from, to int, err error) {
	from = s.pos + begin
	i := bytes.Index(s.b[min(from, len(s.b)):], []byte(end))
	if i < 0 {
		return 0, 0, s.cut()
	}
	to = from + i
	s.pos = to + len(end)
	return from, to, nil
}

func (s *scanner) markup() error {
	rest := s.b[s.pos:]
	if len(rest) > 1 && rest[1] == '/' {
		return s.close()
	}
	if len(rest) > 1 && rest[1] != '!' && rest[1] != '?' {
		return s.start()
	}
	switch {
	case bytes.HasPrefix(rest, []byte("<!--")):
		_, _, err := s.skip(4, "-->")
		return err
	case bytes.HasPrefix(rest, []byte("<![CDATA[")):
		from, to, err := s.skip(9, "]]>")
		if err != nil {
			return err
		}
		return s.text(from, to, true)
	case bytes.HasPrefix(rest, []byte("<?")):
		off := s.pos
		from, to, err := s.skip(2, "?>")
		if err != nil || s.h.Instruction == nil {
			return err
		}
		target := string(s.b[from:to])
		if i := strings.IndexAny(target, " \t\r\n"); i >= 0 {
			target = target[:i]
		}
		return s.h.Instruction(target, mention.Span{Off: int64(off), End: int64(s.pos)})
	case bytes.HasPrefix(rest, []byte("<!")):
		if s.open != nil || s.seen {
			return s.fail(s.pos, "a declaration stands where only elements may")
		}
		return s.doctype()
	}
	return s.start() // which says that the text ends
}

// doctype passes over a declaration with its brackets and quotes.
func (s *scanner) doctype() error {
	depth := 0
	for i := s.pos; i < len(s.b); i++ {
		switch c := s.b[i]; c {
		case '"', '\'':
			j := bytes.IndexByte(s.b[i+1:], c)
			if j < 0 {
				return s.cut()
			}
			i += j + 1
		case '[':
			depth++
		case ']':
			depth--
		case '<':
			if bytes.HasPrefix(s.b[i:], []byte("<!--")) {
				j := bytes.Index(s.b[i:], []byte("-->"))
				if j < 0 {
					return s.cut()
				}
				i += j + 2
			}
		case '>':
			if depth <= 0 {
				s.pos = i + 1
				return nil
			}
		}
	}
	return s.cut()
}

// ends are the bytes a name ends before.
var ends = func() (t [256]bool) {
	for _, c := range []byte(" \t\r\n/>=<\"'") {
		t[c] = true
	}
	return t
}()

func nameEnd(b []byte, i int) int {
	for i < len(b) && !ends[b[i]] {
		i++
	}
	return i
}

// name makes each name once: documents repeat a few of them without end.
func (s *scanner) name(b []byte) known {
	if len(b) == 0 {
		return known{}
	}
	slot := &s.names[(len(b)*31+int(b[0])*7+int(b[len(b)-1]))%len(s.names)]
	if slot.name != string(b) {
		n := string(b)
		*slot = known{n, Local(n)}
	}
	return *slot
}

type known struct{ name, local string }

func space(b []byte, i int) int {
	for i < len(b) && (b[i] == ' ' || b[i] == '\t' || b[i] == '\r' || b[i] == '\n') {
		i++
	}
	return i
}

func (s *scanner) close() error {
	if e := s.open; e != nil {
		// Nearly always the element that is open, and nothing else.
		if at := s.pos + 2 + len(e.Name); at < len(s.b) && s.b[at] == '>' && string(s.b[s.pos+2:at]) == e.Name {
			return s.ended(at + 1)
		}
	}
	i := nameEnd(s.b, s.pos+2)
	name := s.b[s.pos+2 : i]
	i = space(s.b, i)
	if i >= len(s.b) {
		return s.cut()
	}
	if s.b[i] != '>' {
		return s.fail(i, "the end of <%s> is not closed", name)
	}
	if s.open == nil || s.open.Name != string(name) {
		want := "no element is open"
		if s.open != nil {
			want = "<" + s.open.Name + "> is open"
		}
		return s.fail(s.pos, "</%s> ends nothing: %s", name, want)
	}
	return s.ended(i + 1)
}

// ended closes the open element, whose end reaches to a byte.
func (s *scanner) ended(to int) error {
	e := s.open
	s.pos, s.open = to, e.Parent
	if s.h.End != nil {
		return s.h.End(e)
	}
	return nil
}

func (s *scanner) start() error {
	b, i := s.b, nameEnd(s.b, s.pos+1)
	e, err := s.element(i)
	if err != nil {
		return err
	}
	empty := false
	for {
		i = space(b, i)
		if i >= len(b) {
			return s.cut()
		}
		if b[i] == '>' {
			i++
			break
		}
		if b[i] == '/' && i+1 < len(b) && b[i+1] == '>' {
			i, empty = i+2, true
			break
		}
		from := i
		i = nameEnd(b, i)
		if i == from {
			if i+1 >= len(b) {
				return s.cut()
			}
			return s.fail(i, "an attribute of <%s> was expected", e.Name)
		}
		name := s.name(b[from:i]).name
		i = space(b, i)
		if i >= len(b) {
			return s.cut()
		}
		if b[i] != '=' {
			return s.fail(i, "the attribute %s of <%s> has no value", name, e.Name)
		}
		i = space(b, i+1)
		if i >= len(b) {
			return s.cut()
		}
		if b[i] != '"' && b[i] != '\'' {
			return s.fail(i, "the value of %s in <%s> is not in quotes", name, e.Name)
		}
		j := bytes.IndexByte(b[i+1:], b[i])
		if j < 0 {
			return s.cut()
		}
		span := mention.Span{Off: int64(i), End: int64(i + j + 2)}
		a := Attr{Name: name, Span: span, raw: b[span.Off:span.End]}
		if bytes.IndexByte(a.raw, '&') >= 0 {
			v, err := Attribute.Decode(a.raw)
			var unknown *EntityError
			if err != nil && !errors.As(err, &unknown) {
				return s.fail(i, "%s", err)
			}
			a.value = v
		}
		e.Attrs = append(e.Attrs, a)
		i += j + 2
	}
	e.End, s.pos = int64(i), i
	s.open = e
	if s.h.Start != nil {
		if err := s.h.Start(e); err != nil {
			return err
		}
	}
	if empty {
		return s.ended(i)
	}
	return nil
}

// element is the one whose name ends at i, without its attributes.
func (s *scanner) element(i int) (*Element, error) {
	if i == s.pos+1 {
		if i >= len(s.b) {
			return nil, s.cut()
		}
		return nil, s.fail(s.pos, "a name was expected after “<”")
	}
	if s.open == nil && s.seen {
		return nil, s.fail(s.pos, "there is a second outermost element")
	}
	depth := 1
	if s.open != nil {
		if depth = s.open.Depth + 1; depth > MaxDepth {
			return nil, s.fail(s.pos, "nested deeper than %d levels", MaxDepth)
		}
	}
	if depth > len(s.elems) {
		s.elems = append(s.elems, new(Element))
	}
	e := s.elems[depth-1]
	e.Off, e.Parent, e.Depth, e.Attrs = int64(s.pos), s.open, depth, e.Attrs[:0]
	if raw := s.b[s.pos+1 : i]; e.Name != string(raw) {
		n := s.name(raw)
		e.Name, e.Local = n.name, n.local
	}
	s.seen = true
	return e, nil
}
