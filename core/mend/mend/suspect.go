package mend

import (
	"math"
	"slices"

	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// Suspects tells of the files of a graph that are there under the right name and speak
// otherwise: shorter than what is used of them, of another rate or size than a
// document tells, not what their names say, under two names by a guess. other, which may be nil, tells a file
// that has other bytes than when it was last seen, and was not said to be meant.
// meant are those that a person said are meant, whatever speaks against them.
func Suspects(g *graph.Graph, judged *origin.Judged, other func(f *graph.File) (graph.Suspicion, bool), meant func(graph.FileID) bool) map[graph.FileID][]graph.Suspicion {
	out := map[graph.FileID][]graph.Suspicion{}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		var list []graph.Suspicion
		if !f.Carried || f.Frames != nil || len(f.Refs) == 0 || judged.Rebuildable(id) || f.Doc != graph.None || meant != nil && meant(id) {
			continue
		}
		if other != nil {
			if s, ok := other(f); ok {
				list = append(list, s)
			}
		}
		if twice(g, f.Refs) {
			list = append(list, graph.UsedTwice)
		}
		said := expectedFacts(g, f.Refs)
		if said != nil && said.Size > 0 && said.Size != f.Size && len(list) == 0 {
			list = append(list, graph.OtherSize)
		}
		used := slices.DeleteFunc(slices.Clone(f.Refs), func(r graph.RefID) bool { return g.References[r].Use != mention.Used })
		w := Wanted{Ranges: ranges(g, used), Told: said, Kind: f.Kind} // a take that is switched off may be shorter
		if s, ok := hollow(f, w); ok {
			out[id] = append(list, s)
			continue
		}
		if f.Look != nil && (f.Kind == facts.Audio || f.Kind == facts.Image || f.Kind == facts.Video) {
			list = append(list, w.suspect(f)...)
		}
		if len(list) > 0 {
			out[id] = list
		}
	}
	return out
}

// twice tells that one document names a file under two names, one of which was read
// otherwise than it stands: the two may have been two files. Names that differ only in
// letter case or Unicode form are one file wherever such documents are made.
func twice(g *graph.Graph, refs []graph.RefID) bool {
	type of struct {
		name       string
		guess, two bool
	}
	docs := map[graph.DocID]of{}
	for _, id := range refs {
		r := &g.References[id]
		d, met := docs[r.Doc]
		name := names.Same(r.Expected)
		d.two = d.two || met && d.name != name
		d.name, d.guess = name, d.guess || r.Loose || r.Guessed
		if docs[r.Doc] = d; d.two && d.guess {
			return true
		}
	}
	return false
}

// hollow tells a file that holds nothing of what its name says.
func hollow(f *graph.File, w Wanted) (graph.Suspicion, bool) {
	if f.Look == nil {
		return "", false
	}
	switch f.Look.Facts.Hollow {
	case facts.Empty:
		return graph.HoldsNothing, true
	case facts.Pointer:
		return graph.IsPointer, true
	case facts.WebPage:
		return graph.NotAsNamed, true
	case facts.BrokenOff:
		return graph.IsBroken, true
	case facts.CutShort: // what is used of it may all be there
		if need := w.neededLength(f.Look.Facts); need == 0 || need > f.Look.Facts.Seconds+aFrame {
			return graph.IsBroken, true
		}
	}
	return "", false
}

// suspect holds what a file's header tells against what is used and told of it.
func (w *Wanted) suspect(f *graph.File) (list []graph.Suspicion) {
	if f.Look.Kind != facts.KindOfName(f.Path) {
		list = append(list, graph.NotAsNamed)
	}
	got := f.Look.Facts
	if got.Unclosed {
		list = append(list, graph.NeverClosed)
	}
	if need := w.neededLength(got); got.Seconds > 0 && need > got.Seconds+aFrame {
		list = append(list, graph.ShorterThanUsed)
	}
	if w.Told != nil && w.Told.Rate > 0 && got.Rate > 0 && math.Abs(float64(w.Told.Rate-got.Rate)) >= 1 {
		list = append(list, graph.OtherRate)
	}
	return list
}
