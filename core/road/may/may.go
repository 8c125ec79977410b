// Package may tells everything that a document may lead to: not only the file that was
// found, but every candidate of an ambiguous name, the path as it is written and the one
// behind its links, every frame of a sequence, both ends of a write point. What is
// called safe, or named by nothing, rests on this and on nothing else.
package may

import (
	"io/fs"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// Role is what a document does with a file.
type Role string

// The roles.
const (
	Read  Role = "read"
	Write Role = "write"
)

// Name is a path that a document may lead to: a file, or a folder that it writes into.
type Name struct {
	Doc   graph.DocID
	Path  string // absolute
	Owner string
	Use   mention.Use
	Role  Role
	// OnDisk tells what a document says on disk, where a repair that is not written leads
	// elsewhere.
	OnDisk bool
}

// Names tells each path once for each document, by the first place that leads to it;
// write points each by themselves. Reach undoes links.
func Names(g *graph.Graph, reach drive.Reach) []Name {
	n := &namer{g: g, reach: reach, met: map[met]bool{}, real: map[string]string{}, files: map[seen]bool{}}
	for i := range g.References {
		n.reference(&g.References[i])
	}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		for _, p := range n.ends(w.Path) {
			n.list = append(n.list, Name{Doc: w.Doc, Path: p, Owner: w.Owner, Use: w.Use, Role: Write})
		}
	}
	return n.list
}

type met struct {
	doc  graph.DocID
	path string
}

// seen is a file whose own paths a document was told of already.
type seen struct {
	doc  graph.DocID
	file graph.FileID
}

type namer struct {
	g     *graph.Graph
	reach drive.Reach
	met   map[met]bool
	files map[seen]bool
	real  map[string]string // folder → with all links undone
	list  []Name
}

func (n *namer) reference(r *graph.Reference) {
	elsewhere := r.Repaired
	add := func(p string) {
		if p == "" || n.met[met{r.Doc, p}] {
			return
		}
		n.met[met{r.Doc, p}] = true
		n.list = append(n.list, Name{r.Doc, p, r.Owner, r.Use, Read, elsewhere})
	}
	both := func(p string) {
		if p == "" || n.met[met{r.Doc, p}] {
			return
		}
		for _, end := range n.ends(p) {
			add(end)
		}
	}
	switch {
	case r.State == graph.Inside, r.State == graph.Unsaved, r.Network():
		return
	case r.IsSequence():
		for _, p := range r.Files {
			both(p)
		}
		if pat, ok := graph.ParsePattern(r.Expected); ok && len(r.Gaps) > 0 {
			both(filepath.Join(pat.Dir, pat.Shown())) // what it lacks may come to stand there
		}
		return
	}
	if r.Path == r.Expected && r.Info.Real != "" { // the trace undid its links
		add(r.Path)
		add(n.behind(r.Path))
		add(r.Info.Real)
	} else {
		both(r.Expected)
	}
	for _, p := range r.Also {
		both(p)
	}
	elsewhere = false
	for _, p := range r.Files { // of an ambiguous name, all it may be
		both(p)
	}
	add(r.Path)
	if r.File == graph.None || n.files[seen{r.Doc, r.File}] {
		return
	}
	n.files[seen{r.Doc, r.File}] = true
	f := &n.g.Files[r.File]
	add(f.Path)
	add(f.Real)
	for _, p := range f.Also {
		add(p)
	}
}

// ends are a path and what it is with all links undone: of the file itself, where it is
// there, else of the folder it would lie in.
func (n *namer) ends(p string) []string {
	list := []string{p}
	if at := n.behind(p); at != p {
		list = append(list, at)
	}
	if info, err := n.reach.Lstat(p); err == nil && info.Mode&fs.ModeSymlink != 0 {
		if info, err := n.reach.Stat(p); err == nil && info.Real != "" {
			list = append(list, info.Real)
		}
	}
	return list
}

// behind is a path with all links of its folder undone.
func (n *namer) behind(p string) string {
	dir, base := filepath.Split(p)
	dir = filepath.Clean(dir)
	real, known := n.real[dir]
	if !known {
		real = n.undone(dir)
		n.real[dir] = real
	}
	return filepath.Join(real, base)
}

// undone is a folder with all links undone, as far down as it is there.
func (n *namer) undone(dir string) string {
	if info, err := n.reach.Stat(dir); err == nil && info.Real != "" {
		return info.Real
	}
	up, base := filepath.Split(dir)
	if up = filepath.Clean(up); up == dir {
		return dir
	}
	return filepath.Join(n.undone(up), base)
}
