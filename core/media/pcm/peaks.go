// Package pcm reads linear sound: for now, the waveform people recognise a
// recording by.
package pcm

import (
	"encoding/binary"
	"errors"
	"io"
	"math"

	"boundcrate/core/media/facts"
)

// ErrNotLinear: the sound is not linear PCM, or 32-bit float in a WAVE file.
var ErrNotLinear = errors.New("not linear sound in a WAVE, AIFF or FLAC file")

// Peaks returns the lowest and highest sample, −1 to 1 over all channels, of
// each of n equal slices of a WAVE, AIFF or FLAC file, and its length in seconds. Of long
// files each slice is sampled at its beginning, at most 4096 frames, so that a
// recording of hours is drawn at once.
func Peaks(of io.ReaderAt, size int64, n int) (low, high []float64, seconds float64, err error) {
	defer facts.Border(&err)
	if head := make([]byte, 4); size > 42 {
		if _, err := of.ReadAt(head, 0); err == nil && string(head) == "fLaC" {
			return flacPeaks(io.NewSectionReader(of, 0, size), n)
		}
	}
	r, err := AsWAV(of, size)
	if err != nil {
		return nil, nil, 0, errors.Join(ErrNotLinear, err)
	}
	size = r.Size()
	w, err := facts.ReadWAV(r, size)
	if err != nil && !(errors.Is(err, facts.ErrDamaged) && w.DataSize > 0) {
		return nil, nil, 0, err // sound that is cut off is drawn as far as it goes
	}
	bytes := w.Depth / 8
	if w.Channels == 0 || w.Block != bytes*w.Channels || bytes == 0 || bytes > 4 || w.Format != 1 && (w.Format != 3 || bytes != 4) {
		return nil, nil, 0, ErrNotLinear
	}
	frames := w.DataSize / int64(w.Block)
	n = int(min(int64(n), frames))
	buf := make([]byte, 4096*w.Block)
	for i := range n {
		from, to := frames*int64(i)/int64(n), frames*int64(i+1)/int64(n)
		b := buf[:min(to-from, 4096)*int64(w.Block)]
		if _, err := r.ReadAt(b, w.Data+from*int64(w.Block)); err != nil && err != io.EOF {
			return nil, nil, 0, err
		}
		lo, hi := 1.0, -1.0
		for at := 0; at+bytes <= len(b); at += bytes {
			v := Sample(b[at:at+bytes], w.Format == 3)
			lo, hi = min(lo, v), max(hi, v)
		}
		low, high = append(low, round(lo)), append(high, round(hi))
	}
	return low, high, w.Seconds, nil
}

func round(v float64) float64 { return math.Round(max(-1, min(1, v))*1000) / 1000 }

// Sample decodes one little-endian sample; 8-bit is unsigned.
func Sample(b []byte, float bool) float64 {
	switch len(b) {
	case 1:
		return float64(int(b[0])-128) / 128
	case 2:
		return float64(int16(binary.LittleEndian.Uint16(b))) / (1 << 15)
	case 3:
		return float64(int32(uint32(b[0])<<8|uint32(b[1])<<16|uint32(b[2])<<24)>>8) / (1 << 23)
	}
	v := binary.LittleEndian.Uint32(b)
	if float {
		return float64(math.Float32frombits(v))
	}
	return float64(int32(v)) / (1 << 31)
}
