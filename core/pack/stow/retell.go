package stow

import (
	"cmp"
	"context"
	"encoding/hex"
	"hash"
	"io"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/content"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// teller is a document that tells digests or sizes of files.
type teller struct {
	graph *graph.Graph
	doc   graph.DocID
	of    map[int]int // its mentions that do, and the berths of their files
}

// rewriteDigests makes the documents that tell digests and sizes tell those that files have in
// the crate, where they are others there: of documents that are rewritten, and so of lists
// that are themselves made to tell something else. Where that is not to be had (a sound
// that is made anew while it is sealed, lists that tell of each other, a digest nobody here
// computes) what they tell is false in the crate, and that is a problem.
func (p *Texts) rewriteDigests(ctx context.Context, o trace.Options) error {
	all := p.digestDocuments()
	other := p.others(all)
	var open []int // of them those whose files' bytes are others
	for k := range all {
		if leadsInto(all[k].of, other) {
			open = append(open, k)
		}
	}
	slices.Sort(open)
	known := map[int]map[mention.Digest]string{}
	for len(open) > 0 {
		waiting := map[int]bool{}
		for _, k := range open {
			waiting[k] = true
		}
		var later []int
		for _, k := range open {
			if err := ctx.Err(); err != nil {
				return err
			}
			t := all[k]
			if leadsInto(t.of, waiting) {
				later = append(later, k)
				continue
			}
			ok, err := p.rewriteDigestsOf(k, t, other, known, o)
			if err != nil {
				return err
			}
			if !ok {
				p.noteWrongDigests(k, t, other)
			}
		}
		if len(later) == len(open) {
			for _, k := range later {
				p.noteWrongDigests(k, all[k], other)
			}
			return nil
		}
		open = later
	}
	return nil
}

// leadsInto tells whether any of the files that a document tells of is among some.
func leadsInto(of map[int]int, some map[int]bool) bool {
	for _, to := range of {
		if some[to] {
			return true
		}
	}
	return false
}

// digestDocuments are the documents of the crate that tell of bytes, by their berths.
func (p *Texts) digestDocuments() map[int]*teller {
	all := map[int]*teller{}
	add := func(k int, g *graph.Graph, doc graph.DocID, m int32, to int) {
		if k < 0 || to < 0 || p.Berths[k].Absent || p.Berths[to].Absent {
			return
		}
		if all[k] == nil {
			all[k] = &teller{g, doc, map[int]int{}}
		}
		all[k].of[int(m)] = to
	}
	for i := range p.Graph.References {
		if r := &p.Graph.References[i]; r.Told.OfBytes() && r.File != graph.None {
			add(int(p.of[p.Graph.Documents[r.Doc].File]), p.Graph, r.Doc, r.Mention, int(p.of[r.File]))
		}
	}
	var at map[string]int
	for k := range p.Berths {
		a := p.Berths[k].aside
		if a == nil {
			continue
		}
		if at == nil {
			at = p.places()
		}
		for i := range a.Graph.References {
			r := &a.Graph.References[i]
			if !r.Told.OfBytes() || r.File == graph.None || a.Graph.Documents[r.Doc].Host != a.Doc {
				continue
			}
			if to, travels := at[a.Graph.Files[r.File].Path]; travels {
				add(k, a.Graph, a.Doc, r.Mention, to)
			}
		}
	}
	return all
}

// others are the berths whose files have other bytes in the crate, those too that become so by
// being made to tell of others.
func (p *Texts) others(all map[int]*teller) map[int]bool {
	other := map[int]bool{}
	for k := range p.Berths {
		b := &p.Berths[k]
		if b.Sound != nil || b.Cut != nil || len(p.editsAt(k)) > 0 {
			other[k] = true
		}
	}
	for again := true; again; {
		again = false
		for k, t := range all {
			if !other[k] && leadsInto(t.of, other) {
				other[k], again = true, true
			}
		}
	}
	return other
}

// editsAt are those by which a berth's document is rewritten.
func (p *Texts) editsAt(k int) []mention.Edit {
	switch b := &p.Berths[k]; {
	case b.aside != nil:
		return p.asides[k]
	case b.Doc != graph.None:
		return p.Edits(b.Doc)
	}
	return nil
}

// rewriteDigestsOf makes one document tell what is so in the crate, and proves it by reading it again;
// not ok where that cannot be done.
func (p *Texts) rewriteDigestsOf(k int, t *teller, other map[int]bool, known map[int]map[mention.Digest]string, o trace.Options) (ok bool, err error) {
	d := &t.graph.Documents[t.doc]
	if d.Host != t.doc {
		return false, nil
	}
	file, err := o.Reopen(t.graph, t.doc)
	if err != nil {
		return false, err
	}
	edits := p.editsAt(k)
	before, err := file.Reread(edits)
	if err != nil || len(before.Mentions) != len(file.Doc.Mentions) {
		return false, nil
	}
	edits = slices.Clone(edits)
	for m, to := range t.of {
		if !other[to] {
			continue
		}
		if m >= len(file.Doc.Mentions) {
			return false, errOther
		}
		more, ok, err := p.figures(file.Doc, m, to, known, o)
		if !ok || err != nil {
			return false, err
		}
		edits = append(edits, more...)
	}
	slices.SortFunc(edits, func(a, b mention.Edit) int { return cmp.Or(cmp.Compare(a.Text, b.Text), cmp.Compare(a.Off, b.Off)) })
	if !p.holdsDigests(file, before, edits, t, other, known) {
		return false, nil
	}
	if p.Berths[k].aside != nil {
		p.asides[k] = edits
	} else {
		p.edits[t.doc] = edits
	}
	p.addSize(k, file.Doc.Texts[d.Text], writing.EditsOf(d, edits))
	return true, nil
}

// figures are the edits of what a mention tells of a file.
func (p *Texts) figures(doc *mention.Doc, m, to int, known map[int]map[mention.Digest]string, o trace.Options) (edits []mention.Edit, ok bool, err error) {
	if doc.Mentions[m].Says == nil {
		return nil, false, nil
	}
	says := *doc.Mentions[m].Says
	var by []mention.Digest
	for _, s := range says {
		if by = append(by, s.By); s.By != "" && facts.Hash(s.By) == nil {
			return nil, false, nil
		}
	}
	if ok, err = p.measure(to, by, known, o); !ok || err != nil {
		return nil, false, err
	}
	text := &doc.Texts[doc.Mentions[m].Text]
	fits := text.Fits
	if fits == nil {
		fits = func(rune) bool { return true }
	}
	for _, s := range says {
		old := text.Bytes[s.Span.Off:s.Span.End]
		is := known[to][s.By]
		if up := strings.ToUpper(string(old)); up == string(old) && up != strings.ToLower(up) {
			is = strings.ToUpper(is)
		}
		b, err := s.Coding.Encode(is, old, fits)
		if err != nil {
			return nil, false, nil
		}
		edits = append(edits, mention.Edit{Span: s.Span, New: b})
	}
	return edits, true, nil
}

// measure computes the digests of a berth's document as it will be, and by "" its size in bytes.
// Not ok: it is no document, and known only when it is made.
func (p *Texts) measure(to int, by []mention.Digest, known map[int]map[mention.Digest]string, o trace.Options) (ok bool, err error) {
	b := &p.Berths[to]
	var g *graph.Graph
	var doc graph.DocID
	switch {
	case b.Sound != nil || b.Cut != nil:
		return false, nil
	case b.aside != nil:
		g, doc = b.aside.Graph, b.aside.Doc
	case b.Doc != graph.None:
		g, doc = p.Graph, b.Doc
	default:
		return false, nil
	}
	if known[to] == nil {
		known[to] = map[mention.Digest]string{}
	}
	var size counter
	into := []io.Writer{&size}
	hashes := map[mention.Digest]hash.Hash{}
	for _, x := range by {
		if _, have := known[to][x]; !have && x != "" && hashes[x] == nil {
			hashes[x] = facts.Hash(x)
			into = append(into, hashes[x])
		}
	}
	if _, have := known[to][""]; have && len(hashes) == 0 {
		return true, nil
	}
	info, err := o.Reach.Stat(b.Source)
	if err != nil {
		return false, &trace.Error{Path: b.Source, Err: err}
	}
	made := content.Rewritten{Reach: o.Reach, Path: b.Source, Info: info, Edits: p.editsAt(to), Open: func() (*format.File, error) {
		f, err := o.Reopen(g, doc)
		if err != nil {
			return nil, err
		}
		return trace.Part(g, doc, f), nil
	}}
	if err := made.WriteTo(context.Background(), io.MultiWriter(into...)); err != nil {
		return false, err
	}
	for x, h := range hashes {
		known[to][x] = hex.EncodeToString(h.Sum(nil))
	}
	known[to][""] = strconv.FormatInt(int64(size), 10)
	return true, nil
}

type counter int64

func (c *counter) Write(b []byte) (int, error) { *c += counter(len(b)); return len(b), nil }

// holdsDigests reads a document again as it will be: it names what it named, and tells of each file
// what is so.
func (p *Texts) holdsDigests(file *format.File, before *mention.Doc, edits []mention.Edit, t *teller, other map[int]bool, known map[int]map[mention.Digest]string) bool {
	back, err := file.Reread(edits)
	if err != nil || len(back.Mentions) != len(before.Mentions) {
		return false
	}
	for m := range back.Mentions {
		if back.Name(m) != before.Name(m) {
			return false
		}
	}
	for m, to := range t.of {
		told, was := back.Mentions[m].Told, before.Mentions[m].Told
		switch {
		case !other[to]:
			if *told != *was {
				return false
			}
		case told == nil || told.By != was.By || told.By != "" && told.Digest != known[to][told.By] || (told.Size > 0) != (was.Size > 0) || told.Size > 0 && strconv.FormatInt(told.Size, 10) != known[to][""]:
			return false
		}
	}
	return true
}

// noteWrongDigests is the problem of each file of which a document tells what is not so in the crate.
func (p *Texts) noteWrongDigests(k int, t *teller, other map[int]bool) {
	var files []string
	for _, to := range t.of {
		if other[to] && !slices.Contains(files, p.Berths[to].Source) {
			files = append(files, p.Berths[to].Source)
		}
	}
	slices.Sort(files)
	for _, f := range files {
		p.problems = append(p.problems, problem.Problem{Kind: problem.FalseSum, Path: p.Berths[k].Source, Document: p.Berths[k].Source, Args: []string{filepath.Base(f)}})
	}
}
