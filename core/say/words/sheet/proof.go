package sheet

import (
	"strings"

	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/seal"
	"boundcrate/core/say/words/phrase"
)

// Verdict says what the proof of a crate found: whether it is complete, what that rests
// on, and the counts that stand beside it.
func Verdict(r *seal.Report) string {
	v := &r.Proof
	var s string
	switch {
	case r.Harm() > 0:
		s = "Damaged: " + phrase.Plural(r.Harm(), "check") + " failed."
	case len(r.Lacks) > 0:
		s = "Not proved: " + phrase.Plural(len(r.Lacks), "part") + " of the crate not found."
	case len(r.ToFetch) > 0:
		s = "Not proved: a difference crate, " + phrase.Plural(len(r.ToFetch), "file") + " of it not here. Give the crate it builds on."
	case !r.Complete && len(v.Open) > 0:
		s = "Not complete: " + phrase.Plural(len(v.Open), "reference") + " not as planned."
	case !r.Complete:
		s = "Not complete."
	case v.By == proof.Identity:
		s = "Complete: " + phrase.Count(v.Held) + " of " + phrase.Plural(v.Expected, "reference") + " lead to exactly the files sealed for them, with nothing else reachable."
	default:
		s = "Complete by its trace: every file its documents reference is inside. There is no record of what was sealed."
	}
	var beside []string
	add := func(n int, what string) {
		if n > 0 {
			beside = append(beside, phrase.Count(n)+" "+what)
		}
	}
	add(v.Left-v.Rebuild, "left out")
	add(v.Rebuild, "can be rebuilt")
	add(v.Guessed, "guessed")
	add(len(r.Suspect), "suspect")
	if len(beside) > 0 {
		s += " Also: " + strings.Join(beside, ", ") + "."
	}
	if len(r.Rules) > 0 {
		s += " Read with the crate's own rules files: " + strings.Join(r.Rules, ", ") + "."
	}
	return s
}

// Unshared says that unchanged files were copied again, and why; "" where none was.
func Unshared(r *seal.Report) string {
	if r.Unshared == 0 {
		return ""
	}
	return phrase.Plural(r.Unshared, "unchanged file") + " copied again: this drive cannot share files between two copies."
}
