package stow

import (
	"path"
	"slices"
	"strings"

	"boundcrate/core/graph"
	"boundcrate/core/proof"
)

// Expect is what every reference of the documents that travel must lead to in the crate:
// one line for each, with the files of the plan. Digests are filled in while they are
// copied.
func (p *Plan) Expect() *proof.Expectations {
	g := p.Graph
	x := &expecter{Plan: p, out: &proof.Expectations{}, places: make([]string, len(g.Documents)), berths: map[int32]int{}, frames: map[string]int{}}
	met := map[string]bool{}
	document := func(d graph.DocID) {
		k := p.of[g.Documents[d].File]
		if k < 0 || p.Berths[k].Absent {
			return
		}
		at := p.Berths[k].To()
		if x.places[d] = at; !met[at] {
			met[at] = true
			x.out.Documents = append(x.out.Documents, at)
		}
	}
	for _, d := range g.Roots {
		document(d)
	}
	x.out.Roots = len(x.out.Documents)
	for d := range g.Documents {
		document(graph.DocID(d))
	}
	x.out.List = make([]proof.Expectation, 0, len(g.References))
	for i := range g.References {
		if r := &g.References[i]; x.places[r.Doc] != "" {
			x.out.List = append(x.out.List, x.of(r))
		}
	}
	return x.out
}

type expecter struct {
	*Plan
	out    *proof.Expectations
	places []string       // of documents; "" of those that stay
	berths map[int32]int  // berth → target
	frames map[string]int // places of frames → target
}

func (x *expecter) of(r *graph.Reference) proof.Expectation {
	e := proof.Expectation{Document: x.places[r.Doc], Owner: r.Owner, Nth: int(r.Mention), Use: r.Use, To: -1, Gaps: len(r.Gaps) > 0}
	if r.File == graph.None || x.Plan.of[r.File] < 0 {
		switch {
		case r.State == graph.Inside:
			e.Why = proof.Inside
		case r.Network():
			e.Why = proof.Network
		case r.State == graph.Unsaved:
			e.Why = proof.Unsaved
		default:
			e.Why = proof.Why(LacksPart)
		}
		return e
	}
	k := x.Plan.of[r.File]
	b := &x.Berths[k]
	if b.Absent {
		e.Why, e.Again = proof.Why(b.Why), x.Judged.Rebuildable(r.File)
	}
	switch {
	case !b.sequence:
		e.To = x.target(k)
	case !b.Absent:
		e.To = x.images(r, b)
	}
	return e
}

// target is the one place of a file.
func (x *expecter) target(k int32) int {
	to, known := x.berths[k]
	if !known {
		to = len(x.out.Targets)
		x.berths[k] = to
		x.out.Targets = append(x.out.Targets, []proof.Member{{Path: x.Berths[k].To()}})
	}
	return to
}

// images are the places of those files of a sequence that a reference leads to and that
// travel.
func (x *expecter) images(r *graph.Reference, b *Berth) int {
	travels := make(map[string]bool, len(b.Frames))
	for _, f := range b.Frames {
		travels[f] = true
	}
	var places []string
	for _, f := range r.Files {
		if travels[f] {
			places = append(places, path.Join(b.Folder, b.frame(f)))
		}
	}
	slices.Sort(places)
	key := strings.Join(places, "\x00")
	to, known := x.frames[key]
	if !known {
		to = len(x.out.Targets)
		x.frames[key] = to
		members := make([]proof.Member, len(places))
		for i, p := range places {
			members[i].Path = p
		}
		x.out.Targets = append(x.out.Targets, members)
	}
	return to
}
