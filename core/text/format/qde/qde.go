// Package qde reads research projects in the REFI-QDA exchange standard: .qde,
// and .qdpx, which packs it with its sources.
package qde

import (
	"bytes"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// folderInside holds the sources that a project calls internal.
const folderInside = "sources/"

// maxInside is the largest source a package may hold, in bytes (REFI-QDA).
const maxInside = 2_147_483_647

// Name is "qde".
func (Format) Name() string { return "qde" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "REFI-QDA research project", Extensions: []string{"qde", "qdpx"}, Knows: "sources inside the package, beside it and elsewhere; transcripts and representations"}
}

// Main is the one .qde at the top of the package.
func (Format) Main(members []string) string {
	for _, m := range members {
		if strings.HasSuffix(strings.ToLower(m), ".qde") && !strings.Contains(m, "/") {
			return m
		}
	}
	return ""
}

// Claims looks for the namespace.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("urn:QDA-XML")):
		return 95
	case format.Ext(name) == "qde" || format.Ext(name) == "qdpx":
		return 40
	}
	return 0
}

// sources are the attributes that name files. Of path and currentPath the first
// that exists counts, so path stands before it.
func sources(e *xmlscan.Element) (list []*xmlscan.Attr) {
	current := -1
	for i := range e.Attrs {
		a := &e.Attrs[i]
		if a.Value() == "" {
			continue
		}
		switch a.Name {
		case "path":
			if current >= 0 {
				list = slices.Insert(list, current, a)
				continue
			}
		case "currentPath":
			current = len(list)
		case "plainTextPath", "richTextPath":
		default:
			continue
		}
		list = append(list, a)
	}
	return list
}

// Read reads the sources. internal://N is member sources/N, relative:// begins
// at basePath, else at the document's folder, absolute:// is a whole path.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, lines: t.Lines(), doc: &mention.Doc{Texts: []mention.Text{t}}, base: -1}
	return r.doc, xmlscan.Scan(t.Bytes, xmlscan.Handler{Start: r.element})
}

type reader struct {
	t     mention.Text
	lines *mention.Lines
	doc   *mention.Doc
	base  int // of basePath, among what mentions lean on; -1: there is none
	group int
	owner string
}

func (r *reader) element(e *xmlscan.Element) error {
	if e.Local == "Project" {
		if a := e.Find("basePath"); a != nil && a.Value() != "" {
			r.base = 0
			r.doc.Shared = append(r.doc.Shared, folder(*a))
		}
	}
	if strings.HasSuffix(e.Local, "Source") {
		if r.owner = e.Local; e.Attr("name") != "" {
			r.owner += " '" + e.Attr("name") + "'"
		}
	}
	both := e.Find("path") != nil && e.Find("currentPath") != nil
	if both {
		r.group++
	}
	for _, a := range sources(e) {
		m := mention.Mention{Pieces: r.doc.One(a.Piece().Span, a.Piece().Coding), Spelling: mention.Path, Owner: r.owner}
		if both && (a.Name == "path" || a.Name == "currentPath") {
			m.Group.N = r.group
		}
		shown := a.Value()
		scheme, rest, ok := strings.Cut(shown, "://")
		switch {
		case ok && scheme == "internal" && !r.t.Member:
			m.Shown = &shown
			r.unpacked(&m)
		case ok && scheme == "internal":
			m.Shown = &shown
			r.inside(&m, e, shown, rest)
		case ok && (scheme == "relative" || scheme == "absolute"):
			m.Shown = &shown
			m.Merge = func(parts []string) string { return plain(parts[0]) }
			m.Split = func(name string) ([]string, error) { return edited(name, strings.HasPrefix(rest, "/")) }
			if r.base >= 0 {
				m.Lean = []int{r.base}
			}
		}
		r.doc.Add(m)
	}
	return nil
}

// unpacked is a source of a project that was unpacked: it stands beside it.
func (r *reader) unpacked(m *mention.Mention) {
	m.Merge = func(parts []string) string {
		if own, ok := strings.CutPrefix(parts[0], "internal://"); ok {
			return folderInside + own
		}
		return plain(parts[0])
	}
	m.Split = func(name string) ([]string, error) {
		if own, ok := strings.CutPrefix(name, folderInside); ok && own != "" {
			return []string{"internal://" + own}, nil
		}
		if r.base >= 0 && !whole(name) {
			return nil, problem.No(problem.OtherStart) // relative names begin at basePath, these beside the project
		}
		return edited(name, false)
	}
}

// inside is a source that is a member of the package.
func (r *reader) inside(m *mention.Mention, e *xmlscan.Element, shown, rest string) {
	piece := m.Pieces[0]
	m.Pieces = nil
	if !format.Inside(r.t, m, folderInside+rest) && !format.Inside(r.t, m, "Sources/"+rest) {
		m.Nature = mention.Lost
	}
	if !m.Inside() {
		return
	}
	m.Data.Say = func(d *mention.Doc, name string) ([]mention.Edit, error) {
		if r.base >= 0 { // relative names begin at basePath
			from := d.Shared[r.base]
			at, err := from.Coding.Decode(r.t.Bytes[from.Span.Off:from.Span.End])
			own, ok := from.Strip(at, name)
			if err != nil || !ok {
				return nil, problem.No(problem.OtherStart)
			}
			name = own
		}
		text, err := edited(name, false)
		if err != nil {
			return nil, err
		}
		return mention.Instead(piece)(d, text[0])
	}
	if m.Data.Size > maxInside {
		r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: problem.SourceTooLarge, Line: r.lines.At(e.Off), Args: []string{shown, strconv.FormatInt(m.Data.Size, 10), strconv.FormatInt(maxInside, 10)}})
	}
}

func whole(p string) bool {
	return strings.HasPrefix(p, "/") || strings.HasPrefix(p, `\\`) || len(p) > 1 && p[1] == ':'
}

// plain is the path a source's text means. Writers put two or three slashes
// behind the scheme; a third is none of a relative path, nor of a drive letter's.
func plain(text string) string {
	scheme, rest, _ := strings.Cut(text, "://")
	switch own := strings.TrimLeft(rest, "/"); {
	case scheme == "relative", len(own) > 1 && own[1] == ':':
		return own
	}
	return rest
}

// edited writes a path in the manner of the old text, with a third slash or not.
func edited(name string, third bool) ([]string, error) {
	slash := ""
	if third {
		slash = "/"
	}
	switch {
	case strings.HasPrefix(name, "/"):
		return []string{"absolute://" + name}, nil
	case whole(name):
		return []string{"absolute://" + slash + name}, nil
	}
	return []string{"relative://" + slash + name}, nil
}

// folder is basePath.
func folder(a xmlscan.Attr) mention.Shared {
	in := func(dir string) string {
		if dir != "" && !strings.HasSuffix(dir, "/") && !strings.HasSuffix(dir, `\`) {
			dir += "/"
		}
		return dir
	}
	return mention.Shared{
		Piece: a.Piece(), Neutral: "",
		Join: func(dir, own string) string {
			if whole(own) {
				return own
			}
			return in(dir) + own
		},
		Strip: func(dir, name string) (string, bool) {
			if whole(name) && !strings.HasPrefix(name, in(dir)) {
				return name, true
			}
			own, ok := strings.CutPrefix(name, in(dir))
			return own, ok && own != ""
		},
		Move: func(name, own string) (string, bool) {
			dir, ok := strings.CutSuffix(name, "/"+own)
			return dir, ok
		},
	}
}
