package words

import (
	"fmt"
	"path/filepath"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words/phrase"
)

// Stays is why a file stays behind, in words.
func Stays(w sift.Why) string {
	switch w {
	case sift.IsDormant:
		return "switched off where it is used"
	case sift.IsListed:
		return "declared and never placed"
	case sift.IsRebuilt:
		return "can be made again"
	case sift.InLibrary:
		return "belongs to a library"
	case sift.InStore:
		return "belongs to a managed store"
	case sift.OfKind:
		return "its kind stays behind"
	case sift.Chosen:
		return "left out by choice"
	case sift.Freed:
		return "only needed by what stays"
	case sift.IsDocument:
		return "a document that stays behind"
	case sift.IsTwice:
		return "another file of the same content travels for it"
	}
	return string(w)
}

// GivesUp says what a crate leaves behind for good, with its figures.
func GivesUp(x sift.GivenUp) string {
	of := func(one string) string {
		if x.Files == 0 {
			return one + "s"
		}
		return fmt.Sprintf("%s, %s", phrase.Plural(x.Files, one), phrase.Size(x.Bytes))
	}
	switch x.What {
	case sift.DormantTakes:
		return "alternative takes and what was switched off: " + of("file")
	case sift.ListedFiles:
		return "material that was brought in and never placed: " + of("file")
	case sift.EarlierDocuments:
		return "earlier states of the documents: " + of("document")
	case sift.GivenCompanions:
		return "what belongs with documents and files, their data and notes: " + of("file")
	case sift.GivenDrawings:
		return "drawings of the parts: " + of("drawing")
	case sift.GivenRenders:
		return "what was rendered last: " + of("file")
	case sift.GivenStrays:
		return "unreferenced files in the project folder: " + of("file")
	case sift.UnusedParts:
		return "the way back to the unused parts of what is trimmed: " + of("file")
	case sift.Undoing:
		return "the undo history inside a document does not reach into the crate"
	}
	return string(x.What)
}

// Kept says that a document which travels still needs files that documents which stay
// name.
func Kept(document string, kind facts.Kind, files int) string {
	return "“" + document + "” keeps " + phrase.Plural(files, Kind(kind))
}

// Drawn says how many parts have drawings, and names those without.
func Drawn(d sift.Drawn) string {
	s := fmt.Sprintf("%s, %d with a drawing", phrase.Plural(d.Parts, "part"), d.With)
	if len(d.Without) == 0 {
		return s + "."
	}
	var list []string
	for _, p := range d.Without[:min(len(d.Without), 12)] {
		list = append(list, filepath.Base(p))
	}
	if n := len(d.Without) - len(list); n > 0 {
		list = append(list, phrase.Plural(n, "other"))
	}
	return s + "; without: " + strings.Join(list, ", ") + "."
}

// Along says what goes along though no reference names it.
func Along(a sift.Along) string {
	switch a {
	case sift.Companions:
		return "companions of documents and files"
	case sift.Editions:
		return "earlier states of the documents"
	case sift.Drawings:
		return "drawings of the parts"
	case sift.Renders:
		return "the newest of each rendering"
	case sift.Strays:
		return "strays in the project folder"
	case sift.Adopted:
		return "adopted"
	case sift.ByGlob:
		return "named by the recipe"
	case sift.Channels:
		return "channels that lie otherwise"
	}
	return string(a)
}

// Absence is why nothing is copied for a file.
func Absence(w stow.Absence, detail string) string {
	switch w {
	case stow.Missing:
		if detail != "" {
			return "missing, and set aside: " + Aside(decide.Why(detail))
		}
		return "missing"
	case stow.Unplugged:
		return "on a drive that is not connected"
	case stow.Twins:
		return "more than one file could be meant"
	case stow.Unreadable:
		return strings.TrimSuffix("cannot be read: "+Why(graph.Why(detail), ""), ": ")
	case stow.OnNetwork:
		return Why(graph.OnNetwork, "")
	case stow.WritePoint:
		return "a write point: nothing of it is read, and the crate's document still names it"
	case stow.PointInside:
		return "a write point: nothing of it is read, and the crate's document writes into the crate instead"
	case stow.NeverSaved:
		return "has a place for a file that was never written (" + detail + ")"
	case stow.NotAlong:
		return "a sequence that only a document which goes along names, and which is not taken with it"
	case stow.AsChannels:
		return "nothing names it: it travels with its channels lying otherwise"
	case stow.LacksPart:
		return "lacks a part of its own, “" + detail + "”"
	}
	return Stays(sift.Why(w))
}
