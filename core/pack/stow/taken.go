package stow

import (
	"path"
	"strings"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
)

// taken are the places of a crate that something stands at, as a system sees them that
// folds names.
type taken struct {
	at      map[place]standing
	folders map[string]int32 // numbers of folders, by their folded paths
	spelled map[string]int32 // the same, by their paths as they are spelled
	known   map[string]bool  // folders as they are spelled, at whose place nothing can come to stand
	series  map[int32][]series
	names   map[int32][]named // files by their folders; nil where there are no sequences
}

// place is a folded name in a folder.
type place struct {
	in   int32
	name string
}

// standing is what stands at a place.
type standing uint8

const (
	aFile standing = 1 << iota
	aFolder
)

func newTaken(files int) taken {
	return taken{at: make(map[place]standing, files), folders: map[string]int32{}, spelled: map[string]int32{}, known: map[string]bool{}, series: map[int32][]series{}}
}

// series is a sequence that stands in a folder, and where it comes from: whatever else of
// its pattern comes to stand there would be read as a part of it.
type series struct {
	pattern graph.Pattern
	from    string
}

type named struct{ name, from string }

// isMixed tells that a berth would be read as a part of a sequence from elsewhere, or others
// as a part of it. What came from one folder stands there as it stood.
func (t taken) isMixed(b *Berth) bool {
	in := t.folder(b.Folder)
	for _, s := range t.series[in] {
		if s.from == b.From {
			continue
		}
		if b.sequence && names.Same(s.pattern.Head) == names.Same(b.Pattern.Head) && names.Same(s.pattern.Tail) == names.Same(b.Pattern.Tail) {
			return true
		}
		if _, ok := s.pattern.Number(b.Name); ok && !b.sequence {
			return true
		}
	}
	if b.sequence {
		for _, n := range t.names[in] {
			if _, ok := b.Pattern.Number(n.name); ok && n.from != b.From {
				return true
			}
		}
	}
	return false
}

// stand puts a berth where it settled, for mixes.
func (t taken) stand(b *Berth) {
	in := t.folder(b.Folder)
	if b.sequence {
		t.series[in] = append(t.series[in], series{b.Pattern, b.From})
	} else if t.names != nil {
		t.names[in] = append(t.names[in], named{b.Name, b.From})
	}
}

func (t taken) folder(dir string) int32 {
	id, known := t.spelled[dir]
	if known {
		return id
	}
	folded := names.Clash(dir)
	if id, known = t.folders[folded]; !known {
		id = int32(len(t.folders))
		t.folders[folded] = id
	}
	t.spelled[dir] = id
	return id
}

func (t taken) place(folder, name string) place { return place{t.folder(folder), names.Clash(name)} }

func (t taken) placeOf(full string) place {
	dir, name := path.Split(full)
	return t.place(strings.TrimSuffix(dir, "/"), name)
}

// blocked is the folder of a berth, or of those above it, at whose place a file
// stands; "" for none.
func (t taken) blocked(folder string) string {
	if t.known[folder] {
		return ""
	}
	for dir := folder; dir != "" && dir != "."; dir = path.Dir(dir) {
		if t.at[t.placeOf(dir)]&aFile != 0 {
			return dir
		}
	}
	return ""
}

// free tells that nothing stands at any of the places.
func (t taken) free(places []string) bool {
	for _, n := range places {
		if t.at[t.placeOf(n)] != 0 {
			return false
		}
	}
	return true
}

// take puts a file, in a folder that stands from then on.
func (t taken) take(folder string, at place) {
	t.at[at] |= aFile
	if t.known[folder] {
		return
	}
	for dir := folder; dir != "" && dir != "."; dir = path.Dir(dir) {
		t.at[t.placeOf(dir)] |= aFolder
	}
	t.known[folder] = true
}
