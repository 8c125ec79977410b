package index

import (
	"encoding/binary"
	"errors"

	"boundcrate/core/disk/drive"
)

// ErrPacked: a packed listing is cut short or is none.
var ErrPacked = errors.New("what the index keeps of a folder cannot be read")

// Pack writes a folder in a few bytes a file, to be kept: its stamp, the names of its
// folders, its files. Those of one folder are near to each other in times and inodes,
// so that only what differs from the one before is said, in the varints of Protocol
// Buffers.
func Pack(to []byte, f drive.Folder) []byte {
	text := func(s string) {
		to = binary.AppendUvarint(to, uint64(len(s)))
		to = append(to, s...)
	}
	to = binary.AppendUvarint(to, uint64(f.Stamp.Size))
	was := drive.Entry{Mod: f.Stamp.Mod, Node: f.Stamp.Node}
	to = binary.AppendVarint(to, was.Mod)
	to = binary.AppendUvarint(to, was.Node.Dev)
	to = binary.AppendUvarint(to, was.Node.Ino)
	to = binary.AppendVarint(to, was.Node.Changed)
	to = binary.AppendUvarint(to, uint64(len(f.Folders)))
	for _, name := range f.Folders {
		text(name)
	}
	to = binary.AppendUvarint(to, uint64(len(f.Files)))
	for i := range f.Files {
		e := &f.Files[i]
		text(e.Name)
		to = binary.AppendUvarint(to, uint64(e.Size))
		to = binary.AppendVarint(to, e.Mod-was.Mod)
		to = binary.AppendVarint(to, int64(e.Node.Dev-was.Node.Dev))
		to = binary.AppendVarint(to, int64(e.Node.Ino-was.Node.Ino))
		to = binary.AppendVarint(to, e.Node.Changed-e.Mod)
		was = *e
	}
	return to
}

// Unpack reads what Pack wrote; the path is not in it.
func Unpack(b []byte) (drive.Folder, error) {
	p := packed{b: string(b)} // the names are parts of it: one piece of memory for all
	var f drive.Folder
	f.Stamp.Size = int64(p.unsigned())
	f.Stamp.Mod = p.signed()
	f.Stamp.Node = drive.Node{Dev: p.unsigned(), Ino: p.unsigned(), Changed: p.signed()}
	if n := p.count(); n > 0 {
		f.Folders = make([]string, n)
		for i := range f.Folders {
			f.Folders[i] = p.text()
		}
	}
	was := drive.Entry{Mod: f.Stamp.Mod, Node: f.Stamp.Node}
	f.Files = make([]drive.Entry, p.count())
	for i := range f.Files {
		e := &f.Files[i]
		e.Name = p.text()
		e.Size = int64(p.unsigned())
		e.Mod = was.Mod + p.signed()
		e.Node.Dev = was.Node.Dev + uint64(p.signed())
		e.Node.Ino = was.Node.Ino + uint64(p.signed())
		e.Node.Changed = e.Mod + p.signed()
		was = *e
	}
	if p.bad || len(p.b) > 0 {
		return drive.Folder{}, ErrPacked
	}
	return f, nil
}

// packed is what is left to read. Where it makes no sense it is bad from there on,
// and all that is read is zero.
type packed struct {
	b   string
	bad bool
}

func (p *packed) unsigned() (v uint64) {
	for i := range min(len(p.b), binary.MaxVarintLen64) {
		v |= uint64(p.b[i]&0x7F) << (7 * i)
		if p.b[i] < 0x80 {
			p.b = p.b[i+1:]
			return v
		}
	}
	p.b, p.bad = "", true
	return 0
}

// signed undoes the zigzag of binary.AppendVarint.
func (p *packed) signed() int64 {
	v := p.unsigned()
	return int64(v>>1) ^ -int64(v&1)
}

// count is a number of things that take at least a byte each.
func (p *packed) count() int {
	n := p.unsigned()
	if n > uint64(len(p.b)) {
		p.b, p.bad = "", true
		return 0
	}
	return int(n)
}

func (p *packed) text() (s string) {
	n := p.count()
	s, p.b = p.b[:n], p.b[n:]
	return s
}
