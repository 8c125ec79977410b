// Package format finds out what kind of document a file is, unwraps it into
// texts and has one of the small format packages read them into mentions.
//
// A format reads and never writes: rewriting is [mention.Doc.Retarget] and
// splicing, the same for all. A format looks at nothing but the texts it is
// given. Adding one is a package below this folder and a line in format/all.
package format

import (
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"boundcrate/core/format/jsonscan"
	"boundcrate/core/mention"
)

// ErrMalformed: nothing in the file could be read as the format it claims.
var ErrMalformed = errors.New("malformed")

// ErrNotDocument: no format claims the file.
var ErrNotDocument = errors.New("not a document of a known format")

// MalformedError tells where a document stops being readable. Line is 1-based,
// 0 where the carrier has no lines.
type MalformedError struct {
	Format string
	Line   int
	Msg    string
}

func (e *MalformedError) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("not readable as %s, line %d: %s", e.Format, e.Line, e.Msg)
	}
	return fmt.Sprintf("not readable as %s: %s", e.Format, e.Msg)
}

func (e *MalformedError) Unwrap() error { return ErrMalformed }

// Include opens a text that is read in place of where it is named.
type Include func(name string) (mention.Text, error)

// Format reads one kind of document.
type Format interface {
	// Name is the id of the format: "otio", "gltf".
	Name() string
	// Claims tells how surely a file of this name and beginning is of this
	// format: 0 not at all, 1–49 by its name, 50–100 by its content.
	Claims(name string, head []byte) int
	// Read reads a text. With an error it still returns what was readable
	// before it.
	Read(t mention.Text, include Include) (*mention.Doc, error)
}

// Source is the file a document is read from.
type Source interface {
	io.ReaderAt
	Size() int64
}

// HeadSize is how many bytes of a file's beginning Claims wants to see.
const HeadSize = 4096

// maxDocument bounds what is read into memory as one text.
const maxDocument = 1 << 30

// Set is the formats of one application.
type Set []Format

// Detect returns the format that claims the file most surely, nil for none.
func (fs Set) Detect(name string, head []byte) Format {
	var best Format
	score := 0
	for _, f := range fs {
		if n := f.Claims(name, head); n > score {
			best, score = f, n
		}
	}
	return best
}

// Named returns the format of that name, nil for none.
func (fs Set) Named(name string) Format {
	for _, f := range fs {
		if f.Name() == name {
			return f
		}
	}
	return nil
}

// File is a document that was read, with the way back to a file.
type File struct {
	Format Format
	Doc    *mention.Doc
	env    Envelope
}

// Open reads a document. Something readable with damage behind it is a File
// with problems; nothing readable is an error that wraps ErrMalformed or
// ErrNotDocument.
func (fs Set) Open(name string, src Source) (*File, error) {
	head := make([]byte, min(HeadSize, src.Size()))
	if n, err := src.ReadAt(head, 0); err != nil && !(err == io.EOF && n == len(head)) {
		return nil, err
	}
	f := fs.Detect(name, head)
	if f == nil {
		return nil, ErrNotDocument
	}
	if src.Size() > maxDocument {
		return nil, &MalformedError{f.Name(), 0, "a document of more than 1 GiB is not read into memory"}
	}
	env, err := unwrap(head, src)
	if err != nil {
		return nil, &MalformedError{Format: f.Name(), Msg: err.Error()}
	}
	return read(f, env)
}

func read(f Format, env Envelope) (*File, error) {
	texts, err := env.Texts()
	if err != nil {
		return nil, &MalformedError{Format: f.Name(), Msg: err.Error()}
	}
	doc, err := f.Read(texts[0], nil)
	if err != nil {
		m := &MalformedError{Format: f.Name(), Msg: err.Error()}
		var syntax *jsonscan.SyntaxError
		if errors.As(err, &syntax) {
			m.Line = texts[0].Line(syntax.Off)
		}
		if doc == nil || len(doc.Mentions) == 0 {
			return nil, m
		}
		doc.Problems = append(doc.Problems, mention.Problem{
			Code: "malformed", Line: m.Line,
			Message: "damaged from here on: " + m.Msg + "; what stands before was read",
			Do:      "open it in the program that made it and save it again",
		})
	}
	return &File{f, doc, env}, nil
}

// Rewrite writes the file with the edits applied; with none, the bytes are
// those of the file that was read.
func (f *File) Rewrite(w io.Writer, edits []mention.Edit) error { return f.env.Wrap(w, edits) }

// RewriteFrom is Rewrite for a file that was closed since it was read: what
// the texts do not hold is read from src.
func (f *File) RewriteFrom(src Source, w io.Writer, edits []mention.Edit) error {
	if g, ok := f.env.(*glb); ok {
		again := *g
		again.src = src
		return again.Wrap(w, edits)
	}
	return f.env.Wrap(w, edits)
}

// Reread reads what Rewrite would write, so that it can be compared before it
// replaces anything.
func (f *File) Reread(edits []mention.Edit) (*mention.Doc, error) {
	texts, err := f.env.Texts()
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	if err := mention.Splice(&b, 0, texts[0].Bytes, edits); err != nil {
		return nil, err
	}
	t := texts[0]
	t.Bytes = []byte(b.String())
	doc, err := f.Format.Read(t, nil)
	if doc == nil {
		return nil, err
	}
	return doc, nil
}

// Ext is the lower-case extension of a name without its dot.
func Ext(name string) string {
	return strings.ToLower(strings.TrimPrefix(filepath.Ext(name), "."))
}
