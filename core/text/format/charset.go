package format

import (
	"bytes"
	"encoding/binary"
	"regexp"
	"slices"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/ianaindex"

	"boundcrate/core/text/problem"
)

// charset is a text encoding other than UTF-8. decode never fails; a text that
// would not come back byte by byte is not read in it.
type charset struct {
	name  string
	order binary.ByteOrder  // of UTF-16
	table encoding.Encoding // of all others
}

var (
	utf16LE = &charset{name: "UTF-16LE", order: binary.LittleEndian}
	utf16BE = &charset{name: "UTF-16BE", order: binary.BigEndian}
	latin1  = &charset{name: "ISO-8859-1", table: charmap.ISO8859_1}
	windows = &charset{name: "windows-1252", table: charmap.Windows1252}
)

func (c *charset) decode(b []byte) []byte {
	if c.order == nil {
		out, _ := c.table.NewDecoder().Bytes(b)
		return out
	}
	units := make([]uint16, len(b)/2)
	for i := range units {
		units[i] = c.order.Uint16(b[2*i:])
	}
	return []byte(string(utf16.Decode(units)))
}

func (c *charset) encode(b []byte) ([]byte, error) {
	if c.order == nil {
		out, err := c.table.NewEncoder().Bytes(b)
		if err != nil {
			return nil, problem.No(problem.LacksIn)
		}
		return out, nil
	}
	units := utf16.Encode([]rune(string(b)))
	out := make([]byte, 2*len(units))
	for i, u := range units {
		c.order.PutUint16(out[2*i:], u)
	}
	return out, nil
}

func (c *charset) fits(r rune) bool {
	if c.order != nil {
		return utf8.ValidRune(r)
	}
	out, err := c.table.NewEncoder().String(string(r))
	return err == nil && out != ""
}

// clean tells bytes that really are text in the encoding, not data that only
// begins like it.
func (c *charset) clean(head []byte) bool {
	if len(head) >= HeadSize {
		head = head[:HeadSize] // its last character may be cut in two
	} else if len(head)%2 == 1 {
		return false
	}
	text := c.decode(head)
	return bytes.IndexByte(text, 0) < 0 && bytes.Count(text, []byte("\uFFFD")) <= 1
}

var xmlDeclared = regexp.MustCompile(`^\s*<\?xml[^>]*encoding\s*=\s*["']([A-Za-z0-9._:-]+)["']`)

// declared is the encoding a text's beginning tells by a byte order mark, by
// NUL bytes where UTF-16 has them, or in an XML declaration. Nil is UTF-8.
func declared(head []byte) *charset {
	switch {
	case bytes.HasPrefix(head, []byte{0xFF, 0xFE}):
		return utf16LE
	case bytes.HasPrefix(head, []byte{0xFE, 0xFF}):
		return utf16BE
	case len(head) >= 4 && head[0] != 0 && head[1] == 0 && head[2] != 0 && head[3] == 0 && utf16LE.clean(head):
		return utf16LE
	case len(head) >= 4 && head[0] == 0 && head[1] != 0 && head[2] == 0 && head[3] != 0 && utf16BE.clean(head):
		return utf16BE
	}
	m := xmlDeclared.FindSubmatch(head[:min(len(head), 256)])
	if m == nil {
		return nil
	}
	name := strings.ToUpper(string(m[1]))
	if name == "UTF-8" || name == "UTF8" || strings.HasPrefix(name, "UTF-16") {
		return nil // what it is in fact was seen above
	}
	table, err := ianaindex.MIME.Encoding(name)
	if err != nil || table == nil {
		return nil
	}
	return &charset{name: name, table: table}
}

// mislabelled tells of a text whose XML declaration says another encoding than
// the one it is in.
func mislabelled(text []byte, c *charset) []problem.Problem {
	m := xmlDeclared.FindSubmatch(bytes.TrimPrefix(text[:min(len(text), 256)], []byte("\uFEFF")))
	if m == nil {
		return nil
	}
	name, is := strings.ToUpper(string(m[1])), "UTF-8"
	if c != nil {
		is = c.name
	}
	kind := problem.Encoding
	switch {
	case name == "UTF8", name == is, strings.HasPrefix(name, "UTF-16") && c != nil && c.order != nil:
		return nil
	case !strings.HasPrefix(name, "UTF-"):
		if table, err := ianaindex.MIME.Encoding(name); err != nil || table == nil {
			kind = problem.UnknownEncoding
		}
	}
	return []problem.Problem{{Kind: kind, Line: 1, Args: []string{string(m[1]), is}}}
}

// decode returns a text in UTF-8 and what it was in: what it declares, else
// UTF-8, else Latin-1, or its common superset where bytes stand that Latin-1
// has no characters for. sure is false where none of them is what it is: it can
// be read, but a change could make the rest read as something else.
func decode(raw []byte) (text []byte, c *charset, sure bool) {
	same := func(c *charset) bool {
		text = c.decode(raw)
		back, err := c.encode(text)
		return err == nil && bytes.Equal(back, raw)
	}
	if c = declared(raw); c != nil && same(c) {
		return text, c, true
	}
	if bytes.IndexByte(raw[:min(len(raw), 1<<16)], 0) >= 0 {
		return raw, nil, false // no text at all
	}
	if utf8.Valid(raw) {
		return raw, nil, true
	}
	// One that is marked as UTF-16 and is not could be, once it is changed.
	sure = c == nil || c.order == nil
	c = latin1
	if slices.ContainsFunc(raw, func(b byte) bool { return b >= 0x80 && b < 0xA0 }) {
		c = windows
	}
	if same(c) {
		return text, c, sure
	}
	return raw, nil, false
}
