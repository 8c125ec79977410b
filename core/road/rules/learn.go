package rules

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/binscan"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Believed is what a guess says of a value: that it is a name, and whether it
// leads to a file.
type Believed struct{ Leads bool }

// Shape is a place in a document at which names stand: what a rule would take.
type Shape struct {
	At      string `json:"at"`      // for xml and json
	Match   string `json:"match"`   // for text
	Values  int    `json:"values"`  // how many stand there
	Guessed int    `json:"guessed"` // of them, those that were taken for names
	Leads   int    `json:"leads"`   // of those, the ones that lead to a file
	Sample  string `json:"sample"`  // one of them
}

// Proposal is a rules file that a document's guesses suggest.
type Proposal struct {
	Title  string  `json:"title"`
	Source string  `json:"rules"` // YAML, with the counts as remarks
	Shapes []Shape `json:"paths"`
}

// What is learned from is bounded, for of 300,000 values alike the first tell as much:
// values, places at which they stand, how deep those lie, and the bytes of a text without
// structure. 2 seconds and 64 MB beside the document are asked of any.
const (
	maxLearned = 50_000
	maxPlaces  = 5_000
	deepest    = 64
	maxText    = 4 << 20
)

// errEnough ends a reading of which enough was learned.
var errEnough = errors.New("enough was learned")

// maxAsked bounds how often a text is held for a name, longestName how long it may be, in
// bytes: a line of signs has more parts than anybody has time for.
const (
	maxAsked    = 200_000
	longestName = 4096
)

// Learn proposes one to three rules files for a document from what was guessed in
// it: where most of what stands at a place is a name, a rule takes all that stands
// there. believed is asked for each value, as its carrier says it. A document that
// is no text has none.
func Learn(name string, body []byte, believed func(value string) (Believed, bool)) []Proposal {
	body = bytes.TrimPrefix(body, []byte("\xEF\xBB\xBF"))
	asked := 0
	l := &learner{believed: func(value string) (Believed, bool) {
		if asked++; asked > maxAsked || len(value) > longestName {
			return Believed{}, false
		}
		return believed(value)
	}, shapes: map[string]*Shape{}}
	if !utf8.Valid(body) || bytes.IndexByte(body, 0) >= 0 {
		l.carrier = Binary
		l.binary(body)
		return l.proposals(name)
	}
	trimmed := bytes.TrimLeft(body, " \t\r\n")
	switch {
	case len(trimmed) > 0 && trimmed[0] == '<' && l.took(l.xml(body)):
		l.carrier = XML
	case len(trimmed) > 0 && (trimmed[0] == '{' || trimmed[0] == '[') && l.took(l.json(body)):
		l.carrier = JSON
	default:
		l.root, l.shapes, l.taken, l.carrier = "", map[string]*Shape{}, 0, Text
		l.text(body)
	}
	return l.proposals(name)
}

// took tells that a document is of a carrier, as far as it was read.
func (l *learner) took(err error) bool { return err == nil || errors.Is(err, errEnough) }

type learner struct {
	believed func(string) (Believed, bool)
	carrier  Carrier
	root     string // of XML, its first element
	shapes   map[string]*Shape
	taken    int
	uri      int // of the names, those spelled as URIs
}

// value counts what stands at a place. It is errEnough when that was enough.
func (l *learner) value(at, text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		return nil
	}
	if l.taken++; l.taken > maxLearned {
		return errEnough
	}
	s := l.shapes[at]
	if s == nil {
		if len(l.shapes) >= maxPlaces {
			return nil
		}
		s = &Shape{At: at}
		l.shapes[at] = s
	}
	s.Values++
	b, ok := l.believed(text)
	if !ok {
		return nil
	}
	if s.Guessed++; b.Leads {
		s.Leads++
	}
	if s.Sample == "" || b.Leads && s.Leads == 1 {
		s.Sample = text
	}
	if strings.HasPrefix(text, "file:") || strings.Contains(text, "%20") {
		l.uri++
	}
	return nil
}

// binary counts strings that end in one extension, which is all their place tells.
func (l *learner) binary(b []byte) {
	binscan.Each(b, func(_ int, s string) bool {
		ext := strings.ToLower(path.Ext(s))
		if len(ext) < 2 || len(ext) > 6 || strings.ContainsFunc(ext[1:], func(r rune) bool { return (r < 'a' || r > 'z') && (r < '0' || r > '9') }) {
			return false
		}
		return l.value(`(?i)^(.+\`+ext+`)$`, s) == nil
	})
}

func (l *learner) xml(b []byte) error {
	var way []string
	var leaf xmlscan.Leaf
	return xmlscan.Scan(b, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			if len(way) == 0 {
				l.root = e.Local
			}
			way = append(way, e.Local)
			if len(way) > deepest {
				return nil
			}
			leaf.Begin(e)
			if len(e.Attrs) == 0 {
				return nil
			}
			at := "/" + strings.Join(way, "/")
			for i := range e.Attrs {
				if err := l.value(at+"/@"+xmlscan.Local(e.Attrs[i].Name), e.Attrs[i].Value()); err != nil {
					return err
				}
			}
			return nil
		},
		Text: func(e *xmlscan.Element, span mention.Span, cdata bool) error {
			leaf.Take(b, e, span, cdata)
			return nil
		},
		End: func(e *xmlscan.Element) error {
			p, ok := leaf.At(e)
			at := ""
			if ok {
				at = "/" + strings.Join(way, "/")
			}
			way = way[:len(way)-1]
			if !ok || p.Span.End-p.Span.Off > longestName {
				return nil
			}
			if text, err := p.Coding.Decode(b[p.Span.Off:p.Span.End]); err == nil {
				return l.value(at, text)
			}
			return nil
		},
	})
}

// plainKey is a member name that a JSON path holds without quotes (RFC 9535
// §2.5.1.1).
var plainKey = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]*$`)

func (l *learner) json(b []byte) error {
	s := jsonscan.New(b)
	depth := 0
	var value func(at string) error
	value = func(at string) error {
		if depth++; depth > deepest {
			depth--
			_, err := s.Skip()
			return err
		}
		defer func() { depth-- }()
		switch s.Peek() {
		case '{':
			return s.Object(func(key string) error {
				if plainKey.MatchString(key) {
					return value(at + "." + key)
				}
				return value(at + "['" + strings.NewReplacer(`\`, `\\`, "'", `\'`).Replace(key) + "']")
			})
		case '[':
			return s.Array(func(int) error { return value(at + "[*]") })
		case '"':
			span, err := s.String()
			if err == nil && span.End-span.Off <= longestName {
				err = l.value(at, s.Text(span))
			}
			return err
		}
		_, err := s.Skip()
		return err
	}
	if err := value("$"); err != nil {
		return err
	}
	return s.End()
}

// numbers are what parts lines of one shape.
var numbers = regexp.MustCompile(`[0-9]+`)

// text finds the shape of lines that hold one name: what stands before it and
// what ends it. Numbers before it may be others.
func (l *learner) text(b []byte) {
	linescan.Each(b[:min(len(b), maxText)], func(_ int64, line []byte) {
		if l.taken >= maxLearned || len(line) > longestName {
			return
		}
		from, to := l.nameIn(string(line))
		if from < 0 {
			return
		}
		before, name, after := string(line[:from]), string(line[from:to]), string(line[to:])
		shape := "^" + numbers.ReplaceAllString(regexp.QuoteMeta(before), "[0-9]+")
		switch {
		case strings.TrimSpace(after) == "":
			shape += `(.+?)\s*$`
		default:
			end, _ := utf8.DecodeRuneInString(after)
			shape += "([^" + regexp.QuoteMeta(string(end)) + "]+)" + regexp.QuoteMeta(string(end))
		}
		_ = l.value(shape, name) // the lines that are left are passed over
	})
}

// nameIn finds the longest run of a line that was taken for a name: between
// quotes, after a sign, or a word.
func (l *learner) nameIn(line string) (from, to int) {
	from, to = -1, -1
	try := func(a, b int) {
		for a < b && line[a] == ' ' {
			a++
		}
		for b > a && line[b-1] == ' ' {
			b--
		}
		if b-a <= to-from && from >= 0 || b <= a {
			return
		}
		if _, ok := l.believed(line[a:b]); ok {
			from, to = a, b
		}
	}
	starts := []int{0}
	for i := 0; i < len(line); i++ {
		if strings.IndexByte(" \t\"'=:,;|<>()[]{}", line[i]) >= 0 {
			try(starts[len(starts)-1], i)
			if k := max(0, len(starts)-8); len(starts) > 1 {
				for _, s := range starts[k:] {
					try(s, i)
				}
			}
			starts = append(starts, i+1)
		}
	}
	for _, s := range starts[max(0, len(starts)-16):] {
		try(s, len(line))
	}
	return from, to
}

// proposals are the rules files for the shapes that were found, the safest first.
func (l *learner) proposals(name string) []Proposal {
	var some, most []Shape
	for _, s := range l.shapes {
		if s.Guessed == 0 || 2*s.Guessed < s.Values {
			continue
		}
		if l.carrier == Text || l.carrier == Binary {
			s.Match, s.At = s.At, ""
		}
		some = append(some, *s)
		if 10*s.Guessed >= 9*s.Values {
			most = append(most, *s)
		}
	}
	order := func(list []Shape) {
		slices.SortFunc(list, func(a, b Shape) int {
			return cmp.Or(cmp.Compare(b.Guessed, a.Guessed), cmp.Compare(a.At, b.At), cmp.Compare(a.Match, b.Match))
		})
	}
	order(some)
	order(most)
	var out []Proposal
	add := func(title string, shapes []Shape) {
		if len(shapes) == 0 || slices.ContainsFunc(out, func(p Proposal) bool { return slices.Equal(p.Shapes, shapes) }) {
			return
		}
		out = append(out, Proposal{title, l.source(name, shapes), shapes})
	}
	add("where nearly everything is a name", most)
	add("where most is a name", some)
	if l.carrier == XML {
		add("the same, at any depth", anywhere(some))
	}
	return out
}

// anywhere joins places that differ only in how deep they stand.
func anywhere(shapes []Shape) (list []Shape) {
	at := map[string]int{}
	for _, s := range shapes {
		parts := strings.Split(s.At, "/")
		short := "//" + strings.Join(parts[max(1, len(parts)-2):], "/")
		k, known := at[short]
		if !known {
			at[short] = len(list)
			s.At = short
			list = append(list, s)
			continue
		}
		list[k].Values += s.Values
		list[k].Guessed += s.Guessed
		list[k].Leads += s.Leads
	}
	return list
}

// source is a proposal as a rules file.
func (l *learner) source(name string, shapes []Shape) string {
	quote := func(s string) string {
		b, err := yaml.Marshal(s)
		if err != nil {
			return strconv.Quote(s)
		}
		return strings.TrimSpace(string(b))
	}
	ext := format.Ext(name)
	var b strings.Builder
	fmt.Fprintf(&b, "title: %s\n", quote(strings.TrimSuffix(path.Base(name), path.Ext(name))+" and its like"))
	fmt.Fprintf(&b, "extensions: [%s]\ncarrier: %s\n", quote(ext), l.carrier)
	if l.root != "" {
		fmt.Fprintf(&b, "contains: %s\n", quote("<"+l.root))
	}
	b.WriteString("paths:\n")
	for _, s := range shapes {
		key, at := "at", s.At
		if l.carrier == Text || l.carrier == Binary {
			key, at = "match", s.Match
		}
		fmt.Fprintf(&b, "  - %s: %s # %d values, %d look like names, %d lead to a file\n", key, quote(at), s.Values, s.Guessed, s.Leads)
		if l.uri > 0 && 2*l.uri > s.Guessed {
			b.WriteString("    spelling: uri\n")
		}
	}
	return b.String()
}
