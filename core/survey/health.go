package survey

import (
	"slices"

	"boundcrate/core/graph"
	"boundcrate/core/origin"
)

// Health is a project at a glance: files by what ails them.
type Health struct {
	Error      string           `json:"error"` // why nothing could be read; "" where it could
	References int              `json:"references"`
	Files      int              `json:"files"` // that are there
	Bytes      int64            `json:"bytes"`
	Missing    int              `json:"missing"` // what is made again does not count
	Twins      int              `json:"twins"`
	Unreadable int              `json:"unreadable"`
	Away       int              `json:"away"`
	Unplugged  int              `json:"unplugged"`
	Unsaved    int              `json:"unsaved"`
	WritesOut  int              `json:"writesOut"`
	Problems   int              `json:"problems"`
	Needs      map[string]int64 `json:"needs"` // bytes a second while it plays, by the drives' ids
}

// HealthOf sums up a graph that was judged.
func HealthOf(g *graph.Graph, judged origin.Judged) Health {
	h := Health{References: len(g.References), Problems: len(g.Problems), Needs: map[string]int64{}}
	once := origin.BytesOnce{}
	for i := range g.Files {
		f := &g.Files[i]
		if len(f.Refs) == 0 {
			continue // a document that was asked for
		}
		if f.Carried {
			h.Bytes += once.Of(f)
			if h.Files++; f.Frames != nil {
				h.Files += len(f.Frames.Files) - 1
			}
		}
		switch f.State {
		case graph.Missing:
			if f.Class != graph.Rebuildable {
				h.Missing++
			}
		case graph.Twins:
			h.Twins++
		case graph.Unreadable:
			h.Unreadable++
		case graph.Away:
			h.Away++
		case graph.Unplugged:
			h.Unplugged++
		}
		if f.Frames != nil && f.State.Found() && len(f.Frames.Gaps) > 0 {
			h.Missing++
		}
	}
	for i := range g.References {
		if g.References[i].State == graph.Unsaved {
			h.Unsaved++
		}
	}
	for i := range g.WritePoints {
		if slices.Contains(g.WritePoints[i].Flags, graph.Outside) {
			h.WritesOut++
		}
	}
	for _, n := range judged.Needs {
		h.Needs[n.Drive.ID] = n.Bytes
	}
	return h
}

// Worse orders by what costs most first: what will be lost yet, what cannot be
// read, what is gone, what is only out of reach.
func (h Health) Worse(o Health) int {
	rank := func(h Health) []int {
		failed := 0
		if h.Error != "" {
			failed = 1
		}
		return []int{failed, h.WritesOut, h.Unreadable + h.Missing + h.Twins, h.Unsaved, h.Unplugged, h.Away}
	}
	return -slices.Compare(rank(h), rank(o))
}
