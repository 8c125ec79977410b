package mend

import (
	"cmp"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/resolve"
)

// Foreign is a repair that another project keeps, the newest first in a list.
type Foreign struct {
	Project string
	resolve.Repair
}

// maxExamined bounds how many files of what another project, or a repair by hand,
// tells of are opened before they are offered.
const maxExamined = 400

// Elsewhere is what the repairs of other projects tell of missing files: a group for
// each pair of folders, by the newest repair of each file. What a person said of a
// file holds for the project it was said in; here it is likely, and where what is used
// of the file speaks against it, doubtful. exists tells whether there is such a file,
// or any of a sequence.
func Elsewhere(missing []Wanted, repairs []Foreign, rd Reading, exists func(path string) bool) []Group {
	if len(repairs) == 0 {
		return nil
	}
	exact := make(map[string]*Foreign, len(repairs))
	var folders []*Foreign
	for i := range repairs {
		r := &repairs[i]
		if r.Prefix {
			folders = append(folders, r)
		} else if exact[r.From] == nil {
			exact[r.From] = r
		}
	}
	type key struct{ from, to string }
	by := map[key]*Group{}
	examined := 0
	for i := range missing {
		w := &missing[i]
		r, to := exact[w.Expected], ""
		if r != nil {
			to = r.To
		} else {
			for _, f := range folders {
				if drive.Within(f.From, w.Expected) {
					r, to = f, f.To+strings.TrimPrefix(w.Expected, f.From)
					break
				}
			}
		}
		if r == nil || to == w.Expected || !exists(to) {
			continue
		}
		c := Candidate{Path: to, Size: -1, Certainty: Likely, Files: 1, Sequence: w.Sequence != nil}
		c.add(Evidence{Code: MendedElsewhere, Text: r.Project})
		if filepath.Base(to) == filepath.Base(w.Expected) {
			c.add(Evidence{Code: Name})
		}
		if examined++; examined <= maxExamined {
			rd.record(&c, w)
		}
		rate(&c)
		k := key{filepath.Dir(w.Expected), filepath.Dir(to)}
		g := by[k]
		if g == nil {
			g = &Group{From: k.from, To: k.to, Certainty: Certain}
			by[k] = g
		}
		m := Member{i, w.Expected, c}
		g.Members = append(g.Members, m)
		g.Take(&m)
	}
	list := make([]Group, 0, len(by))
	for _, g := range by {
		g.Of = len(g.Members)
		list = append(list, *g)
	}
	slices.SortFunc(list, func(a, b Group) int {
		return cmp.Or(cmp.Compare(len(b.Members), len(a.Members)), strings.Compare(a.From, b.From), strings.Compare(a.To, b.To))
	})
	return list
}

// record holds a candidate that nobody looked for against what is wanted, as a search
// would have.
func (rd Reading) record(c *Candidate, w *Wanted) {
	if c.Sequence {
		return
	}
	if info, err := rd.Reach.Stat(c.Path); err == nil {
		c.Size = info.Size
	}
	rd.compare(c, w, false)
	rd.Examine(c, w)
}
