// Package xspf reads XSPF playlists (Xiph, XML Shareable Playlist Format 1).
package xspf

import (
	"bytes"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "xspf".
func (Format) Name() string { return "xspf" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "XSPF playlist", Extensions: []string{"xspf"}, Knows: "locations and pictures of tracks; of several locations the first that exists"}
}

// Claims looks for the namespace.
func (Format) Claims(name string, head []byte) int {
	if bytes.Contains(head, []byte("http://xspf.org/ns/")) {
		return 95
	}
	if format.Ext(name) == "xspf" {
		return 40
	}
	return 0
}

// Read reads the locations within tracks (§4.1.1.2.14.1.1) and images; links,
// metadata and extensions are nothing the playlist needs.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}, bases: map[*xmlscan.Element]int{}}
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.start, Text: r.text, End: r.end})
	return r.doc, err
}

type reader struct {
	t      mention.Text
	doc    *mention.Doc
	leaf   xmlscan.Leaf
	tracks int
	bases  map[*xmlscan.Element]int // element → shared piece
}

func (r *reader) start(e *xmlscan.Element) error {
	if a := e.Find("base"); a != nil && a.Name == "xml:base" {
		r.doc.Shared = append(r.doc.Shared, xmlscan.Base(*a))
		r.bases[e] = len(r.doc.Shared) - 1
	}
	switch e.Local {
	case "track":
		r.tracks++
	case "location", "image":
		if within(e, "track") || e.Local == "image" && e.Depth == 2 {
			r.leaf.Begin(e)
		}
	}
	return nil
}

func within(e *xmlscan.Element, local string) bool { return e.Parent != nil && e.Parent.Local == local }

func (r *reader) text(e *xmlscan.Element, span mention.Span, cdata bool) error {
	r.leaf.Take(r.t.Bytes, e, span, cdata)
	return nil
}

func (r *reader) end(e *xmlscan.Element) error {
	piece, ok := r.leaf.At(e)
	if ok {
		m := mention.Mention{Pieces: r.doc.One(piece.Span, piece.Coding), Spelling: mention.URI, Owner: "playlist"}
		if within(e, "track") {
			m.Owner = mention.Numbered("track ", r.tracks)
		}
		if e.Local == "location" {
			m.Group.N = r.tracks
		}
		for p := e; p != nil; p = p.Parent {
			if k, ok := r.bases[p]; ok {
				m.Lean = append([]int{k}, m.Lean...)
			}
		}
		r.doc.Add(m)
	}
	if len(r.bases) > 0 {
		delete(r.bases, e)
	}
	return nil
}
