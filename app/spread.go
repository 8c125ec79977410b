package app

import (
	"cmp"
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api/places"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
)

// maxEnds is how many documents the threads begin at, and places they end in;
// those that use, or hold, the least are gathered.
const maxEnds = 14

// Spread is the picture of where a project's material lies.
func (a *App) Spread(ctx context.Context, project int64) (*places.Spread, error) {
	_, _, s, err := a.traced(project)
	if err != nil {
		return nil, err
	}
	if made := s.spread.Load(); made != nil {
		return made, nil
	}
	out := &places.Spread{Snapshot: s.id, Drives: []places.SpreadDrive{}, Documents: []places.SpreadEnd{}, Places: []places.SpreadEnd{}, Threads: []places.SpreadLine{}}
	for _, n := range origin.Tree(s.graph, s.judged, s.drives, s.lastOf) {
		d, ok := drive.Find(s.drives, n.Path)
		out.Drives = append(out.Drives, places.SpreadDrive{Name: n.Name, Out: ok && !d.Connected(), Tree: full(n)})
	}
	for i := range s.judged.Places {
		if p := &s.judged.Places[i]; p.Kind == origin.MissingPlace {
			out.Missing, out.LastSeen = out.Missing+p.Files, out.LastSeen+p.Bytes
		}
	}
	s.threads(out)
	s.spread.Store(out)
	return out, nil
}

// full has no nil lists, which would be null on the wire.
func full(n origin.Node) origin.Node {
	list := make([]origin.Node, 0, len(n.Nodes))
	for _, c := range n.Nodes {
		list = append(list, full(c))
	}
	n.Nodes = list
	return n
}

func (s *snapshot) threads(out *places.Spread) {
	list := origin.Threads(s.graph, s.judged, s.drives, s.lastOf)
	size := func(t origin.Thread) int64 { return t.Bytes + 1 } // what is missing has no bytes, and counts
	ofDoc, ofPlace := map[graph.DocID]int64{}, map[int]int64{}
	for _, t := range list {
		ofDoc[t.Document] += size(t)
		ofPlace[t.Place] += size(t)
	}
	docAt, moreDocs := ends(ofDoc, func(d graph.DocID) places.SpreadEnd {
		return places.SpreadEnd{Name: filepath.Base(s.graph.Documents[d].Path), Path: s.graph.Documents[d].Path}
	}, &out.Documents)
	placeAt, morePlaces := ends(ofPlace, func(i int) places.SpreadEnd {
		p := &s.judged.Places[i]
		if p.Kind == origin.MissingPlace {
			return places.SpreadEnd{Name: words.State(graph.Missing), Kind: p.Kind}
		}
		return places.SpreadEnd{Name: drive.Label(s.drives, p.Path), Path: p.Path, Kind: p.Kind}
	}, &out.Places)
	type line struct{ doc, place int }
	sums := map[line]*places.SpreadLine{}
	for _, t := range list {
		d, ok := docAt[t.Document]
		if !ok {
			d = moreDocs
		}
		p, ok := placeAt[t.Place]
		if !ok {
			p = morePlaces
		}
		k := line{d, p}
		if sums[k] == nil {
			sums[k] = &places.SpreadLine{Document: d, Place: p}
		}
		sums[k].Files += t.Files
		sums[k].Bytes += t.Bytes
	}
	for _, l := range sums {
		out.Threads = append(out.Threads, *l)
	}
	slices.SortFunc(out.Threads, func(x, y places.SpreadLine) int {
		return cmp.Or(cmp.Compare(x.Document, y.Document), cmp.Compare(x.Place, y.Place))
	})
}

// ends are the largest of what threads begin at or end in, and where all others are
// gathered.
func ends[K cmp.Ordered](sums map[K]int64, end func(K) places.SpreadEnd, to *[]places.SpreadEnd) (at map[K]int, gathered int) {
	keys := make([]K, 0, len(sums))
	for k := range sums {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b K) int { return cmp.Or(cmp.Compare(sums[b], sums[a]), cmp.Compare(a, b)) })
	at = map[K]int{}
	for i, k := range keys {
		if i == maxEnds && len(keys) > maxEnds+1 {
			break
		}
		at[k] = len(*to)
		*to = append(*to, end(k))
	}
	if more := len(keys) - len(at); more > 0 {
		gathered = len(*to)
		*to = append(*to, places.SpreadEnd{More: more})
	}
	return at, gathered
}
