// Package usda reads universal scene descriptions in their text form (an open
// specification), alone or as the default layer of a .usdz package.
package usda

import (
	"bytes"
	"fmt"
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
	kind    byte   // '{', '(', '['
	what    string // prim, variantSet, variant, dictionary, ""
	name    string // of a prim, variant set or variant
	typ     string // of a prim
	first   int    // mentions in it begin here
	off     bool   // active = false
	selects map[string]string
	quiet   bool // asset values in it name nothing
}

type reader struct {
	t     mention.Text
	b     []byte
	pos   int
	doc   *mention.Doc
	stack []frame
	stmt  []string // words of the present statement
	prim  *frame   // a prim whose metadata or body is to come
	// variant is the name of one whose metadata or body is to come.
	variant string
	assign  bool
}

// Read goes through the text once.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, b: t.Bytes, doc: &mention.Doc{Texts: []mention.Text{t}}}
	err := r.run()
	return r.doc, err
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
		case ' ', '\t', '\r':
			r.pos++
		case '\n', ';':
			r.pos++
			if r.depth() == 0 || r.top().kind != '[' {
				r.end()
			}
		case '"', '\'':
			s, ok := r.str(c)
			if !ok {
				return r.fail(len(r.b), "a string is not closed")
			}
			r.stmt = append(r.stmt, "\x00"+s)
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
			if r.depth() == 0 || r.top().kind != map[byte]byte{'}': '{', ')': '(', ']': '['}[c] {
				return r.fail(r.pos, "%q closes nothing", string(c))
			}
			r.end()
			r.shut()
			r.pos++
		case '=':
			r.assign = true
			r.stmt = append(r.stmt, "=")
			r.pos++
		case ',':
			r.pos++
		default:
			from := r.pos
			for r.pos < len(r.b) && !ends[r.b[r.pos]] {
				r.pos++
			}
			if r.pos == from {
				r.pos++
			}
			// Lists of numbers are most of a layer and say nothing.
			if c := r.b[from]; r.depth() == 0 || !(c >= '0' && c <= '9' || c == '-' || c == '.') {
				r.stmt = append(r.stmt, string(r.b[from:r.pos]))
			} else if r.assign && len(r.stmt) > 0 && r.stmt[len(r.stmt)-1] == "=" {
				r.stmt = append(r.stmt, string(r.b[from:r.pos]))
			}
		}
	}
	if r.depth() > 0 {
		return r.fail(len(r.b), "the text ends in the middle")
	}
	return nil
}

// ends are the bytes a bare word ends before.
var ends = func() (t [256]bool) {
	for _, c := range []byte(" \t\r\n#\"'@{}()[]=,;") {
		t[c] = true
	}
	return t
}()

func (r *reader) depth() int  { return len(r.stack) }
func (r *reader) top() *frame { return &r.stack[len(r.stack)-1] }

// str reads a string of either quote, also of three.
func (r *reader) str(q byte) (string, bool) {
	triple := bytes.Repeat([]byte{q}, 3)
	if bytes.HasPrefix(r.b[r.pos:], triple) {
		i := bytes.Index(r.b[r.pos+3:], triple)
		if i < 0 {
			return "", false
		}
		s := string(r.b[r.pos+3 : r.pos+3+i])
		r.pos += i + 6
		return s, true
	}
	for i := r.pos + 1; i < len(r.b); i++ {
		switch r.b[i] {
		case '\\':
			i++
		case q:
			s := string(r.b[r.pos+1 : i])
			r.pos = i + 1
			return s, true
		case '\n':
			return "", false
		}
	}
	return "", false
}

func text(word string) (string, bool) { return strings.CutPrefix(word, "\x00") }

func (r *reader) has(words ...string) bool {
	for _, w := range words {
		for _, s := range r.stmt {
			if s == w {
				return true
			}
		}
	}
	return false
}

// open begins a bracket. What it is depends on the words before it.
func (r *reader) open(c byte) {
	f := frame{kind: c, first: len(r.doc.Mentions)}
	switch c {
	case '(':
		// Metadata of a prim stands between its name and its body.
		if len(r.stmt) > 0 && !r.assign && (r.stmt[0] == "def" || r.stmt[0] == "over" || r.stmt[0] == "class") {
			p := r.newPrim()
			r.prim = &p
			f.what = "metadata"
		} else if r.depth() > 0 && r.top().what == "variantSet" && len(r.stmt) > 0 {
			r.variant = r.stmt[0]
		}
		r.stmt, r.assign = nil, false
	case '{':
		switch {
		case r.prim != nil && !r.assign:
			f, r.prim = *r.prim, nil
			f.kind = '{'
		case len(r.stmt) > 0 && (r.stmt[0] == "def" || r.stmt[0] == "over" || r.stmt[0] == "class") && !r.assign:
			f = r.newPrim()
		case r.has("variantSet") && len(r.stmt) > 1:
			f.what = "variantSet"
			f.name, _ = text(r.stmt[1])
		case r.depth() > 0 && r.top().what == "variantSet" && (len(r.stmt) > 0 || r.variant != ""):
			f.what = "variant"
			if len(r.stmt) > 0 {
				r.variant = r.stmt[0]
			}
			f.name, _ = text(r.variant)
			r.variant = ""
		case r.has("variants") && r.assign:
			f.what = "variants"
		case r.has("assetInfo") && r.assign:
			f.quiet = true
		}
		r.stmt, r.assign = nil, false
	case '[':
		f.quiet = r.has("delete")
		f.what = "list"
		f.name = strings.Join(r.stmt, " ")
	}
	r.stack = append(r.stack, f)
}

func (r *reader) newPrim() frame {
	f := frame{kind: '{', what: "prim", first: len(r.doc.Mentions), selects: map[string]string{}}
	for i, w := range r.stmt[1:] {
		if s, ok := text(w); ok {
			f.name = s
		} else if i == 0 {
			f.typ = w
		}
	}
	return f
}

// end finishes a statement: active = false, a variant's selection, or the
// place a render writes to.
func (r *reader) end() {
	defer func() { r.stmt, r.assign = nil, false }()
	if len(r.stmt) < 3 {
		return
	}
	n := len(r.stmt)
	eq := r.stmt[n-2] == "="
	switch {
	case eq && r.stmt[n-3] == "active" && (r.stmt[n-1] == "false" || r.stmt[n-1] == "0"):
		if r.prim != nil {
			r.prim.off = true
		} else if r.depth() > 0 {
			r.top().off = r.top().what == "prim"
		}
	case eq && r.depth() > 0 && r.top().what == "variants":
		if v, ok := text(r.stmt[n-1]); ok {
			name := r.stmt[n-3]
			if s, ok := text(name); ok {
				name = s
			}
			if p := r.holder(); p != nil {
				p.selects[name] = v
			}
		}
	}
}

// holder is the prim that metadata belongs to.
func (r *reader) holder() *frame {
	if r.prim != nil {
		return r.prim
	}
	for i := len(r.stack) - 1; i >= 0; i-- {
		if r.stack[i].what == "prim" {
			return &r.stack[i]
		}
	}
	return nil
}

// shut closes a bracket: what stands in a prim that is switched off, or in a
// variant that is not selected, is dormant.
func (r *reader) shut() {
	f := *r.top()
	r.stack = r.stack[:len(r.stack)-1]
	dormant := false
	switch f.what {
	case "prim":
		dormant = f.off
	case "variant":
		set := ""
		for i := len(r.stack) - 1; i >= 0 && set == ""; i-- {
			if r.stack[i].what == "variantSet" {
				set = r.stack[i].name
			}
		}
		p := r.holder()
		dormant = p == nil || p.selects[set] != f.name
	}
	if dormant {
		for i := f.first; i < len(r.doc.Mentions); i++ {
			r.doc.Mentions[i].Use = mention.Dormant
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

func (r *reader) add(span mention.Span) {
	path, _ := Asset.Decode(r.b[span.Off:span.End])
	m := mention.Mention{Pieces: []mention.Piece{{Span: span, Coding: mention.Only{Coding: Asset, Not: func(s string) string {
		switch {
		case (s == "") != (path == ""):
			return "an empty asset path names nothing"
		case packed(s) != packed(path):
			return "only a .usdz package has members"
		}
		return ""
	}}}}, Spelling: mention.Path, Use: mention.Used, Owner: r.owner()}
	switch _, rest, _ := strings.Cut(path, "["); {
	case path == "":
		m.Unsaved = true
	case packed(path):
		m.Member = strings.TrimSuffix(rest, "]")
		end := "[" + rest
		shown := path
		m.Shown = &shown
		m.Merge = func(parts []string) string { return strings.TrimSuffix(parts[0], end) }
		m.Split = func(name string) ([]string, error) { return []string{name + end}, nil }
	case format.Inside(r.t, &m, path):
		m.Pieces = nil
		shown := path
		m.Shown = &shown
	}
	r.doc.Mentions = append(r.doc.Mentions, m)
	if len(m.Pieces) == 1 && m.Member == "" && strings.Contains(path, udim) {
		format.Tiles(r.doc, len(r.doc.Mentions)-1, udim, 4)
	}
}

// packed tells asset paths that name a member of a package: pack.usdz[inner.png].
func packed(path string) bool {
	pack, rest, ok := strings.Cut(path, "[")
	return ok && strings.HasSuffix(rest, "]") && strings.HasSuffix(strings.ToLower(pack), ".usdz")
}

// owner is the path of prims, and the attribute or list the asset stands in.
func (r *reader) owner() string {
	var parts []string
	for _, f := range r.stack {
		if f.what == "prim" && f.name != "" {
			parts = append(parts, f.name)
		}
	}
	if r.prim != nil {
		parts = append(parts, r.prim.name)
	}
	what := r.stmt
	if r.depth() > 0 && r.top().what == "list" {
		what = strings.Fields(r.top().name)
	}
	word := ""
	for _, w := range what {
		if _, isText := text(w); !isText && w != "=" && w != "prepend" && w != "append" && w != "add" && w != "asset" && w != "asset[]" && w != "uniform" && w != "custom" && w != "asset[" {
			word = w
			break
		}
	}
	return strings.TrimSpace("/" + strings.Join(parts, "/") + " " + word)
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
