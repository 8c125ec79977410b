// Package sift decides what travels and what stays behind, and weighs both.
// Leaving out is not deleting: nothing here touches a file.
package sift

import (
	"path"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/decide"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/mention"
)

// Choice is what stays behind.
type Choice struct {
	Dormant bool         `json:"dormant"`         // what is switched off
	Listed  bool         `json:"listed"`          // what is declared and never placed
	Library bool         `json:"library"`         // what belongs to a parts or sample library
	Store   bool         `json:"store"`           // what belongs to a managed store
	Rebuilt bool         `json:"rebuildable"`     // what a program makes again
	Kinds   []facts.Kind `json:"kinds,omitempty"` // whole kinds
	Drop    []string     `json:"drop,omitempty"`  // globs of paths below the project folder, ** for any folders
	Keep    []string     `json:"keep,omitempty"`  // the same: always travels
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
)

// Selection is what stays, of all that could travel.
type Selection struct {
	Stays map[graph.FileID]Why
	// Passes tells how many files fell away in each pass; the last is 0.
	Passes []int
}

// Weighable tells files that could travel: neither the documents that were
// asked for, which always do, nor what no reference needs.
func Weighable(g *graph.Graph, id graph.FileID) bool {
	f := &g.Files[id]
	return len(f.Refs) > 0 && (f.Doc == graph.None || int(f.Doc) >= g.Given)
}

// Decide applies a choice and what was decided by hand. What only things that
// stay need stays too, to the end.
func Decide(g *graph.Graph, c Choice, byHand map[graph.FileID]decide.ByHand) Selection {
	s := Selection{Stays: map[graph.FileID]Why{}}
	for i := range g.Files {
		id := graph.FileID(i)
		if !Weighable(g, id) {
			continue
		}
		if why := c.why(g, &g.Files[i], byHand[id]); why != "" {
			s.Stays[id] = why
		}
	}
	s.Passes = append(s.Passes, len(s.Stays))
	for s.Passes[len(s.Passes)-1] > 0 {
		n := 0
		for i := range g.Files {
			id := graph.FileID(i)
			if _, stays := s.Stays[id]; stays || !Weighable(g, id) || byHand[id].Travels || c.kept(g, &g.Files[i]) || !s.freed(g, &g.Files[i]) {
				continue
			}
			s.Stays[id] = Freed
			n++
		}
		s.Passes = append(s.Passes, n)
	}
	return s
}

// asleep tells files that only documents name which are dormant themselves: what
// those list goes with them.
func asleep(g *graph.Graph, f *graph.File) bool {
	for _, id := range f.Refs {
		if g.Documents[g.References[id].Doc].Use != mention.Dormant {
			return false
		}
	}
	return len(f.Refs) > 0
}

func (c Choice) why(g *graph.Graph, f *graph.File, h decide.ByHand) Why {
	switch {
	case h.Travels, c.kept(g, f):
		return ""
	case h.Stays, matches(c.Drop, g, f):
		return Chosen
	case c.Dormant && (f.Use == mention.Dormant || f.Use == mention.Listed && asleep(g, f)):
		return IsDormant
	case c.Listed && f.Use == mention.Listed:
		return IsListed
	case c.Rebuilt && f.Class == graph.Rebuildable:
		return IsRebuilt
	case c.Library && f.Origin == graph.OfLibrary:
		return InLibrary
	case c.Store && f.Origin == graph.OfStore:
		return InStore
	case slices.Contains(c.Kinds, f.Kind):
		return OfKind
	}
	return ""
}

func (c Choice) kept(g *graph.Graph, f *graph.File) bool { return matches(c.Keep, g, f) }

// freed tells files that only documents which stay name.
func (s *Selection) freed(g *graph.Graph, f *graph.File) bool {
	for _, r := range f.Refs {
		if _, stays := s.Stays[g.Documents[g.References[r].Doc].File]; !stays {
			return false
		}
	}
	return true
}

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
func Weigh(g *graph.Graph, s Selection) []Line {
	sums := map[Line]*Line{}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if !f.Carried || !Weighable(g, id) {
			continue
		}
		_, stays := s.Stays[id]
		k := Line{Kind: f.Kind, Use: f.Use, Class: f.Class, Origin: f.Origin, Travels: !stays}
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

// What may be given up. Strays and undo of decisions never travel today.
const (
	DormantTakes     Given = "dormant-takes"
	ListedFiles      Given = "listed-files"
	EarlierDocuments Given = "earlier-documents"
	Strays           Given = "strays"
	Undoing          Given = "undo"
)

// GivesUp tells what a crate of a selection leaves behind for good.
func GivesUp(g *graph.Graph, s Selection) (list []Given) {
	met := map[Given]bool{}
	for id := range s.Stays {
		switch g.Files[id].Use {
		case mention.Dormant:
			met[DormantTakes] = true
		case mention.Listed:
			met[ListedFiles] = true
		}
	}
	for _, x := range []Given{DormantTakes, ListedFiles} {
		if met[x] {
			list = append(list, x)
		}
	}
	return append(list, EarlierDocuments, Strays, Undoing)
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
