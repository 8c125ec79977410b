// Package stow plans where each thing goes in a crate and under which name,
// before anything is written: layouts, names that survive any system, clashes
// solved by a visible new name, and what every document will have to say.
package stow

import (
	"fmt"
	"path"
	"path/filepath"
	"sort"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/sift"
	"boundcrate/core/trace"
)

// Layout is how files are laid out in the crate.
type Layout string

// The layouts.
const (
	ByKind   Layout = "kind"   // a folder for each kind
	AsStands Layout = "stands" // as the folders stand; what lies outside the project under outside/
)

// Override is a person's wish for one target. Nil is no wish.
type Override struct {
	Folder *string `json:"folder,omitempty"`
	Name   *string `json:"name,omitempty"`
}

// Options is how to plan.
type Options struct {
	Layout    Layout              `json:"layout"`
	Leave     sift.Choice         `json:"leave"`
	AnyNames  bool                `json:"anyNames"`            // keep names that not every system takes
	Overrides map[string]Override `json:"overrides,omitempty"` // by Berth.Key
	Drives    []drive.Drive       `json:"-"`
}

// Berth is one line of the plan: this file, to that place, under that name.
type Berth struct {
	Key      string   // the target, as sift.Key tells it
	Source   string   // the file; "" for sequences and for what is not there
	Frames   []string // the files of a sequence
	From     string   // the folder it comes from
	Was      string   // the name it comes with
	Folder   string   // in the crate, below data/, "" for the top
	Name     string   // a pattern's shown name for sequences
	Kind     facts.Kind
	Use      mention.Use
	Size     int64
	Doc      int              // index of the document it is, -1
	Absent   bool             // nothing is copied: it stays, or it is not there
	Why      string           // why it is absent
	Renamed  string           // why its name differs, in words
	Clashed  bool             // the new name is there because of a clash
	Uses     int              // how many mentions name it
	Pattern  resolve.Pattern  // of a sequence, as it will stand in the crate
	origin   resolve.Pattern  // of a sequence, as it stands now
	sizes    map[string]int64 // of frames
	sequence bool
	pinned   bool // a document that cannot be rewritten looks for it there
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

// Left is something that does not travel.
type Left struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Plan is what Seal carries out.
type Plan struct {
	Graph    *trace.Graph
	Berths   []Berth
	Left     []Left
	Problems []mention.Problem
	Clashes  int
	want     map[int]map[int]string // document → mention → name
	edits    map[int][]mention.Edit // by which they do, of each host
}

// Wants is what document i shall say in the crate.
func (p *Plan) Wants(i int) map[int]string {
	d := &p.Graph.Documents[i]
	mine := map[int]string{}
	for m, name := range p.want[d.Host] {
		if d.Holds(m) {
			mine[m] = name
		}
	}
	return mine
}

// Totals counts what is copied.
func (p *Plan) Totals() (files int, bytes int64) {
	for i := range p.Berths {
		if b := &p.Berths[i]; !b.Absent {
			files += b.Files()
			bytes += b.Size
		}
	}
	return files, bytes
}

var folderOf = map[facts.Kind]string{
	facts.Audio: "audio", facts.Video: "video", facts.Image: "images", facts.Sequence: "sequences",
	facts.Geometry: "geometry", facts.Part: "parts", facts.Material: "materials", facts.Drawing: "drawings",
	facts.Document: "documents", facts.Data: "data", facts.Other: "other",
}

// Make plans a crate for all documents of a graph. It fails on nothing: what
// cannot be done is a problem of the plan.
func Make(g *trace.Graph, o Options) *Plan {
	p := &planner{Plan: &Plan{Graph: g, want: map[int]map[int]string{}, edits: map[int][]mention.Edit{}}, o: o, at: map[string]int{}, of: make([]int, len(g.References)), next: map[string]int{}}
	stays := o.Leave.Stays(g)
	for i := range g.Given {
		p.document(i)
	}
	for i := range g.References {
		p.target(i, stays)
	}
	p.pin()
	p.name()
	p.retarget()
	sort.SliceStable(p.Left, func(a, b int) bool { return p.Left[a].Path < p.Left[b].Path })
	return p.Plan
}

type planner struct {
	*Plan
	o    Options
	at   map[string]int // key → berth
	of   []int          // reference → berth, -1
	next map[string]int // name that clashes → number to try next
}

// pin keeps files where documents that cannot be rewritten will look for them:
// at the same place beside the document as now.
func (p *planner) pin() {
	for i := range p.Graph.References {
		r := &p.Graph.References[i]
		host := &p.Graph.Documents[p.Graph.Documents[r.Doc].Host]
		m := &host.File.Doc.Mentions[r.Mention]
		doc, ok := p.at[host.Info.Real]
		if len(m.Pieces) > 0 || p.of[i] < 0 || !ok || p.Berths[p.of[i]].sequence {
			continue
		}
		name := filepath.FromSlash(host.File.Doc.Name(r.Mention))
		file := r.Path
		if file == "" {
			file = r.Expected
		}
		if filepath.IsAbs(name) || filepath.Join(filepath.Dir(host.Path), name) != file {
			continue
		}
		at := path.Join(p.Berths[doc].Folder, filepath.ToSlash(name))
		if b := &p.Berths[p.of[i]]; at != ".." && !strings.HasPrefix(at, "../") && (b.Doc < 0 || b.Doc >= p.Graph.Given) {
			b.Folder, b.Name, b.pinned = strings.TrimSuffix(path.Dir(at), "."), path.Base(at), true
		}
	}
}

func (p *planner) document(i int) {
	d := &p.Graph.Documents[i]
	if _, ok := p.at[d.Info.Real]; ok {
		return
	}
	b := Berth{Key: d.Info.Real, Source: d.Path, Size: d.Info.Size, Doc: i, Use: mention.Used, Kind: facts.KindOfName(d.Path)}
	if b.Kind == facts.Other {
		b.Kind = facts.Document
	}
	b.Folder, b.Name = p.home(d.Path, b.Kind, i < p.Graph.Given)
	p.add(b)
}

func (p *planner) add(b Berth) int {
	if b.Source != "" {
		b.From, b.Was = filepath.Dir(b.Source), filepath.Base(b.Source)
	}
	p.at[b.Key] = len(p.Berths)
	p.Berths = append(p.Berths, b)
	return len(p.Berths) - 1
}

// home is the folder and name a file has before wishes and clashes.
func (p *planner) home(file string, kind facts.Kind, top bool) (dir, name string) {
	name = path.Base(filepath.ToSlash(file))
	if p.o.Layout != AsStands {
		if top {
			return "", name
		}
		return folderOf[kind], name
	}
	at := path.Dir(filepath.ToSlash(file))
	if drive.Within(p.Graph.Root, at) {
		return strings.Trim(strings.TrimPrefix(at, p.Graph.Root), "/"), name
	}
	if d, ok := drive.Find(p.o.Drives, at); ok {
		return path.Join("outside", d.Name, strings.TrimPrefix(at, d.Dir)), name
	}
	return path.Join("outside", strings.ReplaceAll(at, ":", "")), name
}

func (p *planner) target(i int, stays map[string]string) {
	r := &p.Graph.References[i]
	p.of[i] = -1
	switch {
	case r.State == resolve.Inside:
		return
	case r.Write:
		p.Left = append(p.Left, Left{r.Expected, "a write point: nothing of it is read, and the crate's document still names it"})
		return
	case r.Network:
		p.Left = append(p.Left, Left{r.Written, "on the network, not fetched"})
		return
	case r.State == resolve.Unsaved:
		if r.Use == mention.Used {
			p.Left = append(p.Left, Left{p.Graph.Documents[r.Doc].Path, "has a place for a file that was never written (" + r.Owner + ")"})
		}
		return
	}
	key := sift.Key(r)
	if key == "" { // a part of its own package that is not there: no file can complete it
		p.Left = append(p.Left, Left{p.Graph.Documents[r.Doc].Path, fmt.Sprintf("lacks a part of its own, “%s” (%s)", r.Written, r.Owner)})
		return
	}
	k, ok := p.at[key]
	if !ok {
		k = p.add(p.berth(r, key, stays[key]))
	}
	if b := &p.Berths[k]; b.sequence {
		b.frames(r)
	}
	p.Berths[k].Uses++
	p.Berths[k].Use = max(p.Berths[k].Use, r.Use)
	p.of[i] = k
}

func (p *planner) berth(r *trace.Reference, key, stays string) Berth {
	b := Berth{Key: key, Kind: r.Kind, Size: r.Size, Doc: r.Child, Use: r.Use}
	if m := &p.Graph.Documents[r.Doc].File.Doc.Mentions[r.Mention]; m.Sequence != nil {
		b.sequence, b.Doc = true, -1
		pat, ok := mend.PatternOf(r, m.Sequence)
		if !ok {
			pat, _ = resolve.ParsePattern(r.Expected)
		}
		b.Pattern, b.origin = pat, pat
		dir, _ := p.home(filepath.Join(pat.Dir, "x"), facts.Sequence, false)
		if p.o.Layout != AsStands {
			dir = path.Join(dir, path.Base(pat.Dir))
		}
		b.From, b.Was, b.Folder, b.Name = pat.Dir, pat.Shown(), dir, pat.Shown()
	} else {
		file := r.Path
		if file == "" {
			file = r.Expected
		} else {
			b.Source = r.Path
		}
		b.From, b.Was = filepath.Dir(file), filepath.Base(file)
		b.Folder, b.Name = p.home(file, r.Kind, false)
	}
	switch {
	case !r.Carried():
		b.Absent, b.Why = true, absence(r)
	case stays != "":
		b.Absent, b.Why = true, stays
	}
	if b.Absent {
		b.Source = ""
		p.Left = append(p.Left, Left{filepath.Join(b.From, b.Was), b.Why})
	}
	return b
}

func absence(r *trace.Reference) string {
	switch r.State {
	case resolve.Unplugged:
		return "on a drive that is not connected"
	case resolve.Twins:
		return "more than one file could be meant"
	case resolve.Unreadable:
		return "cannot be read: " + r.Why
	}
	return "missing"
}

// name applies wishes and portable names, then solves clashes: the first to
// ask keeps its name, wishes ask first.
func (p *planner) name() {
	order := make([]int, len(p.Berths))
	for i := range p.Berths {
		order[i] = i
		b := &p.Berths[i]
		if w, ok := p.o.Overrides[b.Key]; ok {
			if w.Folder != nil {
				b.Folder = cleanFolder(*w.Folder)
			}
			if w.Name != nil && !b.sequence {
				b.Name = withExtension(*w.Name, b.Was)
				b.Renamed = "your wish"
			}
		}
		if !p.o.AnyNames && !b.pinned {
			p.portable(b)
		}
	}
	sort.SliceStable(order, func(x, y int) bool { return p.rank(order[x]) < p.rank(order[y]) })
	taken := map[string]bool{}   // folded paths of files
	folders := map[string]bool{} // folded paths of folders that hold something
	for _, i := range order {
		b := &p.Berths[i]
		p.settle(b, taken, folders)
		if b.Clashed {
			p.Clashes++
		}
	}
}

// rank puts documents first, then wishes, then what is copied.
func (p *planner) rank(i int) int {
	b := &p.Berths[i]
	_, wish := p.o.Overrides[b.Key]
	switch {
	case b.Doc >= 0 && b.Doc < p.Graph.Given:
		return 0
	case wish:
		return 1
	case b.pinned:
		return 2
	case !b.Absent:
		return 3
	}
	return 4
}

func (p *planner) portable(b *Berth) {
	b.Folder = portableDir(b.Folder)
	if b.sequence {
		head, tail := Portable(b.Pattern.Head+"0"), Portable("0"+b.Pattern.Tail)
		b.Pattern.Head, b.Pattern.Tail = strings.TrimSuffix(head, "0"), strings.TrimPrefix(tail, "0")
		b.Name = b.Pattern.Shown()
	} else {
		b.Name = Portable(b.Name)
	}
	if b.Name != b.Was && b.Renamed == "" {
		b.Renamed = "not every system takes the old name"
	}
}

func (p *planner) settle(b *Berth, taken, folders map[string]bool) {
	free := func(names []string) bool {
		for _, n := range names {
			k := resolve.Fold(n)
			if taken[k] || folders[k] {
				return false
			}
		}
		for dir := b.Folder; dir != "" && dir != "."; dir = path.Dir(dir) {
			if taken[resolve.Fold(dir)] {
				return false // a file stands where this folder would be
			}
		}
		return true
	}
	was, folder := b.Name, b.Folder
	// Thousands of files may share one name: each begins where the last ended.
	key := resolve.Fold(path.Join(folder, was))
	for n := max(2, p.next[key]); !free(b.places()); n++ {
		b.Clashed = true
		p.next[key] = n + 1
		if b.sequence || was == "" {
			b.Folder = fmt.Sprintf("%s-%d", folder, n)
			b.Renamed = "another file of that name is already there"
			continue
		}
		ext := path.Ext(was)
		stem := strings.TrimSuffix(was, ext)
		end := fmt.Sprintf("-%d%s", n, ext)
		for len(stem)+len(end) > maxName {
			stem = strings.ToValidUTF8(stem[:len(stem)-1], "")
		}
		b.Name = stem + end
		b.Renamed = "another file of that name is already there"
	}
	for _, n := range b.places() {
		taken[resolve.Fold(n)] = true
	}
	for dir := b.Folder; dir != "" && dir != "."; dir = path.Dir(dir) {
		folders[resolve.Fold(dir)] = true
	}
	b.Pattern.Dir = b.Folder
}

// places lists the paths below data/ the berth takes.
func (b *Berth) places() []string {
	if !b.sequence {
		return []string{path.Join(b.Folder, b.Name)}
	}
	if len(b.Frames) == 0 {
		return []string{path.Join(b.Folder, b.Name)}
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

// frames adds the files of one mention of a sequence; several mentions may
// name different parts of it.
func (b *Berth) frames(r *trace.Reference) {
	if b.sizes == nil {
		b.sizes, b.Size = map[string]int64{}, 0
	}
	for i, f := range r.Files {
		if _, ok := b.sizes[f]; !ok {
			b.sizes[f] = r.Sizes[i]
			b.Frames = append(b.Frames, f)
			b.Size += r.Sizes[i]
		}
	}
}

// Copy is one file to copy: from a source to a place below data/.
type Copy struct {
	Source string
	To     string
	Size   int64
	Kind   facts.Kind
	Doc    int // rewritten document, -1
}

// Copies lists the files the plan copies, in the order of their places.
func (p *Plan) Copies() []Copy {
	var list []Copy
	for i := range p.Berths {
		b := &p.Berths[i]
		switch {
		case b.Absent:
		case b.sequence:
			places := b.places()
			for k, f := range b.Frames {
				list = append(list, Copy{Source: f, To: places[k], Size: b.sizes[f], Kind: facts.Image, Doc: -1})
			}
		default:
			list = append(list, Copy{Source: b.Source, To: path.Join(b.Folder, b.Name), Size: b.Size, Kind: b.Kind, Doc: b.Doc})
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

// retarget says what every mention of every travelling document shall say: its
// berth, relative to its document. What is missing or stays is aimed at its
// berth too, so that dropping the file there later completes the crate.
func (p *planner) retarget() {
	refs := make([][]int, len(p.Graph.Documents))
	for n := range p.Graph.References {
		host := p.Graph.Documents[p.Graph.References[n].Doc].Host
		refs[host] = append(refs[host], n)
	}
	for i := range p.Graph.Documents {
		d := &p.Graph.Documents[i]
		k, ok := p.at[d.Info.Real]
		if !ok || p.Berths[k].Absent {
			continue
		}
		p.Berths[k].Doc = i
		if d.Host != i {
			continue // named with the document that includes it
		}
		dir := path.Join("/", p.Berths[k].Folder)
		want := map[int]string{}
		for _, n := range refs[i] {
			r := &p.Graph.References[n]
			if p.of[n] < 0 {
				continue
			}
			b, m := &p.Berths[p.of[n]], &d.File.Doc.Mentions[r.Mention]
			old := d.File.Doc.Name(r.Mention)
			if b.sequence {
				pat := b.Pattern
				pat.Dir = path.Join("/", pat.Dir)
				want[r.Mention] = resolve.SayPatternRelative(m, old, dir, pat)
			} else {
				want[r.Mention] = resolve.SayRelative(m.Spelling, old, dir, path.Join("/", b.Folder, b.Name))
			}
		}
		edits, err := mend.Prove(d.File, want)
		if err != nil {
			p.Problems = append(p.Problems, mention.Problem{
				Code: "cannot-say", Path: d.Path, Document: d.Path,
				Message: "cannot name its files in this crate: " + err.Error(),
				Do:      "Give that file another name or folder.",
			})
			continue
		}
		p.want[i], p.edits[i] = want, edits
	}
}

// Document returns document i of the plan's graph and the edits, proved when
// the plan was made, by which it names its files in the crate.
func (p *Plan) Document(i int) (*format.File, []mention.Edit) {
	d := &p.Graph.Documents[i]
	return d.File, d.Edits(p.edits[d.Host])
}
