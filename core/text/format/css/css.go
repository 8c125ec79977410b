// Package css reads style sheets that drawings name (CSS Syntax Level 3).
package css

import (
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/cssscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "css".
func (Format) Name() string { return "css" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Style sheet", Extensions: []string{"css"}, Knows: "imported sheets, pictures and fonts", Empty: true}
}

// Claims goes by the extension.
func (Format) Claims(name string, _ []byte) int {
	if format.Ext(name) == "css" {
		return 45
	}
	return 0
}

func outside(uri string) error {
	if strings.HasPrefix(uri, "about:") {
		return problem.No(problem.AsAddress)
	}
	return format.Outside(uri)
}

// Read reads url(…) and @import.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	for _, r := range cssscan.Scan(t.Bytes) {
		m := mention.Mention{Pieces: d.One(mention.Span{Off: int64(r.Off), End: int64(r.End)}, mention.Only{Coding: cssscan.Coding{}, Not: outside}), Spelling: mention.URI, Owner: "url"}
		if r.Import {
			m.Owner = "@import"
		}
		uri, _ := cssscan.Coding{}.Decode(t.Bytes[r.Off:r.End])
		if format.Embed(&m, []byte(uri)) {
			m.Pieces = nil
		} else if outside(uri) != nil {
			continue
		}
		d.Add(m)
	}
	return d, nil
}
