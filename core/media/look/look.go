// Package look makes of a sound or a picture what it can be recognised by once it is
// gone: a waveform or a small picture, in a few hundred to a few thousand bytes, or a
// short text itself.
package look

import (
	"bytes"
	"encoding/binary"
	"errors"
	"image"
	"image/jpeg"
	"io"
	"math"
	"unicode/utf8"

	"golang.org/x/image/draw"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
)

// ErrNone: nothing can be made of this file, or of these bytes.
var ErrNone = errors.New("nothing to recognise it by")

// slices is how many parts a waveform has, side the longest side of a small picture in
// pixels.
const (
	slices = 160
	side   = 240
)

// The first byte tells what follows.
const (
	wave    = 'w' // the length in seconds as a float of 64 bits, then lows and highs of 8 bits each
	picture = 'p' // a JPEG file
	text    = 't' // UTF-8
)

// Of makes the look of a file. A picture of more than facts.MaxPixels has none.
func Of(r io.ReaderAt, size int64) (made []byte, err error) {
	defer facts.Border(&err)
	if low, high, seconds, err := pcm.Peaks(r, size, slices); err == nil {
		b := binary.LittleEndian.AppendUint64([]byte{wave}, math.Float64bits(seconds))
		for i := range low {
			b = append(b, byte(int8(math.Round(127*low[i]))), byte(int8(math.Round(127*high[i]))))
		}
		return b, nil
	}
	if size > 0 && size <= MaxText {
		b := make([]byte, 1+size)
		if n, err := r.ReadAt(b[1:], 0); int64(n) == size && (err == nil || err == io.EOF) && utf8.Valid(b[1:]) && bytes.IndexByte(b[1:], 0) < 0 {
			b[0] = text
			return b, nil
		}
	}
	c, _, err := image.DecodeConfig(io.NewSectionReader(r, 0, size))
	if err != nil || c.Width <= 0 || c.Height <= 0 || c.Width > facts.MaxPixels/c.Height {
		return nil, ErrNone
	}
	m, _, err := image.Decode(io.NewSectionReader(r, 0, size))
	if err != nil {
		return nil, ErrNone
	}
	k := min(1, side/float64(max(c.Width, c.Height)))
	small := image.NewRGBA(image.Rect(0, 0, max(1, int(k*float64(c.Width))), max(1, int(k*float64(c.Height)))))
	draw.ApproxBiLinear.Scale(small, small.Bounds(), m, m.Bounds(), draw.Src, nil)
	var b bytes.Buffer
	b.WriteByte(picture)
	if err := jpeg.Encode(&b, small, &jpeg.Options{Quality: 70}); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Wave reads a waveform: lowest and highest sample of each part, −1 to 1.
func Wave(b []byte) (low, high []float64, seconds float64, err error) {
	if len(b) < 9 || b[0] != wave || len(b)%2 == 0 {
		return nil, nil, 0, ErrNone
	}
	seconds = math.Float64frombits(binary.LittleEndian.Uint64(b[1:]))
	for i := 9; i < len(b); i += 2 {
		low, high = append(low, float64(int8(b[i]))/127), append(high, float64(int8(b[i+1]))/127)
	}
	return low, high, seconds, nil
}

// MaxText is how long a text may be that is kept, in bytes.
const MaxText = 32 << 10

// Text reads a text.
func Text(b []byte) (string, error) {
	if len(b) < 2 || b[0] != text {
		return "", ErrNone
	}
	return string(b[1:]), nil
}

// Picture reads a small picture, as JPEG.
func Picture(b []byte) ([]byte, error) {
	if len(b) < 2 || b[0] != picture {
		return nil, ErrNone
	}
	return b[1:], nil
}
