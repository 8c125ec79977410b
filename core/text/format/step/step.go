// Package step reads STEP files (ISO 10303-21): references to external files as
// the CAx-IF recommended practice for external references writes them, and the
// REFERENCE section of edition 3.
package step

import (
	"bytes"
	"path"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/format/part21"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "step".
func (Format) Name() string { return "step" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "STEP assembly or part", Extensions: []string{"step", "stp", "p21"}, Knows: "external part files of an assembly, with the folder they are said to be in"}
}

// Claims leaves IFC schemas to their own format.
func (Format) Claims(name string, head []byte) int {
	if bytes.Contains(head, []byte(part21.Magic)) {
		return 85
	}
	switch format.Ext(name) {
	case "step", "stp", "p21":
		return 40
	}
	return 0
}

// location is the role by which an assignment names a file.
const location = "external document id and location"

var names = map[string]bool{
	"DOCUMENT_FILE": true, "IDENTIFICATION_ROLE": true, "EXTERNAL_SOURCE": true, "APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT": true,
	"PRODUCT": true, "PRODUCT_DEFINITION": true, "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS": true, "PRODUCT_DEFINITION_FORMATION": true,
	"PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE": true, "APPLIED_DOCUMENT_REFERENCE": true,
}

// instance is a DOCUMENT_FILE; a damaged file may have two of one number.
type instance struct {
	id          int
	name, title part21.Arg
}

// products tell whose document a file is: from the document to a product's
// definition, its formation, and the product (ISO 10303-41).
type products struct {
	names   map[int]string // of products
	product map[int]int    // of a formation
	formed  map[int]int    // formation of a definition
	defines map[int]int    // definition of a document
}

func (p *products) take(in part21.Instance, a []part21.Arg) {
	switch in.Name {
	case "PRODUCT":
		name := a[0].Text()
		if len(a) > 1 && strings.TrimSpace(a[1].Text()) != "" {
			name = a[1].Text()
		}
		p.names[in.ID] = strings.TrimSpace(name)
	case "PRODUCT_DEFINITION_FORMATION", "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE":
		if len(a) > 2 {
			p.product[in.ID] = a[2].Ref()
		}
	case "PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS":
		if len(a) > 2 {
			p.formed[in.ID] = a[2].Ref()
		}
		if len(a) > 4 {
			for _, doc := range a[4].Refs(nil) {
				p.defines[doc] = in.ID
			}
		}
	case "APPLIED_DOCUMENT_REFERENCE":
		if len(a) > 2 {
			for _, item := range a[2].Refs(nil) {
				p.defines[a[0].Ref()] = item
			}
		}
	}
}

// name is the product that a document is of; "" where none is told.
func (p *products) name(doc int) string { return p.names[p.product[p.formed[p.defines[doc]]]] }

// owner names a document by its product, else by its own title, else by its
// number.
func (p *products) owner(doc int, title, file string) string {
	if name := p.name(doc); name != "" {
		return "product '" + name + "'"
	}
	if title = strings.TrimSpace(title); title != "" && title != file {
		return "document '" + title + "'"
	}
	return mention.Numbered("document #", doc)
}

type assignment struct {
	id           mention.Span
	role, source int
	from, to     int // its items
}

// Read gathers documents, roles, sources and assignments in one pass and joins
// them at the end, since they may stand in any order.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{
		doc: &mention.Doc{Texts: []mention.Text{t}}, roles: map[int]string{}, sources: map[int]part21.Arg{},
		whose: products{map[int]string{}, map[int]int{}, map[int]int{}, map[int]int{}},
	}
	err := part21.Scan(t.Bytes, part21.Handler{
		Names: names, Instance: r.instance,
		Reference: func(span mention.Span) {
			if raw := t.Bytes[span.Off:span.End]; len(raw) == 0 || raw[0] == '#' {
				return
			}
			r.doc.Add(mention.Mention{
				Pieces:   r.doc.One(span, linescan.Plain{Not: "#", Never: "<>;'\"", Spaces: true}),
				Spelling: mention.URI, Owner: "REFERENCE section",
			})
		},
	})
	r.name()
	r.doc.InOrder()
	return r.doc, err
}

// reader holds the instances that tell of other files; which belong together is known when
// all are read.
type reader struct {
	doc      *mention.Doc
	files    []instance
	roles    map[int]string
	sources  map[int]part21.Arg
	assigned []assignment
	items    []int // of the assignments
	whose    products
}

func (r *reader) instance(in part21.Instance) {
	a := in.Args()
	if len(a) == 0 {
		return
	}
	switch in.Name {
	case "DOCUMENT_FILE":
		f := instance{id: in.ID, name: a[0]}
		if len(a) > 1 {
			f.title = a[1]
		}
		r.files = append(r.files, f)
	case "IDENTIFICATION_ROLE":
		r.roles[in.ID] = a[0].Text()
	case "EXTERNAL_SOURCE":
		r.sources[in.ID] = a[0].Inner()
	case "APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT":
		if len(a) < 3 || !a[0].IsString() || len(a[0].Raw) == 2 {
			return
		}
		as := assignment{id: a[0].Span, role: a[1].Ref(), source: a[2].Ref(), from: len(r.items)}
		if len(a) > 3 {
			r.items = a[3].Refs(r.items)
		}
		as.to = len(r.items)
		r.assigned = append(r.assigned, as)
	default:
		r.whose.take(in, a)
	}
}

// name makes mentions of what was read: the assignments that give a file's place, and the
// document files that none gives a place.
func (r *reader) name() {
	titles := map[int]string{}
	for _, f := range r.files {
		titles[f.id] = f.title.Text()
	}
	named, shared, lean := map[int]bool{}, map[int]int{}, map[int][]int{}
	for _, as := range r.assigned {
		if !strings.EqualFold(r.roles[as.role], location) {
			continue
		}
		m := mention.Mention{Pieces: r.doc.One(as.id, part21.String), Spelling: mention.Path, Owner: "document"}
		for _, item := range r.items[as.from:as.to] {
			named[item] = true
		}
		if as.to > as.from {
			doc := r.items[as.to-1]
			m.Owner, m.Told = r.whose.owner(doc, titles[doc], ""), mention.Told{Product: r.whose.name(doc)}.OrNil()
		}
		if src, ok := r.sources[as.source]; ok && src.IsString() {
			k, known := shared[as.source]
			if !known {
				k = len(r.doc.Shared)
				shared[as.source] = k
				r.doc.Shared = append(r.doc.Shared, folder(src))
				lean[k] = []int{k}
			}
			m.Lean = lean[k]
		}
		r.doc.Add(m)
	}
	for _, f := range r.files {
		if !named[f.id] && f.name.IsString() && len(f.name.Raw) > 2 {
			r.doc.Add(mention.Mention{Pieces: r.doc.One(f.name.Span, part21.String), Spelling: mention.Path, Owner: r.whose.owner(f.id, f.title.Text(), f.name.Text()), Told: mention.Told{Product: r.whose.name(f.id)}.OrNil()})
		}
	}
}

// folder is EXTERNAL_SOURCE.source_id: the folder its documents are in, empty
// for the folder of the file itself.
func folder(a part21.Arg) mention.Shared {
	in := func(dir string) string {
		if dir != "" && !strings.HasSuffix(dir, "/") && !strings.HasSuffix(dir, `\`) {
			dir += "/"
		}
		return dir
	}
	return mention.Shared{
		Piece: mention.Piece{Span: a.Span, Coding: part21.String}, Neutral: "",
		Join: func(dir, own string) string { return in(dir) + own },
		Strip: func(dir, name string) (string, bool) {
			own, ok := strings.CutPrefix(name, in(dir))
			return own, ok && own != ""
		},
		Move: func(name, own string) (string, bool) {
			dir, ok := strings.CutSuffix(name, own)
			if dir = strings.TrimSuffix(dir, "/"); !ok || path.Base(own) != own || dir == "" && name != own {
				return "", false
			}
			return dir, true
		},
	}
}
