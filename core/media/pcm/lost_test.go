package pcm

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"slices"
	"testing"
)

// TestLost: what stands beside a sound goes along from WAVE to WAVE, and is named where its new
// file cannot carry it; 64-bit samples stay what they are.
func TestLost(t *testing.T) {
	b := floats(8, 0.5, -0.25)
	for _, id := range []string{"cue ", "bext", "LIST"} {
		b = append(binary.LittleEndian.AppendUint32(append(b, id...), 4), 0, 0, 0, 0)
	}
	for to, want := range map[Spec][]string{{Type: WAV, Depth: 24}: nil, {Type: FLAC, Depth: 24}: {"LIST", "bext", "cue"}, {Type: AIFF, Depth: 24}: {"LIST", "bext", "cue"}} {
		s, err := Open(bytes.NewReader(b), int64(len(b)))
		if err != nil {
			t.Fatal(err)
		}
		c, err := s.Convert(to)
		if err != nil || !slices.Equal(c.Lost(), want) {
			t.Errorf("%+v loses %q, wanted %q (%v)", to, c.Lost(), want, err)
		}
	}
	double := floats(16)
	double[32], double[34] = 8, 64
	binary.LittleEndian.PutUint32(double[28:], 8*48000)
	for _, v := range []float64{math.Pi / 4, -1.0 / 3} {
		double = binary.LittleEndian.AppendUint64(double, math.Float64bits(v))
	}
	s, err := Open(bytes.NewReader(double), int64(len(double)))
	if err != nil {
		t.Fatal(err)
	}
	if c, err := s.Convert(Spec{}); err != nil || c != nil {
		t.Errorf("64 bits become %+v (%v)", c, err)
	}
	s.Take(Cut{First: 1, Frames: 1})
	c, err := s.Convert(Spec{})
	if err != nil || c == nil || c.To.Depth != 64 {
		t.Fatalf("%+v %v", c, err)
	}
	var out bytes.Buffer
	if _, err := c.WriteTo(context.Background(), &out, nil); err != nil || math.Float64frombits(binary.LittleEndian.Uint64(out.Bytes()[out.Len()-8:])) != -1.0/3 {
		t.Errorf("another sample came (%v)", err)
	}
}
