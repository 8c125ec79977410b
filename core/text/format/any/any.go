// Package any is the door for documents of no known format: a path scanner over
// text, JSON, XML and binary. Everything it finds is guessed; the trace keeps
// what leads to a file, what shares its folder with something that does, and
// what can hardly be anything but a path (shape.go).
//
// It is precise before it is greedy: quoted strings, JSON strings and XML
// values are taken whole; in plain text a name ends at white space unless it is
// a whole value, or only a longer one leads to a file.
package any

import (
	"bytes"
	"errors"
	"io/fs"
	"iter"
	"strings"
	"unicode"
	"unicode/utf8"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/jsonscan"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/format/xmlscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "any".
func (Format) Name() string { return "any" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Any other document", Extensions: []string{"*"}, Knows: "whatever looks like the path of a file, in text, JSON, XML and binary, in the texts of packages and the cells of SQLite databases; every find is a guess"}
}

// Claims takes whatever no other format does, but for media and empty files.
func (Format) Claims(name string, head []byte) int {
	if media[format.Ext(name)] || len(head) == 0 {
		return 0
	}
	return 1
}

// Last: any other format goes first.
func (Format) Last() {}

// Main is the first member of a package that may be text.
func (Format) Main(members []string) string {
	for _, m := range members {
		if mayBeText(m) {
			return m
		}
	}
	return ""
}

func mayBeText(member string) bool {
	return !strings.HasSuffix(member, "/") && !media[format.Ext(member)] && format.Ext(member) != "zip"
}

const longest = 1024 // bytes of a path that is believed

// Read scans by what the text looks like.
func (Format) Read(t mention.Text, include format.Include) (*mention.Doc, error) {
	doc := &mention.Doc{Texts: []mention.Text{t}}
	if t.Member {
		members(doc, include)
		return doc, nil
	}
	r := &reader{t: t, doc: doc, disk: format.Asked(t.Exists, maxAsked, shaped)}
	if !bytes.HasPrefix(t.Bytes, []byte(databaseMagic)) || !r.database() {
		r.scan()
	}
	r.unfollowed()
	return doc, nil
}

// members reads the text members of a package. They can only be read: what
// else the package holds, and checks, nobody knows.
func members(doc *mention.Doc, include format.Include) {
	for _, name := range doc.Texts[0].Members() {
		if mayBeText(name) && name != doc.Texts[0].Name && len(doc.Texts) < maxMembers {
			if t, err := include(name); err == nil {
				doc.Texts = append(doc.Texts, t)
			} else if !errors.Is(err, fs.ErrNotExist) {
				doc.Problems = append(doc.Problems, problem.Problem{Kind: problem.MemberUnread, Args: []string{err.Error()}})
				break
			}
		}
	}
	for k, t := range doc.Texts {
		if bytes.IndexByte(t.Bytes[:min(len(t.Bytes), 1<<16)], 0) >= 0 || !utf8.Valid(t.Bytes) {
			continue
		}
		r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}}
		r.scan()
		for i := range r.doc.Mentions {
			m := r.doc.Mentions[i]
			name := r.doc.Name(i)
			m.Pieces, m.Text = nil, k
			m.Merge = func([]string) string { return name }
			format.Inside(t, &m, name)
			doc.Add(m)
		}
	}
}

// maxMembers bounds how many members of one package are read.
const maxMembers = 1000

// scan reads one text by its looks.
func (r *reader) scan() {
	t := r.t
	body := bytes.TrimLeft(bytes.TrimPrefix(t.Bytes, []byte("\xEF\xBB\xBF")), " \t\r\n")
	switch {
	case bytes.IndexByte(t.Bytes[:min(len(t.Bytes), 1<<16)], 0) >= 0 || !utf8.Valid(t.Bytes):
		r.binary()
	case len(body) > 0 && (body[0] == '{' || body[0] == '[') && r.json():
	case len(body) > 0 && body[0] == '<' && r.xml():
	default:
		r.doc.Mentions, r.line, r.off = nil, 0, 0
		r.plain()
	}
}

type reader struct {
	t    mention.Text
	doc  *mention.Doc
	line int   // of the last find, counted from 0
	off  int64 // of the last find
	disk disk
}

// disk tells of what is shaped like a path whether it leads to a file; nil where
// nobody can tell.
type disk func(name []byte) bool

func (d disk) has(name []byte) bool { return d != nil && d(name) }

// and is a disk that has one more file.
func (d disk) and(name string) disk {
	return func(other []byte) bool { return string(other) == name || d.has(other) }
}

// maxAsked bounds how many names of one document we look for on the disk while
// it is read.
const maxAsked = 10_000

// add takes a name on; whole tells that it fills a value of its document.
func (r *reader) add(span mention.Span, coding mention.Coding, text string, whole bool) {
	// Finds come in order, so lines are counted on, never anew.
	r.line += bytes.Count(r.t.Bytes[r.off:span.Off], []byte{'\n'})
	r.off = span.Off
	like := looksLike
	if r.disk.has([]byte(text)) {
		like = shaped // it leads to a file, and will
	}
	m := mention.Mention{
		Pieces:   r.doc.One(span, only(coding, like, problem.NotFound)),
		Spelling: mention.Path, Nature: nature(text, whole), Owner: mention.Numbered("line ", r.line+1),
	}
	if isURI(text) {
		m.Spelling = mention.URI
	}
	r.doc.Add(m)
}

func isURI(s string) bool { return strings.HasPrefix(s, "file:") || strings.Contains(s, "%20") }

// only is a coding for the names that like says yes to.
func only(coding mention.Coding, like func(string) bool, why problem.Why) mention.Coding {
	return mention.Only{Coding: coding, Not: func(name string) error {
		if like(name) {
			return nil
		}
		return problem.No(why)
	}}
}

func (r *reader) json() bool {
	s := jsonscan.New(r.t.Bytes)
	var value func() error
	value = func() error {
		switch s.Peek() {
		case '{':
			return s.Object(func(string) error { return value() })
		case '[':
			return s.Array(func(int) error { return value() })
		case '"':
			span, err := s.String()
			if err != nil || span.End-span.Off > longest || bytes.IndexByte(r.t.Bytes[span.Off:span.End], '.') < 0 {
				return err
			}
			r.value(span, mention.Span{Off: span.Off + 1, End: span.End - 1}, jsonscan.String, s.Text(span))
			return nil
		}
		_, err := s.Skip()
		return err
	}
	if err := value(); err != nil || s.End() != nil {
		r.doc.Mentions = nil
		return false // not JSON after all
	}
	return true
}

// value takes a value for a path as a whole, or else what within it leads to a
// file.
func (r *reader) value(span, inside mention.Span, coding mention.Coding, text string) {
	if r.disk.has([]byte(text)) || !r.within(inside) && looksLike(text) {
		r.add(span, coding, text, true)
	}
}

// within looks for names in a value that says more than a name, and tells
// whether there are any. What is only a part of a value is taken for a path where
// it leads to a file, and not else; a value with escapes is left alone.
func (r *reader) within(span mention.Span) (found bool) {
	value := r.t.Bytes[span.Off:span.End]
	if r.disk == nil || len(value) > longest || bytes.IndexByte(value, '.') < 0 || bytes.ContainsAny(value, "\\&") {
		return false
	}
	for p := range places(value, r.disk) {
		if !p.proved {
			continue
		}
		found = true
		p.coding = only(linescan.Plain{Spaces: true, Never: never + "\\&'"}, printed, problem.Awkward)
		r.add(mention.Span{Off: span.Off + int64(p.from), End: span.Off + int64(p.to)}, again{p.coding, value, p, r.disk}, string(value[p.from:p.to]), false)
	}
	return found
}

func printed(name string) bool { return !strings.ContainsFunc(name, unicode.IsControl) }

func (r *reader) xml() bool {
	err := xmlscan.Scan(r.t.Bytes, xmlscan.Handler{
		Start: func(e *xmlscan.Element) error {
			for i := range e.Attrs {
				a := &e.Attrs[i]
				r.value(a.Span, mention.Span{Off: a.Span.Off + 1, End: a.Span.End - 1}, xmlscan.Attribute, a.Value())
			}
			return nil
		},
		Text: func(_ *xmlscan.Element, span mention.Span, cdata bool) error {
			span = xmlscan.Trim(r.t.Bytes, span)
			coding := xmlscan.Text
			if cdata {
				coding = xmlscan.CDATA
			}
			if span.End-span.Off > longest {
				return nil
			}
			if text, err := coding.Decode(r.t.Bytes[span.Off:span.End]); err == nil {
				r.value(span, span, coding, text)
			}
			return nil
		},
	})
	return err == nil
}

// again is a coding that refuses a name which the scanner would not find again
// at its place in the line. One that is known because it leads to a file will
// lead to one under its new name.
type again struct {
	mention.Coding
	line []byte
	at   place
	disk disk
}

func (a again) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	b, err := a.Coding.Encode(s, old, fits)
	if err != nil {
		return nil, err
	}
	line := append(append(bytes.Clone(a.line[:a.at.from]), b...), a.line[a.at.to:]...)
	then := a.disk
	if a.at.proved {
		then = a.disk.and(s)
	}
	// The scanner looks no further back than to where it began to look for this
	// name, and once it has found the next one again it finds all the rest.
	grown := len(b) - (a.at.to - a.at.from)
	// What stands before it ends where it ended: a letter beside it may go on with it.
	if a.at.before >= 0 && next(line, a.at.before, then).to != a.at.began {
		return nil, problem.No(problem.NotFound)
	}
	now := next(line, a.at.began, then)
	after, still := next(a.line, a.at.to, a.disk), next(line, max(now.to, a.at.began), then)
	if after.from >= 0 {
		after.from += grown
	}
	text, err := now.decode(line)
	if now.from != a.at.from || now.to != a.at.to+grown || err != nil || !likely(text, then) || still.from != after.from || still.to != after.to+grown {
		return nil, problem.No(problem.NotFound)
	}
	return b, nil
}

func (p place) decode(line []byte) (string, error) {
	if p.from < 0 {
		return "", problem.No(problem.NotFound)
	}
	return p.coding.Decode(line[p.from:p.to])
}

// places are the candidates of a line, in order, with what they say.
func places(line []byte, d disk) iter.Seq2[place, string] {
	return func(yield func(place, string) bool) {
		for at, before := 0, -1; at < len(line); {
			p := next(line, at, d)
			if p.to <= at {
				return
			}
			p.began, p.before = at, before
			at, before = p.to, at
			if p.from < 0 {
				continue
			}
			if text, err := p.coding.Decode(line[p.from:p.to]); err == nil && !yield(p, text) {
				return
			}
		}
	}
}

// ends marks what a bare name in plain text cannot hold.
const ends = " \t\"'`=,;|<>()[]{}"

func (r *reader) plain() {
	linescan.Each(r.t.Bytes, func(off int64, line []byte) {
		for p, text := range places(line, r.disk) {
			if likely(text, r.disk) {
				p.proved = r.disk.has([]byte(text))
				r.add(mention.Span{Off: off + int64(p.from), End: off + int64(p.to)}, again{p.coding, line, p, r.disk}, text, p.quoted)
			}
		}
	})
}

// place is a name in a line; from is −1 where there is none up to to.
type place struct {
	from, to int
	coding   mention.Coding
	proved   bool // its bounds are known because it leads to a file
	quoted   bool // its bounds are known because it stands in quotes
	began    int  // where the scanner began to look for it: where what it met before ends
	before   int  // where it began to look for that; −1: it met nothing
}

// next finds the next candidate at or after a place of a line.
func next(line []byte, at int, d disk) place {
	dot, end := at-1, at
	for {
		k := bytes.IndexByte(line[dot+1:], '.')
		if k < 0 {
			return place{from: -1, to: len(line)}
		}
		dot += k + 1
		end = dot + 1
		for end < len(line) && (line[end] >= '0' && line[end] <= '9' || line[end]|0x20 >= 'a' && line[end]|0x20 <= 'z') {
			end++
		}
		if named[strings.ToLower(string(line[dot+1:end]))] {
			break
		}
	}
	// A quoted string around it is taken whole.
	for _, q := range []byte{'"', '\''} {
		open := bytes.LastIndexByte(line[at:dot], q)
		if open >= 0 && end < len(line) && line[end] == q {
			open += at
			if q == '"' {
				return place{open, end + 1, linescan.Quoted{}, false, true, 0, -1}
			}
			return place{open + 1, end, linescan.Plain{Spaces: true, Never: "'"}, false, true, 0, -1}
		}
	}
	start := dot
	for start > at && !strings.ContainsRune(ends, rune(line[start-1])) {
		start--
	}
	if d != nil {
		if from := proved(line, at, start, end, d); from >= 0 {
			return place{from, end, linescan.Plain{Spaces: true, Never: never}, true, false, 0, -1}
		}
	}
	// A whole value may hold spaces: what stands after "=", ":" or a tab, or from
	// the line's beginning, up to the line's end.
	if rest := bytes.TrimSpace(line[end:]); len(rest) == 0 && start > at {
		k := bytes.LastIndexAny(line[at:start], "=\t\"'`,;|<>()[]{}")
		begin := at + k + 1
		if c := bytes.LastIndex(line[at:start], []byte(": ")); c >= 0 {
			begin = max(begin, at+c+2)
		}
		for begin < start && line[begin] == ' ' {
			begin++
		}
		if whole := line[begin:end]; bytes.ContainsAny(whole, `/\`) && (bytes.IndexAny(whole, `/\`) < bytes.IndexByte(whole, ' ') || k >= 0) {
			return place{begin, end, linescan.Plain{Spaces: true, Never: "=\t\"'`,;|<>()[]{}"}, false, false, 0, -1}
		}
	}
	if d != nil && start > at && line[start-1] == ' ' && !bytes.ContainsAny(line[start:end], `/\`) {
		if from := folder(line, at, start); from >= 0 {
			return place{from, end, linescan.Plain{Spaces: true, Never: never}, false, false, 0, -1}
		}
	}
	return place{start, end, linescan.Plain{Never: ends}, false, false, 0, -1}
}

// never are characters that no guessed name holds.
const never = "\t\r\n<>|\"*?"

// proved looks for the longest name that ends at end, begins after one of ends
// and leads to a file; −1 for none.
func proved(line []byte, at, start, end int, d disk) int {
	hard := at + 1 + bytes.LastIndexAny(line[at:start], never)
	best := -1
	for from, tried := start, 0; from >= hard && tried < 16; from-- {
		if from > hard && strings.IndexByte(ends, line[from-1]) < 0 || line[from] == ' ' {
			continue
		}
		tried++
		if d.has(line[from:end]) {
			best = from
		}
	}
	return best
}

// folder looks back over a few words for one that begins a path, which the bare
// name at start then ends: "sound/lost horn.wav". −1 for none.
func folder(line []byte, at, start int) int {
	for range 4 {
		to := len(bytes.TrimRight(line[at:start], " ")) + at
		from := to
		for from > at && strings.IndexByte(ends, line[from-1]) < 0 {
			from--
		}
		word := line[from:to]
		if len(word) == 0 || named[format.Ext(string(word))] {
			return -1
		}
		if bytes.ContainsAny(word, `/\`) {
			return from
		}
		start = from
	}
	return -1
}
