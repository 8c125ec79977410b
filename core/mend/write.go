package mend

import (
	"fmt"
	"io"
	"os"
	"path/filepath"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/format"
	"boundcrate/core/graph"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
)

// Written is a document that repairs were written into.
type Written struct {
	Document string `json:"document"`
	Edition  string `json:"edition"`  // where its earlier state is kept
	Mentions int    `json:"mentions"` // how many places changed
}

// WriteStep is what writing was about when it failed.
type WriteStep string

// The steps of writing.
const (
	Saying  WriteStep = "saying"  // a document cannot be made to say the new names
	Keeping WriteStep = "keeping" // no edition could be kept
	Writing WriteStep = "writing"
)

// WriteError is a document that repairs could not be written into. Nothing was
// written, or what was is as it was.
type WriteError struct {
	Document string
	Step     WriteStep
	Err      error
}

func (e *WriteError) Error() string {
	return fmt.Sprintf("‘%s’ was not written (%s): %v", e.Document, e.Step, e.Err)
}

func (e *WriteError) Unwrap() error { return e.Err }

// Write puts the graph's repairs into its documents, keeping an edition of
// each first. Documents outside the root are another's and are only listed as
// problems. Either all documents are written or none. A document that is not
// the one that was traced any more is a *trace.ChangedError.
func Write(g *graph.Graph, o trace.Options, keep edition.Keeper) ([]Written, []mention.Problem, error) {
	var problems []mention.Problem
	type job struct {
		doc   *graph.Document
		file  *format.File
		edits []mention.Edit
		count int
	}
	var jobs []job
	repaired := map[graph.DocID]bool{}
	for k := range g.References {
		if r := &g.References[k]; r.Repaired {
			repaired[g.Documents[r.Doc].Host] = true
			if scattered(r) {
				d := &g.Documents[r.Doc]
				problems = append(problems, mention.Problem{Code: mention.Scattered, Path: d.Path, Document: d.Path, Message: r.Written})
			}
		}
	}
	for i := range g.Documents {
		host := graph.DocID(i)
		if !repaired[host] {
			continue
		}
		file, err := o.Reopen(g, host)
		if err != nil {
			return nil, nil, err
		}
		want := Wants(g, host, file)
		if len(want) == 0 {
			continue
		}
		edits, err := Prove(file, want)
		if err != nil {
			return nil, nil, &WriteError{g.Documents[i].Path, Saying, err}
		}
		var of []job
		foreign := false
		for k := range g.Documents {
			d := &g.Documents[k]
			if d.Host != host {
				continue
			}
			mine := EditsOf(d, edits)
			if len(mine) == 0 {
				continue
			}
			if !drive.Within(g.Root, d.Path) {
				foreign = true
				problems = append(problems, mention.Problem{Code: mention.NotOurs, Path: d.Path, Document: d.Path})
				continue
			}
			count := 0
			for m := range want {
				if holds(d, file, m) {
					count++
				}
			}
			of = append(of, job{d, trace.Part(g, graph.DocID(k), file), mine, count})
		}
		if !foreign { // a document and the texts it is read with change together
			jobs = append(jobs, of...)
		}
	}
	var done []Written
	undo := func() {
		for _, w := range done {
			b, err := os.ReadFile(w.Edition)
			fi, err2 := os.Stat(w.Document)
			if err == nil && err2 == nil {
				_ = drive.Replace(w.Document, fi.Mode().Perm(), func(o io.Writer) error { _, err := o.Write(b); return err })
			}
		}
	}
	for _, j := range jobs {
		kept, err := keep.Keep(j.doc.Info.Real)
		if err != nil {
			undo()
			return nil, nil, &WriteError{j.doc.Path, Keeping, err}
		}
		if err := rewrite(o.Reach, j.doc, j.file, j.edits); err != nil {
			undo()
			return nil, nil, &WriteError{j.doc.Path, Writing, err}
		}
		done = append(done, Written{j.doc.Info.Real, kept, j.count})
	}
	return done, problems, nil
}

// rewrite puts the edits into a document's file. What its texts do not hold,
// the other members of a package, is read from the file once more.
func rewrite(reach drive.Reach, d *graph.Document, f *format.File, edits []mention.Edit) error {
	src, err := drive.OpenSized(reach, d.Path)
	if err != nil {
		return err
	}
	defer src.Close()
	return drive.Replace(d.Info.Real, d.Info.Mode.Perm(), func(w io.Writer) error { return f.RewriteFrom(src, w, edits) })
}

// EditsOf are those of a host's edits that change a document's own file.
func EditsOf(d *graph.Document, of []mention.Edit) []mention.Edit {
	if d.Package {
		return of // of a package, all texts are of one file
	}
	return mention.OfText(of, d.Text)
}

func holds(d *graph.Document, host *format.File, m int) bool {
	return d.Package || host.Doc.Mentions[m].Text == d.Text
}

// Writable are the documents that repairs can be written into, by their paths,
// in document order.
func Writable(g *graph.Graph) (list []string) {
	met := map[graph.DocID]bool{}
	for i := range g.References {
		r := &g.References[i]
		if !r.Repaired || !r.State.Found() || met[r.Doc] {
			continue
		}
		met[r.Doc] = true
		if d := &g.Documents[r.Doc]; drive.Within(g.Root, d.Path) {
			list = append(list, d.Path)
		}
	}
	return list
}

// Wants lists what document i of a repaired graph, opened again, shall say,
// with the texts it includes.
func Wants(g *graph.Graph, i graph.DocID, file *format.File) map[int]string {
	want := map[int]string{}
	dir := filepath.Dir(g.Documents[i].Path)
	for k := range g.References {
		r := &g.References[k]
		if g.Documents[r.Doc].Host != i || !r.Repaired || !r.State.Found() {
			continue
		}
		m := &file.Doc.Mentions[r.Mention]
		old := file.Doc.Name(int(r.Mention))
		if m.Sequence != nil {
			if !scattered(r) {
				want[int(r.Mention)] = resolve.SayPattern(m, old, dir, g.Files[r.File].Frames.Pattern)
			}
			continue
		}
		want[int(r.Mention)] = resolve.Say(m.Spelling, old, dir, r.Path)
	}
	return want
}

// scattered tells sequences whose files stand in several folders.
func scattered(r *graph.Reference) bool {
	for _, f := range r.Files {
		if filepath.Dir(f) != filepath.Dir(r.Files[0]) {
			return true
		}
	}
	return false
}

// Prove computes the edits for the wanted names and reads the result again:
// it must say exactly what was wanted and keep all other names.
func Prove(f *format.File, want map[int]string) ([]mention.Edit, error) {
	edits, err := f.Doc.Retarget(want)
	if err != nil || len(edits) == 0 {
		return nil, err
	}
	back, err := f.Reread(edits)
	if back == nil {
		return nil, err
	}
	if len(back.Mentions) != len(f.Doc.Mentions) {
		return nil, fmt.Errorf("reading it again gave %d references, not %d", len(back.Mentions), len(f.Doc.Mentions))
	}
	for k := range f.Doc.Mentions {
		name, ok := want[k]
		if !ok {
			if f.Doc.Mentions[k].Inside() {
				continue
			}
			name = f.Doc.Name(k)
		}
		if got := back.Name(k); got != name {
			return nil, fmt.Errorf("reading it again gave %q, not %q", got, name)
		}
	}
	return edits, nil
}
