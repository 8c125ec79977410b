package mend

import (
	"math"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/names"
)

// named tells what is other in a candidate's name. Of what has the bytes, or was found by
// something else than its name, it matters not.
func (s *search) named(c *Candidate) {
	if c.proved() || c.HasCode(OtherName) || c.HasCode(LentContent) {
		return
	}
	is := spell(filepath.Base(c.Path))
	before, after, longer := inside(s.parts, is.parts)
	more := slices.Concat(before, after)
	switch {
	case longer && meet(textsOf(more), putBy):
		c.against(Evidence{Code: PutBy})
	case longer && s.inFolders(more):
		c.add(Evidence{Code: FolderSaid, Text: strings.Join(textsOf(more), " ")})
	case longer && allOf(more, date):
		c.add(Evidence{Code: DateAdded})
	case longer && allOf(more, number):
		c.against(Evidence{Code: Counted})
	case otherCount(s.parts, is.parts):
		c.against(Evidence{Code: OtherNumber})
	case otherWords(s.parts, is.parts):
		c.against(Evidence{Code: OtherWord})
	}
}

// inFolders tells that words are those of one of the folders a file is missing from. A
// number alone is none.
func (s *search) inFolders(more []part) bool {
	if allOf(more, number) {
		return false
	}
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
		if !c.Warns(OtherNumber) && (!c.HasCode(NameAlike) || aSlip(s.parts, spell(filepath.Base(c.Path)).parts)) {
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
	if c.proved() {
		return // wherever it lies
	}
	if otherDates(datesOf(s.w.Expected), datesOf(c.Path)) {
		c.against(Evidence{Code: OtherDate})
	}
	switch {
	case keeps(s.dir, dir):
		c.against(Evidence{Code: InBackup})
	case !moved(s.dir, dir):
		c.against(Evidence{Code: OtherSet})
	case beside(s.dir, dir) && s.stands:
		c.against(Evidence{Code: OtherSet})
		c.parallel = true
	}
}

// beside tells folders of one name whose paths are the same but for one that they lie in:
// where the first still stands, the second is that of the next one of its kind.
func beside(from, to string) bool {
	was, is := differing(from, to)
	return names.Fold(filepath.Base(from)) == names.Fold(filepath.Base(to)) && len(was) == 1 && len(is) == 1 && !meet(words(was[0]), words(is[0])) && len(folders(from)) == len(folders(to))
}

// datesOf are the dates that a path tells.
func datesOf(path string) (list []string) {
	if !strings.ContainsAny(path, "0123456789") {
		return nil
	}
	for _, name := range folders(path) {
		for _, p := range spell(name + ".").parts {
			if p.kind == date {
				list = append(list, p.text)
			}
		}
	}
	return list
}

// otherDates tells that both have dates, and no one in common.
func otherDates(a, b []string) bool { return len(a) > 0 && len(b) > 0 && !meet(a, b) }

// neighbours holds the candidates against one another: whose folders are called most like
// those that the missing file stood in.
func (s *search) neighbours() {
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
		if c.HasCode(FolderSaid) || c.HasCode(NameLonger) {
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

// classes are how close names are to one another, the closest first.
var classes = [][]Code{{Name}, {NameLoose, NameParted, NameSpelled}, {NameExt}, {NameLonger}, {NameShorter, NameAlike}}

// class is less for what is closer.
func (c *Candidate) class() int {
	i := slices.IndexFunc(classes, func(codes []Code) bool { return slices.ContainsFunc(codes, c.HasCode) })
	if i < 0 {
		return len(classes)
	}
	return i
}

// nearest tells the one candidate whose name is the closest, in folders that are called the
// most alike, that it is. Those that something makes another file do not count, and what
// lies where copies or other sets lie is further off.
func (s *search) nearest() {
	var best *Candidate
	closest, several := math.Inf(-1), false
	for _, c := range s.found {
		c.For = slices.DeleteFunc(c.For, func(e Evidence) bool { return e.Code == Nearest })
		if slices.ContainsFunc(another, c.Warns) {
			continue
		}
		tails := float64(tailsShared(filepath.Dir(c.Path), s.dir))
		near := tails - 100*float64(c.class())
		if slices.ContainsFunc(setWide, c.Warns) {
			if near -= 1.5; tails < 2 {
				near -= 150
			}
		}
		switch {
		case near > closest:
			best, closest, several = c, near, false
		case near == closest:
			several = true
		}
	}
	if best != nil && !several {
		best.add(Evidence{Code: Nearest})
	}
}

// another is what makes a file of the right name another one.
var another = []Code{UsedAlready, OtherDate, OtherNumber, OtherWord, TooShort, OtherToldLength, OtherToldSize, OtherToldContent, OtherContent, OtherSize, OtherID, FitsAnother, OtherClock, OtherReel}
