package facts_test

import (
	"bytes"
	"errors"
	"image"
	"image/png"
	"testing"

	"golang.org/x/image/bmp"

	"boundcrate/core/media/facts"
)

// TestLargePictures: a large picture is known in another wrapping where nobody waits for
// it, and nowhere else.
func TestLargePictures(t *testing.T) {
	m := image.NewRGBA(image.Rect(0, 0, 2100, 2100))
	for i := range m.Pix {
		m.Pix[i] = byte(i/7) | 3
		if i%4 == 3 {
			m.Pix[i] = 0xFF
		}
	}
	var a, b bytes.Buffer
	if err := errors.Join(png.Encode(&a, m), bmp.Encode(&b, m)); err != nil {
		t.Fatal(err)
	}
	of := func(x []byte, most int) string {
		s, err := facts.DecodedWithin(bytes.NewReader(x), int64(len(x)), most)
		if err != nil && !errors.Is(err, facts.ErrNotDecoded) {
			t.Fatal(err)
		}
		return s
	}
	if of(a.Bytes(), facts.MaxPixels) != "" {
		t.Error("people wait for it")
	}
	if x, y := of(a.Bytes(), facts.LargePixels), of(b.Bytes(), facts.LargePixels); x == "" || x != y {
		t.Errorf("%q and %q", x, y)
	}
}
