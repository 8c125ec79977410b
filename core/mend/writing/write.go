// Package writing makes documents say new names: repairs, write points, whatever else stands in their texts. Each is read again
// before anything is written, an edition of it is kept, and of several documents all are written or none.
package writing

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Written is a document that repairs were written into.
type Written struct {
	Document string `json:"document"`
	Edition  string `json:"edition"`       // where its earlier state is kept
	Mentions int    `json:"mentions"`      // how many places changed
	SHA256   string `json:"sha256"`        // of what stands there now
	Was      string `json:"was,omitempty"` // SHA-256 of what stood there, which the edition must have
}

// Step is what writing was about when it failed.
type Step string

// The steps of writing.
const (
	Saying     Step = "saying"  // a document cannot be made to say the new names
	Keeping    Step = "keeping" // no edition could be kept
	Writing    Step = "writing"
	Busy       Step = "busy"       // another writes into these documents at this moment
	Unfinished Step = "unfinished" // others are written; this one changed at the last moment, or is finished at the next start
	Spoiled    Step = "spoiled"    // the edition that was to be put back is not what was kept
	Syncing    Step = "syncing"    // written, and the system would not say that it is safe
)

// Error is a document that repairs could not be written into. Nothing was
// written; but for Unfinished, where other documents were, and Syncing, where all were.
type Error struct {
	Document string
	Step     Step
	Err      error
}

func (e *Error) Error() string {
	return fmt.Sprintf("‘%s’ was not written (%s): %v", e.Document, e.Step, e.Err)
}

func (e *Error) Unwrap() error { return e.Err }

// Outcome is what came of writing.
type Outcome struct {
	Written  []Written
	Problems []problem.Problem
	// Keep are the expected places whose repairs are still needed: a name there
	// could not be written.
	Keep []string
}

// Repairs puts the graph's repairs into its documents, keeping an edition of
// each first. Documents outside the root are another's and are only listed as
// problems, and so are names that a document cannot say. Either all documents are
// written or none, also when it is killed: fileset.Recover finishes what was begun, from
// the folder of journals. A document that is not the one that was traced any more
// is a *trace.ChangedError.
func Repairs(g *graph.Graph, o trace.Options, keep edition.Keeper, journals string) (*Outcome, error) {
	return RepairsFrom(g, o, keep, journals, nil)
}

// RepairsFrom is Repairs for the repairs of some expected places alone; nil: of all.
func RepairsFrom(g *graph.Graph, o trace.Options, keep edition.Keeper, journals string, from map[string]bool) (*Outcome, error) {
	tx, err := begin(journals, g.Documents[0].Path)
	if err != nil {
		return &Outcome{}, err
	}
	out, err := RepairsIn(tx, g, o, keep, from)
	if cerr := tx.Close(); err == nil && cerr != nil {
		err = &Error{Document: g.Documents[0].Path, Step: Syncing, Err: cerr}
	}
	return out, err
}

// RepairsIn is RepairsFrom within a writing that holds other files already. It is committed
// where it holds anything at all.
func RepairsIn(tx *fileset.Txn, g *graph.Graph, o trace.Options, keep edition.Keeper, from map[string]bool) (*Outcome, error) {
	jobs, out, err := writes(g, o, repairedFrom(from))
	if err != nil {
		return out, err
	}
	if len(jobs) == 0 {
		_, err = tx.Commit()
		return out, err
	}
	out.Written, err = commitIn(tx, o.Reach, jobs, keep)
	return out, err
}

// Try tells what RepairsFrom would meet, and writes nothing.
func Try(g *graph.Graph, o trace.Options, from map[string]bool) (*Outcome, error) {
	_, out, err := writes(g, o, repairedFrom(from))
	return out, err
}

// Changes are what RepairsFrom would write, for whoever writes it himself, and what it would meet.
func Changes(g *graph.Graph, o trace.Options, from map[string]bool) ([]Change, *Outcome, error) {
	jobs, out, err := writes(g, o, repairedFrom(from))
	list := make([]Change, len(jobs))
	for i, j := range jobs {
		list[i] = Change{j.doc, j.file, j.edits, j.count}
	}
	return list, out, err
}

// Lines tells what Repairs would change, and writes nothing.
func Lines(g *graph.Graph, o trace.Options) ([]Line, *Outcome, error) {
	jobs, out, err := writes(g, o, repairedFrom(nil))
	if err != nil {
		return nil, out, err
	}
	return linesOf(jobs), out, nil
}

// write is what shall stand in one document's file.
type write struct {
	doc   *graph.Document
	file  *format.File
	edits []mention.Edit
	count int    // mentions that change
	from  string // an edition that takes its place, instead of edits
}

// repaired tells references whose repairs are to be written.
type repaired func(r *graph.Reference) bool

func repairedFrom(from map[string]bool) repaired {
	return func(r *graph.Reference) bool { return r.Repaired && (from == nil || from[r.Expected]) }
}

// writes plans them.
func writes(g *graph.Graph, o trace.Options, of repaired) (jobs []write, out *Outcome, err error) {
	out = &Outcome{}
	hosts := map[graph.DocID]bool{}
	for k := range g.References {
		if r := &g.References[k]; of(r) {
			hosts[g.Documents[r.Doc].Host] = true
			if scattered(r) {
				d := &g.Documents[r.Doc]
				out.Problems = append(out.Problems, problem.Problem{Kind: problem.Scattered, Path: d.Path, Document: d.Path, Args: []string{r.Written}})
				out.keep(r)
			}
		}
	}
	for i := range g.Documents {
		host := graph.DocID(i)
		if !hosts[host] {
			continue
		}
		file, err := o.Reopen(g, host)
		if err != nil {
			return nil, out, err
		}
		want := namesToWrite(g, host, file, of)
		out.addUnsupported(g, host, file, want)
		list, ours, err := out.parts(g, host, file, want)
		if err != nil {
			return nil, out, err
		}
		if ours {
			jobs = append(jobs, list...)
			continue
		}
		for k := range g.References {
			if r := &g.References[k]; of(r) && g.Documents[r.Doc].Host == host {
				out.keep(r)
			}
		}
	}
	return jobs, out, nil
}

// parts are what a host and the texts it is read with shall say. They change
// together: where one of them is another project's, none is ours to change.
func (o *Outcome) parts(g *graph.Graph, host graph.DocID, file *format.File, want map[int]string) (list []write, ours bool, err error) {
	if len(want) == 0 {
		return nil, true, nil
	}
	edits, err := Prove(file, want)
	if err != nil {
		return nil, true, &Error{Document: g.Documents[host].Path, Step: Saying, Err: err}
	}
	ours = true
	for k := range g.Documents {
		d := &g.Documents[k]
		if d.Host != host {
			continue
		}
		mine := EditsOf(d, edits)
		if len(mine) == 0 {
			continue
		}
		if p, bad := falsified(g, d); bad {
			ours = false
			o.Problems = append(o.Problems, p)
			continue
		}
		if !g.Owns(d) {
			ours = false
			o.Problems = append(o.Problems, problem.Problem{Kind: problem.NotOurs, Path: d.Path, Document: d.Path})
			continue
		}
		count := 0
		for m := range want {
			if holds(d, file, m) {
				count++
			}
		}
		list = append(list, write{doc: d, file: trace.Part(g, graph.DocID(k), file), edits: mine, count: count})
	}
	return list, ours, nil
}

// falsified tells documents whose bytes somebody tells: a bag that they lie in, a list among
// the documents of the graph. Written to, these would tell what is not so. The declaration of a bag is asked for
// past the reach: a drive can lie within a bag, whose top is then outside of all drives.
func falsified(g *graph.Graph, d *graph.Document) (problem.Problem, bool) {
	for _, id := range g.Files[d.File].Refs {
		if r := &g.References[id]; r.Told.OfBytes() {
			return problem.Problem{Kind: problem.FalseSum, Path: g.Documents[r.Doc].Path, Document: d.Path, Args: []string{filepath.Base(d.Path)}}, true
		}
	}
	dir := filepath.Dir(d.Path)
	for up, below := filepath.Dir(dir), dir; ; up, below = filepath.Dir(up), up {
		if filepath.Base(below) == bag.Payload {
			if _, err := os.Lstat(filepath.Join(up, bag.Declaration)); err == nil {
				return problem.Problem{Kind: problem.InBag, Path: d.Path, Document: d.Path}, true
			}
		}
		if up == below || up == filepath.Dir(up) {
			return problem.Problem{}, false
		}
	}
}

func (o *Outcome) keep(r *graph.Reference) {
	if !slices.Contains(o.Keep, r.Expected) {
		o.Keep = append(o.Keep, r.Expected)
	}
}

// addUnsupported takes out of the wanted names those that the document cannot say. Their
// repairs go on.
func (o *Outcome) addUnsupported(g *graph.Graph, host graph.DocID, file *format.File, want map[int]string) {
	bad := unsupported(file, want)
	if len(bad) == 0 {
		return
	}
	for k := range g.References {
		r := &g.References[k]
		if name, ok := bad[int(r.Mention)]; ok && g.Documents[r.Doc].Host == host {
			o.keep(r)
			o.cannot(&g.Documents[r.Doc], name)
		}
	}
}

func (o *Outcome) cannot(d *graph.Document, name string) {
	o.Problems = append(o.Problems, problem.Problem{Kind: problem.Unsayable, Path: d.Path, Document: d.Path, Args: []string{name}})
}

// unsupported takes out of the wanted names those that a document cannot say, and
// returns them: a bare name leads into no folder, and some texts hold no such
// characters.
func unsupported(file *format.File, want map[int]string) map[int]string {
	bad := map[int]string{}
	_, err := file.Doc.Retarget(want)
	for m, name := range want {
		bare := file.Doc.Mentions[m].Spelling == mention.Bare && strings.Contains(name, "/")
		if !bare {
			if err == nil {
				continue
			}
			if _, err := file.Doc.Retarget(map[int]string{m: name}); err == nil {
				continue
			}
		}
		bad[m] = name
	}
	for m := range bad {
		delete(want, m)
	}
	return bad
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
		if d := &g.Documents[r.Doc]; g.Owns(d) {
			list = append(list, d.Path)
		}
	}
	return list
}

// namesToWrite lists what document i of a repaired graph, opened again, shall say,
// with the texts it includes.
func namesToWrite(g *graph.Graph, i graph.DocID, file *format.File, of repaired) map[int]string {
	want := map[int]string{}
	dir := filepath.Dir(g.Documents[i].Path)
	for k := range g.References {
		r := &g.References[k]
		if g.Documents[r.Doc].Host != i || !of(r) || !r.State.Found() {
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
		want[int(r.Mention)] = resolve.Say(m.Spelling, resolve.Manner(old, r.Path), dir, r.Path)
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
	for k := range want {
		if back.Mentions[k].Nature == mention.Lost && f.Doc.Mentions[k].Nature != mention.Lost {
			return nil, &mention.CannotSayError{Mention: k, Name: want[k], Err: problem.No(problem.NothingBeside)}
		}
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
