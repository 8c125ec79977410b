// Package ifc reads building models (ISO 16739-1) in the encoding of ISO
// 10303-21: documents, textures and libraries they refer to.
package ifc

import (
	"bytes"
	"io"
	"strings"

	"encoding/hex"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/part21"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "ifc".
func (Format) Name() string { return "ifc" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "IFC building model", Extensions: []string{"ifc"}, Knows: "documents, picture textures, libraries and externally defined items (IFC2X3, IFC4, IFC4X3)"}
}

// Claims wants an IFC schema in the header.
func (Format) Claims(name string, head []byte) int {
	isPart21 := bytes.Contains(head, []byte(part21.Magic))
	switch {
	case isPart21 && bytes.Contains(bytes.ToUpper(head), []byte("'IFC")):
		return 95
	case format.Ext(name) == "ifc":
		return 90
	}
	return 0
}

// place is where an entity keeps its location, by schema: the attribute's
// position in IFC2X3 and from IFC4 on; -1 where it has none.
type place struct{ ifc2x3, ifc4 int }

var places = map[string]place{
	"IFCDOCUMENTREFERENCE": {0, 0}, "IFCLIBRARYREFERENCE": {0, 0}, "IFCDOCUMENTINFORMATION": {-1, 3}, "IFCIMAGETEXTURE": {4, 5},
	"IFCEXTERNALLYDEFINEDHATCHSTYLE": {0, 0}, "IFCEXTERNALLYDEFINEDSURFACESTYLE": {0, 0}, "IFCEXTERNALLYDEFINEDTEXTFONT": {0, 0}, "IFCEXTERNALLYDEFINEDSYMBOL": {0, -1},
	"IFCBLOBTEXTURE": {5, 6},
}

var names = func() map[string]bool {
	m := map[string]bool{"FILE_SCHEMA": true}
	for n := range places {
		m[n] = true
	}
	return m
}()

// Read reads locations by the positions of the file's schema. An http location
// is a page for people and no file of the model.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	old := false
	err := part21.Scan(t.Bytes, part21.Handler{
		Names: names,
		Instance: func(in part21.Instance) {
			a := in.Args()
			if in.Name == "FILE_SCHEMA" {
				old = len(a) > 0 && bytes.Contains(bytes.ToUpper(a[0].Raw), []byte("IFC2X"))
				return
			}
			at := places[in.Name].ifc4
			if old {
				at = places[in.Name].ifc2x3
			}
			if at < 0 || at >= len(a) {
				return
			}
			if in.Name == "IFCBLOBTEXTURE" {
				d.Add(blob(a[at].Raw, in.ID))
				return
			}
			text := a[at].Text()
			if lower := strings.ToLower(text); text == "" || strings.HasPrefix(lower, "http:") || strings.HasPrefix(lower, "https:") {
				return
			}
			d.Add(mention.Mention{
				Pieces: d.One(a[at].Span, part21.String), Spelling: mention.URI, Use: mention.Used,
				Owner: words[in.Name],
			})
		},
	})
	return d, err
}

var words = map[string]string{
	"IFCDOCUMENTREFERENCE": "document reference", "IFCLIBRARYREFERENCE": "library reference", "IFCDOCUMENTINFORMATION": "document", "IFCIMAGETEXTURE": "picture texture",
	"IFCEXTERNALLYDEFINEDHATCHSTYLE": "hatch style", "IFCEXTERNALLYDEFINEDSURFACESTYLE": "surface style", "IFCEXTERNALLYDEFINEDTEXTFONT": "text font", "IFCEXTERNALLYDEFINEDSYMBOL": "symbol",
}

// blob is a picture inside the model: a Part 21 binary, whose first digit tells
// unused bits (§6.4.3.5).
func blob(raw []byte, id int) mention.Mention {
	digits := bytes.Trim(raw, `"`)
	if len(digits) > 0 {
		digits = digits[1:]
	}
	digits = digits[:len(digits)&^1]
	shown := ""
	return mention.Mention{Owner: "picture texture", Shown: &shown, Data: &mention.Data{Size: int64(len(digits) / 2), Open: func() io.ReadCloser {
		return io.NopCloser(hex.NewDecoder(bytes.NewReader(digits)))
	}}}
}
