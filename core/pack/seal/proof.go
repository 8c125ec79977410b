package seal

import (
	"context"
	"errors"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/rules"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
	"boundcrate/core/text/problem"
)

// evidence is what a crate is proved by: its trace with nothing else reachable, and what
// was expected of it.
type evidence struct {
	formats format.Set
	reach   drive.Reach
	data    string   // its folder data
	docs    []string // its documents
	want    *proof.Expectations
	digest  func(place string) string
	late    func(place string) bool
	again   map[string]bool // places of files that a program makes again
}

// proved is what came of it.
type proved struct {
	proof.Verdict
	problems []problem.Problem
	left     []stow.Left
	rules    []string // rules files of the crate itself that its documents were read by
}

// along proves the documents that go along, each traced by itself as it was when the crate
// was planned.
func (p *proved) along(ctx context.Context, e evidence, crate proof.Crate) error {
	covered := e.want.Places()
	crate.Elsewhere = func(place string) bool { return covered[place] }
	for i := range e.want.Along {
		want := &e.want.Along[i]
		if len(want.Documents) == 0 || bag.Unsafe(want.Documents[0]) != "" {
			p.Complete = false
			p.Open = append(p.Open, proof.Open{Code: proof.NoRoots, Path: e.data})
			continue
		}
		g, err := trace.Run(ctx, trace.Options{Formats: e.formats, Reach: e.reach, Root: e.data, Unlooked: true}, filepath.Join(e.data, want.Documents[0]))
		var bad *trace.Error
		if errors.As(err, &bad) {
			p.Complete = false
			p.problems = append(p.problems, problem.Problem{Kind: problem.NotReadable, Path: bad.Path, Document: bad.Path, Args: []string{bad.Error()}})
			continue
		}
		if err != nil {
			return err
		}
		crate.Graph = g
		v := proof.Judge(crate, want)
		p.Complete = p.Complete && v.Complete
		p.Expected, p.Held, p.Left, p.Rebuild, p.Guessed = p.Expected+v.Expected, p.Held+v.Held, p.Left+v.Left, p.Rebuild+v.Rebuild, p.Guessed+v.Guessed
		p.Open = append(p.Open, v.Open...)
	}
	return nil
}

// prove traces the documents of a crate and holds what they lead to against what was
// expected. Addresses on the network and things never saved are only listed.
func prove(ctx context.Context, e evidence) (*proved, error) {
	p := &proved{Verdict: proof.Verdict{Complete: e.want == nil, By: proof.Trace}}
	if len(e.docs) == 0 {
		if e.want != nil {
			p.By, p.Open = proof.Identity, []proof.Open{{Code: proof.NoRoots, Path: e.data}}
		}
		return p, nil
	}
	g, err := trace.Run(ctx, trace.Options{Formats: e.formats, Reach: e.reach, Root: e.data, Unlooked: true}, e.docs...)
	var bad *trace.Error
	if errors.As(err, &bad) {
		p.Complete = false
		p.problems = append(p.problems, problem.Problem{Kind: problem.NotReadable, Path: bad.Path, Document: bad.Path, Args: []string{bad.Error()}})
		return p, nil
	}
	if err != nil {
		return nil, err
	}
	crate := proof.Crate{Graph: g, Data: e.data, Digest: e.digest, Late: e.late, Again: func(place string) bool { return e.again[place] }}
	p.Verdict = proof.Judge(crate, e.want)
	if e.want != nil && len(e.want.Along) > 0 {
		if err := p.along(ctx, e, crate); err != nil {
			return nil, err
		}
	}
	for i := range g.References {
		switch r := &g.References[i]; {
		case r.Network():
			p.left = append(p.left, stow.Left{Path: r.Written, Why: stow.OnNetwork})
		case r.State != graph.Away && !r.State.Found() && r.State != graph.Inside:
			at := r.Shown(r.Expected)
			if at == "" {
				at = g.Documents[r.Doc].Path
			}
			p.left = append(p.left, stow.Left{Path: at, Why: stow.Absence(r.State)})
		}
	}
	for _, bad := range g.Problems {
		if !bad.Harmless() { // all that it names was read
			p.Complete = false
		}
	}
	p.problems = append(p.problems, g.Problems...)
	for i := range g.Documents {
		f, own := e.formats.Named(g.Documents[i].Format).(*rules.File)
		if own && f.Foreign && !slices.Contains(p.rules, f.ID) {
			p.rules = append(p.rules, f.ID)
		}
	}
	return p, nil
}

// prove proves the crate under way. at is where it stands now, final where it will stand.
func (s *sealer) prove(ctx context.Context, reach drive.Reach, at, final string) error {
	rec := s.record()
	var docs []string
	for _, d := range rec.Documents {
		docs = append(docs, filepath.Join(at, d.Path))
	}
	p, err := prove(ctx, evidence{
		formats: s.Trace.Formats, reach: reach, data: filepath.Join(at, bag.Payload), docs: docs, want: rec.Expect,
		digest: func(place string) string { return s.sum(bag.Payload + "/" + place).sum }, late: func(string) bool { return false }, again: places(rec.Rebuilt),
	})
	if err != nil {
		return err
	}
	for i := range p.problems {
		pr := &p.problems[i]
		pr.Path, pr.Document = rebase(pr.Path, at, final), rebase(pr.Document, at, final)
		for k := range pr.Args {
			pr.Args[k] = strings.ReplaceAll(pr.Args[k], at, final)
		}
	}
	for i := range p.Open {
		p.Open[i].Path, p.Open[i].Document = rebase(p.Open[i].Path, at, final), rebase(p.Open[i].Document, at, final)
	}
	s.proof = p
	return nil
}

// places are places of a crate, below data/.
func places(list []string) map[string]bool {
	m := map[string]bool{}
	for _, p := range list {
		m[strings.TrimPrefix(p, bag.Payload+"/")] = true
	}
	return m
}

func rebase(p, from, to string) string {
	if drive.Within(from, p) {
		return to + strings.TrimPrefix(p, from)
	}
	return p
}
