// Package x3d reads X3D scenes: the XML encoding (ISO/IEC 19776-1), the classic
// encoding (ISO/IEC 19776-2) and its forerunner, VRML97 (.wrl).
//
// A url field is a list: the first entry that exists is used, the rest stand by.
package x3d

import (
	"bytes"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "x3d".
func (Format) Name() string { return "x3d" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "X3D or VRML scene", Extensions: []string{"x3d", "wrl", "x3dv", "vrml"}, Knows: "textures, sounds, films, inlined scenes and prototypes; of several addresses the first that exists"}
}

// Claims looks for the root element or the first line.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<X3D")):
		return 90
	case bytes.HasPrefix(head, []byte("#X3D V")), bytes.HasPrefix(head, []byte("#VRML V2")), bytes.HasPrefix(head, []byte("#VRML V1")):
		return 95
	}
	switch format.Ext(name) {
	case "x3d", "wrl", "x3dv", "vrml":
		return 45
	}
	return 0
}

// Read reads every url field but those of anchors. Script text that stands in
// one is no file.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}}
	if body := bytes.TrimLeft(bytes.TrimPrefix(t.Bytes, []byte("\xEF\xBB\xBF")), " \t\r\n"); len(body) > 0 && body[0] == '#' {
		return r.doc, r.classic()
	}
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.start})
	return r.doc, err
}

type reader struct {
	t     mention.Text
	doc   *mention.Doc
	group int
}

// entry is one string of a url list, without its quotes.
type entry struct{ off, end int64 }

func (r *reader) list(entries []entry, coding mention.Coding, owner string, use mention.Use) {
	r.group++
	for _, e := range entries {
		text, _ := coding.Decode(r.t.Bytes[e.off:e.end]) // with entities that are not expanded
		if script(text) {
			use = min(use, mention.Dormant) // it stands in the scene; files behind it stand by
			continue
		}
		if text == "" || text[0] == '#' {
			continue
		}
		m := mention.Mention{
			Pieces:   r.doc.One(mention.Span{Off: e.off, End: e.end}, mention.Only{Coding: coding, Not: outside}),
			Spelling: mention.URI, Use: use, Owner: owner, Group: mention.Group{N: r.group},
		}
		if format.Embed(&m, []byte(text)) {
			m.Data.Say, m.Pieces = mention.Instead(m.Pieces[0]), nil
		}
		r.doc.Add(m)
	}
}

func outside(s string) error {
	if script(s) {
		return problem.No(problem.AsScript)
	}
	return format.Outside(s)
}

func script(s string) bool {
	for _, p := range []string{"javascript:", "ecmascript:", "vrmlscript:"} {
		if len(s) >= len(p) && strings.EqualFold(s[:len(p)], p) {
			return true
		}
	}
	return false
}

func (r *reader) start(e *xmlscan.Element) error {
	if e.Local == "Anchor" {
		return nil
	}
	for i := range e.Attrs {
		if a := &e.Attrs[i]; addresses(a.Name) {
			r.attribute(e, a)
		}
	}
	return nil
}

// addresses tells fields that list addresses: url, and those of backgrounds
// and terrain, whose names end so (frontUrl, child1Url).
func addresses(field string) bool { return field == "url" || strings.HasSuffix(field, "Url") }

func (r *reader) attribute(e *xmlscan.Element, a *xmlscan.Attr) {
	use := mention.Used
	if strings.EqualFold(e.Attr("load"), "false") {
		use = mention.Dormant
	}
	owner := e.Local
	if def := e.Attr("DEF"); def != "" {
		owner += " '" + def + "'"
	}
	raw := r.t.Bytes[a.Span.Off+1 : a.Span.End-1]
	var entries []entry
	for i := 0; i < len(raw); {
		n := quote(raw[i:])
		if n == 0 {
			i++
			continue
		}
		from := i + n
		end := from
		for end < len(raw) && quote(raw[end:]) == 0 {
			if raw[end] == '\\' {
				end++
				if end < len(raw) {
					end += max(1, quote(raw[end:]))
				}
				continue
			}
			end++
		}
		if end >= len(raw) {
			break
		}
		entries = append(entries, entry{a.Span.Off + 1 + int64(from), a.Span.Off + 1 + int64(end)})
		i = end + quote(raw[end:])
	}
	if len(entries) == 0 && len(bytes.TrimSpace(raw)) > 0 && !bytes.ContainsAny(raw, "\"") {
		// A single address without quotes, as many writers leave it.
		entries = []entry{{a.Span.Off + 1, a.Span.End - 1}}
	}
	if a.Name != "url" {
		owner += " " + a.Name
	}
	r.list(entries, field{xml: true}, owner, use)
}

// quote is the length of a quotation mark in an attribute's raw text.
func quote(b []byte) int {
	switch {
	case len(b) > 0 && b[0] == '"':
		return 1
	case bytes.HasPrefix(b, []byte("&quot;")):
		return 6
	case bytes.HasPrefix(b, []byte("&#34;")):
		return 5
	}
	return 0
}

// field is the coding of a string within a url list: \" and \\ are escaped, and
// in XML whatever XML needs.
type field struct{ xml bool }

var unquoted = strings.NewReplacer(`\"`, `"`, `\\`, `\`)

func (f field) Decode(raw []byte) (string, error) {
	s, err := string(raw), error(nil)
	if f.xml {
		if s, err = xmlscan.Attribute.Decode([]byte(`"` + s + `"`)); err != nil && s == "" {
			return "", err
		}
	}
	return unquoted.Replace(s), err
}

func (f field) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) || strings.ContainsFunc(s, func(r rune) bool { return r < 0x20 || r == 0x7F || !f.xml && !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	if s == "" || f.xml && strings.TrimSpace(s) != s {
		return nil, problem.No(problem.Awkward)
	}
	s = strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s)
	if !f.xml {
		return []byte(s), nil
	}
	b, err := xmlscan.Attribute.Encode(s, []byte(`"`), fits)
	if err != nil {
		return nil, err
	}
	// Either quote may delimit the attribute.
	return bytes.ReplaceAll(b[1:len(b)-1], []byte("'"), []byte("&apos;")), nil
}

// node is one that is open, in the classic encoding.
type node struct {
	name  string
	first int  // mention
	off   bool // load FALSE
}

// classic reads the classic encoding: node types before "{", url fields, and
// the addresses after EXTERNPROTO.
// first are the fields of VRML 1.0 that name a file, by their nodes (from memory); each holds
// one name.
var first = map[string]string{"WWWInline": "name", "Texture2": "filename"}

func (r *reader) classic() error {
	b := r.t.Bytes
	var nodes []node
	word, last := "", ""
	proto := 0 // 1 after EXTERNPROTO, 2 after its field list
	skipped := false
	for i := 0; i < len(b); {
		switch c := b[i]; {
		case c == '#':
			if k := bytes.IndexByte(b[i:], '\n'); k >= 0 {
				i += k
			} else {
				i = len(b)
			}
		case c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == ',':
			i++
		case c == '{':
			nodes = append(nodes, node{word, len(r.doc.Mentions), false})
			word, i = "", i+1
			if len(nodes) > 10_000 {
				return &format.SyntaxError{Off: int64(i), Msg: "nested deeper than 10000 levels"}
			}
		case c == '}':
			if len(nodes) == 0 {
				return &format.SyntaxError{Off: int64(i), Msg: "a brace closes nothing"}
			}
			if n := nodes[len(nodes)-1]; n.off {
				r.disable(n.first)
			}
			nodes, i = nodes[:len(nodes)-1], i+1
			word = ""
		case c == '"' || c == '[':
			isURL := addresses(word) || proto == 2 || len(nodes) > 0 && first[nodes[len(nodes)-1].name] == word && c == '"'
			if c == '[' && !isURL && proto != 1 {
				i++
				continue
			}
			entries, end, err := values(b, i)
			if err != nil {
				return err
			}
			owner := ""
			if len(nodes) > 0 {
				owner = nodes[len(nodes)-1].name
			}
			switch {
			case proto == 2:
				r.list(entries, field{}, "EXTERNPROTO "+last, mention.Used)
				proto = 0
			case proto == 1:
				proto = 2
			case isURL && owner != "Anchor":
				if word != "url" {
					owner += " " + word
				}
				r.list(entries, field{}, owner, mention.Used)
			}
			word, i = "", end
		case c == ']':
			i++
		default:
			from := i
			i = wordEnd(b, i)
			if word == "load" && len(nodes) > 0 && string(b[from:i]) == "FALSE" {
				nodes[len(nodes)-1].off = true
			}
			word = string(b[from:i])
			if skipped {
				last, skipped = word, false
			}
			if word == "EXTERNPROTO" {
				proto, skipped = 1, true
			}
		}
	}
	if len(nodes) > 0 {
		return &format.SyntaxError{Off: int64(len(b)), Msg: "the text ends in the middle"}
	}
	return nil
}

// disable makes what was read from a mention on dormant.
func (r *reader) disable(first int) {
	for k := first; k < len(r.doc.Mentions); k++ {
		r.doc.Mentions[k].Use = mention.Dormant
	}
}

// wordEnd is where a word ends that begins at i; what is none is a byte long.
func wordEnd(b []byte, i int) int {
	from := i
	for i < len(b) && !bytes.ContainsRune([]byte(" \t\r\n,{}[]\"#"), rune(b[i])) {
		i++
	}
	return max(i, from+1)
}

// values are the strings of a field that begins at i, one or a list of them, and where it
// ends.
func values(b []byte, i int) (entries []entry, end int, err error) {
	open := &format.SyntaxError{Off: int64(len(b)), Msg: "a string is not closed"}
	if b[i] == '"' {
		e, ok := str(b, i)
		if !ok {
			return nil, 0, open
		}
		return []entry{e}, int(e.end) + 1, nil
	}
	for end = i + 1; end < len(b) && b[end] != ']'; {
		switch b[end] {
		case '"':
			e, ok := str(b, end)
			if !ok {
				return nil, 0, open
			}
			entries, end = append(entries, e), int(e.end)+1
		case '#':
			k := bytes.IndexByte(b[end:], '\n')
			if k < 0 {
				k = len(b) - end
			}
			end += k
		default:
			end++
		}
	}
	if end >= len(b) {
		return nil, 0, &format.SyntaxError{Off: int64(len(b)), Msg: "the text ends in the middle"}
	}
	return entries, end + 1, nil
}

// str is the inside of the string that begins at i.
func str(b []byte, i int) (entry, bool) {
	for j := i + 1; j < len(b); j++ {
		switch b[j] {
		case '\\':
			j++
		case '"':
			return entry{int64(i + 1), int64(j)}, true
		}
	}
	return entry{}, false
}
