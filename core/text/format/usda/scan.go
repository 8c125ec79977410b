package usda

import (
	"bytes"

	"boundcrate/core/text/mention"
)

func opener(c byte) byte {
	switch c {
	case '}':
		return '{'
	case ')':
		return '('
	}
	return '['
}

// slash passes over a comment in the other manner: to the end of the line, or
// to its closing mark.
func (r *reader) slash() error {
	rest := r.b[r.pos:]
	switch {
	case bytes.HasPrefix(rest, []byte("//")):
		if i := bytes.IndexByte(rest, '\n'); i >= 0 {
			r.pos += i
		} else {
			r.pos = len(r.b)
		}
	case bytes.HasPrefix(rest, []byte("/*")):
		i := bytes.Index(rest[2:], []byte("*/"))
		if i < 0 {
			return r.fail(r.pos, "a comment is not closed")
		}
		r.pos += i + 4
	default:
		r.pos++
	}
	return nil
}

// unquoted reads a word without quotes.
func (r *reader) unquoted() {
	from := r.pos
	for r.pos < len(r.b) && !ends[r.b[r.pos]] {
		r.pos++
	}
	if r.pos == from {
		r.pos++
	}
	r.stmt = append(r.stmt, word{b: r.b[from:r.pos]})
}

// target reads a prim path: <…>. One that follows an asset is what is meant in
// the layer it names.
func (r *reader) target() {
	end := bytes.IndexAny(r.b[r.pos:], ">\n")
	if end < 0 || r.b[r.pos+end] == '\n' {
		r.pos++
		return
	}
	if r.fresh >= 0 {
		if g := r.doc.Mentions[r.fresh].In().Graft; g != nil {
			g.To = string(r.b[r.pos+1 : r.pos+end])
		}
		r.fresh = -1
	}
	r.pos += end + 1
}

// skipNumbers passes over the numbers of a list, and the tuples they stand in:
// they are most of a layer and say nothing.
func (r *reader) skipNumbers() {
	b, i := r.b, r.pos
	depth := 0
	for from := i; i < len(b); i++ {
		c := b[i]
		if c == '(' {
			if depth == 0 {
				from = i
			}
			depth++
			continue
		}
		if numeric[c] || c == ')' && depth > 0 {
			if c == ')' {
				depth--
			}
			continue
		}
		if depth > 0 {
			i = from // a tuple that holds more than numbers is read as it stands
		}
		break
	}
	if i == len(b) && depth > 0 {
		i = r.pos
	}
	r.pos = i
}

// numeric are the bytes that numbers in a list are made of, and what parts them.
var numeric = func() (t [256]bool) {
	for _, c := range []byte("0123456789.-+ ,\t\r\n") {
		t[c] = true
	}
	return t
}()

// ends are the bytes a bare word ends before.
var ends = func() (t [256]bool) {
	for _, c := range []byte(" \t\r\n#/\"'@{}()[]=,;<") {
		t[c] = true
	}
	return t
}()

func (r *reader) depth() int { return len(r.stack) }

func (r *reader) top() *frame { return &r.stack[len(r.stack)-1] }

// str reads a string of either quote, also of three.
func (r *reader) str(q byte) (word, bool) {
	from := r.pos
	if b := r.b[from:]; len(b) > 2 && b[1] == q && b[2] == q {
		i := bytes.Index(b[3:], b[:3])
		if i < 0 {
			return word{}, false
		}
		r.pos += i + 6
		return word{b[3 : 3+i], true, mention.Span{Off: int64(from), End: int64(r.pos)}}, true
	}
	for i := from + 1; i < len(r.b); i++ {
		switch r.b[i] {
		case '\\':
			i++
		case q:
			r.pos = i + 1
			return word{r.b[from+1 : i], true, mention.Span{Off: int64(from), End: int64(r.pos)}}, true
		case '\n':
			return word{}, false
		}
	}
	return word{}, false
}

func (r *reader) has(s string) bool {
	for _, w := range r.stmt {
		if w.is(s) {
			return true
		}
	}
	return false
}
