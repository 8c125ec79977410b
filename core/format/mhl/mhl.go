// Package mhl reads media hash lists (XML): each file that was hashed on the
// way, with its path.
package mhl

import (
	"bytes"

	"boundcrate/core/format"
	"boundcrate/core/format/xmlscan"
	"boundcrate/core/mention"
)

// Format is the reader.
type Format struct{}

// Name is "mhl".
func (Format) Name() string { return "mhl" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Media hash list", Extensions: []string{"mhl"}, Knows: "every hashed file"}
}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<hashlist")):
		return 90
	case format.Ext(name) == "mhl":
		return 45
	}
	return 0
}

// Read reads path or file of every hash. A list of later generations stands in
// a folder of its own and names files from the folder above; which it is, the
// document does not tell, so paths are read as they stand.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	var leaf xmlscan.Leaf
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			if (e.Local == "path" || e.Local == "file") && e.Parent != nil && e.Parent.Local == "hash" {
				leaf.Begin(e)
			}
			return nil
		},
		Text: func(e *xmlscan.Element, span mention.Span, cdata bool) error {
			leaf.Take(t.Bytes, e, span, cdata)
			return nil
		},
		End: func(e *xmlscan.Element) error {
			if p, ok := leaf.At(e); ok {
				d.Add(mention.Mention{Pieces: d.One(p.Span, p.Coding), Spelling: mention.Path, Use: mention.Used, Owner: "hash"})
			}
			return nil
		},
	})
	return d, err
}
