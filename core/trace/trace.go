// Package trace follows every reference of a document, into nested documents
// to the last leaf, and tells where each file stands.
package trace

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
)

// Options is what a trace needs to know.
type Options struct {
	Formats format.Set
	Reach   drive.Reach
	Drives  []drive.Drive
	Root    string // the project folder; "": the common folder of the documents
	Repairs []resolve.Repair
	Doubt   func(expected, found string, info drive.Info) bool // see resolve.Resolver
	// Progress is told how many documents and references were read so far.
	Progress func(documents, references int)
}

// Document is one document of the graph.
type Document struct {
	Path   string // as it was first reached
	Was    string // where it was expected, if a repair led to it; else ""
	Info   drive.Info
	Format string
	Use    mention.Use // the liveliest way that leads to it
	File   *format.File
	// Host is the document that includes this one, whose names are all read
	// against the host's folder; itself for all others. Text is which of the
	// host's texts this one is.
	Host, Text int
}

// Whole tells that the document's file is one text of those its mentions stand
// in: of a package it is all of them.
func (d *Document) Whole() bool { return !d.File.Doc.Texts[d.Text].Member }

// Edits are those of a host's edits that change this document's own file.
func (d *Document) Edits(of []mention.Edit) []mention.Edit {
	if !d.Whole() {
		return of // of a package, all texts are of one file
	}
	return mention.OfText(of, d.Text)
}

// Holds tells whether a mention stands in this document's own file.
func (d *Document) Holds(mention int) bool {
	return !d.Whole() || d.File.Doc.Mentions[mention].Text == d.Text
}

// Reference is one mention and where it leads.
type Reference struct {
	resolve.Place
	Doc     int // index into Graph.Documents
	Mention int // index into that document's mentions
	Nth     int // among the document's references with the same owner and text
	Written string
	Owner   string
	own     mention.Use // by its own document alone
	Use     mention.Use
	Kind    facts.Kind
	Size    int64 // bytes of all its files, or of the data inside
	Write   bool  // a write point: where new material will go
	Child   int   // the document it leads to, -1
	// Damaged tells that a file is there and is not what it should be: it makes
	// no sense as a document, or lacks the part that is meant. Its bytes can
	// still be carried.
	Damaged bool
}

// Carried tells references that have a file to carry.
func (r *Reference) Carried() bool { return r.State.Found() || r.Damaged }

// Target is what several references may share: the file, the pattern of a
// sequence, or the place that is expected.
func (r *Reference) Target() string {
	switch {
	case r.Path != "":
		return r.Path
	case r.Expected != "":
		return r.Expected
	}
	return ""
}

// Pending tells references that need a person, by the contract: used and not
// found, or with gaps.
func (r *Reference) Pending() bool {
	if r.Write {
		return false
	}
	if len(r.Gaps) > 0 && (r.State.Found() || r.State == resolve.Inside) {
		return true
	}
	if r.Use != mention.Used {
		return false
	}
	return !r.State.Found() && r.State != resolve.Inside
}

// Graph is a whole trace.
type Graph struct {
	Root       string
	Documents  []Document // the given ones first
	Given      int        // how many were given
	References []Reference
	Problems   []mention.Problem
}

// NeedsPerson tells whether anything keeps the graph from being complete.
func (g *Graph) NeedsPerson() bool {
	for i := range g.References {
		if g.References[i].Pending() {
			return true
		}
	}
	return len(g.Problems) > 0
}

// Error is a document that could not be read at all.
type Error struct {
	Path string
	Err  error
}

func (e *Error) Error() string {
	return fmt.Sprintf("‘%s’ could not be read: %s.", e.Path, Reason(e.Err))
}

func (e *Error) Unwrap() error { return e.Err }

// Reason says an error without repeating the path.
func Reason(err error) string {
	var pe *fs.PathError
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return "it is not there"
	case errors.Is(err, fs.ErrPermission):
		return "permission denied"
	case errors.As(err, &pe):
		return pe.Err.Error()
	}
	return err.Error()
}

// CommonFolder is the folder that holds all the documents.
func CommonFolder(documents []string) string {
	common := filepath.Dir(documents[0])
	for _, d := range documents[1:] {
		for !drive.Within(common, d) {
			common = filepath.Dir(common)
		}
	}
	return common
}

// Run traces documents given by absolute paths. A given document that cannot
// be read is an *Error; anything wrong further down is a problem of the graph.
func Run(ctx context.Context, o Options, documents ...string) (*Graph, error) {
	root := o.Root
	documents = slices.Clone(documents)
	for i, d := range documents {
		documents[i] = bundle(o.Reach, filepath.Clean(d))
	}
	if root == "" {
		root = CommonFolder(documents)
	}
	t := &tracer{
		Options: o,
		graph:   &Graph{Root: filepath.Clean(root)},
		seen:    map[string]int{},
		leaves:  map[string]leaf{},
		members: map[string]map[string]bool{},
	}
	t.resolver = &resolve.Resolver{Context: ctx, Reach: o.Reach, Drives: o.Drives, Root: t.graph.Root, Repairs: o.Repairs, Doubt: o.Doubt}
	for _, d := range documents {
		info, err := o.Reach.Stat(d)
		if err != nil {
			return nil, &Error{d, err}
		}
		if _, again := t.seen[info.Real]; again {
			continue
		}
		if _, err := t.open(d, info); err != nil {
			return nil, &Error{d, err}
		}
		t.graph.Given++
	}
	for i := 0; i < len(t.graph.Documents); i++ {
		if err := t.read(ctx, i); err != nil {
			return nil, err
		}
	}
	t.liven()
	return t.graph, nil
}

// bundle is the document of a folder that is one: an OTIO file bundle is a
// folder with the members of the zip form, and what a bag holds its manifest
// tells (RFC 8493 §2.1.3), of which the one with the longest digests is taken.
func bundle(reach drive.Reach, path string) string {
	dir := path
	if filepath.Base(path) == bagMark {
		dir = filepath.Dir(path)
	} else if info, err := reach.Stat(path); err != nil || !info.Mode.IsDir() {
		return path
	} else if format.Ext(path) == "otiod" {
		return filepath.Join(path, "content.otio")
	}
	if _, err := reach.Stat(filepath.Join(dir, bagMark)); err != nil {
		return path
	}
	for _, algorithm := range []string{"sha512", "sha384", "sha256", "sha224", "sha1", "md5"} {
		manifest := filepath.Join(dir, "manifest-"+algorithm+".txt")
		if _, err := reach.Stat(manifest); err == nil {
			return manifest
		}
	}
	return path
}

// bagMark is the file that makes a folder a bag.
const bagMark = "bagit.txt"

type tracer struct {
	Options
	graph    *Graph
	resolver *resolve.Resolver
	seen     map[string]int // real path → document
	leaves   map[string]leaf
	members  map[string]map[string]bool // real path of a package → names of its members; nil: no package
}

// leaf is what was found out about a file once.
type leaf struct {
	kind  facts.Kind
	child int
	err   error // why it cannot be read
}

func (t *tracer) open(path string, info drive.Info) (int, error) {
	src, err := drive.OpenSized(t.Reach, path)
	if err != nil {
		return -1, err
	}
	defer src.Close()
	around := &around{t: t, path: path, info: info}
	file, err := t.Formats.OpenAmong(filepath.Base(path), src, around)
	if err != nil {
		return -1, err
	}
	i := len(t.graph.Documents)
	t.seen[info.Real] = i
	t.graph.Documents = append(t.graph.Documents, Document{Path: path, Info: info, Format: file.Format.Name(), File: file, Host: i})
	for k, d := range around.included {
		if first, again := t.seen[d.Info.Real]; again {
			// Two readings of one file: neither may change what the other needs.
			owner := &t.graph.Documents[first]
			owner.File.Doc.Texts[owner.Text].Sealed = true
			continue
		}
		d.File, d.Format, d.Host, d.Text = file.Part(k+1), file.Format.Name(), i, k+1
		t.seen[d.Info.Real] = len(t.graph.Documents)
		t.graph.Documents = append(t.graph.Documents, d)
	}
	for _, p := range file.Doc.Problems {
		p.Path, p.Document = path, path
		t.graph.Problems = append(t.graph.Problems, p)
	}
	return i, nil
}

// around answers a document that is being read: names are resolved as those
// of its mentions are.
type around struct {
	t        *tracer
	path     string
	info     drive.Info
	included []Document // in the order of their texts, those of other readings too
}

func (a *around) find(name string) (resolve.Place, bool) {
	m := mention.Mention{Spelling: mention.Path}
	p := a.t.resolver.Resolve(a.path, &m, name, name)
	return p, p.State.Found()
}

func (a *around) Exists(name string) bool {
	_, ok := a.find(name)
	return ok
}

// Include opens a file for each name that it is included by. Its mentions are
// those of the first reading, which alone can write it.
func (a *around) Include(name string) (src format.Source, ours bool, err error) {
	place, ok := a.find(name)
	if !ok {
		return nil, false, fs.ErrNotExist
	}
	if place.Info.Real == a.info.Real {
		return nil, false, fs.ErrExist // itself
	}
	same := func(d Document) bool { return d.Info.Real == place.Info.Real }
	_, read := a.t.seen[place.Info.Real]
	ours = !read && !slices.ContainsFunc(a.included, same)
	file, err := drive.OpenSized(a.t.Reach, place.Path)
	if err != nil {
		return nil, false, err
	}
	defer file.Close()
	b, err := io.ReadAll(io.NewSectionReader(file, 0, min(file.Size(), maxIncluded)))
	if err != nil {
		return nil, false, err
	}
	a.included = append(a.included, Document{Path: place.Path, Info: place.Info})
	return bytes.NewReader(b), ours, nil
}

// maxIncluded bounds a file that is read in place: what is longer is no text
// somebody included.
const maxIncluded = 64 << 20

// read resolves all mentions of document i and opens the documents they lead to.
func (t *tracer) read(ctx context.Context, i int) error {
	d := &t.graph.Documents[i]
	path, doc := t.graph.Documents[d.Host].Path, d.File.Doc
	nth := map[[2]string]int{}
	refs := make([]Reference, 0, len(doc.Mentions))
	for k := range doc.Mentions {
		if k%256 == 0 {
			if err := ctx.Err(); err != nil {
				return err
			}
			if t.Progress != nil {
				t.Progress(i+1, len(t.graph.References)+len(refs))
			}
		}
		m := &doc.Mentions[k]
		if m.Use == mention.Bystander || !t.graph.Documents[i].Holds(k) {
			continue
		}
		ref := Reference{Doc: i, Mention: k, Owner: m.Owner, own: m.Use, Use: m.Use, Write: m.Write, Child: -1}
		name := ""
		if !m.Inside() {
			name = doc.Name(k)
		}
		ref.Written = doc.Written(k)
		key := [2]string{m.Owner, ref.Written}
		ref.Nth = nth[key]
		nth[key]++
		ref.Place = t.resolver.Resolve(path, m, name, ref.Written)
		refs = append(refs, ref)
	}
	if err := ctx.Err(); err != nil {
		return err // a search may have ended early: what it did not find proves nothing
	}
	refs = believe(doc, choose(doc, refs))
	for k := range refs {
		t.describe(&refs[k], &doc.Mentions[refs[k].Mention], path)
	}
	if len(t.graph.References) == 0 {
		t.graph.References = refs
	} else {
		t.graph.References = append(t.graph.References, refs...)
	}
	return nil
}

// choose settles groups of alternatives: the first that leads somewhere counts,
// else the first. The others are dormant, or say nothing at all.
func choose(doc *mention.Doc, refs []Reference) []Reference {
	chosen := map[int]int{} // group → index into refs
	for i := range refs {
		g := doc.Mentions[refs[i].Mention].Group
		if g == 0 {
			continue
		}
		at, ok := chosen[g]
		if !ok || !leads(refs[at].State) && leads(refs[i].State) {
			chosen[g] = i
		}
	}
	if len(chosen) == 0 {
		return refs
	}
	out := refs[:0]
	for i, r := range refs {
		m := &doc.Mentions[r.Mention]
		if m.Group != 0 && chosen[m.Group] != i {
			if m.Instead {
				continue
			}
			r.own = min(r.own, mention.Dormant)
			r.Use = r.own
		}
		out = append(out, r)
	}
	return out
}

// believe drops guesses that lead nowhere, but for those that share their
// folder with one that leads to a file: what stands beside material is likely
// material that is missing.
func believe(doc *mention.Doc, refs []Reference) []Reference {
	proved := map[string]bool{}
	guesses := false
	for i := range refs {
		if !doc.Mentions[refs[i].Mention].Guessed {
			continue
		}
		guesses = true
		if leads(refs[i].State) {
			proved[filepath.Dir(refs[i].Target())] = true
			proved[filepath.Dir(refs[i].Expected)] = true
		}
	}
	if !guesses {
		return refs
	}
	out := refs[:0]
	for _, r := range refs {
		if !doc.Mentions[r.Mention].Guessed || leads(r.State) || proved[filepath.Dir(r.Expected)] {
			out = append(out, r)
		}
	}
	return out
}

func leads(s resolve.State) bool {
	return s.Found() || s == resolve.Twins || s == resolve.Inside || s == resolve.Unplugged
}

func (t *tracer) describe(ref *Reference, m *mention.Mention, doc string) {
	switch {
	case m.Write:
		ref.Kind = facts.KindOfName(ref.Expected)
		return
	case m.Sequence != nil:
		ref.Kind = facts.Sequence
		if ref.State == resolve.Inside {
			ref.Size = m.Size
		}
		for _, n := range ref.Sizes {
			ref.Size += n
		}
		return
	case ref.State == resolve.Inside:
		ref.Kind, ref.Size = embeddedKind(m, ref.Written), m.Size
		return
	case !ref.State.Found():
		name := ref.Expected
		if name == "" {
			name = ref.Written
		}
		if len(ref.Files) > 0 { // twins: whichever is meant is of the kind they share
			name = ref.Files[0]
			for _, other := range ref.Files[1:] {
				if facts.KindOfName(other) != facts.KindOfName(name) {
					name = ref.Written
					break
				}
			}
		}
		if strings.Contains(name, "://") {
			name, _, _ = strings.Cut(name, "#")
			name, _, _ = strings.Cut(name, "?")
		}
		if ref.Kind = facts.KindOfName(strings.TrimSuffix(name, "/")); ref.Kind == facts.Other {
			ref.Kind = said(m)
		}
		return
	}
	ref.Size = ref.Info.Size
	l, known := t.leaves[ref.Info.Real]
	if !known {
		before := len(t.graph.Documents)
		l = t.leaf(ref.Path, ref.Info, doc)
		if ref.Repaired && len(t.graph.Documents) > before {
			t.graph.Documents[before].Was = ref.Expected
		}
		t.leaves[ref.Info.Real] = l
	}
	ref.Kind, ref.Child = l.kind, l.child
	if ref.Kind == facts.Other {
		ref.Kind = said(m)
	}
	if m.Member != "" {
		t.member(ref, m.Member)
	}
	if l.err != nil {
		ref.State, ref.Why = resolve.Unreadable, Reason(l.err)
		ref.Damaged = errors.Is(l.err, format.ErrMalformed)
	}
}

// said is the kind a document gives a file, Other for none.
func said(m *mention.Mention) facts.Kind {
	if k := facts.Kind(m.Kind); slices.Contains(facts.Kinds, k) {
		return k
	}
	return facts.Other
}

// member looks for a part within the package a reference leads to. Another
// part than the package's own document leads to no document.
func (t *tracer) member(ref *Reference, name string) {
	names, known := t.members[ref.Info.Real]
	if !known {
		if src, err := drive.OpenSized(t.Reach, ref.Path); err == nil {
			if zr, err := zip.NewReader(src, src.Size()); err == nil {
				names = map[string]bool{}
				for _, f := range zr.File {
					names[f.Name] = true
				}
			}
			src.Close()
		}
		t.members[ref.Info.Real] = names
	}
	if names != nil && !names[name] {
		ref.State, ref.Why, ref.Child = resolve.Missing, "the package is there, but ‘"+name+"’ is not in it", -1
		ref.Damaged = true // the package itself can still be carried
		return
	}
	if ref.Child >= 0 && t.graph.Documents[ref.Child].File.Doc.Texts[0].Name != name {
		ref.Child = -1
	}
}

// embeddedKind goes by the bytes themselves, else by the name they have.
func embeddedKind(m *mention.Mention, written string) facts.Kind {
	r := m.Data()
	defer r.Close()
	head := make([]byte, 64)
	n, _ := io.ReadFull(r, head)
	if k := facts.KindOf("", head[:n]); k != facts.Other {
		return k
	}
	if k := facts.KindOfName(written); k != facts.Other && !strings.HasPrefix(written, "data:") {
		return k
	}
	return facts.Data
}

// leaf looks at a file's beginning and, where a format claims it, opens it as
// a nested document.
func (t *tracer) leaf(path string, info drive.Info, doc string) leaf {
	if i, ok := t.seen[info.Real]; ok {
		return leaf{kind: kindOfFormat(t.graph.Documents[i].File.Format, path), child: i}
	}
	l := leaf{child: -1, kind: facts.KindOfName(path)}
	f, err := t.Reach.Open(path)
	if err != nil {
		l.err = err
		return l
	}
	head := make([]byte, min(format.HeadSize, info.Size))
	n, err := f.ReadAt(head, 0)
	f.Close()
	if err != nil && err != io.EOF {
		l.err = err
		return l
	}
	head = head[:n]
	l.kind = facts.KindOf(path, head)
	if l.kind == facts.Audio || l.kind == facts.Video || l.kind == facts.Image {
		return l
	}
	claim := t.Formats.Nested(filepath.Base(path), head)
	if claim == nil {
		return l
	}
	l.kind = kindOfFormat(claim, path)
	child, err := t.open(path, info)
	var mal *format.MalformedError
	if errors.As(err, &mal) && mal.Opaque {
		return l
	}
	if err != nil {
		l.err = err
		p := mention.Problem{
			Code: "malformed", Path: path, Document: doc, Message: Reason(err),
			Untouched: "what it names is not in this trace", Do: "open it in the program that made it and save it again",
		}
		if mal != nil {
			p.Line = mal.Line
			p.Message = (&format.MalformedError{Format: mal.Format, Msg: mal.Msg}).Error()
		}
		t.graph.Problems = append(t.graph.Problems, p)
		return l
	}
	l.child = child
	return l
}

// kindOfFormat is the kind of the format's usual extension.
func kindOfFormat(f format.Format, path string) facts.Kind {
	if k := facts.KindOfName("x." + f.About().Extensions[0]); k != facts.Other {
		return k
	}
	return facts.KindOfName(path)
}

// liven carries use through nesting: what a dormant or listed mention leads to
// is no livelier than it; of several ways in, the liveliest wins. A way that
// picks names wakes only what belongs to them.
func (t *tracer) liven() {
	g := t.graph
	all := make([]mention.Use, len(g.Documents))
	picked := make([]map[string]mention.Use, len(g.Documents))
	for i := range g.Given {
		all[i] = mention.Used
	}
	g.settle()
	of := func(ref *Reference) mention.Use {
		m := &g.Documents[ref.Doc].File.Doc.Mentions[ref.Mention]
		live := all[ref.Doc]
		if m.Under != "" {
			live = max(live, picked[ref.Doc][m.Under])
		} else {
			for _, u := range picked[ref.Doc] {
				live = max(live, u)
			}
		}
		return max(min(ref.own, live), mention.Listed)
	}
	// Use only rises and has four values, so this ends after few rounds.
	for changed := true; changed; {
		changed = false
		for k := range g.References {
			ref := &g.References[k]
			if ref.Child < 0 {
				continue
			}
			use, picks := of(ref), g.Documents[ref.Doc].File.Doc.Mentions[ref.Mention].Picks
			if picks == nil && use > all[ref.Child] {
				all[ref.Child], changed = use, true
			}
			for _, p := range picks {
				if picked[ref.Child] == nil {
					picked[ref.Child] = map[string]mention.Use{}
				}
				if use > picked[ref.Child][p] {
					picked[ref.Child][p], changed = use, true
				}
			}
		}
	}
	for k := range g.References {
		g.References[k].Use = of(&g.References[k])
	}
	for i := range g.Documents {
		g.Documents[i].Use = all[i]
		for _, u := range picked[i] {
			g.Documents[i].Use = max(g.Documents[i].Use, u)
		}
	}
}

// Files lists every real file the graph reaches, documents included, each once,
// by the path it was first reached by.
func (g *Graph) Files() []string {
	var list []string
	seen := map[string]bool{}
	add := func(key, path string) {
		if !seen[key] {
			seen[key] = true
			list = append(list, path)
		}
	}
	for _, d := range g.Documents {
		add(d.Info.Real, d.Path)
	}
	for i := range g.References {
		r := &g.References[i]
		switch {
		case !r.State.Found() || r.Write:
		case r.Path != "":
			add(r.Info.Real, r.Path)
		default:
			for _, f := range r.Files {
				add(f, f)
			}
		}
	}
	return list
}
