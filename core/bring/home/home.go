// Package home brings files from outside a project into its folder and makes its
// documents name them there: all or nothing, an edition of each document kept,
// and nothing written over.
package home

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/problem"
)

// Usual are the origins that are brought home where nobody said otherwise: a
// library and a managed store are meant to be leaned on.
var Usual = []graph.Origin{graph.OfDump, graph.Loose, graph.OfOtherProject}

// Why is why an outside file is left where it is.
type Why string

// The reasons.
const (
	IsDocument Why = "document" // another project's document, with names of its own
	NotChosen  Why = "origin"   // its origin was not chosen
	NotThere   Why = "not-there"
	Foreign    Why = "foreign" // only documents outside the project's folder name it
	Gaps       Why = "gaps"    // a sequence of which some files are nowhere; the others came
	Unsaid     Why = "unsaid"  // a document that names it cannot be made to say another place
)

// Left is a file that stays outside.
type Left struct {
	Path string
	Why  Why
}

// Move is a file with its place in the project's folder.
type Move struct {
	From, To string
	of, as   string // what documents name, and shall name: of a sequence its patterns
	bytes    int64
}

// Plan is what would be copied.
type Plan struct {
	Moves   []Move
	Left    []Left
	Bytes   int64
	repairs []resolve.Repair
}

// Make plans for a graph and what was judged of it: each file goes below the root
// into the folder of its kind, under its own name, or with a number where one of
// that name is there.
func Make(g *graph.Graph, judged *origin.Judged, reach drive.Reach, of []graph.Origin) *Plan {
	p := &Plan{}
	taken := map[string]bool{}
	free := func(dir, name string) string { return fileset.Free(reach, taken, dir, name) }
	for i := range g.Files {
		f := &g.Files[i]
		switch {
		case len(f.Refs) == 0 || f.State == graph.Here || f.State == graph.Inside:
			continue
		case !f.Carried:
			if f.State == graph.Unplugged {
				p.Left = append(p.Left, Left{f.Shown(), NotThere})
			}
			continue
		case f.Doc != graph.None:
			p.Left = append(p.Left, Left{f.Path, IsDocument})
			continue
		case !slices.Contains(of, judged.File(g, graph.FileID(i)).Origin):
			p.Left = append(p.Left, Left{f.Shown(), NotChosen})
			continue
		}
		told := map[string]bool{}
		var from []string
		for _, id := range f.Refs {
			if r := &g.References[id]; g.Owns(&g.Documents[r.Doc]) && !told[r.Expected] {
				told[r.Expected] = true
				from = append(from, r.Expected)
			}
		}
		if len(from) == 0 {
			p.Left = append(p.Left, Left{f.Shown(), Foreign})
			continue
		}
		dir := filepath.Join(g.Root, stow.FolderOf(f.Kind))
		to := ""
		if f.Frames != nil {
			pat := f.Frames.Pattern
			pat.Dir = free(dir, filepath.Base(pat.Dir))
			for k, frame := range f.Frames.Files {
				p.Moves = append(p.Moves, Move{frame, filepath.Join(pat.Dir, filepath.Base(frame)), f.Shown(), pat.String(), f.Frames.Sizes[k]})
			}
			to = pat.String()
		} else {
			to = free(dir, filepath.Base(f.Path))
			p.Moves = append(p.Moves, Move{f.Path, to, f.Shown(), to, f.Size})
		}
		p.Bytes += f.Size
		for _, e := range from {
			p.repairs = append(p.repairs, resolve.Repair{From: e, To: to})
		}
	}
	return p
}

// Done is what came of it.
type Done struct {
	Plan
	Written  []writing.Written
	Problems []problem.Problem
}

// Run copies, reads every byte back, and writes the new names into the documents.
// Where anything fails before the first document is written, what was copied is taken
// away again and no document is changed. What a document cannot be made to name there is
// left where it is: beside a copy, the old name could mean both.
func Run(ctx context.Context, p *Plan, g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) (*Done, error) {
	done, unsaid, err := run(ctx, p, g, o, keep, journals)
	if err != nil || len(unsaid) == 0 {
		return done, err
	}
	problems := done.Problems
	fewer := p.without(unsaid)
	if len(fewer.Moves) == 0 {
		return &Done{Plan: *fewer, Problems: problems}, nil
	}
	done, unsaid, err = run(ctx, fewer, g, o, keep, journals)
	if err == nil && len(unsaid) > 0 { // less can be said than a moment ago
		err = &trace.ChangedError{Path: g.Documents[0].Path}
	}
	done.Problems = append(problems, done.Problems...)
	return done, err
}

// without is a plan that leaves what documents cannot be made to name.
func (p *Plan) without(unsaid []string) *Plan {
	fewer := &Plan{Left: slices.Clone(p.Left)}
	stays := map[string]bool{}
	for _, r := range p.repairs {
		if slices.Contains(unsaid, r.From) {
			stays[r.To] = true
		}
	}
	for _, r := range p.repairs {
		if !stays[r.To] {
			fewer.repairs = append(fewer.repairs, r)
		}
	}
	for _, m := range p.Moves {
		if stays[m.as] {
			if n := len(fewer.Left); n == 0 || fewer.Left[n-1] != (Left{m.of, Unsaid}) { // once for a sequence
				fewer.Left = append(fewer.Left, Left{m.of, Unsaid})
			}
			continue
		}
		fewer.Moves = append(fewer.Moves, m)
		fewer.Bytes += m.bytes
	}
	return fewer
}

// run is Run; where documents cannot be made to say some of the places, it tells them and
// nothing was done.
func run(ctx context.Context, p *Plan, g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) (done *Done, unsaid []string, err error) {
	done = &Done{Plan: *p}
	tx, err := fileset.Begin(journals, g.Documents[0].Path)
	if err != nil {
		return done, nil, &writing.Error{Document: g.Documents[0].Path, Step: writing.Busy, Err: err}
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, m := range p.Moves {
		if err := copyNew(ctx, tx, o.Reach, m.From, m.To); err != nil {
			return done, nil, fmt.Errorf("‘%s’: %w", m.From, err)
		}
	}
	var docs []string
	for _, i := range g.Roots {
		docs = append(docs, g.Documents[i].Path)
	}
	o.Root = g.Root
	o.Repairs = append(slices.Clone(o.Repairs), p.repairs...)
	there, err := trace.Run(ctx, o, docs...)
	if err != nil {
		return done, nil, err
	}
	ours := map[string]bool{} // what a person mended is written when they say so, not by the way
	for _, r := range p.repairs {
		ours[r.From] = true
	}
	could, err := writing.Try(there, o, ours)
	if err != nil || len(could.Keep) > 0 {
		done.Problems = could.Problems
		return done, could.Keep, err
	}
	wrote, err := writing.RepairsIn(tx, there, o, keep, ours)
	done.Written, done.Problems = wrote.Written, wrote.Problems
	if err == nil {
		done.Left = append(slices.Clone(p.Left), remains(there, p.repairs, wrote.Keep)...)
	}
	return done, nil, err
}

// remains is what is not as it should be when all is written: a name that does not lead home,
// for whatever reason, and sequences that lack files.
func remains(g *graph.Graph, repairs []resolve.Repair, unsaid []string) (list []Left) {
	to := map[string]string{}
	for _, r := range repairs {
		to[r.From] = r.To
	}
	told := map[string]bool{}
	for i := range g.References {
		r := &g.References[i]
		want, ours := to[r.Expected]
		if !ours || told[r.Expected] || !g.Owns(&g.Documents[r.Doc]) {
			continue
		}
		switch {
		case r.File == graph.None || g.Files[r.File].Path != want || slices.Contains(unsaid, r.Expected):
			told[r.Expected] = true
			list = append(list, Left{r.Shown(r.Expected), Unsaid})
		case len(r.Gaps) > 0:
			told[r.Expected] = true
			list = append(list, Left{r.Shown(r.Expected), Gaps})
		}
	}
	return list
}

// errReadBack: a copy is not what was copied.
var errReadBack = errors.New("the copy differs from what was read")

// copyNew copies a file to a name that nothing has, with its time, and reads it
// back before it has that name.
func copyNew(ctx context.Context, tx *fileset.Txn, reach drive.Reach, from, to string) error {
	info, err := reach.Stat(from)
	if err != nil {
		return err
	}
	if err := fileset.Reachable(reach, filepath.Dir(to)); err != nil {
		return err
	}
	if err := tx.Dirs(filepath.Dir(to)); err != nil {
		return err
	}
	sum := sha256.New()
	return tx.Create(to, info.Mode.Perm()|0o600, info.ModTime, func(w io.Writer) error {
		return content.AsIs{Reach: reach, Path: from, Info: info}.WriteTo(ctx, io.MultiWriter(w, sum))
	}, func(tmp string) error {
		back, err := drive.Fingerprint(ctx, drive.System{}, tmp, nil)
		if err == nil && back != hex.EncodeToString(sum.Sum(nil)) {
			err = errReadBack
		}
		return err
	})
}
