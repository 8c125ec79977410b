package origin

import (
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
)

// PlaceKind tells whose a place of the spread is.
type PlaceKind string

// The kinds of places, in the order the spread draws them.
const (
	OwnPlace       PlaceKind = "own"
	ProjectPlace   PlaceKind = "project"
	LibraryPlace   PlaceKind = "library"
	DumpPlace      PlaceKind = "dump"
	OtherPlace     PlaceKind = "other"
	UnpluggedPlace PlaceKind = "unplugged"
	MissingPlace   PlaceKind = "missing"
)

var placeOrder = []PlaceKind{OwnPlace, ProjectPlace, LibraryPlace, DumpPlace, OtherPlace, UnpluggedPlace, MissingPlace}

// Place is a folder the project's material lies in.
type Place struct {
	Drive drive.Drive // the zero drive where no drive holds it
	Path  string      // absolute; "" of what is missing
	Kind  PlaceKind
	Files int
	Bytes int64
}

// Spot is the place of the spread a file belongs to.
func (j *judge) spot(id graph.FileID) (path string, kind PlaceKind, ok bool) {
	f, is := &j.g.Files[id], &j.files[id]
	dir := folderOf(f)
	switch {
	case f.State == graph.Unplugged:
		d, _ := drive.Find(j.Drives, dir)
		return top(d, dir), UnpluggedPlace, true
	case f.State == graph.Missing && !f.Carried:
		return "", MissingPlace, true
	case !f.State.Found():
		return "", "", false
	}
	switch is.Origin {
	case graph.OfProject:
		return j.g.Root, OwnPlace, true
	case graph.OfOtherProject:
		return is.Home, ProjectPlace, true
	case graph.OfLibrary, graph.OfStore:
		return is.Home, LibraryPlace, true
	case graph.OfDump:
		return is.Home, DumpPlace, true
	}
	d, _ := drive.Find(j.Drives, dir)
	return top(d, dir), OtherPlace, true
}

// bytesOnce are the bytes of files, those of several names of one file (hard links)
// once; others are told by nothing but their paths.
type bytesOnce map[drive.Node]bool

// Of are the bytes that a file adds.
func (o bytesOnce) Of(f *graph.File) int64 {
	n := drive.Node{Dev: f.Stamp.Node.Dev, Ino: f.Stamp.Node.Ino}
	if f.Frames != nil || n.Ino == 0 {
		return f.Size
	}
	if o[n] {
		return 0
	}
	o[n] = true
	return f.Size
}

// counted is how many files of the disk a file is, and the bytes that it adds; last are
// those of what is not there, from when it was last seen.
func (o bytesOnce) counted(f *graph.File, last int64) (files int, bytes int64) {
	files = 1
	if f.Frames != nil && len(f.Frames.Files) > 0 {
		files = len(f.Frames.Files)
	}
	return files, o.Of(f) + last
}

// places sums the project's material by the places it lies in.
func (j *judge) places() []Place {
	type key struct {
		path string
		kind PlaceKind
	}
	sums := map[key]*Place{}
	once := bytesOnce{}
	for i := range j.g.Files {
		f := &j.g.Files[i]
		if len(f.Refs) == 0 {
			continue // the document that was asked for
		}
		at, kind, ok := j.spot(graph.FileID(i))
		if !ok {
			continue
		}
		k := key{at, kind}
		p := sums[k]
		if p == nil {
			p = &Place{Path: at, Kind: kind}
			if kind != MissingPlace {
				p.Drive, _ = drive.Find(j.Drives, at)
			}
			sums[k] = p
		}
		files, bytes := once.counted(f, 0)
		p.Files, p.Bytes = p.Files+files, p.Bytes+bytes
	}
	list := make([]Place, 0, len(sums))
	for _, p := range sums {
		list = append(list, *p)
	}
	sort.Slice(list, func(a, b int) bool {
		x, y := &list[a], &list[b]
		if i, k := slices.Index(placeOrder, x.Kind), slices.Index(placeOrder, y.Kind); i != k {
			return i < k
		}
		if x.Bytes != y.Bytes {
			return x.Bytes > y.Bytes
		}
		return x.Path < y.Path
	})
	return list
}

// top is the first folder below a drive on the way to dir.
func top(d drive.Drive, dir string) string {
	if d.Dir == "" {
		return dir
	}
	first, _, _ := strings.Cut(strings.TrimPrefix(strings.TrimPrefix(dir, d.Dir), "/"), "/")
	return filepath.Join(d.Dir, first)
}
