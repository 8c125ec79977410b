package mend

import (
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/text/names"
)

// anotherSet tells from the whole paths of two folders that the second may hold another
// set of files under the same names, not the ones that the first held: the next day's,
// another client's, another language's, what was made of them. Only folders that differ
// are judged; those above and below that are called alike are no witnesses.
func anotherSet(from, to string) bool {
	was, is := differing(from, to)
	for _, x := range was {
		for _, y := range is {
			if counted(x, y) || related(x, y) {
				return true
			}
		}
	}
	for _, y := range is { // what was put between
		if marked(words(y)) && !slices.ContainsFunc(was, func(x string) bool { return sameWords(x, y) }) {
			return true
		}
	}
	for _, x := range was { // what fell out
		if meet(words(x), made) && !slices.ContainsFunc(is, func(y string) bool { return meet(words(x), words(y)) }) {
			return true
		}
	}
	return false
}

// differing are the folders of two paths that are left when what is called alike at their
// beginnings and at their ends is taken away.
func differing(from, to string) (was, is []string) {
	was, is = folders(from), folders(to)
	for len(was) > 0 && len(is) > 0 && was[0] == is[0] {
		was, is = was[1:], is[1:]
	}
	for len(was) > 0 && len(is) > 0 && names.Fold(was[len(was)-1]) == names.Fold(is[len(is)-1]) {
		was, is = was[:len(was)-1], is[:len(is)-1]
	}
	return was, is
}

func folders(p string) []string {
	return strings.FieldsFunc(filepath.ToSlash(p), func(r rune) bool { return r == '/' })
}

func sameWords(a, b string) bool { return slices.Equal(words(a), words(b)) }

// counted tells names that are alike but for a number, a date, or a letter that counts.
func counted(a, b string) bool {
	if otherNumber(a, b) {
		return true
	}
	x, y := words(a), words(b)
	if len(x) != len(y) || len(x) < 2 {
		return false
	}
	differ := 0
	for i := range x {
		if x[i] == y[i] {
			continue
		}
		if differ++; len(x[i]) != 1 || len(y[i]) != 1 {
			return false
		}
	}
	return differ == 1
}

// related tells names of which each says another language, season of work, or quality.
func related(a, b string) bool {
	x, y := words(a), words(b)
	for _, list := range [][]string{languages, made, months} {
		for _, v := range x {
			if slices.Contains(list, v) && !slices.Contains(y, v) && meet(y, list) {
				return true
			}
		}
	}
	return false
}

// marked tells words of folders that hold what was made of other files, a copy, or one
// language of several.
func marked(list []string) bool {
	return meet(list, made) || meet(list, putBy) || meet(list, languages)
}

// Languages as folders are called for them (ISO 639-1 codes and English names of some;
// common practice).
var languages = []string{
	"ar", "cs", "da", "de", "el", "en", "es", "fi", "fr", "he", "hi", "hu", "it", "ja", "ko", "nl", "no", "pl", "pt", "ro", "ru", "sv", "tr", "uk", "zh",
	"arabic", "chinese", "czech", "danish", "dutch", "english", "finnish", "french", "german", "greek", "hebrew", "hindi", "hungarian", "italian", "japanese", "korean", "norwegian", "polish", "portuguese", "romanian", "russian", "spanish", "swedish", "turkish", "ukrainian",
	"dub", "dubbed", "original", "subtitled",
}

var months = []string{
	"january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december",
	"jan", "feb", "mar", "apr", "jun", "jul", "aug", "sep", "oct", "nov", "dec",
	"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday", "morning", "evening", "night", "day", "spring", "summer", "autumn", "winter",
}
