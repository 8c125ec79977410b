package mend

import (
	"cmp"
	"context"
	"maps"
	"math"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
)

// Code is what a piece of evidence is about.
type Code string

// What speaks for a candidate.
const (
	Content     Code = "content"         // the very content that was last seen
	SameFile    Code = "same-file"       // the very file that was last seen, by its place on the drive, size and time
	LentContent Code = "lent-content"    // what another document was seen to use under this path
	Name        Code = "name"            // the same name, letter for letter
	NameLoose   Code = "name-loose"      // the same in another letter case, Unicode form or escaping
	NameParted  Code = "name-parted"     // the same words, parted otherwise
	NameSpelled Code = "name-spelled"    // the same words and numbers, in another manner of writing
	NameExt     Code = "name-extension"  // the same stem with another extension, in Text
	NameLonger  Code = "name-longer"     // the same with more at its end, in Text; N 1: at its beginning
	NameShorter Code = "name-shorter"    // the same with less at its end, in Text; N 1: at its beginning
	NameAlike   Code = "name-alike"      // a like name; N of 100
	OtherName   Code = "other-name"      // under another name
	Parent      Code = "parent"          // in a folder of the same name, N deep
	SameFolder  Code = "same-folder"     // in the folder it is missing from
	Nearest     Code = "nearest"         // no other name is as close, in folders that are called as much alike
	FolderAlike Code = "folders-alike"   // its folders' words are those of the missing one's, N of 100
	FolderSaid  Code = "folder-in-name"  // what its name has more is the name of the missing one's folder
	DateAdded   Code = "date-in-name"    // what its name has more is a date
	InProject   Code = "in-project"      // another document of the project uses it, and the one that misses it tells names alone
	BesideDoc   Code = "beside-document" // it stands in or below the folder of the document that misses it
	SameSize    Code = "size"
	SameID      Code = "embedded-id"
	SameLength  Code = "length" // and rate
	SameFrame   Code = "frame-size"
	OneOf       Code = "one-of"   // N files have this content
	Copies      Code = "copies"   // N of those that are offered are as large as one another, and alike at the beginning, in the middle and at the end
	ByPlace     Code = "by-place" // of several with this content, the one whose folders are called most alike
	Frames      Code = "frames"   // N of Of files of a sequence
	Fills       Code = "fills"    // N of Of numbers it lacks
	ByHand      Code = "by-hand"  // a person chose it
	OneOfTwins  Code = "twin"
	OnlyOne     Code = "only-one"     // no other file where it looked has the name
	InOneMove   Code = "move"         // N of Of files of its folder are where this one is; Text is how they are renamed
	OnlyMove    Code = "only-folder"  // and no other folder holds a third of them
	ToldContent Code = "told-content" // it has the digest that a document tells, computed by Text
	ToldSize    Code = "told-size"    // of as many bytes as a document tells
	ToldLength  Code = "told-length"  // as long as a document tells
	LongEnough  Code = "long-enough"  // what is used of it lies within it
	SameProduct Code = "same-product" // the part is the product that the document names, in Text
	SameReel    Code = "same-reel"    // it says that it is from the reel that a document names, in Text
	SoundsAlike Code = "sounds-alike" // N of 100 alike in what is heard, as after a lossy coding
	SameSound   Code = "same-sound"   // the samples that were last seen, in another wrapping
	SamePicture Code = "same-picture" // the pixels that were last seen, in another wrapping
	Follows     Code = "follows"      // as the missing Text was mended by hand

	MendedElsewhere Code = "mended-elsewhere" // the project Text was mended so
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
	OtherNumber  Code = "other-number" // its name has another number
	PutBy        Code = "put-by"       // its name says that it was put by: a copy, or an older one
	OtherWord    Code = "other-word"   // a word of its name is another one
	Counted      Code = "counted"      // what its name has more is a number
	OtherDate    Code = "other-date"   // its path tells another date than the missing one's
	InBackup     Code = "in-backup"    // its folders say that copies are kept there
	OtherSet     Code = "other-set"    // its folders say that another set of files lies there under the same names
	FitsAnother  Code = "fits-another" // another missing file fits it better, in Text

	OtherReel        Code = "other-reel"         // it says another reel than a document, in Text
	OtherClock       Code = "other-timecode"     // what is used of it lies before its beginning, by its timecode
	OtherProduct     Code = "other-product"      // the part is another product, in Text
	OtherToldContent Code = "other-told-content" // not the digest that a document tells, computed by Text
	OtherToldSize    Code = "other-told-size"    // N bytes, a document tells Of
	OtherToldLength  Code = "other-told-length"  // N milliseconds, a document tells Of
)

// Evidence is one fact that agrees or disagrees, as a code with its figures.
type Evidence struct {
	Code       Code
	Text       string
	N, Of      int64
	Have, Want *facts.Facts // where both tell
}

// weights are what a fact adds to the log-odds that a candidate is the missing file rather
// than none of those that are offered, by its value. They are fitted on the corpora of
// mendtest, and TestWeights holds them to that (docs/evidence.md).
var weights = map[Code]float64{
	Prior: -4.0, Name: 2.0, NameLoose: 1.9, NameParted: 2.0, NameSpelled: 2.0, NameExt: 0.4, NameLonger: 1.8, NameShorter: -3.5, NameAlike: 2.0,
	Nearest: 2.3, FolderAlike: 4.5, FolderSaid: 3.5, DateAdded: 4.6, BesideDoc: 1.6, SameFolder: 4.5, OnlyMove: 1.2, ToldLength: 1.9, LongEnough: 0,
	OtherNumber: -1.0, OtherWord: -3.3, InBackup: -3.8, OtherSet: -2.7, TooShort: -3.0, UsedAlready: -3.3, OtherToldLength: -3.7,
}

// Prior is the code of what stands before any fact: few of those that are offered
// are right.
const Prior Code = ""

// given are weights of what the corpus does not hold (common practice, no source): the
// very content is proof, another one is not, and the rest lies between.
var given = map[Code]float64{
	InProject: 4, SameProduct: 5.5, OtherProduct: -3, SameReel: 7, OtherReel: -3, OtherClock: -3, SoundsAlike: 3, SameSound: 8, SameFile: 8, LentContent: 9, SamePicture: 8, Follows: 9, MendedElsewhere: 9, SameSize: 4, SameID: 9, SameLength: 1.5, SameFrame: 0.5, ToldSize: 2, ByHand: 5, OneOfTwins: 2.5,
	OtherContent: -5, OtherSize: -3, OtherID: -5, OtherLength: -1.5, OtherFrame: -1.5, OtherKind: -3, OtherDate: -5, Harmed: -2, FitsAnother: -3, OtherToldSize: -2, OtherToldContent: -4,
}

// value is how much of its weight a fact has.
func (e Evidence) value() float64 {
	switch e.Code {
	case NameAlike: // from a faint likeness to none that could be told apart
		return math.Max(0, float64(e.N)-80) / 20
	case FolderAlike:
		return float64(e.N) / 100
	case OnlyMove:
		return float64(e.N) / float64(e.Of) * (1 - 1/float64(e.N))
	}
	return 1
}

// Features are the values of a candidate's facts by their codes, for whoever fits
// weights to them.
func (c *Candidate) Features() map[Code]float64 {
	out := map[Code]float64{Prior: 1}
	for _, list := range [][]Evidence{c.For, c.Against} {
		for _, e := range list {
			if _, known := weights[e.Code]; known {
				out[e.Code] += e.value()
			}
		}
	}
	return out
}

// IsAgainst tells codes that speak against a candidate.
func IsAgainst(c Code) bool { return slices.Contains(speakingAgainst, c) }

var speakingAgainst = []Code{
	OtherNumber, OtherWord, Counted, PutBy, InBackup, OtherSet, OtherDate, TooShort, UsedAlready, OtherToldLength, OtherToldSize, OtherToldContent,
	OtherContent, OtherSize, OtherID, OtherLength, OtherFrame, OtherKind, Harmed, FitsAnother, OtherReel, OtherClock, OtherProduct,
}

// setWide is what speaks against all that lies in a folder alike.
var setWide = []Code{OtherSet, InBackup, OtherDate}

// Doubtful tells that something speaks against the candidate by itself, and not only
// against all that lies where it does.
func (c *Candidate) Doubtful() bool {
	return slices.ContainsFunc(c.Against, func(e Evidence) bool { return !slices.Contains(setWide, e.Code) })
}

// Weights are those in force, for whoever holds them to a corpus.
func Weights() map[Code]float64 { return maps.Clone(weights) }

// odds are a candidate's against none of those that are offered, from its facts.
func (c *Candidate) odds() float64 {
	sum := weights[Prior]
	for _, list := range [][]Evidence{c.For, c.Against} {
		for _, e := range list {
			sum += (weights[e.Code] + given[e.Code]) * e.value()
		}
	}
	return math.Exp(sum)
}

// rate gives the candidates of one missing file their scores, which are shares of one: how
// likely each is the right one, and what is left, that none is. The word follows from the
// score; certain is another matter, and is proved.
func rate(list ...*Candidate) {
	all := 1.0
	together := map[string]float64{} // copies of one another are right together
	for _, c := range list {
		c.own = c.odds()
		all += c.own
		together[c.bytes] += c.own
	}
	for _, c := range list {
		if c.Score = c.own / all; c.bytes != "" {
			c.Score = together[c.bytes] / all
		}
		c.share = c.Score
		c.Score = calibrated(c.share)
		if c.proved() {
			c.Score = likelyFrom + (1-likelyFrom)*c.Score
		} else if slices.ContainsFunc(rejects, c.Warns) {
			c.Score = min(c.Score, maxRejected)
		} else if slices.ContainsFunc(setWide, c.Warns) {
			c.Score = min(c.Score, maxOther)
		}
		c.Score = math.Round(1000*math.Min(c.Score, 0.999)) / 1000
		if c.Certainty == Certain {
			continue
		}
		if c.Certainty = Possible; c.Score >= likelyFrom {
			c.Certainty = Likely
		}
	}
}

// Share is what the candidate's odds come to out of all that is offered, before the scale:
// for whoever fits it.
func (c *Candidate) Share() float64 { return c.share }

// scale is which share was right of the candidates whose odds come to a share, fitted by
// isotonic regression (Barlow, Bartholomew, Bremner, Brunk 1972) on the same studios as the
// weights.
var scale = [][2]float64{
	{0, 0}, {0.004, 0.013}, {0.09, 0.2}, {0.22, 0.29}, {0.33, 0.5}, {0.48, 0.54}, {0.53, 0.64}, {0.63, 0.66}, {0.78, 0.72}, {0.82, 0.82}, {0.88, 0.9}, {0.925, 0.95}, {0.986, 0.98}, {1, 1},
}

// calibrated reads the scale, in a straight line from one entry to the next.
func calibrated(share float64) float64 {
	i := 1
	for i < len(scale)-1 && share > scale[i][0] {
		i++
	}
	a, b := scale[i-1], scale[i]
	return a[1] + (b[1]-a[1])*(share-a[0])/(b[0]-a[0])
}

// rejects is what documents tell, use, or a header says, that makes a file another one,
// whatever its name says for it.
var rejects = []Code{TooShort, OtherToldLength, OtherToldSize, OtherToldContent, OtherClock, OtherReel, OtherProduct, OtherKind, OtherContent, OtherSize, OtherID, OtherLength, OtherFrame, Harmed}

const (
	maxRejected = 0.6
	likelyFrom  = 0.95 // so that nine of ten are right on every corpus, the hardest one too
	maxOther    = 0.9  // of what may be another set of files, whatever the names say
)

// proved tells that it has the very bytes that are wanted.
func (c *Candidate) proved() bool {
	return c.HasCode(Content) || c.HasCode(ToldContent) || c.HasCode(SameFile)
}

func (c *Candidate) add(e Evidence) { c.For = append(c.For, e) }

func (c *Candidate) first(e Evidence) { c.For = slices.Insert(c.For, 0, e) }

func (c *Candidate) against(e Evidence) { c.Against = append(c.Against, e) }

// settle makes the one candidate certain that has the content and stands alone with it, or
// alone with it under the same name, or with it in the place that is most like the first.
func (s *search) settle() {
	var contents []*Candidate
	var named []*Candidate
	for _, c := range s.found {
		if c.proved() {
			contents = append(contents, c)
			if c.HasCode(Name) {
				named = append(named, c)
			}
		}
	}
	if len(contents) == 1 {
		contents[0].settled()
		return
	}
	for _, c := range contents {
		c.For = append(c.For, Evidence{Code: OneOf, N: int64(len(contents))})
	}
	if len(named) == 1 {
		named[0].settled()
	} else if c := s.byPlace(contents, named); c != nil {
		c.For = append(c.For, Evidence{Code: ByPlace})
		c.settled()
	}
}

// byPlace is the one of several copies of the same content whose folders are called the most
// like those of the missing file; of those called as it is, where there are any. Nil where
// no folder is called alike, or two places are as good; where copies are kept is less good.
func (s *search) byPlace(contents, named []*Candidate) *Candidate {
	if len(named) > 1 {
		contents = named
	}
	var best *Candidate
	most, several := math.MinInt, false
	for _, c := range contents {
		dir := filepath.Dir(c.Path)
		tails := tailsShared(dir, s.dir)
		if tails == 0 {
			continue // its place tells nothing
		}
		n := 100*tails - len(folders(dir)) // of two as alike the one with less around it
		if keeps(s.dir, dir) {
			n -= 50
		}
		switch {
		case n > most:
			best, most, several = c, n, false
		case n == most:
			several = true
		}
	}
	if several {
		return nil
	}
	return best
}

// settled makes a candidate certain, unless what the documents tell of it or use says
// otherwise: then it is what was last seen, and not what is meant.
func (c *Candidate) settled() {
	c.Certainty = Certain
	for _, code := range []Code{TooShort, OtherClock, OtherReel, OtherToldSize, OtherToldLength, OtherToldContent} {
		if c.Warns(code) {
			c.Certainty = Possible
		}
	}
}

const maxOffered = 12

// listed are the best of what was found, settled, in order.
func (s *search) listed() []Candidate {
	s.settle()
	found := s.found
	list := make([]Candidate, 0, len(found))
	for _, c := range found {
		list = append(list, *c)
	}
	order(list)
	return list[:min(len(list), maxOffered)]
}

// order is the surest first.
func order(list []Candidate) {
	slices.SortFunc(list, func(a, b Candidate) int { return byConfidence(&a, &b) })
}

func byConfidence(a, b *Candidate) int {
	first := cmp.Compare(a.Certainty.rank(), b.Certainty.rank())
	if a.proved() && b.proved() || a.bytes != "" && a.bytes == b.bytes { // the original before its copy
		first = cmp.Or(first, cmp.Compare(a.copyNamed(), b.copyNamed()))
	}
	return cmp.Or(first, cmp.Compare(b.Score, a.Score), cmp.Compare(math.Round(100*b.own), math.Round(100*a.own)), cmp.Compare(a.turn, b.turn), cmp.Compare(a.Path, b.Path))
}

// copyNamed is 1 for a file that is called a copy.
func (c *Candidate) copyNamed() int {
	if stem, _ := names.Split(filepath.Base(c.Path)); meet(words(stem), putBy) {
		return 1
	}
	return 0
}

// score gives the candidates of a wanted file their scores and puts the best first.
func (f *finder) score(s *search) {
	s.nearest()
	rate(s.found...)
	for _, c := range s.found {
		c.turn = f.rd.turn(c.Path)
	}
	slices.SortFunc(s.found, byConfidence)
}

// Check tells whether a file chosen by hand can stand for the wanted one, and
// what speaks against it; of a sequence any frame stands for all of them. Errors are
// drive.ErrNotRegular, ErrNoFrame, and those of the disk.
func (w Wanted) Check(ctx context.Context, path string, rd Reading) (Candidate, error) {
	info, err := rd.Reach.Stat(path)
	if err != nil {
		return Candidate{}, err
	}
	if !info.Mode.IsRegular() {
		return Candidate{}, drive.ErrNotRegular
	}
	if w.Sequence != nil {
		return w.checkFrames(ctx, path, rd)
	}
	c := Candidate{Path: path, Size: info.Size, Files: 1, Certainty: Possible}
	c.add(Evidence{Code: ByHand})
	if filepath.Base(path) == filepath.Base(w.Expected) {
		c.add(Evidence{Code: Name})
	}
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
	rate(&c)
	return c, nil
}

// Used tells which files references of a graph already lead to.
func Used(g *graph.Graph) func(string) bool {
	used := map[string]bool{}
	for i := range g.Files {
		if f := &g.Files[i]; f.State.Found() && f.Frames == nil {
			used[f.Path] = true
			for _, p := range f.Also {
				used[p] = true
			}
		}
	}
	return func(p string) bool { return used[p] }
}
