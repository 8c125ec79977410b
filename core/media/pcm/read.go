package pcm

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"

	"github.com/mewkiz/flac"

	"boundcrate/core/media/facts"
)

// Sound is linear sound in a file that is opened: WAVE (RIFF, RF64, BW64), AIFF, FLAC.
type Sound struct {
	Type     Type
	Rate     int  // samples a second
	Channels int  // that are taken
	Depth    int  // bits a sample
	Float    bool // IEEE 754 of 32 or 64 bits
	Frames   int64
	Mask     uint32 // which speakers the channels are for (WAVE_FORMAT_EXTENSIBLE); 0: nobody says

	r      io.ReaderAt
	size   int64
	data   int64 // of linear files: where the samples begin
	first  int64 // what of it is taken begins there; in samples of each channel
	little bool
	signed bool // of 8 bits
	chunks []chunk
	open   bool     // nothing says where it ends but the end of the file
	odd    *int64   // counts samples that are no numbers; nil: nobody asks
	cut    bool     // it is not all of the file
	only   int      // of several channels the one that is taken, from 1; 0: all
	wide   int      // of that: how many the file has
	parts  []*Sound // the channels of one that was joined; it has no bytes of its own
}

// Type is a wrapping of sound.
type Type string

// The types.
const (
	WAV  Type = "wav"
	AIFF Type = "aiff"
	FLAC Type = "flac"
)

// Ext is the extension of a type's files.
func (t Type) Ext() string {
	if t == AIFF {
		return ".aif"
	}
	return "." + string(t)
}

// Open reads the header of a file. What is not linear sound in one of the types, or is
// not what it says, is ErrNotLinear or facts.ErrDamaged.
func Open(r io.ReaderAt, size int64) (s *Sound, err error) {
	defer facts.Border(&err)
	head := make([]byte, 12)
	if n, _ := r.ReadAt(head, 0); n < len(head) {
		return nil, ErrNotLinear
	}
	switch {
	case string(head[8:]) == "WAVE":
		return openWAV(r, size)
	case string(head[:4]) == "FORM":
		a, err := facts.ReadAIFF(r, size)
		if err != nil {
			return nil, errors.Join(ErrNotLinear, err)
		}
		s := &Sound{Type: AIFF, Rate: a.Rate, Channels: a.Channels, Depth: a.Depth, r: r, size: size, data: a.Data, little: a.Little, signed: true}
		s.Frames = a.DataSize / int64(s.block())
		return s, s.sane()
	case string(head[:4]) == "fLaC":
		return openFLAC(r, size)
	}
	return nil, ErrNotLinear
}

// across is how many channels the file has.
func (s *Sound) across() int {
	if s.only > 0 {
		return s.wide
	}
	return s.Channels
}

func (s *Sound) block() int { return s.across() * s.Depth / 8 }

// What a header may claim.
const (
	maxChannels = 256
	leastRate   = 1000
	maxRate     = 1_536_000
)

func (s *Sound) sane() error {
	if s.Rate < leastRate || s.Rate > maxRate || s.Channels < 1 || s.Channels > maxChannels || s.Depth < 4 || s.Depth > 64 || s.Frames < 0 {
		return fmt.Errorf("%w: %d channels of %d bits at %d Hz", facts.ErrDamaged, s.Channels, s.Depth, s.Rate)
	}
	return nil
}

func openWAV(r io.ReaderAt, size int64) (*Sound, error) {
	w, err := facts.ReadWAV(r, size)
	if err != nil {
		return nil, err
	}
	s := &Sound{Type: WAV, Rate: w.Rate, Channels: w.Channels, Depth: w.Depth, Float: w.Format == 3, r: r, size: size, data: w.Data, little: true, open: w.Unclosed}
	if w.Format != 1 && w.Format != 3 || s.Depth%8 != 0 || s.Float && s.Depth != 32 && s.Depth != 64 || !s.Float && s.Depth > 32 {
		return nil, ErrNotLinear
	}
	if err := s.sane(); err != nil {
		return nil, err
	}
	if w.Block != s.block() {
		return nil, fmt.Errorf("%w: a sample of all channels has %d bytes, %d would be right", facts.ErrDamaged, w.Block, s.block())
	}
	s.Frames = w.DataSize / int64(s.block())
	return s, s.readChunks()
}

func openFLAC(r io.ReaderAt, size int64) (*Sound, error) {
	stream, err := flac.New(io.NewSectionReader(r, 0, size))
	if err != nil {
		return nil, fmt.Errorf("%w: %v", facts.ErrDamaged, err)
	}
	i := stream.Info
	s := &Sound{Type: FLAC, Rate: int(i.SampleRate), Channels: int(i.NChannels), Depth: int(i.BitsPerSample), Frames: int64(i.NSamples), r: r, size: size}
	if i.NSamples == 0 {
		return nil, ErrNotLinear // it does not say how long it is
	}
	return s, s.sane()
}

// samples reads all of it: each gets a piece of every channel, full scale being ±1.
func (s *Sound) samples(each func([][]float64) error) (err error) {
	defer facts.Border(&err)
	if s.parts != nil {
		return s.joined(each)
	}
	if s.Type == FLAC {
		return s.decode(each)
	}
	block := s.block()
	const step = 4096
	b := make([]byte, step*block)
	x := make([][]float64, s.Channels)
	for c := range x {
		x[c] = make([]float64, step)
	}
	for at := int64(0); at < s.Frames; at += step {
		n := int(min(step, s.Frames-at))
		if m, err := s.r.ReadAt(b[:n*block], s.data+(s.first+at)*int64(block)); m < n*block {
			if err == io.EOF {
				err = io.ErrUnexpectedEOF
			}
			return err
		}
		part := make([][]float64, len(x))
		for c := range x {
			s.channel(x[c][:n], b, c)
			part[c] = x[c][:n]
		}
		if err := each(part); err != nil {
			return err
		}
	}
	return nil
}

// channel turns one channel of interleaved bytes into numbers.
func (s *Sound) channel(x []float64, b []byte, c int) {
	width := s.Depth / 8
	block := s.block()
	scale := math.Ldexp(1, 1-s.Depth)
	at := (max(0, s.only-1) + c) * width
	var order binary.ByteOrder = binary.BigEndian
	if s.little {
		order = binary.LittleEndian
	}
	for i := range x {
		v := b[at : at+width]
		switch {
		case s.Float && width == 4:
			x[i] = s.number(float64(math.Float32frombits(order.Uint32(v))))
		case s.Float:
			x[i] = s.number(math.Float64frombits(order.Uint64(v)))
		case width == 2:
			x[i] = float64(int16(order.Uint16(v))) * scale
		case width == 3:
			u := uint32(v[0]) | uint32(v[1])<<8 | uint32(v[2])<<16
			if !s.little {
				u = uint32(v[2]) | uint32(v[1])<<8 | uint32(v[0])<<16
			}
			x[i] = float64(int32(u<<8)>>8) * scale
		case width == 4:
			x[i] = float64(int32(order.Uint32(v))) * scale
		case s.signed:
			x[i] = float64(int8(v[0])) * scale
		default:
			x[i] = float64(int(v[0])-128) * scale
		}
		at += block
	}
}

// number is a sample; what is none, or is infinite, is silence of that one sample, and is
// counted.
func (s *Sound) number(v float64) float64 {
	if v-v == 0 { // neither infinite nor no number
		return v
	}
	if s.odd != nil {
		*s.odd++
	}
	return 0
}

func (s *Sound) decode(each func([][]float64) error) error {
	stream, err := flac.New(io.NewSectionReader(s.r, 0, s.size))
	if err != nil {
		return fmt.Errorf("%w: %v", facts.ErrDamaged, err)
	}
	scale := math.Ldexp(1, 1-s.Depth)
	done := int64(0)
	for done < s.first+s.Frames {
		f, err := stream.ParseNext()
		if err != nil || len(f.Subframes) != s.across() {
			return fmt.Errorf("%w: its sound ends after %d of %d samples", facts.ErrDamaged, done, s.first+s.Frames)
		}
		n := int64(len(f.Subframes[0].Samples))
		from, to := min(n, max(0, s.first-done)), min(n, s.first+s.Frames-done)
		done += n
		if from >= to {
			continue
		}
		taken := f.Subframes
		if s.only > 0 {
			taken = taken[s.only-1 : s.only]
		}
		part := make([][]float64, len(taken))
		for c, sub := range taken {
			part[c] = make([]float64, to-from)
			for i, v := range sub.Samples[from:to] {
				part[c][i] = float64(v) * scale
			}
		}
		if err := each(part); err != nil {
			return err
		}
	}
	return nil
}

// Cut is the part of a sound that is taken; none is all.
type Cut struct {
	First   int64 `json:"first"`             // in samples of each channel
	Frames  int64 `json:"frames"`            // 0: to its end
	Channel int   `json:"channel,omitempty"` // the only one that is taken, from 1; 0: all
}

// Take leaves of a sound what a cut takes. Times that stand beside it go along.
func (s *Sound) Take(c Cut) {
	if c.Channel > 0 && c.Channel <= s.Channels && s.Channels > 1 {
		s.single(c.Channel)
	}
	if c.Frames == 0 {
		return
	}
	s.first = min(c.First, s.Frames)
	s.Frames = min(c.Frames, s.Frames-s.first)
	s.chunks = later(s.chunks, s.first, s.Frames)
	s.cut = true
}

// Whole reads a FLAC file to its end, to tell whether it is whole; others tell by their
// length.
func (s *Sound) Whole() error {
	for _, p := range s.parts {
		if err := p.Whole(); err != nil {
			return err
		}
	}
	if s.parts != nil || s.Type != FLAC {
		return nil
	}
	return s.decode(func([][]float64) error { return nil })
}
