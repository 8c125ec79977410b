// Package gbrjob reads Gerber job files (an open specification, JSON): the
// list of files a board is made from.
package gbrjob

import (
	"bytes"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "gbrjob".
func (Format) Name() string { return "gbrjob" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Gerber job", Extensions: []string{"gbrjob"}, Knows: "every file of the board's layers and drills"}
}

// Claims looks for the file list.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte(`"FilesAttributes"`)) && bytes.Contains(head, []byte(`"Path"`)):
		return 80
	case format.Ext(name) == "gbrjob":
		return 45
	}
	return 0
}

// Read reads FilesAttributes[].Path.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	s := jsonscan.New(t.Bytes)
	skip := func() error { _, err := s.Skip(); return err }
	entry := func(int) error {
		if s.Peek() != '{' {
			return skip()
		}
		var path *mention.Span
		function := "file"
		err := s.Object(func(key string) error {
			if s.Peek() != '"' || key != "Path" && key != "FileFunction" {
				return skip()
			}
			span, err := s.String()
			if err == nil && key == "Path" {
				path = &span
			} else if err == nil {
				function = s.Text(span)
			}
			return err
		})
		if path != nil {
			d.Add(mention.Mention{Pieces: d.One(*path, jsonscan.String), Spelling: mention.URI, Owner: function})
		}
		return err
	}
	if s.Peek() != '{' {
		return d, &format.SyntaxError{Off: s.Pos(), Msg: "an object was expected"}
	}
	err := s.Object(func(key string) error {
		if key == "FilesAttributes" && s.Peek() == '[' {
			return s.Array(entry)
		}
		return skip()
	})
	if err == nil {
		err = s.End()
	}
	return d, err
}
