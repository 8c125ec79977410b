// Package usda reads universal scene descriptions in their text form (an open
// specification), alone or as the default layer of a .usdz package.
package usda

import (
	"bytes"
	"fmt"
	"path"
	"strings"
	"unicode/utf8"

	"boundcrate/core/format"
	"boundcrate/core/mention"
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
			return nil, mention.ErrCannotSay
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
		doc.Problems = append(doc.Problems, mention.Problem{Code: "malformed", Message: "its layer " + name + " is damaged: " + err.Error(), Untouched: "what stands before the damage was read", Do: "open it in the program that made it and save it again"})
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
			r.bare()
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

func opener(c byte) byte {
	switch c {
	case '}':
		return '{'
	case ')':
		return '('
	}
	return '['
}

// slash passes over a comment in the other manner: to the end of the line, or
// to its closing mark.
func (r *reader) slash() error {
	rest := r.b[r.pos:]
	switch {
	case bytes.HasPrefix(rest, []byte("//")):
		if i := bytes.IndexByte(rest, '\n'); i >= 0 {
			r.pos += i
		} else {
			r.pos = len(r.b)
		}
	case bytes.HasPrefix(rest, []byte("/*")):
		i := bytes.Index(rest[2:], []byte("*/"))
		if i < 0 {
			return r.fail(r.pos, "a comment is not closed")
		}
		r.pos += i + 4
	default:
		r.pos++
	}
	return nil
}

// bare reads a word without quotes.
func (r *reader) bare() {
	from := r.pos
	for r.pos < len(r.b) && !ends[r.b[r.pos]] {
		r.pos++
	}
	if r.pos == from {
		r.pos++
	}
	r.stmt = append(r.stmt, word{b: r.b[from:r.pos]})
}

// target reads a prim path: <…>. One that follows an asset is what is meant in
// the layer it names.
func (r *reader) target() {
	end := bytes.IndexAny(r.b[r.pos:], ">\n")
	if end < 0 || r.b[r.pos+end] == '\n' {
		r.pos++
		return
	}
	if r.fresh >= 0 {
		if g := r.doc.Mentions[r.fresh].In().Graft; g != nil {
			g.To = string(r.b[r.pos+1 : r.pos+end])
		}
		r.fresh = -1
	}
	r.pos += end + 1
}

// skipNumbers passes over the numbers of a list, and the tuples they stand in:
// they are most of a layer and say nothing.
func (r *reader) skipNumbers() {
	b, i := r.b, r.pos
	depth := 0
	for from := i; i < len(b); i++ {
		c := b[i]
		if c == '(' {
			if depth == 0 {
				from = i
			}
			depth++
			continue
		}
		if numeric[c] || c == ')' && depth > 0 {
			if c == ')' {
				depth--
			}
			continue
		}
		if depth > 0 {
			i = from // a tuple that holds more than numbers is read as it stands
		}
		break
	}
	if i == len(b) && depth > 0 {
		i = r.pos
	}
	r.pos = i
}

// numeric are the bytes that numbers in a list are made of, and what parts them.
var numeric = func() (t [256]bool) {
	for _, c := range []byte("0123456789.-+ ,\t\r\n") {
		t[c] = true
	}
	return t
}()

// ends are the bytes a bare word ends before.
var ends = func() (t [256]bool) {
	for _, c := range []byte(" \t\r\n#/\"'@{}()[]=,;<") {
		t[c] = true
	}
	return t
}()

func (r *reader) depth() int  { return len(r.stack) }
func (r *reader) top() *frame { return &r.stack[len(r.stack)-1] }

// str reads a string of either quote, also of three.
func (r *reader) str(q byte) (word, bool) {
	from := r.pos
	if b := r.b[from:]; len(b) > 2 && b[1] == q && b[2] == q {
		i := bytes.Index(b[3:], b[:3])
		if i < 0 {
			return word{}, false
		}
		r.pos += i + 6
		return word{b[3 : 3+i], true, mention.Span{Off: int64(from), End: int64(r.pos)}}, true
	}
	for i := from + 1; i < len(r.b); i++ {
		switch r.b[i] {
		case '\\':
			i++
		case q:
			r.pos = i + 1
			return word{r.b[from+1 : i], true, mention.Span{Off: int64(from), End: int64(r.pos)}}, true
		case '\n':
			return word{}, false
		}
	}
	return word{}, false
}

func (r *reader) has(s string) bool {
	for _, w := range r.stmt {
		if w.is(s) {
			return true
		}
	}
	return false
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

func (r *reader) assigned(key, value word) {
	holder := r.holder()
	switch {
	case r.depth() > 0 && r.top().what == variants:
		if holder != nil && value.quoted {
			if holder.selects == nil {
				holder.selects = map[string]string{}
			}
			holder.selects[string(key.b)] = string(value.b)
			r.say(r.path()+"{"+string(key.b)+"}", string(value.b))
		}
	case r.depth() > 0 && r.top().clips != nil:
		r.top().clips.set(key, value)
	case key.is("defaultPrim") && r.depth() == 1 && value.quoted:
		r.doc.Default = "/" + string(value.b)
	case key.is("active"):
		// Of a prim's metadata; an attribute of that name is only called so.
		off := value.is("false") || value.is("0")
		if r.prim == nil || r.depth() == 0 || r.top().what != metadata {
			return
		}
		r.prim.off = off
		if off {
			r.say(r.path(), mention.Off)
		} else {
			r.say(r.path(), mention.On)
		}
	case key.is("productName") && value.quoted && len(value.b) > 0 && holder != nil && holder.typ == "RenderProduct":
		m := r.placed("productName")
		m.Pieces, m.Nature = r.doc.One(value.span, written), mention.WritePoint
		r.doc.Add(m)
	}
}

// say keeps what the layer says of a name. What a variant says holds only while
// it is selected, so it stays within this layer.
func (r *reader) say(name, value string) {
	if len(r.when()) > 0 {
		return
	}
	r.doc.Says[name] = value
}

// when are the variants around the present place, as choices.
func (r *reader) when() (list []string) {
	prims, set := "", ""
	for i := range r.stack {
		switch f := &r.stack[i]; f.what {
		case prim:
			if f.name != "" {
				prims = f.path
			}
		case variantSet:
			set = f.name
		case variant:
			list = append(list, prims+"{"+set+"}="+f.name)
		}
	}
	if r.variant != "" && r.prim == nil { // its metadata stands before its body
		list = append(list, prims+"{"+set+"}="+r.variant)
	}
	return list
}

// holder is the prim that metadata belongs to.
func (r *reader) holder() *frame {
	if r.prim != nil {
		return r.prim
	}
	for i := len(r.stack) - 1; i >= 0; i-- {
		if r.stack[i].what == prim {
			return &r.stack[i]
		}
	}
	return nil
}

// shut closes a bracket: what stands in a prim that is switched off, or in a
// variant that is not selected, is dormant.
func (r *reader) shut() {
	f := *r.top()
	if f.clips != nil {
		r.template(f.clips)
	}
	r.stack = r.stack[:len(r.stack)-1]
	dormant, settled := false, false
	switch f.what {
	case prim:
		dormant = f.off
		settled = f.off && len(r.when()) > 0
	case variant:
		set := ""
		for i := len(r.stack) - 1; i >= 0 && set == ""; i-- {
			if r.stack[i].what == variantSet {
				set = r.stack[i].name
			}
		}
		p := r.holder()
		dormant = p == nil || p.selects[set] != f.name
	}
	if dormant {
		for i := f.first; i < len(r.doc.Mentions); i++ {
			r.doc.Mentions[i].Use = mention.Dormant
			if sc := r.doc.Mentions[i].Scope; sc != nil {
				sc.Settled = sc.Settled || settled
			}
		}
	}
}

// asset reads @…@ or @@@…@@@.
func (r *reader) asset() error {
	from, mark := r.pos, 1
	if bytes.HasPrefix(r.b[r.pos:], []byte("@@@")) {
		mark = 3
	}
	i := r.pos + mark
	for ; i < len(r.b); i++ {
		if mark == 3 && r.b[i] == '\\' && bytes.HasPrefix(r.b[i+1:], []byte("@@@")) {
			i += 3
			continue
		}
		if r.b[i] == '@' && (mark == 1 || bytes.HasPrefix(r.b[i:], []byte("@@@"))) {
			break
		}
		if r.b[i] == '\n' && mark == 1 {
			return r.fail(from, "an asset path is not closed")
		}
	}
	if i >= len(r.b) {
		return r.fail(len(r.b), "an asset path is not closed")
	}
	if mark == 3 {
		// Up to two more signs belong to the path: @@@a@@@@@ ends with the last three.
		for k := 0; k < 2 && i+3 < len(r.b) && r.b[i+3] == '@'; k++ {
			i++
		}
	}
	r.pos = i + mark
	for i := range r.stack {
		if r.stack[i].quiet {
			return nil
		}
	}
	if r.has("delete") {
		return nil
	}
	r.add(mention.Span{Off: int64(from), End: int64(r.pos)})
	return nil
}

// The codings of asset paths: what is empty stays empty, and a member stays in
// its package.
var (
	named  = kept(func(s string) bool { return s != "" && !packed(s) })
	empty  = kept(func(s string) bool { return s == "" })
	member = kept(packed)
	// stuck stands before a further at sign, which would join a new path.
	stuck = mention.Only{Coding: Asset, Not: func(string) string { return "an at sign follows it" }}
)

func kept(like func(string) bool) mention.Coding {
	return mention.Only{Coding: Asset, Not: func(s string) string {
		if like(s) {
			return ""
		}
		return "an asset path that is empty, or is a member of a package, means something else"
	}}
}

// placed is a mention at the present place, by the word that names it there.
func (r *reader) placed(what string) mention.Mention {
	in := &mention.Scope{Under: r.path(), When: r.when()}
	in.Settled = len(in.When) > 1 // what a variant selects within another holds only there
	m := mention.Mention{Spelling: mention.Path, Scope: in, Owner: in.Under}
	if what != "" {
		m.Owner += " " + what
		in.Under = m.Owner[:len(in.Under)]
	}
	return m
}

func (r *reader) add(span mention.Span) {
	path, _ := Asset.Decode(r.b[span.Off:span.End])
	what := r.what()
	m := r.placed(what)
	coding := named
	switch _, rest, _ := strings.Cut(path, "["); {
	case path == "":
		m.Nature, coding = mention.Unsaved, empty
	case packed(path):
		m.Member, coding = strings.TrimSuffix(rest, "]"), member
		end := "[" + rest
		m.Shown = &path
		m.Merge = func(parts []string) string { return strings.TrimSuffix(parts[0], end) }
		m.Split = func(name string) ([]string, error) { return []string{name + end}, nil }
	case format.Inside(r.t, &m, path):
		coding = nil
		m.Shown = &path
	}
	if coding != nil && r.pos < len(r.b) && r.b[r.pos] == '@' {
		coding = stuck
	}
	if coding != nil {
		m.Pieces = r.doc.One(span, coding)
	}
	switch what {
	case "subLayers":
		m.Scope.Graft, m.Scope.Under = &mention.Graft{Layer: true}, ""
	case "references", "payload":
		m.Scope.Graft = &mention.Graft{At: m.Scope.Under}
	}
	r.fresh = r.doc.Add(m)
	if m.Pieces != nil && m.Member == "" && strings.Contains(path, udim) {
		format.Tiles(r.doc, r.fresh, udim, 4)
	}
}

// packed tells asset paths that name a member of a package: pack.usdz[inner.png].
func packed(path string) bool {
	pack, rest, ok := strings.Cut(path, "[")
	return ok && strings.HasSuffix(rest, "]") && strings.HasSuffix(strings.ToLower(pack), ".usdz")
}

// path is that of the prims around the present place.
func (r *reader) path() string {
	if r.prim != nil {
		return r.prim.path
	}
	if above := r.above(); above != "" {
		return above
	}
	return "/"
}

// above is the path of the prim that the present place is in, "" for none.
func (r *reader) above() string {
	for i := len(r.stack) - 1; i >= 0; i-- {
		if f := &r.stack[i]; f.what == prim && f.name != "" {
			return f.path
		}
	}
	return ""
}

// what is the attribute or list an asset stands in.
func (r *reader) what() string {
	if r.depth() > 0 && (r.top().what == list || r.top().what == samples) {
		return r.top().name
	}
	return r.subject()
}

// subject is the word of a statement that is neither a type nor a list edit.
func (r *reader) subject() string {
	for _, w := range r.stmt {
		if w.quoted {
			continue
		}
		switch string(w.b) {
		case "=", "prepend", "append", "add", "delete", "reorder", "asset", "asset[]", "uniform", "custom":
			continue
		}
		return string(w.b)
	}
	return ""
}

// Asset is the coding of an asset path, at signs included.
var Asset mention.Coding = asset{}

type asset struct{}

func (asset) Decode(raw []byte) (string, error) {
	n := len(raw)
	switch {
	case n >= 6 && bytes.HasPrefix(raw, []byte("@@@")) && bytes.HasSuffix(raw, []byte("@@@")):
		return strings.ReplaceAll(string(raw[3:n-3]), `\@@@`, "@@@"), nil
	case n >= 2 && raw[0] == '@' && raw[n-1] == '@':
		return string(raw[1 : n-1]), nil
	}
	return "", fmt.Errorf("no asset path")
}

func (asset) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) || strings.ContainsFunc(s, func(r rune) bool { return r < 0x20 || r == 0x7F || !fits(r) }) {
		return nil, fmt.Errorf("an asset path holds no control characters: %w", mention.ErrCannotSay)
	}
	if !strings.Contains(s, "@") && !bytes.HasPrefix(old, []byte("@@@")) {
		return []byte("@" + s + "@"), nil
	}
	if strings.HasSuffix(s, "@") || strings.HasSuffix(s, `\`) || strings.HasPrefix(s, "@") || strings.Contains(s, "@@@") {
		return nil, fmt.Errorf("an asset path cannot hold these at signs: %w", mention.ErrCannotSay)
	}
	return []byte("@@@" + s + "@@@"), nil
}
