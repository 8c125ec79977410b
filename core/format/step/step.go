// Package step reads STEP files (ISO 10303-21): references to external files as
// the CAx-IF recommended practice for external references writes them, and the
// REFERENCE section of edition 3.
package step

import (
	"bytes"
	"path"
	"strings"

	"boundcrate/core/format"
	"boundcrate/core/format/linescan"
	"boundcrate/core/format/part21"
	"boundcrate/core/mention"
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

var names = map[string]bool{"DOCUMENT_FILE": true, "IDENTIFICATION_ROLE": true, "EXTERNAL_SOURCE": true, "APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT": true}

// instance is a DOCUMENT_FILE; a damaged file may have two of one number.
type instance struct {
	id   int
	name part21.Arg
}

type assignment struct {
	id           mention.Span
	role, source int
	from, to     int // its items
}

// Read gathers documents, roles, sources and assignments in one pass and joins
// them at the end, since they may stand in any order.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	var files []instance
	roles, shared := map[int]string{}, map[int]int{}
	sources := map[int]part21.Arg{}
	var assigned []assignment
	var items []int
	err := part21.Scan(t.Bytes, part21.Handler{
		Names: names,
		Instance: func(in part21.Instance) {
			a := in.Args()
			if len(a) == 0 {
				return
			}
			switch in.Name {
			case "DOCUMENT_FILE":
				files = append(files, instance{in.ID, a[0]})
			case "IDENTIFICATION_ROLE":
				roles[in.ID] = a[0].Text()
			case "EXTERNAL_SOURCE":
				sources[in.ID] = a[0].Inner()
			default:
				if len(a) < 3 || !a[0].IsString() || len(a[0].Raw) == 2 {
					return
				}
				as := assignment{id: a[0].Span, role: a[1].Ref(), source: a[2].Ref(), from: len(items)}
				if len(a) > 3 {
					items = a[3].Refs(items)
				}
				as.to = len(items)
				assigned = append(assigned, as)
			}
		},
		Reference: func(span mention.Span) {
			if raw := t.Bytes[span.Off:span.End]; len(raw) == 0 || raw[0] == '#' {
				return
			}
			d.Add(mention.Mention{
				Pieces:   d.One(span, linescan.Plain{Not: "#", Never: "<>;'\"", Spaces: true}),
				Spelling: mention.URI, Owner: "REFERENCE section",
			})
		},
	})
	named := map[int]bool{}
	lean := map[int][]int{}
	for _, as := range assigned {
		if !strings.EqualFold(roles[as.role], location) {
			continue
		}
		m := mention.Mention{Pieces: d.One(as.id, part21.String), Spelling: mention.Path, Owner: "document"}
		for _, item := range items[as.from:as.to] {
			named[item] = true
		}
		if as.to > as.from {
			m.Owner = mention.Numbered("document #", items[as.to-1])
		}
		if src, ok := sources[as.source]; ok && src.IsString() {
			k, known := shared[as.source]
			if !known {
				k = len(d.Shared)
				shared[as.source] = k
				d.Shared = append(d.Shared, folder(src))
				lean[k] = []int{k}
			}
			m.Lean = lean[k]
		}
		d.Add(m)
	}
	for _, f := range files {
		if !named[f.id] && f.name.IsString() && len(f.name.Raw) > 2 {
			d.Add(mention.Mention{Pieces: d.One(f.name.Span, part21.String), Spelling: mention.Path, Owner: mention.Numbered("document #", f.id)})
		}
	}
	d.InOrder()
	return d, err
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
