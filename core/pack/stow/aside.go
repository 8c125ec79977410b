package stow

import (
	"context"
	"path"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/problem"
)

// Aside is a document that goes along, in the graph of its own trace.
type Aside struct {
	Graph *graph.Graph
	Doc   graph.DocID
}

// asides adds what the documents that go along name and nothing else brings: with a
// drawing its pictures and styles.
func (p *planner) asides() {
	if len(p.o.Asides) == 0 {
		return
	}
	at, told := p.places(), map[string]bool{}
	p.shared = map[string]bool{}
	for i := range len(p.Berths) {
		g, doc := p.o.Asides[p.Berths[i].Source], p.Berths[i]
		if g == nil || doc.Along == "" {
			continue
		}
		p.Berths[i].Beside.aside = &Aside{Graph: g, Doc: 0}
		for k := range g.Files {
			f := &g.Files[k]
			if f.Path == doc.Source || len(f.Refs) == 0 {
				continue
			}
			why := Absence("")
			if !f.Carried {
				why = absence(f)
			} else if f.Frames != nil {
				why = NotAlong
			}
			_, known := at[f.Path]
			if doc.Along == sift.Strays { // a list: it brings nothing, and what it names stays as it is
				continue
			}
			if p.shared[f.Path] = true; why != "" {
				if !known && !told[f.Path] {
					told[f.Path] = true
					p.Left = append(p.Left, Left{Path: f.Path, Why: why})
				}
				continue
			}
			if !known {
				at[f.Path] = len(p.Berths)
				p.along(&sift.Extra{Path: f.Path, Size: f.Size, What: doc.Along})
			}
			if b := &p.Berths[at[f.Path]]; f.Doc != graph.None && b.Along != "" && b.aside == nil && g.Documents[f.Doc].Host == f.Doc {
				b.Beside.aside = &Aside{g, f.Doc}
			}
		}
	}
}

// places are the berths by the paths of their files, of those too that do not travel: a name
// that leads there is right as soon as the file is put there.
func (p *Plan) places() map[string]int {
	at := make(map[string]int, len(p.Berths))
	for i := range p.Berths {
		switch b := &p.Berths[i]; {
		case b.File != graph.None:
			at[p.Graph.Files[b.File].Path] = i
		case b.Form == "" && !b.Apart():
			at[b.Source] = i
		}
	}
	return at
}

// writeAsides proves what the documents that go along will say.
func (p *Texts) writeAsides(ctx context.Context, o trace.Options) error {
	at := p.places()
	for i := range p.Berths {
		b := &p.Berths[i]
		if b.aside == nil || b.Absent {
			continue
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		g := b.aside.Graph
		file, err := o.Reopen(g, b.aside.Doc)
		if err != nil {
			return err
		}
		dir := path.Join("/", b.Folder)
		want := map[int]string{}
		for n := range g.References {
			r := &g.References[n]
			if r.File == graph.None || g.Documents[r.Doc].Host != b.aside.Doc || r.Fixed {
				continue
			}
			to, travels := at[g.Files[r.File].Path]
			k := int(r.Mention)
			if !travels || k >= len(file.Doc.Mentions) {
				continue
			}
			if b := &p.Berths[to]; b.sequence {
				pat := b.Pattern
				pat.Dir = path.Join("/", pat.Dir)
				want[k] = resolve.SayPatternRelative(&file.Doc.Mentions[k], file.Doc.Name(k), dir, pat)
				continue
			}
			want[k] = resolve.SayRelative(file.Doc.Mentions[k].Spelling, resolve.Manner(file.Doc.Name(k), r.Path), dir, path.Join("/", p.Berths[to].To()))
		}
		edits, err := writing.Prove(file, want)
		if err != nil { // it travels as it is, and says so
			p.problems = append(p.problems, problem.Problem{Kind: problem.CannotSay, Path: b.Source, Document: b.Source, Args: unsupportedNames(err)})
			continue
		}
		p.asides[i] = edits
		p.addSize(i, file.Doc.Texts[0], writing.EditsOf(&g.Documents[b.aside.Doc], edits))
	}
	return nil
}

// inRoot is a place below the project's folder; of others their name alone.
func inRoot(root, p string) string {
	if !drive.Within(root, p) {
		return filepath.Base(p)
	}
	rel, err := filepath.Rel(root, p)
	if err != nil {
		return filepath.Base(p)
	}
	return filepath.ToSlash(rel)
}

// Along are the files that go along though no document that was asked for names them: those that
// were chosen, and what they need themselves.
func (p *Plan) Along() (list []sift.Extra) {
	for i := range p.Berths {
		if b := &p.Berths[i]; b.Along != "" && !b.Apart() && b.Source != "" {
			list = append(list, sift.Extra{Path: b.Source, Size: b.Size, What: b.Along})
		}
	}
	return list
}
