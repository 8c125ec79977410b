// Package rules reads rules files: a studio's own description, in YAML, of a
// text format and of where in it paths of files stand. A rules file that was
// read is a format like any other, and is rewritten by the same spans.
package rules

import (
	"bytes"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Carrier is the syntax the paths stand in.
type Carrier string

// The carriers.
const (
	XML  Carrier = "xml"
	JSON Carrier = "json"
	Text Carrier = "text"
	// Binary documents hold names as strings that a count or a NUL bounds. They can
	// only be read.
	Binary Carrier = "binary"
)

// File is one rules file. It is a [format.Format].
type File struct {
	ID         string // the file's name without its extension
	Source     []byte // the YAML it was read from
	Title      string
	Extensions []string // lower case, without dots
	Carrier    Carrier
	Contains   string // what the beginning of a document must hold, if not empty
	Base       string // the folder all names are relative to, itself relative to the document's
	Places     []Place
	// Foreign tells a file that came with a crate: it reads what no known format claims, and
	// outranks none.
	Foreign bool
}

// Place is one rule: where a path stands and what it means.
type Place struct {
	Line     int // of the rules file
	At       string
	Nature   mention.Nature
	Use      mention.Use
	Spelling mention.Spelling
	Base     string

	steps   []step         // of xml and json
	pattern *regexp.Regexp // of text
	group   int            // of the pattern, that holds the path
}

// Mistake is what is wrong with a rules file, and where.
type Mistake struct {
	Line    int    `json:"line"` // 1-based; 0: the file as a whole
	Message string `json:"message"`
}

func (p Mistake) String() string {
	if p.Line == 0 {
		return p.Message
	}
	return fmt.Sprintf("line %d: %s", p.Line, p.Message)
}

// MaxSize is the largest rules file read, in bytes.
const MaxSize = 256 << 10

// Parse reads a rules file. With problems it is not to be used; all are told at
// once.
func Parse(id string, source []byte) (*File, []Mistake) {
	f := &File{ID: id, Source: source}
	if len(source) > MaxSize {
		return nil, []Mistake{{0, fmt.Sprintf("it has more than %d bytes", MaxSize)}}
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(source, &doc); err != nil {
		return nil, []Mistake{yamlProblem(err)}
	}
	p := parser{file: f}
	if len(doc.Content) == 0 {
		return nil, []Mistake{{0, "it is empty; it must tell at least extensions, carrier and paths"}}
	}
	p.top(doc.Content[0])
	slices.SortStableFunc(p.problems, func(a, b Mistake) int { return a.Line - b.Line })
	if len(p.problems) > 0 {
		return nil, p.problems
	}
	return f, nil
}

var yamlLine = regexp.MustCompile(`line (\d+): `)

// yamlProblem takes the line out of the library's sentence.
func yamlProblem(err error) Mistake {
	msg := strings.TrimPrefix(err.Error(), "yaml: ")
	var line int
	if m := yamlLine.FindStringSubmatchIndex(msg); m != nil {
		_, _ = fmt.Sscan(msg[m[2]:m[3]], &line) // digits, by the pattern
		msg = msg[:m[0]] + msg[m[1]:]
	}
	return Mistake{line, "it is no YAML: " + msg}
}

type parser struct {
	file     *File
	problems []Mistake
}

func (p *parser) fail(n *yaml.Node, format string, a ...any) {
	p.problems = append(p.problems, Mistake{n.Line, fmt.Sprintf(format, a...)})
}

// fields calls known functions by key; any other key is a problem.
func (p *parser) fields(n *yaml.Node, what string, known map[string]func(*yaml.Node)) {
	if n.Kind == yaml.AliasNode {
		p.fail(n, "%s cannot be an alias", what)
		return
	}
	if n.Kind != yaml.MappingNode {
		p.fail(n, "%s must be a list of keys and values", what)
		return
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], n.Content[i+1]
		read, ok := known[key.Value]
		switch {
		case !ok:
			names := []string{}
			for k := range known {
				names = append(names, k)
			}
			slices.Sort(names)
			p.fail(key, "there is no key %q in %s; there are %s", key.Value, what, strings.Join(names, ", "))
		case seen[key.Value]:
			p.fail(key, "%q stands twice in %s", key.Value, what)
		default:
			seen[key.Value] = true
			read(value)
		}
	}
}

// text reads a word.
func (p *parser) text(to *string, what string) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if n.Kind != yaml.ScalarNode || n.Tag == "!!null" {
			p.fail(n, "%s must be a text", what)
			return
		}
		*to = n.Value
	}
}

// choice reads one of several words.
func (p *parser) choice(what string, words []string, set func(i int)) func(*yaml.Node) {
	return func(n *yaml.Node) {
		if i := slices.Index(words, n.Value); n.Kind == yaml.ScalarNode && i >= 0 {
			set(i)
			return
		}
		p.fail(n, "%s is %q; it must be %s", what, n.Value, oneOf(words))
	}
}

func oneOf(words []string) string {
	return strings.Join(words[:len(words)-1], ", ") + " or " + words[len(words)-1]
}

var (
	carriers  = []Carrier{XML, JSON, Text, Binary}
	spellings = []mention.Spelling{mention.Path, mention.URI}
	uses      = []mention.Use{mention.Used, mention.Dormant, mention.Listed}
)

func (p *parser) top(n *yaml.Node) {
	f := p.file
	var paths *yaml.Node
	p.fields(n, "a rules file", map[string]func(*yaml.Node){
		"title":      p.text(&f.Title, "title"),
		"contains":   p.text(&f.Contains, "contains"),
		"base":       p.text(&f.Base, "base"),
		"carrier":    p.choice("carrier", []string{"xml", "json", "text", "binary"}, func(i int) { f.Carrier = carriers[i] }),
		"extensions": p.extensions,
		"paths":      func(n *yaml.Node) { paths = n },
	})
	if f.Title == "" {
		f.Title = f.ID
	}
	told := len(p.problems) > 0
	if len(f.Extensions) == 0 && !told {
		p.fail(n, "it does not tell which extensions it is for")
	}
	if f.Carrier == "" && !told {
		p.fail(n, "it does not tell its carrier: xml, json, text or binary")
	}
	switch {
	case n.Kind != yaml.MappingNode:
	case paths == nil:
		p.fail(n, "it has no paths: a list of places where files are named")
	case paths.Kind != yaml.SequenceNode || len(paths.Content) == 0:
		p.fail(paths, "paths must be a list with at least one place")
	default:
		for _, n := range paths.Content {
			p.place(n)
		}
	}
}

func (p *parser) extensions(n *yaml.Node) {
	list := n.Content
	if n.Kind == yaml.ScalarNode {
		list = []*yaml.Node{n}
	}
	for _, e := range list {
		ext := strings.ToLower(strings.TrimPrefix(e.Value, "."))
		if e.Kind != yaml.ScalarNode || ext == "" || strings.ContainsAny(ext, "./\\ *") {
			p.fail(e, "%q is no extension", e.Value)
			continue
		}
		p.file.Extensions = append(p.file.Extensions, ext)
	}
}

func (p *parser) place(n *yaml.Node) {
	pl := Place{Line: n.Line, Spelling: mention.Path}
	var at, match *yaml.Node
	before := len(p.problems)
	p.fields(n, "a place", map[string]func(*yaml.Node){
		"at":    func(n *yaml.Node) { at = n },
		"match": func(n *yaml.Node) { match = n },
		"role": p.choice("role", []string{"read", "write"}, func(i int) {
			if i == 1 {
				pl.Nature = mention.WritePoint
			}
		}),
		"use":      p.choice("use", []string{"used", "dormant", "listed"}, func(i int) { pl.Use = uses[i] }),
		"spelling": p.choice("spelling", []string{"path", "uri"}, func(i int) { pl.Spelling = spellings[i] }),
		"base":     p.text(&pl.Base, "base"),
	})
	if len(p.problems) > before {
		return
	}
	p.where(n, at, match, &pl)
	if len(p.problems) > before {
		return
	}
	p.file.Places = append(p.file.Places, pl)
}

// where reads the place itself, by the file's carrier.
func (p *parser) where(n, at, match *yaml.Node, pl *Place) {
	text := p.file.Carrier == Text || p.file.Carrier == Binary
	switch {
	case at != nil && match != nil:
		p.fail(match, "a place has either at or match")
		return
	case text && match == nil:
		p.fail(n, "a place in %s needs match: a regular expression", p.file.Carrier)
		return
	case !text && at == nil:
		p.fail(n, "a place in %s needs at: a path to it", p.file.Carrier)
		return
	}
	var err error
	switch p.file.Carrier {
	case Text, Binary:
		pl.At = match.Value
		if pl.pattern, err = regexp.Compile(match.Value); err != nil {
			p.fail(match, "it is no regular expression: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
			return
		}
		if pl.group = pl.pattern.SubexpIndex("path"); pl.group < 0 {
			pl.group = 1
		}
		if pl.pattern.NumSubexp() < pl.group {
			p.fail(match, "it needs a group in brackets around the path: “(…)”")
		}
	case XML:
		pl.At = at.Value
		if pl.steps, err = xmlPath(at.Value); err != nil {
			p.fail(at, "%q is no path to an element or attribute: %s", at.Value, err)
		}
	case JSON:
		pl.At = at.Value
		if pl.steps, err = jsonPath(at.Value); err != nil {
			p.fail(at, "%q is no path into JSON: %s", at.Value, err)
		}
	}
}

// Name is "rules:" and the file's name, so that no format of ours has it.
func (f *File) Name() string { return "rules:" + f.ID }

// About tells people of it.
func (f *File) About() format.About {
	places := "one place"
	if len(f.Places) != 1 {
		places = fmt.Sprintf("%d places", len(f.Places))
	}
	about := format.About{Title: f.Title, Extensions: f.Extensions, Knows: places + " where paths stand, by the rules file ‘" + f.ID + "’"}
	if f.Carrier == Binary {
		about.Knows += "; it is binary and can only be read: nothing is ever written into it"
	}
	return about
}

// claim is above all formats: who switches a rules file on wants it read.
const claim = 98

// foreignClaim is below every format that claims a file by its content or its name, and
// above what only a person would choose.
const foreignClaim = 24

// Claims goes by the extension, and by what the beginning must hold.
func (f *File) Claims(name string, head []byte) int {
	if !slices.Contains(f.Extensions, format.Ext(name)) || f.Contains != "" && !bytes.Contains(head, []byte(f.Contains)) {
		return 0
	}
	if f.Foreign {
		return foreignClaim
	}
	return claim
}

// Read reads a document by the rules.
func (f *File) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := reading{File: f, doc: &mention.Doc{Texts: []mention.Text{t}}}
	return r.doc, r.run()
}

// reading is one document under a rules file.
type reading struct {
	*File
	doc *mention.Doc
	by  []int // of each mention, the line of the rule that found it
}

func (r *reading) run() error {
	switch r.Carrier {
	case XML:
		return r.xml()
	case JSON:
		return r.json()
	case Binary:
		r.binary()
		return nil
	}
	r.text()
	return nil
}

// add makes the mention of a place.
func (r *reading) add(pl *Place, span mention.Span, coding mention.Coding, owner string) {
	d := r.doc
	m := mention.Mention{Pieces: d.One(span, named(coding)), Spelling: pl.Spelling, Use: pl.Use, Nature: pl.Nature, Owner: owner}
	base := pl.Base
	if base == "" {
		base = r.Base
	}
	if base != "" {
		own, _ := coding.Decode(d.Texts[span.Text].Bytes[span.Off:span.End]) // undecodable text is shown as it stands
		m.Shown = &own
		m.Merge = func(parts []string) string { return join(base, parts[0]) }
		m.Split = func(name string) ([]string, error) { return leave(base, name) }
	}
	d.Add(m)
	r.by = append(r.by, pl.Line)
}

// named refuses the empty name, which a place without a file holds.
func named(c mention.Coding) mention.Coding {
	return mention.Only{Coding: c, Not: func(s string) error {
		if s == "" {
			return problem.No(problem.EmptyName)
		}
		return nil
	}}
}

func absolute(name string) bool {
	return strings.HasPrefix(name, "/") || strings.HasPrefix(name, `\`) || strings.Contains(name, "://") || len(name) > 1 && name[1] == ':'
}

func join(base, own string) string {
	if own == "" || absolute(own) {
		return own
	}
	return path.Join(base, own)
}

// leave says a name by the base folder.
func leave(base, name string) ([]string, error) {
	if absolute(name) {
		return []string{name}, nil
	}
	base = path.Clean(base)
	if own, ok := strings.CutPrefix(name, base+"/"); ok {
		return []string{own}, nil
	}
	if absolute(base) || base == ".." || strings.HasPrefix(base, "../") {
		return nil, fmt.Errorf("it lies outside the base folder %s", base)
	}
	return []string{strings.Repeat("../", strings.Count(base, "/")+1) + name}, nil
}

// With is a set of formats with rules files before them.
func With(formats format.Set, files ...*File) format.Set {
	out := make(format.Set, 0, len(files)+len(formats))
	for _, f := range files {
		out = append(out, f)
	}
	return append(out, formats...)
}
