package proof

import (
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// Open is what keeps a crate from being complete: one reference, or one document.
type Open struct {
	Code     Code
	Path     string // where it leads, or should
	Document string
	Written  string
	Owner    string
	State    graph.State
	Lacks    int    // files of a sequence
	Why      string // of LeftOut: Expectation.OnPurpose
}

// Code is what is wrong.
type Code string

// The codes.
const (
	Leaves     Code = "leaves"       // it leads out of the crate
	Incomplete Code = "incomplete"   // what it leads to is not there
	OtherFile  Code = "other-file"   // it leads to another file, or other frames, than when the crate was planned
	OtherBytes Code = "other-bytes"  // the file has other bytes
	Unexpected Code = "unexpected"   // the record tells nothing of this reference, or of this document
	Vanished   Code = "vanished"     // a reference that the record tells of is not in the document
	NoRoots    Code = "no-documents" // the record names no documents
	LeftOut    Code = "left-out"     // its file was left out on purpose
)

// By is what a verdict rests on.
type By string

// What a verdict may rest on.
const (
	Identity By = "identity" // every reference was held against what it was expected to lead to
	Trace    By = "trace"    // only the trace: there is no record of ours
)

// Verdict is what a proof found.
type Verdict struct {
	Complete bool
	By       By
	Expected int // references that were expected to lead to files that travel
	Held     int // of them, those that do
	Left     int // references whose files did not travel
	Rebuild  int // of them, those whose files a program makes again
	Guessed  int // references that no format's rule tells
	Unknown  int // documents of no known format, which could only be guessed at
	Open     []Open
}

// Crate is a crate as it was traced with nothing else reachable.
type Crate struct {
	Graph *graph.Graph
	Data  string // its folder data, as paths of the graph have it
	// Digest is the SHA-256, in hex, of the file at a place below data/; "" unknown.
	Digest func(place string) string
	// Late tells files that were put to a place the crate kept for them, Again places of files
	// that did not travel since a program makes them again.
	Late, Again func(place string) bool
	// Elsewhere tells documents that other expectations cover; nil: there are none. It makes
	// these those of a document along: what it lacks does not keep the crate from being
	// complete.
	Elsewhere func(place string) bool
}

func (c *Crate) place(p string) string {
	rel, err := filepath.Rel(c.Data, p)
	if err != nil {
		return p
	}
	return filepath.ToSlash(rel)
}

// Judge holds a traced crate against what was expected. With nothing expected (nil) it
// judges by the trace alone.
func Judge(c Crate, want *Expectations) Verdict {
	j := &judge{Crate: c, v: Verdict{Complete: true, By: Trace}}
	for i := range c.Graph.Documents {
		if d := &c.Graph.Documents[i]; d.Guessed && c.Elsewhere == nil {
			j.v.Unknown++
			j.v.Complete = j.v.Complete && d.Recognised
		}
	}
	if want != nil {
		j.v.By = Identity
		j.expect(want)
	}
	for i := range c.Graph.References {
		j.reference(i)
	}
	if want != nil {
		j.vanished(want)
	}
	j.v.Complete = j.v.Complete && len(j.v.Open) == 0
	return j.v
}

type key struct {
	document string
	nth      int
}

type judge struct {
	Crate
	v       Verdict
	want    *Expectations
	at      map[key]*Expectation
	covered map[string]bool
	met     map[*Expectation]bool
	checked map[int]Code // of targets: what is wrong with their files; "" nothing
}

func (j *judge) open(o Open) { j.v.Open = append(j.v.Open, o) }

func (j *judge) expect(want *Expectations) {
	j.want, j.at, j.covered = want, make(map[key]*Expectation, len(want.List)), map[string]bool{}
	j.met, j.checked = make(map[*Expectation]bool, len(want.List)), map[int]Code{}
	for _, d := range want.Documents {
		j.covered[d] = true
	}
	for i := range want.List {
		e := &want.List[i]
		if !j.covered[e.Document] || e.To >= len(want.Targets) || e.To < -1 || e.To < 0 && e.Why == "" {
			j.open(Open{Code: Vanished, Path: e.Document, Document: e.Document, Owner: e.Owner}) // a record that contradicts itself proves nothing
			continue
		}
		j.at[key{e.Document, e.Nth}] = e
	}
	if want.Roots < 1 || want.Roots > len(want.Documents) {
		j.open(Open{Code: NoRoots, Path: j.Data})
	}
	for i := range j.Graph.Documents {
		// A document that came to a kept place brings references nobody could tell of.
		d := &j.Graph.Documents[i]
		if at := j.place(d.Path); !j.covered[at] && !j.Late(at) && !j.elsewhere(at) {
			j.open(Open{Code: Unexpected, Path: d.Path, Document: d.Path})
		}
	}
}

// reference judges one reference of the crate.
func (j *judge) reference(i int) {
	g := j.Graph
	r := &g.References[i]
	doc := g.Documents[r.Doc].Path
	if place := j.place(doc); !j.covered[place] && j.elsewhere(place) {
		return
	}
	at := r.Shown(r.Expected)
	if at == "" {
		at = doc
	}
	o := Open{Path: at, Document: doc, Written: r.Written, Owner: r.Owner, State: r.State, Lacks: r.Lacks()}
	if r.Guessed {
		j.v.Guessed++
	}
	if r.State == graph.Away && !j.leftBehind(j.place(doc), r) {
		o.Code, o.Path = Leaves, r.Target()
		j.open(o)
		return
	}
	var e *Expectation
	if place := j.place(doc); j.want != nil && j.covered[place] {
		if e = j.at[key{place, int(r.Mention)}]; e == nil {
			o.Code = Unexpected
			j.open(o)
			return
		}
		j.met[e] = true
	}
	switch {
	case e != nil && e.Why == "":
		j.v.Expected++
		if o.Code = j.compareMember(r, e); o.Code == "" {
			j.v.Held++
		} else {
			j.open(o)
			return
		}
	case e != nil && r.State.Found() && (e.To < 0 || !j.kept(r, e)):
		o.Code = OtherFile // a file that was not meant stands there
		j.open(o)
		return
	case e != nil && (e.Why == Network) != r.Network(), e != nil && (e.Why == Inside) != (r.State == graph.Inside):
		o.Code = OtherFile
		j.open(o)
		return
	}
	if e != nil && (e.Use != r.Use || e.Owner != r.Owner) {
		o.Code = OtherFile
		j.open(o)
		return
	}
	if !r.State.Found() && r.State != graph.Inside && !r.Network() {
		j.v.Left++
	}
	again := r.State == graph.Missing && (e != nil && e.Again || e == nil && j.Again(j.place(r.Expected)))
	if again {
		j.v.Rebuild++
	}
	if r.Pending() && !again && !r.Network() && j.Elsewhere == nil {
		if o.Code = Incomplete; e != nil && e.OnPurpose != "" {
			o.Code, o.Why = LeftOut, e.OnPurpose
		}
		j.open(o)
	}
}

func (j *judge) elsewhere(place string) bool { return j.Elsewhere != nil && j.Elsewhere(place) }

// leftBehind tells names of a document along whose file did not travel: they may lead out
// of the crate, to where nothing was.
func (j *judge) leftBehind(place string, r *graph.Reference) bool {
	e := j.at[key{place, int(r.Mention)}]
	return j.Elsewhere != nil && e != nil && e.Why != ""
}

// compareMember tells whether a reference leads to just the files it is expected to lead to.
func (j *judge) compareMember(r *graph.Reference, e *Expectation) Code {
	if !r.State.Found() && !r.Damaged {
		return Incomplete
	}
	want := j.want.Targets[e.To]
	files := r.Files
	if !r.IsSequence() {
		files = []string{r.Path}
	}
	if len(files) != len(want) {
		return OtherFile
	}
	have := make([]string, len(files))
	for i, f := range files {
		have[i] = j.place(f)
	}
	slices.Sort(have)
	for i := range want { // sorted when they were written down
		if have[i] != want[i].Path {
			return OtherFile
		}
	}
	code, known := j.checked[e.To]
	if !known {
		for _, m := range want {
			if m.SHA256 == "" || j.Digest(m.Path) != m.SHA256 {
				code = OtherBytes
				break
			}
		}
		j.checked[e.To] = code
	}
	return code
}

// kept tells that a file came to the place that was kept for it.
func (j *judge) kept(r *graph.Reference, e *Expectation) bool {
	if r.IsSequence() {
		return strings.HasPrefix(r.Expected, j.Data) && drive.Within(j.Data, r.Expected)
	}
	for _, m := range j.want.Targets[e.To] {
		if j.place(r.Path) == m.Path {
			return true
		}
	}
	return false
}

// vanished tells of expectations that no reference of the crate answers to.
func (j *judge) vanished(want *Expectations) {
	for i := range want.List {
		e := &want.List[i]
		if j.met[e] {
			continue
		}
		switch {
		case e.Why == "", e.Use == mention.Used && !e.Again && e.Why != Inside && e.Why != Network && j.Elsewhere == nil:
			j.open(Open{Code: Vanished, Path: filepath.Join(j.Data, e.Document), Document: filepath.Join(j.Data, e.Document), Owner: e.Owner, State: graph.Missing})
		case e.Why != Inside && e.Why != Network && e.Why != Unsaved:
			j.v.Left++
		}
	}
}
