// Package usda reads universal scene descriptions in their text form (an open
// specification), alone or as the default layer of a .usdz package.
package usda

import (
	"bytes"
	"fmt"
	"path"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "usda".
func (Format) Name() string { return "usda" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "USD text layer", Extensions: []string{"usda", "usdz"}, Knows: "sublayers, references, payloads and assets; variants that are not selected, prims that are switched off, render outputs"}
}

// Main is the default layer: the first member, if it is text.
func (Format) Main(members []string) string {
	for _, m := range members {
		switch format.Ext(m) {
		case "usda":
			return m
		case "usd", "usdc":
			return ""
		}
	}
	return ""
}

// Opaque tells packages of binary layers. All that one names is in it.
func (Format) Opaque(members []string) string {
	for _, m := range members {
		if e := format.Ext(m); e == "usdc" || e == "usd" {
			return "its layer " + m + " is binary, which is not read"
		}
	}
	return ""
}

// Claims knows the cookie of the first line.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.HasPrefix(bytes.TrimPrefix(head, []byte("\xEF\xBB\xBF")), []byte("#usda")):
		return 95
	case format.Ext(name) == "usda":
		return 45
	}
	return 0
}

// frame is one open bracket.
type frame struct {
	kind    byte // '{', '(', '['
	what    what
	name    string // of a prim, variant set, variant or list
	path    string // of a prim: its own and those above it, made once
	typ     string // of a prim
	first   int    // mentions in it begin here
	off     bool   // active = false
	selects map[string]string
	quiet   bool  // asset values in it name nothing
	clips   *clip // of a set of value clips
}

type what byte

const (
	_ what = iota
	prim
	metadata
	variantSet
	variant
	variants
	dictionary
	samples // values over time
	list
)

// word is one word of a statement: bare, or a string without its quotes.
type word struct {
	b      []byte
	quoted bool
	span   mention.Span // of a string, quotes with it
}

func (w word) is(s string) bool { return !w.quoted && string(w.b) == s }

type reader struct {
	t     mention.Text
	b     []byte
	pos   int
	doc   *mention.Doc
	stack []frame
	stmt  []word // of the present statement
	prim  *frame // a prim whose metadata or body is to come
	// variant is the name of one whose metadata or body is to come; its mentions
	// begin at variantAt.
	variant   string
	variantAt int
	assign    bool
	fresh     int // the last asset's mention, for the prim path that may follow it; -1
}

// Read goes through the text once; in a package, through the layers there that
// it names as well.
func (Format) Read(t mention.Text, include format.Include) (*mention.Doc, error) {
	doc, err := read(t)
	if t.Member && include != nil {
		layers(doc, include)
	}
	for i := range doc.Mentions { // a package holds its own assets (USDZ specification)
		if m := &doc.Mentions[i]; len(m.Pieces) > 0 && !m.Inside() && m.Nature == mention.Material && m.Sequence == nil {
			shown, name := doc.Written(i), doc.Name(i)
			if format.Held(t, m, name, format.Sealed); m.Nature == mention.Lost {
				m.Shown, m.Member = &shown, ""
			}
		}
	}
	return doc, err
}

func read(t mention.Text) (*mention.Doc, error) {
	r := &reader{t: t, b: t.Bytes, doc: &mention.Doc{Texts: []mention.Text{t}, Says: map[string]string{}}, fresh: -1}
	err := r.run()
	r.doc.InOrder() // a clip template is known when its dictionary ends
	return r.doc, err
}

// below are the names of a layer in a folder of its package, seen from the
// package's own folder.
func below(dir string) (merge func([]string) string, split func(string) ([]string, error)) {
	whole := func(name string) bool { return strings.HasPrefix(name, "/") || strings.Contains(name, ":") }
	merge = func(parts []string) string {
		if parts[0] == "" || whole(parts[0]) {
			return parts[0]
		}
		return path.Join(dir, parts[0])
	}
	return merge, func(name string) ([]string, error) {
		own := []string{name}
		if !whole(name) {
			own[0] = strings.Repeat("../", 1+strings.Count(dir, "/")) + name
		}
		if merge(own) != name {
			return nil, problem.No(problem.OtherStart)
		}
		return own, nil
	}
}

// maxLayers bounds how many layers of one package are read.
const maxLayers = 1000

// layers reads the text layers of a package that the first one leads to, each
// once, by the liveliest way. Within a package no layer switches another's parts
// on or off: all that is needed has to be there in any case.
func layers(doc *mention.Doc, include format.Include) {
	met := map[string]bool{doc.Texts[0].Name: true}
	for _, use := range []mention.Use{mention.Used, mention.Dormant} {
		for i := 0; i < len(doc.Mentions) && len(doc.Texts) < maxLayers; i++ {
			m := &doc.Mentions[i]
			if m.Use != use || m.Data == nil || m.Shown == nil {
				continue
			}
			name := path.Join(path.Dir(doc.Texts[m.Text].Name), *m.Shown)
			if met[name] || format.Ext(name) != "usda" {
				continue
			}
			if t, err := include(name); err == nil { // else a name with escapes
				met[name] = true
				layer(doc, t, use)
			}
		}
	}
}

// layer reads one more text of a package that is needed for a use.
func layer(doc *mention.Doc, t mention.Text, use mention.Use) {
	name, n := t.Name, len(doc.Texts)
	doc.Texts = append(doc.Texts, t)
	more, err := read(t)
	if err != nil {
		doc.Problems = append(doc.Problems, problem.Problem{Kind: problem.LayerDamaged, Args: []string{name, err.Error()}})
	}
	for k, inner := range more.Mentions {
		if dir := path.Dir(name); dir != "." && len(inner.Pieces) > 0 && inner.Member == "" {
			own := more.Written(k)
			if inner.Shown = &own; inner.Sequence != nil {
				inner.Nature, inner.Pieces, inner.Sequence = mention.Lost, nil, nil // tiles of a package are in it
			}
			inner.Merge, inner.Split = below(dir)
		}
		for p := range inner.Pieces {
			inner.Pieces[p].Span.Text = n
		}
		inner.Text, inner.Use = n, min(inner.Use, use)
		inner.Scope = &mention.Scope{Under: inner.In().Under, Settled: inner.In().Settled}
		doc.Add(inner)
	}
}

func (r *reader) fail(at int, f string, a ...any) error {
	return &format.SyntaxError{Off: int64(at), Msg: fmt.Sprintf(f, a...)}
}

const (
	maxDepth = 10_000
	udim     = "<UDIM>"
)

func (r *reader) run() error {
	for r.pos < len(r.b) {
		switch c := r.b[r.pos]; c {
		case '#':
			if i := bytes.IndexByte(r.b[r.pos:], '\n'); i >= 0 {
				r.pos += i
			} else {
				r.pos = len(r.b)
			}
		case '/':
			if err := r.slash(); err != nil {
				return err
			}
		case ' ', '\t', '\r', ',':
			r.pos++
		case '\n', ';':
			r.pos++
			if r.depth() == 0 || r.top().kind != '[' {
				r.end()
			}
		case '"', '\'':
			w, ok := r.str(c)
			if !ok {
				return r.fail(len(r.b), "a string is not closed")
			}
			r.stmt = append(r.stmt, w)
		case '@':
			if err := r.asset(); err != nil {
				return err
			}
		case '{', '(', '[':
			if r.depth() >= maxDepth {
				return r.fail(r.pos, "nested deeper than %d levels", maxDepth)
			}
			r.open(c)
			r.pos++
		case '}', ')', ']':
			if r.depth() == 0 || r.top().kind != opener(c) {
				return r.fail(r.pos, "%q closes nothing", string(c))
			}
			r.end()
			r.shut()
			r.pos++
		case '=':
			r.assign = true
			r.stmt = append(r.stmt, word{b: r.b[r.pos : r.pos+1]})
			r.pos++
		case '<':
			r.target()
		default:
			r.unquoted()
		}
		if r.depth() > 0 && r.top().kind == '[' {
			r.skipNumbers()
		}
	}
	if r.depth() > 0 {
		return r.fail(len(r.b), "the text ends in the middle")
	}
	return nil
}

// specifier tells a statement that begins a prim.
func (r *reader) specifier() bool {
	return len(r.stmt) > 0 && !r.assign && (r.stmt[0].is("def") || r.stmt[0].is("over") || r.stmt[0].is("class"))
}

// open begins a bracket. What it is depends on the words before it.
func (r *reader) open(c byte) {
	f := frame{kind: c, first: len(r.doc.Mentions)}
	switch c {
	case '(':
		// Metadata of a prim stands between its name and its body.
		if r.specifier() {
			p := r.newPrim()
			r.prim = &p
			f.what = metadata
		} else if r.prim != nil && len(r.stmt) == 0 && !r.assign {
			f.what = metadata
		} else if r.depth() > 0 && r.top().what == variantSet && len(r.stmt) > 0 {
			r.variant, r.variantAt = string(r.stmt[0].b), len(r.doc.Mentions)
		}
		r.clear()
	case '{':
		switch {
		case r.prim != nil && !r.assign:
			f, r.prim = *r.prim, nil
			f.kind = '{'
		case r.specifier():
			f = r.newPrim()
		case r.has("variantSet") && len(r.stmt) > 1:
			f.what, f.name = variantSet, string(r.stmt[1].b)
		case r.depth() > 0 && r.top().what == variantSet && (len(r.stmt) > 0 || r.variant != ""):
			f.what = variant
			if len(r.stmt) > 0 {
				r.variant, r.variantAt = string(r.stmt[0].b), len(r.doc.Mentions)
			}
			f.name, f.first, r.variant = r.variant, r.variantAt, ""
		case r.has("variants") && r.assign:
			f.what = variants
		case r.assign && (r.has("assetInfo") || r.has("customData") || r.has("customLayerData")):
			f.what, f.quiet = dictionary, true // what people note names nothing the scene needs
		case r.has("clips") && r.assign, r.depth() > 0 && r.top().clips != nil && r.assign:
			f.what, f.clips = dictionary, &clip{}
		case r.assign:
			if name := r.subject(); strings.HasSuffix(name, ".timeSamples") {
				f.what, f.name = samples, name
			}
		}
		r.clear()
	case '[':
		f.what, f.quiet = list, r.has("delete")
		f.name = r.subject()
	}
	r.stack = append(r.stack, f)
}

func (r *reader) clear() { r.stmt, r.assign = r.stmt[:0], false }

func (r *reader) newPrim() frame {
	f := frame{kind: '{', what: prim, first: len(r.doc.Mentions)}
	for i, w := range r.stmt[1:] {
		if w.quoted {
			f.name = string(w.b)
		} else if i == 0 {
			f.typ = string(w.b)
		}
	}
	f.path = r.above() + "/" + f.name
	return f
}

// end finishes a statement that means something here: active = false, a
// variant's selection, the prim a layer stands for, the place a render writes
// to, the parts of a clip template.
func (r *reader) end() {
	r.fresh = -1
	if r.specifier() { // its metadata, or its body, begins on another line
		p := r.newPrim()
		r.prim = &p
	}
	n := len(r.stmt)
	if n >= 3 && r.stmt[n-2].is("=") {
		r.assigned(r.stmt[n-3], r.stmt[n-1])
	}
	r.clear()
}
