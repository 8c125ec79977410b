package mend

import (
	"path/filepath"

	"boundcrate/core/disk/drive"
)

// Follow is what a repair by hand tells of other missing files: those of the same
// folder, or of folders below or beside it that would have gone along, for which the
// same renaming in the same place leads to a file. exists tells whether there is one.
// A group without members is none.
func Follow(chosen Wanted, path string, missing []Wanted, rd Reading, exists func(path string) bool) Group {
	how, ok := renamingOf(filepath.Base(chosen.Expected), filepath.Base(path))
	if !ok || chosen.Sequence != nil {
		return Group{}
	}
	var best Group
	from, to := filepath.Dir(chosen.Expected), filepath.Dir(path)
	for range levels {
		g := Group{From: from, To: to, How: how, Certainty: Likely}
		for i := range missing {
			w := &missing[i]
			if w.Expected == chosen.Expected || w.Sequence != nil || !drive.Within(from, w.Expected) {
				continue
			}
			g.Of++
			rel, err := filepath.Rel(from, filepath.Dir(w.Expected))
			name, ok := how.Apply(filepath.Base(w.Expected))
			if err != nil || !ok {
				continue
			}
			if p := filepath.Join(to, rel, name); p != w.Expected && exists(p) {
				c := Candidate{Path: p, Certainty: Likely, Files: 1}
				c.add(Evidence{Code: Follows, Text: filepath.Base(chosen.Expected)})
				if name == filepath.Base(w.Expected) {
					c.add(Evidence{Code: Name})
				}
				g.Members = append(g.Members, Member{i, w.Expected, c})
			}
		}
		if len(g.Members) > len(best.Members) {
			best = g
		}
		if filepath.Base(from) != filepath.Base(to) || from == filepath.Dir(from) || to == filepath.Dir(to) {
			break
		}
		from, to = filepath.Dir(from), filepath.Dir(to)
	}
	for i := range best.Members {
		m := &best.Members[i]
		if i < maxExamined {
			rd.record(&m.Best, &missing[m.Wanted])
		}
		rate(&m.Best)
		best.Take(m)
	}
	return best
}
