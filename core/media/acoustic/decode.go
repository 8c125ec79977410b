// Package acoustic recognises a recording by what it sounds like, whatever coding it
// went through.
package acoustic

import (
	"errors"
	"io"

	"github.com/hajimehoshi/go-mp3"
	"github.com/mewkiz/flac"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
)

// ErrNotHeard: the sound of this file is not decoded here.
var ErrNotHeard = errors.New("its sound is not decoded")

// seconds is how much of a recording's beginning is listened to, rate how often a
// second the sum of its channels is sampled: speech and most of music lie below half
// of that.
const (
	seconds = 30
	rate    = 11025
)

// mono is the beginning of a recording, all channels together, at the rate.
func mono(r io.ReaderAt, size int64) ([]float64, error) {
	head := make([]byte, 12)
	if n, err := r.ReadAt(head, 0); n < len(head) {
		return nil, errors.Join(ErrNotHeard, err)
	}
	switch {
	case string(head[:4]) == "fLaC":
		return fromFLAC(io.NewSectionReader(r, 0, size))
	case string(head[:3]) == "ID3" || head[0] == 0xFF && head[1]&0xE0 == 0xE0:
		return fromMP3(io.NewSectionReader(r, 0, size))
	}
	wav, err := pcm.AsWAV(r, size)
	if err != nil {
		return nil, errors.Join(ErrNotHeard, err)
	}
	return fromWAV(wav)
}

func fromWAV(r *io.SectionReader) ([]float64, error) {
	w, err := facts.ReadWAV(r, r.Size())
	if err != nil {
		return nil, err
	}
	width := w.Depth / 8
	if width < 1 || width > 4 || w.Channels < 1 || w.Block != width*w.Channels || w.Rate < 1 || w.Format != 1 && (w.Format != 3 || width != 4) {
		return nil, ErrNotHeard
	}
	to := newThinner(w.Rate)
	buf := make([]byte, 4096*w.Block)
	for at := int64(0); at < w.DataSize && !to.full(); {
		b := buf[:min(int64(len(buf)), w.DataSize-at)]
		if n, err := r.ReadAt(b, w.Data+at); n < len(b) {
			return nil, err
		}
		for i := 0; i+w.Block <= len(b); i += w.Block {
			sum := 0.0
			for c := range w.Channels {
				sum += pcm.Sample(b[i+c*width:i+(c+1)*width], w.Format == 3)
			}
			to.take(sum / float64(w.Channels))
		}
		at += int64(len(b))
	}
	return to.out, nil
}

func fromFLAC(r io.Reader) ([]float64, error) {
	s, err := flac.New(r)
	if err != nil {
		return nil, errors.Join(ErrNotHeard, err)
	}
	to := newThinner(int(s.Info.SampleRate))
	full := float64(int64(1) << (s.Info.BitsPerSample - 1))
	for !to.full() {
		f, err := s.ParseNext()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, errors.Join(ErrNotHeard, err)
		}
		for i := range int(f.BlockSize) {
			sum := 0.0
			for _, c := range f.Subframes {
				sum += float64(c.Samples[i])
			}
			to.take(sum / full / float64(len(f.Subframes)))
		}
	}
	return to.out, nil
}

func fromMP3(r io.Reader) ([]float64, error) {
	d, err := mp3.NewDecoder(r)
	if err != nil {
		return nil, errors.Join(ErrNotHeard, err)
	}
	to := newThinner(d.SampleRate())
	buf := make([]byte, 4*4096) // two channels of 16 bits, whatever the file has
	for !to.full() {
		n, err := io.ReadFull(d, buf)
		for i := 0; i+4 <= n; i += 4 {
			to.take((pcm.Sample(buf[i:i+2], false) + pcm.Sample(buf[i+2:i+4], false)) / 2)
		}
		if err != nil {
			break // its end, or what is broken: what was heard so far counts
		}
	}
	return to.out, nil
}

// thinner averages samples down to the rate. What folds over is faint against what is
// looked at, the strongest of a spectrum.
type thinner struct {
	step, phase, sum float64
	n                int
	out              []float64
}

func newThinner(from int) *thinner {
	return &thinner{step: rate / float64(max(1, from)), out: make([]float64, 0, rate)} // most sounds are short
}

func (t *thinner) full() bool { return len(t.out) >= seconds*rate }

func (t *thinner) take(v float64) {
	t.sum, t.n, t.phase = t.sum+v, t.n+1, t.phase+t.step
	for t.phase >= 1 && !t.full() {
		t.out = append(t.out, t.sum/float64(max(1, t.n)))
		if t.phase -= 1; t.phase < 1 {
			t.sum, t.n = 0, 0
		}
	}
}
