package xmlscan

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Attribute is the coding of an attribute value, quotes included (XML 1.0
// §3.3.3: white space reads as spaces). Text is that of character data; leading
// and trailing white space around a name is not part of it. CDATA is that of
// the inside of a CDATA section.
var (
	Attribute mention.Coding = attribute{}
	Text      mention.Coding = text{}
	CDATA     mention.Coding = cdata{}
)

// EntityError names an entity that only a document type declaration could
// explain. It is never expanded (XML 1.0 §4.4.4 allows that); the text that is
// returned with it holds the reference as it stands.
type EntityError struct{ Name string }

func (e *EntityError) Error() string {
	return fmt.Sprintf("the entity &%s; is not expanded", e.Name)
}

func unescape(raw []byte) (string, error) {
	if bytes.IndexByte(raw, '&') < 0 {
		return string(raw), nil
	}
	var b strings.Builder
	var unknown error
	for i := 0; i < len(raw); i++ {
		if raw[i] != '&' {
			b.WriteByte(raw[i])
			continue
		}
		end := bytes.IndexByte(raw[i:], ';')
		if end < 0 || end > 32 {
			b.WriteByte('&') // a slip many writers make: a bare ampersand
			continue
		}
		name := string(raw[i+1 : i+end])
		switch name {
		case "lt":
			b.WriteByte('<')
		case "gt":
			b.WriteByte('>')
		case "amp":
			b.WriteByte('&')
		case "quot":
			b.WriteByte('"')
		case "apos":
			b.WriteByte('\'')
		default:
			r, ok := reference(name)
			switch {
			case ok:
				b.WriteRune(r)
			case isName(name):
				if unknown == nil {
					unknown = &EntityError{name}
				}
				b.Write(raw[i : i+end+1])
			default:
				b.WriteByte('&')
				continue
			}
		}
		i += end
	}
	return b.String(), unknown
}

// Plain undoes references in raw text and tells of each byte of the result, and
// of its end, where it stood. References it does not know are kept as they are.
func Plain(raw []byte) (text []byte, offs []int) {
	for i := 0; i < len(raw); {
		n := 1
		b := raw[i : i+1]
		if raw[i] == '&' {
			if end := bytes.IndexByte(raw[i:], ';'); end > 0 && end <= 32 {
				if s, err := unescape(raw[i : i+end+1]); err == nil && s != string(raw[i:i+end+1]) {
					b, n = []byte(s), end+1
				}
			}
		}
		for range b {
			offs = append(offs, i)
		}
		text = append(text, b...)
		i += n
	}
	return text, append(offs, len(raw))
}

func isName(s string) bool {
	for i, r := range s {
		if !(r == '_' || r == ':' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= 0x80 || i > 0 && (r == '-' || r == '.' || r >= '0' && r <= '9')) {
			return false
		}
	}
	return s != ""
}

func reference(name string) (rune, bool) {
	base, digits := 10, strings.TrimPrefix(name, "#")
	if digits == name {
		return 0, false
	}
	if strings.HasPrefix(digits, "x") {
		base, digits = 16, digits[1:]
	}
	v, err := strconv.ParseUint(digits, base, 32)
	return rune(v), err == nil && valid(rune(v))
}

// valid is the Char production of XML 1.0 §2.2.
func valid(r rune) bool {
	return r == '\t' || r == '\n' || r == '\r' || r >= 0x20 && r <= 0xD7FF || r >= 0xE000 && r <= 0xFFFD || r >= 0x10000 && r <= 0x10FFFF
}

// Value is what a text says, without a copy of one that holds no references.
func Value(raw []byte, c mention.Coding) []byte {
	if bytes.IndexByte(raw, '&') < 0 {
		return raw
	}
	s, err := c.Decode(raw)
	if err != nil {
		return nil
	}
	return []byte(s)
}

func check(s string) error {
	if !utf8.ValidString(s) {
		return problem.No(problem.NotUTF8)
	}
	for _, r := range s {
		if !valid(r) {
			return problem.No(problem.NoCharacter, fmt.Sprintf("U+%04X", r))
		}
	}
	return nil
}

func escape(s string, fits func(rune) bool, also string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r == '&':
			b.WriteString("&amp;")
		case r == '<':
			b.WriteString("&lt;")
		case r == '>':
			b.WriteString("&gt;")
		case strings.ContainsRune(also, r) && r == '"':
			b.WriteString("&quot;")
		case strings.ContainsRune(also, r) && r == '\'':
			b.WriteString("&apos;")
		case r < 0x20 || !fits(r):
			fmt.Fprintf(&b, "&#x%X;", r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

type attribute struct{}

var spaces = strings.NewReplacer("\r\n", " ", "\t", " ", "\n", " ", "\r", " ")

func (attribute) Decode(raw []byte) (string, error) {
	if len(raw) < 2 || raw[0] != '"' && raw[0] != '\'' || raw[len(raw)-1] != raw[0] {
		return "", fmt.Errorf("no attribute value")
	}
	raw = raw[1 : len(raw)-1]
	if bytes.ContainsAny(raw, "\t\r\n") {
		return unescape([]byte(spaces.Replace(string(raw))))
	}
	return unescape(raw)
}

func (attribute) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if err := check(s); err != nil {
		return nil, err
	}
	q := `"`
	if len(old) > 0 && old[0] == '\'' {
		q = `'`
	}
	return []byte(q + escape(s, fits, q) + q), nil
}

type text struct{}

// Trim narrows a span of character data to what stands between white space.
func Trim(b []byte, s mention.Span) mention.Span {
	raw := b[s.Off:s.End]
	left := len(raw) - len(bytes.TrimLeft(raw, " \t\r\n"))
	if left == len(raw) {
		return s
	}
	return mention.Span{Text: s.Text, Off: s.Off + int64(left), End: s.Off + int64(len(bytes.TrimRight(raw, " \t\r\n")))}
}

func (text) Decode(raw []byte) (string, error) {
	return unescape([]byte(strings.ReplaceAll(strings.ReplaceAll(string(raw), "\r\n", "\n"), "\r", "\n")))
}

func (text) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	if err := check(s); err != nil {
		return nil, err
	}
	if s == "" || strings.Trim(s, " \t\r\n") != s {
		// White space at an end would be read as layout.
		return nil, problem.No(problem.WhiteEnds)
	}
	return []byte(escape(s, fits, "")), nil
}

type cdata struct{}

func (cdata) Decode(raw []byte) (string, error) { return string(raw), nil }

func (cdata) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	if err := check(s); err != nil {
		return nil, err
	}
	if strings.Contains(s, "]]>") || strings.ContainsAny(s, "\r") || strings.Trim(s, " \t\r\n") != s || s == "" || strings.ContainsFunc(s, func(r rune) bool { return !fits(r) }) {
		return nil, problem.No(problem.Awkward)
	}
	return []byte(s), nil
}
