// Package format finds out what kind of document a file is, unwraps it into
// texts and has one of the small format packages read them into mentions.
//
// A format reads and never writes: rewriting is [mention.Doc.Retarget] and
// splicing, the same for all. A format looks at nothing but the texts it is
// given. Adding one is a package below this folder and a line in format/all.
package format

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	iofs "io/fs"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// ErrMalformed: nothing in the file could be read as the format it claims.
var ErrMalformed = errors.New("malformed")

// GaveUp begins the message of a document whose reader met what it was not made for; fuzz
// targets look for it.
const GaveUp = "its reader gave up: "

// ErrNotDocument: no format claims the file.
var ErrNotDocument = errors.New("not a document of a known format")

// MalformedError tells where a document stops being readable. Line is 1-based,
// 0 where the carrier has no lines.
//
// Opaque tells a whole package whose document is in a form nobody here reads:
// where another document names it, it is a file like any other.
type MalformedError struct {
	Format string
	Line   int
	Msg    string
	Opaque bool
}

func (e *MalformedError) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("not a valid %s document, line %d: %s", strings.ToUpper(e.Format), e.Line, e.Msg)
	}
	return fmt.Sprintf("not a valid %s document: %s", strings.ToUpper(e.Format), e.Msg)
}

func (e *MalformedError) Unwrap() error { return ErrMalformed }

// Include opens another text that is read in place: a member of the same
// package by its name, or a file beside the document by the name the text gives
// it. A format calls it once for each name and appends the text to those of its
// Doc in the order of its calls.
type Include func(name string) (mention.Text, error)

// Around is what a document may ask of the files around it: to open one that
// its text includes, and whether one is there at all, by the name given there.
// An included file that another reading writes is not ours: what it says holds,
// and nothing in it is said anew.
type Around interface {
	Include(name string) (src Source, ours bool, err error)
	Exists(name string) bool
}

// About is what people are told of a format.
type About struct {
	Title      string   // "OpenTimelineIO timeline"
	Extensions []string // lower case, without dots; the first is the usual one
	Knows      string   // in plain words, what is read of it
	Empty      bool     // a file of no bytes is a whole document
}

// Format reads one kind of document.
type Format interface {
	// Name is the id of the format: "otio", "gltf".
	Name() string
	About() About
	// Claims tells how surely a file of this name and beginning is of this
	// format: 0 not at all, 1–49 by its name, 50–100 by its content.
	Claims(name string, head []byte) int
	// Read reads a text. With an error it still returns what was readable
	// before it.
	Read(t mention.Text, include Include) (*mention.Doc, error)
}

// Packed is a format whose documents may be zip packages.
type Packed interface {
	// Main is the member that holds the document, "" when members like these
	// are no document of the format.
	Main(members []string) string
}

// Opaque is a format whose packages may hold their document in a form that is
// not read.
type Opaque interface {
	// Opaque tells of a package without a main member why it cannot be read, ""
	// if it is none of the format at all.
	Opaque(members []string) string
}

type opaqueError struct{ why string }

func (e *opaqueError) Error() string { return e.why }

// Bytes is a format whose documents list files by their bytes: what they name is a file like
// any other to them, also where it could be read as a document.
type Bytes interface{ ByBytes() }

// Tells is a format whose documents may tell digests or sizes of files beside their names.
type Tells interface{ TellsBytes() }

// Last is a format that takes what no other does, packages included.
type Last interface{ Last() }

// SyntaxError tells where a text stops being what its carrier should be.
type SyntaxError = jsonscan.SyntaxError

// Source is the file a document is read from.
type Source interface {
	io.ReaderAt
	Size() int64
}

// HeadSize is how many bytes of a file's beginning Claims wants to see.
const HeadSize = 4096

// Set is the formats of one application.
type Set []Format

// Detect returns the format that claims a file of this name and beginning most
// surely, nil for none. Of a package only the first members can be seen; Open
// sees all.
func (fs Set) Detect(name string, head []byte) Format {
	f, _ := fs.detect(name, head, nil)
	return f
}

// Nested is Detect for files a document names: what a format would only take
// when a person chooses it is no document there.
func (fs Set) Nested(name string, head []byte) Format {
	if f, n := fs.detect(name, head, nil); n >= byName/2 {
		return f
	}
	return nil
}

// Sure is Detect for formats that the content itself gives away.
func (fs Set) Sure(name string, head []byte) Format {
	if f, n := fs.detect(name, head, nil); n >= byContent {
		return f
	}
	return nil
}

const (
	byContent = 50 // a claim from which the content speaks
	byMembers = 90 // a package whose members are those of a format
	byName    = 45
)

func (fs Set) detect(name string, head []byte, members []string) (Format, int) {
	name, head = unwrapHead(name, head)
	zipped := bytes.HasPrefix(head, []byte(zipMagic))
	if zipped && members == nil {
		members = headMembers(head)
	}
	var best Format
	score := 0
	for _, f := range fs {
		n := 0
		if p, ok := f.(Packed); ok && zipped {
			switch {
			case p.Main(members) != "":
				if n = byMembers; isLast(f) {
					n = 1
				}
			case slices.Contains(f.About().Extensions, Ext(name)):
				n = byName
			}
		} else if !zipped {
			n = f.Claims(name, head)
		}
		if n > score {
			best, score = f, n
		}
	}
	return best, score
}

func isLast(f Format) bool {
	_, ok := f.(Last)
	return ok
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
	parts  []Envelope // the included files, which are texts 1, 2 … of the document

	problems []problem.Problem // of included files
}

// Open reads a document. Something readable with damage behind it is a File
// with problems; nothing readable is an error that wraps ErrMalformed or
// ErrNotDocument.
func (fs Set) Open(name string, src Source) (*File, error) { return fs.OpenAmong(name, src, nil) }

// OpenAmong is Open for documents whose reading asks for files around them.
func (fs Set) OpenAmong(name string, src Source, around Around) (opened *File, err error) {
	var f Format
	defer func() {
		if p := recover(); p != nil { // what is in a file is nobody's fault here, and takes nothing else with it
			e := &MalformedError{Msg: fmt.Sprint(GaveUp, p)}
			if opened = nil; f != nil {
				e.Format = f.Name()
			}
			err = e
		}
	}()
	head := make([]byte, min(HeadSize, src.Size()))
	if n, err := src.ReadAt(head, 0); err != nil && !(err == io.EOF && n == len(head)) {
		return nil, err
	}
	var members []string
	if bytes.HasPrefix(head, []byte(zipMagic)) {
		if zr, err := zip.NewReader(src, src.Size()); err == nil {
			members = memberNames(zr)
		}
	}
	f, _ = fs.detect(name, head, members)
	if f == nil {
		return nil, ErrNotDocument
	}
	env, err := unwrap(f, name, head, src)
	if err != nil {
		var opaque *opaqueError
		return nil, &MalformedError{Format: f.Name(), Msg: err.Error(), Opaque: errors.As(err, &opaque)}
	}
	file := &File{Format: f, env: env}
	if err := file.read(around); err != nil {
		return nil, err
	}
	return file, nil
}

func (file *File) read(around Around) error {
	f, env := file.Format, file.env
	include := env.Include
	if asText(env) != nil && around != nil {
		include = func(name string) (mention.Text, error) { return file.include(name, around) }
	}
	text, err := env.Text()
	if around != nil && !text.Member {
		text.Exists = around.Exists
	}
	if err != nil {
		return &MalformedError{Format: f.Name(), Msg: err.Error()}
	}
	if len(text.Bytes) == 0 && !f.About().Empty {
		return &MalformedError{Format: f.Name(), Msg: "it is empty"}
	}
	doc, err := f.Read(text, include)
	if err != nil {
		m := &MalformedError{Format: f.Name(), Msg: err.Error()}
		var syntax *SyntaxError
		if errors.As(err, &syntax) {
			m.Line = text.Lines().At(syntax.Off)
		}
		if doc == nil || len(doc.Mentions) == 0 {
			return m
		}
		doc.Problems = append(doc.Problems, problem.Problem{Kind: problem.DamagedFrom, Line: m.Line, Args: []string{m.Msg}})
	}
	doc.Problems = append(doc.Problems, entities(doc)...)
	doc.Problems = append(append(doc.Problems, env.Problems()...), file.problems...)
	file.Doc = doc
	return nil
}

// include opens a file that is read in place as the next text.
func (file *File) include(name string, around Around) (mention.Text, error) {
	src, ours, err := around.Include(name)
	if err != nil {
		return mention.Text{}, err
	}
	head := make([]byte, min(HeadSize, src.Size()))
	if _, err := src.ReadAt(head, 0); err != nil && err != io.EOF {
		return mention.Text{}, err
	}
	env, err := unwrap(nil, name, head, src)
	if err == nil && asText(env) == nil {
		err = errors.New("it is no text")
	}
	if err != nil {
		file.problems = append(file.problems, problem.Problem{Kind: problem.IncludeUnread, Args: []string{name, err.Error()}})
		env = openText(name, nil)
	}
	file.parts = append(file.parts, env)
	t := asText(env)
	t.n, t.t.Sealed = len(file.parts), t.t.Sealed || !ours
	return t.t, nil
}

// Parts is how many files the document includes; Part is the k-th of them, from
// 1: it shares the document, and rewrites its own text alone.
func (f *File) Parts() int { return len(f.parts) }

// Part is described at Parts.
func (f *File) Part(k int) *File { return &File{Format: f.Format, Doc: f.Doc, env: f.parts[k-1]} }

// Rewrite writes the file with the edits applied; with none, the bytes are
// those of the file that was read.
func (f *File) Rewrite(w io.Writer, edits []mention.Edit) error { return f.env.Wrap(w, edits) }

// RewriteFrom is Rewrite for a file that was closed since it was read: what
// the texts do not hold is read from src.
func (f *File) RewriteFrom(src Source, w io.Writer, edits []mention.Edit) error {
	return f.env.From(src).Wrap(w, edits)
}

// Reread reads what Rewrite would write, so that it can be compared before it
// replaces anything. Names that are new in it will lead to files.
func (f *File) Reread(edits []mention.Edit) (reread *mention.Doc, err error) {
	defer func() {
		if p := recover(); p != nil {
			reread, err = nil, &MalformedError{Format: f.Format.Name(), Msg: fmt.Sprint(GaveUp, p)}
		}
	}()
	said := f.mentioned(edits)
	texts := make([]mention.Text, len(f.Doc.Texts))
	byMember := map[string]int{}
	for i, t := range f.Doc.Texts {
		var b bytes.Buffer
		b.Grow(len(t.Bytes))
		if err := mention.Splice(&b, i, t.Bytes, edits); err != nil {
			return nil, err
		}
		t.Bytes = b.Bytes()
		if exists := t.Exists; exists != nil {
			t.Exists = func(name string) bool { return said[name] || exists(name) }
		}
		texts[i], byMember[t.Name] = t, i
	}
	// An include may have a new name for the same text.
	for i := range f.Doc.Mentions {
		m := &f.Doc.Mentions[i]
		if m.Reads == 0 {
			continue
		}
		p := m.Pieces[0]
		raw := f.Doc.Texts[p.Span.Text].Bytes[p.Span.Off:p.Span.End]
		for _, e := range edits {
			if e.Span == p.Span {
				raw = e.New
			}
		}
		if name, err := p.Coding.Decode(raw); err == nil {
			if m.Merge != nil {
				name = m.Merge([]string{name})
			}
			byMember[name] = m.Reads
		}
	}
	doc, err := f.Format.Read(texts[0], func(member string) (mention.Text, error) {
		i, ok := byMember[member]
		if !ok {
			return mention.Text{}, iofs.ErrNotExist
		}
		return texts[i], nil
	})
	if doc == nil {
		return nil, err
	}
	return doc, nil
}

// mentioned are the names that edits write.
func (f *File) mentioned(edits []mention.Edit) map[string]bool {
	at := make(map[mention.Span][]byte, len(edits))
	for _, e := range edits {
		at[e.Span] = e.New
	}
	names := make(map[string]bool, len(edits))
	for i := range f.Doc.Mentions {
		m := &f.Doc.Mentions[i]
		if len(m.Pieces) != 1 {
			continue
		}
		raw, edited := at[m.Pieces[0].Span]
		if !edited {
			continue
		}
		if name, err := m.Pieces[0].Coding.Decode(raw); err == nil {
			if m.Merge != nil {
				name = m.Merge([]string{name})
			}
			names[name] = true
		}
	}
	return names
}

// Where is the document a mention stands in: the file, or for a package the
// file, "!/" and the member.
func (f *File) Where(path string, mention int) string {
	if t := f.Doc.Texts[f.Doc.Mentions[mention].Text]; t.Member {
		return path + "!/" + t.Name
	}
	return path
}

// Ext is the lower-case extension of a name without its dot.
func Ext(name string) string {
	return strings.ToLower(strings.TrimPrefix(filepath.Ext(name), "."))
}
