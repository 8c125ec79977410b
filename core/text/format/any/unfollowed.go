package any

import (
	"bytes"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// unfollowed tells of names that lead to files and were not taken for names, by whatever
// rule: an extension that nobody listed, none at all behind a folder. A guess that left
// them unread is no reading of the whole document, and must not pass for one.
func (r *reader) unfollowed() {
	if r.t.Exists == nil {
		return
	}
	read := map[string]bool{"": true, r.t.Name: true}
	var spans []mention.Span
	for i := range r.doc.Mentions {
		m := &r.doc.Mentions[i]
		for _, p := range m.Pieces {
			spans = append(spans, p.Span)
		}
		name := r.doc.Name(i)
		read[name] = true
		if len(m.Pieces) == 0 { // nobody knows where exactly it stands
			for _, word := range strings.FieldsFunc(name, func(c rune) bool { return parting(byte(min(c, 0xFF))) }) {
				read[word] = true
			}
		}
	}
	slices.SortFunc(spans, func(a, b mention.Span) int { return int(a.Off - b.Off) })
	var found []string
	b, asked, next := r.t.Bytes, 0, 0
	for at := 0; at < len(b); {
		k := bytes.IndexAny(b[at:], "./")
		if k < 0 {
			break
		}
		k += at
		from, to := k, k+1
		for from > at && !parting(b[from-1]) {
			from--
		}
		for to < len(b) && !parting(b[to]) {
			to++
		}
		at = to
		for next < len(spans) && spans[next].End <= int64(from) {
			next++
		}
		if to-from > longest || next < len(spans) && spans[next].Off < int64(to) {
			continue
		}
		name, ok := pathLike(string(b[from:to]))
		if !ok || read[name] {
			continue
		}
		if asked == maxAsked {
			r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: problem.Unasked, Args: []string{strconv.Itoa(asked)}})
			break
		}
		read[name] = true
		if asked++; r.t.Exists(name) {
			found = append(found, name)
		}
	}
	if len(found) > 0 {
		r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: problem.Unfollowed, Args: []string{strconv.Itoa(len(found)), found[0]}})
	}
}

// parting tells bytes that no name holds where nothing quotes it.
func parting(c byte) bool { return c < 0x20 || c == 0x7F || strings.IndexByte(ends, c) >= 0 }

// pathLike tells words that can be the path of a file: with a folder, or with an extension.
func pathLike(s string) (string, bool) {
	s = strings.TrimRight(s, ".:!?\\")
	if cut := strings.IndexAny(s, "?#"); cut > 0 {
		s = s[:cut]
	}
	if strings.Contains(s, "://") && !strings.HasPrefix(s, "file://") {
		return "", false
	}
	if plain, err := url.PathUnescape(s); err == nil {
		s = plain
	}
	s = strings.TrimPrefix(s, "file://")
	dot := strings.LastIndexByte(s, '.')
	ext := strings.ContainsFunc(s[dot+1:], func(c rune) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' })
	return s, len(s) > 2 && utf8.ValidString(s) && !strings.HasSuffix(s, "/") && (dot > 0 && ext || strings.Contains(strings.TrimLeft(s, "./"), "/"))
}
