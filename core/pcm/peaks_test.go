package pcm_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"math"
	"testing"

	"boundcrate/core/pcm"
)

// wave renders samples −1 to 1 of one channel.
func wave(depth, format int, samples []float64) []byte {
	var data bytes.Buffer
	for _, v := range samples {
		switch {
		case format == 3:
			_ = binary.Write(&data, binary.LittleEndian, float32(v))
		case depth == 8:
			data.WriteByte(byte(128 + int(v*127)))
		default:
			var b [4]byte
			binary.LittleEndian.PutUint32(b[:], uint32(int32(v*(1<<31-1))))
			data.Write(b[4-depth/8:])
		}
	}
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) }
	b.WriteString("RIFF\x00\x00\x00\x00WAVEfmt ")
	le(uint32(16))
	le(uint16(format))
	le(uint16(1))
	le(uint32(1000))
	le(uint32(1000 * depth / 8))
	le(uint16(depth / 8))
	le(uint16(depth))
	b.WriteString("data")
	le(uint32(data.Len()))
	b.Write(data.Bytes())
	return b.Bytes()
}

// TestPeaks: a tone of known amplitude peaks at it, in every sample form.
func TestPeaks(t *testing.T) {
	tone := make([]float64, 1000)
	for i := range tone {
		tone[i] = 0.5 * math.Sin(2*math.Pi*float64(i)/20)
		if i >= 500 {
			tone[i] = 0
		}
	}
	for _, c := range [][2]int{{8, 1}, {16, 1}, {24, 1}, {32, 1}, {32, 3}} {
		b := wave(c[0], c[1], tone)
		low, high, seconds, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10)
		if err != nil || len(low) != 10 || seconds != 1 {
			t.Fatalf("%v: %d slices, %v s, %v", c, len(low), seconds, err)
		}
		for i := range 10 {
			want := 0.5
			if i >= 5 {
				want = 0
			}
			if math.Abs(high[i]-want) > 0.01 || math.Abs(low[i]+want) > 0.01 {
				t.Errorf("%v, slice %d: %v to %v", c, i, low[i], high[i])
			}
		}
	}
	b := wave(24, 85, tone)
	if _, _, _, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10); !errors.Is(err, pcm.ErrNotLinear) {
		t.Error(err)
	}
	b = wave(16, 1, tone[:3])
	if low, _, _, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10); err != nil || len(low) != 3 {
		t.Error(low, err)
	}
}
