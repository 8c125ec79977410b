package graph

import (
	"encoding/binary"

	"github.com/zeebo/xxh3"
)

// Digest tells graphs apart: two traces that found everything as it was have
// one. It takes in what every document says, where that leads, and the size,
// times and inode of every file.
func (g *Graph) Digest() uint64 {
	h := xxh3.New()
	var b []byte
	text := func(list ...string) {
		for _, s := range list {
			b = append(binary.AppendUvarint(b, uint64(len(s))), s...)
		}
	}
	number := func(list ...int64) {
		for _, n := range list {
			b = binary.AppendVarint(b, n)
		}
	}
	flush := func() {
		h.Write(b)
		b = b[:0]
	}
	text(g.Root)
	for i := range g.Documents {
		d := &g.Documents[i]
		s := d.Info.Stamp()
		text(d.Path, d.Was, d.Format)
		number(s.Size, s.Mod, s.Node.Changed, int64(s.Node.Ino), int64(s.Node.Dev), int64(d.References), int64(d.Use))
		flush()
	}
	for i := range g.Files {
		f := &g.Files[i]
		text(f.Path, f.Real, string(f.State), string(f.Kind))
		number(f.Size, f.Stamp.Size, f.Stamp.Mod, f.Stamp.Node.Changed, int64(f.Stamp.Node.Ino), int64(f.Stamp.Node.Dev), int64(f.Use))
		if f.Frames != nil {
			for k, p := range f.Frames.Files {
				text(p)
				number(f.Frames.Sizes[k])
			}
			for _, gap := range f.Frames.Gaps {
				number(int64(gap.First), int64(gap.Last), int64(gap.Step))
			}
		}
		flush()
	}
	for i := range g.References {
		r := &g.References[i]
		text(r.Written, r.Owner, r.Path, string(r.State), string(r.Why))
		number(int64(r.Doc), int64(r.File), int64(r.Use))
		flush()
	}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		text(w.Written, w.Path, w.Owner)
		flush()
	}
	for _, p := range g.Problems {
		text(string(p.Kind), p.Path)
		text(p.Args...)
		number(int64(p.Line))
		flush()
	}
	for _, u := range g.Unread {
		text(u.Path)
	}
	flush()
	return h.Sum64()
}
