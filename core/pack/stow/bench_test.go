package stow_test

import (
	"context"
	"fmt"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// heap is a graph of documents in a chain, each with files of its own, and one that the
// next has too.
func heap(docs, each int) *graph.Graph {
	g := &graph.Graph{Root: "/w", Roots: []graph.DocID{0}}
	file := func(path string, doc graph.DocID) graph.FileID {
		g.Files = append(g.Files, graph.File{At: drive.Path{Path: path}, Path: path, State: graph.Here, Kind: facts.Image, Use: mention.Used, Size: 1000, Doc: doc, Carried: true})
		return graph.FileID(len(g.Files) - 1)
	}
	refer := func(doc graph.DocID, f graph.FileID) {
		g.References = append(g.References, graph.Reference{Doc: doc, File: f, Use: mention.Used})
		g.Files[f].Refs = append(g.Files[f].Refs, graph.RefID(len(g.References)-1))
	}
	for d := range docs {
		id := file(fmt.Sprintf("/w/%d/doc.usda", d), graph.DocID(d))
		g.Documents = append(g.Documents, graph.Document{Path: g.Files[id].Path, File: id, Host: graph.DocID(d), Use: mention.Used})
		if d > 0 {
			refer(graph.DocID(d-1), id)
		}
	}
	for d := range docs {
		for i := range each {
			f := file(fmt.Sprintf("/w/%d/maps/tile %d.png", d, i), graph.None)
			refer(graph.DocID(d), f)
			if d+1 < docs {
				refer(graph.DocID(d+1), f)
			}
		}
	}
	return g
}

// BenchmarkPlan: 20,000 files, and again after one is left; asked are 300 and 50 ms.
func BenchmarkPlan(b *testing.B) {
	g := heap(20, 1000)
	for b.Loop() {
		if _, err := stow.Make(context.Background(), g, stow.Options{}); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkFixpoint: 400,000 references of 1,000 documents in a chain, of which the
// second is left: the longest way that what hangs on it can have. Asked are 300 ms.
func BenchmarkFixpoint(b *testing.B) {
	g := heap(1000, 200)
	b.ReportMetric(float64(len(g.References)), "references")
	for b.Loop() {
		if s := sift.Decide(sift.Of{Graph: g}, sift.Choice{Docs: []string{g.Documents[1].Path}}); len(s.Passes) < 999 {
			b.Fatal(s.Passes)
		}
	}
}
