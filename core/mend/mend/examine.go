package mend

import (
	"context"
	"encoding/hex"
	"errors"
	"io"
	"math"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/acoustic"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/mention"
)

// digest is one of a file's whole content, in hex; that by SHA-256 may be remembered.
func (rd Reading) digest(ctx context.Context, path string, by mention.Digest) (string, error) {
	if by == mention.SHA256 {
		return rd.Hash(ctx, path)
	}
	h := facts.Hash(by)
	if h == nil {
		return "", errors.ErrUnsupported
	}
	f, err := rd.Reach.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	if _, err := io.Copy(h, drive.ContextReader(ctx, f)); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// Reading is what candidates are compared by.
type Reading struct {
	Reach  drive.Reach
	Hash   Hash
	Memory Memory                                   // of the frames of sequences
	Heard  func(path string) (acoustic.Print, bool) // what a missing sound sounded like; nil: nobody knows
	Used   func(path string) bool                   // another reference leads there already; nil: nobody knows
	// Claimed tells files that another document names, or that were known at their place
	// while the missing one was at its own: such a file is nobody's that moved. nil: nobody
	// knows.
	Claimed func(path string) bool
	// Others tells the files that other known documents name in a folder or below it, as far as
	// they are few enough to be asked for. nil: nobody knows.
	Others func(dir string) []string
	First  []string // folders in the order they were named: of what is alike in all, that of an earlier one comes first
}

// turn is the place of a path's folder in that order.
func (rd Reading) turn(path string) int {
	for i, dir := range rd.First {
		if drive.Within(dir, path) {
			return i
		}
	}
	return len(rd.First)
}

// compare holds a candidate against what was last seen, and tells what its
// header says against being the file that is wanted. Headers are opened only
// where something is known that they could contradict; Examine opens the rest.
func (rd Reading) compare(c *Candidate, w *Wanted, content bool) {
	if !content && rd.Used != nil && rd.Used(c.Path) {
		// A document that tells names alone, such as an edit list, means by a name what others of
		// the project mean by it; where a folder is told, it is another file.
		if w.Bare && c.HasCode(Name) {
			c.add(Evidence{Code: InProject})
		} else {
			c.against(Evidence{Code: UsedAlready})
		}
	}
	if kind := facts.KindOfName(c.Path); kind != w.Kind && w.Kind != facts.Other {
		c.against(Evidence{Code: OtherKind, Text: string(kind)})
	}
	if w.Told != nil && w.Told.Size > 0 && c.Size >= 0 {
		if c.Size == w.Told.Size {
			c.add(Evidence{Code: ToldSize})
		} else {
			c.against(Evidence{Code: OtherToldSize, N: c.Size, Of: w.Told.Size})
		}
	}
	last := w.Last
	if last == nil || content {
		return
	}
	switch {
	case c.Size != last.Size && last.Lent:
		c.disputed = true
	case c.Size != last.Size:
		c.against(Evidence{Code: OtherSize, N: c.Size, Of: last.Size})
	case c.Size == last.Size && last.SHA256 == "":
		c.add(Evidence{Code: SameSize})
		rd.inode(c, last)
	}
	if last.Facts != (facts.Facts{}) {
		rd.Examine(c, w)
	}
}

// inode tells the very file that was last seen, which was only given another name: the
// same place on its drive, size and time.
func (rd Reading) inode(c *Candidate, last *Seen) {
	if last.Lent || last.Node.Ino == 0 || last.ModTime.IsZero() {
		return
	}
	info, err := rd.Reach.Lstat(c.Path)
	if err == nil && info.Mode.IsRegular() && info.Node.Dev == last.Node.Dev && info.Node.Ino == last.Node.Ino && info.ModTime.Equal(last.ModTime) {
		c.first(Evidence{Code: SameFile})
	}
}

// Examine opens a candidate once and tells what its header says: its kind by
// content, whether it holds what it claims, whether it is as long as the part
// that is used, and how it differs from what was last seen. What speaks against
// it leaves it possible at the most. Of the very content that was last seen only what
// the documents tell and use is asked: they may have changed since.
func (rd Reading) Examine(c *Candidate, w *Wanted) {
	proved := c.proved()
	if c.examined || c.Sequence || c.HasCode(ToldContent) || proved && w.Told == nil && len(w.Ranges) == 0 {
		return
	}
	c.examined = true
	f, err := rd.Reach.Open(c.Path)
	if err != nil {
		return
	}
	defer f.Close()
	if proved {
		if got, err := facts.Read(f, f.Size()); err == nil {
			w.compareLength(c, got)
		}
		return
	}
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
	w.product(c, f)
	if err == nil {
		w.compareLength(c, got)
		if w.Last != nil {
			c.differs(&got, w.Last)
			c.unwrap(f, &got, &w.Last.Facts)
			rd.listen(c, w, f)
		}
	}
}

// unwrap tells the same sound or picture in another wrapping, where everything but the
// bytes agrees. It is never proof: what stands beside the sound may be what counts.
func (c *Candidate) unwrap(f drive.File, got, last *facts.Facts) {
	if c.HasCode(LentContent) || last.Decoded == "" || got.Rate != last.Rate || got.Channels != last.Channels || got.Depth != last.Depth || got.Width != last.Width || got.Height != last.Height {
		return
	}
	if same, err := facts.DecodedWithin(f, f.Size(), facts.LargePixels); err != nil || same != last.Decoded {
		return
	}
	code := SameSound
	if last.Width > 0 {
		code = SamePicture
	}
	c.first(Evidence{Code: code, Text: strings.ToUpper(strings.TrimPrefix(filepath.Ext(c.Path), "."))})
	// That size and bytes are others is what another wrapping is.
	c.Against = slices.DeleteFunc(c.Against, func(e Evidence) bool { return e.Code == OtherSize || e.Code == OtherContent })
}

// listen tells a recording that sounds as the missing one did, through a lossy coding or
// at another rate. It is no more than possible: what was lost may be what counts.
func (rd Reading) listen(c *Candidate, w *Wanted, f drive.File) {
	if rd.Heard == nil || w.Kind != facts.Audio || c.HasCode(SameSound) {
		return
	}
	was, ok := rd.Heard(w.Expected)
	if !ok {
		return
	}
	is, err := acoustic.Of(f, f.Size())
	if l := was.Likeness(is); err == nil && l >= acoustic.Alike {
		c.add(Evidence{Code: SoundsAlike, N: int64(math.Round(100 * l))})
	}
}

// differs tells how a file's facts agree with what was last seen.
func (c *Candidate) differs(got *facts.Facts, seen *Seen) {
	last, against := &seen.Facts, len(c.Against)
	if seen.Lent { // another document's file may have been another one
		defer func() { c.Against = c.Against[:against] }()
	}
	pair := func(code Code) Evidence { return Evidence{Code: code, Have: got, Want: last} }
	if last.ID != "" && got.ID != "" {
		if got.ID == last.ID {
			c.add(pair(SameID))
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

// aFrame is how many seconds a length that a document tells or uses may differ from that of
// its file: documents count in frames, and some cut off what is less than one.
const aFrame = 1.0 / 24

// product holds what a part says that it is against what the document says.
func (w *Wanted) product(c *Candidate, f drive.File) {
	if w.Told == nil || w.Told.Product == "" || w.Kind != facts.Part {
		return
	}
	switch is := facts.Products(f, f.Size()); {
	case slices.Contains(is, w.Told.Product):
		c.add(Evidence{Code: SameProduct, Text: w.Told.Product})
	case len(is) > 0:
		c.against(Evidence{Code: OtherProduct, Text: is[0]})
	}
}

// compareLength holds a file's length against what the documents use and tell of it.
func (w *Wanted) compareLength(c *Candidate, got facts.Facts) {
	if got.Seconds <= 0 {
		return
	}
	switch need := w.neededLength(got); {
	case need > got.Seconds+aFrame:
		c.against(Evidence{Code: TooShort, N: int64(1000 * got.Seconds), Of: int64(1000 * need)})
	case need > 0:
		c.add(Evidence{Code: LongEnough})
	}
	if w.early(got) {
		c.against(Evidence{Code: OtherClock})
	}
	if w.Told == nil {
		return
	}
	if said, is := reelOf(w.Told.Reel), reelOf(got.Reel); said != "" && said == is {
		c.add(Evidence{Code: SameReel, Text: got.Reel})
	} else if said != "" && is != "" {
		c.against(Evidence{Code: OtherReel, Text: got.Reel})
	}
	if w.Told.Seconds <= 0 {
		return
	}
	if math.Abs(w.Told.Seconds-got.Seconds) <= aFrame {
		c.add(Evidence{Code: ToldLength})
	} else {
		c.against(Evidence{Code: OtherToldLength, N: int64(1000 * got.Seconds), Of: int64(1000 * w.Told.Seconds)})
	}
}

// reelOf is what an edit list can say of a reel's name: eight characters (SMPTE ST 258).
func reelOf(name string) string {
	name = strings.ToUpper(strings.TrimSpace(name))
	return name[:min(len(name), 8)]
}

// early tells that a part which is used lies before a recording begins, by the timecode
// that it tells.
func (w *Wanted) early(f facts.Facts) bool {
	begins, told := f.Begins()
	return told && slices.ContainsFunc(w.Ranges, func(r mention.Range) bool {
		return r.Start >= 3600 && r.Start < begins-aFrame
	})
}

// neededLength is how many seconds a file must have for the parts that the documents
// use. A part that begins within the first hour is counted from the file's
// beginning, a later one by the clock of a recording that tells it (common
// practice: timecode of material begins at an hour, or is the time of day).
func (w *Wanted) neededLength(f facts.Facts) float64 {
	var most float64
	begins, told := f.Begins()
	for _, r := range w.Ranges {
		end := r.Duration
		switch {
		case r.Start < 3600:
			end += r.Start
		case told:
			end += max(0, r.Start-begins)
		}
		most = max(most, end)
	}
	return most
}
