package mention_test

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"boundcrate/core/text/mention"
)

// TestLines: whatever offsets are asked in whatever order, each has one line more than line ends stand before it.
func TestLines(t *testing.T) {
	random := rand.New(rand.NewPCG(30, 11))
	for range 50 {
		text := make([]byte, random.IntN(400))
		for i := range text {
			text[i] = "ab\n\r"[random.IntN(4)]
		}
		lines := mention.Text{Bytes: text}.Lines()
		for range 100 {
			off := random.IntN(len(text)+20) - 10
			want := 1 + bytes.Count(text[:max(0, min(off, len(text)))], []byte{'\n'})
			if got := lines.At(int64(off)); got != want {
				t.Fatalf("offset %d of %q is in line %d, not %d", off, text, got, want)
			}
		}
	}
}
