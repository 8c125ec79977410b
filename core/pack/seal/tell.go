package seal

import (
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// sheet is what a crate tells of itself, ours or any bag, once it was inspected: by its record, else by
// its list and the beginnings of its files.
func (c *checker) sheet(v *vault) Sheet {
	sizes := map[string]int64{}
	for _, p := range append([]*checker{c}, c.parts...) {
		for name, n := range p.names {
			sizes[p.inner(name)] = n
		}
	}
	for p, f := range c.wanted {
		sizes[p] = max(0, f.Length)
	}
	base := c.base
	if base == "" {
		base = filepath.Base(c.path)
	}
	if rec := c.record(); rec != nil && len(rec.Files) > 0 {
		return rec.sheet(base, func(p string) int64 { return sizes[p] })
	}
	s := Sheet{Name: base, Note: c.rep.Note, From: c.rep.From, Left: c.rep.Left, Documents: c.docs}
	var reach drive.Reach = v
	root := filepath.Join(c.at, c.base)
	if c.folder {
		reach = over{confined(root), v}
	}
	var places []string
	for p := range sizes {
		if strings.HasPrefix(p, bag.Payload+"/") {
			places = append(places, p)
		}
	}
	slices.Sort(places)
	for _, p := range places {
		_, lacks := c.wanted[p]
		f := SheetFile{Path: p, Size: sizes[p], Kind: facts.KindOfName(p), Fetched: lacks}
		if h, err := reach.Open(filepath.Join(root, p)); err == nil {
			f.Facts, _ = facts.Read(h, h.Size()) // what its header does not tell is not told
			head := make([]byte, min(format.HeadSize, h.Size()))
			n, _ := h.ReadAt(head, 0)
			f.Kind = facts.KindOf(p, head[:n])
			h.Close()
		}
		s.add(f)
	}
	return s
}
