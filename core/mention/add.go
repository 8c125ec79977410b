package mention

import (
	"slices"
	"sort"
	"strconv"
)

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

// InOrder puts mentions in the order of the texts they stand in, for formats
// that know only at a text's end what a place means. One that stands nowhere
// (its bytes are inside) stays behind the one before it.
func (d *Doc) InOrder() {
	at := make([]Span, len(d.Mentions))
	for i := range d.Mentions {
		if i > 0 {
			at[i] = at[i-1]
		}
		if p := d.Mentions[i].Pieces; len(p) > 0 {
			at[i] = p[0].Span
			for _, more := range p[1:] {
				at[i].Off = min(at[i].Off, more.Span.Off)
			}
		}
	}
	before := func(a, b Span) int {
		if a.Text != b.Text {
			return a.Text - b.Text
		}
		return int(a.Off - b.Off)
	}
	if slices.IsSortedFunc(at, before) {
		return
	}
	sort.Stable(&byPlace{at, d.Mentions, before})
}

type byPlace struct {
	at       []Span
	mentions []Mention
	before   func(a, b Span) int
}

func (s *byPlace) Len() int           { return len(s.at) }
func (s *byPlace) Less(i, j int) bool { return s.before(s.at[i], s.at[j]) < 0 }
func (s *byPlace) Swap(i, j int) {
	s.at[i], s.at[j] = s.at[j], s.at[i]
	s.mentions[i], s.mentions[j] = s.mentions[j], s.mentions[i]
}

// Numbered is an owner that is words and a number: "line 12".
func Numbered(words string, n int) string {
	var b [40]byte
	return string(strconv.AppendInt(append(b[:0], words...), int64(n), 10))
}
