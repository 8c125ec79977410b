package part21

import (
	"encoding/hex"
	"fmt"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// String is the coding of a Part 21 string, apostrophes included (§6.4.3):
// \S\ and \P?\ (ISO 8859 parts), \X\ (one byte), \X2\ and \X4\ (ISO 10646).
// UTF-8 above ASCII is read as it stands (edition 3) and written by \X2\.
var String mention.Coding = stringCoding{}

type stringCoding struct{}

func (stringCoding) Decode(raw []byte) (string, error) {
	n := len(raw)
	if n < 2 || raw[0] != '\'' || raw[n-1] != '\'' {
		return "", fmt.Errorf("no string")
	}
	s := strings.ReplaceAll(string(raw[1:n-1]), "''", "'")
	if !strings.Contains(s, `\`) {
		return s, nil
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		rest := s[i:]
		switch {
		case s[i] != '\\':
			b.WriteByte(s[i])
			i++
		case strings.HasPrefix(rest, `\\`):
			b.WriteByte('\\')
			i += 2
		case strings.HasPrefix(rest, `\S\`) && len(rest) > 3:
			b.WriteRune(rune(rest[3]) + 0x80) // ISO 8859-1, the default page
			i += 4
		case len(rest) >= 4 && rest[1] == 'P' && rest[3] == '\\':
			i += 4
		case strings.HasPrefix(rest, `\X\`) && len(rest) >= 5:
			v, err := hex.DecodeString(rest[3:5])
			if err != nil {
				b.WriteByte('\\')
				i++
				continue
			}
			b.WriteRune(rune(v[0]))
			i += 5
		case strings.HasPrefix(rest, `\X2\`), strings.HasPrefix(rest, `\X4\`):
			end := strings.Index(rest[4:], `\X0\`)
			if end < 0 {
				return "", fmt.Errorf("a string's %s is not closed", rest[:4])
			}
			v, err := hex.DecodeString(rest[4 : 4+end])
			if err != nil {
				return "", err
			}
			if rest[2] == '2' {
				var units []uint16
				for k := 0; k+1 < len(v); k += 2 {
					units = append(units, uint16(v[k])<<8|uint16(v[k+1]))
				}
				b.WriteString(string(utf16.Decode(units)))
			} else {
				for k := 0; k+3 < len(v); k += 4 {
					b.WriteRune(rune(v[k])<<24 | rune(v[k+1])<<16 | rune(v[k+2])<<8 | rune(v[k+3]))
				}
			}
			i += 4 + end + 4
		default:
			b.WriteByte('\\')
			i++
		}
	}
	return b.String(), nil
}

func (stringCoding) Encode(s string, _ []byte, _ func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) {
		return nil, problem.No(problem.NotUTF8)
	}
	var b strings.Builder
	b.WriteByte('\'')
	wide := false
	end := func() {
		if wide {
			b.WriteString(`\X0\`)
			wide = false
		}
	}
	for _, r := range s {
		switch {
		case r >= 0x20 && r < 0x7F:
			end()
			switch r {
			case '\'':
				b.WriteString("''")
			case '\\':
				b.WriteString(`\\`)
			default:
				b.WriteRune(r)
			}
		case r > 0xFFFF:
			end()
			fmt.Fprintf(&b, `\X4\%08X\X0\`, r)
		default:
			if !wide {
				b.WriteString(`\X2\`)
				wide = true
			}
			fmt.Fprintf(&b, "%04X", r)
		}
	}
	end()
	b.WriteByte('\'')
	return []byte(b.String()), nil
}
