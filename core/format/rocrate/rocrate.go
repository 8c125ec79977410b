// Package rocrate reads RO-Crate metadata (JSON-LD, RO-Crate 1.1): the files a
// research object is said to hold.
package rocrate

import (
	"bytes"
	"path/filepath"
	"strings"

	"boundcrate/core/format"
	"boundcrate/core/format/jsonscan"
	"boundcrate/core/mention"
)

// Format is the reader.
type Format struct{}

// Name is "rocrate".
func (Format) Name() string { return "rocrate" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "RO-Crate metadata", Extensions: []string{"jsonld"}, Knows: "every file the research object lists"}
}

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

// Read reads the @id of every entity of type File in @graph. An entity's @id is
// said wherever it is referred to, so it is not rewritten: changing one place
// alone would break the others.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	s := jsonscan.New(t.Bytes)
	skip := func() error { _, err := s.Skip(); return err }
	entity := func(int) error {
		if s.Peek() != '{' {
			return skip()
		}
		id, isFile, name := "", false, ""
		err := s.Object(func(key string) error {
			switch {
			case key == "@type" && s.Peek() == '[':
				return s.Array(func(int) error {
					if s.Peek() != '"' {
						return skip()
					}
					span, err := s.String()
					isFile = isFile || err == nil && s.Text(span) == "File"
					return err
				})
			case s.Peek() == '"' && (key == "@id" || key == "@type" || key == "name"):
				span, err := s.String()
				if err != nil {
					return err
				}
				switch v := s.Text(span); key {
				case "@id":
					id = v
				case "name":
					name = v
				default:
					isFile = isFile || v == "File"
				}
				return nil
			}
			return skip()
		})
		if isFile && id != "" && !strings.HasPrefix(id, "#") {
			d.Add(mention.Mention{Merge: func([]string) string { return id }, Spelling: mention.URI, Use: mention.Used, Owner: name})
		}
		return err
	}
	if s.Peek() != '{' {
		return d, &format.SyntaxError{Off: s.Pos(), Msg: "an object was expected"}
	}
	err := s.Object(func(key string) error {
		if key == "@graph" && s.Peek() == '[' {
			return s.Array(entity)
		}
		return skip()
	})
	if err == nil {
		err = s.End()
	}
	return d, err
}
