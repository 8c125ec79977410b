// Package list reads reference lists: one path a line, or a table with a column
// of paths. It is the door for any program that can print its own list.
package list

import (
	"bytes"
	"path"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "list".
func (Format) Name() string { return "list" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Reference list", Extensions: []string{"csv", "tsv", "txt"}, Knows: "one path a line, or a column named path, file or location, with kind, use, owner, role and note beside it"}
}

// columns are the headings that are understood, in any letter case.
var columns = map[string]string{"path": "path", "file": "path", "location": "path", "kind": "kind", "use": "use", "owner": "owner", "role": "role", "note": "note",
	"bytes": "bytes", "size": "bytes", "seconds": "seconds", "duration": "seconds", "rate": "rate", "md5": "md5", "sha1": "sha1", "sha256": "sha256", "sha512": "sha512"}

// TellsBytes tells that digests and sizes may stand beside the names.
func (Format) TellsBytes() {}

// Claims wants a heading that is understood, or lines that all look like paths.
func (Format) Claims(name string, head []byte) int {
	ext := format.Ext(name)
	if bytes.IndexByte(head, 0) >= 0 {
		return 0
	}
	if ext != "txt" && ext != "csv" && ext != "tsv" {
		// A wrong extension: only a heading of several columns speaks for a list.
		first, _, _ := bytes.Cut(bytes.TrimPrefix(head, []byte("\xEF\xBB\xBF")), []byte("\n"))
		names, _, ok := header(bytes.TrimRight(first, "\r"))
		known := 0
		for _, n := range names {
			if n != "" {
				known++
			}
		}
		if ok && known >= 2 {
			return 55
		}
		return 0
	}
	lines, paths := 0, 0
	heading := false
	linescan.Each(head, func(_ int64, line []byte) {
		if len(bytes.TrimSpace(line)) == 0 {
			return
		}
		if lines++; lines == 1 {
			_, _, heading = header(line)
		}
		if looksLike(string(bytes.TrimSpace(line))) {
			paths++
		}
	})
	switch {
	case heading:
		return 70
	case lines > 0 && paths >= lines-1 && paths > 0 && ext == "txt":
		return 55
	}
	return askedFor
}

// askedFor is the claim on any text: enough to open it when a person chooses
// it, too little to follow it as a document of a project.
const askedFor = 10

// looksLike tells lines that are one path: a file name with an extension.
func looksLike(s string) bool {
	ext := path.Ext(strings.ReplaceAll(s, `\`, "/"))
	if len(ext) < 2 || len(ext) > 6 || len(s) > 1024 || strings.ContainsAny(s, "<>|\"") || strings.Contains(s, ". ") || strings.Contains(s, ", ") {
		return false
	}
	for _, c := range ext[1:] {
		if !(c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z') {
			return false
		}
	}
	return true
}

// header reads the first line as headings; sep is what parts them.
func header(line []byte) (names []string, sep byte, ok bool) {
	sep = ','
	for _, c := range []byte{'\t', ';', ','} {
		if bytes.IndexByte(line, c) >= 0 {
			sep = c
			break
		}
	}
	for _, f := range fields(line, sep) {
		s, _ := cell{sep}.Decode(f)
		name := columns[strings.ToLower(strings.TrimSpace(s))]
		names = append(names, name)
		ok = ok || name == "path"
	}
	return names, sep, ok
}

// fields parts a line at separators outside quotes (RFC 4180).
func fields(line []byte, sep byte) [][]byte {
	var out [][]byte
	from, quoted := 0, false
	for i := 0; i < len(line); i++ {
		switch line[i] {
		case '"':
			quoted = !quoted
		case sep:
			if !quoted {
				out = append(out, line[from:i])
				from = i + 1
			}
		}
	}
	return append(out, line[from:])
}

// Read reads a table by its heading, else one path a line. A number sign is no
// comment.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	var names []string
	var sep byte
	n, first := 0, true
	records(t.Bytes, func() bool { return names != nil }, func(off int64, line []byte, at int) {
		n = at
		if len(bytes.TrimSpace(line)) == 0 {
			return
		}
		if first {
			first = false
			var ok bool
			if names, sep, ok = header(line); ok {
				return
			}
			names = nil
		}
		if names == nil {
			p := bytes.TrimSpace(line)
			d.Add(mention.Mention{
				Pieces:   d.One(linescan.Within(off, line, p), plain),
				Spelling: mention.Path, Owner: mention.Numbered("line ", n),
			})
			return
		}
		m := mention.Mention{Spelling: mention.Path, Owner: mention.Numbered("line ", n)}
		var told mention.Told
		var says mention.Says
		for k, f := range fields(line, sep) {
			if k >= len(names) {
				break
			}
			s, err := cell{sep}.Decode(f)
			if err != nil || strings.TrimSpace(s) == "" {
				continue
			}
			switch v := strings.ToLower(strings.TrimSpace(s)); names[k] {
			case "path":
				if m.Pieces == nil {
					m.Pieces = []mention.Piece{{Span: linescan.Within(off, line, f), Coding: cell{sep}}}
				}
			case "use":
				if u, ok := mention.ParseUse(v); ok && u != mention.Bystander {
					m.Use = u
				}
			case "owner":
				m.Owner = strings.TrimSpace(s)
			case "kind":
				m.Kind = v
			case "bytes":
				told.Size, _ = strconv.ParseInt(v, 10, 64) // what is no number is not told
				says = append(says, mention.Said{Piece: mention.Piece{Span: linescan.Within(off, line, f), Coding: cell{sep}}})
			case "seconds":
				told.Seconds, _ = strconv.ParseFloat(v, 64)
			case "rate":
				told.Rate, _ = strconv.Atoi(v)
			case "md5", "sha1", "sha256", "sha512":
				told.SayDigest(mention.Digest(names[k]), v)
				says = append(says, mention.Said{Piece: mention.Piece{Span: linescan.Within(off, line, f), Coding: cell{sep}}, By: mention.Digest(names[k])})
			case "role":
				if v == "write" {
					m.Nature = mention.WritePoint
				}
			}
		}
		if m.Told, m.Says = told.OrNil(), says.OrNil(); m.Pieces != nil {
			d.Add(m)
		}
	})
	return d, nil
}

// records calls each for every line, with its number; where table tells that a
// table is read, what a quoted field holds its line ends in is one (RFC 4180
// §2.6). A quote that nothing closes is a letter like any other.
func records(b []byte, table func() bool, each func(off int64, record []byte, line int)) {
	n, began := 0, 0 // the line a record that goes on began in; 0: none
	var from int64
	odd := false
	lines := func(record []byte) {
		linescan.Each(record, func(off int64, line []byte) {
			each(from+off, line, began)
			began++
		})
	}
	linescan.Each(b, func(off int64, line []byte) {
		n++
		if began == 0 {
			from, began, odd = off, n, false
		}
		record := b[from : off+int64(len(line))]
		if table() {
			odd = odd != (bytes.Count(line, []byte{'"'})%2 == 1)
		}
		switch {
		case !odd:
			each(from, record, began)
		case len(record) < longest:
			return
		default:
			lines(record)
		}
		began = 0
	})
	if began > 0 {
		lines(b[from:])
	}
}

// longest bounds one record of a table, in bytes.
const longest = 1 << 20

// plain refuses a name that would be a heading where it is the first line.
var plain = mention.Only{Coding: linescan.Plain{Spaces: true}, Not: func(s string) error {
	if _, _, ok := header([]byte(s)); ok {
		return problem.No(problem.AsHeading)
	}
	return nil
}}

// cell is the coding of a field of a table (RFC 4180 §2).
type cell struct{ sep byte }

func (c cell) Decode(raw []byte) (string, error) {
	s := strings.TrimSpace(string(raw))
	if len(s) >= 2 && s[0] == '"' && s[len(s)-1] == '"' {
		return strings.ReplaceAll(s[1:len(s)-1], `""`, `"`), nil
	}
	return s, nil
}

func (c cell) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if strings.ContainsAny(s, "\r\n\x00") || strings.TrimSpace(s) == "" || strings.ToValidUTF8(s, "") != s || strings.ContainsFunc(s, func(r rune) bool { return !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	was := bytes.TrimSpace(old)
	if len(was) > 0 && was[0] == '"' || strings.IndexByte(s, c.sep) >= 0 || strings.Contains(s, `"`) || strings.TrimSpace(s) != s {
		return []byte(`"` + strings.ReplaceAll(s, `"`, `""`) + `"`), nil
	}
	return []byte(s), nil
}
