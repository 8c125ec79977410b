package mention

import "strconv"

// Add appends a mention and returns its number.
//
// A document can hold a million of them, so the list grows by what the place
// of the present one says is still to come, and not by copying it again and
// again: the texts' length over the offset reached is how often the list must
// grow.
func (d *Doc) Add(m Mention) int {
	if n := len(d.Mentions); n == cap(d.Mentions) && n >= 1024 {
		room := n + n/2
		if len(m.Pieces) > 0 {
			s := m.Pieces[0].Span
			if at, end := float64(s.End), float64(len(d.Texts[s.Text].Bytes)); at > 0 {
				room = max(n+n/8, min(int(float64(n)*end/at*1.01)+64, 3*n))
			}
		}
		d.Mentions = append(make([]Mention, 0, room), d.Mentions...)
	}
	d.Mentions = append(d.Mentions, m)
	return len(d.Mentions) - 1
}

// One is the pieces of a mention that stands in one place. Pieces of one
// document share their memory, a few hundred to a block.
func (d *Doc) One(span Span, coding Coding) []Piece {
	if len(d.pieces) == cap(d.pieces) {
		d.pieces = make([]Piece, 0, max(1, min(len(d.Mentions), 512)))
	}
	d.pieces = append(d.pieces, Piece{span, coding})
	n := len(d.pieces)
	return d.pieces[n-1 : n : n]
}

// Numbered is an owner that is words and a number: "line 12".
func Numbered(words string, n int) string {
	var b [40]byte
	return string(strconv.AppendInt(append(b[:0], words...), int64(n), 10))
}
