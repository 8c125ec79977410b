package sift

import (
	"cmp"
	"context"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/graph"
	"boundcrate/core/index"
	"boundcrate/core/names"
)

// Duplicate is one content under several paths. Hard links to one file are one
// file.
type Duplicate struct {
	SHA256 string   `json:"sha256"`
	Bytes  int64    `json:"bytes"`
	Paths  []string `json:"paths"`
}

// Duplicates are the contents a graph holds more than once, largest first. Only
// files that share their size with another are read.
func Duplicates(ctx context.Context, g *graph.Graph, hash func(context.Context, string) (string, error)) ([]Duplicate, error) {
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
}

// StraysOf are the files below the project's folder that no reference leads to,
// the newest first. Files whose names begin with a dot are none, nor are editions.
func StraysOf(g *graph.Graph, x index.Index) ([]Stray, error) {
	named := map[string]bool{}
	for _, p := range g.Leaves() {
		named[p] = true
	}
	for i := range g.Files {
		named[g.Files[i].Real] = true
	}
	var list []Stray
	err := x.Below(g.Root, func(e index.Entry) error {
		if !named[e.Path] && !strings.HasPrefix(filepath.Base(e.Path), ".") && !edition.Is(e.Path) {
			list = append(list, Stray{e.Path, e.Size, time.Unix(0, e.Mod).UTC()})
		}
		return nil
	})
	slices.SortFunc(list, func(a, b Stray) int {
		return cmp.Or(b.Modified.Compare(a.Modified), strings.Compare(a.Path, b.Path))
	})
	return list, err
}
