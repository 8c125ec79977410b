package pcm

import (
	"context"
	"crypto/md5"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/mewkiz/flac"
	"github.com/mewkiz/flac/frame"
	"github.com/mewkiz/flac/meta"
)

// Spec is what sound shall be; zero values are as it is.
type Spec struct {
	Type  Type `json:"type"`
	Rate  int  `json:"rate"`  // samples a second
	Depth int  `json:"depth"` // bits a sample: 16, 24, 32
	Float bool `json:"float"`
	// Channels is how they shall lie. A conversion makes one file, so that it is
	// whoever plans several that follows it.
	Channels Channels `json:"channels"`
}

// String is a spec in a recipe's words; nothing where all is as it is.
func (s Spec) String() string {
	var list []string
	if s.Type != "" {
		list = append(list, string(s.Type))
	}
	if s.Rate != 0 {
		list = append(list, strconv.Itoa(s.Rate))
	}
	switch {
	case s.Float:
		list = append(list, "32float")
	case s.Depth != 0:
		list = append(list, strconv.Itoa(s.Depth))
	}
	if s.Channels != "" {
		list = append(list, string(s.Channels))
	}
	return strings.Join(list, " ")
}

// Rates are those that sound can be brought to.
var Rates = []int{44100, 48000, 88200, 96000, 176400, 192000}

// ErrCannotBear: a type cannot hold what it shall.
var ErrCannotBear = errors.New("the type cannot hold that")

// Conversion is a file's sound on its way to what it shall be.
type Conversion struct {
	*Sound
	To Spec // with nothing left open
}

// Convert tells what becomes of a sound; nil where it is so already.
func (s *Sound) Convert(to Spec) (*Conversion, error) {
	to.Channels = ""
	if to.Type == "" {
		to.Type = s.Type
	}
	if to.Rate == 0 {
		to.Rate = s.Rate
	}
	if to.Depth == 0 {
		to.Depth, to.Float = s.Depth, s.Float
		if s.Depth != 16 && s.Depth != 24 && s.Depth != 32 && !(s.Float && to.Type == WAV) { // 64 bits stay what they are
			to.Depth = 8 * ((max(16, s.Depth) + 7) / 8)
			if to.Depth > 32 {
				to.Depth, to.Float = 32, true
			}
		}
	}
	if !s.cut && to.Type == s.Type && to.Rate == s.Rate && to.Depth == s.Depth && to.Float == s.Float {
		return nil, nil
	}
	c := &Conversion{s, to}
	switch size := c.linear(); {
	case to.Type == FLAC && (to.Float || to.Depth > 24 || s.Channels > 8):
		return nil, fmt.Errorf("%w: FLAC holds whole numbers of up to 24 bits and 8 channels here", ErrCannotBear)
	case to.Type == AIFF && to.Float:
		return nil, fmt.Errorf("%w: AIFF holds whole numbers here", ErrCannotBear)
	case to.Type == AIFF && size > math.MaxUint32-1024:
		return nil, fmt.Errorf("%w: AIFF ends at 4 GiB", ErrCannotBear)
	}
	return c, nil
}

// Length is how many samples of each channel there will be.
func (c *Conversion) Length() int64 { return resampled(c.Frames, c.Rate, c.To.Rate) }

// linear is the bytes of the samples alone, if they are written as they are.
func (c *Conversion) linear() int64 { return c.Length() * int64(c.Channels) * int64(c.To.Depth/8) }

// Size is the bytes of the file that will be; of FLAC about, known being false.
func (c *Conversion) Size() (bytes int64, known bool) {
	switch c.To.Type {
	case WAV:
		return int64(len(c.wavHead())) + c.linear() + c.linear()&1 + c.tailSize(), true
	case AIFF:
		return int64(len(c.aiffHead())) + c.linear() + c.linear()&1, true
	}
	return c.sampled(), false
}

// lossy tells that whole numbers cannot hold what comes.
func (c *Conversion) lossy() bool {
	return !c.To.Float && (c.Float || c.Rate != c.To.Rate || c.To.Depth < c.Depth)
}

// Untold tells that nothing but hearing it says what will come of the sound: FLAC tells a
// damage where it stands, and whole numbers hold no more than full scale.
func (c *Conversion) Untold() bool {
	return c.lossy() || c.Type == FLAC || slices.ContainsFunc(c.parts, func(p *Sound) bool { return p.Type == FLAC })
}

// Result is what came of a conversion.
type Result struct {
	Clipped int64   // samples beyond full scale, which were cut to it
	Peak    float64 // the largest of all, full scale being 1
	Odd     int64   // samples that were no numbers, or infinite: silence now
	MD5     [16]byte
	Bytes   int64
}

// Gain is by how many decibels a sound would have to be lower not to be cut; 0: it was not.
func (r *Result) Gain() float64 {
	if r.Clipped == 0 || r.Peak <= 1 {
		return 0
	}
	return math.Ceil(200*math.Log10(r.Peak)) / 10
}

// WriteTo makes the file. Of FLAC the digest of the samples may be known from an earlier
// time; without it the file does not tell one.
func (c *Conversion) WriteTo(ctx context.Context, w io.Writer, known *Result) (Result, error) {
	count := &counting{w: w}
	var res Result
	var sink interface {
		write([][]int32, [][]float64) error
		end() error
	}
	switch c.To.Type {
	case FLAC:
		f, err := c.newFLAC(count, known)
		if err != nil {
			return res, err
		}
		sink = f
	default:
		head := c.wavHead
		if c.To.Type == AIFF {
			head = c.aiffHead
		}
		if _, err := count.Write(head()); err != nil {
			return res, err
		}
		sink = &linear{w: count, depth: c.To.Depth, float: c.To.Float, big: c.To.Type == AIFF}
	}
	odd := new(int64)
	c.odd = odd
	for _, p := range c.parts {
		p.odd = odd
	}
	left := c.Length()
	var qs []*quantizer
	for i := range c.Channels {
		qs = append(qs, newQuantizer(c.To.Depth, c.lossy(), i))
	}
	out := func(x [][]float64) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := int(min(left, int64(len(x[0]))))
		left -= int64(n)
		if n == 0 {
			return nil
		}
		part := make([][]float64, len(x))
		whole := make([][]int32, len(x))
		for i := range x {
			part[i] = x[i][:n]
			if !c.To.Float {
				whole[i] = make([]int32, n)
				for k, v := range part[i] {
					whole[i][k] = qs[i].value(v)
				}
			}
		}
		return sink.write(whole, part)
	}
	err := c.run(out)
	if err == nil && left > 0 {
		err = io.ErrUnexpectedEOF
	}
	if err == nil {
		err = sink.end()
	}
	if err == nil && c.To.Type == WAV {
		err = c.tail(count)
	}
	for _, q := range qs {
		res.Clipped += q.clipped
		res.Peak = max(res.Peak, q.peak)
	}
	res.Odd = *odd
	if f, ok := sink.(*flacSink); ok {
		f.sum.Sum(res.MD5[:0])
	}
	res.Bytes = count.n
	return res, err
}

// run reads, and resamples where it must.
func (c *Conversion) run(out func([][]float64) error) error {
	if c.Rate == c.To.Rate {
		return c.samples(out)
	}
	pairs := make([]*resampler, (c.Channels+1)/2)
	for i := range pairs {
		pairs[i] = newResampler(c.Rate, c.To.Rate)
	}
	made := make([][]float64, c.Channels)
	take := func(i int) func([]complex128) {
		return func(y []complex128) {
			for _, v := range y {
				made[2*i] = append(made[2*i], real(v))
			}
			if 2*i+1 < len(made) {
				for _, v := range y {
					made[2*i+1] = append(made[2*i+1], imag(v))
				}
			}
		}
	}
	flush := func() error {
		err := out(made)
		for i := range made {
			made[i] = made[i][:0]
		}
		return err
	}
	var z []complex128
	err := c.samples(func(x [][]float64) error {
		for i, r := range pairs {
			z = z[:0]
			for k, v := range x[2*i] {
				if 2*i+1 < len(x) {
					z = append(z, complex(v, x[2*i+1][k]))
				} else {
					z = append(z, complex(v, 0))
				}
			}
			r.push(z, take(i))
		}
		return flush()
	})
	if err != nil {
		return err
	}
	for i, r := range pairs {
		r.end(take(i))
	}
	return flush()
}

type counting struct {
	w io.Writer
	n int64
}

func (c *counting) Write(b []byte) (int, error) {
	n, err := c.w.Write(b)
	c.n += int64(n)
	return n, err
}

// linear writes samples as they are.
type linear struct {
	w     io.Writer
	depth int
	float bool
	big   bool
	b     []byte
	n     int64
}

func (l *linear) write(whole [][]int32, x [][]float64) error {
	l.b = l.b[:0]
	for k := range x[0] {
		for i := range x {
			if l.float && l.depth == 64 {
				l.b = binary.LittleEndian.AppendUint64(l.b, math.Float64bits(x[i][k]))
				continue
			}
			if l.float {
				l.b = binary.LittleEndian.AppendUint32(l.b, math.Float32bits(float32(x[i][k])))
				continue
			}
			v := uint32(whole[i][k])
			switch {
			case l.depth == 16 && l.big:
				l.b = append(l.b, byte(v>>8), byte(v))
			case l.depth == 16:
				l.b = append(l.b, byte(v), byte(v>>8))
			case l.depth == 24 && l.big:
				l.b = append(l.b, byte(v>>16), byte(v>>8), byte(v))
			case l.depth == 24:
				l.b = append(l.b, byte(v), byte(v>>8), byte(v>>16))
			case l.big:
				l.b = binary.BigEndian.AppendUint32(l.b, v)
			default:
				l.b = binary.LittleEndian.AppendUint32(l.b, v)
			}
		}
	}
	l.n += int64(len(l.b))
	_, err := l.w.Write(l.b)
	return err
}

func (l *linear) end() error {
	if l.n&1 == 0 {
		return nil
	}
	_, err := l.w.Write([]byte{0})
	return err
}

// flacBlock is how many samples of each channel a frame has.
const flacBlock = 4096

type flacSink struct {
	enc   *flac.Encoder
	info  *meta.StreamInfo
	held  [][]int32
	sum   hash.Hash
	depth int
	num   uint64
}

func (c *Conversion) newFLAC(w io.Writer, known *Result) (*flacSink, error) {
	info := &meta.StreamInfo{BlockSizeMin: flacBlock, BlockSizeMax: flacBlock, SampleRate: uint32(c.To.Rate), NChannels: uint8(c.Channels), BitsPerSample: uint8(c.To.Depth), NSamples: uint64(c.Length())}
	if known != nil {
		info.MD5sum = known.MD5
	}
	// Only what can be written is shown: the library goes back over a file that can be
	// wound back, and closes what can be closed.
	enc, err := flac.NewEncoder(struct{ io.Writer }{w}, info)
	if err != nil {
		return nil, err
	}
	return &flacSink{enc: enc, info: info, held: make([][]int32, c.Channels), sum: md5.New(), depth: c.To.Depth}, nil
}

func (f *flacSink) write(whole [][]int32, _ [][]float64) error {
	for i := range whole {
		f.held[i] = append(f.held[i], whole[i]...)
	}
	for len(f.held[0]) >= flacBlock {
		if err := f.frame(flacBlock); err != nil {
			return err
		}
	}
	return nil
}

func (f *flacSink) end() error {
	if len(f.held[0]) > 0 {
		if err := f.frame(len(f.held[0])); err != nil {
			return err
		}
	}
	return f.enc.Close()
}

func (f *flacSink) frame(n int) error {
	fr := &frame.Frame{Header: frame.Header{HasFixedBlockSize: true, BlockSize: uint16(n), SampleRate: f.info.SampleRate, Channels: frame.Channels(len(f.held) - 1), BitsPerSample: uint8(f.depth), Num: f.num}}
	b := make([]byte, 0, n*len(f.held)*4)
	for k := range n {
		for i := range f.held {
			v := uint32(f.held[i][k])
			for bit := 0; bit < f.depth; bit += 8 {
				b = append(b, byte(v>>bit))
			}
		}
	}
	f.sum.Write(b)
	for i := range f.held {
		fr.Subframes = append(fr.Subframes, &frame.Subframe{SubHeader: frame.SubHeader{Pred: frame.PredVerbatim}, Samples: f.held[i][:n:n], NSamples: n})
	}
	if err := f.enc.WriteFrame(fr); err != nil {
		return err
	}
	f.num++
	for i := range f.held {
		f.held[i] = append([]int32(nil), f.held[i][n:]...)
	}
	return nil
}
