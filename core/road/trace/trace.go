// Package trace follows every reference of documents, into nested documents to
// the last leaf, and tells where each file stands: it makes a graph.
package trace

import (
	"context"
	"errors"
	"io"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/rules"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// Options is what a trace needs to know.
type Options struct {
	Formats format.Set
	Reach   drive.Reach
	Drives  []drive.Drive
	Root    string // the project folder; "": the common folder of the documents
	Repairs []resolve.Repair
	// Search are folders to look in for what is not where its name leads, in order.
	Search []string
	Doubt  func(expected, found string, info drive.Info) bool // see resolve.Resolver
	Index  index.Index                                        // of the root and the drives; nil: made when it is needed
	// Known tells what a file was when it was last opened with these formats and was no
	// document, if it is the same still: it is not opened again. Nil knows nothing.
	Known func(path string, is drive.Stamp, formats string) (graph.Look, bool)
	// Unlooked leaves out what headers of sound and pictures tell.
	Unlooked bool
	// Readings keeps what documents said from one trace to the next; nil keeps
	// nothing.
	Readings *Readings
	// Progress is told how many documents and references were read so far.
	Progress func(documents, references int)
}

// Error is a document that could not be read at all.
type Error struct {
	Path string
	Err  error
}

func (e *Error) Error() string { return "‘" + e.Path + "’ could not be read: " + e.Err.Error() }

func (e *Error) Unwrap() error { return e.Err }

func (o Options) resolver(ctx context.Context, root string) *resolve.Resolver {
	return &resolve.Resolver{Context: ctx, Reach: o.Reach, Drives: o.Drives, Root: root, Repairs: o.Repairs, Search: o.Search, Doubt: o.Doubt, Index: o.Index}
}

// Run traces documents given by absolute paths. A given document that cannot
// be read is an *Error; anything wrong further down is a problem of the graph.
func Run(ctx context.Context, o Options, documents ...string) (*graph.Graph, error) {
	root := o.Root
	documents = slices.Clone(documents)
	for i, d := range documents {
		documents[i] = bundle(o.Reach, filepath.Clean(d))
	}
	if root == "" {
		root = graph.CommonFolder(documents)
	}
	t := &tracer{
		Options: o, formats: Signature(o.Formats),
		graph:   &graph.Graph{Root: filepath.Clean(root), Formats: Signature(o.Formats)},
		seen:    map[string]graph.DocID{},
		leaves:  map[string]leaf{},
		plain:   map[string]plain{},
		members: map[string]map[string]bool{},
		looked:  map[place]looked{},
		bytes:   map[string]leaf{},
		files:   map[string]graph.FileID{},
		at:      map[*graph.Place]graph.FileID{},
	}
	t.resolver = o.resolver(ctx, t.graph.Root)
	if info, err := t.Reach.Stat(t.graph.Root); err == nil {
		t.graph.Real = info.Real
	}
	if err := t.openRoots(documents); err != nil {
		return nil, err
	}
	for i := 0; i < len(t.graph.Documents); i++ {
		if err := t.follow(ctx, graph.DocID(i)); err != nil {
			return nil, err
		}
	}
	t.propagate()
	t.settleFiles()
	kept := make(map[string]*reading, len(t.readings))
	for i, r := range t.readings {
		if d := &t.graph.Documents[i]; d.Host == graph.DocID(i) {
			kept[d.Info.Real] = r
		}
	}
	o.Readings.keep(kept, t.plain, t.formats)
	t.graph.Unread = t.resolver.Unread()
	return t.graph, nil
}

// openRoots opens the given documents. One that another of them includes is read as a
// part of that one, in whichever order they were given: it is none of the roots. Of
// two that include each other the first is the root.
func (t *tracer) openRoots(documents []string) error {
	type given struct {
		path string
		info drive.Info
		r    *reading
	}
	var list []given
	met := map[string]bool{}
	for _, d := range documents {
		info, err := t.Reach.Stat(d)
		if err != nil {
			return &Error{d, err}
		}
		if met[info.Real] {
			continue
		}
		met[info.Real] = true
		r, err := t.read(d, info)
		if err != nil {
			return &Error{d, err}
		}
		list = append(list, given{d, info, r})
	}
	included := map[string]bool{}
	for _, g := range list {
		if included[g.info.Real] {
			continue // what it includes is read with what includes it
		}
		for _, p := range g.r.parts {
			included[p.info.Real] = true
		}
	}
	for _, g := range list {
		if !included[g.info.Real] {
			t.graph.Roots = append(t.graph.Roots, t.add(g.path, g.info, g.r))
		}
	}
	return nil
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
	hold     *io.Closer // keeps the source of the document open; nil lets it go
	formats  string     // their signature
	graph    *graph.Graph
	readings []*reading // of each document; of an included one, its host's
	resolver *resolve.Resolver
	seen     map[string]graph.DocID     // real path → document
	leaves   map[string]leaf            // real path → what was found out once
	plain    map[string]plain           // of them, those that are no documents
	members  map[string]map[string]bool // real path of a package → names of its members; nil: no package
	looked   map[place]looked
	bytes    map[string]leaf // of files that are listed by their bytes
	own      []mention.Use   // of each reference, by its own document alone

	files map[string]graph.FileID // key → file
	at    map[*graph.Place]graph.FileID
}

func (t *tracer) open(path string, info drive.Info) (graph.DocID, error) {
	r, err := t.read(path, info)
	if err != nil {
		return graph.None, err
	}
	return t.add(path, info, r), nil
}

// add puts a document that was read into the graph, and the texts it includes.
func (t *tracer) add(path string, info drive.Info, r *reading) graph.DocID {
	g := t.graph
	i := graph.DocID(len(g.Documents))
	t.seen[info.Real] = i
	d := graph.Document{
		Path: path, Info: info, Format: r.format.Name(), Title: r.format.About().Title, Host: i, By: graph.None, File: graph.None,
		Package: r.texts[0].member, Guessed: r.last,
	}
	if f, ok := r.format.(*rules.File); ok {
		d.Rules = f.Source
	}
	g.Documents, t.readings = append(g.Documents, d), append(t.readings, r)
	for k, p := range r.parts {
		if first, again := t.seen[p.info.Real]; again {
			// Two readings of one file: neither may change what the other needs.
			g.Documents[first].Shared = true
			continue
		}
		t.seen[p.info.Real] = graph.DocID(len(g.Documents))
		g.Documents = append(g.Documents, graph.Document{
			Path: p.path, Info: p.info, Format: d.Format, Title: d.Title, Host: i, Text: k + 1, By: graph.None, File: graph.None,
			Package: r.texts[k+1].member,
		})
		t.readings = append(t.readings, r)
	}
	for _, p := range r.problems {
		p.Path, p.Document = path, path
		g.Problems = append(g.Problems, p)
	}
	return i
}

// found is a mention on its way to becoming a reference or a write point.
type found struct {
	graph.Reference
	s *said
}

// follow resolves all mentions of document i and opens the documents they lead
// to.
func (t *tracer) follow(ctx context.Context, i graph.DocID) error {
	d, r := &t.graph.Documents[i], t.readings[i]
	path, pack := t.graph.Documents[d.Host].Path, d.Package
	_, byBytes := r.format.(format.Bytes)
	text := int32(d.Text)
	list := make([]found, 0, len(r.said))
	for k := range r.said {
		if k%1024 == 0 {
			if err := ctx.Err(); err != nil {
				return err
			}
			if t.Progress != nil {
				t.Progress(int(i)+1, len(t.graph.References)+len(list))
			}
		}
		s := &r.said[k]
		if s.use == mention.Bystander || !pack && s.text != text {
			continue
		}
		f := found{s: s, Reference: graph.Reference{
			Doc: i, File: graph.None, Child: graph.None, Mention: int32(k), Written: s.written, Owner: s.owner, Member: s.member,
			Range: s.rng, Told: s.told, Use: s.use, Nth: s.nth, Guessed: s.nature.Guessed(), Fixed: s.fixed, Slide: s.slide, Absolute: filepath.IsAbs(s.name), Bare: s.spelling == mention.Bare,
		}}
		if tx := r.texts[s.text]; tx.member {
			f.Text = tx.name
		}
		m := s.mention()
		f.Place = t.resolver.Resolve(path, &m, s.name, s.written)
		list = append(list, f)
	}
	if err := ctx.Err(); err != nil {
		return err // a search may have ended early: what it did not find proves nothing
	}
	list = withoutIdle(chosen(list))
	d.References, d.Recognised = len(list), len(list) > 0
	if t.graph.References == nil {
		t.graph.References, t.own = make([]graph.Reference, 0, len(list)), make([]mention.Use, 0, len(list))
	}
	for k := range list {
		f := &list[k]
		if f.s.nature == mention.WritePoint {
			t.graph.WritePoints = append(t.graph.WritePoints, graph.WritePoint{
				Doc: i, Mention: f.Mention, Owner: f.Owner, Written: f.Written, Text: f.Text, Path: f.Expected, Use: f.Use,
				Alien: f.Why == graph.OtherSystem, Kind: facts.KindOfName(f.Expected),
			})
			continue
		}
		t.describe(f, path, byBytes)
		f.File = t.fileOf(f)
		t.graph.References = append(t.graph.References, f.Reference)
		t.own = append(t.own, f.Use)
	}
	return nil
}

// chosen settles groups of alternatives: the first that leads somewhere counts,
// else the first. The others are dormant, or say nothing at all.
func chosen(list []found) []found {
	pick := map[int]int{} // group → index into list
	for i := range list {
		g := list[i].s.group.N
		if g == 0 {
			continue
		}
		at, ok := pick[g]
		if !ok || !leads(list[at].State) && leads(list[i].State) {
			pick[g] = i
		}
	}
	if len(pick) == 0 {
		return list
	}
	out := list[:0]
	for i, f := range list {
		if g := f.s.group; g.N != 0 && pick[g.N] != i {
			if g.Instead {
				continue
			}
			f.Use = min(f.Use, mention.Dormant)
		}
		out = append(out, f)
	}
	return out
}

// withoutIdle drops guesses that lead nowhere, but for those that can hardly be
// anything but paths, and those that share their folder with one that leads to
// a file: what stands beside material is likely material that is missing.
func withoutIdle(list []found) []found {
	proved := map[string]bool{}
	guesses := false
	for i := range list {
		if !list[i].Guessed {
			continue
		}
		guesses = true
		if leads(list[i].State) {
			proved[filepath.Dir(list[i].Target())] = true
			proved[filepath.Dir(list[i].Expected)] = true
		}
	}
	if !guesses {
		return list
	}
	out := list[:0]
	for _, f := range list {
		if !f.Guessed || f.s.nature == mention.Shaped || leads(f.State) || proved[filepath.Dir(f.Expected)] {
			out = append(out, f)
		}
	}
	return out
}

func leads(s graph.State) bool {
	return s.Found() || s == graph.Twins || s == graph.Inside || s == graph.Unplugged
}

// Believed are the names that were guessed in document i of a graph, as they are
// written there, and whether each leads to a file.
func Believed(g *graph.Graph, i graph.DocID) map[string]bool {
	names := map[string]bool{}
	for k := range g.References {
		if r := &g.References[k]; r.Doc == i && r.Guessed {
			names[r.Written] = names[r.Written] || r.State.Found()
		}
	}
	return names
}

// Learn proposes rules files for a graph's document i, from what was guessed in
// it. A document of a known format is ErrKnown.
func (o Options) Learn(g *graph.Graph, i graph.DocID) ([]rules.Proposal, error) {
	d := &g.Documents[i]
	if !d.Guessed {
		return nil, ErrKnown
	}
	f, err := o.Reach.Open(d.Path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	body, err := io.ReadAll(io.NewSectionReader(f, 0, min(f.Size(), maxLearned)))
	if err != nil {
		return nil, err
	}
	names := Believed(g, i)
	return rules.Learn(filepath.Base(d.Path), body, func(v string) (rules.Believed, bool) {
		found, ok := names[v]
		return rules.Believed{Leads: found}, ok
	}), nil
}

// ErrKnown: a document whose format is known needs no rules.
var ErrKnown = errors.New("its format is known already")

// maxLearned bounds how much of a document is learned from, in bytes.
const maxLearned = 64 << 20
