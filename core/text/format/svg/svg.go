// Package svg reads drawings (W3C SVG 2), also compressed as .svgz.
package svg

import (
	"bytes"
	"regexp"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/cssscan"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "svg".
func (Format) Name() string { return "svg" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "SVG drawing", Extensions: []string{"svg", "svgz"}, Knows: "pictures, used parts of other drawings, style sheets and what they name, pictures that stand inside"}
}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<svg")) && bytes.Contains(head, []byte("http://www.w3.org/2000/svg")):
		return 85
	case bytes.Contains(head, []byte("<svg:svg")):
		return 80
	}
	if e := format.Ext(name); e == "svg" || e == "svgz" {
		return 45
	}
	return 0
}

// Read reads hrefs of image, use and feImage, url() in styles and presentation
// attributes, @import, and style sheets. What display or visibility hides is
// still needed.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}}
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.start, Text: r.text, Instruction: r.instruction})
	return r.doc, err
}

type reader struct {
	t   mention.Text
	doc *mention.Doc
}

// presentation are the attributes that may hold url() (SVG 2 §6.6).
var presentation = map[string]bool{
	"style": true, "fill": true, "stroke": true, "filter": true, "mask": true, "clip-path": true, "cursor": true,
	"marker": true, "marker-start": true, "marker-mid": true, "marker-end": true, "shape-inside": true,
}

func (r *reader) start(e *xmlscan.Element) error {
	var href *xmlscan.Attr
	switch e.Local {
	case "image", "use", "feImage", "tref", "font-face-uri": // the last two of SVG 1.1 (§10.6, §20.8.3)
		// Find prefers the plain href, which beats xlink:href (SVG 2 §16.1.6).
		href = e.Find("href")
	}
	for i := range e.Attrs {
		a := &e.Attrs[i]
		if a == href && !strings.HasPrefix(strings.TrimSpace(a.Value()), "url(") { // which only styles know, and writers put there
			r.add(a.Piece(), a.Value(), owner(e), mention.Used)
		}
		if raw := r.t.Bytes[a.Span.Off+1 : a.Span.End-1]; presentation[a.Name] && len(raw) > 4 {
			r.css(raw, a.Span.Off+1, owner(e)+" "+a.Name, false)
		}
	}
	return nil
}

func owner(e *xmlscan.Element) string {
	if id := e.Attr("id"); id != "" {
		return e.Local + " '" + id + "'"
	}
	return e.Local
}

func (r *reader) text(e *xmlscan.Element, span mention.Span, cdata bool) error {
	if e.Local == "style" {
		r.css(r.t.Bytes[span.Off:span.End], span.Off, "style", cdata)
	}
	return nil
}

// css reads style text that stands in XML, entities and all; a CDATA section
// has none.
func (r *reader) css(raw []byte, off int64, owner string, cdata bool) {
	text, from := raw, func(i int) int { return i }
	if !cdata && len(raw) <= maxStyle && bytes.IndexByte(raw, '&') >= 0 {
		var offs []int
		text, offs = xmlscan.Plain(raw)
		from = func(i int) int { return offs[i] }
	}
	coding := styled{cdata}
	for _, ref := range cssscan.Scan(text) {
		span := mention.Span{Off: off + int64(from(ref.Off)), End: off + int64(from(ref.End))}
		uri, err := coding.Decode(r.t.Bytes[span.Off:span.End])
		if err != nil {
			continue
		}
		r.add(mention.Piece{Span: span, Coding: coding}, uri, owner, mention.Used)
	}
}

// maxStyle bounds style text whose entities are undone: that takes nine bytes
// of memory for each of it.
const maxStyle = 1 << 22

// styled is the coding of a name in style text within XML.
type styled struct{ cdata bool }

func (s styled) Decode(raw []byte) (string, error) {
	if !s.cdata {
		raw, _ = xmlscan.Plain(raw)
	}
	return cssscan.Coding{}.Decode(raw)
}

func (s styled) Encode(name string, old []byte, fits func(rune) bool) ([]byte, error) {
	if s.cdata {
		return cssscan.Coding{InXML: true}.Encode(name, old, fits)
	}
	plain, _ := xmlscan.Plain(old)
	b, err := cssscan.Coding{InXML: true}.Encode(name, plain, fits)
	if err != nil || len(plain) == 0 || plain[0] == old[0] || plain[0] != '"' && plain[0] != '\'' {
		return b, err
	}
	// The quotes stand as entities.
	quote := map[byte]string{'"': "&quot;", '\'': "&apos;"}[plain[0]]
	return []byte(quote + string(b[1:len(b)-1]) + quote), nil
}

func (r *reader) add(p mention.Piece, uri, owner string, use mention.Use) {
	p.Coding = mention.Only{Coding: p.Coding, Not: format.Outside}
	m := mention.Mention{Pieces: r.doc.One(p.Span, p.Coding), Spelling: mention.URI, Use: use, Owner: owner}
	if format.Embed(&m, []byte(uri)) {
		m.Data.Say, m.Pieces = mention.Instead(m.Pieces[0]), nil
	} else if format.Outside(uri) != nil {
		return // within the drawing itself
	}
	r.doc.Add(m)
}

var pseudo = regexp.MustCompile(`(href|alternate)\s*=\s*("[^"<]*"|'[^'<]*')`)

// instruction reads <?xml-stylesheet href="…"?> (W3C xml-stylesheet).
func (r *reader) instruction(target string, span mention.Span) error {
	if target != "xml-stylesheet" {
		return nil
	}
	use := mention.Used
	var href mention.Span
	raw := r.t.Bytes[span.Off:span.End]
	for _, m := range pseudo.FindAllSubmatchIndex(raw, -1) {
		if string(raw[m[2]:m[3]]) == "href" {
			href = mention.Span{Off: span.Off + int64(m[4]), End: span.Off + int64(m[5])}
		} else if strings.Contains(string(raw[m[4]:m[5]]), "yes") {
			use = mention.Dormant
		}
	}
	if href.End == 0 {
		return nil
	}
	uri, _ := xmlscan.Attribute.Decode(r.t.Bytes[href.Off:href.End]) // with entities that are not expanded
	r.add(mention.Piece{Span: href, Coding: inInstruction{xmlscan.Attribute}}, uri, "xml-stylesheet", use)
	return nil
}

// inInstruction is an attribute's coding that cannot end the instruction.
type inInstruction struct{ mention.Coding }

func (c inInstruction) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if strings.ContainsAny(s, "<>") || strings.Contains(s, "?>") {
		return nil, problem.No(problem.Awkward)
	}
	return c.Coding.Encode(s, old, fits)
}
