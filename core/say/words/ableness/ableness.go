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
	ability.Room:     {"has free space", "has too little free space"},
	ability.HardLink: {"has hard links", "has no hard links: two programs could create the same file at once, and backups cannot share storage"},
	ability.Link:     {"has symbolic links", "has no symbolic links"},
	ability.Clone:    {"has clones: copies take no time or space", "has no clones: copies take time and space"},
	ability.Lock:     {"has locks", "has no locks: two programs could write one document at once"},
	ability.Case:     {"distinguishes letter case", "does not distinguish letter case:  “A” and “a” are one file"},
	ability.Sync:     {"confirms that names are safe", "does not confirm that names are safe: the last ones may be lost in a power cut"},
	ability.Watch:    {"reports changes", "does not report changes: Bound Crate checks every few seconds"},
}

// Sentence says what came of trying something.
func Sentence(t ability.Tried) string {
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
