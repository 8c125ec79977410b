// Package tally counts a trace once, for everybody who prints a figure of it: the
// command line, the pages, Survey, the crate's sheet. What it calls all here, or in
// need of a person, nobody works out again.
package tally

import (
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/mention"
)

// Tally is the figures of one trace. Files are counted once whatever names them, hard
// links to one file as one, the frames of a sequence each.
type Tally struct {
	Documents  int   `json:"documents"`
	References int   `json:"references"`
	Files      int   `json:"files"` // that are there
	Bytes      int64 `json:"bytes"` // of them
	Away       int   `json:"away"`  // outside the project's folder; a sequence is one

	Missing    int `json:"missing"` // used; a sequence of which nothing is there is one
	Unused     int `json:"unused"`  // missing, and dormant or listed
	Rebuild    int `json:"rebuild"` // missing, and made again by the program that made it
	Gapped     int `json:"gapped"`  // sequences of which some files are there
	Gaps       int `json:"gaps"`    // numbers that they lack
	Twins      int `json:"twins"`   // more than one file could be meant
	Unreadable int `json:"unreadable"`
	Unplugged  int `json:"unplugged"`
	Unsaved    int `json:"unsaved"` // places for files that were never written
	Suspect    int `json:"suspect"` // there, and something speaks against it
	Lacking    int `json:"lacking"` // references to what a package should hold and does not; nothing outside can stand for it

	WritesOut    int `json:"writesOut"`    // write points that lead out of the project
	Inside       int `json:"inside"`       // data that stands in texts of documents alone
	Guessed      int `json:"guessed"`      // references that no format's rule tells
	Unrecognised int `json:"unrecognised"` // documents of no known format in which nothing was recognised
	Problems     int `json:"problems"`
	Unread       int `json:"unread"` // folders that a name could not be looked for in

	Unfound int `json:"unfound"` // references that do not lead to all they name, but for what is made again
	Pending int `json:"pending"` // references that need a person
	ToFind  int `json:"toFind"`  // files that a search may find, but for those set aside
}

// Of counts. aside, which may be nil, tells files that a person set aside: they are
// counted as what they are, and not among those to find.
func Of(g *graph.Graph, judged *origin.Judged, aside func(graph.FileID) bool) Tally {
	t := Tally{Documents: len(g.Documents), References: len(g.References), Problems: len(g.Problems), Unread: len(g.Unread)}
	t.files(g, judged, aside)
	for i := range g.References {
		r := &g.References[i]
		if r.Guessed {
			t.Guessed++
		}
		if r.State == graph.Unsaved {
			t.Unsaved++
		}
		if d := &g.Documents[r.Doc]; r.State == graph.Inside && !d.Package && !strings.EqualFold(filepath.Ext(d.Path), ".glb") {
			t.Inside++ // what a package holds is its nature
		}
		if r.State == graph.Missing && (r.File == graph.None || g.Files[r.File].State != graph.Missing) || r.State == graph.Inside && len(r.Gaps) > 0 {
			t.Lacking++
		}
		if r.File != graph.None && r.State == graph.Missing && judged.Rebuildable(r.File) {
			continue
		}
		if r.Pending() {
			t.Pending++
		}
		if !r.State.Found() && r.State != graph.Inside || len(r.Gaps) > 0 {
			t.Unfound++
		}
	}
	for i := range g.WritePoints {
		if PointsOut(judged.FlagsOf(i)) {
			t.WritesOut++
		}
	}
	for i := range g.Documents {
		if d := &g.Documents[i]; d.Guessed && !d.Recognised && g.IsRoot(graph.DocID(i)) {
			t.Unrecognised++
		}
	}
	return t
}

func (t *Tally) files(g *graph.Graph, judged *origin.Judged, aside func(graph.FileID) bool) {
	once := map[drive.Node]bool{}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if len(f.Refs) == 0 {
			continue // a root
		}
		node := drive.Node{Dev: f.Stamp.Node.Dev, Ino: f.Stamp.Node.Ino}
		if f.State.Found() && !(f.Frames == nil && node.Ino != 0 && once[node]) {
			once[node] = true
			t.Files, t.Bytes = t.Files+Count(f), t.Bytes+f.Size
		}
		gapped := f.Frames != nil && f.State.Found() && len(f.Frames.Gaps) > 0
		suspect := len(judged.Suspicions(id)) > 0
		find := gapped || suspect
		switch f.State {
		case graph.Missing:
			switch {
			case judged.Rebuildable(id):
				t.Rebuild++
			case f.Use == mention.Used:
				t.Missing++
				find = true
			default:
				t.Unused++
				find = true
			}
		case graph.Twins:
			t.Twins++
			find = true
		case graph.Unreadable:
			t.Unreadable++
		case graph.Unplugged:
			t.Unplugged++
		case graph.Away:
			t.Away++
		}
		if gapped {
			t.Gapped++
			for _, gap := range f.Frames.Gaps {
				t.Gaps += gap.Len()
			}
		}
		if suspect {
			t.Suspect++
		}
		if find && (aside == nil || !aside(id)) {
			t.ToFind++
		}
	}
}

// Count is how many files one of a graph is: the frames of a sequence.
func Count(f *graph.File) int {
	if f.Frames != nil {
		return len(f.Frames.Files)
	}
	return 1
}

// PointsOut tells write points that lead out of the project.
func PointsOut(flags []graph.Flag) bool {
	return slices.ContainsFunc(flags, func(f graph.Flag) bool {
		return f == graph.Outside || f == graph.OtherDrive || f == graph.OtherProject
	})
}

// AllHere tells that every reference leads to all it names, that this is what it should
// be, and that nothing is left that could say otherwise.
func (t Tally) AllHere() bool {
	return t.Unfound+t.Missing+t.Unused+t.Lacking+t.Gapped+t.Twins+t.Unreadable+t.Unplugged+t.Unsaved+t.Suspect+t.Problems+t.Unread+t.Unrecognised == 0
}

// NeedsPerson tells whether anything needs a person, by the contract's exit status.
func (t Tally) NeedsPerson() bool {
	return t.Pending+t.Suspect+t.WritesOut+t.Unrecognised+t.Problems > 0
}
