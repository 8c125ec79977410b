package format

import (
	"bytes"
	"encoding/base64"
	"io"
	"net/url"
	"strings"

	"boundcrate/core/mention"
)

// Embed makes m a mention of the bytes its own data: URI holds (RFC 2397), and
// tells whether uri is one. What stands after the comma is not copied.
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
	if strings.HasSuffix(strings.ToLower(shown), ";base64,") {
		m.Size = int64(len(bytes.TrimRight(body, "=")) * 3 / 4)
		m.Data = func() io.ReadCloser {
			return io.NopCloser(base64.NewDecoder(base64.RawStdEncoding, bytes.NewReader(bytes.TrimRight(body, "="))))
		}
		return true
	}
	m.Size = int64(len(body) - 2*bytes.Count(body, []byte{'%'}))
	m.Data = func() io.ReadCloser {
		s, err := url.PathUnescape(string(body))
		if err != nil {
			s = string(body)
		}
		return io.NopCloser(strings.NewReader(s))
	}
	return true
}

// Outside tells why a URI reference cannot stand where one that leads into
// another file is meant: it would name a part of the document itself, or data.
// It is a mention.Only's Not.
func Outside(uri string) string {
	switch {
	case uri == "" || uri[0] == '#':
		return "it would name a part of the document itself"
	case Embed(&mention.Mention{}, []byte(uri)):
		return "it would be read as data"
	}
	return ""
}
