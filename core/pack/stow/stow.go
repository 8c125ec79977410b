// Package stow plans where each thing goes in a crate and under which name,
// before anything is written: layouts, names that survive any system, clashes
// solved by a visible new name, and what every document will have to say.
package stow

import (
	"context"
	"path"
	"path/filepath"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// Options is how to plan.
type Options struct {
	Layout   Layout
	AnyNames bool   // keep names that not every system takes
	Prefix   string // before every name but those of the documents that were asked for
	Suffix   string // before the extension of the same
	Leave    sift.Choice
	Judged   *origin.Judged // of the graph
	ByHand   map[graph.FileID]decide.ByHand
	Drives   []drive.Drive

	Same        [][]graph.FileID         // files of one content, as far as they are known
	Also        []sift.Extra             // what goes along though no reference names it
	Asides      map[string]*graph.Graph  // of those the documents that are to be whole, traced
	Hand        map[string]decide.ByHand // what was decided of those, by their paths
	Interchange []export.Form            // simpler documents beside each that was asked for
	Trim        *float64                 // sounds are cut to what is used and this many seconds around; nil: they are not
	Sound       pcm.Spec                 // what sounds shall be; nothing: as they are
	Sounds      Sounds
	Listen      Listen                // nil: nobody listens
	Revisions   map[string]string     // of files of managed stores, by their paths
	SetAside    map[string]decide.Why // why a person set missing files aside, by their paths
	First       map[string]int        // the order of an earlier plan, by keys: who had a name keeps it
}

// Order is who stands where in a plan, for the First of the next one.
func (p *Plan) Order() map[string]int {
	order := make(map[string]int, len(p.Berths))
	for i := range p.Berths {
		order[p.Berths[i].Key] = i
	}
	return order
}

// Absence is why nothing is copied for a berth.
type Absence string

// The reasons beside those of sift.Why.
const (
	Missing     Absence = "missing"
	Unplugged   Absence = "unplugged"
	Twins       Absence = "twins"
	Unreadable  Absence = "unreadable"
	OnNetwork   Absence = "on-network"
	WritePoint  Absence = "write-point"        // nothing of it is read
	PointInside Absence = "write-point-inside" // the crate's document writes into the crate
	NeverSaved  Absence = "never-saved"        // a place for a file that was never written; Detail is its owner
	LacksPart   Absence = "lacks-part"         // of its own package; Detail is the part
	AsChannels  Absence = "channels"           // nothing names it, and its sound travels with its channels lying otherwise
	NotAlong    Absence = "not-along"          // a sequence that only a document which goes along names
)

// Plan is what Seal carries out.
type Plan struct {
	Graph    *graph.Graph
	Judged   *origin.Judged
	Berths   []Berth
	Left     []Left
	Problems []problem.Problem
	// SoundLoses is what stands beside sounds (notes, markers, tags) and cannot go with them into
	// their new files; nil: nothing.
	SoundLoses *export.Loss
	Unheard    []Hearing // sounds that were not heard yet
	Clashes    int
	Selection  sift.Selection
	Revisions  map[string]string // of files of managed stores, by their paths
	of         []int32           // file → berth, -1
}

// Make plans a crate for all documents of a graph. It fails on nothing but a
// pattern that cannot be read (*PatternError) and the
// end of ctx: what cannot be done is a problem of the plan. What the documents
// will say is told by Say.
func Make(ctx context.Context, g *graph.Graph, o Options) (*Plan, error) {
	if o.Layout == "" {
		o.Layout = ByKind
	}
	p := &planner{
		Plan: &Plan{Graph: g, of: make([]int32, len(g.Files)), Selection: sift.Decide(sift.Of{Graph: g, Judged: o.Judged, ByHand: o.ByHand, Same: o.Same}, o.Leave), Judged: o.Judged, Revisions: o.Revisions},
		o:    o, next: map[place]int{}, portably: map[string]string{},
	}
	if o.Layout.IsPattern() {
		var err error
		if p.pattern, err = parsePattern(string(o.Layout)); err != nil {
			return nil, err
		}
	}
	p.Berths = make([]Berth, 0, len(g.Files)+len(o.Also)+len(o.Interchange))
	if o.Layout == AsStands {
		p.outer = p.outerFolder()
	}
	for i := range p.of {
		p.of[i] = -1
	}
	for _, i := range g.Roots {
		p.add(g.Documents[i].File, true)
	}
	for i := range g.References {
		if r := &g.References[i]; r.File != graph.None && p.of[r.File] < 0 {
			p.add(r.File, false)
		}
	}
	for i := range o.Also {
		p.along(&o.Also[i])
	}
	for _, i := range g.Roots {
		for _, f := range o.Interchange {
			p.interchange(i, f)
		}
	}
	p.asides()
	p.leave()
	p.rootsStay()
	p.pin()
	if err := p.name(ctx); err != nil {
		return nil, err
	}
	sort.SliceStable(p.Left, func(a, b int) bool { return p.Left[a].Path < p.Left[b].Path })
	return p.Plan, nil
}

type planner struct {
	*Plan
	o        Options
	next     map[place]int     // name that clashes → number to try next
	portably map[string]string // folders made portable
	pattern  [][]piece         // of the layout
	n        int               // files a pattern named
	byPath   map[string]int32  // berths by their sources
	shared   map[string]bool   // files that documents which go along name too
	outer    string            // what all that lies outside the project and the drives shares
}

func (p *planner) berth(f graph.FileID) *Berth {
	if f == graph.None || p.of[f] < 0 {
		return nil
	}
	return &p.Berths[p.of[f]]
}

func (p *planner) add(id graph.FileID, given bool) {
	f := &p.Graph.Files[id]
	if p.of[id] >= 0 {
		return
	}
	if other, twice := p.Selection.As[id]; twice {
		p.add(other, false)
		p.of[id] = p.of[other]
		p.Left = append(p.Left, Left{Path: f.Path, Why: Absence(sift.IsTwice), Detail: p.Graph.Files[other].Path})
		p.Berths = append(p.Berths, asIs(Berth{
			File: id, Key: f.At.String(), Kind: f.Kind, Size: f.Size, Doc: graph.None, Use: f.Use, Uses: len(f.Refs), From: filepath.Dir(f.Path), Was: filepath.Base(f.Path),
			Absent: true, Why: Absence(sift.IsTwice), Twin: p.of[other],
		}))
		return
	}
	b := asIs(Berth{File: id, Key: f.At.String(), Kind: f.Kind, Size: f.Size, Doc: f.Doc, Use: f.Use, Uses: len(f.Refs)})
	if given {
		if b.Kind = facts.KindOfName(f.Path); b.Kind == facts.Other {
			b.Kind = facts.Document
		}
	}
	if f.Frames != nil {
		b.sequence, b.Doc = true, graph.None
		b.Series = &Series{Pattern: f.Frames.Pattern, origin: f.Frames.Pattern, Frames: f.Frames.Files, sizes: f.Frames.Sizes}
		b.From, b.Was = b.Pattern.Dir, b.Pattern.Shown()
		own := strings.TrimRight(b.Pattern.Head, "._- ")
		if own == "" {
			own = path.Base(b.Pattern.Dir)
		}
		b.Folder, own = p.home(id, filepath.Join(b.Pattern.Dir, own), facts.Sequence, false)
		switch {
		case p.pattern != nil: // what it makes of a name holds the images
			b.Folder = path.Join(b.Folder, own)
		case p.o.Layout != AsStands:
			b.Folder = path.Join(b.Folder, path.Base(b.Pattern.Dir))
		}
		b.Name = b.Was
	} else {
		if f.Carried {
			b.Source = f.Path
		}
		b.From, b.Was = filepath.Dir(f.Path), filepath.Base(f.Path)
		b.Folder, b.Name = p.home(id, f.Path, b.Kind, given)
		if b.Name != b.Was {
			b.Renamed = Pattern
		}
	}
	why, stays := p.Selection.Stays[id]
	switch {
	case !f.Carried:
		b.Absent, b.Why = true, absence(f)
	case stays:
		b.Absent, b.Why = true, Absence(why)
	}
	if b.Absent {
		b.Source = ""
		l := Left{Path: filepath.Join(b.From, b.Was), Why: b.Why}
		if b.Why == Missing {
			l.Detail = string(p.o.SetAside[l.Path])
		}
		if f.State == graph.Unreadable {
			l.Detail = string(p.Graph.References[f.Refs[0]].Why)
		}
		p.Left = append(p.Left, l)
	}
	p.of[id] = int32(len(p.Berths))
	p.Berths = append(p.Berths, b)
}

func absence(f *graph.File) Absence {
	switch f.State {
	case graph.Unplugged:
		return Unplugged
	case graph.Twins:
		return Twins
	case graph.Unreadable:
		return Unreadable
	}
	return Missing
}

// leave tells of what no file could complete.
func (p *planner) leave() {
	g := p.Graph
	for i := range g.References {
		r := &g.References[i]
		if r.File != graph.None {
			continue
		}
		doc := g.Documents[r.Doc].Path
		switch {
		case r.State == graph.Inside:
		case r.Network():
			p.Left = append(p.Left, Left{Path: r.Written, Why: OnNetwork})
		case r.State == graph.Unsaved:
			if r.Use == mention.Used {
				p.Left = append(p.Left, Left{Path: doc, Why: NeverSaved, Detail: r.Owner})
			}
		default:
			p.Left = append(p.Left, Left{Path: doc, Why: LacksPart, Detail: r.Written})
		}
	}
	for i := range g.WritePoints {
		p.Left = append(p.Left, Left{Path: g.WritePoints[i].Path, Why: WritePoint, point: i})
	}
}

// outerFolder is the folder that holds all that lies outside the project and
// the drives, so that a crate need not carry this machine's own folders.
func (p *planner) outerFolder() string {
	var outside []string
	all := []*graph.Graph{p.Graph}
	for _, g := range p.o.Asides {
		all = append(all, g)
	}
	for _, g := range all {
		for i := range g.Files {
			at := g.Files[i].Path
			if _, on := drive.Find(p.o.Drives, at); !on && path.IsAbs(at) && !drive.Within(p.Graph.Root, at) {
				outside = append(outside, at)
			}
		}
	}
	if len(outside) == 0 {
		return "/"
	}
	return filepath.Dir(graph.CommonFolder(outside)) // its own name tells something
}

// home is the folder and name a file has before wishes and clashes.
func (p *planner) home(id graph.FileID, file string, kind facts.Kind, top bool) (dir, name string) {
	name = path.Base(filepath.ToSlash(file))
	at := path.Dir(filepath.ToSlash(file))
	switch p.o.Layout {
	case Flat:
		return "", name
	case ByDocument:
		if refs := p.Graph.Files[id].Refs; !top && len(refs) > 0 {
			doc := filepath.Base(p.Graph.Documents[p.Graph.References[refs[0]].Doc].Path)
			stem, _ := names.Split(doc)
			return stem + " files", name
		}
		return "", name
	case AsStands:
		if drive.Within(p.Graph.Root, at) {
			return strings.Trim(strings.TrimPrefix(at, p.Graph.Root), "/"), name
		}
		if d, ok := drive.Find(p.o.Drives, at); ok {
			return path.Join("outside", d.Name, strings.TrimPrefix(at, d.Dir)), name
		}
		if drive.Within(p.outer, at) {
			at = strings.TrimPrefix(at, p.outer)
		}
		return path.Join("outside", strings.ReplaceAll(at, ":", "")), name
	}
	switch {
	case top:
		return "", name
	case p.pattern != nil:
		p.n++
		return p.patterned(id, file, folderOf[kind], p.n)
	}
	return folderOf[kind], name
}

// along adds a file that no reference names: companions and editions beside what they
// belong to, the rest in a folder of its own, or where it stands.
func (p *planner) along(e *sift.Extra) {
	b := asIs(Berth{
		File: graph.None, Key: drive.At(p.o.Drives, e.Path).String(), Kind: facts.KindOfName(e.Path), Size: e.Size, Doc: graph.None,
		Source: e.Path, From: filepath.Dir(e.Path), Was: filepath.Base(e.Path), Name: filepath.Base(e.Path),
	})
	b.Beside = &Beside{Along: e.What}
	rel := inRoot(p.Graph.Root, e.Path)
	switch {
	case e.What == sift.Companions || e.What == sift.Editions && p.o.Layout == AsStands:
		of := p.berthOf(e.Of)
		if of == nil || of.Absent {
			return // it travels with its document or not at all
		}
		b.Folder = path.Join(of.Folder, path.Dir(e.Rel))
	case e.What == sift.Editions:
		b.Folder = "earlier"
	case e.What == sift.Adopted && !p.o.Layout.IsPattern() && p.o.Layout != ByDocument || p.o.Layout == AsStands:
		b.Folder, _ = p.home(graph.None, e.Path, b.Kind, false)
	default:
		if first, _, _ := strings.Cut(rel, "/"); first == string(e.What) {
			rel = strings.TrimPrefix(rel, first+"/")
		}
		b.Folder = path.Join(string(e.What), path.Dir(rel))
	}
	if b.Folder == "." {
		b.Folder = ""
	}
	p.Berths = append(p.Berths, b)
}

// interchange makes room for a simpler document beside one that was asked for.
func (p *planner) interchange(doc graph.DocID, f export.Form) {
	d := &p.Graph.Documents[doc]
	if f.Timeline() && d.Format != "otio" {
		p.Problems = append(p.Problems, problem.Problem{Kind: problem.NoTimeline, Path: d.Path, Args: []string{string(f)}})
		return
	}
	of := p.berth(d.File)
	if of == nil {
		return
	}
	stem, ext := names.Split(of.Name)
	name := stem + f.Ext()
	if f.Ext() == ext {
		name = stem + " simple" + ext
	}
	b := asIs(Berth{
		File: graph.None, Key: d.Path + "\x00" + string(f), Kind: facts.Document, Doc: graph.None, From: filepath.Dir(d.Path), Was: filepath.Base(d.Path),
		Folder: of.Folder, Name: name,
	})
	b.Simpler = &Simpler{f, doc}
	p.Berths = append(p.Berths, b)
}

// berthOf is the berth of a file that is named by its path.
func (p *planner) berthOf(file string) *Berth {
	if p.byPath == nil {
		p.byPath = make(map[string]int32, len(p.Berths))
		for i := range p.Berths {
			if src := p.Berths[i].Source; src != "" && p.Berths[i].File != graph.None {
				p.byPath[src] = int32(i)
			}
		}
	}
	if i, ok := p.byPath[file]; ok {
		return &p.Berths[i]
	}
	return nil
}

// pin keeps files where documents that cannot be rewritten will look for them:
// at the same place beside the document as now.
func (p *planner) pin() {
	g := p.Graph
	for i := range g.References {
		r := &g.References[i]
		host := &g.Documents[g.Documents[r.Doc].Host]
		doc, b := p.berth(host.File), p.berth(r.File)
		if !r.Fixed || b == nil || doc == nil || b.sequence || p.isRoot(b) {
			continue
		}
		if r.Absolute || filepath.Join(filepath.Dir(host.Path), filepath.FromSlash(r.Written)) != r.Target() {
			continue
		}
		at := path.Join(doc.Folder, filepath.ToSlash(r.Written))
		if at != ".." && !strings.HasPrefix(at, "../") {
			b.Folder, b.Name, b.pinned = strings.TrimSuffix(path.Dir(at), "."), path.Base(at), true
		}
	}
}

// roots tells of those that somebody wanted left.
func (p *planner) rootsStay() {
	for _, d := range p.Graph.Roots {
		doc := &p.Graph.Documents[d]
		if p.o.Leave.Leaves(p.Graph, doc.File) || p.o.ByHand[doc.File].Stays {
			p.Problems = append(p.Problems, problem.Problem{Kind: problem.IsRoot, Path: doc.Path})
		}
	}
}

// applyAffixes puts the prefix and the suffix to a name.
func (p *planner) applyAffixes(b *Berth) {
	if b.sequence {
		b.Pattern.Head = p.o.Prefix + b.Pattern.Head
		stem, ext := names.Split(b.Pattern.Tail)
		b.Pattern.Tail = stem + p.o.Suffix + ext
		b.Name = b.Pattern.Shown()
	} else {
		stem, ext := names.Split(b.Name)
		b.Name = p.o.Prefix + stem + p.o.Suffix + ext
	}
	b.Renamed = Pattern
}

func (p *Plan) isRoot(b *Berth) bool { return b.Doc != graph.None && p.Graph.IsRoot(b.Doc) }
