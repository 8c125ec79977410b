// Package part21 reads the clear text encoding of ISO 10303-21 with byte
// positions: the carrier of STEP and IFC.
package part21

import (
	"bytes"
	"fmt"

	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
)

// SyntaxError tells where a text stops being Part 21.
type SyntaxError = jsonscan.SyntaxError

// Instance is one statement: #7=NAME(…); or, in the header, NAME(…);
type Instance struct {
	ID   int    // 0 in the header
	Name string // upper case; of a complex instance the first part
	Off  int64
	args []byte
	at   int64 // of args
}

// Arg is one argument: its raw bytes and where they stand.
type Arg struct {
	Raw  []byte
	Span mention.Span
}

// IsString tells one string and nothing else.
func (a Arg) IsString() bool {
	return len(a.Raw) >= 2 && a.Raw[0] == '\'' && stringEnd(a.Raw, 0) == len(a.Raw)-1
}

// Ref is the number of a reference "#7", 0 for anything else.
func (a Arg) Ref() int {
	if len(a.Raw) < 2 || a.Raw[0] != '#' {
		return 0
	}
	return number(a.Raw[1:])
}

// Refs appends the numbers of all references in a list, "(#7,#8)".
func (a Arg) Refs(to []int) []int {
	for i, c := range a.Raw {
		if c == '#' {
			end := i + 1
			for end < len(a.Raw) && a.Raw[end] >= '0' && a.Raw[end] <= '9' {
				end++
			}
			to = append(to, number(a.Raw[i+1:end]))
		}
	}
	return to
}

func number(b []byte) int {
	n := 0
	for _, c := range b {
		if c < '0' || c > '9' || n > 1<<40 {
			return 0
		}
		n = 10*n + int(c-'0')
	}
	return n
}

// Inner is the string of a typed value, IDENTIFIER('x').
func (a Arg) Inner() Arg {
	i := bytes.IndexByte(a.Raw, '\'')
	j := bytes.LastIndexByte(a.Raw, '\'')
	if a.IsString() || i < 0 || j <= i {
		return a
	}
	return Arg{a.Raw[i : j+1], mention.Span{Text: a.Span.Text, Off: a.Span.Off + int64(i), End: a.Span.Off + int64(j) + 1}}
}

// Text is the decoded string; "" for anything else.
func (a Arg) Text() string {
	if !a.IsString() {
		return ""
	}
	s, err := String.Decode(a.Raw)
	if err != nil {
		return string(a.Raw)
	}
	return s
}

// Args divides the arguments. Strings, lists and typed values stay whole.
func (in Instance) Args() []Arg {
	list := make([]Arg, 0, 8)
	depth, from := 0, 0
	put := func(to int) {
		left := skipSpace(in.args[from:to])
		off := in.at + int64(to-len(left))
		raw := trimSpace(left)
		list = append(list, Arg{raw, mention.Span{Off: off, End: off + int64(len(raw))}})
	}
	for i := 0; i < len(in.args); i++ {
		switch in.args[i] {
		case '\'':
			i = stringEnd(in.args, i)
		case '(':
			depth++
		case ')':
			depth--
		case ',':
			if depth == 0 {
				put(i)
				from = i + 1
			}
		case '/':
			if i+1 < len(in.args) && in.args[i+1] == '*' {
				if j := bytes.Index(in.args[i:], []byte("*/")); j > 0 {
					i += j + 1
				}
			}
		}
	}
	if from < len(in.args) || len(list) > 0 {
		put(len(in.args))
	}
	return list
}

// skipSpace passes over white space and comments (§6.4.1, §6.3.7), trimSpace
// over those at the end.
func skipSpace(b []byte) []byte {
	for {
		b = bytes.TrimLeft(b, " \t\r\n")
		if !bytes.HasPrefix(b, []byte("/*")) {
			return b
		}
		end := bytes.Index(b[2:], []byte("*/"))
		if end < 0 {
			return b
		}
		b = b[end+4:]
	}
}

func trimSpace(b []byte) []byte {
	if len(b) > 0 && b[0] == '\'' { // what stands after a string is no part of it
		if end := stringEnd(b, 0); end < len(b) && len(skipSpace(b[end+1:])) == 0 {
			return b[:end+1]
		}
	}
	return bytes.TrimRight(b, " \t\r\n")
}

// stringEnd is the last byte of the string that begins at i. Two apostrophes
// are one (§6.4.3.1).
func stringEnd(b []byte, i int) int {
	for j := i + 1; j < len(b); j++ {
		if b[j] == '\'' {
			if j+1 < len(b) && b[j+1] == '\'' {
				j++
				continue
			}
			return j
		}
	}
	return len(b)
}

// Handler is told of the file's parts in order; either function may be nil.
type Handler struct {
	// Instance is called for instances of these names, in upper case; nil: all.
	Names    map[string]bool
	Instance func(Instance)
	// Reference is called for each entry of a REFERENCE section (edition 3,
	// §10): the resource within the angle brackets.
	Reference func(span mention.Span)
}

// Magic begins every file (§5.1).
const Magic = "ISO-10303-21;"

// Scan reads a whole text in one pass.
func Scan(b []byte, h Handler) error {
	if !bytes.HasPrefix(bytes.TrimLeft(b, "\xEF\xBB\xBF \t\r\n"), []byte(Magic)) {
		return &SyntaxError{Off: 0, Msg: fmt.Sprintf("it starts with %q, not with %s", b[:min(len(b), len(Magic))], Magic)}
	}
	section, ended := "", false
	wanted := newWanted(h)
	for i := 0; i < len(b); {
		switch c := b[i]; {
		case c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == 0xEF || c == 0xBB || c == 0xBF:
			i++
			continue
		case c == '/' && i+1 < len(b) && b[i+1] == '*':
			j := bytes.Index(b[i+2:], []byte("*/"))
			if j < 0 {
				return cut(b)
			}
			i += j + 4
			continue
		}
		from := i
		end := statementEnd(b, i)
		if end < 0 {
			return cut(b)
		}
		st := b[from:end]
		if i = end + 1; len(st) == 0 {
			continue // a semicolon too many
		}
		word := st
		if st[0] == '#' {
			word = nil // an instance
		} else if k := bytes.IndexAny(st, "( \t\r\n=;"); k >= 0 {
			word = st[:k]
		}
		switch string(word) {
		case "ISO-10303-21":
		case "END-ISO-10303-21":
			ended = true
		case "HEADER", "DATA", "ANCHOR", "REFERENCE", "SIGNATURE":
			section = string(word)
		case "ENDSEC":
			section = ""
		default:
			switch section {
			case "REFERENCE":
				h.reference(st, from)
			case "HEADER", "DATA":
				in, ok := instance(st, from)
				if !ok && section == "DATA" && st[0] != '#' {
					return &SyntaxError{Off: int64(from), Msg: fmt.Sprintf("%q is no instance", clip(st))}
				}
				if ok {
					wanted.hand(in)
				}
			}
		}
	}
	if !ended {
		return cut(b)
	}
	return nil
}

// reference hands on what stands between angle brackets in a statement of the REFERENCE
// section. What holds a quote or runs over a line is no URI reference, but damage.
func (h *Handler) reference(st []byte, from int) {
	lt := bytes.IndexByte(st, '<')
	gt := lt + bytes.IndexByte(st[max(0, lt):], '>')
	if h.Reference != nil && lt >= 0 && gt > lt && !bytes.ContainsAny(st[lt+1:gt], "'\"<\r\n") {
		h.Reference(mention.Span{Off: int64(from + lt + 1), End: int64(from + gt)})
	}
}

// wanted hands on the instances whose names a handler asks for.
type wanted struct {
	h       *Handler
	lengths [128]bool // of their names: most instances are told apart by it
	upper   []byte
}

func newWanted(h Handler) *wanted {
	w := &wanted{h: &h}
	for n := range h.Names {
		w.lengths[len(n)] = true
	}
	return w
}

func (w *wanted) hand(in named) {
	h := w.h
	if h.Instance == nil || h.Names != nil && (len(in.name) >= len(w.lengths) || !w.lengths[len(in.name)]) {
		return
	}
	w.upper = w.upper[:0]
	for _, c := range in.name {
		if 'a' <= c && c <= 'z' {
			c -= 'a' - 'A'
		}
		w.upper = append(w.upper, c)
	}
	if h.Names == nil || h.Names[string(w.upper)] {
		in.Instance.Name = string(w.upper)
		h.Instance(in.Instance)
	}
}

func cut(b []byte) error { return &SyntaxError{Off: int64(len(b)), Msg: "the text ends in the middle"} }

func clip(b []byte) string { return string(b[:min(len(b), 20)]) }

// statementEnd finds the semicolon that ends what begins at i.
func statementEnd(b []byte, i int) int {
	for i < len(b) {
		switch b[i] {
		case ';':
			return i
		case '\'':
			i = stringEnd(b, i) + 1
		case '<':
			j := bytes.IndexAny(b[i:], ">\n")
			if j < 0 {
				return -1
			}
			i += j + 1
		case '/':
			if i+1 < len(b) && b[i+1] == '*' {
				j := bytes.Index(b[i+2:], []byte("*/"))
				if j < 0 {
					return -1
				}
				i += j + 4
			} else {
				i++
			}
		default:
			i++
		}
	}
	return -1
}

type named struct {
	Instance
	name []byte
}

func instance(st []byte, from int) (named, bool) {
	in := named{Instance: Instance{Off: int64(from)}}
	k := 0
	if st[0] == '#' {
		eq := bytes.IndexByte(st, '=')
		if eq < 0 {
			return in, false
		}
		if in.ID = number(bytes.TrimSpace(st[1:eq])); in.ID == 0 {
			return in, false
		}
		k = eq + 1
	}
	for k < len(st) && (st[k] == ' ' || st[k] == '\t' || st[k] == '\r' || st[k] == '\n') {
		k++
	}
	open := bytes.IndexByte(st[k:], '(')
	end := bytes.LastIndexByte(st, ')')
	if open < 0 || end < k+open {
		return in, false
	}
	in.name = bytes.TrimSpace(st[k : k+open])
	in.args, in.at = st[k+open+1:end], int64(from+k+open+1)
	return in, true
}
