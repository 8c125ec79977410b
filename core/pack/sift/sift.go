// Package sift decides what travels and what stays behind, and weighs both.
// Leaving out is not deleting: nothing here touches a file.
package sift

import (
	"cmp"
	"path"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/mention"
)

// Choice is what stays behind.
type Choice struct {
	Dormant bool         `json:"dormant"`             // what is switched off
	Listed  bool         `json:"listed"`              // what is declared and never placed
	Library bool         `json:"library"`             // what belongs to a parts or sample library
	Store   bool         `json:"store"`               // what belongs to a managed store
	Rebuilt bool         `json:"rebuildable"`         // what a program makes again
	Twice   bool         `json:"duplicates"`          // of one content under several paths all but one: documents name that
	Kinds   []facts.Kind `json:"kinds,omitempty"`     // whole kinds
	Docs    []string     `json:"documents,omitempty"` // nested documents, by their paths
	Drop    []string     `json:"drop,omitempty"`      // globs of paths below the project folder, ** for any folders
	Keep    []string     `json:"keep,omitempty"`      // the same: always travels
}

// Why is why a file stays.
type Why string

// The reasons, in the words of the command line's contract.
const (
	IsDormant  Why = "dormant"
	IsListed   Why = "listed"
	IsRebuilt  Why = "rebuildable"
	InLibrary  Why = "library"
	InStore    Why = "store"
	OfKind     Why = "kind"
	Chosen     Why = "chosen" // by hand or by a glob
	Freed      Why = "freed"  // only what stays needed it
	IsDocument Why = "document"
	IsTwice    Why = "duplicate" // another file of the same content travels for it
)

// Selection is what stays, of all that could travel.
type Selection struct {
	Stays map[graph.FileID]Why
	// Passes tells how many files fell away in each pass; the last is 0.
	Passes []int
	// As are duplicates that stay, and the file that travels for each.
	As map[graph.FileID]graph.FileID
}

// Weighable tells files that could travel: neither the roots, which always do, nor what
// no reference names.
func Weighable(g *graph.Graph, id graph.FileID) bool {
	f := &g.Files[id]
	return len(f.Refs) > 0 && (f.Doc == graph.None || !g.IsRoot(f.Doc))
}

// Of is what a selection is made of beside the choice.
type Of struct {
	Graph  *graph.Graph
	Judged *origin.Judged
	ByHand map[graph.FileID]decide.ByHand
	Same   [][]graph.FileID // files of one content, as far as they are known
}

// Decide marks what travels, from the roots along the references of documents that
// travel, and leaves what the choice or a person leaves and what no mark reaches
// (Freed). What a person or a glob keeps is marked whatever names it, and what it names
// with it. Of files of one content the first that travels does for all where the choice
// says so.
func Decide(of Of, c Choice) Selection {
	m := newMarker(of, c)
	m.mark()
	s := Selection{Passes: m.passes(), Stays: m.stays, As: map[graph.FileID]graph.FileID{}}
	for i := range of.Graph.Files {
		id := graph.FileID(i)
		if _, left := s.Stays[id]; !left && !m.marked[id] && Weighable(of.Graph, id) {
			s.Stays[id] = Freed
		}
	}
	if c.Twice {
		for _, group := range of.Same {
			s.once(of.Graph, group, of.ByHand)
		}
	}
	return s
}

// Leaves tells whether a choice names a file as one to leave, by its path.
func (c Choice) Leaves(g *graph.Graph, id graph.FileID) bool {
	f := &g.Files[id]
	return (matches(c.Drop, g, f) || slices.Contains(c.Docs, f.Path)) && !c.kept(g, f)
}

// once leaves all of a content but the first file that travels, the project's own before
// others.
func (s *Selection) once(g *graph.Graph, group []graph.FileID, byHand map[graph.FileID]decide.ByHand) {
	var travel []graph.FileID
	for _, id := range group {
		if _, stays := s.Stays[id]; !stays && Weighable(g, id) && g.Files[id].Doc == graph.None {
			travel = append(travel, id)
		}
	}
	slices.SortStableFunc(travel, func(a, b graph.FileID) int {
		x, y := &g.Files[a], &g.Files[b]
		return cmp.Or(cmp.Compare(rankOf(x.State == graph.Here), rankOf(y.State == graph.Here)), cmp.Compare(len(x.Path), len(y.Path)), strings.Compare(x.Path, y.Path))
	})
	for _, id := range travel[min(1, len(travel)):] {
		if !byHand[id].Travels {
			s.Stays[id], s.As[id] = IsTwice, travel[0]
		}
	}
}

func rankOf(first bool) int {
	if first {
		return 0
	}
	return 1
}

// Kept is a document that travels and so keeps files that documents which stay name
// too.
type Kept struct {
	Doc   graph.DocID
	Kind  facts.Kind
	Files int
}

// KeptBy tells what is still needed of what a selection left, the most first.
func KeptBy(g *graph.Graph, s Selection) []Kept {
	count := map[Kept]int{}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if _, stays := s.Stays[id]; stays || !Weighable(g, id) {
			continue
		}
		left, keeper := false, graph.DocID(graph.None)
		for _, r := range f.Refs {
			d := g.References[r].Doc
			if _, stays := s.Stays[g.Documents[d].File]; stays {
				left = true
			} else if keeper == graph.None {
				keeper = d
			}
		}
		if left && keeper != graph.None {
			count[Kept{keeper, f.Kind, 0}]++
		}
	}
	list := make([]Kept, 0, len(count))
	for k, n := range count {
		k.Files = n
		list = append(list, k)
	}
	slices.SortFunc(list, func(a, b Kept) int {
		return cmp.Or(cmp.Compare(b.Files, a.Files), cmp.Compare(a.Doc, b.Doc), cmp.Compare(a.Kind, b.Kind))
	})
	return list
}

// isDormant tells files that only documents name which are dormant themselves: what
// those list goes with them.
func isDormant(g *graph.Graph, f *graph.File) bool {
	for _, id := range f.Refs {
		if g.Documents[g.References[id].Doc].Use != mention.Dormant {
			return false
		}
	}
	return len(f.Refs) > 0
}

func (c Choice) why(g *graph.Graph, f *graph.File, is origin.Judgement, h decide.ByHand) Why {
	switch {
	case h.Travels, c.kept(g, f):
		return ""
	case h.Stays, matches(c.Drop, g, f):
		return Chosen
	case c.Dormant && (f.Use == mention.Dormant || f.Use == mention.Listed && isDormant(g, f)):
		return IsDormant
	case c.Listed && f.Use == mention.Listed:
		return IsListed
	case c.Rebuilt && is.Class == graph.Rebuildable:
		return IsRebuilt
	case c.Library && is.Origin == graph.OfLibrary:
		return InLibrary
	case c.Store && is.Origin == graph.OfStore:
		return InStore
	case slices.Contains(c.Kinds, f.Kind):
		return OfKind
	}
	return ""
}

func (c Choice) kept(g *graph.Graph, f *graph.File) bool { return matches(c.Keep, g, f) }

// matches holds a file against globs: a path below the project's folder, else
// the whole one, with ** for any folders; a glob without a slash is of the name.
func matches(globs []string, g *graph.Graph, f *graph.File) bool {
	if len(globs) == 0 {
		return false
	}
	p := filepath.ToSlash(f.Path)
	if rel, err := filepath.Rel(g.Root, f.Path); err == nil && !strings.HasPrefix(rel, "..") {
		p = filepath.ToSlash(rel)
	}
	for _, glob := range globs {
		if !strings.Contains(glob, "/") && Match(glob, path.Base(p)) || Match(glob, p) {
			return true
		}
	}
	return false
}

// Match is path.Match with ** for any number of folders, none too.
func Match(glob, p string) bool {
	return match(strings.Split(glob, "/"), strings.Split(p, "/"))
}

func match(glob, p []string) bool {
	for len(glob) > 0 {
		if glob[0] == "**" {
			for n := 0; n <= len(p); n++ {
				if match(glob[1:], p[n:]) {
					return true
				}
			}
			return false
		}
		if len(p) == 0 {
			return false
		}
		if ok, err := path.Match(glob[0], p[0]); err != nil || !ok {
			return false
		}
		glob, p = glob[1:], p[1:]
	}
	return len(p) == 0
}

// Line is one sum of the weighing.
type Line struct {
	Kind    facts.Kind   `json:"kind"`
	Use     mention.Use  `json:"use"`
	Class   graph.Class  `json:"class"`
	Origin  graph.Origin `json:"origin"`
	Files   int          `json:"files"`
	Bytes   int64        `json:"bytes"`
	Travels bool         `json:"travels"`
}

// Files is how many files one of a graph is: the frames of a sequence.
func Files(f *graph.File) int {
	if f.Frames != nil {
		return len(f.Frames.Files)
	}
	return 1
}

// Weigh sums what was found by kind, use, class, origin and whether it travels,
// largest first.
func Weigh(g *graph.Graph, judged *origin.Judged, s Selection) []Line {
	sums := map[Line]*Line{}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if !f.Carried || !Weighable(g, id) {
			continue
		}
		_, stays := s.Stays[id]
		is := judged.File(g, id)
		k := Line{Kind: f.Kind, Use: f.Use, Class: is.Class, Origin: is.Origin, Travels: !stays}
		if sums[k] == nil {
			l := k
			sums[k] = &l
		}
		sums[k].Files += Files(f)
		sums[k].Bytes += f.Size
	}
	list := make([]Line, 0, len(sums))
	for _, l := range sums {
		list = append(list, *l)
	}
	sort.Slice(list, func(a, b int) bool {
		x, y := &list[a], &list[b]
		if x.Bytes != y.Bytes {
			return x.Bytes > y.Bytes
		}
		return x.key() < y.key()
	})
	return list
}

func (l *Line) key() string {
	return string(l.Kind) + l.Use.String() + string(l.Class) + string(l.Origin)
}

// CanStay is how many bytes of what was found are not used.
func CanStay(g *graph.Graph) (n int64) {
	for i := range g.Files {
		if f := &g.Files[i]; f.Carried && f.Use != mention.Used && Weighable(g, graph.FileID(i)) {
			n += f.Size
		}
	}
	return n
}

// Given is what a lean crate gives up.
type Given string

// What may be given up.
const (
	DormantTakes     Given = "dormant-takes"
	ListedFiles      Given = "listed-files"
	EarlierDocuments Given = "earlier-documents"
	GivenCompanions  Given = "companions"
	GivenDrawings    Given = "drawings"
	GivenRenders     Given = "renders"
	GivenStrays      Given = "strays"
	UnusedParts      Given = "unused-parts" // of sounds that are trimmed
	Undoing          Given = "undo"
)

// GivenUp is one of them with its figures; of undoing there are none.
type GivenUp struct {
	What  Given `json:"what"`
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

var ofExtra = map[Along]Given{Companions: GivenCompanions, Drawings: GivenDrawings, Editions: EarlierDocuments, Renders: GivenRenders, Strays: GivenStrays}

// GivesUp tells what a crate of a selection leaves behind for good. l are the files that
// nothing names, nil where nobody looked for them; chosen those of them that travel.
func GivesUp(g *graph.Graph, s Selection, l *Loose, chosen []Extra) (list []GivenUp) {
	sums := map[Given]*GivenUp{}
	add := func(what Given, files int, bytes int64) {
		if sums[what] == nil {
			sums[what] = &GivenUp{What: what}
		}
		sums[what].Files += files
		sums[what].Bytes += bytes
	}
	for id, why := range s.Stays {
		f := &g.Files[id]
		switch {
		case !f.Carried || why == IsTwice:
		case f.Use == mention.Dormant:
			add(DormantTakes, Files(f), f.Size)
		case f.Use == mention.Listed:
			add(ListedFiles, Files(f), f.Size)
		}
	}
	if l == nil {
		add(EarlierDocuments, 0, 0)
		add(GivenStrays, 0, 0)
	} else {
		taken := map[string]bool{}
		for _, e := range chosen {
			taken[e.Path] = true
		}
		for _, e := range l.Extras {
			if !taken[e.Path] {
				add(ofExtra[e.What], 1, e.Size)
			}
		}
	}
	add(Undoing, 0, 0)
	for _, what := range []Given{DormantTakes, ListedFiles, EarlierDocuments, GivenCompanions, GivenDrawings, GivenRenders, GivenStrays, Undoing} {
		if sums[what] != nil {
			list = append(list, *sums[what])
		}
	}
	return list
}

// ForArchive tells whether a crate of a selection leaves nothing out that it could take:
// nothing is given up but undoing.
func ForArchive(given []GivenUp, s Selection) bool {
	for _, why := range s.Stays {
		if why != IsTwice && why != IsRebuilt {
			return false
		}
	}
	return len(given) == 1 && given[0].What == Undoing
}

// Groups are the files of each content that a graph holds more than once: those that
// were found to be duplicates, and hard links to one file.
func Groups(g *graph.Graph, dups []Duplicate) [][]graph.FileID {
	at := map[string]graph.FileID{}
	links := map[drive.Node][]graph.FileID{}
	for i := range g.Files {
		f := &g.Files[i]
		at[f.Path] = graph.FileID(i)
		if f.Carried && f.Frames == nil && f.Stamp.Node.Ino != 0 {
			node := drive.Node{Dev: f.Stamp.Node.Dev, Ino: f.Stamp.Node.Ino}
			links[node] = append(links[node], graph.FileID(i))
		}
	}
	var list [][]graph.FileID
	for _, d := range dups {
		var group []graph.FileID
		for _, p := range d.Paths {
			if id, ok := at[p]; ok {
				node := drive.Node{Dev: g.Files[id].Stamp.Node.Dev, Ino: g.Files[id].Stamp.Node.Ino}
				group = append(append(group, id), slices.DeleteFunc(links[node], func(o graph.FileID) bool { return o == id })...)
				delete(links, node)
			}
		}
		if len(group) > 1 {
			list = append(list, group)
		}
	}
	for _, group := range links {
		if len(group) > 1 {
			list = append(list, group)
		}
	}
	slices.SortFunc(list, func(a, b []graph.FileID) int { return cmp.Compare(a[0], b[0]) })
	return list
}

// Readable tells whether a glob can be matched at all.
func Readable(glob string) bool {
	for _, part := range strings.Split(glob, "/") {
		if _, err := path.Match(part, ""); err != nil {
			return false
		}
	}
	return glob != ""
}
