package mend

import (
	"cmp"
	"context"
	"errors"
	"io"
	"math"
	"path/filepath"
	"slices"
	"sort"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
)

// Code is what a piece of evidence is about.
type Code string

// What speaks for a candidate.
const (
	Content     Code = "content"        // the very content that was last seen
	Name        Code = "name"           // the same name, letter for letter
	NameLoose   Code = "name-loose"     // the same in another letter case, Unicode form or escaping
	NameParted  Code = "name-parted"    // the same words, parted otherwise
	NameExt     Code = "name-extension" // the same stem with another extension, in Text
	NameLonger  Code = "name-longer"    // the same with more at its end, in Text
	NameShorter Code = "name-shorter"   // the same with less at its end, in Text
	NameAlike   Code = "name-alike"     // a like name; N of 100
	OtherName   Code = "other-name"     // under another name
	Parent      Code = "parent"         // in a folder of the same name
	SameSize    Code = "size"
	SameID      Code = "embedded-id"
	SameLength  Code = "length" // and rate
	SameFrame   Code = "frame-size"
	OneOf       Code = "one-of"  // N files have this content
	Frames      Code = "frames"  // N of Of files of a sequence
	Fills       Code = "fills"   // N of Of numbers it lacks
	ByHand      Code = "by-hand" // a person chose it
	OneOfTwins  Code = "twin"
	InOneMove   Code = "move" // its folder moved as a whole, with N files
)

// What speaks against one.
const (
	OtherContent Code = "other-content" // of the same size
	OtherSize    Code = "other-size"    // N bytes, last seen with Of
	OtherID      Code = "other-id"
	OtherLength  Code = "other-length"     // Have against Want
	OtherFrame   Code = "other-frame-size" // Have against Want
	Harmed       Code = "damaged"          // its header contradicts itself, in Text
	UsedAlready  Code = "used-already"     // another reference already leads there
	OtherKind    Code = "other-kind"       // Have against Want
	TooShort     Code = "shorter-than-used"
)

// Evidence is one fact that agrees or disagrees, as a code with its figures.
type Evidence struct {
	Code       Code
	Text       string
	N, Of      int64
	Have, Want *facts.Facts // where both tell
}

// weights are what a fact adds to a candidate's score. Common practice and
// trial, no source: names first, since people rename least; a name that is alike
// counts by its likeness.
var weights = map[Code]float64{
	Name: 0.55, NameLoose: 0.5, NameParted: 0.48, NameExt: 0.42, NameLonger: 0.4, NameShorter: 0.4, NameAlike: 0.36, OtherName: 0.4, ByHand: 0.5, OneOfTwins: 0.5,
	Parent: 0.05, SameSize: 0.2, SameID: 0.2, SameLength: 0.1, SameFrame: 0.05,
}

// Otherwise sized files keep this share of their score, sequences of other
// content that.
const (
	otherSizeShare    = 0.7
	otherContentShare = 0.6
)

func (c *Candidate) add(e Evidence) {
	c.For = append(c.For, e)
	c.Score += weights[e.Code]
}

func (c *Candidate) first(e Evidence) { c.For = slices.Insert(c.For, 0, e) }

func (c *Candidate) against(e Evidence) { c.Against = append(c.Against, e) }

// Reading is what candidates are compared by.
type Reading struct {
	Reach  drive.Reach
	Hash   Hash
	Memory Memory                 // of the frames of sequences
	Used   func(path string) bool // another reference leads there already; nil: nobody knows
}

// compare holds a candidate against what was last seen, and tells what its
// header says against being the file that is wanted. Headers are opened only
// where something is known that they could contradict; Examine opens the rest.
func (rd Reading) compare(c *Candidate, w *Wanted, content bool) {
	if rd.Used != nil && rd.Used(c.Path) {
		c.against(Evidence{Code: UsedAlready})
	}
	if kind := facts.KindOfName(c.Path); kind != w.Kind && w.Kind != facts.Other {
		c.against(Evidence{Code: OtherKind, Text: string(kind)})
	}
	last := w.Last
	if last == nil || content {
		return
	}
	if c.Size != last.Size {
		c.Score *= otherSizeShare
		c.against(Evidence{Code: OtherSize, N: c.Size, Of: last.Size})
	} else if last.SHA256 == "" {
		c.add(Evidence{Code: SameSize})
		c.Certainty = Likely
	}
	if last.Facts != (facts.Facts{}) {
		rd.Examine(c, w)
	}
}

// Examine opens a candidate once and tells what its header says: its kind by
// content, whether it holds what it claims, whether it is as long as the part
// that is used, and how it differs from what was last seen. What speaks against
// it leaves it possible at the most. The very content that was last seen needs no
// look: it is as it was when it was used.
func (rd Reading) Examine(c *Candidate, w *Wanted) {
	if c.examined || c.Sequence || c.Says(Content) {
		return
	}
	c.examined = true
	f, err := drive.OpenSized(rd.Reach, c.Path)
	if err != nil {
		return
	}
	defer f.Close()
	before := len(c.Against)
	head := make([]byte, min(512, f.Size()))
	if n, err := f.ReadAt(head, 0); n == len(head) || err == io.EOF {
		kind := facts.KindOf(c.Path, head[:n])
		if kind != facts.KindOfName(c.Path) && kind != w.Kind && w.Kind != facts.Other && !c.Warns(OtherKind) {
			c.against(Evidence{Code: OtherKind, Text: string(kind)})
		}
	}
	got, err := facts.Read(f, f.Size())
	if errors.Is(err, facts.ErrDamaged) {
		c.against(Evidence{Code: Harmed, Text: err.Error()})
	}
	if err == nil {
		if need := w.needs(got); got.Seconds > 0 && need > got.Seconds+halfFrame {
			c.against(Evidence{Code: TooShort, N: int64(1000 * got.Seconds), Of: int64(1000 * need)})
		}
		if w.Last != nil {
			c.differs(&got, &w.Last.Facts)
		}
	}
	if len(c.Against) > before && c.Certainty == Likely {
		c.Certainty = Possible
	}
}

// differs tells how a file's facts agree with what was last seen.
func (c *Candidate) differs(got, last *facts.Facts) {
	pair := func(code Code) Evidence { return Evidence{Code: code, Have: got, Want: last} }
	if last.ID != "" && got.ID != "" {
		if got.ID == last.ID {
			c.add(pair(SameID))
			c.Certainty = Likely
		} else {
			c.against(pair(OtherID))
		}
	}
	if last.Seconds > 0 && got.Seconds > 0 {
		if math.Abs(got.Seconds-last.Seconds) < 0.001 && got.Rate == last.Rate {
			c.add(pair(SameLength))
		} else {
			c.against(pair(OtherLength))
		}
	}
	if last.Width > 0 && got.Width > 0 {
		if got.Width == last.Width && got.Height == last.Height {
			c.add(pair(SameFrame))
		} else {
			c.against(pair(OtherFrame))
		}
	}
}

// halfFrame is how many seconds a used part may stick out of its file: documents
// round to frames.
const halfFrame = 0.5 / 24

// needs is how many seconds a file must have for the parts that the documents
// use. A part that begins within the first hour is counted from the file's
// beginning, a later one by the clock of a recording that tells it (common
// practice: timecode of material begins at an hour, or is the time of day).
func (w *Wanted) needs(f facts.Facts) float64 {
	var most float64
	for _, r := range w.Ranges {
		end := r.Duration
		switch {
		case r.Start < 3600:
			end += r.Start
		case f.Clock > 0 && f.Rate > 0:
			end += max(0, r.Start-float64(f.Clock)/float64(f.Rate))
		}
		most = max(most, end)
	}
	return most
}

// settle makes the one candidate certain that has the content and stands alone
// with it, or alone with it under the same name.
func settle(found []*Candidate) {
	var contents []*Candidate
	var named []*Candidate
	for _, c := range found {
		if c.Says(Content) {
			contents = append(contents, c)
			if c.Says(Name) {
				named = append(named, c)
			}
		}
	}
	if len(contents) == 1 {
		contents[0].Certainty = Certain
		return
	}
	for _, c := range contents {
		c.For = append(c.For, Evidence{Code: OneOf, N: int64(len(contents))})
	}
	if len(named) == 1 {
		named[0].Certainty = Certain
	}
}

const mostOffered = 12

func ranked(found []*Candidate) []Candidate {
	settle(found)
	list := make([]Candidate, 0, len(found))
	for _, c := range found {
		c.Score = math.Round(1000*math.Min(c.Score, 0.999)) / 1000
		list = append(list, *c)
	}
	order(list)
	return list[:min(len(list), mostOffered)]
}

// order is the surest first.
func order(list []Candidate) {
	slices.SortFunc(list, func(a, b Candidate) int {
		return cmp.Or(cmp.Compare(a.Certainty.rank(), b.Certainty.rank()), cmp.Compare(b.Score, a.Score), cmp.Compare(a.Path, b.Path))
	})
}

// Check tells whether a file chosen by hand can stand for the wanted one, and
// what speaks against it.
func (w Wanted) Check(ctx context.Context, path string, rd Reading) (Candidate, error) {
	info, err := rd.Reach.Stat(path)
	if err != nil {
		return Candidate{}, err
	}
	if !info.Mode.IsRegular() {
		return Candidate{}, drive.ErrNotRegular
	}
	c := Candidate{Path: path, Size: info.Size, Files: 1, Certainty: Possible}
	c.add(Evidence{Code: ByHand})
	same := false
	if w.Last != nil && w.Last.SHA256 != "" && w.Last.Size == info.Size {
		if sum, err := rd.Hash(ctx, path); err == nil && sum == w.Last.SHA256 {
			same = true
			c.Certainty = Certain
			c.For = append(c.For, Evidence{Code: Content})
		} else {
			c.against(Evidence{Code: OtherContent})
		}
	}
	rd.compare(&c, &w, same)
	rd.Examine(&c, &w)
	return c, nil
}

// Group is a folder that moved as a whole: all the files that are wanted from
// it are offered, under their own names, by one other.
type Group struct {
	From, To  string
	Files     int
	Certainty Certainty
}

// Groups finds the folders that moved as a whole, those of most files first.
func Groups(wanted []Wanted, offered [][]Candidate) []Group {
	type from struct {
		wanted  int
		to      map[string]int
		content map[string]int
	}
	dirs := map[string]*from{}
	for i := range wanted {
		if wanted[i].Sequence != nil {
			continue
		}
		dir := filepath.Dir(wanted[i].Expected)
		d := dirs[dir]
		if d == nil {
			d = &from{to: map[string]int{}, content: map[string]int{}}
			dirs[dir] = d
		}
		d.wanted++
		met := map[string]bool{}
		for k := range offered[i] {
			c := &offered[i][k]
			if at := filepath.Dir(c.Path); !met[at] && (c.Says(Name) || c.Says(NameLoose)) {
				met[at] = true
				d.to[at]++
				if c.Says(Content) {
					d.content[at]++
				}
			}
		}
	}
	var list []Group
	for dir, d := range dirs {
		for to, n := range d.to {
			if n != d.wanted || n < 2 {
				continue
			}
			g := Group{From: dir, To: to, Files: n, Certainty: Likely}
			if d.content[to] == n {
				g.Certainty = Certain
			}
			list = append(list, g)
		}
	}
	sort.Slice(list, func(a, b int) bool {
		x, y := list[a], list[b]
		if x.Files != y.Files {
			return x.Files > y.Files
		}
		if x.From != y.From {
			return x.From < y.From
		}
		return x.To < y.To
	})
	return list
}

// Used tells which files references of a graph already lead to.
func Used(g *graph.Graph) func(string) bool {
	used := map[string]bool{}
	for i := range g.Files {
		if f := &g.Files[i]; f.State.Found() && f.Frames == nil {
			used[f.Path] = true
		}
	}
	return func(p string) bool { return used[p] }
}
