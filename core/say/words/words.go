// Package words says in English what the core tells as codes, figures and
// typed errors. Every sentence for people is here, so that the command line
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
	graph.Missing: "Missing", graph.Twins: "More than one file matches", graph.Unreadable: "Cannot be read", graph.Unplugged: "On a drive that is not connected",
	graph.Unsaved: "Never saved", graph.Away: "Outside the project folder", graph.Here: "In the project folder", graph.Inside: "Inside the document",
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
		return "a file of this name in another spelling is there, but its content differs from when last seen"
	case graph.OutsideDrives:
		return "outside your drives"
	case graph.Denied:
		return "permission denied"
	case graph.LinkLoop:
		return "a link that leads to itself"
	case graph.IsFolder:
		return "there is a folder at this path, not a file"
	case graph.IsSpecial:
		return "there is a pipe or device at this path, not a file"
	case graph.OtherSystem:
		return "a path of another system"
	case graph.Damaged:
		return "its content is not what it should be"
	case graph.Failed:
		return "the system could not read it"
	}
	return ""
}

// Warning says a warning in one sentence.
func Warning(w origin.Warning) string {
	switch w.Code {
	case origin.Scattered:
		return fmt.Sprintf("%s of this project are in %s outside the project folder.", phrase.Plural(w.Files, "file"), phrase.Plural(w.Folders, "folder"))
	case origin.DumpingGround:
		return "Files are in a Downloads or temporary folder: " + strings.Join(w.Paths, ", ") + "."
	case origin.NothingRecognised:
		return "No file references were recognised in this document: " + strings.Join(w.Paths, ", ") + ". You can describe its format in a rules file."
	case origin.Guessed:
		return "The references of these documents are guesses: " + strings.Join(w.Paths, ", ") + "."
	case origin.UnreadableFolder:
		return "Files without a path could not be searched for everywhere. Not readable: " + strings.Join(w.Paths, ", ") + "."
	case origin.SharedFolder:
		return "Another project writes to the same folder: " + strings.Join(w.Paths, ", ") + "."
	case origin.SlowDrive:
		if w.Gives == 0 {
			return fmt.Sprintf("%s would play from the optical drive %s. Copy %s to a fixed drive before playing.", phrase.Plural(w.Files, "file"), w.Drive, it(w.Files))
		}
		return fmt.Sprintf("%s reads %s per second, but playback needs %s. Copy %s to a faster drive, or playback will drop out.", w.Drive, phrase.Size(w.Gives), phrase.Size(w.Needs), phrase.Plural(w.Files, "file"))
	case origin.SyncedFolder:
		return fmt.Sprintf("%s on %s may be changed or removed by the program that syncs that folder. Copy %s to another drive.", phrase.Plural(w.Files, "file"), w.Drive, it(w.Files))
	case origin.SiblingNewer:
		return "A newer version of this document is beside it: " + strings.Join(w.Paths, ", ") + "."
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
		return "its document is outside the project folder; save it from its own project"
	case inside.NoPlace:
		return "its format cannot reference a file here"
	case inside.Frames:
		return "one name stands for many files in a package"
	case inside.Unsaved:
		return "only its own program can save it"
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
		return "It belongs to another project, in " + home + ". If that project is tidied up or changed, this one loses the file. Copy it into this project."
	case graph.OfLibrary:
		return "It is in the library " + home + ". Leave it there, and include it in handoffs."
	case graph.OfStore:
		return "It is in the managed store " + home + ". Files are only ever copied out of it."
	case graph.OfDump:
		return "It is in " + home + ", which is cleaned up now and then. Copy it into the project soon."
	}
	return "It is outside the project folder. If that folder moves, the project loses the file. Copy it into the project, or leave it if the folder is looked after."
}

// Holding tells why a folder is not taken, does not come back or is not erased.
func Holding(e *holding.Error, label string) string {
	switch e.Code {
	case holding.IsDrive:
		return "‘" + label + "’ is a drive or contains one. Nothing was moved."
	case holding.NoDrive:
		return "‘" + label + "’ is on none of your drives. Nothing was moved."
	case holding.IsHeld:
		return "‘" + label + "’ is already in the holding folder."
	case holding.InTheWay:
		return "There is already something at ‘" + label + "’. Nothing was overwritten. Move it away first."
	case holding.NotThere:
		return "‘" + label + "’ was not found. Connect its drive. Nothing was changed, and the entry stays in the list."
	case holding.HasMount:
		return "Another file system is mounted at ‘" + label + "’, or it cannot be read. Nothing was changed. Unmount it first."
	case holding.DriveOut:
		return "The drive of ‘" + label + "’ is not connected. Nothing was changed."
	case holding.BadTerm:
		return "The number of days is not valid. Nothing was moved."
	case holding.TooSoon:
		return "‘" + label + "’ must be kept longer. Nothing was erased."
	}
	return "‘" + label + "’ is not a folder. Nothing was moved."
}
