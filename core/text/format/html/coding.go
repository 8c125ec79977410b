package html

import (
	"bytes"
	"html"
	"net/url"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/cssscan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

var errEnd = problem.No(problem.AsEnd)

func space(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\f' || c == '\r' }

// attribute is where the value of one stands, without its quotes; quote is 0 where it has none.
type attribute struct {
	from, to int
	quote    byte
	set      bool // one of the names of a srcset
}

func (a attribute) piece() mention.Piece {
	return mention.Piece{Span: mention.Span{Off: int64(a.from), End: int64(a.to)}, Coding: mention.Only{Coding: value{a.quote, a.set}, Not: outside}}
}

// attributes are those of a tag, by their names in lower case, the first of each (HTML
// §13.2.5.33).
func attributes(tag []byte, off int) map[string]attribute {
	list := map[string]attribute{}
	i := 1
	for i < len(tag) && !space(tag[i]) && tag[i] != '/' && tag[i] != '>' {
		i++
	}
	for {
		for i < len(tag) && (space(tag[i]) || tag[i] == '/') {
			i++
		}
		if i >= len(tag) || tag[i] == '>' {
			return list
		}
		from := i
		for i < len(tag) && (tag[i] != '=' || i == from) && !space(tag[i]) && tag[i] != '/' && tag[i] != '>' {
			i++
		}
		name := strings.ToLower(string(tag[from:i]))
		a := attribute{from: off + i, to: off + i}
		k := i
		for k < len(tag) && space(tag[k]) {
			k++
		}
		if k < len(tag) && tag[k] == '=' {
			for k++; k < len(tag) && space(tag[k]); k++ {
			}
			if k >= len(tag) {
				return list
			}
			if q := tag[k]; q == '"' || q == '\'' {
				end := bytes.IndexByte(tag[k+1:], q)
				if end < 0 {
					return list
				}
				a, i = attribute{from: off + k + 1, to: off + k + 1 + end, quote: q}, k+end+2
			} else {
				i = k
				for i < len(tag) && !space(tag[i]) && tag[i] != '>' {
					i++
				}
				a = attribute{from: off + k, to: off + i}
			}
		}
		if _, met := list[name]; !met {
			list[name] = a
		}
	}
}

// outside refuses what would not be the name of another file.
func outside(uri string) error {
	low := strings.ToLower(uri)
	for _, scheme := range []string{"javascript:", "about:", "blob:", "mailto:", "cid:"} {
		if strings.HasPrefix(low, scheme) {
			return problem.No(problem.AsScript)
		}
	}
	return format.Outside(uri)
}

// value is the coding of a name in an attribute.
type value struct {
	quote byte
	set   bool
}

func (value) Decode(raw []byte) (string, error) { return html.UnescapeString(string(raw)), nil }

func (v value) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	switch {
	case !utf8.ValidString(s):
		return nil, problem.No(problem.NotUTF8)
	case s == "" || strings.TrimFunc(s, func(r rune) bool { return r < utf8.RuneSelf && space(byte(r)) }) != s:
		return nil, problem.No(problem.WhiteEnds)
	case (v.set || v.quote == 0) && strings.ContainsFunc(s, func(r rune) bool { return r < utf8.RuneSelf && space(byte(r)) }):
		return nil, problem.No(problem.WhiteSpace)
	case v.set && (strings.HasPrefix(s, ",") || strings.HasSuffix(s, ",")):
		return nil, problem.No(problem.AsEnd)
	case v.quote == 0 && strings.ContainsAny(s, "\"'=<>`"):
		return nil, problem.No(problem.NoneOf, "\"'=<>`")
	case strings.ContainsFunc(s, func(r rune) bool { return !fits(r) }):
		return nil, problem.No(problem.LacksIn)
	case strings.ContainsAny(s, "\r\x00"):
		return nil, problem.No(problem.LineEnd)
	}
	return []byte(strings.NewReplacer("&", "&amp;", `"`, "&quot;", "'", "&#39;", "<", "&lt;", ">", "&gt;").Replace(s)), nil
}

// unescaped is a text with its references undone, and where each byte of it stood.
func unescaped(raw []byte) (plain []byte, at []int) {
	for i := 0; i < len(raw); {
		n, text := 1, string(raw[i:i+1])
		if raw[i] == '&' {
			if end := bytes.IndexByte(raw[i:min(len(raw), i+40)], ';'); end > 0 {
				if is := html.UnescapeString(string(raw[i : i+end+1])); is != string(raw[i:i+end+1]) {
					n, text = end+1, is
				}
			}
		}
		for range len(text) {
			at = append(at, i)
		}
		plain = append(plain, text...)
		i += n
	}
	return plain, append(at, len(raw))
}

// inStyle is the coding of a name in a style attribute.
type inStyle struct{ quote byte }

func (inStyle) Decode(raw []byte) (string, error) {
	plain, _ := unescaped(raw)
	return cssscan.Coding{}.Decode(plain)
}

func (s inStyle) Encode(name string, old []byte, fits func(rune) bool) ([]byte, error) {
	plain, _ := unescaped(old)
	b, err := cssscan.Coding{InXML: true}.Encode(name, plain, fits)
	if err != nil {
		return nil, err
	}
	if len(plain) > 0 && (plain[0] == '"' || plain[0] == '\'') && len(old) > 0 && old[0] == '&' { // the quotes stand as references
		end := bytes.IndexByte(old, ';') + 1
		b = append(append(append([]byte{}, old[:end]...), b[1:len(b)-1]...), old[:end]...)
	}
	if s.quote == 0 && bytes.ContainsAny(b, " \t\n\"'=<>`") {
		return nil, problem.No(problem.WhiteSpace)
	}
	return b, nil
}

// base is what the names of a page are relative to (HTML §4.2.3): resolved by RFC 3986 §5.
func base(p mention.Piece) mention.Shared {
	folder := func(s string) string { return s[:strings.LastIndexByte(s, '/')+1] }
	whole := func(s string) bool {
		u, err := url.Parse(s)
		return strings.HasPrefix(s, "/") || err == nil && u.Scheme != ""
	}
	return mention.Shared{
		Piece: p, Neutral: "./",
		Join: func(base, own string) string {
			if whole(own) {
				return own
			}
			return folder(base) + own
		},
		Strip: func(base, name string) (string, bool) {
			if whole(name) {
				return name, true
			}
			own, ok := strings.CutPrefix(name, folder(base))
			return own, ok && own != "" && !whole(own)
		},
		Move: func(name, own string) (string, bool) {
			dir, ok := strings.CutSuffix(name, own)
			return dir, ok && dir != ""
		},
	}
}
