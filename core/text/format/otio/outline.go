package otio

import (
	"errors"

	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
)

// Time is a RationalTime: a value in units of a rate a second.
type Time struct{ Value, Rate float64 }

// Seconds is 0 where there is no rate.
func (t Time) Seconds() float64 {
	if t.Rate <= 0 {
		return 0
	}
	return t.Value / t.Rate
}

// Range is a TimeRange.
type Range struct{ Start, Duration Time }

// Part is an object of a timeline: the timeline itself, a stack, a track, a clip, a gap,
// a transition, a media reference.
type Part struct {
	Schema     string // without its version
	Name, Kind string
	Disabled   bool
	Global     *Time  // at what a timeline begins to count
	Source     *Range // the part that is used
	Available  *Range // of a media reference: what there is
	Tracks     *Part
	Children   []*Part
	Markers    int
	Effects    []string // their schemas, without versions
	Metadata   bool     // it says something
	Media      []*Part  // of a clip, all its media references
	Playing    *Part    // the one of them that is active; nil: none
	Mention    int      // of a media reference, its mention in the document; -1: none

	place mention.Span
}

// Outline is what a timeline that was read says of time: the same reading as [Format.Read],
// its objects kept.
func Outline(doc *mention.Doc) (*Part, error) {
	r := &reader{s: jsonscan.New(doc.Texts[0].Bytes), t: doc.Texts[0], lines: doc.Texts[0].Lines(), doc: &mention.Doc{Texts: doc.Texts[:1]}, keep: true}
	root, err := r.node(0)
	if err == nil {
		err = r.s.End()
	}
	if err != nil {
		return nil, err
	}
	if root.part == nil || root.schema == "" {
		return nil, errors.New("its outermost object has no OTIO_SCHEMA")
	}
	at := map[mention.Span]int{}
	for i := range doc.Mentions {
		if m := &doc.Mentions[i]; len(m.Pieces) > 0 {
			at[m.Pieces[0].Span] = i
		}
	}
	root.part.number(at)
	return root.part, nil
}

// number finds the mentions of media references by where they stand: mentions are put in
// order once all is read.
func (p *Part) number(at map[mention.Span]int) {
	p.Mention = -1
	if i, ok := at[p.place]; ok && p.place.End > 0 {
		p.Mention = i
	}
	for _, list := range [][]*Part{{p.Tracks}, p.Children, p.Media} {
		for _, c := range list {
			if c != nil {
				c.number(at)
			}
		}
	}
}

// part is what is kept of an object that was read.
func (r *reader) part(n *node) {
	if !r.keep {
		return
	}
	p := n.part
	p.Schema, p.Name, p.Disabled = n.schema, n.name, n.disabled
	p.Source, p.Available = n.src.known(), n.avail.known()
	if isReference(n.schema) && len(r.doc.Mentions) > n.first {
		if m := &r.doc.Mentions[n.first]; len(m.Pieces) > 0 {
			p.place = m.Pieces[0].Span
		}
	}
	for i := range n.refs {
		ref := &n.refs[i]
		if ref.part == nil {
			continue
		}
		p.Media = append(p.Media, ref.part)
		if n.plays(ref) {
			p.Playing = ref.part
		}
	}
}

func (r *timeRange) known() *Range {
	if r == nil {
		return nil
	}
	return &Range{Time{r.start, r.startRate}, Time{r.dur, r.durRate}}
}

// outlined reads the members that only an outline keeps; all others are passed over.
func (r *reader) outlined(n *node, key string) error {
	c := r.s.Peek()
	switch {
	case key == "kind" && c == '"':
		span, err := r.s.String()
		if err == nil {
			n.part.Kind = r.s.Text(span)
		}
		return err
	case key == "global_start_time" && c == '{':
		n.part.Global = &Time{}
		var at mention.Span
		return r.time(&n.part.Global.Value, &n.part.Global.Rate, &at)
	}
	_, err := r.s.Skip()
	return err
}

// effects reads the schemas of effects.
func (r *reader) effects(n *node) error {
	if !r.keep || r.s.Peek() != '[' {
		span, err := r.s.Skip()
		n.effects = some(r.t.Bytes[span.Off:span.End])
		return err
	}
	return r.s.Array(func(int) error {
		n.effects = true
		effect, err := r.node(0)
		n.part.Effects = append(n.part.Effects, effect.schema)
		return err
	})
}
