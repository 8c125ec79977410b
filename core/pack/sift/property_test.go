package sift_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// chance is a graph made by chance: documents that name each other, also in circles, and
// files that several of them name.
func chance(r *rand.Rand) *graph.Graph {
	docs, files := 2+r.IntN(8), 1+r.IntN(20)
	g := &graph.Graph{Root: "/w", Roots: []graph.DocID{0}}
	add := func(name string, doc graph.DocID) graph.FileID {
		uses := []mention.Use{mention.Used, mention.Used, mention.Dormant, mention.Listed}
		g.Files = append(g.Files, graph.File{At: drive.Path{Path: "/w/" + name}, Path: "/w/" + name, State: graph.Here, Kind: []facts.Kind{facts.Audio, facts.Image}[r.IntN(2)], Use: uses[r.IntN(4)], Size: int64(r.IntN(100)), Doc: doc, Carried: true})
		return graph.FileID(len(g.Files) - 1)
	}
	for d := range docs {
		id := add(fmt.Sprintf("doc %d.m3u", d), graph.DocID(d))
		g.Documents = append(g.Documents, graph.Document{Path: g.Files[id].Path, File: id, Host: graph.DocID(d), Use: mention.Used})
	}
	for f := range files {
		add(fmt.Sprintf("file %d", f), graph.None)
	}
	for range 3 * (docs + files) {
		d, f := graph.DocID(r.IntN(docs)), graph.FileID(1+r.IntN(len(g.Files)-1))
		g.References = append(g.References, graph.Reference{Doc: d, File: f, Use: mention.Used})
		g.Files[f].Refs = append(g.Files[f].Refs, graph.RefID(len(g.References)-1))
	}
	return g
}

// TestReach: what travels is what a plain search reaches from the roots along documents
// that travel, and what is kept by hand; all else stays, circles of documents too. The
// passes together are all that stays, and the last is empty.
func TestReach(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 1))
		g := chance(r)
		choice := sift.Choice{Dormant: r.IntN(2) == 0, Listed: r.IntN(2) == 0, Docs: []string{g.Documents[r.IntN(len(g.Documents))].Path}}
		if r.IntN(2) == 0 {
			choice.Kinds = []facts.Kind{facts.Image}
		}
		hand := map[graph.FileID]decide.ByHand{graph.FileID(r.IntN(len(g.Files))): {Travels: true}, graph.FileID(r.IntN(len(g.Files))): {Stays: true}}
		s := sift.Decide(sift.Of{Graph: g, ByHand: hand}, choice)

		own := map[graph.FileID]bool{}
		for id, why := range s.Stays {
			if why != sift.Freed {
				own[id] = true
			}
		}
		reached := map[graph.FileID]bool{}
		var walk func(graph.FileID)
		walk = func(id graph.FileID) {
			if own[id] || reached[id] {
				return
			}
			reached[id] = true
			for k := range g.References {
				if ref := &g.References[k]; g.Documents[ref.Doc].File == id {
					walk(ref.File)
				}
			}
		}
		walk(g.Documents[g.Roots[0]].File)
		for id, h := range hand {
			if h.Travels && sift.Weighable(g, id) {
				walk(id)
			}
		}
		stays := map[graph.FileID]bool{}
		for i := range g.Files {
			if id := graph.FileID(i); sift.Weighable(g, id) && !reached[id] {
				stays[id] = true
			}
		}
		sum := 0
		for _, n := range s.Passes {
			sum += n
		}
		if len(stays) != len(s.Stays) || sum != len(s.Stays) || s.Passes[len(s.Passes)-1] != 0 {
			t.Fatalf("seed %d: %d stay in passes %v, a search gives %d", seed, len(s.Stays), s.Passes, len(stays))
		}
		for id := range s.Stays {
			if !stays[id] || hand[id].Travels {
				t.Fatalf("seed %d: %s stays", seed, g.Files[id].Path)
			}
		}
		// What is still needed is named by a document that travels, and by one that does not.
		n := 0
		for _, k := range sift.KeptBy(g, s) {
			n += k.Files
			if stays[g.Documents[k.Doc].File] {
				t.Fatalf("seed %d: %s keeps files and stays itself", seed, g.Documents[k.Doc].Path)
			}
		}
		want := 0
		for i := range g.Files {
			id := graph.FileID(i)
			left, kept := false, false
			for _, r := range g.Files[id].Refs {
				if stays[g.Documents[g.References[r].Doc].File] {
					left = true
				} else {
					kept = true
				}
			}
			if left && kept && !stays[id] && sift.Weighable(g, id) {
				want++
			}
		}
		if n != want {
			t.Fatalf("seed %d: %d files are kept, %d are", seed, n, want)
		}
		// The sums tell every file once.
		files := 0
		for _, l := range sift.Weigh(g, nil, s) {
			files += l.Files
			if l.Travels && choice.Dormant && l.Use == mention.Dormant && len(hand) == 0 {
				t.Fatalf("seed %d: %+v travels", seed, l)
			}
		}
		weighable := 0
		for i := range g.Files {
			if sift.Weighable(g, graph.FileID(i)) {
				weighable++
			}
		}
		if files != weighable {
			t.Fatalf("seed %d: %d files weighed of %d", seed, files, weighable)
		}
	}
}

// TestTwice: of one content one file travels, the project's own first; who is told to
// travel does, and one that stays for another reason is no stand-in.
func TestTwice(t *testing.T) {
	g := &graph.Graph{Root: "/w", Roots: []graph.DocID{0}, Documents: []graph.Document{{Path: "/w/d.m3u"}}, Files: []graph.File{{Path: "/w/d.m3u", Carried: true, State: graph.Here}}}
	for i, f := range []graph.File{{Path: "/x/a.wav", State: graph.Away}, {Path: "/w/sound/a.wav", State: graph.Here}, {Path: "/w/b.wav", State: graph.Here, Use: mention.Dormant}} {
		f.Doc, f.Carried, f.Refs = graph.None, true, []graph.RefID{graph.RefID(i)}
		g.Files = append(g.Files, f)
		g.References = append(g.References, graph.Reference{File: graph.FileID(i + 1)})
	}
	group := []graph.FileID{1, 2, 3}
	for _, c := range []struct {
		name   string
		choice sift.Choice
		hand   map[graph.FileID]decide.ByHand
		want   map[graph.FileID]sift.Why
		as     graph.FileID
	}{
		{"all", sift.Choice{Twice: true}, nil, map[graph.FileID]sift.Why{1: sift.IsTwice, 2: sift.IsTwice}, 3},
		{"one stays", sift.Choice{Twice: true, Dormant: true}, nil, map[graph.FileID]sift.Why{1: sift.IsTwice, 3: sift.IsDormant}, 2},
		{"by hand", sift.Choice{Twice: true, Dormant: true}, map[graph.FileID]decide.ByHand{1: {Travels: true}}, map[graph.FileID]sift.Why{3: sift.IsDormant}, 0},
		{"not asked", sift.Choice{}, nil, map[graph.FileID]sift.Why{}, 0},
	} {
		s := sift.Decide(sift.Of{Graph: g, ByHand: c.hand, Same: [][]graph.FileID{group}}, c.choice)
		if fmt.Sprint(s.Stays) != fmt.Sprint(c.want) || len(s.As) > 0 && s.As[1] != c.as || (len(s.As) == 0) != (c.as == 0) {
			t.Errorf("%s: %v as %v, wanted %v as %d", c.name, s.Stays, s.As, c.want, c.as)
		}
	}
}
