// Package ableness says what a folder can do, and what it means where it cannot.
package ableness

import (
	"boundcrate/core/disk/ability"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

// abilities say what a folder can do, and what it means that it cannot.
var abilities = map[ability.What][2]string{
	ability.Writes:   {"can be written to", "cannot be written to"},
	ability.Room:     {"has room", "has too little room"},
	ability.HardLink: {"has hard links", "has no hard links: two writers could take one name at the same moment, and backups cannot share storage"},
	ability.Link:     {"has symbolic links", "has no symbolic links"},
	ability.Clone:    {"has clones: copies on it take neither time nor room", "has no clones: copies on it take time and room"},
	ability.Lock:     {"has locks", "has no locks: two programs could write one document at the same moment"},
	ability.Case:     {"tells letter case apart", "does not tell letter case apart: “A” and “a” are one file"},
	ability.Sync:     {"makes names safe at once", "does not say when names are safe: after a power cut the last ones may be gone"},
	ability.Watch:    {"tells of changes", "tells of no changes: Bound Crate looks again every few seconds"},
}

// Says says what came of trying something.
func Says(t ability.Tried) string {
	says := abilities[t.What]
	text := says[0]
	if !t.Can {
		text = says[1]
	}
	if t.What == ability.Room && t.Err == nil {
		text += ", " + phrase.Size(t.Free) + " free"
	}
	if !t.Can && t.Needed && t.Err != nil {
		text += ": " + words.Reason(t.Err)
	}
	return text
}
