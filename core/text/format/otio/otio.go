// Package otio reads OpenTimelineIO documents (the ASWF's open standard,
// serialised as JSON with an OTIO_SCHEMA member in every object).
package otio

import (
	"bytes"
	"errors"
	"math"
	"slices"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "otio".
func (Format) Name() string { return "otio" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "OpenTimelineIO timeline", Extensions: []string{"otio", "otioz"}, Knows: "clips with all their media references, image sequences, nested timelines, what is switched off, where tracks record to"}
}

// Main is content.otio: an OTIO bundle holds it beside its media.
func (Format) Main(members []string) string {
	if slices.Contains(members, "content.otio") {
		return "content.otio"
	}
	return ""
}

// Claims looks for OTIO_SCHEMA near the beginning, else goes by the extension.
func (Format) Claims(name string, head []byte) int {
	if bytes.Contains(head, []byte(`"OTIO_SCHEMA"`)) {
		return 95
	}
	if format.Ext(name) == "otio" {
		return 40
	}
	return 0
}

// Read reads timelines, stacks, tracks, clips and collections to the last
// media reference, and where tracks record to. Other metadata, effects and
// markers name nothing.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{s: jsonscan.New(t.Bytes), t: t, lines: t.Lines(), doc: &mention.Doc{Texts: []mention.Text{t}}}
	root, err := r.node(0)
	if r.fades {
		r.still(0)
	}
	r.doc.InOrder() // references are known when their objects end
	for i := range r.doc.Mentions {
		if !t.Member {
			break // only a bundle holds media
		}
		switch m := &r.doc.Mentions[i]; {
		case m.Nature == mention.Unsaved:
		case m.Sequence != nil:
			format.Frames(t, m)
		case len(m.Pieces) > 0:
			format.Held(t, m, r.doc.Name(i), format.Sealed) // a bundle holds its media (OTIO file bundles)
		}
	}
	if err != nil {
		return r.doc, err
	}
	if root.schema == "" {
		return r.doc, errors.New("its outermost object has no OTIO_SCHEMA")
	}
	return r.doc, r.s.End()
}

type reader struct {
	s     *jsonscan.Scanner
	t     mention.Text
	lines *mention.Lines
	doc   *mention.Doc
	// placed tells of each mention whether its owner already begins with a track.
	placed []bool
	fades  bool // there are transitions
	keep   bool // the objects are kept, for an outline
}

// still takes back that parts of files can be told anew.
func (r *reader) still(first int) {
	for i := first; i < len(r.doc.Mentions); i++ {
		r.doc.Mentions[i].Slide = nil
	}
}

// node is what is known of one object once it was read: its members may stand
// in any order, so nothing is decided before its end.
type node struct {
	schema, name string // schema without its version
	off          int64  // after the opening brace
	disabled     bool
	first        int // mentions below it are [first, len(doc.Mentions))
	refs         []reference
	active       string
	urlBad       bool
	text         [len(texts)]mention.Span // of the texts, by their order; empty: not there
	num          map[string]float64
	firstAt      mention.Span // of a sequence's first number
	avail, src   *timeRange
	part         *Part            // what is kept of it
	marks        []mention.Number // where markers begin
	unmarked     bool             // a marker does not tell where it begins
	effects      bool             // it is played otherwise than it was shot, perhaps
	loose        []int            // mentions that are references directly among its children
	record       []mention.Span   // texts of metadata.bound_crate.record_to
}

// texts are the members that make up a name.
var texts = [...]string{"target_url", "target_url_base", "name_prefix", "name_suffix"}

type reference struct {
	key         string
	first, last int
	avail       *timeRange
	images      *mention.Number // of a sequence: its first number
	series      bool
	part        *Part
}

type timeRange struct {
	start, startRate, dur, durRate float64
	startAt, durAt                 mention.Span // of the values
}

// slide is where a clip's part of a file can be told anew. Of a file that is counted from
// nothing the beginning of the part is, of others and of sequences at what they are
// counted: what the part itself says holds then.
func slide(src *timeRange, ref reference) *mention.Slide {
	avail := ref.avail
	if src == nil || src.startRate <= 0 || src.startAt.End == 0 || ref.series && ref.images == nil {
		return nil
	}
	s := &mention.Slide{Start: mention.Number{Span: src.startAt, Value: src.start, Rate: src.startRate}, First: ref.images}
	switch {
	case avail == nil && ref.images == nil:
		return s
	case avail == nil || avail.durRate <= 0 || avail.durAt.End == 0:
		return nil
	case avail.start != 0 || ref.images != nil:
		if avail.startRate <= 0 || avail.startAt.End == 0 {
			return nil
		}
		s.Start, s.Raised, s.Origin = mention.Number{Span: avail.startAt, Value: avail.start, Rate: avail.startRate}, true, avail.start/avail.startRate
	}
	s.Whole = &mention.Number{Span: avail.durAt, Value: avail.dur, Rate: avail.durRate}
	return s
}

// images is where the first number of a sequence stands; nil where it does not.
func (n *node) images() *mention.Number {
	rate, step := n.num["rate"], max(1, n.num["frame_step"])
	if n.schema != "ImageSequenceReference" || rate <= 0 || n.firstAt.End == 0 || n.num["start_frame"] != math.Trunc(n.num["start_frame"]) {
		return nil
	}
	return &mention.Number{Span: n.firstAt, Value: n.num["start_frame"], Rate: rate / step}
}

func (n *node) reference(key string, first, last int) reference {
	return reference{key, first, last, n.avail, n.images(), n.schema == "ImageSequenceReference", n.part}
}

// whole is what an available range tells of its file: how long it is.
func (r *timeRange) whole() *mention.Told {
	if s := r.seconds(); s != nil {
		return mention.Told{Seconds: s.Duration}.OrNil()
	}
	return nil
}

func (r *timeRange) seconds() *mention.Range {
	if r == nil || r.startRate <= 0 || r.durRate <= 0 {
		return nil
	}
	return &mention.Range{Start: r.start / r.startRate, Duration: r.dur / r.durRate}
}

func (r *reader) problem(off int64, kind problem.Kind, args ...string) {
	r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: kind, Line: r.lines.At(off), Args: args})
}

// wrong reports a member of another type than the standard gives it, and
// passes over it.
func (r *reader) wrong(key, want string) error {
	off := r.s.Pos()
	if _, err := r.s.Skip(); err != nil {
		return err
	}
	r.problem(off, problem.WrongType, key, want)
	return nil
}

// node reads one object; index is its place among its siblings.
func (r *reader) node(index int) (node, error) {
	if r.s.Peek() != '{' {
		if _, err := r.s.Skip(); err != nil {
			return node{}, err
		}
		return node{}, nil
	}
	n := node{off: r.s.Pos() + 1, first: len(r.doc.Mentions), active: "DEFAULT_MEDIA"}
	if r.keep {
		n.part = &Part{}
	}
	err := r.s.Object(func(key string) error { return r.member(&n, key) })
	if err != nil {
		// What was read of a cut-off clip is still worth showing.
		r.finish(&n, index)
		return n, err
	}
	r.finish(&n, index)
	return n, nil
}

func (r *reader) member(n *node, key string) error {
	switch key {
	case "OTIO_SCHEMA", "name", "active_media_reference_key":
		return r.called(n, key)
	case "enabled":
		span, err := r.s.Skip()
		if v, ok := r.s.Bool(span); err == nil && ok {
			n.disabled = !v
		}
		return err
	case "children", "tracks", "media_reference", "media_references":
		return r.below(n, key)
	case "target_url", "target_url_base", "name_prefix", "name_suffix":
		if c := r.s.Peek(); c != '"' && c != 'n' {
			n.urlBad = true
			return r.wrong(key, "text")
		}
		span, err := r.s.Skip()
		if err != nil {
			return err
		}
		n.text[slices.Index(texts[:], key)] = span
		return nil
	case "effects":
		return r.effects(n)
	case "markers":
		return r.markers(n)
	case "metadata":
		if r.s.Peek() != '{' {
			_, err := r.s.Skip()
			return err
		}
		return r.metadata(n)
	case "start_frame", "frame_step", "rate", "frame_zero_padding":
		return r.number(n, key)
	case "available_range", "source_range":
		return r.ranged(n, key)
	}
	if r.keep {
		return r.outlined(n, key)
	}
	_, err := r.s.Skip()
	return err
}

// called reads what an object and its active medium are called.
func (r *reader) called(n *node, key string) error {
	if c := r.s.Peek(); c != '"' {
		if c != 'n' {
			return r.wrong(key, "text")
		}
		_, err := r.s.Skip()
		return err
	}
	span, err := r.s.String()
	if err != nil {
		return err
	}
	switch v := r.s.Text(span); key {
	case "OTIO_SCHEMA":
		n.schema, _, _ = strings.Cut(v, ".")
	case "name":
		n.name = v
	default:
		n.active = v
	}
	return nil
}

// below reads the members that hold objects of a timeline.
func (r *reader) below(n *node, key string) error {
	c := r.s.Peek()
	switch key {
	case "children":
		if c != '[' {
			return r.wrong(key, "a list")
		}
		return r.s.Array(func(i int) error {
			child, err := r.node(i)
			if isReference(child.schema) {
				for k := child.first; k < len(r.doc.Mentions); k++ {
					n.loose = append(n.loose, k)
				}
			}
			if child.part != nil {
				n.part.Children = append(n.part.Children, child.part)
			}
			return err
		})
	case "media_references":
		if c != '{' {
			return r.wrong(key, "an object")
		}
		return r.s.Object(func(k string) error {
			first := len(r.doc.Mentions)
			child, err := r.node(0)
			n.refs = append(n.refs, child.reference("="+k, first, len(r.doc.Mentions)))
			return err
		})
	}
	if c != '{' && c != 'n' {
		return r.wrong(key, "an object")
	}
	first := len(r.doc.Mentions)
	child, err := r.node(0)
	switch {
	case key == "media_reference" && c == '{':
		n.refs = append(n.refs, child.reference("", first, len(r.doc.Mentions)))
	case key == "tracks" && n.part != nil:
		n.part.Tracks = child.part
	}
	return err
}

func (r *reader) number(n *node, key string) error {
	v, span, ok, err := r.s.NumberAt()
	if ok && key == "start_frame" {
		n.firstAt = span
	}
	if ok {
		if n.num == nil {
			n.num = map[string]float64{}
		}
		n.num[key] = v
	}
	return err
}

func (r *reader) ranged(n *node, key string) error {
	if r.s.Peek() != '{' {
		_, err := r.s.Skip()
		return err
	}
	tr, err := r.timeRange()
	if key == "source_range" {
		n.src = tr
	} else {
		n.avail = tr
	}
	return err
}

// markers reads where markers begin, in the time of what they belong to.
func (r *reader) markers(n *node) error {
	if r.s.Peek() != '[' {
		_, err := r.s.Skip()
		return err
	}
	return r.s.Array(func(int) error {
		if n.part != nil {
			n.part.Markers++
		}
		if r.s.Peek() != '{' {
			_, err := r.s.Skip()
			return err
		}
		told := false
		err := r.s.Object(func(key string) error {
			if key != "marked_range" && key != "range" || r.s.Peek() != '{' { // Marker.1 says range
				_, err := r.s.Skip()
				return err
			}
			tr, err := r.timeRange()
			if told = tr.startRate > 0 && tr.startAt.End > 0; told {
				n.marks = append(n.marks, mention.Number{Span: tr.startAt, Value: tr.start, Rate: tr.startRate})
			}
			return err
		})
		n.unmarked = n.unmarked || !told
		return err
	})
}

// some tells a list with something in it.
func some(raw []byte) bool {
	s := string(bytes.Trim(raw, "[] \t\r\n"))
	return s != "" && s != "null"
}

// metadata looks for where a track records to. The standard leaves metadata to
// whoever writes it; this key is of our own.
func (r *reader) metadata(n *node) error {
	record := func() error {
		span, err := r.s.Skip()
		if err == nil && span.End-span.Off > 2 && r.t.Bytes[span.Off] == '"' {
			n.record = append(n.record, span)
		}
		return err
	}
	return r.s.Object(func(key string) error {
		if n.part != nil {
			n.part.Metadata = true
		}
		switch {
		case key == "bound_crate.record_to":
			return record()
		case key == "bound_crate" && r.s.Peek() == '{':
			return r.s.Object(func(key string) error {
				if key == "record_to" {
					return record()
				}
				_, err := r.s.Skip()
				return err
			})
		}
		_, err := r.s.Skip()
		return err
	})
}

func (r *reader) timeRange() (*timeRange, error) {
	var tr timeRange
	err := r.s.Object(func(key string) error {
		v, rate, at := &tr.start, &tr.startRate, &tr.startAt
		if key == "duration" {
			v, rate, at = &tr.dur, &tr.durRate, &tr.durAt
		} else if key != "start_time" || r.s.Peek() != '{' {
			_, err := r.s.Skip()
			return err
		}
		if r.s.Peek() != '{' {
			_, err := r.s.Skip()
			return err
		}
		return r.time(v, rate, at)
	})
	return &tr, err
}

// time reads a RationalTime.
func (r *reader) time(v, rate *float64, at *mention.Span) error {
	return r.s.Object(func(key string) error {
		x, span, ok, err := r.s.NumberAt()
		if ok && key == "value" {
			*v, *at = x, span
		} else if ok && key == "rate" {
			*rate = x
		}
		return err
	})
}
