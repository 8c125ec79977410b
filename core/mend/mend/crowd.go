package mend

import (
	"cmp"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/index"
)

// maxOfOne is how many files of one name or stem are held against a missing file.
// Of a million files called alike those in folders called alike are nearest.
const maxOfOne = 4 * maxOffered

// maxCrowds is how many crowds are kept for the missing files to come.
const maxCrowds = 16

// crowd is the files of one name or stem, by the names of their folders where they are
// many.
type crowd struct {
	entries []index.Entry
	in      map[string][]int32
	exact   map[string]int // how many have each very name
}

// crowd asks the index once for all missing files of one name.
func (f *finder) crowd(key string, ask func() ([]index.Entry, error)) (*crowd, error) {
	if c := f.crowds[key]; c != nil {
		return c, nil
	}
	entries, err := ask()
	if err != nil {
		return nil, err
	}
	c := &crowd{entries: entries}
	if len(entries) <= maxOfOne {
		return c, nil
	}
	c.in, c.exact = map[string][]int32{}, map[string]int{}
	for i := range entries {
		dir, name := filepath.Split(entries[i].Path)
		c.in[filepath.Base(dir)] = append(c.in[filepath.Base(dir)], int32(i))
		c.exact[name]++
	}
	if f.crowds == nil || len(f.crowds) >= maxCrowds {
		f.crowds = map[string]*crowd{}
	}
	f.crowds[key] = c
	return c, nil
}

// called counts the files of the very name, but for one place.
func (c *crowd) called(name, but string) (n int) {
	if c.exact != nil {
		n = c.exact[name]
		for _, i := range c.in[filepath.Base(filepath.Dir(but))] {
			if c.entries[i].Path == but {
				n--
			}
		}
		return n
	}
	for i := range c.entries {
		if p := c.entries[i].Path; p != but && filepath.Base(p) == name {
			n++
		}
	}
	return n
}

// nearest are the files with the names that are wanted, of many those whose folders are
// called as the one they are missing from and those above it.
func (c *crowd) nearest(dir string, wanted func(name string) bool) (list []index.Entry) {
	if c.in == nil {
		for _, e := range c.entries {
			if wanted(filepath.Base(e.Path)) {
				list = append(list, e)
			}
		}
		return list
	}
	taken := map[int32]bool{}
	like := slices.Clone(c.in[filepath.Base(dir)])
	like = like[:min(len(like), maxCompared)]
	shared := make(map[int32]int, len(like))
	for _, i := range like {
		shared[i] = tailsShared(filepath.Dir(c.entries[i].Path), dir)
	}
	slices.SortStableFunc(like, func(a, b int32) int { return cmp.Compare(shared[b], shared[a]) })
	for _, i := range like {
		if len(list) < maxOfOne && wanted(filepath.Base(c.entries[i].Path)) {
			taken[i] = true
			list = append(list, c.entries[i])
		}
	}
	for i := 0; i < len(c.entries) && len(list) < maxOfOne; i++ {
		if !taken[int32(i)] && wanted(filepath.Base(c.entries[i].Path)) {
			list = append(list, c.entries[i])
		}
	}
	return list
}

// maxCompared is how many files in folders called alike are compared by the folders
// above.
const maxCompared = 10_000
