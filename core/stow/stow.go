// Package stow plans where each thing goes in a crate and under which name,
// before anything is written: layouts, names that survive any system, clashes
// solved by a visible new name, and what every document will have to say.
package stow

import (
	"context"
	"fmt"
	"path"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/decide"
	"boundcrate/core/drive"
	"boundcrate/core/export"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/mention"
	"boundcrate/core/names"
	"boundcrate/core/origin"
	"boundcrate/core/pcm"
	"boundcrate/core/sift"
)

// Layout is how files are laid out in the crate.
type Layout string

// The layouts.
const (
	ByKind     Layout = "kind"     // a folder for each kind
	AsStands   Layout = "stands"   // as the folders stand; what lies outside the project under outside/
	Flat       Layout = "flat"     // everything in one folder
	ByDocument Layout = "document" // a folder for each document that needs it
)

// Layouts are all of them.
var Layouts = []Layout{ByKind, Flat, AsStands, ByDocument}

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
	Revisions   map[string]string     // of files of managed stores, by their paths
	SetAside    map[string]decide.Why // why a person set missing files aside, by their paths
	First       map[string]int        // the order of an earlier plan, by keys: who had a name keeps it
}

// Renaming is why a name in the crate differs.
type Renaming string

// The reasons, in the words of the command line's contract.
const (
	AsItWas  Renaming = ""
	Clash    Renaming = "clash"
	Portably Renaming = "portable"
	Pattern  Renaming = "pattern"
	ByWish   Renaming = "wish"
	Wrapped  Renaming = "sound"    // another extension, as its sound has another type
	Apart    Renaming = "channels" // its channels lie otherwise
)

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

// Berth is one line of the plan: this file, to that place, under that name.
type Berth struct {
	File     graph.FileID
	Key      string // the file's identity, as text
	Source   string // the file; "" for sequences and for what is not there
	From     string // the folder it comes from
	Was      string // the name it comes with
	Folder   string // in the crate, below data/, "" for the top
	Name     string // a pattern's shown name for sequences
	Kind     facts.Kind
	Use      mention.Use
	Size     int64
	Doc      graph.DocID
	Absent   bool // nothing is copied: it stays, or it is not there
	Why      Absence
	Renamed  Renaming
	Clashed  bool // a clash made the name or the folder what it is
	Wished   bool // a person said where it goes
	Uses     int  // how many mentions name it
	sequence bool
	*Series        // of a sequence
	Twin     int32 // of a duplicate that stays: the berth that stands for it; it has no place of its own
	pinned   bool  // a document that cannot be rewritten looks for it there
	*Heard
	*Beside
	*Simpler
}

// Heard is what a berth has beside whose sound is made anew, or of which a part is taken;
// others share one that says nothing.
type Heard struct {
	Sound    *pcm.Spec // what its sound becomes; nil: it is copied as it is
	Cut      *pcm.Cut  // what is taken of its sound, or of its images; nil: all
	Long     int64     // of what is cut: its samples of each channel, or images, as it is
	rate     float64   // of what is cut: samples, or images, a second, as it is
	Raw      int64     // of a sound that is converted, and of what is cut: its bytes now
	About    bool      // its size is told by samples of it
	With     []string  // of a sound that is joined of files with a channel each: the further ones
	channels int       // of a sound; 0: nobody looked
}

// Beside is what a berth has that goes along though no reference names it.
type Beside struct {
	Along sift.Along // why; File is none then
	aside *Aside     // of a document
}

// Simpler is what a berth has of a simpler document that is made beside another.
type Simpler struct {
	Form export.Form
	Of   graph.DocID // that one
}

// What berths share that have nothing of a kind. Nobody writes into them.
var (
	unheard = &Heard{}
	byName  = &Beside{}
	notMade = &Simpler{Of: graph.None}
)

// asIs is a berth of a file that is copied as it is.
func asIs(b Berth) Berth {
	b.Heard, b.Beside, b.Simpler = unheard, byName, notMade
	return b
}

// hear gives a berth its own Heard, to be written into.
func (b *Berth) hear() *Heard {
	if b.Heard == unheard {
		b.Heard = &Heard{}
	}
	return b.Heard
}

// Series is what a berth of many files has beside; of others it is nil, which keeps twenty
// thousand of them small.
type Series struct {
	Frames  []string
	Pattern graph.Pattern // as it will stand in the crate
	origin  graph.Pattern // as it stands now
	sizes   []int64
	step    int // of one that is cut: by which its numbers go on
}

// Files is how many files the berth copies.
func (b *Berth) Files() int {
	switch {
	case b.Absent:
		return 0
	case b.sequence:
		return len(b.Frames)
	}
	return 1
}

// IsSequence tells berths of many files.
func (b *Berth) IsSequence() bool { return b.sequence }

// To is the berth's place below data/.
func (b *Berth) To() string {
	if b.Folder == "" { // both are in plain form
		return b.Name
	}
	return b.Folder + "/" + b.Name
}

// Apart tells files that hold the channels of a sound otherwise: none of them stands for
// the file it is made of.
func (b *Berth) Apart() bool { return b.Along == sift.Channels }

// Left is something that does not travel.
type Left struct {
	Path   string  `json:"path"`
	Why    Absence `json:"why"`
	Detail string  `json:"detail,omitempty"`
	point  int     // of a write point: its number
}

// Plan is what Seal carries out.
type Plan struct {
	Graph     *graph.Graph
	Judged    *origin.Judged
	Berths    []Berth
	Left      []Left
	Problems  []mention.Problem
	Clashes   int
	Selection sift.Selection
	Revisions map[string]string // of files of managed stores, by their paths
	of        []int32           // file → berth, -1
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

var folderOf = map[facts.Kind]string{
	facts.Audio: "audio", facts.Video: "video", facts.Image: "images", facts.Sequence: "sequences",
	facts.Geometry: "geometry", facts.Part: "parts", facts.Material: "materials", facts.Drawing: "drawings",
	facts.Document: "documents", facts.Data: "data", facts.Other: "other",
}

// FolderOf is the folder that files of a kind go into.
func FolderOf(k facts.Kind) string { return folderOf[k] }

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
		p.Problems = append(p.Problems, mention.Problem{Code: NoTimeline, Path: d.Path, Message: string(f)})
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

// NoTimeline is the code of a problem: a document of which no timeline can be made.
const NoTimeline = "no-timeline"

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

// name applies wishes and portable names, then solves clashes: the first to
// ask keeps its name, wishes ask first.
func (p *planner) name(ctx context.Context) error {
	order := make([]int, len(p.Berths))
	for i := range p.Berths {
		order[i] = i
		b := &p.Berths[i]
		given := p.isRoot(b)
		p.sound(b)
		p.thin(b)
		if (p.o.Prefix != "" || p.o.Suffix != "") && !given && !b.pinned && (b.Along == "" || b.Along == sift.Adopted) {
			p.dress(b)
		}
		w := p.o.ByHand[b.File]
		if b.File == graph.None {
			w = p.o.Hand[b.Source]
		}
		if w.Folder != nil || w.Name != nil {
			b.Wished = true
			if w.Folder != nil {
				b.Folder = cleanFolder(*w.Folder)
			}
			if w.Name != nil && !b.sequence {
				b.Name = withExtension(*w.Name, b.Name)
				b.Renamed = ByWish
			}
		}
		if !p.o.AnyNames && !b.pinned {
			p.portable(b)
		}
	}
	ranks := make([]int8, len(p.Berths))
	for i := range ranks {
		ranks[i] = p.rank(i)
	}
	sort.SliceStable(order, func(x, y int) bool {
		a, b := order[x], order[y]
		if r, s := ranks[a], ranks[b]; r != s || p.o.First == nil {
			return r < s
		}
		first, had := p.o.First[p.Berths[a].Key]
		second, too := p.o.First[p.Berths[b].Key]
		if had != too {
			return had
		}
		return had && first < second
	})
	t := newTaken(len(p.Berths))
	for i := range p.Berths {
		if p.Berths[i].sequence {
			t.names = map[int32][]named{}
			break
		}
	}
	for n, i := range order {
		if n%256 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		b := &p.Berths[i]
		if b.Why == Absence(sift.IsTwice) {
			continue
		}
		if !p.settle(b, t) {
			b.Absent, b.Why = true, Missing
			p.Problems = append(p.Problems, mention.Problem{Code: NoName, Path: filepath.Join(b.From, b.Was)})
		}
		if b.Clashed {
			p.Clashes++
		}
	}
	p.apart(t)
	p.tooLong()
	for i := 0; len(p.Selection.As) > 0 && i < len(p.Berths); i++ {
		if b := &p.Berths[i]; b.Why == Absence(sift.IsTwice) {
			b.Folder, b.Name = p.Berths[b.Twin].Folder, p.Berths[b.Twin].Name
		}
	}
	return nil
}

// LongPath is the code of a problem: a place whose path is longer than some systems take;
// Message is how many characters it has.
const LongPath = "long-path"

// mostPath is how many characters of a path below a crate's folder are safe: Windows takes
// 260 of a whole one without being told otherwise, and the crate lies somewhere.
const mostPath = 240

func (p *planner) tooLong() {
	if p.o.AnyNames {
		return
	}
	for i := range p.Berths {
		b := &p.Berths[i]
		if b.Absent || len(b.Folder)+len(b.Name) <= mostPath-len("data//") {
			continue
		}
		if n := utf8.RuneCountInString("data/" + b.To()); n > mostPath {
			p.Problems = append(p.Problems, mention.Problem{Code: LongPath, Path: filepath.Join(b.From, b.Was), Message: strconv.Itoa(n)})
		}
	}
}

// IsRoot is the code of a problem: a document that was to be left, and that the crate is
// made of.
const IsRoot = "is-root"

// roots tells of those that somebody wanted left.
func (p *planner) rootsStay() {
	for _, d := range p.Graph.Roots {
		doc := &p.Graph.Documents[d]
		if p.o.Leave.Leaves(p.Graph, doc.File) || p.o.ByHand[doc.File].Stays {
			p.Problems = append(p.Problems, mention.Problem{Code: IsRoot, Path: doc.Path})
		}
	}
}

// NoName is the code of a problem: a file for which no free name was found.
const NoName = "no-name"

// dress puts the prefix and the suffix to a name.
func (p *planner) dress(b *Berth) {
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

// rank puts documents first, then wishes, then what is copied.
func (p *planner) rank(i int) int8 {
	b := &p.Berths[i]
	switch {
	case p.isRoot(b):
		return 0
	case b.Wished:
		return 1
	case b.pinned:
		return 2
	case !b.Absent && b.File != graph.None:
		return 3
	case b.Absent:
		return 4
	}
	return 5 // what goes along makes room for what is named
}

func (p *Plan) isRoot(b *Berth) bool { return b.Doc != graph.None && p.Graph.IsRoot(b.Doc) }

func (p *planner) portable(b *Berth) {
	dir, known := p.portably[b.Folder]
	if !known {
		dir = portableDir(b.Folder)
		p.portably[b.Folder] = dir
	}
	b.Folder = dir
	was := b.Name
	if b.sequence {
		head, tail := Portable(b.Pattern.Head+"0"), Portable("0"+b.Pattern.Tail)
		b.Pattern.Head, b.Pattern.Tail = strings.TrimSuffix(head, "0"), strings.TrimPrefix(tail, "0")
		b.Name = b.Pattern.Shown()
	} else {
		b.Name = Portable(b.Name)
	}
	if b.Name != was && b.Renamed == AsItWas {
		b.Renamed = Portably
	}
}

// mostTries bounds how often a free name is looked for: more of one name than
// this, each pushed aside by another, is no crate.
const mostTries = 100_000

// settle gives a berth a place nothing stands at. A name that is there already
// gets a number; so does a folder at whose place a file stands.
func (p *planner) settle(b *Berth, t taken) bool {
	for n := 2; ; n++ {
		block := t.blocked(b.Folder)
		if block == "" {
			break
		}
		if n > mostTries {
			return false
		}
		b.Folder = fmt.Sprintf("%s-%d", block, n) + strings.TrimPrefix(b.Folder, block)
		b.Clashed = true
		if b.Renamed == AsItWas {
			b.Renamed = Clash
		}
	}
	was, folder := b.Name, b.Folder
	// Thousands of files may share one name: each begins where the last ended.
	key := t.place(folder, was)
	at := key
	alone := func() bool {
		if b.sequence && len(b.Frames) > 0 {
			return t.free(b.places())
		}
		return t.at[at] == 0
	}
	free := func() bool { return alone() && !t.mixes(b) }
	for n := max(2, p.next[key]); !free() || t.blocked(b.Folder) != ""; n++ {
		if n > mostTries {
			return false
		}
		if b.Clashed = true; b.Renamed != Apart { // it is told of the file that it is made of
			b.Renamed = Clash
		}
		p.next[key] = n + 1
		if b.sequence || was == "" {
			if b.Folder = fmt.Sprintf("%s-%d", folder, n); folder == "" {
				b.Folder = fmt.Sprintf("frames-%d", n)
			}
			at = t.place(b.Folder, b.Name)
			continue
		}
		stem, ext := names.Split(was)
		end := "-" + strconv.Itoa(n) + ext
		for len(stem)+len(end) > maxName {
			stem = strings.ToValidUTF8(stem[:len(stem)-1], "")
		}
		b.Name = stem + end
		at = t.place(b.Folder, b.Name)
	}
	if b.sequence && len(b.Frames) > 0 {
		for _, n := range b.places() {
			t.take(b.Folder, t.placeOf(n))
		}
	} else {
		t.take(b.Folder, at)
	}
	if b.sequence {
		b.Pattern.Dir = b.Folder
	}
	t.stand(b)
	return true
}

// places lists the paths below data/ the berth takes.
func (b *Berth) places() []string {
	if !b.sequence || len(b.Frames) == 0 {
		return []string{b.To()}
	}
	list := make([]string, len(b.Frames))
	for i, f := range b.Frames {
		list[i] = path.Join(b.Folder, b.frame(f))
	}
	return list
}

// frame is the name of one frame in the crate: its number under the pattern
// of the berth.
func (b *Berth) frame(file string) string {
	base := filepath.Base(file)
	mid, ok := strings.CutPrefix(base, b.origin.Head)
	mid, ok2 := strings.CutSuffix(mid, b.origin.Tail)
	if !ok || !ok2 {
		return base
	}
	return b.Pattern.Head + mid + b.Pattern.Tail
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
	Sound   *pcm.Spec // what its sound becomes; nil: it is copied as it is
	Cut     *pcm.Cut  // what is taken of it; nil: all
	Long    int64     // of one that is cut: its samples of each channel, as it is
	With    []string  // of a sound that is joined: the files of its further channels
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
			list = append(list, Copy{Source: b.Source, To: b.To(), Size: p.Size(i), Kind: b.Kind, Doc: b.Doc, Renamed: b.Renamed, Sound: b.Sound, Cut: b.Cut, Long: b.Long, With: b.With, Aside: b.aside, Edits: p.asides[i]})
		}
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].To < list[b].To })
	return list
}

func cleanFolder(s string) string {
	s = path.Clean("/" + strings.ReplaceAll(strings.TrimSpace(s), `\`, "/"))
	return strings.Trim(s, "/")
}

// withExtension gives a wished name the extension the file came with.
func withExtension(name, was string) string {
	name = strings.NewReplacer("/", "_", `\`, "_").Replace(strings.TrimSpace(name))
	ext := path.Ext(was)
	if name == "" || name == "." || name == ".." {
		return was
	}
	if !strings.EqualFold(path.Ext(name), ext) {
		name += ext
	}
	return name
}
