package pcm_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"math/rand/v2"
	"testing"

	"boundcrate/core/media/pcm"
)

// riff is a WAVE file of 16 bits with a chunk beside the sound.
func riff(rate int, samples []int16, id string, body []byte) []byte {
	le := binary.LittleEndian
	b := []byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00")
	b = le.AppendUint32(b, uint32(rate))
	b = le.AppendUint32(b, uint32(2*rate))
	b = append(b, 2, 0, 16, 0)
	b = append(b, id...)
	b = le.AppendUint32(b, uint32(len(body)))
	b = append(append(b, body...), make([]byte, len(body)&1)...)
	b = append(b, "data"...)
	b = le.AppendUint32(b, uint32(2*len(samples)))
	for _, s := range samples {
		b = le.AppendUint16(b, uint16(s))
	}
	le.PutUint32(b[4:], uint32(len(b)-8))
	return b
}

func converted(t *testing.T, file []byte, to pcm.Spec) (*pcm.Conversion, []byte) {
	t.Helper()
	s, err := pcm.Open(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Convert(to)
	if err != nil || c == nil {
		t.Fatal(c, err)
	}
	var b bytes.Buffer
	if _, err := c.WriteTo(context.Background(), &b, nil); err != nil {
		t.Fatal(err)
	}
	return c, b.Bytes()
}

// TestLargeChunks: what stands beside the sound goes along byte for byte however large it
// is, and the file says its own length.
func TestLargeChunks(t *testing.T) {
	body := make([]byte, 17<<20+1)
	for i := range body {
		body[i] = byte(i * 7)
	}
	file := riff(48000, make([]int16, 4800), "_PMX", body)
	c, out := converted(t, file, pcm.Spec{Depth: 24})
	if n, known := c.Size(); !known || n != int64(len(out)) || int(binary.LittleEndian.Uint32(out[4:]))+8 != len(out) {
		t.Errorf("%d bytes, told %d, its head %d", len(out), n, binary.LittleEndian.Uint32(out[4:])+8)
	}
	at := bytes.Index(out, []byte("_PMX"))
	if at < 0 || !bytes.Equal(out[at+8:at+8+len(body)], body) {
		t.Error("the chunk is not in it")
	}
	s, err := pcm.Open(bytes.NewReader(out), int64(len(out)))
	if err != nil || s.Frames != 4800 || s.Depth != 24 {
		t.Errorf("%+v %v", s, err)
	}
}

// TestTold: the size of what is packed is told within a tenth before it is made, for sounds
// of one kind throughout, long and short ones.
func TestTold(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for name, of := range map[string]func(i int) float64{
		"silence": func(int) float64 { return 0 },
		"a tone":  func(i int) float64 { return 0.5 * math.Sin(float64(i)*0.05) },
		"noise":   func(int) float64 { return rng.Float64() - 0.5 },
		"a swell": func(i int) float64 { return (rng.Float64() - 0.5) * (0.5 + 0.5*math.Sin(float64(i)/90_000)) },
	} {
		for _, seconds := range []int{1, 20} {
			samples := make([]int16, seconds*48000)
			for i := range samples {
				samples[i] = int16(30000 * of(i))
			}
			c, out := converted(t, riff(48000, samples, "junk", nil), pcm.Spec{Type: pcm.FLAC})
			n, known := c.Size()
			if off := math.Abs(float64(n)-float64(len(out))) / float64(len(out)); known || off > 0.1 {
				t.Errorf("%s of %d s has %d bytes, told %d", name, seconds, len(out), n)
			}
		}
	}
}
