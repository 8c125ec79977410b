package look_test

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"testing"

	"boundcrate/core/media/look"
	"boundcrate/core/mend/mend/mendtest"
)

// TestLook: a sound is recognised by its loud half, a picture by its dark one, and
// what is neither has no look.
func TestLook(t *testing.T) {
	data := bytes.Repeat([]byte{128}, 4000)
	for i := 2000; i < 4000; i++ {
		data[i] = byte(128 + 100*(1-2*(i%2)))
	}
	b, err := look.Of(bytes.NewReader(mendtest.Wave(data)), int64(len(mendtest.Wave(data))))
	if err != nil {
		t.Fatal(err)
	}
	low, high, seconds, err := look.Wave(b)
	if err != nil || seconds != 2 || len(low) != 160 || len(b) > 400 {
		t.Fatalf("%v %v s, %d parts, %d bytes", err, seconds, len(low), len(b))
	}
	for i := range low {
		want := 0.0
		if i >= 80 {
			want = 100.0 / 128
		}
		if math.Abs(high[i]-want) > 0.01 || math.Abs(low[i]+want) > 0.01 {
			t.Errorf("part %d lies between %.2f and %.2f", i, low[i], high[i])
		}
	}
	m := image.NewGray(image.Rect(0, 0, 600, 300))
	for y := range 300 {
		for x := 300; x < 600; x++ {
			m.SetGray(x, y, color.Gray{255})
		}
	}
	var file bytes.Buffer
	if err := png.Encode(&file, m); err != nil {
		t.Fatal(err)
	}
	if b, err = look.Of(bytes.NewReader(file.Bytes()), int64(file.Len())); err != nil {
		t.Fatal(err)
	}
	small, err := look.Picture(b)
	if err != nil {
		t.Fatal(err)
	}
	got, err := jpeg.Decode(bytes.NewReader(small))
	if err != nil || got.Bounds().Dx() != 240 || got.Bounds().Dy() != 120 {
		t.Fatalf("%v %v", err, got.Bounds())
	}
	if dark, _, _, _ := got.At(40, 60).RGBA(); dark > 0x2000 {
		t.Errorf("its dark half is %x", dark)
	}
	for _, none := range []string{"", "RIFF\x00", "no words\xff", "\x89PNG\r\n\x1a\n and no more"} {
		if b, err := look.Of(bytes.NewReader([]byte(none)), int64(len(none))); err == nil {
			t.Errorf("%q looks like %v", none, b)
		}
	}
	if b, err := look.Of(bytes.NewReader([]byte("newmtl hull\n")), 12); err != nil {
		t.Error(err)
	} else if text, err := look.Text(b); err != nil || text != "newmtl hull\n" {
		t.Errorf("%q %v", text, err)
	}
	for _, none := range [][]byte{nil, {'w'}, {'p'}, {'x', 1, 2}} {
		_, _, _, err := look.Wave(none)
		_, err3 := look.Text(none)
		if _, err2 := look.Picture(none); err == nil || err2 == nil || err3 == nil {
			t.Errorf("%q is a look", none)
		}
	}
}
