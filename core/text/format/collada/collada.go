// Package collada reads COLLADA scenes, 1.4.1 and 1.5 (ISO/PAS 17506).
package collada

import (
	"bytes"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "collada".
func (Format) Name() string { return "collada" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "COLLADA scene", Extensions: []string{"dae"}, Knows: "pictures, whether an effect samples them, and parts of other documents"}
}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<COLLADA")):
		return 90
	case format.Ext(name) == "dae":
		return 45
	}
	return 0
}

// Read reads init_from of images (1.4.1), init_from/ref (1.5), their data, and url, source
// and target attributes that lead into another document. init_from in a surface
// is an id. An image that no effect samples is listed.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}, images: map[int]string{}, sampled: map[string]bool{}}
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.start, Text: r.text, End: r.end})
	for i, id := range r.images {
		if !r.sampled[id] {
			r.doc.Mentions[i].Use = mention.Listed
		}
	}
	return r.doc, err
}

type reader struct {
	t       mention.Text
	doc     *mention.Doc
	leaf    xmlscan.Leaf
	images  map[int]string // mention → id of its image
	sampled map[string]bool
}

// image is the id of the image an element stands in directly, ok if it does.
func image(e *xmlscan.Element) (string, bool) {
	for p := e.Parent; p != nil; p = p.Parent {
		switch p.Local {
		case "image":
			return p.Attr("id"), true
		case "init_from", "create_2d", "create_cube", "create_3d": // 1.5, §8
		default:
			return "", false
		}
	}
	return "", false
}

func (r *reader) start(e *xmlscan.Element) error {
	switch e.Local {
	case "init_from", "ref":
		_, inImage := image(e)
		if inImage || e.Parent != nil && e.Parent.Local == "surface" {
			r.leaf.Begin(e)
		}
	case "hex", "data":
		if _, inImage := image(e); inImage {
			r.leaf.Begin(e)
		}
	case "texture":
		r.sampled[e.Attr("texture")] = true
	case "instance_image":
		r.sampled[strings.TrimPrefix(e.Attr("url"), "#")] = true
	}
	for _, name := range []string{"url", "source", "target"} {
		a := e.Find(name)
		if a == nil || !leaves(e.Local, a.Name, a.Value()) {
			continue
		}
		piece, element, attr := a.Piece(), e.Local, a.Name
		piece.Coding = mention.Only{Coding: piece.Coding, Not: func(s string) error {
			if !leaves(element, attr, s) {
				return problem.No(problem.AsFragment)
			}
			return nil
		}}
		r.doc.Add(mention.Mention{Pieces: r.doc.One(piece.Span, piece.Coding), Spelling: mention.URI, Owner: e.Local + " " + name})
	}
	return nil
}

// leaves tells attributes that name another document: x.dae#id, or the url of
// an instance without a fragment.
func leaves(element, attr, value string) bool {
	hash := strings.IndexByte(value, '#')
	return hash > 0 || hash < 0 && value != "" && attr == "url" && strings.HasPrefix(element, "instance_")
}

// instead puts an element that names a file in the place of one that holds its
// bytes: <hex> of 1.5 (§8 "init_from") becomes <ref>, <data> of 1.4 (§5 "image")
// becomes <init_from>.
func (r *reader) instead(e *xmlscan.Element, content mention.Span) func(*mention.Doc, string) ([]mention.Edit, error) {
	end := bytes.IndexByte(r.t.Bytes[content.End:], '>')
	if end < 0 {
		return nil
	}
	whole := mention.Span{Off: e.Off, End: content.End + int64(end) + 1}
	prefix := strings.TrimSuffix(e.Name, e.Local)
	tag := map[string]string{"hex": "ref", "data": "init_from"}[e.Local]
	return func(d *mention.Doc, name string) ([]mention.Edit, error) {
		if err := format.Outside(name); err != nil {
			return nil, &mention.CannotSayError{Name: name, Err: err}
		}
		named, err := mention.Instead(mention.Piece{Span: content, Coding: xmlscan.Text})(d, name)
		if err != nil {
			return nil, err
		}
		return []mention.Edit{{Span: whole, New: []byte("<" + prefix + tag + ">" + string(named[0].New) + "</" + prefix + tag + ">")}}, nil
	}
}

func (r *reader) text(e *xmlscan.Element, span mention.Span, cdata bool) error {
	r.leaf.Take(r.t.Bytes, e, span, cdata)
	return nil
}

func (r *reader) end(e *xmlscan.Element) error {
	piece, ok := r.leaf.At(e)
	if !ok {
		return nil
	}
	if e.Local == "hex" || e.Local == "data" {
		id, _ := image(e)
		m := mention.Mention{Owner: "image '" + id + "'"}
		format.Hex(&m, xmlscan.Value(r.t.Bytes[piece.Span.Off:piece.Span.End], piece.Coding))
		m.Data.Say = r.instead(e, piece.Span)
		r.images[r.doc.Add(m)] = id
		return nil
	}
	text, _ := piece.Coding.Decode(r.t.Bytes[piece.Span.Off:piece.Span.End]) // with entities that are not expanded
	id, inImage := image(e)
	if !inImage {
		r.sampled[text] = true
		return nil
	}
	piece.Coding = mention.Only{Coding: piece.Coding, Not: format.Outside}
	m := mention.Mention{Pieces: r.doc.One(piece.Span, piece.Coding), Spelling: mention.URI, Owner: "image '" + id + "'"}
	if format.Embed(&m, []byte(text)) {
		m.Data.Say, m.Pieces = mention.Instead(m.Pieces[0]), nil
	}
	r.images[r.doc.Add(m)] = id
	return nil
}
