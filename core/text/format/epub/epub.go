// Package epub reads books (EPUB 3.3): the package document with its manifest, which lists
// every resource of the book, alone beside its files or in its container.
package epub

import (
	"bytes"
	"cmp"
	"errors"
	"slices"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "epub".
func (Format) Name() string { return "epub" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Book", Extensions: []string{"epub", "opf"}, Knows: "every resource of the manifest, packed inside or beside the package document; linked records"}
}

// container says where the package documents are (§4.2.6.3.1).
const container = "META-INF/container.xml"

// Main is the container's own file.
func (Format) Main(members []string) string {
	if slices.Contains(members, container) && slices.Contains(members, "mimetype") && slices.ContainsFunc(members, func(m string) bool { return strings.HasSuffix(strings.ToLower(m), ".opf") }) {
		return container
	}
	return ""
}

// namespace is that of package documents (§5.4).
const namespace = "http://www.idpf.org/2007/opf"

// Claims knows a package document by its root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<package")) && bytes.Contains(head, []byte(namespace)):
		return 90
	case slices.Contains((Format{}).About().Extensions, format.Ext(name)):
		return 45
	}
	return 0
}

var errNone = errors.New("its container names no package document that is there")

// Read reads a package document, or of a container all that it names.
func (Format) Read(t mention.Text, include format.Include) (*mention.Doc, error) {
	d := &mention.Doc{}
	if !t.Member {
		return d, read(d, t)
	}
	d.Texts = append(d.Texts, t)
	var roots []string
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: func(e *xmlscan.Element) error {
		if e.Local == "rootfile" && e.Attr("full-path") != "" {
			roots = append(roots, e.Attr("full-path"))
		}
		return nil
	}})
	found := false
	for _, r := range roots {
		text, ierr := include(r)
		if ierr != nil {
			continue
		}
		found = true
		if rerr := read(d, text); err == nil {
			err = rerr
		}
	}
	if err == nil && !found {
		err = errNone
	}
	return d, err
}

// read reads the manifest (§5.6) and the links (§5.5.7) of a package document. All that a book
// loads is in its manifest, whatever its chapters name.
func read(d *mention.Doc, t mention.Text) error {
	n := len(d.Texts)
	d.Texts = append(d.Texts, t)
	return xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: func(e *xmlscan.Element) error {
		if e.Local != "item" && e.Local != "link" {
			return nil
		}
		a := e.Find("href")
		if a == nil || a.Value() == "" || strings.HasPrefix(a.Value(), "#") {
			return nil
		}
		p := a.Piece()
		p.Span.Text = n
		m := mention.Mention{Pieces: d.One(p.Span, mention.Only{Coding: p.Coding, Not: format.Outside}), Spelling: mention.URI, Text: n, Owner: cmp.Or(e.Attr("id"), e.Attr("rel"), e.Local)}
		if e.Local == "link" {
			m.Use = mention.Listed // what tells of the book is no part of it
		}
		if !format.Embed(&m, []byte(a.Value())) && t.Member {
			format.Held(t, &m, a.Value(), format.Sealed)
		}
		if m.Data != nil || t.Member {
			m.Pieces = nil // what is in a container has its place there
			shown := a.Value()
			m.Shown = &shown
			m.Merge, m.Split = func([]string) string { return shown }, nil
		}
		d.Add(m)
		return nil
	}})
}
