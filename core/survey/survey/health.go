package survey

import (
	"path/filepath"
	"slices"

	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
)

// Health is a project at a glance.
type Health struct {
	tally.Tally
	Error string           `json:"error"` // why nothing could be read; "" where it could
	Needs map[string]int64 `json:"needs"` // bytes a second while it plays, by the drives' ids
	// AllHere tells that everything that is named is there and is what it should be.
	AllHere bool `json:"allHere"`
	// Lacks are names of files that are missing, up to maxLacks: whoever has them can be told.
	Lacks []string `json:"lacks,omitempty"`
}

const maxLacks = 500

// HealthOf sums up a graph and what was judged of it.
func HealthOf(g *graph.Graph, judged *origin.Judged) Health {
	h := Health{Tally: tally.Of(g, judged, nil), Needs: map[string]int64{}}
	h.AllHere = h.Tally.AllHere()
	for _, n := range judged.Needs {
		h.Needs[n.Drive.ID] = n.Bytes
	}
	for i := range g.Files {
		f := &g.Files[i]
		if f.State == graph.Missing && !judged.Rebuildable(graph.FileID(i)) && len(h.Lacks) < maxLacks {
			h.Lacks = append(h.Lacks, filepath.Base(f.Shown()))
		}
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
		return []int{failed, h.WritesOut, h.Unreadable + h.Missing + h.Unused + h.Twins + h.Gapped + h.Suspect, h.Unsaved, h.Unplugged, h.Away}
	}
	return -slices.Compare(rank(h), rank(o))
}
