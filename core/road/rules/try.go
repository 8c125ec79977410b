package rules

import (
	"errors"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/resolve"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// Find is one place a rules file found in a sample, and where it leads.
type Find struct {
	Line    int    `json:"line"`
	Owner   string `json:"owner"`
	Written string `json:"written"`
	Path    string `json:"path"` // where it leads, or would
	State   string `json:"state"`
	Use     string `json:"use"`
	Role    string `json:"role"`
	Rule    int    `json:"rule"` // line of the rules file
}

// Try reads a sample by a rules file, whatever the sample's extension is.
// damage tells what is wrong with the sample. ErrContent: the rules file is for
// other content.
func Try(f *File, reach drive.Reach, drives []drive.Drive, sample string) (finds []Find, damage []string, err error) {
	finds, damage = []Find{}, []string{}
	src, err := reach.Open(sample)
	if err != nil {
		return finds, damage, err
	}
	defer src.Close()
	t := &trial{File: f}
	file, err := format.Set{t}.Open(filepath.Base(sample), src)
	var mal *format.MalformedError
	switch {
	case errors.Is(err, format.ErrNotDocument):
		return finds, damage, ErrContent
	case errors.As(err, &mal):
		return finds, []string{mal.Error()}, nil
	case err != nil:
		return finds, damage, err
	}
	for _, p := range file.Doc.Problems {
		damage = append(damage, p.Error())
	}
	r := &resolve.Resolver{Reach: reach, Drives: drives, Root: filepath.Dir(sample)}
	lines := make([]*mention.Lines, len(file.Doc.Texts))
	for i := range lines {
		lines[i] = file.Doc.Texts[i].Lines()
	}
	for i := range file.Doc.Mentions {
		m := &file.Doc.Mentions[i]
		p := r.Resolve(sample, m, file.Doc.Name(i), file.Doc.Written(i))
		span := m.Pieces[0].Span
		x := Find{Line: lines[span.Text].At(span.Off), Owner: m.Owner, Written: file.Doc.Written(i), Path: p.Path, State: string(p.State), Use: m.Use.String(), Role: "read", Rule: t.by[i]}
		if x.Path == "" {
			x.Path = p.Expected
		}
		if m.Nature == mention.WritePoint {
			x.Role = "write"
		}
		finds = append(finds, x)
	}
	return finds, damage, nil
}

// ErrContent: a sample does not hold what the rules file says its documents do.
var ErrContent = errors.New("it does not hold the text that the rules file asks for under “contains”")

// trial is a rules file that takes samples of any extension, and tells which
// rule found what.
type trial struct {
	*File
	by []int
}

// Claims goes by the content alone.
func (t *trial) Claims(_ string, head []byte) int {
	return t.File.Claims("x."+t.Extensions[0], head)
}

// Read reads by the rules and keeps which.
func (t *trial) Read(text mention.Text, _ format.Include) (*mention.Doc, error) {
	r := reading{File: t.File, doc: &mention.Doc{Texts: []mention.Text{text}}}
	err := r.run()
	t.by = r.by
	return r.doc, err
}
