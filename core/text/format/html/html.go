// Package html reads HTML documents (the HTML Living Standard): every attribute by which a
// page loads a file, style sheets inside it, and the base that names are relative to. What a
// page only links to is not loaded, and not read.
package html

import (
	"bytes"
	"strings"

	"golang.org/x/net/html"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/cssscan"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "html".
func (Format) Name() string { return "html" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "HTML page", Extensions: []string{"html", "htm", "xhtml"}, Knows: "pictures with their further sizes, sound, video, frames, scripts, style sheets and what those name, icons, manifests, the base of its names; no links"}
}

// Claims looks for a document type or the outermost element, else goes by the extension.
func (Format) Claims(name string, head []byte) int {
	low := bytes.ToLower(head)
	if i := bytes.Index(low, []byte("<!doctype html")); i >= 0 && blank(low[:i]) {
		return 90
	}
	if i := bytes.Index(low, []byte("<html")); i >= 0 && blank(low[:i]) {
		return 85
	}
	switch format.Ext(name) {
	case "html", "htm", "xhtml":
		return 45
	}
	return 0
}

// blank tells what may stand before a page's first element: white space, a byte order mark,
// comments, an XML declaration, a document type.
func blank(b []byte) bool {
	b = bytes.TrimPrefix(b, []byte("\uFEFF"))
	for {
		b = bytes.TrimSpace(b)
		end := ">"
		switch {
		case len(b) == 0:
			return true
		case bytes.HasPrefix(b, []byte("<!--")):
			end = "-->"
		case !bytes.HasPrefix(b, []byte("<?")) && !bytes.HasPrefix(b, []byte("<!")):
			return false
		}
		i := bytes.Index(b, []byte(end))
		if i < 0 {
			return false
		}
		b = b[i+len(end):]
	}
}

// loads are the attributes by which elements load files (HTML §4.2.4, §4.8, §4.12.1, and §16.2
// for what is obsolete). Of link it depends on rel; of use the file is part of the name.
var loads = map[string][]string{
	"img": {"src", "srcset", "lowsrc"}, "source": {"src", "srcset"}, "video": {"src", "poster"}, "audio": {"src"}, "track": {"src"}, "embed": {"src"}, "object": {"data"},
	"iframe": {"src"}, "frame": {"src"}, "script": {"src"}, "input": {"src"}, "body": {"background"}, "table": {"background"}, "td": {"background"}, "th": {"background"},
	"image": {"href", "xlink:href"}, "use": {"href", "xlink:href"}, "feimage": {"href", "xlink:href"}, "portal": {"src"}, "bgsound": {"src"}, "link": {"href", "imagesrcset"},
}

// rels are the kinds of links that load a file.
var rels = map[string]bool{"stylesheet": true, "icon": true, "apple-touch-icon": true, "apple-touch-icon-precomposed": true, "mask-icon": true, "preload": true, "modulepreload": true, "prefetch": true, "manifest": true}

// Read reads a page to its end; a page is never malformed (HTML §13.2).
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	r := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}}
	r.scan(0, len(t.Bytes))
	if r.base {
		for i := range r.doc.Mentions {
			if m := &r.doc.Mentions[i]; len(m.Pieces) > 0 {
				m.Lean = []int{0}
			}
		}
	}
	r.doc.InOrder()
	return r.doc, nil
}

type reader struct {
	t     mention.Text
	doc   *mention.Doc
	base  bool // the page says what its names are relative to
	quiet bool // within what is only read where scripts are off
}

// scan reads what stands in [from,to).
func (r *reader) scan(from, to int) {
	z := html.NewTokenizer(bytes.NewReader(r.t.Bytes[from:to]))
	raw := "" // the element whose text is no markup here
	for at := from; ; {
		kind := z.Next()
		off := at
		if at += len(z.Raw()); at > to || kind == html.ErrorToken {
			return
		}
		switch kind {
		case html.StartTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			if raw = string(name); kind == html.SelfClosingTagToken {
				raw = ""
			}
			r.element(string(name), off, at)
		case html.TextToken:
			switch {
			case raw == "style":
				r.sheet(off, at)
			case (raw == "noscript" || raw == "noframes" || raw == "noembed") && !r.quiet:
				r.quiet = true
				r.scan(off, at)
				r.quiet = false
			}
			raw = ""
		case html.EndTagToken:
			raw = ""
		}
	}
}

// element reads a tag that stands in [from,to).
func (r *reader) element(name string, from, to int) {
	list := attributes(r.t.Bytes[from:to], from)
	if name == "base" {
		if a, ok := list["href"]; ok && !r.base && a.to > a.from {
			r.base = true
			r.doc.Shared = append(r.doc.Shared, base(a.piece()))
		}
		return
	}
	if a, ok := list["style"]; ok {
		r.inline(a, name)
	}
	use := mention.Used
	if r.quiet {
		use = mention.Dormant
	}
	switch name {
	case "link":
		loaded := false
		for _, rel := range strings.Fields(strings.ToLower(r.value(list["rel"]))) {
			loaded = loaded || rels[rel]
			if rel == "alternate" {
				use = mention.Dormant
			}
		}
		if !loaded {
			return
		}
		if _, off := list["disabled"]; off {
			use = mention.Dormant
		}
	case "input":
		if !strings.EqualFold(r.value(list["type"]), "image") {
			return
		}
	}
	for _, key := range loads[name] {
		a, ok := list[key]
		if !ok {
			continue
		}
		if strings.HasSuffix(key, "srcset") {
			r.set(a, name, use)
			continue
		}
		r.add(a, name+" "+key, use)
	}
}

func (r *reader) value(a attribute) string {
	s, _ := value{}.Decode(r.t.Bytes[a.from:a.to])
	return strings.TrimSpace(s)
}

// add is a mention whose name is all of an attribute, but for white space around it.
func (r *reader) add(a attribute, owner string, use mention.Use) {
	b := r.t.Bytes
	for a.from < a.to && space(b[a.from]) {
		a.from++
	}
	for a.to > a.from && space(b[a.to-1]) {
		a.to--
	}
	p := a.piece()
	uri, _ := p.Coding.Decode(b[a.from:a.to])
	m := mention.Mention{Pieces: r.doc.One(p.Span, p.Coding), Spelling: mention.URI, Owner: owner, Use: use}
	if format.Embed(&m, []byte(uri)) {
		m.Data.Say, m.Pieces = mention.Instead(m.Pieces[0]), nil
	} else if outside(uri) != nil {
		return
	}
	r.doc.Add(m)
}

// set reads a srcset: pictures of several sizes, parted by commas (HTML §4.8.4.2.1).
func (r *reader) set(a attribute, name string, use mention.Use) {
	b := r.t.Bytes
	for i := a.from; i < a.to; {
		for i < a.to && (space(b[i]) || b[i] == ',') {
			i++
		}
		from := i
		for i < a.to && !space(b[i]) {
			i++
		}
		to := i
		for to > from && b[to-1] == ',' {
			to-- // without a descriptor the comma touches the name
		}
		if to > from {
			one := a
			one.from, one.to, one.set = from, to, true
			r.add(one, name+" srcset", use)
		}
		if to < i {
			continue
		}
		for depth := 0; i < a.to && (b[i] != ',' || depth > 0); i++ {
			switch b[i] {
			case '(':
				depth++
			case ')':
				depth--
			}
		}
	}
}

// sheet reads a style element's text.
func (r *reader) sheet(from, to int) {
	for _, ref := range cssscan.Scan(r.t.Bytes[from:to]) {
		r.style(from+ref.Off, from+ref.End, mention.Only{Coding: cssscan.Coding{}, Not: ends}, ref.Import)
	}
}

// ends tells names that would end the style element.
func ends(name string) error {
	if strings.Contains(strings.ToLower(name), "</style") {
		return errEnd
	}
	return outside(name)
}

// inline reads a style attribute; references in it stand for characters of the style.
func (r *reader) inline(a attribute, name string) {
	plain, at := unescaped(r.t.Bytes[a.from:a.to])
	for _, ref := range cssscan.Scan(plain) {
		r.style(a.from+at[ref.Off], a.from+at[ref.End], mention.Only{Coding: inStyle{a.quote}, Not: outside}, false)
	}
}

func (r *reader) style(from, to int, c mention.Coding, imported bool) {
	m := mention.Mention{Pieces: r.doc.One(mention.Span{Off: int64(from), End: int64(to)}, c), Spelling: mention.URI, Owner: "style url"}
	if imported {
		m.Owner = "style @import"
	}
	uri, _ := c.Decode(r.t.Bytes[from:to])
	if format.Embed(&m, []byte(uri)) {
		m.Pieces = nil
	} else if outside(uri) != nil {
		return
	}
	r.doc.Add(m)
}
