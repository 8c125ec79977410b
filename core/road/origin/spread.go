package origin

import (
	"cmp"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
)

// Node is a folder of the spread, with those in it that are large enough to be
// drawn.
type Node struct {
	Name  string    `json:"name"` // below the node above: several folders that hold nothing else are one
	Path  string    `json:"path"` // absolute
	Kind  PlaceKind `json:"kind"` // whose all that lies there is; "" where it differs
	Files int       `json:"files"`
	Bytes int64     `json:"bytes"`
	Nodes []Node    `json:"nodes"`
	// More are folders too small to be drawn, as one node: how many, with their
	// files and bytes.
	More int `json:"more"`
}

// Thread is how much of a place a document uses.
type Thread struct {
	Document graph.DocID `json:"document"`
	Place    int         `json:"place"` // among the places of the judgement
	Files    int         `json:"files"`
	Bytes    int64       `json:"bytes"`
}

// maxDeep is how many folders within one another are drawn, smallest the share of
// a drive's bytes below which folders are gathered.
const (
	maxDeep  = 5
	smallest = 0.006
)

// Tree is the spread as folders within one another, drive by drive, the first that
// of the project's own folder. last are the bytes that files which are not there had
// when they were last seen.
func Tree(g *graph.Graph, judged *Judged, drives []drive.Drive, last map[graph.FileID]int64) []Node {
	roots := map[string]*branch{}
	for dir, s := range sumsOf(g, judged, drives, last) {
		d, ok := drive.Find(drives, dir)
		top, name := d.Dir, d.Name
		if !ok {
			top, name = "/", "No drive"
		}
		if roots[top] == nil {
			roots[top] = newBranch(name, top)
		}
		roots[top].grow(strings.TrimPrefix(dir, top), s)
	}
	var list []Node
	for _, r := range roots {
		list = append(list, r.prune(r.Bytes, 0))
	}
	own, _ := drive.Find(drives, g.Root)
	slices.SortFunc(list, func(x, y Node) int {
		if a, b := x.Path == own.Dir, y.Path == own.Dir; a != b {
			if a {
				return -1
			}
			return 1
		}
		return cmp.Or(cmp.Compare(y.Bytes, x.Bytes), strings.Compare(x.Name, y.Name))
	})
	return list
}

// weight is what lies in one folder.
type weight struct {
	kind  PlaceKind
	files int
	bytes int64
}

// sumsOf weighs the folders that a project's material lies in.
func sumsOf(g *graph.Graph, judged *Judged, drives []drive.Drive, last map[graph.FileID]int64) map[string]*weight {
	j := &judge{Options: Options{Drives: drives}, g: g, files: judged.Files}
	byDir := map[string]*weight{}
	once := bytesOnce{}
	for i := range g.Files {
		f := &g.Files[i]
		if len(f.Refs) == 0 {
			continue // the document that was asked for
		}
		_, kind, ok := j.spot(graph.FileID(i))
		if !ok || kind == MissingPlace {
			continue
		}
		dir := folderOf(f)
		s := byDir[dir]
		if s == nil {
			s = &weight{kind: kind}
			byDir[dir] = s
		}
		files, bytes := once.counted(f, last[graph.FileID(i)])
		s.files, s.bytes = s.files+files, s.bytes+bytes
	}
	return byDir
}

// branch is a folder of the tree while it grows.
type branch struct {
	Node
	below map[string]*branch
	own   *weight // of files that lie in it
}

func newBranch(name, path string) *branch {
	return &branch{Node: Node{Name: name, Path: path}, below: map[string]*branch{}}
}

// grow adds what lies in a folder below b.
func (b *branch) grow(rel string, s *weight) {
	b.Files, b.Bytes = b.Files+s.files, b.Bytes+s.bytes
	for _, part := range strings.Split(strings.Trim(rel, "/"), "/") {
		if part == "" {
			continue
		}
		next := b.below[part]
		if next == nil {
			next = newBranch(part, filepath.Join(b.Path, part))
			b.below[part] = next
		}
		b = next
		b.Files, b.Bytes = b.Files+s.files, b.Bytes+s.bytes
	}
	b.own = s
}

// prune is the branch as it is drawn, beside a drive's bytes.
func (b *branch) prune(all int64, depth int) Node {
	for b.own == nil && len(b.below) == 1 && depth > 0 { // folders that hold nothing else are one
		for _, only := range b.below {
			only.Name = b.Name + "/" + only.Name
			b = only
		}
	}
	n := b.Node
	kinds := map[PlaceKind]bool{}
	if b.own != nil {
		kinds[b.own.kind] = true
	}
	var more Node
	list := make([]*branch, 0, len(b.below))
	for _, c := range b.below {
		list = append(list, c)
	}
	slices.SortFunc(list, func(x, y *branch) int { return cmp.Or(cmp.Compare(y.Bytes, x.Bytes), strings.Compare(x.Name, y.Name)) })
	for _, c := range list {
		node := c.prune(all, depth+1)
		kinds[node.Kind] = true
		// What is not the project's own is drawn however small: there the danger lies.
		if depth >= maxDeep || float64(node.Bytes) < smallest*float64(all) && (node.Kind == OwnPlace || node.Kind == n.Kind) {
			more.More++
			more.Files, more.Bytes = more.Files+node.Files, more.Bytes+node.Bytes
			continue
		}
		n.Nodes = append(n.Nodes, node)
	}
	if more.More > 0 {
		more.Path = n.Path
		n.Nodes = append(n.Nodes, more)
	}
	if b.own != nil && len(n.Nodes) > 0 {
		n.Nodes = append(n.Nodes, Node{Path: n.Path, Kind: b.own.kind, Files: b.own.files, Bytes: b.own.bytes})
	}
	if len(kinds) == 1 {
		for k := range kinds {
			n.Kind = k
		}
	}
	return n
}

// Threads are how much each document uses of each place, a file counted once for a
// document however often it names it.
func Threads(g *graph.Graph, judged *Judged, drives []drive.Drive, last map[graph.FileID]int64) []Thread {
	j := &judge{Options: Options{Drives: drives}, g: g, files: judged.Files}
	at := map[string]int{}
	for i, p := range judged.Places {
		at[string(p.Kind)+"\x00"+p.Path] = i
	}
	type end struct {
		doc   graph.DocID
		place int
	}
	type once struct {
		doc  graph.DocID
		file graph.FileID
	}
	met := map[once]bool{}
	sums := map[end]*Thread{}
	counted := map[graph.DocID]bytesOnce{}
	for i := range g.References {
		r := &g.References[i]
		if r.File == graph.None || met[once{r.Doc, r.File}] {
			continue
		}
		met[once{r.Doc, r.File}] = true
		f := &g.Files[r.File]
		path, kind, ok := j.spot(r.File)
		place, known := at[string(kind)+"\x00"+path]
		if !ok || !known {
			continue
		}
		k := end{r.Doc, place}
		if sums[k] == nil {
			sums[k] = &Thread{Document: r.Doc, Place: place}
		}
		if counted[r.Doc] == nil {
			counted[r.Doc] = bytesOnce{}
		}
		files, bytes := counted[r.Doc].counted(f, last[r.File])
		sums[k].Files, sums[k].Bytes = sums[k].Files+files, sums[k].Bytes+bytes
	}
	list := make([]Thread, 0, len(sums))
	for _, t := range sums {
		list = append(list, *t)
	}
	slices.SortFunc(list, func(a, b Thread) int {
		return cmp.Or(cmp.Compare(a.Document, b.Document), cmp.Compare(a.Place, b.Place))
	})
	return list
}
