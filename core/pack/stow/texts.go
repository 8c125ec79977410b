package stow

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/export"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// Text is what a document said at one place, and says in the crate.
type Text struct {
	Doc      graph.DocID
	Owner    string
	Old, New string
}

// Texts is what the documents of a plan say in the crate, and what is made beside them. It
// is worked out once from a plan, which it does not change.
type Texts struct {
	*Plan
	edits    map[graph.DocID][]mention.Edit // of hosts: by which they name their files
	asides   map[int][]mention.Edit         // of documents that go along, by their berths
	sizes    map[int]int64                  // of berths whose documents grow or shrink
	unmade   map[int]bool                   // berths of documents that could not be made
	aimed    map[int]bool                   // write points that lead into the crate
	said     []Text
	made     []Made
	repoints []Repoint
	points   []Aimed
	problems []problem.Problem
	hosted   map[graph.DocID][]graph.DocID // whose texts a document includes, itself too
}

// NewTexts is a plan whose documents nobody opened: what they will say, and their sizes then,
// are not known.
func (p *Plan) NewTexts() *Texts { return &Texts{Plan: p} }

// All are the places that say something else in the crate, by document.
func (p *Texts) All() []Text { return p.said }

// Edits are those by which document i names its files in the crate.
func (p *Texts) Edits(i graph.DocID) []mention.Edit {
	d := &p.Graph.Documents[i]
	return writing.EditsOf(d, p.edits[d.Host])
}

// Problems are those of the plan, and documents that cannot be made to say what they
// should.
func (p *Texts) Problems() []problem.Problem { return slices.Concat(p.Plan.Problems, p.problems) }

// LeftOut is what does not travel. A write point that leads into the crate tells so.
func (p *Texts) LeftOut() []Left {
	list := slices.Clone(p.Left)
	for i := range list {
		if l := &list[i]; l.Why == WritePoint && p.aimed[l.point] {
			l.Why = PointInside
		}
	}
	return list
}

// Texts proves what every document will say: its files' berths, relative to the
// document. What is missing or stays is aimed at its berth too, so that dropping
// the file there later completes the crate. Documents are opened once more for
// it, one after another. One that cannot be made to say so is a problem; one that changed
// since the trace is an error.
func (p *Plan) Texts(ctx context.Context, o trace.Options) (*Texts, error) {
	t := &Texts{Plan: p, edits: map[graph.DocID][]mention.Edit{}, asides: map[int][]mention.Edit{}, sizes: map[int]int64{}, unmade: map[int]bool{}, aimed: map[int]bool{}, hosted: map[graph.DocID][]graph.DocID{}}
	if err := t.rewrite(ctx, o); err != nil {
		return nil, err
	}
	if err := t.writeAsides(ctx, o); err != nil {
		return nil, err
	}
	if err := t.rewriteDigests(ctx, o); err != nil {
		return nil, err
	}
	if err := t.make(o); err != nil {
		return nil, err
	}
	if err := t.listRepoints(); err != nil {
		return nil, err
	}
	slices.SortStableFunc(t.said, func(a, b Text) int {
		return cmp.Or(cmp.Compare(a.Doc, b.Doc), strings.Compare(a.Owner, b.Owner), strings.Compare(a.Old, b.Old))
	})
	return t, nil
}

func (p *Texts) rewrite(ctx context.Context, o trace.Options) error {
	g := p.Graph
	refs := make([][]graph.RefID, len(g.Documents))
	for n := range g.References {
		host := g.Documents[g.References[n].Doc].Host
		refs[host] = append(refs[host], graph.RefID(n))
	}
	for i := range g.Documents {
		p.hosted[g.Documents[i].Host] = append(p.hosted[g.Documents[i].Host], graph.DocID(i))
	}
	points := map[graph.DocID][]int{}
	for i := range g.WritePoints {
		host := g.Documents[g.WritePoints[i].Doc].Host
		points[host] = append(points[host], i)
	}
	for i := range g.Documents {
		if err := ctx.Err(); err != nil {
			return err
		}
		id, d := graph.DocID(i), &g.Documents[i]
		k := p.of[d.File]
		if k < 0 || p.Berths[k].Absent || d.Host != id || len(refs[i])+len(points[id]) == 0 {
			continue // what an included text says is proved with the document that includes it
		}
		file, err := o.Reopen(g, id)
		if err != nil {
			return err
		}
		if err := p.rewriteDocument(id, refs[i], points[id], path.Join("/", p.Berths[k].Folder), file); err != nil {
			p.problems = append(p.problems, problem.Problem{Kind: problem.CannotSay, Path: d.Path, Document: d.Path, Args: unsupportedNames(err)})
		}
	}
	return nil
}

// slid puts edits of numbers among those of names, and proves both: read again, the
// document names what it shall, and tells the same parts.
func slid(file *format.File, want map[int]string, edits, numbers []mention.Edit, by map[int]shift) ([]mention.Edit, error) {
	edits = append(edits, numbers...)
	slices.SortFunc(edits, func(a, b mention.Edit) int { return cmp.Or(cmp.Compare(a.Text, b.Text), cmp.Compare(a.Off, b.Off)) })
	edits = slices.CompactFunc(edits, func(a, b mention.Edit) bool { return a.Span == b.Span })
	back, err := file.Reread(edits)
	if err != nil {
		return nil, err
	}
	if len(back.Mentions) != len(file.Doc.Mentions) || !sameTimes(file.Doc, back, by) {
		return nil, errOther
	}
	for k, name := range want {
		if back.Name(k) != name {
			return nil, errOther
		}
	}
	return edits, nil
}

// Aimed is a write point that led elsewhere and leads into the crate now.
type Aimed struct {
	Document string `json:"document"` // in the crate, below data/
	Owner    string `json:"owner"`
	From     string `json:"from"` // where it led, absolute
	To       string `json:"to"`   // as its document says it in the crate
}

// Aimed are those.
func (p *Texts) Aimed() []Aimed { return p.points }

// Repoint is a name in a document that cannot be rewritten: whoever receives the crate
// must point it anew.
type Repoint struct {
	Document string `json:"document"` // in the crate, below data/
	Owner    string `json:"owner"`
	Written  string `json:"written"`
	To       string `json:"to"` // what it shall lead to, below data/
}

// Repoints are those.
func (p *Texts) Repoints() []Repoint { return p.repoints }

// anew lists the names of a document that lead nowhere in the crate as they stand.
func (p *Texts) anew(id graph.DocID, refs []graph.RefID, want, old map[int]string, dir string) {
	g := p.Graph
	at := p.Berths[p.of[g.Documents[id].File]].To()
	met := map[string]bool{}
	for _, n := range refs {
		r := &g.References[n]
		k := int(r.Mention)
		if want[k] == old[k] || met[old[k]] {
			continue
		}
		to := p.Berths[p.of[r.File]].To()
		if !r.Absolute && path.Join(dir, filepath.ToSlash(old[k])) == path.Join("/", to) {
			continue // it keeps its geometry
		}
		met[old[k]] = true
		p.repoints = append(p.repoints, Repoint{at, r.Owner, r.Written, to})
	}
}

// RepointName is the file of a crate that lists what has to be pointed anew.
const RepointName = "repoint.csv"

// list puts that file into the plan (RFC 4180).
func (p *Texts) listRepoints() error {
	if len(p.repoints) == 0 {
		return nil
	}
	taken := map[string]bool{}
	for i := range p.Berths {
		taken[names.Clash(p.Berths[i].To())] = true
	}
	name := RepointName
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("repoint-%d.csv", n)
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	rows := [][]string{{"document", "owner", "written", "is now"}}
	for _, r := range p.repoints {
		rows = append(rows, []string{r.Document, r.Owner, r.Written, r.To})
	}
	if err := w.WriteAll(rows); err != nil {
		return err
	}
	p.made = append(p.made, Made{To: name, Bytes: b.Bytes()})
	return nil
}

// make makes the documents of interchange; they name their files relative to
// themselves.
func (p *Texts) make(o trace.Options) error {
	for i := range p.Berths {
		b := &p.Berths[i]
		if b.Form == "" || b.Absent {
			continue
		}
		d := &p.Graph.Documents[b.Of]
		var says *mention.Doc
		if b.Form.Timeline() || d.Format == "otio" {
			file, err := o.Reopen(p.Graph, b.Of)
			if err != nil {
				return err
			}
			says = file.Doc
		}
		dir := path.Join("/", b.Folder)
		doc, err := export.Make(export.Options{As: b.Form, Graph: p.Graph, Doc: b.Of, Says: says, Name: func(id graph.FileID) string {
			if p.of[id] < 0 {
				return ""
			}
			return relative(dir, p.Berths[p.of[id]].To())
		}, Frames: func(id graph.FileID) (graph.Pattern, bool) {
			if p.of[id] < 0 || !p.Berths[p.of[id]].sequence {
				return graph.Pattern{}, false
			}
			pat := p.Berths[p.of[id]].Pattern
			pat.Dir = relative(dir, pat.Dir)
			return pat, true
		}, Channels: func(id graph.FileID) (int, []string) { return p.channelsOf(o.Reach, id, dir) }, Cut: func(id graph.FileID) float64 {
			if p.of[id] < 0 {
				return 0
			}
			return p.Berths[p.of[id]].lacks()
		}})
		if err != nil {
			p.problems = append(p.problems, problem.Problem{Kind: problem.NoTimeline, Path: d.Path, Args: []string{string(b.Form)}})
			p.unmade[i] = true
			continue
		}
		p.sizes[i] = int64(len(doc.Bytes))
		p.made = append(p.made, Made{b.To(), b.Form, doc.Bytes, doc.Losses})
	}
	return nil
}

// relative is a place in the crate as seen from a folder of it that begins with a slash;
// "" where there is none.
func relative(dir, to string) string {
	rel, err := filepath.Rel(dir, path.Join("/", to))
	if err != nil {
		return ""
	}
	return filepath.ToSlash(rel)
}

// addSize is how edits change the size of a text that is a file as it stands; of one that is
// packed or coded otherwise sealing tells.
func (p *Texts) addSize(berth int, t mention.Text, edits []mention.Edit) {
	size := p.Berths[berth].Size
	if int64(len(t.Bytes)) != size {
		return
	}
	for _, e := range edits {
		size += int64(len(e.New)) - (e.End - e.Off)
	}
	p.sizes[berth] = size
}

// aim is where a write point shall lead in a crate: beside its document, where it
// led out of the project or by a whole path; "" where it stays in the crate as it
// is.
func aim(w *graph.WritePoint, flags []graph.Flag, name, dir string) string {
	first, _, _ := strings.Cut(strings.ReplaceAll(name, `\`, "/"), "/")
	if first != ".." && first != "" && !strings.Contains(first, ":") && !slices.Contains(flags, graph.Outside) {
		return ""
	}
	return writing.AimAt(w, dir)
}

var errOther = errors.New("it is not the document that was traced")

func (p *Texts) rewriteDocument(id graph.DocID, refs []graph.RefID, points []int, dir string, file *format.File) error {
	want := map[int]string{}
	old := map[int]string{}
	for _, n := range refs {
		r := &p.Graph.References[n]
		if r.File == graph.None || p.of[r.File] < 0 {
			continue
		}
		if int(r.Mention) >= len(file.Doc.Mentions) {
			return errOther
		}
		k := int(r.Mention)
		b, m := &p.Berths[p.of[r.File]], &file.Doc.Mentions[k]
		old[k] = file.Doc.Name(k)
		if b.sequence {
			pat := b.Pattern
			pat.Dir = path.Join("/", pat.Dir)
			want[k] = resolve.SayPatternRelative(m, old[k], dir, pat)
		} else {
			want[k] = resolve.SayRelative(m.Spelling, resolve.Manner(old[k], r.Path), dir, path.Join("/", b.Folder, b.Name))
		}
	}
	for _, point := range points {
		w := &p.Graph.WritePoints[point]
		k := int(w.Mention)
		if k >= len(file.Doc.Mentions) {
			return errOther
		}
		name := file.Doc.Name(k)
		if to := aim(w, p.Judged.FlagsOf(point), name, dir); to != "" {
			to = resolve.SayRelative(file.Doc.Mentions[k].Spelling, name, dir, to)
			if _, err := file.Doc.Retarget(map[int]string{k: to}); err != nil { // it goes on writing where it did, and says so when it is traced
				continue
			}
			old[k], want[k] = name, to
			p.aimed[point] = true
			p.points = append(p.points, Aimed{p.Berths[p.of[p.Graph.Documents[id].File]].To(), w.Owner, w.Path, to})
			p.said = append(p.said, Text{w.Doc, w.Owner, name, to})
		}
	}
	edits, err := writing.Prove(file, want)
	if err != nil {
		p.anew(id, refs, want, old, dir)
		return err
	}
	more, by, err := p.slide(refs, file)
	if err != nil {
		return err
	}
	if len(more) > 0 {
		if edits, err = slid(file, want, edits, more, by); err != nil {
			return err
		}
	}
	p.edits[id] = edits
	for _, i := range p.hosted[id] {
		d := &p.Graph.Documents[i]
		if p.of[d.File] < 0 || d.Text >= len(file.Doc.Texts) {
			continue
		}
		p.addSize(int(p.of[d.File]), file.Doc.Texts[d.Text], writing.EditsOf(d, edits))
	}
	for _, n := range refs {
		r := &p.Graph.References[n]
		if name, ok := want[int(r.Mention)]; ok && name != old[int(r.Mention)] {
			p.said = append(p.said, Text{r.Doc, r.Owner, old[int(r.Mention)], name})
		}
	}
	return nil
}

// Made is a document of interchange that is made for the crate.
type Made struct {
	To     string      // below data/
	Form   export.Form // "" for a list of what has to be pointed anew
	Bytes  []byte
	Losses []export.Loss // what it cannot carry
}

// Made are the documents of interchange.
func (p *Texts) Made() []Made { return p.made }

// Size is how many bytes a berth copies.
func (p *Texts) Size(i int) int64 {
	if n, known := p.sizes[i]; known {
		return n
	}
	return p.Berths[i].Size
}

// copies tells berths of which something is copied.
func (p *Texts) copies(i int) bool { return !p.Berths[i].Absent && !p.unmade[i] }

// Totals counts what is copied.
func (p *Texts) Totals() (files int, bytes int64) {
	for i := range p.Berths {
		if p.copies(i) {
			files += p.Berths[i].Files()
			bytes += p.Size(i)
		}
	}
	for _, m := range p.made {
		if m.Form == "" { // others have berths
			files++
			bytes += int64(len(m.Bytes))
		}
	}
	return files, bytes
}

// Margin is how many bytes more than Totals tells should be free: a tenth of what is known by
// samples alone. 0: every size is known.
func (p *Texts) Margin() (n int64) {
	for i := range p.Berths {
		if b := &p.Berths[i]; p.copies(i) && b.About {
			n += b.Size/10 + 1
		}
	}
	return n
}

// Sizes are the bytes of every file that is copied.
func (p *Texts) Sizes() []int64 {
	sizes := make([]int64, 0, len(p.Berths))
	for i := range p.Berths {
		b := &p.Berths[i]
		switch {
		case !p.copies(i):
		case b.sequence:
			sizes = append(sizes, b.sizes...)
		default:
			sizes = append(sizes, p.Size(i))
		}
	}
	return sizes
}

// Copy is one file to copy: from a source to a place below data/.
type Copy struct {
	Source  string
	To      string
	Size    int64
	Kind    facts.Kind
	Doc     graph.DocID    // of a document that is rewritten, else None
	Aside   *Aside         // of a document that goes along
	Edits   []mention.Edit // by which that is rewritten
	Renamed Renaming
	Sound   *pcm.Spec         // what its sound becomes; nil: it is copied as it is
	Cut     *pcm.Cut          // what is taken of it; nil: all
	Long    int64             // of one that is cut: its samples of each channel, as it is
	With    []string          // of a sound that is joined: the files of its further channels
	Known   *content.Listened // of a sound that was heard while it was planned
}

// Copies lists the files the plan copies, in the order of their places.
func (p *Texts) Copies() []Copy {
	var list []Copy
	for i := range p.Berths {
		b := &p.Berths[i]
		switch {
		case !p.copies(i), b.Form != "":
		case b.sequence:
			places := b.places()
			for k, f := range b.Frames {
				list = append(list, Copy{Source: f, To: places[k], Size: b.sizes[k], Kind: facts.Image, Doc: graph.None, Renamed: b.Renamed})
			}
		default:
			list = append(list, Copy{Source: b.Source, To: b.To(), Size: p.Size(i), Kind: b.Kind, Doc: b.Doc, Renamed: b.Renamed, Sound: b.Sound, Cut: b.Cut, Long: b.Long, With: b.With, Known: b.Known, Aside: b.aside, Edits: p.asides[i]})
		}
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].To < list[b].To })
	return list
}
