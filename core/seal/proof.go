package seal

import (
	"context"
	"errors"
	"path/filepath"
	"strings"

	"boundcrate/core/bag"
	"boundcrate/core/drive"
	"boundcrate/core/format"
	"boundcrate/core/graph"
	"boundcrate/core/mention"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
)

// Open is a reference within a crate that keeps it from being complete.
type Open struct {
	Code     string // mention.Leaves or mention.Incomplete
	Path     string // where it leads, or should
	Document string
	Written  string
	Owner    string
	State    graph.State
	Lacks    int // files of a sequence
}

// proof is the trace of a crate with nothing else reachable.
type proof struct {
	complete bool
	guessed  int
	open     []Open
	problems []mention.Problem
	left     []stow.Left
}

// prove traces the documents of a crate. What keeps it from being complete is
// open; network assets and things never saved are only listed. A document of no
// known format in which nothing was recognised proves nothing. again are the places
// of files that did not travel since a program makes them again.
func prove(ctx context.Context, formats format.Set, reach drive.Reach, root string, docs []string, again map[string]bool) (*proof, error) {
	p := &proof{complete: true}
	if len(docs) == 0 {
		return p, nil
	}
	g, err := trace.Run(ctx, trace.Options{Formats: formats, Reach: reach, Root: root}, docs...)
	var bad *trace.Error
	if errors.As(err, &bad) {
		p.complete = false
		p.problems = append(p.problems, mention.Problem{Code: mention.Malformed, Path: bad.Path, Document: bad.Path, Message: bad.Error()})
		return p, nil
	}
	if err != nil {
		return nil, err
	}
	for i := range g.Documents {
		if d := &g.Documents[i]; d.Guessed {
			p.guessed++
			p.complete = p.complete && d.Recognised
		}
	}
	for i := range g.References {
		r := &g.References[i]
		doc := g.Documents[r.Doc].Path
		at := r.Shown(r.Expected)
		if at == "" {
			at = doc
		}
		o := Open{Path: at, Document: doc, Written: r.Written, Owner: r.Owner, State: r.State, Lacks: r.Lacks()}
		switch {
		case r.Network():
			p.left = append(p.left, stow.Left{Path: r.Written, Why: stow.OnNetwork})
			continue
		case r.State == graph.Away:
			p.complete = false
			o.Code, o.Path = mention.Leaves, r.Target()
			p.open = append(p.open, o)
			continue
		case !r.State.Found() && r.State != graph.Inside:
			p.left = append(p.left, stow.Left{Path: at, Why: stow.Absence(r.State)})
		}
		if r.Pending() && !(r.State == graph.Missing && again[r.Expected]) {
			p.complete = false
			o.Code = mention.Incomplete
			p.open = append(p.open, o)
		}
	}
	for _, problem := range g.Problems {
		if problem.Code != format.Mislabelled { // all that it names was read
			p.complete = false
		}
	}
	p.problems = append(p.problems, g.Problems...)
	return p, nil
}

// prove traces the crate with nothing else reachable. at is where it stands
// now, final where it will stand.
func (s *sealer) prove(ctx context.Context, reach drive.Reach, at, final string) error {
	var docs []string
	for _, d := range s.record().Documents {
		docs = append(docs, filepath.Join(at, d.Path))
	}
	p, err := prove(ctx, s.Trace.Formats, reach, filepath.Join(at, bag.Payload), docs, below(at, s.record().Rebuilt))
	if err != nil {
		return err
	}
	for i := range p.problems {
		pr := &p.problems[i]
		pr.Path, pr.Document = rebase(pr.Path, at, final), rebase(pr.Document, at, final)
		pr.Message = strings.ReplaceAll(pr.Message, at, final)
	}
	for i := range p.open {
		p.open[i].Path, p.open[i].Document = rebase(p.open[i].Path, at, final), rebase(p.open[i].Document, at, final)
	}
	s.proof = p
	return nil
}

// below are places of a crate, as they stand.
func below(base string, places []string) map[string]bool {
	m := map[string]bool{}
	for _, p := range places {
		m[filepath.Join(base, p)] = true
	}
	return m
}

func rebase(p, from, to string) string {
	if drive.Within(from, p) {
		return to + strings.TrimPrefix(p, from)
	}
	return p
}
