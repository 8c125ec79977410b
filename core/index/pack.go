package index

import (
	"encoding/binary"
	"errors"

	"boundcrate/core/drive"
)

// ErrPacked: a packed listing is cut short or is none.
var ErrPacked = errors.New("what the index keeps of a folder cannot be read")

// Pack writes a folder's files in a few bytes each, to be kept. Files of one
// folder are near to each other in times and inodes, so that only what differs from
// the one before is said, in the varints of Protocol Buffers.
func Pack(to []byte, files []drive.Entry) []byte {
	to = binary.AppendUvarint(to, uint64(len(files)))
	var was drive.Entry
	for i := range files {
		e := &files[i]
		to = binary.AppendUvarint(to, uint64(len(e.Name)))
		to = append(to, e.Name...)
		to = binary.AppendUvarint(to, uint64(e.Size))
		to = binary.AppendVarint(to, e.Mod-was.Mod)
		to = binary.AppendVarint(to, int64(e.Node.Dev-was.Node.Dev))
		to = binary.AppendVarint(to, int64(e.Node.Ino-was.Node.Ino))
		to = binary.AppendVarint(to, e.Node.Changed-e.Mod)
		was = *e
	}
	return to
}

// Unpack reads what Pack wrote.
func Unpack(b []byte) ([]drive.Entry, error) {
	p := packed{b: b}
	n := p.unsigned()
	if n > uint64(len(b)) { // a file takes more than a byte
		return nil, ErrPacked
	}
	files := make([]drive.Entry, 0, n)
	var was drive.Entry
	for range n {
		var e drive.Entry
		e.Name = p.text()
		e.Size = int64(p.unsigned())
		e.Mod = was.Mod + p.signed()
		e.Node.Dev = was.Node.Dev + uint64(p.signed())
		e.Node.Ino = was.Node.Ino + uint64(p.signed())
		e.Node.Changed = e.Mod + p.signed()
		if p.bad {
			return nil, ErrPacked
		}
		files = append(files, e)
		was = e
	}
	if p.bad || len(p.b) > 0 {
		return nil, ErrPacked
	}
	return files, nil
}

type packed struct {
	b   []byte
	bad bool
}

func (p *packed) unsigned() uint64 {
	v, n := binary.Uvarint(p.b)
	return take(p, v, n)
}

func (p *packed) signed() int64 {
	v, n := binary.Varint(p.b)
	return take(p, v, n)
}

func take[T any](p *packed, v T, n int) T {
	if n <= 0 {
		p.bad = true
		p.b = nil
		var none T
		return none
	}
	p.b = p.b[n:]
	return v
}

func (p *packed) text() string {
	n := p.unsigned()
	if n > uint64(len(p.b)) {
		p.bad, p.b = true, nil
		return ""
	}
	s := string(p.b[:n])
	p.b = p.b[n:]
	return s
}
