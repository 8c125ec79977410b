package export

import (
	"fmt"
	"math"
	"path"
	"strings"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/format/otio"
	"boundcrate/core/text/format/timecode"
)

// timeline is what a simpler form can be made of.
type timeline struct {
	name  string
	rate  timecode.Rate
	start int // the address of its first frame
	video []lane
	audio []lane
}

// lane is a track of it.
type lane struct {
	name  string
	items []item
	gaps  int
}

// item is a clip that stands in a track, in frames of the timeline's rate.
type item struct {
	name     string
	path     string   // of its file, "" where there is none
	in, out  int      // of the source
	origin   int      // at which its first frame is counted
	wide     int      // channels of its sound
	apart    []string // the files that hold one each; none: they lie in one
	at, end  int      // on the timeline
	seconds  float64
	sequence bool
}

// rateOf is a timecode rate of frames a second: whole ones, and those of 1000/1001.
func rateOf(fps float64) timecode.Rate {
	whole := math.Round(fps)
	if whole < 1 || whole > 240 {
		return timecode.Rate{Num: 25, Den: 1}
	}
	if math.Abs(fps-whole) < 0.001 {
		return timecode.Rate{Num: int(whole), Den: 1}
	}
	if near := math.Ceil(fps); math.Abs(fps-near*1000/1001) < 0.005 {
		return timecode.Rate{Num: int(near) * 1000, Den: 1001, Drop: near == 30}
	}
	return timecode.Rate{Num: int(math.Round(fps * 1000)), Den: 1000}
}

func frames(seconds float64, r timecode.Rate) int {
	return int(math.Round(seconds * float64(r.Num) / float64(r.Den)))
}

// reader walks a timeline once, as its format read it.
type reader struct {
	o     Options
	l     losses
	files map[int]graph.FileID // by mention
	rate  timecode.Rate
}

// filesOf are the files that the mentions of a document lead to.
func filesOf(o Options) map[int]graph.FileID {
	files := map[int]graph.FileID{}
	for i := range o.Graph.References {
		if ref := &o.Graph.References[i]; ref.Doc == o.Doc && ref.File != graph.None {
			files[int(ref.Mention)] = ref.File
		}
	}
	return files
}

func readTimeline(o Options, l losses) (*timeline, error) {
	root, err := otio.Outline(o.Says)
	if err != nil {
		return nil, fmt.Errorf("it cannot be read as a timeline: %w", err)
	}
	if root.Schema != "Timeline" || root.Tracks == nil {
		return nil, ErrNoTimeline
	}
	r := &reader{o: o, l: l, files: filesOf(o)}
	if r.rate = rateOf(fps(root)); o.As == EDL {
		r.common(root.Name)
	}
	t := &timeline{name: root.Name, rate: r.rate}
	if root.Global != nil {
		t.start = frames(root.Global.Seconds(), r.rate)
	}
	r.extras(root)
	r.extras(root.Tracks)
	for _, c := range root.Tracks.Children {
		if !track(c) {
			r.l.add(NestedTimeline, c.Name)
			continue
		}
		r.extras(c)
		tr := lane{name: c.Name, items: r.items(c)}
		for _, x := range c.Children {
			if x.Schema == "Gap" && length(x) > 0 {
				tr.gaps++
			}
		}
		if strings.EqualFold(c.Kind, "Audio") {
			t.audio = append(t.audio, tr)
		} else {
			t.video = append(t.video, tr)
		}
	}
	return t, nil
}

// common takes a rate that two figures of frames can count, and tells where it is none that
// edit decision lists are made for (SMPTE ST 258: those of television).
func (r *reader) common(name string) {
	for r.rate.Nominal() > 60 {
		r.rate.Den *= 2
	}
	if n := r.rate.Nominal(); n != 24 && n != 25 && n != 30 || r.rate.Num%r.rate.Den != 0 && r.rate.Den != 1001 {
		r.l.add(OddRate, name)
	}
}

// day tells of an address that lies beyond a day.
func (t *timeline) day(l losses, name string, frames ...int) {
	for _, f := range frames {
		if f >= 24*3600*t.rate.Nominal() || f < 0 {
			l.add(PastMidnight, name)
			return
		}
	}
}

// track tells tracks; Sequence is their older name.
func track(p *otio.Part) bool { return p.Schema == "Track" || p.Schema == "Sequence" }

// fps is the rate that a timeline is counted in: that of its beginning, else of its
// first clip's range.
func fps(p *otio.Part) float64 {
	if p == nil {
		return 0
	}
	if p.Global != nil && p.Global.Rate > 0 {
		return p.Global.Rate
	}
	if p.Source != nil && p.Source.Duration.Rate > 0 && p.Source.Duration.Rate <= 240 {
		return p.Source.Duration.Rate
	}
	if f := fps(p.Tracks); f > 0 {
		return f
	}
	for _, c := range p.Children {
		if f := fps(c); f > 0 {
			return f
		}
	}
	return 0
}

// extras counts what no simpler form carries of a part.
func (r *reader) extras(p *otio.Part) {
	for range p.Markers {
		r.l.add(Marker, p.Name)
	}
	for _, e := range p.Effects {
		if e == "LinearTimeWarp" || e == "FreezeFrame" || strings.HasPrefix(e, "TimeEffect") {
			r.l.add(Speed, p.Name)
		} else {
			r.l.add(Effect, p.Name)
		}
	}
	if p.Metadata {
		r.l.add(Metadata, p.Name)
	}
}

// length is how long something is on the timeline, in seconds.
func length(p *otio.Part) float64 {
	if p.Source != nil {
		return p.Source.Duration.Seconds()
	}
	if m := p.Playing; m != nil && m.Available != nil {
		return m.Available.Duration.Seconds()
	}
	var sum float64
	for _, c := range p.Children {
		switch {
		case c.Schema == "Transition":
		case p.Schema == "Stack":
			sum = max(sum, length(c))
		default:
			sum += length(c)
		}
	}
	return sum
}

func (r *reader) items(tr *otio.Part) (list []item) {
	at := 0.0
	for _, c := range tr.Children {
		long := length(c)
		switch c.Schema {
		case "Transition":
			r.l.add(TransitionLost, c.Name)
			continue
		case "Gap":
			r.extras(c)
		case "Clip":
			if it, ok := r.clip(c, at, long); ok {
				list = append(list, it)
			}
		default:
			r.l.add(NestedTimeline, c.Name)
		}
		at += long
	}
	return list
}

// clip is what plays of a clip that begins at a time of the timeline; not ok where it
// has no file that could be named.
func (r *reader) clip(c *otio.Part, at, long float64) (item, bool) {
	r.extras(c)
	if c.Disabled {
		r.l.add(Disabled, c.Name)
		return item{}, false
	}
	if len(c.Media) > 1 {
		r.l.add(AlternativeMedia, c.Name)
	}
	m := c.Playing
	if m == nil {
		return item{}, false
	}
	if m.Metadata {
		r.l.add(Metadata, c.Name)
	}
	if m.Schema == "GeneratorReference" {
		r.l.add(Generator, c.Name)
		return item{}, false
	}
	id, ok := r.files[m.Mention]
	if !ok {
		return item{}, false
	}
	if r.timeline(id) {
		r.l.add(NestedTimeline, c.Name)
		return item{}, false
	}
	it := item{name: c.Name, seconds: long, at: frames(at, r.rate), end: frames(at+long, r.rate)}
	it.sequence = m.Schema == "ImageSequenceReference"
	if it.path = r.o.Name(id); it.path == "" {
		return item{}, false
	}
	if r.o.Channels != nil && !it.sequence {
		it.wide, it.apart = r.o.Channels(id)
	}
	cut := 0.0
	if r.o.Cut != nil {
		cut = r.o.Cut(id)
	}
	origin := 0.0
	if m.Available != nil {
		origin = m.Available.Start.Seconds()
	}
	start := origin
	if c.Source != nil {
		start = c.Source.Start.Seconds()
	}
	if origin > 0 || it.sequence { // as its document tells it anew
		origin += cut
	} else {
		start -= cut
	}
	it.origin = frames(origin, r.rate)
	it.in = frames(start, r.rate)
	it.out = it.in + it.end - it.at
	return it, true
}

// timeline tells files that are timelines themselves.
func (r *reader) timeline(id graph.FileID) bool {
	d := r.o.Graph.Files[id].Doc
	return d != graph.None && r.o.Graph.Documents[d].Format == "otio"
}

// flat is all that plays, in the order in which it begins, pictures before sound: for
// forms that have no time.
func (t *timeline) flat(l losses) (list []entry) {
	for n, tracks := range [][]lane{t.video, t.audio} {
		for i, tr := range tracks {
			if i > 0 || n == 1 && len(t.video) > 0 {
				l.add(ExtraTrack, tr.name)
			}
			for range tr.gaps {
				l.add(Gap, tr.name)
			}
			for _, it := range tr.items {
				if it.sequence {
					l.add(Sequence, it.name)
				}
				list = append(list, entry{path: it.path, title: it.name, seconds: it.seconds, start: float64(it.in) * float64(t.rate.Den) / float64(t.rate.Num), timed: true})
			}
		}
	}
	return list
}

func base(p string) string { return path.Base(p) }
