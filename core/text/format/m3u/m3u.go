// Package m3u reads playlists of one name a line: plain .m3u (common practice)
// and HTTP Live Streaming (RFC 8216).
package m3u

import (
	"bytes"
	"fmt"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "m3u".
func (Format) Name() string { return "m3u" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "M3U playlist", Extensions: []string{"m3u", "m3u8"}, Knows: "one file or address a line; keys, maps and renditions of streaming playlists"}
}

// Claims looks for #EXTM3U, which RFC 8216 §4.3.1.1 puts first.
func (Format) Claims(name string, head []byte) int {
	if bytes.HasPrefix(bytes.TrimPrefix(head, []byte("\xEF\xBB\xBF")), []byte("#EXTM3U")) {
		return 95
	}
	if e := format.Ext(name); e == "m3u" || e == "m3u8" {
		return 40
	}
	return 0
}

// named are the tags whose URI attribute names a file (RFC 8216 §4.3).
var named = [][]byte{[]byte("#EXT-X-MEDIA:"), []byte("#EXT-X-MAP:"), []byte("#EXT-X-KEY:"), []byte("#EXT-X-I-FRAME-STREAM-INF:"), []byte("#EXT-X-SESSION-KEY:"), []byte("#EXT-X-SESSION-DATA:"), []byte("#EXT-X-PART:"), hint, report}

// Of parts that come later, and of other lists, a player only hears (draft-pantos-hls-rfc8216bis
// §4.4.5.3, §4.4.5.4, from memory).
var hint, report = []byte("#EXT-X-PRELOAD-HINT:"), []byte("#EXT-X-RENDITION-REPORT:")

// Read reads all lines. Streaming playlists hold URIs (RFC 8216 §4.1), others paths; one
// called .m3u8 that is none, and escapes characters, was written by whoever takes it for
// one.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	spelling := mention.Path
	if bytes.Contains(t.Bytes, []byte("#EXT-X-")) || format.Ext(t.Name) == "m3u8" && names.Unescape(string(t.Bytes)) != string(t.Bytes) {
		spelling = mention.URI
	}
	add := func(span mention.Span, coding mention.Coding, owner string) {
		d.Add(mention.Mention{Pieces: d.One(span, coding), Spelling: spelling, Owner: owner})
	}
	n := 0
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		n++
		trimmed := bytes.TrimSpace(line)
		switch {
		case len(trimmed) == 0:
		case trimmed[0] != '#':
			add(linescan.Within(off, line, trimmed), linescan.Plain{Not: "#", Spaces: true}, mention.Numbered("line ", n))
		default:
			known := false
			for _, tag := range named {
				if bytes.HasPrefix(trimmed, tag) {
					known = true
					if v := attribute(trimmed[len(tag):], "URI"); v != nil {
						owner := fmt.Sprintf("line %d, %s", n, tag[1:len(tag)-1])
						m := mention.Mention{Spelling: spelling, Owner: owner}
						if format.Embed(&m, bytes.Trim(v, `"`)) { // a key may stand right there (RFC 2397)
							d.Add(m)
							continue
						}
						add(linescan.Within(off, line, v), linescan.Quoted{}, owner)
						if last := len(d.Mentions) - 1; bytes.Equal(tag, hint) || bytes.Equal(tag, report) {
							d.Mentions[last].Use = mention.Listed
						}
					}
				}
			}
			if tag, list, ok := bytes.Cut(trimmed, []byte(":")); ok && !known && bytes.HasPrefix(tag, []byte("#EXT")) && attribute(list, "URI") != nil {
				d.Problems = append(d.Problems, problem.Problem{Kind: problem.UnreadTag, Line: n, Args: []string{string(tag[1:])}})
			}
		}
	})
	return d, nil
}

// attribute finds NAME="…" in an attribute list (RFC 8216 §4.2), quotes with it.
func attribute(list []byte, name string) []byte {
	for len(list) > 0 {
		eq := bytes.IndexByte(list, '=')
		if eq < 0 {
			return nil
		}
		key, v := bytes.TrimSpace(list[:eq]), list[eq+1:]
		end := bytes.IndexByte(v, ',')
		if len(v) > 0 && v[0] == '"' {
			q := bytes.IndexByte(v[1:], '"')
			if q < 0 {
				return nil
			}
			if string(key) == name {
				return v[:q+2]
			}
			end = bytes.IndexByte(v[q+2:], ',')
			if end >= 0 {
				end += q + 2
			}
		}
		if end < 0 {
			return nil
		}
		list = v[end+1:]
	}
	return nil
}
