package format

import (
	"bytes"
	"errors"
	"regexp"

	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// maxEntities is how many are told of one document.
const maxEntities = 10

// outsideEntity declares an entity whose text stands in another file or on the
// network (XML 1.0 §4.2.2).
var outsideEntity = regexp.MustCompile(`<!ENTITY\s+(%\s+)?([^\s"'<>%&;]+)\s+(?:SYSTEM|PUBLIC)\s`)

// entities tells of what a document's names would need and is refused: entities
// in a name, which stay as written, and any that would read another file.
func entities(doc *mention.Doc) (list []problem.Problem) {
	told := map[string]bool{}
	tell := func(t mention.Text, off int64, name string, kind problem.Kind) {
		if key := t.Name + "\x00" + name; !told[key] && len(list) < maxEntities {
			told[key] = true
			list = append(list, problem.Problem{Kind: kind, Line: t.Lines().At(off), Args: []string{name}})
		}
	}
	for _, t := range doc.Texts {
		if !bytes.Contains(t.Bytes, []byte("<!ENTITY")) {
			continue
		}
		for _, m := range outsideEntity.FindAllSubmatchIndex(t.Bytes, 4*maxEntities) {
			mark := "&"
			if m[2] >= 0 {
				mark = "%"
			}
			name := mark + string(t.Bytes[m[4]:m[5]]) + ";"
			if at := bytes.Index(t.Bytes, []byte(name)); at >= 0 {
				tell(t, int64(at), name, problem.EntityOutside)
			}
		}
	}
	for i := range doc.Mentions {
		for _, p := range doc.Mentions[i].Pieces {
			t := doc.Texts[p.Span.Text]
			raw := t.Bytes[p.Span.Off:p.Span.End]
			if bytes.IndexByte(raw, '&') < 0 {
				continue
			}
			var e *xmlscan.EntityError
			if _, err := p.Coding.Decode(raw); errors.As(err, &e) {
				tell(t, p.Span.Off, "&"+e.Name+";", problem.EntityInName)
			}
		}
	}
	return list
}
