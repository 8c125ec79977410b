package export

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"path"
	"slices"
	"strings"

	"boundcrate/core/format/timecode"
	"boundcrate/core/graph"
)

// timeline is what a simpler form can be made of.
type timeline struct {
	name  string
	rate  timecode.Rate
	start int // the address of its first frame
	video []track
	audio []track
}

type track struct {
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

// Time values of a timeline (OpenTimelineIO's RationalTime and TimeRange).
type rational struct{ Value, Rate float64 }

func (r *rational) seconds() float64 {
	if r == nil || r.Rate <= 0 {
		return 0
	}
	return r.Value / r.Rate
}

type timeRange struct {
	Start    rational `json:"start_time"`
	Duration rational `json:"duration"`
}

// node is any object of a timeline; only what is asked for is read.
type node struct {
	Schema   string            `json:"OTIO_SCHEMA"`
	Name     string            `json:"name"`
	Kind     string            `json:"kind"`
	Enabled  *bool             `json:"enabled"`
	Source   *timeRange        `json:"source_range"`
	Global   *rational         `json:"global_start_time"`
	Tracks   *node             `json:"tracks"`
	Children []*node           `json:"children"`
	Markers  []any             `json:"markers"`
	Effects  []effect          `json:"effects"`
	Metadata json.RawMessage   `json:"metadata"`
	Media    *media            `json:"media_reference"`
	Medias   map[string]*media `json:"media_references"`
	Active   string            `json:"active_media_reference_key"`
}

type effect struct {
	Schema string `json:"OTIO_SCHEMA"`
}

type media struct {
	Schema    string          `json:"OTIO_SCHEMA"`
	Name      string          `json:"name"`
	URL       string          `json:"target_url"`
	Base      string          `json:"target_url_base"`
	Prefix    string          `json:"name_prefix"`
	Suffix    string          `json:"name_suffix"`
	Available *timeRange      `json:"available_range"`
	Metadata  json.RawMessage `json:"metadata"`
}

// whole takes out of a timeline what is not there: nulls among children and media.
func (n *node) whole() {
	if n == nil {
		return
	}
	n.Children = slices.DeleteFunc(n.Children, func(c *node) bool { return c == nil })
	maps.DeleteFunc(n.Medias, func(_ string, m *media) bool { return m == nil })
	n.Tracks.whole()
	for _, c := range n.Children {
		c.whole()
	}
}

func (n *node) is(schema string) bool { return strings.HasPrefix(n.Schema, schema+".") }

func said(m json.RawMessage) bool {
	s := strings.TrimSpace(string(m))
	return s != "" && s != "null" && s != "{}"
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

// reader walks a timeline once.
type reader struct {
	o     Options
	l     losses
	files map[string]graph.FileID // by what stands in the document
	rate  timecode.Rate
}

func readTimeline(o Options, l losses) (*timeline, error) {
	var root node
	if err := json.Unmarshal(o.Text, &root); err != nil {
		return nil, fmt.Errorf("it cannot be read as a timeline: %w", err)
	}
	root.whole()
	if !root.is("Timeline") || root.Tracks == nil {
		return nil, ErrNoTimeline
	}
	r := &reader{o: o, l: l, files: map[string]graph.FileID{}}
	for i := range o.Graph.References {
		if ref := &o.Graph.References[i]; ref.Doc == o.Doc && ref.File != graph.None {
			r.files[ref.Written] = ref.File
		}
	}
	r.rate = rateOf(fps(&root))
	t := &timeline{name: root.Name, rate: r.rate}
	if root.Global != nil {
		t.start = frames(root.Global.seconds(), r.rate)
	}
	r.extras(&root)
	r.extras(root.Tracks)
	for _, c := range root.Tracks.Children {
		if !c.is("Track") {
			r.nested(c)
			continue
		}
		r.extras(c)
		tr := track{name: c.Name, items: r.items(c)}
		for _, x := range c.Children {
			if x.is("Gap") && r.length(x) > 0 {
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

// fps is the rate that a timeline is counted in: that of its beginning, else of its
// first clip's range.
func fps(n *node) float64 {
	if n == nil {
		return 0
	}
	if n.Global != nil && n.Global.Rate > 0 {
		return n.Global.Rate
	}
	if n.Source != nil && n.Source.Duration.Rate > 0 && n.Source.Duration.Rate <= 240 {
		return n.Source.Duration.Rate
	}
	for _, c := range append([]*node{n.Tracks}, n.Children...) {
		if f := fps(c); f > 0 {
			return f
		}
	}
	return 0
}

func (r *reader) extras(n *node) {
	for range n.Markers {
		r.l.add(Marker, n.Name)
	}
	for _, e := range n.Effects {
		if strings.HasPrefix(e.Schema, "LinearTimeWarp") || strings.HasPrefix(e.Schema, "FreezeFrame") || strings.HasPrefix(e.Schema, "TimeEffect") {
			r.l.add(Speed, n.Name)
		} else {
			r.l.add(Effect, n.Name)
		}
	}
	if said(n.Metadata) {
		r.l.add(Metadata, n.Name)
	}
}

func (r *reader) nested(n *node) { r.l.add(NestedTimeline, n.Name) }

// length is how long something is on the timeline, in seconds.
func (r *reader) length(n *node) float64 {
	if n.Source != nil {
		return n.Source.Duration.seconds()
	}
	if m := n.media(); m != nil && m.Available != nil {
		return m.Available.Duration.seconds()
	}
	var sum float64
	for _, c := range n.Children {
		switch {
		case c.is("Transition"):
		case n.is("Stack"):
			sum = max(sum, r.length(c))
		default:
			sum += r.length(c)
		}
	}
	return sum
}

// media is what a clip uses.
func (n *node) media() *media {
	if m := n.Medias[n.Active]; m != nil {
		return m
	}
	if m := n.Medias["DEFAULT_MEDIA"]; m != nil {
		return m
	}
	return n.Media
}

func (r *reader) items(tr *node) (list []item) {
	at := 0.0
	for _, c := range tr.Children {
		length := r.length(c)
		begin := at
		switch {
		case c.is("Transition"):
			r.l.add(TransitionLost, c.Name)
			continue
		case c.is("Gap"):
			r.extras(c)
			at += length
			continue
		case !c.is("Clip"):
			r.nested(c)
			at += length
			continue
		}
		at += length
		r.extras(c)
		if c.Enabled != nil && !*c.Enabled {
			r.l.add(Disabled, c.Name)
			continue
		}
		if len(c.Medias) > 1 {
			r.l.add(AlternativeMedia, c.Name)
		}
		m := c.media()
		if m == nil {
			continue
		}
		if said(m.Metadata) {
			r.l.add(Metadata, c.Name)
		}
		cut := 0.0
		it := item{name: c.Name, seconds: length, at: frames(begin, r.rate), end: frames(begin+length, r.rate)}
		switch {
		case strings.HasPrefix(m.Schema, "GeneratorReference"):
			r.l.add(Generator, c.Name)
			continue
		case strings.HasPrefix(m.Schema, "ImageSequenceReference"):
			it.sequence = true
			var id graph.FileID
			if it.path, id = r.file(r.sequence(m)); it.path != "" && r.o.Cut != nil {
				cut = r.o.Cut(id)
			}
		default:
			if id, ok := r.files[m.URL]; ok && r.timeline(id) {
				r.nested(c)
				continue
			}
			var id graph.FileID
			if it.path, id = r.file(m.URL); it.path != "" && r.o.Channels != nil {
				it.wide, it.apart = r.o.Channels(id)
			}
			if it.path != "" && r.o.Cut != nil {
				cut = r.o.Cut(id)
			}
		}
		if it.path == "" {
			continue // it has no file that could be named
		}
		start, origin := 0.0, 0.0
		if m.Available != nil {
			origin = m.Available.Start.seconds()
		}
		if c.Source != nil {
			start = c.Source.Start.seconds()
		} else {
			start = origin
		}
		if origin > 0 || it.sequence { // as its document tells it anew
			origin += cut
		} else {
			start -= cut
		}
		it.origin = frames(origin, r.rate)
		it.in = frames(start, r.rate)
		it.out = it.in + it.end - it.at
		list = append(list, it)
	}
	return list
}

// timeline tells files that are timelines themselves.
func (r *reader) timeline(id graph.FileID) bool {
	d := r.o.Graph.Files[id].Doc
	return d != graph.None && r.o.Graph.Documents[d].Format == "otio"
}

// sequence is what the trace calls a sequence's place.
func (r *reader) sequence(m *media) string {
	for written := range r.files {
		if strings.Contains(written, m.Prefix) && strings.HasSuffix(written, m.Suffix) && strings.HasPrefix(written, m.Base) {
			return written
		}
	}
	return ""
}

func (r *reader) file(written string) (name string, id graph.FileID) {
	id, ok := r.files[written]
	if !ok {
		return "", graph.None
	}
	return r.o.Name(id), id
}

// flat is all that plays, in the order in which it begins, pictures before sound: for
// forms that have no time.
func (t *timeline) flat(l losses) (list []entry) {
	for n, tracks := range [][]track{t.video, t.audio} {
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
