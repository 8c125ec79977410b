package any

import (
	"encoding/binary"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"boundcrate/core/mention"
)

// widens tells that text of two bytes a letter begins: three of them, as one
// byte that ends a name may be followed by a small number.
func widens(b []byte) bool {
	return len(b) > 5 && b[1] == 0 && b[2] >= 0x20 && b[3] == 0 && b[4] >= 0x20 && b[5] == 0
}

// lengths are the numbers that may stand before a place, 0 where there is none.
func lengths(b []byte, at int) (list [5]int) {
	if at >= 1 {
		list[0] = int(b[at-1])
	}
	if at >= 2 {
		list[1], list[2] = int(binary.LittleEndian.Uint16(b[at-2:])), int(binary.BigEndian.Uint16(b[at-2:]))
	}
	if at >= 4 {
		list[3], list[4] = int(binary.LittleEndian.Uint32(b[at-4:])), int(binary.BigEndian.Uint32(b[at-4:]))
	}
	return list
}

// counted tells whether the run of text at [from,to) begins with a name whose
// length stands before it, in one byte or in two or four of either order; the
// byte that ends the number may itself look like text.
func counted(b []byte, from, to int) (skip, n int) {
	for skip := range 2 {
		at := from + skip
		for _, n := range lengths(b, at) {
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
		if !printable(b[i]) {
			i++
			continue
		}
		from := i
		if i+1 < len(b) && b[i+1] == 0 {
			if units, to := wide(b, i); len(units) > 1 {
				i = to
				take(string(utf16.Decode(units)), from, false, ended(b, i, 2) || lengthBefore(b, from, len(units)) || lengthBefore(b, from, 2*len(units)))
				continue
			}
		}
		run, to, letters := narrow(b, i)
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
		if at == 0 && take(run, from, false, ended(b, to, 1) || lengthBefore(b, from, to-from)) {
			at = len(run)
		}
		for p, name := range places([]byte(run[at:]), r.disk) { // several names in one run
			take(name, from+at+p.from, false, false)
		}
	}
}

func printable(c byte) bool { return c >= 0x20 && c != 0x7F }

// wide reads text of two bytes a letter from a place.
func wide(b []byte, i int) (units []uint16, to int) {
	for i+1 < len(b) && (b[i+1] == 0 && printable(b[i]) || b[i+1] != 0 && b[i+1] < 0xE0 && len(units) > 0 && b[i] != 0 && !printable(b[i+1])) {
		units = append(units, uint16(b[i])|uint16(b[i+1])<<8)
		i += 2
	}
	return units, i
}

// narrow reads text of one byte a letter, or UTF-8, from a place. letters tells
// that some of it could only be read in windows-1252.
func narrow(b []byte, from int) (run string, to int, letters bool) {
	i := from
	for i < len(b) && printable(b[i]) && !(i > from && widens(b[i:])) {
		_, n := utf8.DecodeRune(b[i:])
		if n == 1 && b[i] >= 0x80 {
			// A letter with an accent between two others, as programs of one byte a
			// letter write it: no text else.
			if b[i] < 0xC0 || i == from || i+1 == len(b) || !letter(b[i-1]) || !letter(b[i+1]) {
				break
			}
			letters = true
		}
		i += n
	}
	if letters {
		text, _ := charmap.Windows1252.NewDecoder().Bytes(b[from:i])
		return string(text), i, true
	}
	return string(b[from:i]), i, false
}

func letter(c byte) bool {
	return c|0x20 >= 'a' && c|0x20 <= 'z' || c >= 0xC0 || strings.IndexByte(" _-./\\", c) >= 0
}

// ended tells that a string ends at a place: at the end, or with a NUL of so
// many bytes.
func ended(b []byte, at, size int) bool {
	for k := at; k < min(at+size, len(b)); k++ {
		if b[k] != 0 {
			return false
		}
	}
	return true
}

// lengthBefore tells that the number n stands right before a place, in one, two
// or four bytes of either order.
func lengthBefore(b []byte, at, n int) bool {
	for _, l := range lengths(b, at) {
		if l == n {
			return true
		}
	}
	return false
}
