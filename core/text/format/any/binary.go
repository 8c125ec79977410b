package any

import (
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"boundcrate/core/text/format/binscan"
	"boundcrate/core/text/mention"
)

// counted tells whether the run of text at [from,to) begins with a name whose
// length stands before it, in one byte or in two or four of either order; the
// byte that ends the number may itself look like text.
func counted(b []byte, from, to int) (skip, n int) {
	for skip := range 2 {
		at := from + skip
		for _, n := range binscan.Lengths(b, at) {
			if n >= 5 && n <= min(longest, to-at) && utf8.Valid(b[at:at+n]) && shaped(string(b[at:at+n])) {
				return skip, n
			}
		}
	}
	return 0, 0
}

// binary reads runs of text in UTF-8, in windows-1252 and in UTF-16LE. It can
// only be read.
func (r *reader) binary() {
	b := r.t.Bytes
	take := func(s string, at int, sure, whole bool) bool {
		s = strings.TrimSpace(s)
		if from := within.FindStringIndex(s); from != nil && from[0] > 0 && !sure && !absolute.MatchString(s) {
			s, at = s[from[0]:], at+from[0]
		}
		if !likely(s, r.disk) && !(sure && shaped(s)) {
			return false
		}
		r.doc.Add(mention.Mention{
			Merge: func([]string) string { return s }, Spelling: mention.Path, Nature: nature(s, whole), Owner: mention.Numbered("byte ", at),
		})
		return true
	}
	for i := 0; i < len(b); {
		if !binscan.Printable(b[i]) {
			i++
			continue
		}
		from := i
		if i+1 < len(b) && b[i+1] == 0 {
			if units, to := binscan.Wide(b, i); len(units) > 1 {
				i = to
				take(string(utf16.Decode(units)), from, false, binscan.Ended(b, i, 2) || binscan.LengthBefore(b, from, len(units)) || binscan.LengthBefore(b, from, 2*len(units)))
				continue
			}
		}
		run, to, letters := binscan.Narrow(b, i)
		i = max(to, from+1)
		if len(run) < 5 || len(run) > 4*longest {
			continue
		}
		at := 0
		if !letters {
			if skip, n := counted(b, from, to); n > 0 {
				take(run[skip:skip+n], from+skip, true, true)
				at = skip + n
			}
		}
		if at == 0 && take(run, from, false, binscan.Ended(b, to, 1) || binscan.LengthBefore(b, from, to-from)) {
			at = len(run)
		}
		for p, name := range places([]byte(run[at:]), r.disk) { // several names in one run
			take(name, from+at+p.from, false, false)
		}
	}
}
