package mend

import (
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
)

// maxHeads is how many files are opened to find recordings by the identifier that they
// carry.
const maxHeads = 4000

// identify looks recordings up by the identifier that is written into them (EBU Tech 3285,
// SMPTE ST 330): one that was renamed and trimmed is found by no name, size or content.
// Those whose own name and size are there already need no such search.
func (f *finder) identify() error {
	wanted := map[string][]*search{}
	kinds := map[facts.Kind]bool{}
	for i := range f.open {
		s := &f.open[i]
		if s.w.Sequence != nil || s.w.Last == nil || s.w.Last.Facts.ID == "" || s.sized() {
			continue
		}
		id := s.w.Last.Facts.ID
		wanted[id] = append(wanted[id], s)
		kinds[s.w.Kind] = true
	}
	if len(wanted) == 0 {
		return nil
	}
	var ids []int64
	err := f.x.Each(func(id int64, name string) error {
		if len(ids) < maxHeads && kinds[facts.KindOfName(name)] {
			ids = append(ids, id)
		}
		return f.ctx.Err()
	})
	if err != nil {
		return err
	}
	return f.x.Entries(ids, func(_ int64, e index.Entry) error {
		for _, s := range wanted[idOf(f.rd.Reach, e.Path)] {
			s.offer(e, Evidence{Code: OtherName})
		}
		return f.ctx.Err()
	})
}

// sized tells that a file of the wanted name and size was offered.
func (s *search) sized() bool {
	for _, c := range s.found {
		if c.HasCode(Name) && c.Size == s.w.Last.Size {
			return true
		}
	}
	return false
}

// idOf is the identifier that a file carries; "" for none.
func idOf(reach drive.Reach, path string) string {
	f, err := reach.Open(path)
	if err != nil {
		return ""
	}
	defer f.Close()
	known, err := facts.Read(f, f.Size())
	if err != nil {
		return ""
	}
	return known.ID
}
