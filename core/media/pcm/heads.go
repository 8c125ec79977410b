package pcm

import (
	"encoding/binary"
	"errors"
	"io"
	"math"
)

// wavHead is all of a WAVE file before the samples; RF64 where they do not fit (EBU Tech
// 3306). What stood beside the sound stands before it.
func (c *Conversion) wavHead() []byte {
	le := binary.LittleEndian
	data := c.linear()
	width := c.To.Depth / 8
	format := uint16(1)
	if c.To.Float {
		format = 3
	}
	fmtChunk := le.AppendUint16(nil, format)
	wide := c.Mask != 0 || c.Channels > 2
	if wide {
		le.PutUint16(fmtChunk, 0xFFFE)
	}
	fmtChunk = le.AppendUint16(fmtChunk, uint16(c.Channels))
	fmtChunk = le.AppendUint32(fmtChunk, uint32(c.To.Rate))
	fmtChunk = le.AppendUint32(fmtChunk, uint32(c.To.Rate*c.Channels*width))
	fmtChunk = le.AppendUint16(fmtChunk, uint16(c.Channels*width))
	fmtChunk = le.AppendUint16(fmtChunk, uint16(c.To.Depth))
	if wide {
		fmtChunk = le.AppendUint16(fmtChunk, 22)
		fmtChunk = le.AppendUint16(fmtChunk, uint16(c.To.Depth))
		fmtChunk = le.AppendUint32(fmtChunk, c.Mask)
		fmtChunk = le.AppendUint16(fmtChunk, format)
		fmtChunk = append(fmtChunk, "\x00\x00\x00\x00\x10\x00\x80\x00\x00\xaa\x00\x38\x9b\x71"...)
	}
	list := []chunk{{id: "fmt ", body: fmtChunk}}
	if c.To.Float {
		list = append(list, chunk{id: "fact", body: le.AppendUint32(nil, uint32(min(c.Length(), math.MaxUint32)))})
	}
	list = append(list, scaled(c.chunks, c.Rate, c.To.Rate, c.To.Depth)...)
	var b []byte
	for _, x := range list {
		if x.from != nil {
			continue // it stands behind the samples
		}
		b = append(b, x.id...)
		b = le.AppendUint32(b, uint32(len(x.body)))
		b = append(b, x.body...)
		if len(x.body)&1 == 1 {
			b = append(b, 0)
		}
	}
	size := int64(4+len(b)+8) + data + data&1 + c.tailSize()
	head, dataSize := []byte("RIFF"), uint32(data)
	head = le.AppendUint32(head, uint32(size))
	head = append(head, "WAVE"...)
	if size > math.MaxUint32-8 {
		size += 36
		head = []byte("RF64\xff\xff\xff\xffWAVEds64")
		head = le.AppendUint32(head, 28)
		head = le.AppendUint64(head, uint64(size))
		head = le.AppendUint64(head, uint64(data))
		head = le.AppendUint64(head, uint64(c.Length()))
		head = le.AppendUint32(head, 0)
		dataSize = math.MaxUint32
	}
	head = append(head, b...)
	head = append(head, "data"...)
	return le.AppendUint32(head, dataSize)
}

// tail are the large chunks, which stand behind the samples.
func (c *Conversion) tail(w io.Writer) error {
	for _, x := range c.chunks {
		if x.from == nil {
			continue
		}
		head := binary.LittleEndian.AppendUint32([]byte(x.id), uint32(x.from.Size()))
		if _, err := w.Write(head); err != nil {
			return err
		}
		if n, err := io.Copy(w, io.NewSectionReader(x.from, 0, x.from.Size())); err != nil || n != x.from.Size() {
			return errors.Join(err, io.ErrUnexpectedEOF)
		}
		if _, err := w.Write(make([]byte, x.from.Size()&1)); err != nil {
			return err
		}
	}
	return nil
}

func (c *Conversion) tailSize() (n int64) {
	for _, x := range c.chunks {
		if x.from != nil {
			n += 8 + x.from.Size() + x.from.Size()&1
		}
	}
	return n
}

// aiffHead is all of an AIFF file (1.3) before the samples.
func (c *Conversion) aiffHead() []byte {
	be := binary.BigEndian
	data := c.linear()
	b := []byte("FORM")
	b = be.AppendUint32(b, uint32(4+26+16+data+data&1))
	b = append(b, "AIFFCOMM"...)
	b = be.AppendUint32(b, 18)
	b = be.AppendUint16(b, uint16(c.Channels))
	b = be.AppendUint32(b, uint32(c.Length()))
	b = be.AppendUint16(b, uint16(c.To.Depth))
	m, e := math.Frexp(float64(c.To.Rate)) // an IEEE 754 extended float: 15 bits of exponent, 64 with the leading one
	b = be.AppendUint16(b, uint16(e+16382))
	b = be.AppendUint64(b, uint64(math.Ldexp(m, 64)))
	b = append(b, "SSND"...)
	b = be.AppendUint32(b, uint32(8+data))
	return append(b, 0, 0, 0, 0, 0, 0, 0, 0)
}
