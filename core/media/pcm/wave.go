package pcm

import (
	"encoding/binary"
	"io"
	"math"

	"boundcrate/core/media/facts"
)

// AsWAV reads an AIFF file as the WAVE file of the same samples, without decoding it
// all: whoever reads a part turns that part around. What is a WAVE file already is read
// as it is. Other files are ErrNotLinear.
func AsWAV(r io.ReaderAt, size int64) (out *io.SectionReader, err error) {
	defer facts.Border(&err)
	if head := make([]byte, 12); size > 12 {
		if _, err := r.ReadAt(head, 0); err != nil {
			return nil, err
		}
		if string(head[8:12]) == "WAVE" {
			return io.NewSectionReader(r, 0, size), nil
		}
	}
	a, err := facts.ReadAIFF(r, size)
	if err != nil {
		return nil, err
	}
	width := a.Depth / 8
	if a.Depth%8 != 0 || width < 1 || width > 4 || a.Data == 0 || a.DataSize > math.MaxUint32-64 {
		return nil, ErrNotLinear
	}
	h := make([]byte, 0, 44)
	h = append(h, "RIFF"...)
	h = binary.LittleEndian.AppendUint32(h, uint32(36+a.DataSize))
	h = append(h, "WAVEfmt "...)
	h = binary.LittleEndian.AppendUint32(h, 16)
	h = binary.LittleEndian.AppendUint16(h, 1)
	h = binary.LittleEndian.AppendUint16(h, uint16(a.Channels))
	h = binary.LittleEndian.AppendUint32(h, uint32(a.Rate))
	h = binary.LittleEndian.AppendUint32(h, uint32(a.Rate*a.Channels*width))
	h = binary.LittleEndian.AppendUint16(h, uint16(a.Channels*width))
	h = binary.LittleEndian.AppendUint16(h, uint16(a.Depth))
	h = append(h, "data"...)
	h = binary.LittleEndian.AppendUint32(h, uint32(a.DataSize))
	return io.NewSectionReader(&turned{r, h, a, int64(width)}, 0, int64(len(h))+a.DataSize), nil
}

// turned is an AIFF file's sound behind a WAVE header.
type turned struct {
	r     io.ReaderAt
	head  []byte
	a     facts.AIFF
	width int64
}

// ReadAt implements io.ReaderAt: the samples around what is asked for are read whole.
func (t *turned) ReadAt(p []byte, off int64) (n int, err error) {
	if off < int64(len(t.head)) {
		n = copy(p, t.head[off:])
		off += int64(n)
	}
	from := off - int64(len(t.head))
	want := min(int64(len(p)-n), t.a.DataSize-from)
	if want <= 0 {
		if n < len(p) {
			return n, io.EOF
		}
		return n, nil
	}
	first := from - from%t.width
	last := min((from+want+t.width-1)/t.width*t.width, t.a.DataSize)
	b := make([]byte, last-first)
	if m, err := t.r.ReadAt(b, t.a.Data+first); m < len(b) {
		if err == io.EOF {
			err = io.ErrUnexpectedEOF
		}
		return n, err
	}
	t.a.Turn(b)
	if t.width == 1 {
		for i := range b {
			b[i] ^= 0x80 // 8 bits have no sign in a WAVE file
		}
	}
	n += copy(p[n:], b[from-first:from-first+want])
	if n < len(p) {
		return n, io.EOF
	}
	return n, nil
}
