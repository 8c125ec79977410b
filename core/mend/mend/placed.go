package mend

import (
	"math"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
)

// named tells what is other in a candidate's name.
func (s *search) named(c *Candidate) {
	is := spell(filepath.Base(c.Path))
	before, after, longer := inside(s.parts, is.parts)
	more := slices.Concat(before, after)
	switch {
	case longer && meet(textsOf(more), putBy):
		c.against(Evidence{Code: PutBy})
	case longer && allOf(more, date):
		c.add(Evidence{Code: DateAdded})
	case longer && allOf(more, number):
		c.against(Evidence{Code: Counted})
	case longer && s.inFolders(more):
		c.add(Evidence{Code: FolderSaid, Text: strings.Join(textsOf(more), " ")})
	case otherCount(s.parts, is.parts):
		c.against(Evidence{Code: OtherNumber})
	case otherWords(s.parts, is.parts):
		c.against(Evidence{Code: OtherWord})
	}
}

// inFolders tells that words are those of one of the folders a file is missing from.
func (s *search) inFolders(more []part) bool {
	for dir, n := s.dir, 0; n < levels/2 && dir != filepath.Dir(dir); dir, n = filepath.Dir(dir), n+1 {
		of := textsOf(spell(filepath.Base(dir) + ".").parts)
		if !slices.ContainsFunc(more, func(p part) bool { return !slices.Contains(of, p.text) }) {
			return true
		}
	}
	return false
}

// placed tells what a candidate's folder says.
func (s *search) placed(c *Candidate) {
	dir := filepath.Dir(c.Path)
	if dir == s.dir {
		// A sibling stands there with every right; what tells is that the name has a like one.
		if !c.Warns(OtherNumber) && (!c.Says(NameAlike) || aSlip(s.parts, spell(filepath.Base(c.Path)).parts)) {
			c.add(Evidence{Code: SameFolder})
		}
		return
	}
	if n := tailsShared(dir, s.dir); n > 0 {
		c.add(Evidence{Code: Parent, N: int64(n)})
	}
	if s.beside != "." && drive.Within(s.beside, dir) && !drive.Within(s.beside, s.dir) {
		c.add(Evidence{Code: BesideDoc})
	}
	switch {
	case keeps(s.dir, dir):
		c.against(Evidence{Code: InBackup})
	case !moved(s.dir, dir):
		c.against(Evidence{Code: OtherSet})
	}
}

// neighbours holds the candidates against one another: whose folders are called most like
// those that the missing file stood in.
func (s *search) neighbours() {
	s.nearest(Name)
	s.nearest(NameLoose, NameParted, NameSpelled)
	// A word that all folders have tells them not apart.
	met := map[string]int{}
	dirs := map[string][]string{}
	for _, c := range s.found {
		dir := filepath.Dir(c.Path)
		if _, ok := dirs[dir]; ok {
			continue
		}
		var list []string
		for _, name := range folders(dir) {
			list = append(list, textsOf(spell(name+".").parts)...)
		}
		slices.Sort(list)
		list = slices.Compact(list)
		for _, w := range list {
			met[w]++
		}
		dirs[dir] = list
	}
	tells := func(w string) float64 { return math.Log(1 + float64(len(dirs))/float64(max(1, met[w]))) }
	for _, c := range s.found {
		dir := filepath.Dir(c.Path)
		if dir == s.dir {
			continue
		}
		have := dirs[dir]
		if c.Says(FolderSaid) || c.Says(NameLonger) {
			have = append(slices.Clone(have), textsOf(spell(filepath.Base(c.Path)).parts)...)
		}
		var all, shared float64
		at, share := s.dir, 1.0
		for n := 0; n < levels/2 && at != filepath.Dir(at); n++ {
			for _, w := range textsOf(spell(filepath.Base(at) + ".").parts) {
				all += share * tells(w)
				if slices.Contains(have, w) {
					shared += share * tells(w)
				}
			}
			at, share = filepath.Dir(at), share*folderFades
		}
		if n := math.Round(100 * shared / max(all, 1e-9)); n > 0 {
			c.add(Evidence{Code: FolderAlike, N: int64(n)})
		}
	}
}

// folderFades is how much less each folder further up tells.
const folderFades = 0.7

// nearest marks the one of several files of a name whose folders are called alike the
// furthest up.
func (s *search) nearest(codes ...Code) {
	var best *Candidate
	of, most, several := 0, int64(0), false
	for _, c := range s.found {
		if !slices.ContainsFunc(codes, c.Says) {
			continue
		}
		of++
		n := int64(0)
		for _, e := range c.For {
			if e.Code == Parent {
				n = e.N
			}
		}
		if n > most {
			best, most, several = c, n, false
		} else if n == most {
			several = true
		}
	}
	if best != nil && !several && of > 1 {
		best.add(Evidence{Code: Nearest})
	}
}
