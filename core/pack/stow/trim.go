package stow

import (
	"math"
	"path/filepath"
	"strconv"
	"strings"

	"boundcrate/core/media/pcm"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// slack is by how much a part may reach beyond its file, in seconds: documents round to
// frames.
const slack = 0.5 / 24

// usedOf is the part that a reference uses, in seconds from the beginning of its file; not ok
// where its document cannot tell it anew.
func usedOf(r *graph.Reference) (from, to float64, ok bool) {
	if r.Slide == nil || r.Range == nil || r.Range.Duration <= 0 {
		return 0, 0, false
	}
	from = r.Range.Start
	if r.Slide.Raised {
		from -= r.Slide.Origin
	}
	return max(0, from), from + r.Range.Duration, from > -slack
}

// standsForOthers tells a file that something else uses which cannot tell its part anew: a
// duplicate whose place it takes, a document that goes along.
func (p *planner) standsForOthers(file graph.FileID) bool {
	if p.shared[p.Graph.Files[file].Path] {
		return true
	}
	for id, other := range p.Selection.As {
		if other == file && len(p.Graph.Files[id].Refs) > 0 {
			return true
		}
	}
	return false
}

// thin leaves of a sequence the images that its documents use, and those of the seconds
// around them.
func (p *planner) thin(b *Berth) {
	if p.o.Trim == nil || b.Absent || b.File == graph.None || !b.sequence || p.standsForOthers(b.File) {
		return
	}
	f := &p.Graph.Files[b.File]
	of := f.Frames.Said
	count := f.Frames.Count
	first, last, rate := math.Inf(1), 0.0, 0.0
	for _, id := range f.Refs {
		r := &p.Graph.References[id]
		if _, stays := p.Selection.Stays[p.Graph.Documents[r.Doc].File]; stays {
			continue
		}
		from, to, ok := usedOf(r)
		if !ok || !r.Slide.Images || r.Slide.First != float64(of.First) || rate != 0 && r.Slide.Rate != rate || to > float64(count)/r.Slide.Rate+slack {
			return
		}
		rate = r.Slide.Rate
		first, last = min(first, from), max(last, to)
	}
	if rate == 0 {
		return
	}
	const whole = 1e-6 // of an image: times of 1000/1001 are not told exactly
	c := pcm.Cut{First: int64(max(0, math.Floor((first-*p.o.Trim)*rate+whole)))}
	c.Frames = min(int64(count), int64(math.Ceil((last+*p.o.Trim)*rate-whole))) - c.First
	if c.Frames <= 0 || c.Frames >= int64(count) {
		return
	}
	var frames []string
	var sizes []int64
	size := int64(0)
	for i, path := range b.Frames {
		n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimPrefix(filepath.Base(path), b.origin.Head), b.origin.Tail))
		if at := int64(n - of.First); err != nil || at < c.First*int64(of.Step) || at >= (c.First+c.Frames)*int64(of.Step) {
			continue
		}
		frames, sizes, size = append(frames, path), append(sizes, b.sizes[i]), size+b.sizes[i]
	}
	if len(frames) == 0 || len(frames) == len(b.Frames) {
		return
	}
	h := b.soundResult()
	h.Cut, h.Long, h.rate, h.Raw = &c, int64(count), rate, b.Size
	b.step, b.Size, b.Frames, b.sizes = of.Step, size, frames, sizes
}

// shift is how a document tells the part of a file anew that was cut.
type shift struct {
	from   float64 // seconds that are cut off at its beginning
	first  int     // of a sequence: the number of its first file
	images int     // of that: how many there are
}

// slide are the edits by which a document tells the parts of files that are cut, and what
// it tells then, by its mentions.
func (p *Texts) slide(refs []graph.RefID, file *format.File) ([]mention.Edit, map[int]shift, error) {
	var edits []mention.Edit
	by := map[int]shift{}
	number := func(n *mention.Number, value float64) {
		if near := math.Round(value); math.Abs(value-near) < 1e-6 {
			value = near
		}
		raw := string(file.Doc.Texts[n.Span.Text].Bytes[n.Span.Off:n.Span.End])
		text := strconv.FormatFloat(value, 'f', -1, 64)
		if strings.Contains(raw, ".") && !strings.Contains(text, ".") {
			text += ".0"
		}
		if text != raw {
			edits = append(edits, mention.Edit{Span: n.Span, New: []byte(text)})
		}
	}
	for _, n := range refs {
		r := &p.Graph.References[n]
		if r.File == graph.None || p.of[r.File] < 0 {
			continue
		}
		b := &p.Berths[p.of[r.File]]
		if b.Cut == nil {
			continue
		}
		k := int(r.Mention)
		if k >= len(file.Doc.Mentions) || file.Doc.Mentions[k].Slide == nil {
			return nil, nil, errOther
		}
		s := file.Doc.Mentions[k].Slide
		to := shift{from: b.lacks()}
		from := to.from * s.Start.Rate
		if !s.Raised {
			from = -from
		}
		number(&s.Start, s.Start.Value+from)
		for i := range s.Marks {
			number(&s.Marks[i], s.Marks[i].Value-to.from*s.Marks[i].Rate)
		}
		if s.Whole != nil {
			long := float64(b.Cut.Frames) / b.rate * s.Whole.Rate
			if !b.sequence {
				long = math.Floor(long + 1e-6)
			}
			number(s.Whole, long)
		}
		if s.First != nil {
			to.first, to.images = int(s.First.Value)+int(b.Cut.First)*b.step, int(b.Cut.Frames)
			number(s.First, float64(to.first))
		}
		by[k] = to
	}
	return edits, by, nil
}

// sameTimes holds what a document that was rewritten tells of the parts it uses against what
// it shall: the same sound and the same images as before.
func sameTimes(was, is *mention.Doc, by map[int]shift) bool {
	for k := range was.Mentions {
		m, now := &was.Mentions[k], &is.Mentions[k]
		if m.Slide == nil || m.Range == nil {
			continue
		}
		if now.Slide == nil || now.Range == nil || now.Slide.Raised != m.Slide.Raised || now.Range.Duration != m.Range.Duration {
			return false
		}
		s := by[k]
		at := func(m *mention.Mention) float64 {
			if m.Slide.Raised {
				return m.Range.Start - m.Slide.Origin
			}
			return m.Range.Start
		}
		if math.Abs(at(m)-s.from-at(now)) > 1e-6 {
			return false
		}
		if len(now.Slide.Marks) != len(m.Slide.Marks) {
			return false
		}
		for i := range m.Slide.Marks {
			if before, after := &m.Slide.Marks[i], &now.Slide.Marks[i]; math.Abs(before.Value/before.Rate-s.from-after.Value/after.Rate) > 1e-6 {
				return false
			}
		}
		if s.images > 0 && (now.Sequence == nil || now.Sequence.First != s.first || now.Sequence.Count != s.images) {
			return false
		}
	}
	return true
}

// lacks is how much is cut off at the beginning of a file, in seconds.
func (b *Berth) lacks() float64 {
	if b.Cut == nil || b.Cut.First == 0 {
		return 0
	}
	return float64(b.Cut.First) / b.rate
}
