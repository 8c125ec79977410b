// Package cssscan finds what style sheets name: url(…) and @import (CSS Syntax
// Level 3), with byte positions. Comments and other strings are passed over.
package cssscan

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/problem"
)

// Ref is one place that names something. Off and End are bytes of the text;
// quotes belong to it.
type Ref struct {
	Off, End int
	Import   bool
}

// Scan finds all places in order.
func Scan(b []byte) []Ref {
	var list []Ref
	importing := false
	for i := 0; i < len(b); {
		switch c := b[i]; {
		case c == '/' && i+1 < len(b) && b[i+1] == '*':
			end := bytes.Index(b[i+2:], []byte("*/"))
			if end < 0 {
				return list
			}
			i += end + 4
		case c == '"' || c == '\'':
			end := stringEnd(b, i)
			if end < 0 {
				return list
			}
			if importing {
				list, importing = append(list, Ref{i, end, true}), false
			}
			i = end
		case c == '@' && len(b)-i >= 7 && bytes.EqualFold(b[i:i+7], []byte("@import")):
			importing, i = true, i+7
		case (c == 'u' || c == 'U') && len(b)-i >= 4 && bytes.EqualFold(b[i:i+4], []byte("url(")) && (i == 0 || !isName(b[i-1])):
			off := i + 4
			for off < len(b) && isSpace(b[off]) {
				off++
			}
			end := off
			if off < len(b) && (b[off] == '"' || b[off] == '\'') {
				if end = stringEnd(b, off); end < 0 {
					return list
				}
			} else {
				for end < len(b) && b[end] != ')' {
					if b[end] == '\\' {
						end++
					}
					end++
				}
				if end >= len(b) {
					return list
				}
				for end > off && isSpace(b[end-1]) {
					end--
				}
			}
			if end > off {
				list = append(list, Ref{off, end, importing})
			}
			importing, i = false, end
		case c == ';' || c == '{':
			importing = false
			i++
		default:
			i++
		}
	}
	return list
}

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

func isName(c byte) bool {
	return c == '-' || c == '_' || c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' || c >= 0x80
}

func stringEnd(b []byte, i int) int {
	for j := i + 1; j < len(b); j++ {
		switch b[j] {
		case '\\':
			j++
		case b[i]:
			return j + 1
		case '\n':
			return -1
		}
	}
	return -1
}

// Coding is that of a name in a style sheet. InXML also escapes what XML or
// the quotes of an attribute would read otherwise.
type Coding struct{ InXML bool }

// Decode undoes quotes and escapes (§4.3.7).
func (Coding) Decode(raw []byte) (string, error) {
	if n := len(raw); n >= 2 && (raw[0] == '"' || raw[0] == '\'') {
		if raw[n-1] != raw[0] {
			return "", fmt.Errorf("no string")
		}
		raw = raw[1 : n-1]
	}
	if bytes.IndexByte(raw, '\\') < 0 {
		return string(raw), nil
	}
	var out strings.Builder
	for i := 0; i < len(raw); i++ {
		if raw[i] != '\\' {
			out.WriteByte(raw[i])
			continue
		}
		if i++; i >= len(raw) {
			break
		}
		k := i
		for k < len(raw) && k < i+6 && isHex(raw[k]) {
			k++
		}
		switch {
		case k > i:
			v, _ := strconv.ParseUint(string(raw[i:k]), 16, 32)
			if v == 0 || v > utf8.MaxRune || v >= 0xD800 && v < 0xE000 {
				v = utf8.RuneError
			}
			out.WriteRune(rune(v))
			if k < len(raw) && isSpace(raw[k]) {
				k++
			}
			i = k - 1
		case raw[i] == '\n':
		default:
			out.WriteByte(raw[i])
		}
	}
	return out.String(), nil
}

func isHex(c byte) bool { return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'f' }

// Encode escapes by code point whatever could be read otherwise. An unquoted
// url stays unquoted.
func (c Coding) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if s == "" || !utf8.ValidString(s) || strings.ContainsRune(s, utf8.RuneError) {
		return nil, problem.No(problem.Awkward)
	}
	quote := ""
	special := "\\()\"' "
	if len(old) > 0 && (old[0] == '"' || old[0] == '\'') {
		quote = string(old[:1])
		special = "\\" + quote
	}
	if c.InXML {
		special += "&<>\"'"
	}
	var out strings.Builder
	out.WriteString(quote)
	for _, r := range s {
		if r < 0x20 || r == 0x7F || !fits(r) || strings.ContainsRune(special, r) || r > 0x7F && r < 0xA0 {
			fmt.Fprintf(&out, "\\%06x", r)
		} else {
			out.WriteRune(r)
		}
	}
	out.WriteString(quote)
	return []byte(out.String()), nil
}
