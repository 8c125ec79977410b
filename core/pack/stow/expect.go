package stow

import (
	"path"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
)

// Expect is what every reference of the documents that travel must lead to in the crate:
// one line for each, with the files of the plan. Digests are filled in while they are
// copied.
func (p *Plan) Expect() *proof.Expectations {
	g := p.Graph
	x := &expecter{Plan: p, out: &proof.Expectations{}, places: make([]string, len(g.Documents)), berths: map[int32]int{}, frames: map[string]int{}, setAside: map[string]string{}}
	for _, l := range p.Left {
		if l.Why == Missing && l.Detail != "" {
			x.setAside[l.Path] = l.Detail
		}
	}
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
	return x.along()
}

// along adds what the documents that go along must lead to: a list for each that was
// traced by itself, of all its documents that nothing told of before.
func (x *expecter) along() *proof.Expectations {
	at, told, out := x.Plan.places(), map[string]bool{}, x.out
	for _, d := range out.Documents {
		told[d] = true
	}
	for i := range x.Berths {
		if b := &x.Berths[i]; b.aside != nil && b.aside.Doc == 0 && !b.Absent && !told[b.To()] {
			x.out, x.berths, x.frames = &proof.Expectations{Roots: 1}, map[int32]int{}, map[string]int{}
			x.aside(b.aside.Graph, at, told)
			out.Along = append(out.Along, *x.out)
		}
	}
	return out
}

func (x *expecter) aside(g *graph.Graph, at map[string]int, told map[string]bool) {
	places := make([]string, len(g.Documents))
	for d := range g.Documents {
		k, travels := at[g.Files[g.Documents[d].File].Path]
		if !travels || x.Berths[k].Absent || told[x.Berths[k].To()] {
			continue
		}
		places[d] = x.Berths[k].To()
		told[places[d]] = true
		x.out.Documents = append(x.out.Documents, places[d])
	}
	for i := range g.References {
		r := &g.References[i]
		if places[r.Doc] == "" {
			continue
		}
		e := proof.Expectation{Document: places[r.Doc], Owner: r.Owner, Nth: int(r.Mention), Use: r.Use, To: -1, Gaps: len(r.Gaps) > 0}
		k, travels := 0, false
		if r.File != graph.None {
			k, travels = at[g.Files[r.File].Path]
		}
		switch {
		case r.State == graph.Inside:
			e.Why = proof.Inside
		case r.Network():
			e.Why = proof.Network
		case r.State == graph.Unsaved:
			e.Why = proof.Unsaved
		case !travels && r.File == graph.None:
			e.Why = proof.Why(LacksPart)
		case !travels && g.Files[r.File].Carried:
			e.Why = proof.Why(NotAlong)
		case !travels:
			e.Why = proof.Why(absence(&g.Files[r.File]))
		default:
			if x.to(&e, r, int32(k)); e.Why == "" && r.Fixed { // it leads there or, told as left, nowhere
				e.Why = proof.Fixed
			}
		}
		x.out.List = append(x.out.List, e)
	}
}

type expecter struct {
	*Plan
	out      *proof.Expectations
	places   []string          // of documents; "" of those that stay
	berths   map[int32]int     // berth → target
	frames   map[string]int    // places of frames → target
	setAside map[string]string // paths that were set aside → why (decide.Why)
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
	x.to(&e, r, x.Plan.of[r.File])
	e.Again = e.Why != "" && x.Judged.Rebuildable(r.File)
	if b := &x.Berths[x.Plan.of[r.File]]; b.Absent {
		e.OnPurpose = x.onPurpose(b)
	}
	return e
}

// onPurpose tells why somebody decided that a file does not travel; "" where nobody did.
func (x *expecter) onPurpose(b *Berth) string {
	switch b.Why {
	case Missing:
		return x.setAside[filepath.Join(b.From, b.Was)]
	case Unplugged, Twins, Unreadable, Absence(sift.IsTwice):
		return ""
	}
	return string(decide.LeftOut)
}

// to tells the files of a berth that a reference must lead to.
func (x *expecter) to(e *proof.Expectation, r *graph.Reference, k int32) {
	b := &x.Berths[k]
	if b.Absent {
		e.Why = proof.Why(b.Why)
	}
	switch {
	case !b.sequence:
		e.To = x.target(k)
	case !b.Absent:
		e.To = x.images(r, b)
	}
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
