// Package rocrate reads RO-Crate metadata (JSON-LD, RO-Crate 1.1): the files a
// research object is said to hold.
package rocrate

import (
	"bytes"
	"cmp"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "rocrate".
func (Format) Name() string { return "rocrate" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "RO-Crate metadata", Extensions: []string{"jsonld"}, Knows: "every file the research object lists"}
}

// TellsBytes tells that digests and sizes may stand beside the names.
func (Format) TellsBytes() {}

// Claims goes by the name the specification fixes, or the context.
func (Format) Claims(name string, head []byte) int {
	switch {
	case filepath.Base(name) == "ro-crate-metadata.json":
		return 95
	case bytes.Contains(head, []byte("w3id.org/ro/crate/")):
		return 90
	}
	return 0
}

// Read reads the File entities of the graph. Their @id is a URI reference
// (RO-Crate 1.1 §4.2) that stands in the entity itself and wherever another
// names it, as {"@id": …}: a new name is written in all these places.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{s: jsonscan.New(t.Bytes), at: map[string][]mention.Span{}}
	d := &mention.Doc{Texts: []mention.Text{t}}
	if r.s.Peek() != '{' {
		return d, &format.SyntaxError{Off: r.s.Pos(), Msg: "an object was expected"}
	}
	err := r.s.Object(func(key string) error {
		if key == "@graph" && r.s.Peek() == '[' {
			return r.s.Array(func(int) error { return r.value(true) })
		}
		_, err := r.s.Skip()
		return err
	})
	if err == nil {
		err = r.s.End()
	}
	done := map[string]bool{}
	for _, f := range r.files {
		if done[f.id] {
			continue
		}
		done[f.id] = true
		m := mention.Mention{Spelling: mention.URI, Owner: cmp.Or(f.name, "File"), Told: f.told.OrNil(), Says: f.says.OrNil()}
		id := mention.Only{Coding: jsonscan.String, Not: r.refuse(f.id)}
		for _, span := range r.at[f.id] {
			m.Pieces = append(m.Pieces, mention.Piece{Span: span, Coding: id})
		}
		m.Merge = func(parts []string) string { return parts[0] }
		m.Split = func(name string) ([]string, error) { return slices.Repeat([]string{name}, len(m.Pieces)), nil }
		d.Add(m)
	}
	d.InOrder() // a key that stands twice is read twice
	return d, err
}

type file struct {
	id, name string
	told     mention.Told
	says     mention.Says
}

type reader struct {
	s     *jsonscan.Scanner
	at    map[string][]mention.Span // id → every place that says it
	files []file
}

// refuse tells names that another entity has, or that would be none of a file.
func (r *reader) refuse(own string) func(string) error {
	return func(name string) error {
		if _, taken := r.at[name]; taken && name != own || name == "" || strings.HasPrefix(name, "#") {
			return problem.No(problem.Taken)
		}
		return nil
	}
}

// value reads what may hold an @id; entity tells the objects of the graph.
func (r *reader) value(entity bool) error {
	switch r.s.Peek() {
	case '[':
		return r.s.Array(func(int) error { return r.value(false) })
	case '{':
	default:
		_, err := r.s.Skip()
		return err
	}
	var id mention.Span
	isFile, name := false, ""
	var told mention.Told
	var says mention.Says
	err := r.s.Object(func(key string) error {
		if r.s.Peek() != '"' {
			if key == "@type" && r.s.Peek() == '[' {
				return r.s.Array(func(int) error {
					span, err := r.s.Skip()
					isFile = isFile || err == nil && span.End-span.Off > 2 && r.s.Text(span) == "File"
					return err
				})
			}
			return r.value(false)
		}
		span, err := r.s.String()
		if err != nil {
			return err
		}
		switch key {
		case "@id":
			id = span
		case "@type":
			isFile = isFile || r.s.Text(span) == "File"
		case "name":
			name = r.s.Text(span)
		case "contentSize":
			told.Size, _ = strconv.ParseInt(r.s.Text(span), 10, 64) // schema.org wants a text; what is no plain number is not told
			says = append(says, mention.Said{Piece: mention.Piece{Span: span, Coding: jsonscan.String}})
		case "sha256", "sha1", "sha512", "md5":
			told.SayDigest(mention.Digest(key), r.s.Text(span))
			says = append(says, mention.Said{Piece: mention.Piece{Span: span, Coding: jsonscan.String}, By: mention.Digest(key)})
		}
		return nil
	})
	if id.End > 0 {
		text := r.s.Text(id)
		r.at[text] = append(r.at[text], id)
		if entity && isFile && text != "" && !strings.HasPrefix(text, "#") {
			r.files = append(r.files, file{text, name, told, says})
		}
	}
	return err
}
