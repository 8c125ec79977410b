package mend

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/format"
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

// Write puts the graph's repairs into its documents, keeping an edition of
// each first. Documents outside the root are another's and are only listed as
// problems. Either all documents are written or none.
func Write(g *trace.Graph, reach drive.Reach, keep edition.Keeper) ([]Written, []mention.Problem, error) {
	var problems []mention.Problem
	type job struct {
		doc   *trace.Document
		edits []mention.Edit
		count int
	}
	var jobs []job
	for i := range g.Documents {
		problems = append(problems, filled(g, i)...)
		want := Wants(g, i)
		if len(want) == 0 {
			continue
		}
		edits, err := Prove(g.Documents[i].File, want)
		if err != nil {
			return nil, nil, fmt.Errorf("‘%s’: %w. Nothing was written", g.Documents[i].Path, err)
		}
		var of []job
		foreign := false
		for k := range g.Documents {
			d := &g.Documents[k]
			if d.Host != i {
				continue
			}
			mine := d.Edits(edits)
			if len(mine) == 0 {
				continue
			}
			if !drive.Within(g.Root, d.Path) {
				foreign = true
				problems = append(problems, mention.Problem{
					Code: "outside", Path: d.Path, Document: d.Path, Message: "lies outside the project folder",
					Untouched: "It was not written to.", Do: "Repair it in its own project.",
				})
				continue
			}
			now, err := reach.Stat(d.Path)
			if err != nil {
				return nil, nil, &trace.Error{Path: d.Path, Err: err}
			}
			if now.Size != d.Info.Size || !now.ModTime.Equal(d.Info.ModTime) {
				return nil, nil, fmt.Errorf("‘%s’ changed since it was traced. Nothing was written. Trace it again", d.Path)
			}
			count := 0
			for m := range want {
				if d.Holds(m) {
					count++
				}
			}
			of = append(of, job{d, mine, count})
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
			return nil, nil, fmt.Errorf("no edition of ‘%s’ could be kept: %w. Nothing was written", j.doc.Path, err)
		}
		if err := rewrite(reach, j.doc, j.edits); err != nil {
			undo()
			return nil, nil, fmt.Errorf("‘%s’ could not be written: %w. It is as it was", j.doc.Path, err)
		}
		done = append(done, Written{j.doc.Info.Real, kept, j.count})
	}
	return done, problems, nil
}

// rewrite puts the edits into a document's file. What its texts do not hold,
// the other members of a package, is read from the file once more.
func rewrite(reach drive.Reach, d *trace.Document, edits []mention.Edit) error {
	src, err := drive.OpenSized(reach, d.Path)
	if err != nil {
		return err
	}
	defer src.Close()
	return drive.Replace(d.Info.Real, d.Info.Mode.Perm(), func(w io.Writer) error { return d.File.RewriteFrom(src, w, edits) })
}

// Wants lists what document i of a repaired graph shall say, with the texts it
// includes; nothing for a text that another document includes.
func Wants(g *trace.Graph, i int) map[int]string {
	want := map[int]string{}
	d := &g.Documents[i]
	for k := range g.References {
		r := &g.References[k]
		if g.Documents[r.Doc].Host != i || !r.Repaired || !r.State.Found() {
			continue
		}
		m := &d.File.Doc.Mentions[r.Mention]
		old, dir := d.File.Doc.Name(r.Mention), filepath.Dir(d.Path)
		if m.Sequence != nil {
			if scattered(r) {
				continue
			}
			if pat, ok := PatternOf(r, m.Sequence); ok {
				want[r.Mention] = resolve.SayPattern(m, old, dir, pat)
			}
			continue
		}
		want[r.Mention] = resolve.Say(m.Spelling, old, dir, r.Path)
	}
	return want
}

// scattered tells sequences whose files stand in several folders.
func scattered(r *trace.Reference) bool {
	for _, f := range r.Files {
		if filepath.Dir(f) != filepath.Dir(r.Files[0]) {
			return true
		}
	}
	return false
}

// filled tells of sequences whose gaps were filled from elsewhere: a document
// can name one folder only.
func filled(g *trace.Graph, i int) []mention.Problem {
	var list []mention.Problem
	for k := range g.References {
		if r := &g.References[k]; r.Doc == i && r.Repaired && scattered(r) {
			list = append(list, mention.Problem{
				Code: "cannot-say", Path: g.Documents[i].Path, Document: g.Documents[i].Path,
				Message:   "cannot name a sequence that stands in two folders: " + r.Written,
				Untouched: "The repair stays as it is, and a crate brings the files together.", Do: "Move the files into one folder to have it written.",
			})
		}
	}
	return list
}

// PatternOf is where the files of a found sequence stand.
func PatternOf(r *trace.Reference, seq *mention.Sequence) (resolve.Pattern, bool) {
	if len(r.Files) == 0 {
		return resolve.Pattern{}, false
	}
	pat, ok := resolve.ParsePattern(r.Expected)
	base := filepath.Base(r.Files[0])
	pat.Dir = filepath.Dir(r.Files[0])
	if !strings.HasPrefix(base, pat.Head) || !strings.HasSuffix(base, pat.Tail) {
		head, found := headOf(base, pat)
		if !found {
			return pat, false
		}
		pat.Head = head
	}
	return pat, ok
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
