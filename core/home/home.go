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

	"boundcrate/core/content"
	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/facts"
	"boundcrate/core/fileset"
	"boundcrate/core/graph"
	"boundcrate/core/origin"
	"boundcrate/core/problem"
	"boundcrate/core/resolve"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
	"boundcrate/core/writing"
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
)

// Left is a file that stays outside.
type Left struct {
	Path string
	Why  Why
}

// Move is a file with its place in the project's folder.
type Move struct {
	From, To string
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
			for _, frame := range f.Frames.Files {
				p.Moves = append(p.Moves, Move{frame, filepath.Join(pat.Dir, filepath.Base(frame))})
			}
			to = pat.String()
		} else {
			to = free(dir, filepath.Base(f.Path))
			p.Moves = append(p.Moves, Move{f.Path, to})
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
// away again and no document is changed. Names that a document cannot say are problems; their files are there all
// the same.
func Run(ctx context.Context, p *Plan, g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) (done *Done, err error) {
	done = &Done{Plan: *p}
	tx, err := fileset.Begin(journals, g.Documents[0].Path)
	if err != nil {
		return done, &writing.Error{Document: g.Documents[0].Path, Step: writing.Busy, Err: err}
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, m := range p.Moves {
		if err := copyNew(ctx, tx, o.Reach, m.From, m.To); err != nil {
			return done, fmt.Errorf("‘%s’: %w", m.From, err)
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
		return done, err
	}
	ours := map[string]bool{} // what a person mended is written when they say so, not by the way
	for _, r := range p.repairs {
		ours[r.From] = true
	}
	wrote, err := writing.RepairsIn(tx, there, o, keep, ours)
	done.Written, done.Problems = wrote.Written, wrote.Problems
	return done, err
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
		back, err := facts.Fingerprint(ctx, drive.System{}, tmp, nil)
		if err == nil && back != hex.EncodeToString(sum.Sum(nil)) {
			err = errReadBack
		}
		return err
	})
}
