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
		return "inactive"
	case sift.IsListed:
		return "listed but not used"
	case sift.IsRebuilt:
		return "can be rebuilt"
	case sift.InLibrary:
		return "belongs to a library"
	case sift.InStore:
		return "belongs to a managed store"
	case sift.OfKind:
		return "its kind is left out"
	case sift.Chosen:
		return "left out by choice"
	case sift.Freed:
		return "used only by files that stay"
	case sift.IsDocument:
		return "document left out"
	case sift.IsTwice:
		return "duplicate; another copy travels"
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
		return "alternative takes and inactive files: " + of("file")
	case sift.ListedFiles:
		return "imported but unused files: " + of("file")
	case sift.EarlierDocuments:
		return "earlier versions of the documents: " + of("document")
	case sift.GivenCompanions:
		return "companions (data and notes): " + of("file")
	case sift.GivenDrawings:
		return "drawings of the parts: " + of("drawing")
	case sift.GivenRenders:
		return "newest renderings: " + of("file")
	case sift.GivenStrays:
		return "unreferenced files in the project folder: " + of("file")
	case sift.UnusedParts:
		return "unused parts of trimmed files: " + of("file")
	case sift.Undoing:
		return "undo history inside documents"
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
		return "earlier versions of the documents"
	case sift.Drawings:
		return "drawings of the parts"
	case sift.Renders:
		return "newest renderings"
	case sift.Strays:
		return "unreferenced files in the project folder"
	case sift.Adopted:
		return "adopted"
	case sift.ByGlob:
		return "listed in the recipe"
	case sift.Channels:
		return "split or joined channels"
	}
	return string(a)
}

// Absence is why nothing is copied for a file.
func Absence(w stow.Absence, detail string) string {
	switch w {
	case stow.Missing:
		if detail != "" {
			return "missing, set aside: " + Aside(decide.Why(detail))
		}
		return "missing"
	case stow.Unplugged:
		return "on a drive that is not connected"
	case stow.Twins:
		return "more than one file matches"
	case stow.Unreadable:
		return strings.TrimSuffix("cannot be read: "+Why(graph.Why(detail), ""), ": ")
	case stow.OnNetwork:
		return Why(graph.OnNetwork, "")
	case stow.WritePoint:
		return "write point; not read, unchanged in the crate's document"
	case stow.PointInside:
		return "write point; not read, changed to a folder inside the crate"
	case stow.NeverSaved:
		return "reserved for a file that was never saved (" + detail + ")"
	case stow.NotAlong:
		return "a sequence used only by an optional document; not included"
	case stow.AsChannels:
		return "not referenced; included as split or joined channels"
	case stow.LacksPart:
		return "lacks a part of its own, “" + detail + "”"
	}
	return Stays(sift.Why(w))
}
