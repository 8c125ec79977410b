// Package urdf reads robot descriptions (URDF): links with their meshes and
// textures.
package urdf

import (
	"bytes"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "urdf".
func (Format) Name() string { return "urdf" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Robot description", Extensions: []string{"urdf"}, Knows: "meshes and textures, found through the packages they name; materials no link uses are listed only"}
}

// Claims looks for the root element.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<robot")):
		return 70
	case format.Ext(name) == "urdf":
		return 40
	}
	return 0
}

// Read reads mesh and texture filenames. package:// addresses are resolved by
// the trace, through the folder whose package.xml has that name.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	used := map[string]bool{}
	global := map[int]string{} // mention → global material
	link, material := "", ""
	err := xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: func(e *xmlscan.Element) error {
		switch e.Name {
		case "link":
			link = e.Attr("name")
		case "material":
			if material = e.Attr("name"); e.Depth > 2 {
				used[material] = true
			}
		case "mesh", "texture":
			a := e.Find("filename")
			if a == nil || a.Value() == "" {
				return nil
			}
			m := mention.Mention{Pieces: d.One(a.Piece().Span, a.Piece().Coding), Spelling: mention.URI, Owner: "link '" + link + "' " + e.Name}
			if e.Name == "texture" && e.Depth == 3 {
				global[len(d.Mentions)] = material
				m.Owner = "material '" + material + "'"
			}
			d.Add(m)
		}
		return nil
	}})
	for i, name := range global {
		if !used[name] {
			d.Mentions[i].Use = mention.Listed
		}
	}
	return d, err
}
