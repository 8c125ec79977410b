// Package words says in English what the core tells as codes, figures and
// typed errors. Every sentence for people stands here, so that the command line
// and the application say the same.
package words

import (
	"fmt"
	"strings"

	"boundcrate/core/bring/inside"
	"boundcrate/core/disk/holding"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words/phrase"
)

var kinds = map[facts.Kind]string{
	facts.Audio: "sound", facts.Video: "video", facts.Image: "picture", facts.Sequence: "sequence", facts.Geometry: "geometry", facts.Part: "part",
	facts.Material: "material", facts.Drawing: "drawing", facts.Document: "document", facts.Data: "data", facts.Other: "other",
}

// Kind is a kind of file in a person's words.
func Kind(k facts.Kind) string { return kinds[k] }

// Kinds counts files of a kind: "5 pictures".
func Kinds(n int, k facts.Kind) string {
	switch k {
	case facts.Geometry, facts.Data, facts.Other:
		return phrase.Count(n) + " " + kinds[k]
	}
	return phrase.Plural(n, kinds[k])
}

var states = map[graph.State]string{
	graph.Missing: "Missing", graph.Twins: "More than one file could be meant", graph.Unreadable: "Cannot be read", graph.Unplugged: "On a drive that is not connected",
	graph.Unsaved: "Never saved", graph.Away: "Outside the project folder", graph.Here: "In the project folder", graph.Inside: "Inside the document itself",
}

// State heads the files of a state.
func State(s graph.State) string { return states[s] }

// Why is the reason of a state, as the end of a sentence. member is the part of
// a package that is meant, where one is.
func Why(w graph.Why, member string) string {
	switch w {
	case graph.OnNetwork:
		return "on the network, not fetched"
	case graph.NotInPackage:
		return "not in the package that names it"
	case graph.LacksMember:
		return "the package is there, but ‘" + member + "’ is not in it"
	case graph.OtherContent:
		return "a file of that name in another spelling is there, with other content than when last seen"
	case graph.OutsideDrives:
		return "outside your drives"
	case graph.Denied:
		return "permission denied"
	case graph.LinkLoop:
		return "a link that leads to itself"
	case graph.IsFolder:
		return "a folder stands there, not a file"
	case graph.IsSpecial:
		return "a pipe or device stands there, not a file"
	case graph.OtherSystem:
		return "a path of another system"
	case graph.Damaged:
		return "it makes no sense as what it should be"
	case graph.Failed:
		return "the system could not read it"
	}
	return ""
}

// Warning says a warning in one sentence.
func Warning(w origin.Warning) string {
	switch w.Code {
	case origin.Scattered:
		return fmt.Sprintf("%s of this project lie scattered over %s beside its own.", phrase.Plural(w.Files, "file"), phrase.Plural(w.Folders, "folder"))
	case origin.DumpingGround:
		return "Material lies in a folder where things get tidied away: " + strings.Join(w.Paths, ", ") + "."
	case origin.NothingRecognised:
		return "Nothing in this document was recognised as a file name: " + strings.Join(w.Paths, ", ") + ". A rules file can teach its format."
	case origin.Guessed:
		return "What these documents name is guessed, by no format's rule: " + strings.Join(w.Paths, ", ") + "."
	case origin.UnreadableFolder:
		return "Names without a folder could not be looked for everywhere; not listed: " + strings.Join(w.Paths, ", ") + "."
	case origin.SharedFolder:
		return "Another project writes into the same folder, and one mishap would cost both: " + strings.Join(w.Paths, ", ") + "."
	case origin.SlowDrive:
		if w.Gives == 0 {
			return fmt.Sprintf("%s would play from %s, an optical drive: copy %s to a fixed one before you play.", phrase.Plural(w.Files, "file"), w.Drive, it(w.Files))
		}
		return fmt.Sprintf("%s gives %s a second, and %s a second play from it: copy %s to a faster drive, or the sound will break off.", w.Drive, phrase.Size(w.Gives), phrase.Size(w.Needs), phrase.Plural(w.Files, "file"))
	case origin.SyncedFolder:
		return fmt.Sprintf("%s on %s may be changed or taken away by what keeps that folder the same elsewhere: copy %s to a drive of your own.", phrase.Plural(w.Files, "file"), w.Drive, it(w.Files))
	case origin.SiblingNewer:
		return "A later state of this document lies beside it: " + strings.Join(w.Paths, ", ") + "."
	}
	return string(w.Code)
}

// it is "it" or "them".
func it(n int) string {
	if n == 1 {
		return "it"
	}
	return "them"
}

// NoFile tells why data that has no file cannot be written to one; "" where it
// can.
func NoFile(w inside.Why) string {
	switch w {
	case inside.NotOurs:
		return "its document lies outside the project folder; write it out there"
	case inside.NoPlace:
		return "its format has no place there for the name of a file"
	case inside.Frames:
		return "many files in a package under one name"
	case inside.Unsaved:
		return "only the program that holds it can save it"
	case inside.Unreadable:
		return "the document changed or cannot be read again"
	}
	return ""
}

// Whose says where a file comes from.
func Whose(o graph.Origin) string {
	switch o {
	case graph.OfProject:
		return "the project folder"
	case graph.OfOtherProject:
		return "another project"
	case graph.OfLibrary:
		return "a library"
	case graph.OfStore:
		return "a managed store"
	case graph.OfDump:
		return "a Downloads or temporary folder"
	case graph.Loose:
		return "elsewhere"
	case graph.Nowhere:
		return "nowhere"
	}
	return string(o)
}

// Origin tells what is dangerous about where an outside file lives, and what to do.
// home is the folder that makes it so.
func Origin(o graph.Origin, home string) string {
	switch o {
	case graph.OfOtherProject:
		return "It belongs to another project, in " + home + ": when that one is tidied up or changed, this one loses it. Bring it home."
	case graph.OfLibrary:
		return "It is of the library " + home + ": leave it there, and take it along when you hand over."
	case graph.OfStore:
		return "It is of the managed store " + home + ", which is only ever copied out of."
	case graph.OfDump:
		return "It lies in " + home + ", where things get tidied away: bring it home soon."
	}
	return "It lies outside the project folder: if that place moves, the project loses it. Bring it home, or leave it where it is looked after."
}

// Holding tells why a folder is not taken, does not come back or is not erased.
func Holding(e *holding.Error, label string) string {
	switch e.Code {
	case holding.IsDrive:
		return "‘" + label + "’ is a drive, or a drive lies in it. Nothing was moved."
	case holding.NoDrive:
		return "‘" + label + "’ lies on none of your drives. Nothing was moved."
	case holding.IsHeld:
		return "‘" + label + "’ waits in the holding folder already."
	case holding.InTheWay:
		return "Something stands at ‘" + label + "’ already. Nothing was written over; move that away first."
	case holding.NotThere:
		return "‘" + label + "’ is not there. Connect its drive; nothing was changed, and it stays listed."
	case holding.HasMount:
		return "Something else is mounted at ‘" + label + "’, or it cannot be looked into. Nothing was changed; unmount it first."
	case holding.DriveOut:
		return "The drive of ‘" + label + "’ is not connected. Nothing was changed."
	case holding.BadTerm:
		return "That is no time to keep a folder for. Nothing was moved."
	case holding.TooSoon:
		return "‘" + label + "’ is kept for longer. Nothing was erased."
	}
	return "‘" + label + "’ is not a folder. Nothing was moved."
}
