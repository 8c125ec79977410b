// Package odf reads OpenDocument texts, presentations, drawings and
// spreadsheets (ISO/IEC 26300), packaged or flat.
package odf

import (
	"bytes"
	"cmp"
	"net/url"
	"path"
	"slices"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "odf".
func (Format) Name() string { return "odf" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "OpenDocument file", Extensions: []string{"odt", "odp", "odg", "ods", "fodt", "fodp", "fodg", "fods"}, Knows: "linked pictures, sounds, sections and objects; what is packed inside; the template"}
}

// Main is content.xml.
func (Format) Main(members []string) string {
	if slices.Contains(members, "content.xml") && (slices.Contains(members, "mimetype") || slices.Contains(members, "META-INF/manifest.xml")) {
		return "content.xml"
	}
	return ""
}

// Claims knows the flat form by its root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<office:document")):
		return 90
	case slices.Contains((Format{}).About().Extensions, format.Ext(name)):
		return 45
	}
	return 0
}

// Read reads xlink:href of everything that has to be loaded; hyperlinks are
// none. A reference that steps out of the package begins with "../", which
// leads to the folder of the file (part 2, §3.7); from an embedded object, a
// folder of the package, it begins with one more.
func (Format) Read(t mention.Text, include format.Include) (*mention.Doc, error) {
	r := &reader{doc: &mention.Doc{}, placed: map[string]bool{}, left: map[int]bool{}}
	err := r.read(t)
	if t.Member && include != nil {
		members := []string{"styles.xml", "meta.xml"} // both may be absent
		if t.Members != nil {
			members = append(members, objects(t.Members())...)
		}
		for _, member := range members {
			more, ierr := include(member)
			if ierr != nil {
				continue
			}
			// An object that nothing places was left behind, with all it places.
			if dir := path.Dir(member); dir != "." && !r.placed[dir] {
				r.left[len(r.doc.Texts)] = true
			}
			if rerr := r.read(more); err == nil {
				err = rerr
			}
		}
	}
	for i := range r.doc.Mentions {
		if m := &r.doc.Mentions[i]; r.left[m.Text] {
			m.Use = mention.Listed
		}
	}
	return r.doc, err
}

// objects are the contents and styles of embedded objects.
func objects(members []string) (list []string) {
	for _, m := range members {
		if base := path.Base(m); m != base && (base == "content.xml" || base == "styles.xml") {
			list = append(list, m)
		}
	}
	slices.SortFunc(list, func(a, b string) int {
		return cmp.Or(strings.Count(a, "/")-strings.Count(b, "/"), strings.Compare(a, b))
	})
	return list
}

type reader struct {
	doc    *mention.Doc
	t      mention.Text
	n      int             // of the text
	up     string          // what leads out of the package
	placed map[string]bool // folders of objects
	left   map[int]bool    // texts of objects that nothing places
	leaf   xmlscan.Leaf
}

func (r *reader) read(t mention.Text) error {
	r.t, r.n = t, len(r.doc.Texts)
	r.up = strings.Repeat("../", 1+strings.Count(t.Name, "/"))
	r.doc.Texts = append(r.doc.Texts, t)
	return xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.start, Text: r.text, End: r.end})
}

// links are elements whose href is for people to follow, not to load.
var links = map[string]bool{"a": true, "event-listener": true, "auto-reload": true, "hyperlink-behaviour": true, "database-source": true, "form": true}

func (r *reader) start(e *xmlscan.Element) error {
	if e.Local == "binary-data" {
		r.leaf.Begin(e)
	}
	a := e.Find("href")
	if a == nil || !strings.Contains(a.Name, ":") || a.Value() == "" || a.Value()[0] == '#' || links[e.Local] {
		return nil
	}
	p := a.Piece()
	p.Span.Text = r.n
	p.Coding = mention.Only{Coding: p.Coding, Not: format.Outside}
	m := mention.Mention{Pieces: r.doc.One(p.Span, p.Coding), Spelling: mention.URI, Text: r.n, Owner: e.Local}
	if e.Local == "template" {
		m.Use = mention.Listed
	}
	switch {
	case format.Embed(&m, []byte(a.Value())):
		m.Data.Say, m.Pieces = r.instead(p), nil
	case !r.t.Member:
	case strings.HasPrefix(a.Value(), r.up), absolute(a.Value()):
		shown, up := a.Value(), r.up
		m.Shown = &shown
		m.Merge = func(parts []string) string { return strings.TrimPrefix(parts[0], up) }
		m.Split = func(name string) ([]string, error) {
			if absolute(name) {
				return []string{name}, nil
			}
			return []string{up + name}, nil
		}
	case format.Inside(r.t, &m, strings.TrimSuffix(a.Value(), "/")):
		m.Data.Say, m.Pieces = r.instead(p), nil
		shown := a.Value()
		m.Shown = &shown
	case r.object(&m, a.Value()): // a folder of its own, which no one file can stand for
		m.Pieces = nil
		shown := a.Value()
		m.Shown = &shown
	default:
		m.Nature = mention.Lost
		m.Pieces = nil
		shown := a.Value()
		m.Shown = &shown
	}
	r.doc.Add(m)
	return nil
}

// object tells embedded objects, which are folders of the package.
func (r *reader) object(m *mention.Mention, href string) bool {
	if !format.Inside(r.t, m, strings.TrimSuffix(href, "/")+"/content.xml") {
		return false
	}
	if r.left[r.n] {
		return true
	}
	if plain, err := url.PathUnescape(href); err == nil {
		href = plain
	}
	r.placed[path.Join(path.Dir(r.t.Name), href)] = true
	return true
}

// instead lets a link name a file outside in the place of what stands inside. Of a
// package such a name first steps out of it (ISO/IEC 26300-3 §3.7).
func (r *reader) instead(p mention.Piece) func(*mention.Doc, string) ([]mention.Edit, error) {
	up := ""
	if r.t.Member {
		up = r.up
	}
	return func(d *mention.Doc, name string) ([]mention.Edit, error) {
		if !absolute(name) {
			name = up + name
		}
		return mention.Instead(p)(d, name)
	}
}

func (r *reader) text(e *xmlscan.Element, span mention.Span, cdata bool) error {
	r.leaf.Take(r.t.Bytes, e, span, cdata)
	return nil
}

// end takes in pictures and objects that stand in the text itself, in base64.
func (r *reader) end(e *xmlscan.Element) error {
	if p, ok := r.leaf.At(e); ok {
		m := mention.Mention{Text: r.n, Owner: "binary-data"}
		if e.Parent != nil {
			m.Owner = e.Parent.Local
		}
		format.Base64(&m, xmlscan.Value(r.t.Bytes[p.Span.Off:p.Span.End], p.Coding))
		r.doc.Add(m)
	}
	return nil
}

func absolute(ref string) bool {
	scheme, _, ok := strings.Cut(ref, ":")
	return strings.HasPrefix(ref, "/") || ok && scheme != "" && !strings.ContainsAny(scheme, "/?#")
}
