package mention

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

// TestInOrder: whatever order a format finds mentions in, they are told in that
// of their texts; what stands nowhere stays what it was found after.
func TestInOrder(t *testing.T) {
	rng := rand.New(rand.NewPCG(23, 29))
	for range 200 {
		var d Doc
		n := 1 + rng.IntN(20)
		for _, at := range rng.Perm(n) {
			pieces := []Piece{{Span: Span{Text: at % 3, Off: int64(10*at + 5), End: int64(10*at + 6)}}}
			if rng.IntN(3) == 0 { // several pieces: it begins with the first in the text
				pieces = append(pieces, Piece{Span: Span{Text: at % 3, Off: int64(10 * at), End: int64(10*at + 1)}})
			}
			d.Add(Mention{Pieces: pieces, Owner: fmt.Sprint(at)})
			for range rng.IntN(3) {
				d.Add(Mention{Owner: fmt.Sprint(at), Nature: Unsaved})
			}
		}
		count := len(d.Mentions)
		d.InOrder()
		if len(d.Mentions) != count {
			t.Fatal("some were lost")
		}
		last, behind := Span{}, ""
		for i := range d.Mentions {
			m := &d.Mentions[i]
			if len(m.Pieces) == 0 {
				if m.Owner != behind {
					t.Fatalf("%s stands behind %s", m.Owner, behind)
				}
				continue
			}
			if at := m.at(last); before(at, last) {
				t.Fatalf("%v after %v", at, last)
			} else {
				last, behind = at, m.Owner
			}
		}
	}
}
