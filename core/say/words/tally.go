package words

import (
	"strings"

	"boundcrate/core/road/tally"
	"boundcrate/core/say/words/phrase"
)

// Tally says the figures of a trace in one line, those that need somebody first.
func Tally(t tally.Tally) string {
	parts := append(open(t), phrase.Plural(t.Files, "file")+" found, "+phrase.Size(t.Bytes))
	return phrase.Plural(t.References, "reference") + " in " + phrase.Plural(t.Documents, "document") + ": " + strings.Join(parts, "; ") + "."
}

// NeedsPerson says why a trace needs somebody, as a program's exit status 1 tells; "" where
// it does not.
func NeedsPerson(t tally.Tally) string {
	if !t.NeedsPerson() {
		return ""
	}
	return "Needs attention: " + strings.Join(open(t), "; ") + "."
}

func open(t tally.Tally) (parts []string) {
	add := func(n int, one, rest string) {
		if n > 0 {
			parts = append(parts, phrase.Plural(n, one)+rest)
		}
	}
	add(t.WritesOut, "write point", " outside the project")
	add(t.Missing, "file", " missing")
	add(t.Gaps, "frame", " missing from "+phrase.Plural(t.Gapped, "sequence"))
	add(t.Lacking, "part", " missing from packages")
	add(t.Twins, "name", " matches more than one file")
	add(t.Unreadable, "file", " cannot be read")
	add(t.Suspect, "file", " may be damaged or the wrong one")
	add(t.Unplugged, "file", " on drives that are not connected")
	add(t.Unsaved, "place", " reserved for a file that was never saved")
	add(t.Unused, "file", " missing but unused")
	add(t.Rebuild, "file", " missing but can be rebuilt")
	add(t.Unrecognised, "document", " not recognised")
	add(t.Problems, "problem", "")
	add(t.Unread, "folder", " could not be searched")
	add(t.Guessed, "reference", " guessed")
	return parts
}
