package facts

import (
	"bytes"
	"cmp"
	"crypto/md5" // what FLAC says its sound by, not what anything is trusted by
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"image"
	"image/color"
	"io"

	_ "golang.org/x/image/bmp"  // pictures whose pixels can be compared
	_ "golang.org/x/image/tiff" // the same
	_ "golang.org/x/image/webp" // the same
)

// ErrNotDecoded: of this kind of file no samples or pixels are read.
var ErrNotDecoded = errors.New("its samples or pixels are not read")

// MaxPixels is how large a picture may be whose pixels are read: one larger keeps
// people waiting.
const MaxPixels = 4 << 20

// LargePixels is that bound where nobody waits: 4096 by 4096 and more.
const LargePixels = 20 << 20

// Decoded tells the same sound or picture in another wrapping: a digest of the
// samples, or of the pixels, with what they are counted in.
//
// Of linear sound it is the MD5 of the samples one channel after the other, signed and
// with the least byte first, as FLAC keeps it of what it was made of (RFC 9639 §8.2):
// a FLAC file tells it without being decoded. Of PNG, GIF, TIFF, BMP and WebP it is the
// SHA-256 of the pixels as 16 bits of red, green, blue and alpha each.
func Decoded(r io.ReaderAt, size int64) (string, error) { return DecodedWithin(r, size, MaxPixels) }

// DecodedWithin is Decoded for pictures of up to some pixels.
func DecodedWithin(r io.ReaderAt, size int64, most int) (sum string, err error) {
	defer Border(&err)
	head := make([]byte, min(headSize, size))
	if n, err := r.ReadAt(head, 0); n < len(head) && err != io.EOF {
		return "", err
	}
	switch {
	case len(head) >= 42 && bytes.HasPrefix(head, []byte("fLaC")):
		return flacDecoded(r, size, head)
	case len(head) >= 12 && string(head[8:12]) == "WAVE":
		return wavDecoded(r, size)
	case len(head) >= 12 && (string(head[8:12]) == "AIFF" || string(head[8:12]) == "AIFC"):
		return aiffDecoded(r, size)
	case bytes.HasPrefix(head, []byte("BM")), KindOf("", head) == Image && !bytes.HasPrefix(head, []byte("\xFF\xD8")): // what JPEG decodes to is a matter of who decodes
		return pixels(r, size, most)
	}
	return "", ErrNotDecoded
}

func sound(f Facts, sum []byte) string {
	return fmt.Sprintf("sound/%d/%d/%d/%s", f.Rate, f.Channels, f.Depth, hex.EncodeToString(sum))
}

func flacDecoded(r io.ReaderAt, size int64, head []byte) (string, error) {
	f, err := flac(r, size, head)
	if sum := head[26:42]; err == nil && !bytes.Equal(sum, make([]byte, 16)) {
		return sound(f, sum), nil
	}
	return "", cmp.Or(err, ErrNotDecoded)
}

func wavDecoded(r io.ReaderAt, size int64) (string, error) {
	w, err := ReadWAV(r, size)
	if err != nil {
		return "", err
	}
	width := w.Depth / 8
	if w.Format != 1 || w.Depth%8 != 0 || width == 0 || w.Channels == 0 || w.Block != width*w.Channels {
		return "", ErrNotDecoded
	}
	sum, err := samples(r, w.Data, w.DataSize-w.DataSize%int64(w.Block), func(b []byte) {
		if width == 1 {
			for i := range b {
				b[i] ^= 0x80 // 8 bits have no sign in a WAVE file
			}
		}
	})
	return sound(w.Facts, sum), err
}

func aiffDecoded(r io.ReaderAt, size int64) (string, error) {
	a, err := ReadAIFF(r, size)
	if err != nil {
		return "", err
	}
	sum, err := samples(r, a.Data, a.DataSize, a.Turn)
	return sound(a.Facts, sum), err
}

// AIFF is the layout of an AIFF or AIFF-C file of linear sound (AIFF 1.3).
type AIFF struct {
	Facts
	Data     int64 // where the samples begin
	DataSize int64 // bytes of samples
	Little   bool  // the least byte first, as "sowt" has it
}

// Turn puts the bytes of whole samples in the order that has the least first.
func (a *AIFF) Turn(b []byte) {
	width := a.Depth / 8
	for i := 0; !a.Little && i+width <= len(b); i += width {
		for k := range width / 2 {
			b[i+k], b[i+width-1-k] = b[i+width-1-k], b[i+k]
		}
	}
}

// ReadAIFF walks the chunks up to the sound. What is not linear, in whole bytes, is
// ErrNotDecoded.
func ReadAIFF(r io.ReaderAt, size int64) (a AIFF, err error) {
	defer Border(&err)
	head := make([]byte, 12)
	if n, _ := r.ReadAt(head, 0); n < len(head) || string(head[:4]) != "FORM" || string(head[8:12]) != "AIFF" && string(head[8:12]) != "AIFC" {
		return a, ErrNotDecoded
	}
	if a.Facts, err = aiff(r, size, head); err != nil {
		return a, err
	}
	width := a.Depth / 8
	if a.Depth%8 != 0 || width == 0 || a.Channels == 0 {
		return a, ErrNotDecoded
	}
	b := make([]byte, 8+22)
	for at := int64(12); at+8 <= size; {
		n, err := r.ReadAt(b, at)
		if n < 8 {
			return a, err
		}
		length := int64(binary.BigEndian.Uint32(b[4:]))
		switch {
		case string(b[:4]) == "COMM" && string(head[8:12]) == "AIFC" && n >= 30:
			switch string(b[26:30]) { // AIFF-C, "compressionType"
			case "NONE", "twos":
			case "sowt":
				a.Little = true
			default:
				return a, ErrNotDecoded
			}
		case string(b[:4]) == "SSND" && n >= 16:
			skip := int64(binary.BigEndian.Uint32(b[8:]))
			a.Data = at + 16 + skip
			a.DataSize = max(0, min(length-8, size-at-16)-skip)
			a.DataSize -= a.DataSize % int64(width*a.Channels)
			return a, nil
		}
		at += 8 + length + length&1
	}
	return a, ErrNotDecoded
}

// samples digests bytes of whole samples after each run of them was put right.
func samples(r io.ReaderAt, from, n int64, right func([]byte)) ([]byte, error) {
	var h hash.Hash = md5.New()
	buf := make([]byte, 3<<16) // whole samples of one to four bytes
	for at := int64(0); at < n; {
		b := buf[:min(int64(len(buf)), n-at)]
		if m, err := r.ReadAt(b, from+at); m < len(b) {
			return nil, cmp.Or(err, io.ErrUnexpectedEOF)
		}
		right(b)
		h.Write(b)
		at += int64(len(b))
	}
	return h.Sum(nil), nil
}

func pixels(r io.ReaderAt, size int64, most int) (string, error) {
	c, _, err := image.DecodeConfig(io.NewSectionReader(r, 0, size))
	if err != nil || c.Width <= 0 || c.Height <= 0 || c.Width > most/c.Height {
		return "", ErrNotDecoded
	}
	m, _, err := image.Decode(io.NewSectionReader(r, 0, size))
	if err != nil {
		return "", ErrNotDecoded
	}
	// What the decoders make all tells its colours without an allocation for each.
	at := func(x, y int) color.RGBA64 {
		r, g, b, a := m.At(x, y).RGBA()
		return color.RGBA64{R: uint16(r), G: uint16(g), B: uint16(b), A: uint16(a)}
	}
	if quick, ok := m.(image.RGBA64Image); ok {
		at = quick.RGBA64At
	}
	h := sha256.New()
	row := make([]byte, 8*c.Width)
	for y := m.Bounds().Min.Y; y < m.Bounds().Max.Y; y++ {
		for x := range c.Width {
			px := at(m.Bounds().Min.X+x, y)
			for k, v := range [4]uint16{px.R, px.G, px.B, px.A} {
				binary.LittleEndian.PutUint16(row[8*x+2*k:], v)
			}
		}
		h.Write(row)
	}
	return fmt.Sprintf("picture/%d/%d/%s", c.Width, c.Height, hex.EncodeToString(h.Sum(nil))), nil
}
