package seal

import (
	"path"
	"path/filepath"
	"strings"

	"boundcrate/core/text/bag"
)

// Meant is what a reference of a sealed document led to, as its sender's crate records it.
type Meant struct {
	Document string // the document's own name, without a folder, before it was sealed
	Owner    string
	Mention  int // which of the places that name files in the document it is
	// Places are the members of the crate, below data/, Names what they were called before.
	Places, Names []string
}

// Meant are those of a crate of ours; nil where it has no record. They hold for any copy of a document
// that says the same names at the same places.
func (c *Checked) Meant() (list []Meant) {
	rec := c.c.record()
	if rec == nil || rec.Expect == nil {
		return nil
	}
	was := map[string]string{}
	for _, f := range rec.Files {
		was[strings.TrimPrefix(f.Path, bag.Payload+"/")] = path.Base(slashed(f.Source))
	}
	for _, d := range rec.Documents {
		was[strings.TrimPrefix(d.Path, bag.Payload+"/")] = path.Base(slashed(d.Source))
	}
	for i := range rec.Expect.List {
		e := &rec.Expect.List[i]
		if e.Why != "" || e.To < 0 || e.To >= len(rec.Expect.Targets) || was[e.Document] == "" {
			continue
		}
		m := Meant{Document: was[e.Document], Owner: e.Owner, Mention: e.Nth}
		for _, t := range rec.Expect.Targets[e.To] {
			if bag.Unsafe(t.Path) != "" || was[t.Path] == "" {
				m.Places = nil
				break
			}
			m.Places, m.Names = append(m.Places, t.Path), append(m.Names, was[t.Path])
		}
		if len(m.Places) > 0 {
			list = append(list, m)
		}
	}
	return list
}

// At is where a file of the payload lies in a crate folder.
func At(crate, place string) string {
	return filepath.Join(crate, bag.Payload, filepath.FromSlash(place))
}
