// Package sift decides what travels and what stays behind, and weighs both.
// Leaving out is not deleting: nothing here touches a file.
package sift

import (
	"sort"

	"boundcrate/core/facts"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
)

// Choice is what stays behind.
type Choice struct {
	Dormant bool `json:"dormant"` // leave what is switched off
	Listed  bool `json:"listed"`  // leave what is declared and never placed
}

// Line is one sum of the weighing.
type Line struct {
	Kind  facts.Kind `json:"kind"`
	Use   string     `json:"use"`
	Files int        `json:"files"`
	Bytes int64      `json:"bytes"`
}

// Item is one target of a graph with the liveliest use any mention gives it.
type Item struct {
	Target string
	Kind   facts.Kind
	Use    mention.Use
	Files  int
	Bytes  int64
	Found  bool
}

// Items lists the graph's targets in the order they are first named; files
// reached under several names count once.
func Items(g *trace.Graph) []Item {
	var list []Item
	at := map[string]int{}
	given := map[string]bool{}
	for i := range g.Given {
		given[g.Documents[i].Info.Real] = true
	}
	for i := range g.References {
		r := &g.References[i]
		if r.State == resolve.Inside || r.State == resolve.Unsaved || r.Network || r.Write {
			continue
		}
		key := Key(r)
		if key == "" || given[key] {
			continue // nothing that could travel, or a document that was asked for and always does
		}
		k, ok := at[key]
		if !ok {
			k = len(list)
			at[key] = k
			files := 1
			if r.Kind == facts.Sequence {
				files = len(r.Files)
			}
			list = append(list, Item{Target: key, Kind: r.Kind, Files: files, Bytes: r.Size, Found: r.Carried()})
		}
		list[k].Use = max(list[k].Use, r.Use)
	}
	return list
}

// Key is what makes references one file: the real file, the pattern of a
// sequence, or the place that is expected.
func Key(r *trace.Reference) string {
	if r.Carried() && r.Info.Real != "" {
		return r.Info.Real
	}
	return r.Target()
}

// Stays tells of each target that stays behind why, in words.
func (c Choice) Stays(g *trace.Graph) map[string]string {
	stays := map[string]string{}
	for _, it := range Items(g) {
		switch {
		case c.Dormant && it.Use == mention.Dormant:
			stays[it.Target] = "switched off where it is used"
		case c.Listed && it.Use == mention.Listed:
			stays[it.Target] = "declared and never placed"
		}
	}
	return stays
}

// Weigh sums what was found by kind and use, largest first.
func Weigh(g *trace.Graph) []Line {
	type key struct {
		kind facts.Kind
		use  mention.Use
	}
	sums := map[key]*Line{}
	for _, it := range Items(g) {
		if !it.Found {
			continue
		}
		k := key{it.Kind, it.Use}
		if sums[k] == nil {
			sums[k] = &Line{Kind: it.Kind, Use: it.Use.String()}
		}
		sums[k].Files += it.Files
		sums[k].Bytes += it.Bytes
	}
	list := make([]Line, 0, len(sums))
	for _, l := range sums {
		list = append(list, *l)
	}
	sort.Slice(list, func(a, b int) bool {
		if list[a].Bytes != list[b].Bytes {
			return list[a].Bytes > list[b].Bytes
		}
		return list[a].Kind+facts.Kind(list[a].Use) < list[b].Kind+facts.Kind(list[b].Use)
	})
	return list
}
