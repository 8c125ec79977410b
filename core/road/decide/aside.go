package decide

import (
	"encoding/json"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
)

// Why a missing file is set aside.
type Why string

// The reasons.
const (
	Rebuild   Why = "rebuild"    // its program makes it again
	Later     Why = "later"      // it comes later
	NotNeeded Why = "not-needed" // nobody needs it
	Replaced  Why = "replaced"   // something else takes its place
	LeftOut   Why = "left-out"   // whoever made the crate left it out; nobody says so of a project of his own
)

// Whys are the reasons that a person can give.
var Whys = []Why{Rebuild, Later, NotNeeded, Replaced}

// SetAside is a missing file that does not count for now.
type SetAside struct {
	ID  int64
	Why Why
	At  time.Time
}

// Aside are the files that are set aside, by where they are expected.
func (l Log) Aside(drives []drive.Drive) map[string]SetAside {
	out := map[string]SetAside{}
	l.live(func(d *Decision) {
		if d.Kind != Aside || d.Name == nil {
			return
		}
		if at, ok := drive.Abs(drives, d.From); ok {
			out[at] = SetAside{d.ID, Why(*d.Name), d.At}
		}
	})
	return out
}

// Meant tells which files of a graph a person said are the ones that are meant, in
// the state they are in.
func (l Log) Meant(g *graph.Graph, drives []drive.Drive) func(graph.FileID) bool {
	out := map[graph.FileID]bool{}
	f := finder{g: g, drives: drives}
	l.live(func(d *Decision) {
		if d.Kind != Meant {
			return
		}
		var is State
		if id, ok := f.find(d); ok && json.Unmarshal(d.Reasons, &is) == nil { // what cannot be read says nothing
			out[id] = is == StateOf(&g.Files[id])
		}
	})
	return func(id graph.FileID) bool { return out[id] }
}

// State is that of a file for which it is meant; another one is not.
type State struct {
	Size int64 `json:"size"`
	Mod  int64 `json:"mod"`
}

// StateOf is the state a file was traced in.
func StateOf(f *graph.File) State { return State{f.Stamp.Size, f.Stamp.Mod} }
