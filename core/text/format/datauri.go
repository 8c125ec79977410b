package format

import (
	"bytes"
	"encoding/base64"
	"encoding/hex"
	"io"
	"net/url"
	"strconv"
	"strings"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Embed makes m a mention of the bytes its own data: URI holds (RFC 2397), and
// tells whether uri is one. What stands after the comma is not copied. A name can
// stand in the place of the mention's piece instead.
func Embed(m *mention.Mention, uri []byte) bool {
	if len(uri) < 5 || !bytes.EqualFold(uri[:5], []byte("data:")) {
		return false
	}
	comma := bytes.IndexByte(uri, ',')
	if comma < 0 {
		return false
	}
	shown, body := string(uri[:comma+1]), uri[comma+1:]
	m.Shown = &shown
	kind, _, _ := strings.Cut(strings.TrimSuffix(shown[len("data:"):], ","), ";")
	if strings.HasSuffix(strings.ToLower(shown), ";base64,") {
		base64Data(m, body)
		m.Data.Type = kind
		return true
	}
	m.Data = &mention.Data{Type: kind, Size: int64(len(body) - 2*bytes.Count(body, []byte{'%'})), Open: func() io.ReadCloser {
		s, err := url.PathUnescape(string(body))
		if err != nil {
			s = string(body)
		}
		return io.NopCloser(strings.NewReader(s))
	}}
	return true
}

// Base64 makes m a mention of bytes that a text holds in base64 (RFC 4648); white
// space between them is none.
func Base64(m *mention.Mention, body []byte) {
	shown := ""
	m.Shown = &shown
	base64Data(m, body)
}

func base64Data(m *mention.Mention, body []byte) {
	digits := 0
	for i := 0; i < len(body); i++ {
		if _, n := digit(body[i:]); n >= 0 {
			digits, i = digits+1, i+n
		}
	}
	m.Data = &mention.Data{Size: int64(digits * 3 / 4), Open: func() io.ReadCloser {
		return io.NopCloser(base64.NewDecoder(base64.RawStdEncoding, &digitReader{body}))
	}}
}

// digit is the base64 digit that text begins with, and how many more bytes it
// takes; n is −1 where none stands. White space, padding and what a carrier's
// escapes add (a backslash before a slash) are none; a percent-escape may be one.
func digit(b []byte) (c byte, n int) {
	switch c = b[0]; {
	case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c >= '0' && c <= '9', c == '+', c == '/':
		return c, 0
	case c == '-':
		return '+', 0
	case c == '_':
		return '/', 0
	case c == '%' && len(b) >= 3:
		if v, err := strconv.ParseUint(string(b[1:3]), 16, 8); err == nil {
			if d, _ := digit([]byte{byte(v)}); d != 0 {
				return d, 2
			}
		}
	}
	return 0, -1
}

// digitReader reads the base64 digits of a text and nothing else.
type digitReader struct{ b []byte }

func (r *digitReader) Read(p []byte) (int, error) {
	k := 0
	for k < len(p) && len(r.b) > 0 {
		c, n := digit(r.b)
		if n >= 0 {
			p[k] = c
			k++
		}
		r.b = r.b[1+max(0, n):]
	}
	if k == 0 && len(p) > 0 {
		return 0, io.EOF
	}
	return k, nil
}

// Hex makes m a mention of bytes that a text holds as hexadecimal digits; white
// space between them is none.
func Hex(m *mention.Mention, body []byte) {
	shown := ""
	m.Shown = &shown
	digits := 0
	for _, c := range body {
		if isHex(c) {
			digits++
		}
	}
	m.Data = &mention.Data{Size: int64(digits / 2), Open: func() io.ReadCloser {
		only := make([]byte, 0, digits)
		for _, c := range body {
			if isHex(c) {
				only = append(only, c)
			}
		}
		return io.NopCloser(hex.NewDecoder(bytes.NewReader(only[:len(only)&^1])))
	}}
}

func isHex(c byte) bool { return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'f' }

// Outside tells why a URI reference cannot stand where one that leads into
// another file is meant: it would name a part of the document itself, or data.
// It is a mention.Only's Not.
func Outside(uri string) error {
	switch {
	case uri == "" || uri[0] == '#':
		return problem.No(problem.AsFragment)
	case Embed(&mention.Mention{}, []byte(uri)):
		return problem.No(problem.AsData)
	}
	return nil
}
