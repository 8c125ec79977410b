// Package mtlx reads MaterialX documents (the ASWF's open standard).
package mtlx

import (
	"bytes"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "mtlx".
func (Format) Name() string { return "mtlx" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "MaterialX document", Extensions: []string{"mtlx"}, Knows: "pictures with their file prefix, tiles by <UDIM>, included documents"}
}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<materialx")):
		return 90
	case format.Ext(name) == "mtlx":
		return 45
	}
	return 0
}

// Read reads inputs of type filename and xi:include. The nearest fileprefix
// alone applies, joined as a string.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	prefixes := map[*xmlscan.Element]int{}
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			if a := e.Find("fileprefix"); a != nil {
				prefixes[e] = len(d.Shared)
				d.Shared = append(d.Shared, mention.Shared{
					Piece: a.Piece(), Neutral: "",
					Join:  func(prefix, own string) string { return prefix + own },
					Strip: func(prefix, name string) (string, bool) { return strings.CutPrefix(name, prefix) },
					Move:  func(name, own string) (string, bool) { return strings.CutSuffix(name, own) },
				})
			}
			a, owner := e.Find("value"), e.Attr("name")
			switch {
			case e.Local == "include":
				a, owner = e.Find("href"), "xi:include"
			case e.Attr("type") != "filename":
				return nil
			case e.Parent != nil && e.Parent.Attr("name") != "":
				owner = e.Parent.Local + " '" + e.Parent.Attr("name") + "' " + owner
			}
			if a == nil || a.Value() == "" {
				return nil
			}
			m := mention.Mention{Pieces: d.One(a.Piece().Span, a.Piece().Coding), Spelling: mention.Path, Owner: owner}
			if e.Local != "include" {
				for p := e; p != nil; p = p.Parent {
					if k, ok := prefixes[p]; ok {
						m.Lean = []int{k}
						break
					}
				}
			}
			d.Add(m)
			format.Tiles(d, len(d.Mentions)-1, "<UDIM>", 4)
			format.Tiles(d, len(d.Mentions)-1, "<UVTILE>", mention.Grid)
			return nil
		},
		End: func(e *xmlscan.Element) error {
			delete(prefixes, e)
			return nil
		},
	})
	return d, err
}
