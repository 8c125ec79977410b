// Package names compares the names of files as people mean them: one name in
// two letter cases, Unicode forms or spellings of its spaces is one name.
package names

import (
	"path/filepath"
	"strings"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

var folder = cases.Fold()

// Fold is the key under which names that differ only in letter case, Unicode
// form (UAX #15, NFC) or percent-encoding are one: letter for letter. That ß may be
// written ss, and a ligature as two letters, makes names alike, not one.
func Fold(name string) string {
	if lower, plain := plainFold(name); plain {
		return lower
	}
	return norm.NFC.String(strings.Map(lowest, norm.NFC.String(Unescape(name))))
}

// lowest is the first of the letters that are one in another case (Unicode 15, simple case
// folding).
func lowest(r rune) rune {
	least := r
	for x := unicode.SimpleFold(r); x != r; x = unicode.SimpleFold(x) {
		least = min(least, x)
	}
	return unicode.ToLower(least)
}

// Clash is the key under which names may be one on some system: as Fold, and by full case
// folding (ß is ss). Of names that shall lie side by side each has one of its own.
func Clash(name string) string {
	if lower, plain := plainFold(name); plain {
		return lower
	}
	return norm.NFC.String(folder.String(norm.NFC.String(Unescape(name))))
}

// plainFold folds names of ASCII without escapes, as nearly all are.
func plainFold(name string) (string, bool) {
	upper := false
	for i := 0; i < len(name); i++ {
		switch c := name[i]; {
		case c >= 0x80 || c == '%':
			return "", false
		case c >= 'A' && c <= 'Z':
			upper = true
		}
	}
	if !upper {
		return name, true
	}
	return strings.ToLower(name), true
}

// Unescape undoes percent-escapes (RFC 3986 §2.1). An escaped slash stays as it
// is, because it separates nothing; so does anything that is no escape, and an
// escaped NUL.
func Unescape(s string) string {
	if !strings.Contains(s, "%") {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] == '%' && i+2 < len(s) {
			hi, lo := hexValue(s[i+1]), hexValue(s[i+2])
			if c := hi<<4 | lo; hi >= 0 && lo >= 0 && c != '/' && c != 0 {
				b.WriteByte(byte(c))
				i += 2
				continue
			}
		}
		b.WriteByte(s[i])
	}
	return b.String()
}

func hexValue(c byte) int {
	switch {
	case c >= '0' && c <= '9':
		return int(c - '0')
	case c|0x20 >= 'a' && c|0x20 <= 'f':
		return int(c|0x20-'a') + 10
	}
	return -1
}

// Split parts a name into its stem and its extension with the dot.
func Split(name string) (stem, ext string) {
	ext = filepath.Ext(name)
	return name[:len(name)-len(ext)], ext
}

// Loose is a stem without what people and systems change in passing: letter
// case, Unicode form, and how words are parted.
func Loose(stem string) string {
	stem = Fold(stem)
	clean := true
	for i := 0; i < len(stem); i++ {
		switch c := stem[i]; {
		case c == '_' || c == '-' || c == '.' || c == '\t' || c >= 0x80:
			clean = false
		case c == ' ' && (i == 0 || i == len(stem)-1 || stem[i-1] == ' '):
			clean = false
		}
	}
	if clean {
		return stem
	}
	return strings.Join(strings.FieldsFunc(stem, func(r rune) bool {
		return r == '_' || r == '-' || r == '.' || r == ' ' || r == '\t' || r == '\u00a0' || r == '\u3000'
	}), " ")
}

// Same is the key under which names are one on many systems: letter case and
// Unicode form. Percent-escapes are part of a name there.
func Same(name string) string {
	if ascii(name) {
		return strings.ToLower(name)
	}
	return norm.NFC.String(folder.String(norm.NFC.String(name)))
}

func ascii(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}
