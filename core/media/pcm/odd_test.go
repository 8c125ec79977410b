package pcm

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"testing"
)

// floats is a WAVE file of 32-bit samples whose data chunk says that it has some length.
func floats(length uint32, samples ...float32) []byte {
	b := []byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x03\x00\x01\x00")
	b = binary.LittleEndian.AppendUint32(b, 48000)
	b = binary.LittleEndian.AppendUint32(b, 4*48000)
	b = append(b, 4, 0, 32, 0)
	b = binary.LittleEndian.AppendUint32(append(b, "data"...), length)
	for _, s := range samples {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(s))
	}
	return b
}

// TestOddSamples: what is no number, or infinite, is silence of that one sample; what goes
// beyond full scale is cut to it; both are counted, and the gain that would avoid it told.
func TestOddSamples(t *testing.T) {
	nan, inf := float32(math.NaN()), float32(math.Inf(1))
	b := floats(4*8, 0.5, nan, -0.5, inf, 2, -2, -inf, 0.25)
	s, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Convert(Spec{Depth: 24})
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	res, err := c.WriteTo(context.Background(), &out, nil)
	if err != nil || res.Odd != 3 || res.Clipped != 2 || res.Peak != 2 || res.Gain() != 6.1 { // 20 log10 2 is 6.02
		t.Errorf("%+v %v, %v dB", res, err, res.Gain())
	}
	back, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	var got []float64
	_ = back.samples(func(x [][]float64) error { got = append(got, x[0]...); return nil })
	for i, want := range []float64{0.5, 0, -0.5, 0, 1, -1, 0, 0.25} {
		if math.Abs(got[i]-want) > 1e-6 {
			t.Errorf("sample %d is %v, wanted %v", i, got[i], want)
		}
	}
}

// TestNeverClosed: a length that was never written, by a pipe or a recorder that lost its
// power, is that of the rest of the file; an empty sound before other chunks stays empty.
func TestNeverClosed(t *testing.T) {
	for _, c := range []struct {
		name   string
		b      []byte
		frames int64
	}{
		{"told", floats(16, 1, 2, 3, 4), 4},
		{"a pipe's", floats(0xFFFFFFFF, 1, 2, 3, 4), 4},
		{"a recorder's", floats(0, 1, 2, 3, 4), 4},
		{"empty, with a chunk behind", append(floats(0), append([]byte("LIST\x10\x00\x00\x00"), make([]byte, 16)...)...), 0},
	} {
		s, err := Open(bytes.NewReader(c.b), int64(len(c.b)))
		if err != nil || s.Frames != c.frames {
			t.Errorf("%s: %+v %v", c.name, s, err)
		}
	}
}

// TestRatesRefused: what no recorder writes is refused at once.
func TestRatesRefused(t *testing.T) {
	for rate, good := range map[uint32]bool{1: false, 999: false, 1000: true, 48000: true, 1_536_000: true, 1_536_001: false, 1 << 31: false} {
		b := floats(4, 1)
		binary.LittleEndian.PutUint32(b[24:], rate)
		if _, err := Open(bytes.NewReader(b), int64(len(b))); (err == nil) != good {
			t.Errorf("%d Hz: %v", rate, err)
		}
	}
}
