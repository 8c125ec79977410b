package sift

import (
	"path/filepath"
	"regexp"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
)

// Drawn is which parts have drawings.
type Drawn struct {
	Parts   int
	With    int
	Without []string // the parts without one, by their paths
}

// maxDrawing bounds how much of a drawing is read for the names in it, in bytes, and
// maxDrawings how many are.
const (
	maxDrawing  = 8 << 20
	maxDrawings = 5000
)

// partName is a file name of a part as it may stand in a drawing, percent-encoded or not.
var partName = regexp.MustCompile(`(?i)[^"'<>()\[\]\\/=&?#\x00-\x1f]+\.(?:stp|step|p21|ifc|stpz)`)

// FindDrawings tells which of the files that nothing names are drawings of parts that
// travel, and marks them: those that have the name of a part but for the extension, and
// those in which the file name of one stands.
func FindDrawings(g *graph.Graph, s Selection, l *Loose, reach drive.Reach) Drawn {
	var d Drawn
	byStem, byName := map[string][]graph.FileID{}, map[string][]graph.FileID{}
	var parts []graph.FileID
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if _, stays := s.Stays[id]; stays || !f.Carried || f.Kind != facts.Part && facts.KindOfName(f.Path) != facts.Part {
			continue
		}
		stem, _ := names.Split(filepath.Base(f.Path))
		parts = append(parts, id)
		byStem[names.Loose(stem)] = append(byStem[names.Loose(stem)], id)
		byName[names.Fold(filepath.Base(f.Path))] = append(byName[names.Fold(filepath.Base(f.Path))], id)
	}
	if d.Parts = len(parts); d.Parts == 0 {
		return d
	}
	drawn := map[graph.FileID]bool{}
	read := 0
	of := func(path string) (list []graph.FileID) {
		stem, _ := names.Split(filepath.Base(path))
		list = append(list, byStem[names.Loose(stem)]...)
		if read++; read > maxDrawings {
			return list
		}
		b, err := head(reach, path, maxDrawing)
		if err != nil {
			return list // what cannot be read is a drawing by its name at the most
		}
		for _, m := range partName.FindAll(b, -1) {
			list = append(list, byName[names.Fold(string(m))]...)
		}
		return list
	}
	for i := range l.Extras {
		e := &l.Extras[i]
		if e.What != Strays && e.What != Drawings || facts.KindOfName(e.Path) != facts.Drawing {
			continue
		}
		e.What = Strays
		for _, id := range of(e.Path) {
			e.What, drawn[id] = Drawings, true
		}
	}
	for i := range g.Files { // one that a document names is a drawing all the same
		if f := &g.Files[i]; f.Carried && f.Kind == facts.Drawing {
			for _, id := range of(f.Path) {
				drawn[id] = true
			}
		}
	}
	for _, id := range parts {
		if !drawn[id] {
			d.Without = append(d.Without, g.Files[id].Path)
		}
	}
	slices.Sort(d.Without)
	d.With = d.Parts - len(d.Without)
	return d
}
