package pcm

import (
	"errors"
	"io"

	"github.com/mewkiz/flac"
)

// flacPeaks is Peaks of a FLAC file, all of which is decoded.
func flacPeaks(r io.Reader, n int) (low, high []float64, seconds float64, err error) {
	s, err := flac.New(r)
	if err != nil {
		return nil, nil, 0, errors.Join(ErrNotLinear, err)
	}
	all, rate := int64(s.Info.NSamples), s.Info.SampleRate
	if all <= 0 || rate == 0 {
		return nil, nil, 0, ErrNotLinear // a stream that does not say how long it is
	}
	n = int(min(int64(n), all))
	low, high = make([]float64, n), make([]float64, n)
	for i := range n {
		low[i], high[i] = 1, -1
	}
	full := float64(int64(1) << (s.Info.BitsPerSample - 1))
	at := int64(0)
	for {
		f, err := s.ParseNext()
		if err != nil { // its end, or what is broken: it is drawn as far as it goes
			break
		}
		for _, c := range f.Subframes {
			for k, v := range c.Samples {
				if i := (at + int64(k)) * int64(n) / all; i < int64(n) {
					x := float64(v) / full
					low[i], high[i] = min(low[i], x), max(high[i], x)
				}
			}
		}
		at += int64(f.BlockSize)
	}
	for i := range n {
		if low[i] > high[i] {
			low[i], high[i] = 0, 0
		}
		low[i], high[i] = round(low[i]), round(high[i])
	}
	return low, high, float64(all) / float64(rate), nil
}
