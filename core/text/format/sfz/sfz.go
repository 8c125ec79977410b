// Package sfz reads sampled instruments (.sfz, an open text format).
package sfz

import (
	"bytes"
	"fmt"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "sfz".
func (Format) Name() string { return "sfz" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "SFZ instrument", Extensions: []string{"sfz"}, Knows: "samples with their default path and defines; included files, read in place"}
}

// Claims wants a region with a sample, or an include.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<region>")) && bytes.Contains(head, []byte("sample=")):
		return 80
	case format.Ext(name) == "sfz":
		return 45
	}
	return 0
}

type reader struct {
	doc     *mention.Doc
	include format.Include
	texts   map[string]int // included name → its text, 0 for one that is not there
	at      int            // the text that is read
	depth   int
	runs    int
	defines []define
	prefix  int // the present default_path, -1
	header  string
	line    int
	told    map[told]bool // what a text that is included twice said before
}

type told struct {
	span mention.Span
	name string
}

type define struct{ name, value string }

// Bounds of what including can cost: a file may include itself, and one that
// is included often may include others.
const (
	maxDepth = 32
	maxRuns  = 10_000
	// maxDefines bounds what every sample with a dollar sign is held against.
	maxDefines = 4096
)

// Read reads opcodes line by line; block comments may run over lines. A value
// runs to the next opcode, header or line end and may hold spaces. Included
// files are read in place: what they define and set holds for what follows, and
// all names are relative to the first document.
func (Format) Read(t mention.Text, include format.Include) (*mention.Doc, error) {
	r := &reader{doc: &mention.Doc{Texts: []mention.Text{t}}, include: include, texts: map[string]int{}, prefix: -1, told: map[told]bool{}}
	r.text(0)
	return r.doc, nil
}

func (r *reader) text(n int) {
	at, line, depth := r.at, r.line, r.depth
	defer func() { r.at, r.line, r.depth = at, line, depth }()
	r.at, r.line, r.depth = n, 0, depth+1
	inComment := false
	linescan.Each(r.doc.Texts[n].Bytes, func(off int64, line []byte) {
		r.line++
		for len(line) > 0 {
			if inComment {
				end := bytes.Index(line, []byte("*/"))
				if end < 0 {
					return
				}
				off, line, inComment = off+int64(end)+2, line[end+2:], false
				continue
			}
			text := line
			if i := bytes.Index(line, []byte("//")); i >= 0 {
				text = line[:i]
			}
			if i := bytes.Index(text, []byte("/*")); i >= 0 {
				r.code(off, line[:i:i])
				off, line, inComment = off+int64(i)+2, line[i+2:], true
				continue
			}
			r.code(off, text[:len(text):len(text)])
			return
		}
	})
}

// open is the text of an included file, 0 for one that is not there.
func (r *reader) open(name string) int {
	n, known := r.texts[name]
	if !known && r.include != nil && len(r.texts) < maxRuns {
		if t, err := r.include(name); err == nil {
			n = len(r.doc.Texts)
			r.doc.Texts = append(r.doc.Texts, t)
		}
		r.texts[name] = n
	}
	return n
}

func (r *reader) code(off int64, line []byte) {
	trimmed := bytes.TrimSpace(line)
	switch {
	case bytes.HasPrefix(trimmed, []byte("#define")):
		if f := bytes.Fields(trimmed); len(f) >= 3 && f[1][0] == '$' {
			r.define(string(f[1]), string(f[2]))
		}
		return
	case bytes.HasPrefix(trimmed, []byte("#include")):
		i, j := bytes.IndexByte(line, '"'), bytes.LastIndexByte(line, '"')
		if i >= 0 && j > i {
			r.included(r.span(off, i, j+1), string(line[i+1:j]))
		}
		return
	}
	for at := 0; at < len(line); {
		switch {
		case line[at] == ' ' || line[at] == '\t':
			at++
		case line[at] == '<':
			end := bytes.IndexByte(line[at:], '>')
			if end < 0 {
				return
			}
			r.header = string(line[at+1 : at+end])
			at += end + 1
		default:
			eq := bytes.IndexByte(line[at:], '=')
			if eq < 0 {
				return
			}
			key := string(bytes.TrimSpace(line[at : at+eq]))
			from := at + eq + 1
			to := valueEnd(line, from)
			at = to
			value := bytes.TrimRight(line[from:to], " \t")
			r.opcode(key, r.span(off, from, from+len(value)), value)
		}
	}
}

func (r *reader) span(off int64, from, to int) mention.Span {
	return mention.Span{Text: r.at, Off: off + int64(from), End: off + int64(to)}
}

// valueEnd finds where a value ends: before the word that an "=" follows, or
// before a header.
func valueEnd(line []byte, from int) int {
	end := len(line)
	if i := bytes.IndexByte(line[from:], '<'); i >= 0 {
		end = from + i
	}
	if eq := bytes.IndexByte(line[from:end], '='); eq >= 0 {
		word := bytes.LastIndexAny(line[from:from+eq], " \t")
		if word >= 0 {
			end = from + word + 1
		}
	}
	return end
}

func (r *reader) opcode(key string, s mention.Span, value []byte) {
	switch key {
	case "sample":
		if len(value) > 0 && value[0] != '*' { // *sine and such are built in
			r.sample(s)
		}
	case "default_path":
		defines := r.defines
		r.prefix = len(r.doc.Shared)
		r.doc.Shared = append(r.doc.Shared, mention.Shared{
			Piece: mention.Piece{Span: s, Coding: prefixCoding{coding}}, Neutral: "",
			// A prefix is put before the text as it is, separator or not.
			Join:  func(prefix, own string) string { return substitute(defines, prefix) + own },
			Strip: func(prefix, name string) (string, bool) { return strings.CutPrefix(name, substitute(defines, prefix)) },
			Move: func(name, own string) (string, bool) {
				v, ok := strings.CutSuffix(name, own)
				return v, ok && !strings.Contains(v, "$")
			},
		})
	}
}

// sample adds a sample of the present region or group.
func (r *reader) sample(span mention.Span) {
	m := r.mention(mention.Piece{Span: span, Coding: coding}, "sample")
	if r.header != "" {
		m.Owner = fmt.Sprintf("line %d, <%s>", r.line, r.header)
	}
	if r.prefix >= 0 {
		m.Lean = []int{r.prefix}
	}
	r.put(m)
}

// included adds an included file and reads it in place.
func (r *reader) included(span mention.Span, name string) {
	m := r.mention(mention.Piece{Span: span, Coding: mention.Only{Coding: linescan.Quoted{}, Not: unsupported}}, "#include")
	m.Reads = r.open(substitute(r.defines, name))
	r.put(m)
	if m.Reads > 0 && r.depth < maxDepth && r.runs < maxRuns {
		r.runs++
		r.text(m.Reads)
	}
}

// mention is one that stands at the present line. Defines in its text stay as
// they are written and hold as they do here.
func (r *reader) mention(p mention.Piece, what string) mention.Mention {
	m := mention.Mention{Pieces: r.doc.One(p.Span, p.Coding), Text: r.at, Spelling: mention.Path, Owner: fmt.Sprintf("line %d, %s", r.line, what)}
	raw, _ := p.Coding.Decode(r.doc.Texts[r.at].Bytes[p.Span.Off:p.Span.End]) // a line's text always decodes
	if !strings.Contains(raw, "$") {
		return m
	}
	defines := r.defines
	m.Shown = &raw
	m.Merge = func(parts []string) string { return substitute(defines, parts[0]) }
	m.Split = func(name string) ([]string, error) {
		if strings.Contains(name, "$") {
			return nil, fmt.Errorf("a dollar sign would be read as a define")
		}
		return []string{name}, nil
	}
	return m
}

// put adds a mention, but for what a text that is included twice said before:
// by other defines it may say something else.
func (r *reader) put(m mention.Mention) {
	n := r.doc.Add(m)
	if len(r.texts) == 0 {
		return
	}
	if t := (told{m.Pieces[0].Span, r.doc.Name(n)}); r.told[t] {
		r.doc.Mentions = r.doc.Mentions[:n]
	} else {
		r.told[t] = true
	}
}

// define sets a name, or sets it anew: the last one counts. The list only
// grows, since mentions keep what held where they stand; a full one is weeded.
func (r *reader) define(name, value string) {
	if len(r.defines) >= maxDefines {
		last := map[string]int{}
		for i, d := range r.defines {
			last[d.name] = i
		}
		var list []define
		for i, d := range r.defines {
			if last[d.name] == i {
				list = append(list, d)
			}
		}
		if len(list) > maxDefines/2 {
			return
		}
		r.defines = list
	}
	r.defines = append(r.defines, define{name, value})
}

// substitute puts defines in place of their names, the longest name first where
// one begins with another.
func substitute(defines []define, s string) string {
	if !strings.Contains(s, "$") {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		best := -1
		for k, d := range defines {
			if strings.HasPrefix(s[i:], d.name) && (best < 0 || len(d.name) >= len(defines[best].name)) {
				best = k
			}
		}
		if s[i] == '$' && best >= 0 {
			b.WriteString(defines[best].value)
			i += len(defines[best].name)
			continue
		}
		b.WriteByte(s[i])
		i++
	}
	return b.String()
}

// coding refuses what would end the value or begin a comment.
var coding = mention.Only{Coding: linescan.Plain{Not: "*", Never: "<=$", Spaces: true}, Not: comment}

// unsupported are names that cannot be included.
func unsupported(s string) error {
	if strings.Contains(s, "$") {
		return problem.No(problem.NoneOf, "$")
	}
	return comment(s)
}

func comment(s string) error {
	if strings.Contains(s, "//") || strings.Contains(s, "/*") {
		return problem.No(problem.AsComment)
	}
	return nil
}

// prefixCoding also takes the empty prefix.
type prefixCoding struct{ mention.Coding }

func (c prefixCoding) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if s == "" {
		return []byte{}, nil
	}
	return c.Coding.Encode(s, old, fits)
}
