// Package any is the door for documents of no known format: a path scanner over
// text, JSON, XML and binary. Everything it finds is guessed; the trace keeps
// what leads to a file, or shares its folder with something that does.
//
// It is precise before it is greedy: quoted strings, JSON strings and XML
// values are taken whole; in plain text a name ends at white space unless it is
// a whole value, or only a longer one leads to a file.
package any

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"iter"
	"slices"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"boundcrate/core/format"
	"boundcrate/core/format/jsonscan"
	"boundcrate/core/format/linescan"
	"boundcrate/core/format/xmlscan"
	"boundcrate/core/mention"
)

// Format is the reader.
type Format struct{}

// Name is "any".
func (Format) Name() string { return "any" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Any other document", Extensions: []string{"*"}, Knows: "whatever looks like the path of a file, in text, JSON, XML and binary, in the texts of packages and the cells of SQLite databases; every find is a guess"}
}

// media are extensions of files that documents name and that are no documents.
var media = extensions("wav aif aiff aifc flac mp3 ogg opus m4a caf w64 mp4 mov mxf mkv webm avi m2ts png jpg jpeg tif tiff exr hdr dds ktx2 webp bmp tga gif fits psd")

// named are all extensions a guessed name may have.
var named = merged(media, extensions("gltf glb obj dae usd usda usdc usdz x3d wrl stl ply 3mf fbx abc stp step p21 ifc urdf mtl mtlx svg pdf otio otioz otiod edl adl xspf m3u m3u8 cue sfz odt odp odg ods qde qdpx ttf otf woff2 csv tsv srt vtt lut cube bin json xml txt dxf dwg igs"))

func extensions(list string) map[string]bool {
	m := map[string]bool{}
	for _, e := range strings.Fields(list) {
		m[e] = true
	}
	return m
}

func merged(maps ...map[string]bool) map[string]bool {
	out := map[string]bool{}
	for _, m := range maps {
		for k := range m {
			out[k] = true
		}
	}
	return out
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
	if bytes.HasPrefix(t.Bytes, []byte(databaseMagic)) && r.database() {
		return doc, nil
	}
	r.scan()
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
				doc.Problems = append(doc.Problems, mention.Problem{Code: "malformed", Message: err.Error(), Untouched: "the other members were read", Do: "unpack it to see what it holds"})
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

func (r *reader) add(span mention.Span, coding mention.Coding, text string) {
	// Finds come in order, so lines are counted on, never anew.
	r.line += bytes.Count(r.t.Bytes[r.off:span.Off], []byte{'\n'})
	r.off = span.Off
	like := looksLike
	if r.disk.has([]byte(text)) {
		like = shaped // it leads to a file, and will
	}
	m := mention.Mention{
		Pieces:   r.doc.One(span, only(coding, like, "it would not be known as a path again")),
		Spelling: mention.Path, Nature: mention.Guess, Owner: mention.Numbered("line ", r.line+1),
	}
	if isURI(text) {
		m.Spelling = mention.URI
	}
	r.doc.Add(m)
}

func isURI(s string) bool { return strings.HasPrefix(s, "file:") || strings.Contains(s, "%20") }

// only is a coding for the names that like says yes to.
func only(coding mention.Coding, like func(string) bool, why string) mention.Coding {
	return mention.Only{Coding: coding, Not: func(name string) string {
		if like(name) {
			return ""
		}
		return why
	}}
}

// looksLike tells strings that are one path, and no prose: prose that ends with
// a file name has sentence marks before it.
func looksLike(s string) bool {
	return shaped(s) && !strings.Contains(s, ". ") && !strings.Contains(s, ", ") && !strings.Contains(s, ": ")
}

// likely is looksLike, or that a name leads to a file whatever it looks like.
func likely(s string, d disk) bool { return looksLike(s) || d.has([]byte(s)) }

// shaped tells strings that may be a path: a name with an extension that files
// have, whatever folder stands before it.
func shaped(s string) bool {
	if len(s) < 5 || len(s) > longest || strings.ContainsAny(s, "\r\n\t\x00<>|\"*?") || strings.TrimSpace(s) != s {
		return false
	}
	if i := strings.Index(s, "://"); i >= 0 && !strings.HasPrefix(s, "file://") {
		return false // pages are no material
	}
	dot := strings.LastIndexByte(s, '.')
	if dot < 1 || dot == len(s)-1 || !named[strings.ToLower(s[dot+1:])] {
		return false
	}
	stem := s[:dot]
	c := stem[len(stem)-1]
	return c != '/' && c != '\\' && c != ' '
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
		r.add(span, coding, text)
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
		p.coding = only(linescan.Plain{Spaces: true, Never: never + "\\&'"}, printed, "the value would need an escape")
		r.add(mention.Span{Off: span.Off + int64(p.from), End: span.Off + int64(p.to)}, again{p.coding, value, p, r.disk}, string(value[p.from:p.to]))
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
	was, now := spans(a.line, a.disk), spans(line, then)
	if len(was) != len(now) || !slices.Contains(now, [2]int{a.at.from, a.at.from + len(b)}) {
		return nil, fmt.Errorf("it would not be found again there: %w", mention.ErrCannotSay)
	}
	return b, nil
}

// spans are the places of all names in a line.
func spans(line []byte, d disk) (list [][2]int) {
	for p, text := range places(line, d) {
		if likely(text, d) {
			list = append(list, [2]int{p.from, p.to})
		}
	}
	return list
}

// places are the candidates of a line, in order, with what they say.
func places(line []byte, d disk) iter.Seq2[place, string] {
	return func(yield func(place, string) bool) {
		for at := 0; at < len(line); {
			p := next(line, at, d)
			if p.to <= at {
				return
			}
			at = p.to
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
				r.add(mention.Span{Off: off + int64(p.from), End: off + int64(p.to)}, again{p.coding, line, p, r.disk}, text)
			}
		}
	})
}

// place is a name in a line; from is −1 where there is none up to to.
type place struct {
	from, to int
	coding   mention.Coding
	proved   bool // its bounds are known because it leads to a file
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
				return place{open, end + 1, linescan.Quoted{}, false}
			}
			return place{open + 1, end, linescan.Plain{Spaces: true, Never: "'"}, false}
		}
	}
	start := dot
	for start > at && !strings.ContainsRune(ends, rune(line[start-1])) {
		start--
	}
	if d != nil {
		if from := proved(line, at, start, end, d); from >= 0 {
			return place{from, end, linescan.Plain{Spaces: true, Never: never}, true}
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
			return place{begin, end, linescan.Plain{Spaces: true, Never: "=\t\"'`,;|<>()[]{}"}, false}
		}
	}
	if d != nil && start > at && line[start-1] == ' ' && !bytes.ContainsAny(line[start:end], `/\`) {
		if from := folder(line, at, start); from >= 0 {
			return place{from, end, linescan.Plain{Spaces: true, Never: never}, false}
		}
	}
	return place{start, end, linescan.Plain{Never: ends}, false}
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

// widens tells that text of two bytes a letter begins: three of them, as one
// byte that ends a name may be followed by a small number.
func widens(b []byte) bool {
	return len(b) > 5 && b[1] == 0 && b[2] >= 0x20 && b[3] == 0 && b[4] >= 0x20 && b[5] == 0
}

// counted tells whether the run of text at [from,to) begins with a name whose
// length stands before it, in one byte or in two or four of either order; the
// byte that ends the number may itself look like text.
func counted(b []byte, from, to int) (skip, n int) {
	for skip := range 2 {
		at := from + skip
		var lengths [5]int
		if at >= 1 {
			lengths[0] = int(b[at-1])
		}
		if at >= 2 {
			lengths[1], lengths[2] = int(binary.LittleEndian.Uint16(b[at-2:])), int(binary.BigEndian.Uint16(b[at-2:]))
		}
		if at >= 4 {
			lengths[3], lengths[4] = int(binary.LittleEndian.Uint32(b[at-4:])), int(binary.BigEndian.Uint32(b[at-4:]))
		}
		for _, n := range lengths {
			if n >= 5 && n <= min(longest, to-at) && utf8.Valid(b[at:at+n]) && shaped(string(b[at:at+n])) {
				return skip, n
			}
		}
	}
	return 0, 0
}

// binary reads runs of text in UTF-8 and UTF-16LE. It can only be read.
func (r *reader) binary() {
	b := r.t.Bytes
	take := func(s string, at int, sure bool) bool {
		if s = strings.TrimSpace(s); !likely(s, r.disk) && !(sure && shaped(s)) {
			return false
		}
		r.doc.Add(mention.Mention{
			Merge: func([]string) string { return s }, Spelling: mention.Path, Nature: mention.Guess, Owner: mention.Numbered("byte ", at),
		})
		return true
	}
	printable := func(c byte) bool { return c >= 0x20 && c != 0x7F }
	for i := 0; i < len(b); {
		if !printable(b[i]) {
			i++
			continue
		}
		from := i
		wide := i+1 < len(b) && b[i+1] == 0
		if wide {
			var units []uint16
			for i+1 < len(b) && (b[i+1] == 0 && printable(b[i]) || b[i+1] != 0 && b[i+1] < 0xE0 && len(units) > 0 && b[i] != 0 && !printable(b[i+1])) {
				units = append(units, uint16(b[i])|uint16(b[i+1])<<8)
				i += 2
			}
			if len(units) > 1 {
				take(string(utf16.Decode(units)), from, false)
				continue
			}
			i = from
		}
		for i < len(b) && printable(b[i]) && !(i > from && widens(b[i:])) {
			_, n := utf8.DecodeRune(b[i:])
			if n == 1 && b[i] >= 0x80 {
				break // no text
			}
			i += n
		}
		if run := b[from:i]; len(run) >= 5 && len(run) <= 4*longest && utf8.Valid(run) {
			at := 0
			if skip, n := counted(b, from, i); n > 0 {
				take(string(run[skip:skip+n]), from+skip, true)
				at = skip + n
			} else if take(string(run), from, false) {
				at = len(run)
			}
			for p, name := range places(run[at:], r.disk) { // several names in one run
				take(name, from+at+p.from, false)
			}
		}
		if i == from {
			i++
		}
	}
}
