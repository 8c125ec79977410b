package mention

import (
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
	var last Span
	ordered := true
	for i := range d.Mentions {
		at := d.Mentions[i].at(last)
		if before(at, last) {
			ordered = false
			break
		}
		last = at
	}
	if ordered { // as nearly all documents are
		return
	}
	places := make([]Span, len(d.Mentions))
	last = Span{}
	for i := range d.Mentions {
		last = d.Mentions[i].at(last)
		places[i] = last
	}
	sort.Stable(&byPlace{places, d.Mentions})
}

// at is where a mention begins, or last where it stands nowhere.
func (m *Mention) at(last Span) Span {
	if len(m.Pieces) == 0 {
		return last
	}
	at := m.Pieces[0].Span
	for _, p := range m.Pieces[1:] {
		at.Off = min(at.Off, p.Span.Off)
	}
	return at
}

func before(a, b Span) bool {
	if a.Text != b.Text {
		return a.Text < b.Text
	}
	return a.Off < b.Off
}

type byPlace struct {
	at       []Span
	mentions []Mention
}

func (s *byPlace) Len() int           { return len(s.at) }
func (s *byPlace) Less(i, j int) bool { return before(s.at[i], s.at[j]) }
func (s *byPlace) Swap(i, j int) {
	s.at[i], s.at[j] = s.at[j], s.at[i]
	s.mentions[i], s.mentions[j] = s.mentions[j], s.mentions[i]
}

// Numbered is an owner that is words and a number: "line 12".
func Numbered(words string, n int) string {
	var b [40]byte
	return string(strconv.AppendInt(append(b[:0], words...), int64(n), 10))
}
