package stow

import (
	"errors"
	"path/filepath"

	"boundcrate/core/graph"
	"boundcrate/core/mention"
	"boundcrate/core/problem"
)

// falseSums finds documents that tell a digest or a size of a file whose bytes are others in
// the crate: a document that is rewritten, a sound that is made anew. What they tell would
// be false there, so they do not pass as well.
func (p *Texts) falseSums() {
	told := map[[2]string]bool{}
	for i := range p.Graph.References {
		r := &p.Graph.References[i]
		if r.Told == nil || r.Told.Digest == "" && r.Told.Size == 0 || r.File == graph.None || p.of[r.File] < 0 {
			continue
		}
		b, d := &p.Berths[p.of[r.File]], &p.Graph.Documents[r.Doc]
		k := p.of[d.File]
		if k < 0 || p.Berths[k].Absent || b.Absent || b.Sound == nil && b.Cut == nil && (b.Doc == graph.None || len(p.Edits(b.Doc)) == 0) {
			continue
		}
		if key := [2]string{d.Path, b.Source}; !told[key] {
			told[key] = true
			p.problems = append(p.problems, problem.Problem{Kind: problem.FalseSum, Path: d.Path, Document: d.Path, Args: []string{filepath.Base(b.Source)}})
		}
	}
}

// unsaid are the arguments of a problem with a name that cannot be written.
func unsaid(err error) []string {
	var (
		say *mention.CannotSayError
		no  *problem.NoError
	)
	switch {
	case errors.As(err, &say) && errors.As(err, &no):
		return []string{say.Name, string(no.Why), no.Of}
	case errors.As(err, &say):
		return []string{say.Name, "", say.Err.Error()}
	}
	return []string{"", "", err.Error()}
}
