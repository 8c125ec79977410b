// Package phrase builds the small parts of sentences: counts with their words,
// sizes, capitals and full stops.
package phrase

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Plural is a count with its word.
func Plural(n int, word string) string {
	switch {
	case n == 1:
		return "1 " + word
	case word == "search by hand":
		word = "searches by hand"
	case strings.HasSuffix(word, "y") && !strings.HasSuffix(word, "ay") && !strings.HasSuffix(word, "ey"):
		word = strings.TrimSuffix(word, "y") + "ies"
	case strings.HasSuffix(word, "s"), strings.HasSuffix(word, "ch"), strings.HasSuffix(word, "sh"):
		word += "es"
	default:
		word += "s"
	}
	return Count(n) + " " + word
}

// Count writes a number with its thousands parted, as readers of long ones need it.
func Count(n int) string { return message.NewPrinter(language.English).Sprint(n) }

// Size uses decimal units, as carriers and drive makers count.
func Size(n int64) string {
	v, unit := float64(n), ""
	for _, u := range []string{"kB", "MB", "GB", "TB"} {
		if v < 1000 {
			break
		}
		v, unit = v/1000, u
	}
	if unit == "" {
		return Plural(int(n), "byte")
	}
	return fmt.Sprintf("%.1f %s", v, unit)
}

// Sentence gives a phrase its capital and its full stop.
func Sentence(phrase string) string {
	r, n := utf8.DecodeRuneInString(phrase)
	if n == 0 {
		return ""
	}
	s := string(unicode.ToUpper(r)) + phrase[n:]
	if !strings.HasSuffix(s, ".") && !strings.HasSuffix(s, "?") {
		s += "."
	}
	return s
}
