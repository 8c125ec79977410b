package jsonscan

import (
	"bytes"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// String is the coding of a JSON string, quotes included (RFC 8259 §7). It
// keeps the old manner of writing: escaped slashes stay escaped slashes, and a
// text that escaped everything beyond ASCII goes on doing so. The value null
// decodes as the empty string and is replaced by a string.
var String mention.Coding = stringCoding{}

type stringCoding struct{}

var errString = errors.New("no JSON string")

func (stringCoding) Decode(raw []byte) (string, error) {
	if string(raw) == "null" {
		return "", nil
	}
	if len(raw) < 2 || raw[0] != '"' || raw[len(raw)-1] != '"' {
		return "", errString
	}
	raw = raw[1 : len(raw)-1]
	plain := true
	for _, c := range raw {
		if c == '\\' {
			plain = false
			break
		}
	}
	if plain {
		return string(raw), nil
	}
	out := make([]byte, 0, len(raw))
	for i := 0; i < len(raw); i++ {
		c := raw[i]
		if c != '\\' {
			out = append(out, c)
			continue
		}
		if i++; i >= len(raw) {
			return "", errString
		}
		switch raw[i] {
		case '"', '\\', '/':
			out = append(out, raw[i])
		case 'b':
			out = append(out, '\b')
		case 'f':
			out = append(out, '\f')
		case 'n':
			out = append(out, '\n')
		case 'r':
			out = append(out, '\r')
		case 't':
			out = append(out, '\t')
		case 'u':
			r, ok := hex4(raw[i+1:])
			if !ok {
				return "", errString
			}
			i += 4
			if utf16.IsSurrogate(r) && i+2 < len(raw) && raw[i+1] == '\\' && raw[i+2] == 'u' {
				if lo, ok := hex4(raw[i+3:]); ok {
					if pair := utf16.DecodeRune(r, lo); pair != utf8.RuneError {
						r, i = pair, i+6
					}
				}
			}
			out = utf8.AppendRune(out, r) // a lone surrogate becomes U+FFFD
		default:
			return "", errString
		}
	}
	return string(out), nil
}

// Value is what a JSON string says, without a copy of one that holds no escapes.
func Value(raw []byte) []byte {
	if bytes.IndexByte(raw, '\\') < 0 && len(raw) >= 2 {
		return raw[1 : len(raw)-1]
	}
	s, err := String.Decode(raw)
	if err != nil {
		return nil
	}
	return []byte(s)
}

func hex4(b []byte) (rune, bool) {
	if len(b) < 4 {
		return 0, false
	}
	v, err := strconv.ParseUint(string(b[:4]), 16, 32)
	return rune(v), err == nil
}

func (stringCoding) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if !utf8.ValidString(s) {
		return nil, problem.No(problem.NotUTF8)
	}
	o := string(old)
	slash := strings.Contains(o, `\/`) && !strings.Contains(strings.ReplaceAll(o, `\/`, ""), "/")
	ascii := strings.Contains(o, `\u`) && !strings.ContainsFunc(o, func(r rune) bool { return r >= 0x80 })
	out := append(make([]byte, 0, len(s)+2), '"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\' || r == '/' && slash:
			out = append(out, '\\', byte(r))
		case r == '\n':
			out = append(out, `\n`...)
		case r == '\r':
			out = append(out, `\r`...)
		case r == '\t':
			out = append(out, `\t`...)
		case r < 0x20:
			out = fmt.Appendf(out, `\u%04x`, r)
		case r < 0x80 || !ascii && fits(r):
			out = utf8.AppendRune(out, r)
		case r >= 0x10000:
			hi, lo := utf16.EncodeRune(r)
			out = fmt.Appendf(out, `\u%04x\u%04x`, hi, lo)
		default:
			out = fmt.Appendf(out, `\u%04x`, r)
		}
	}
	return append(out, '"'), nil
}

// Absent is the coding of a string member an object does not have; its span is
// the empty place right after the object's opening brace. The object must have
// at least one other member.
func Absent(key string) mention.Coding {
	if !validKey(key) {
		panic("jsonscan: key needs escapes: " + key)
	}
	return absent(key)
}

type absent string

func (k absent) Decode(raw []byte) (string, error) {
	if len(raw) == 0 {
		return "", nil
	}
	rest, ok := strings.CutPrefix(string(raw), `"`+string(k)+`": `)
	rest, ok2 := strings.CutSuffix(rest, `, `)
	if !ok || !ok2 {
		return "", errString
	}
	return String.Decode([]byte(rest))
}

func (k absent) Encode(s string, _ []byte, fits func(rune) bool) ([]byte, error) {
	v, err := String.Encode(s, nil, fits)
	if err != nil {
		return nil, err
	}
	return []byte(`"` + string(k) + `": ` + string(v) + `, `), nil
}
