package sift

import (
	"cmp"
	"context"
	"io"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
)

// Duplicate is one content under several paths. Hard links to one file are one
// file.
type Duplicate struct {
	SHA256 string   `json:"sha256"`
	Bytes  int64    `json:"bytes"`
	Paths  []string `json:"paths"`
}

// ends is how much of both ends of a file is read before all of it, in bytes.
const ends = 64 << 10

// endsOf is a digest of both ends of a file.
func endsOf(reach drive.Reach, p string, size int64) (uint64, error) {
	f, err := reach.Open(p)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	b := make([]byte, 2*ends)
	if _, err := f.ReadAt(b[:ends], 0); err != nil && err != io.EOF {
		return 0, err
	}
	if _, err := f.ReadAt(b[ends:], max(0, size-ends)); err != nil && err != io.EOF {
		return 0, err
	}
	return xxh3.Hash(b), nil
}

// Duplicates are the contents a graph holds more than once, largest first. Only
// files that share their size with another are read: both ends of large ones, and
// all of those that share these too.
func Duplicates(ctx context.Context, g *graph.Graph, reach drive.Reach, hash func(context.Context, string) (string, error)) ([]Duplicate, error) {
	bySize := map[int64][]*graph.File{}
	nodes := map[drive.Node]bool{}
	for i := range g.Files {
		f := &g.Files[i]
		if !f.State.Found() || f.Frames != nil || f.Size == 0 {
			continue
		}
		if node := (drive.Node{Dev: f.Stamp.Node.Dev, Ino: f.Stamp.Node.Ino}); node.Ino != 0 {
			if nodes[node] {
				continue
			}
			nodes[node] = true
		}
		bySize[f.Size] = append(bySize[f.Size], f)
	}
	var list []Duplicate
	for size, files := range bySize {
		if len(files) < 2 {
			continue
		}
		same := map[string][]string{}
		if size > 2*ends {
			files = alike(reach, files)
		}
		for _, f := range files {
			sum, err := hash(ctx, f.Path)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err == nil { // what cannot be read now is no proven duplicate
				same[sum] = append(same[sum], f.Path)
			}
		}
		for sum, paths := range same {
			if len(paths) > 1 {
				slices.Sort(paths)
				list = append(list, Duplicate{sum, size, paths})
			}
		}
	}
	slices.SortFunc(list, func(a, b Duplicate) int {
		return cmp.Or(cmp.Compare(b.Bytes, a.Bytes), strings.Compare(a.Paths[0], b.Paths[0]))
	})
	return list, nil
}

// alike are the files whose ends are those of another.
func alike(reach drive.Reach, files []*graph.File) (list []*graph.File) {
	by := map[uint64][]*graph.File{}
	for _, f := range files {
		if sum, err := endsOf(reach, f.Path, f.Size); err == nil { // what cannot be read now is no proven duplicate
			by[sum] = append(by[sum], f)
		}
	}
	for _, f := range by {
		if len(f) > 1 {
			list = append(list, f...)
		}
	}
	return list
}

// Namesake is one name of several files in several folders.
type Namesake struct {
	Name  string   `json:"name"`
	Paths []string `json:"paths"`
}

// Namesakes are the names that clash when everything lands in one folder: the
// same name, but for letter case and Unicode form, of files that are no
// duplicates of each other.
func Namesakes(g *graph.Graph, dups []Duplicate) []Namesake {
	content := map[string]string{}
	for _, d := range dups {
		for _, p := range d.Paths {
			content[p] = d.SHA256
		}
	}
	byName := map[string][]string{}
	for i := range g.Files {
		if f := &g.Files[i]; f.State.Found() && f.Frames == nil {
			key := names.Fold(filepath.Base(f.Path))
			byName[key] = append(byName[key], f.Path)
		}
	}
	var list []Namesake
	for _, paths := range byName {
		kinds := map[string]bool{}
		for _, p := range paths {
			if c := content[p]; c != "" {
				kinds[c] = true
			} else {
				kinds[p] = true
			}
		}
		if len(kinds) > 1 {
			slices.Sort(paths)
			list = append(list, Namesake{filepath.Base(paths[0]), paths})
		}
	}
	slices.SortFunc(list, func(a, b Namesake) int { return strings.Compare(a.Paths[0], b.Paths[0]) })
	return list
}

// Stray is a file in the project's folder that nothing names.
type Stray struct {
	Path     string    `json:"path"`
	Bytes    int64     `json:"bytes"`
	Modified time.Time `json:"modified"`
	Newer    bool      `json:"newer,omitempty"` // than the documents: what was made last, perhaps before a crash
}

// Alike are how many files share their size with another, and their bytes: what looking
// for duplicates may have to read.
func Alike(g *graph.Graph) (files int, bytes int64) {
	count := map[int64]int{}
	for i := range g.Files {
		if f := &g.Files[i]; f.State.Found() && f.Frames == nil && f.Size > 0 {
			count[f.Size]++
		}
	}
	for size, n := range count {
		if n > 1 {
			files, bytes = files+n, bytes+int64(n)*size
		}
	}
	return files, bytes
}
