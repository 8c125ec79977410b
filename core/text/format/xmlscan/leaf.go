package xmlscan

import (
	"boundcrate/core/text/mention"
)

// Leaf gathers the character data of elements whose whole content is one name:
// the first run of text that is not white space. Begin is called at the
// element's start, Take for each text, and At gives the piece at its end.
type Leaf struct {
	of    *Element
	span  mention.Span
	cdata bool
	have  bool
	empty int64
}

// Begin watches an element.
func (l *Leaf) Begin(e *Element) { *l = Leaf{of: e, empty: e.End} }

// Take looks at a run of text.
func (l *Leaf) Take(b []byte, e *Element, span mention.Span, isCDATA bool) {
	if l.of != e || l.have {
		return
	}
	span = Trim(b, span)
	if raw := b[span.Off:span.End]; len(raw) == 0 || raw[0] == ' ' || raw[0] == '\n' || raw[0] == '\r' || raw[0] == '\t' {
		return
	}
	l.span, l.cdata, l.have = span, isCDATA, true
}

// At is the piece of an element that ends; ok tells that it is the watched one
// and holds a name.
func (l *Leaf) At(e *Element) (p mention.Piece, ok bool) {
	if l.of != e {
		return p, false
	}
	l.of = nil
	if !l.have {
		return p, false
	}
	if l.cdata {
		return mention.Piece{Span: l.span, Coding: CDATA}, true
	}
	return mention.Piece{Span: l.span, Coding: Text}, true
}

// Piece is an attribute's value as a piece.
func (a *Attr) Piece() mention.Piece { return mention.Piece{Span: a.Span, Coding: Attribute} }
