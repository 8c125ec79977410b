package otio

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/format/timecode"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

func isReference(schema string) bool {
	switch schema {
	case "ExternalReference", "ImageSequenceReference", "MissingReference":
		return true
	}
	return false
}

// finish decides what an object is, once all its members are known.
func (r *reader) finish(n *node, index int) {
	if n.effects && n.schema != "Clip" { // of a whole track: who knows how its clips play
		r.still(n.first)
	}
	switch n.schema {
	case "Transition": // it needs more of its neighbours than they say
		r.fades = true
	case "ExternalReference":
		if !n.urlBad {
			r.external(n)
		}
	case "ImageSequenceReference":
		if !n.urlBad {
			r.sequence(n)
		}
	case "MissingReference":
		r.add(mention.Mention{Nature: mention.Unsaved, Range: n.avail.seconds()})
	case "Clip":
		r.clip(n, index)
	case "Track", "Sequence": // Sequence.1 is the older name of a track
		for _, span := range n.record {
			m := mention.Mention{Pieces: r.doc.One(span, jsonscan.String), Nature: mention.WritePoint, Spelling: mention.Path}
			if bytes.HasPrefix(r.t.Bytes[span.Off+1:span.End], []byte("file:")) {
				m.Spelling = mention.URI
			}
			r.add(m)
		}
		name := n.name
		if name == "" {
			name = strconv.Itoa(index + 1)
		}
		for i := n.first; i < len(r.doc.Mentions); i++ {
			if !r.placed[i] {
				m := &r.doc.Mentions[i]
				if m.Owner == "" {
					m.Owner = "Track " + name
				} else {
					m.Owner = "Track " + name + " / " + m.Owner
				}
				r.placed[i] = true
			}
		}
	case "SerializableCollection":
		// A reference in a bin is declared; no clip places it.
		for _, i := range n.loose {
			r.doc.Mentions[i].Use = mention.Listed
			if n.name != "" {
				r.doc.Mentions[i].Owner = fmt.Sprintf("collection '%s'", n.name)
			}
		}
	}
	r.part(n)
	if n.disabled && !isReference(n.schema) {
		r.disable(n.first, len(r.doc.Mentions))
	}
}

// disable makes what is used in a range dormant.
func (r *reader) disable(first, last int) {
	for i := first; i < last; i++ {
		if m := &r.doc.Mentions[i]; m.Use == mention.Used {
			m.Use = mention.Dormant
		}
	}
}

func (r *reader) clip(n *node, index int) {
	owner := "clip '" + n.name + "'"
	if n.name == "" {
		owner = mention.Numbered("clip ", index+1)
	}
	several := n.several()
	found := false
	for k := range n.refs {
		ref := &n.refs[k]
		active := n.plays(ref)
		found = found || active
		if !active {
			r.disable(ref.first, ref.last)
		}
		for i := ref.first; i < ref.last; i++ {
			m := &r.doc.Mentions[i]
			m.Owner = owner
			if key, keyed := strings.CutPrefix(ref.key, "="); keyed && len(n.refs) > 1 {
				m.Owner += " (" + key + ")"
			}
			if s := n.src.seconds(); s != nil {
				m.Range = s
			}
			if len(n.refs) == 1 && ref.last-ref.first == 1 && !n.effects {
				if m.Slide = slide(n.src, *ref); m.Slide != nil && !m.Slide.Raised {
					if m.Slide.Marks = n.marks; n.unmarked {
						m.Slide = nil // its markers could not follow
					}
				}
			}
		}
	}
	if several && !found {
		r.problem(n.off, problem.NoActiveMedium, n.name, n.active)
	}
}

// several tells clips that name their media by keys.
func (n *node) several() bool {
	return slices.ContainsFunc(n.refs, func(ref reference) bool { return ref.key != "" })
}

// plays tells the active one of a clip's media.
func (n *node) plays(ref *reference) bool { return !n.several() || ref.key == "="+n.active }

func (r *reader) add(m mention.Mention) {
	r.doc.Add(m)
	r.placed = append(r.placed, false)
}

// piece is a string member of n, or the place where it would be inserted.
func (n *node) piece(key string) mention.Piece {
	if span := n.text[slices.Index(texts[:], key)]; span.End > 0 {
		return mention.Piece{Span: span, Coding: jsonscan.String}
	}
	return mention.Piece{Span: mention.Span{Off: n.off, End: n.off}, Coding: jsonscan.Absent(key)}
}

func (r *reader) external(n *node) {
	target := n.piece("target_url")
	m := mention.Mention{Pieces: r.doc.One(target.Span, target.Coding), Spelling: mention.URI, Range: n.avail.seconds(), Told: n.avail.whole()}
	span := m.Pieces[0].Span
	raw := r.t.Bytes[span.Off:span.End]
	if len(raw) <= 2 || string(raw) == "null" {
		m.Nature = mention.Unsaved
	} else {
		format.Embed(&m, jsonscan.Value(raw))
	}
	r.add(m)
}

// maxDigits bounds the padding of a number in a file name: a name has at most
// 255 bytes.
const maxDigits = 64

// sequence reads an ImageSequenceReference. The files are base, prefix, number
// zero-padded, suffix; a base without a slash at its end gets one.
func (r *reader) sequence(n *node) {
	pieces := []mention.Piece{n.piece("target_url_base"), n.piece("name_prefix"), n.piece("name_suffix")}
	decode := func(k int) string {
		s, _ := pieces[k].Coding.Decode(r.t.Bytes[pieces[k].Span.Off:pieces[k].Span.End])
		return s
	}
	base, prefix, suffix := decode(0), decode(1), decode(2)
	digits := int(max(0, min(n.num["frame_zero_padding"], maxDigits)))
	sign := strings.Repeat("#", digits)
	slash := base
	if slash != "" && !strings.HasSuffix(slash, "/") {
		slash += "/"
	}
	m := mention.Mention{
		Pieces: pieces, Spelling: mention.Pattern, Range: n.avail.seconds(),
		Merge: func(p []string) string {
			b := p[0]
			if b != "" && !strings.HasSuffix(b, "/") {
				b += "/"
			}
			return b + p[1] + sign + p[2]
		},
		Split: func(name string) ([]string, error) { return split(name, base, suffix, sign) },
		Sequence: &mention.Sequence{
			Head: slash + prefix, Tail: suffix, Digits: digits,
			First: clampInt(n.num["start_frame"]), Step: max(1, clampInt(n.num["frame_step"])),
		},
	}
	if shown := base + prefix + sign + suffix; slash != base {
		m.Shown = &shown
	}
	if base == "" && prefix == "" && suffix == "" {
		m.Nature = mention.Unsaved
	}
	if a, rate := n.avail, n.num["rate"]; a != nil && a.durRate > 0 && rate > 0 {
		m.Sequence.Count = timecode.Images(a.dur, a.durRate, rate, m.Sequence.Step)
	}
	r.add(m)
}

// clampInt keeps numbers of a hostile document within what frame arithmetic
// can hold.
func clampInt(f float64) int {
	const most = 1 << 40
	return int(max(-most, min(f, most)))
}

// split divides a pattern into base, prefix and suffix. The present suffix is
// tried first, so that only what changes is rewritten.
func split(name, base, suffix, sign string) ([]string, error) {
	head, ok := strings.CutSuffix(name, sign+suffix)
	if !ok {
		if sign == "" {
			return nil, problem.No(problem.Indivisible)
		}
		at := strings.LastIndex(name, sign)
		if at < 0 {
			return nil, problem.No(problem.TokenOnce, sign)
		}
		head, suffix = name[:at], name[at+len(sign):]
	}
	slash := strings.LastIndexByte(head, '/') + 1
	dir, prefix := head[:slash], head[slash:]
	if strings.Contains(prefix+suffix, "#") {
		return nil, problem.No(problem.DigitBeside)
	}
	if dir == base+"/" && base != "" {
		dir = base
	}
	return []string{dir, prefix, suffix}, nil
}
