package rules

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/text/format/binscan"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// step is one step of a path into XML or JSON.
type step struct {
	name  string // "*": any
	deep  bool   // any number of levels may stand before it
	attr  bool   // an attribute, always the last step
	index int    // of a JSON list; -1: a name
	tests []test // attributes the element must have
}

type test struct{ name, value string }

// xmlPath reads abbreviated location paths (XPath 1.0 §2.5): /a/b, //b, *, @name,
// and tests [@name="value"].
func xmlPath(s string) ([]step, error) {
	var steps []step
	rest := s
	for first := true; rest != "" || first; first = false {
		st := step{index: -1}
		switch {
		case strings.HasPrefix(rest, "//"):
			st.deep, rest = true, rest[2:]
		case strings.HasPrefix(rest, "/"):
			rest = rest[1:]
		case first:
			st.deep = true // a bare path may begin anywhere
		default:
			return nil, fmt.Errorf("a slash was expected at “%s”", rest)
		}
		if st.attr = strings.HasPrefix(rest, "@"); st.attr {
			rest = rest[1:]
		}
		end := strings.IndexAny(rest, "/[@")
		if end < 0 {
			end = len(rest)
		}
		if st.name, rest = rest[:end], rest[end:]; st.name == "" {
			return nil, fmt.Errorf("a name is missing")
		}
		for strings.HasPrefix(rest, "[") {
			inner, after, ok := strings.Cut(rest[1:], "]")
			name, value, isTest := strings.Cut(inner, "=")
			value = strings.TrimSpace(value)
			if name = strings.TrimSpace(name); !ok || !isTest || len(name) < 2 || name[0] != '@' || len(value) < 2 || value[0] != value[len(value)-1] || value[0] != '"' && value[0] != '\'' {
				return nil, fmt.Errorf("a test is written [@name=\"value\"]")
			}
			st.tests, rest = append(st.tests, test{name[1:], value[1 : len(value)-1]}), after
		}
		if st.attr && (rest != "" || st.deep && len(steps) > 0) {
			return nil, fmt.Errorf("an attribute stands at the end, one slash behind its element")
		}
		steps = append(steps, st)
	}
	return steps, nil
}

// jsonPath reads a path of RFC 9535: $.a.b, ['a b'], [*], [3], ..name.
func jsonPath(s string) ([]step, error) {
	rest, ok := strings.CutPrefix(s, "$")
	if !ok || rest == "" {
		return nil, fmt.Errorf("it begins with $ and leads to a member")
	}
	var steps []step
	for rest != "" {
		st := step{index: -1}
		switch {
		case strings.HasPrefix(rest, ".."):
			st.deep, rest = true, rest[2:]
		case strings.HasPrefix(rest, "."):
			rest = rest[1:]
		case !strings.HasPrefix(rest, "["):
			return nil, fmt.Errorf("a dot or bracket was expected at “%s”", rest)
		}
		if inner, ok := strings.CutPrefix(rest, "["); ok {
			word, after, closed := strings.Cut(inner, "]")
			if len(word) > 1 && (word[0] == '\'' || word[0] == '"') {
				end := strings.Index(inner[1:], string(word[0])+"]")
				if closed = end >= 0; closed {
					word, after = inner[:end+2], inner[end+3:]
				}
			}
			if !closed {
				return nil, fmt.Errorf("a bracket is not closed")
			}
			rest = after
			n, err := strconv.Atoi(word)
			switch {
			case word == "*":
				st.name = word
			case err == nil && n >= 0:
				st.index = n
			case len(word) > 2 && (word[0] == '\'' || word[0] == '"') && word[0] == word[len(word)-1]:
				st.name = word[1 : len(word)-1]
			default:
				return nil, fmt.Errorf("[%s] is neither a number, *, nor a name in quotes", word)
			}
		} else {
			end := strings.IndexAny(rest, ".[")
			if end < 0 {
				end = len(rest)
			}
			if st.name, rest = rest[:end], rest[end:]; st.name == "" {
				return nil, fmt.Errorf("a name is missing")
			}
		}
		steps = append(steps, st)
	}
	return steps, nil
}

// leads tells whether steps lead exactly to the end of a way; fits compares one.
func leads[W any](steps []step, way []W, fits func(step, W) bool) bool {
	if len(steps) == 0 || len(way) == 0 {
		return len(steps) == len(way)
	}
	if len(way) < len(steps) || !fits(steps[len(steps)-1], way[len(way)-1]) {
		return false // nearly always
	}
	// at[n] tells that the steps so far lead to the first n levels.
	at := make([]bool, len(way)+1)
	at[0] = true
	for _, st := range steps {
		next := make([]bool, len(way)+1)
		some := false // of at[:n+1]
		for n := range way {
			some = some || at[n]
			next[n+1] = (at[n] || st.deep && some) && fits(st, way[n])
		}
		at = next
	}
	return at[len(way)]
}

func fitsElement(st step, e *xmlscan.Element) bool {
	if st.attr || st.name != "*" && st.name != e.Name && st.name != e.Local {
		return false
	}
	for _, t := range st.tests {
		if a := e.Find(t.name); a == nil || a.Value() != t.value {
			return false
		}
	}
	return true
}

func (r *reading) xml() error {
	f, b := r.File, r.doc.Texts[0].Bytes
	var way []*xmlscan.Element
	var leaf xmlscan.Leaf
	var of *Place
	return xmlscan.Scan(b, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			way = append(way, e)
			var taken []int // attributes that an earlier rule took
			of = nil
			for i := range f.Places {
				pl := &f.Places[i]
				last := pl.steps[len(pl.steps)-1]
				if !last.attr {
					if of == nil && leads(pl.steps, way, fitsElement) {
						of = pl
						leaf.Begin(e)
					}
					continue
				}
				if len(pl.steps) > 1 && !leads(pl.steps[:len(pl.steps)-1], way, fitsElement) {
					continue
				}
				for k := range e.Attrs {
					a := &e.Attrs[k]
					if (last.name == "*" || last.name == a.Name || last.name == xmlscan.Local(a.Name)) && !slices.Contains(taken, k) && a.Value() != "" {
						taken = append(taken, k)
						r.add(pl, a.Span, xmlscan.Attribute, owner(e))
					}
				}
			}
			return nil
		},
		Text: func(e *xmlscan.Element, span mention.Span, cdata bool) error {
			leaf.Take(b, e, span, cdata)
			return nil
		},
		End: func(e *xmlscan.Element) error {
			if p, ok := leaf.At(e); ok && of != nil {
				r.add(of, p.Span, p.Coding, owner(e))
			}
			way = way[:len(way)-1]
			return nil
		},
	})
}

// owner is the element by its name or id, or that of the nearest around it.
func owner(e *xmlscan.Element) string {
	for p := e; p != nil; p = p.Parent {
		for _, key := range []string{"name", "id"} {
			if v := p.Attr(key); v != "" {
				return p.Local + " '" + v + "'"
			}
		}
	}
	return e.Local
}

// member is one level of a way into JSON.
type member struct {
	name  string
	index int // -1: a name
}

func fitsMember(st step, m member) bool {
	switch {
	case st.name == "*":
		return true
	case m.index >= 0:
		return st.index == m.index && st.name == ""
	}
	return st.index < 0 && st.name == m.name
}

func (r *reading) json() error {
	f, s := r.File, jsonscan.New(r.doc.Texts[0].Bytes)
	var way []member
	var value func() error
	under := func(m member) error {
		way = append(way, m)
		err := value()
		way = way[:len(way)-1]
		return err
	}
	value = func() error {
		switch s.Peek() {
		case '{':
			return s.Object(func(key string) error { return under(member{key, -1}) })
		case '[':
			return s.Array(func(i int) error { return under(member{"", i}) })
		case '"':
			span, err := s.String()
			if err != nil || span.End-span.Off == 2 {
				return err
			}
			if i := slices.IndexFunc(f.Places, func(pl Place) bool { return leads(pl.steps, way, fitsMember) }); i >= 0 {
				r.add(&f.Places[i], span, jsonscan.String, pathOf(way))
			}
			return nil
		}
		_, err := s.Skip()
		return err
	}
	if err := value(); err != nil {
		return err
	}
	return s.End()
}

// pathOf is a way for people: tracks[3].file.
func pathOf(way []member) string {
	var b strings.Builder
	for _, m := range way {
		if m.index >= 0 {
			fmt.Fprintf(&b, "[%d]", m.index)
			continue
		}
		if b.Len() > 0 {
			b.WriteByte('.')
		}
		b.WriteString(m.name)
	}
	return b.String()
}

// found is one place of a line.
type found struct {
	from, to int
	place    *Place
}

// finds are the places of a line in order; of two that overlap the earlier rule
// is right.
func (f *File) finds(line []byte) (list []found) {
	for i := range f.Places {
		pl := &f.Places[i]
		for _, m := range pl.pattern.FindAllSubmatchIndex(line, -1) {
			from, to := m[2*pl.group], m[2*pl.group+1]
			over := func(o found) bool { return from < o.to && o.from < to }
			if from >= 0 && to > from && !slices.ContainsFunc(list, over) {
				list = append(list, found{from, to, pl})
			}
		}
	}
	slices.SortFunc(list, func(a, b found) int { return a.from - b.from })
	return list
}

// again is the coding of a place in a line: what would not be found again there
// cannot be said.
type again struct {
	file *File
	line []byte
	at   found
}

func (a again) Decode(raw []byte) (string, error) { return string(raw), nil }

func (a again) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	b, err := (linescan.Plain{Spaces: true}).Encode(s, old, fits)
	if err != nil {
		return nil, err
	}
	line := slices.Concat(a.line[:a.at.from], b, a.line[a.at.to:])
	was, now := a.file.finds(a.line), a.file.finds(line)
	same := func(f found) bool {
		return f.from == a.at.from && f.to == a.at.from+len(b) && f.place == a.at.place
	}
	if len(was) != len(now) || !slices.ContainsFunc(now, same) {
		return nil, problem.No(problem.NotFound)
	}
	return b, nil
}

func (r *reading) text() {
	f, d := r.File, r.doc
	n := 0
	linescan.Each(d.Texts[0].Bytes, func(off int64, line []byte) {
		n++
		if len(line) > maxLine {
			d.Problems = append(d.Problems, problem.Problem{Kind: problem.LineTooLong, Line: n, Args: []string{strconv.Itoa(maxLine)}})
			return
		}
		for _, at := range f.finds(line) {
			r.add(at.place, mention.Span{Off: off + int64(at.from), End: off + int64(at.to)}, again{f, line, at}, mention.Numbered("line ", n))
		}
	})
}

// binary takes the names out of strings that a count or a NUL bounds. There is no
// text of theirs to be written anew: a longer name would move what stands behind it.
func (r *reading) binary() {
	f, d := r.File, r.doc
	binscan.Each(d.Texts[0].Bytes, func(at int, s string) bool {
		list := f.finds([]byte(s))
		for _, one := range list {
			pl, name := one.place, s[one.from:one.to]
			base := pl.Base
			if base == "" {
				base = r.Base
			}
			full := name
			if base != "" {
				full = join(base, name)
			}
			d.Add(mention.Mention{Merge: func([]string) string { return full }, Shown: &name, Spelling: pl.Spelling, Use: pl.Use, Nature: pl.Nature, Owner: mention.Numbered("byte ", at)})
			r.by = append(r.by, pl.Line)
		}
		return len(list) > 0
	})
}

// maxLine bounds a line that regular expressions are held against.
const maxLine = 1 << 20
