package words

import (
	"fmt"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words/phrase"
)

// Evidence says one fact for or against a candidate.
func Evidence(e mend.Evidence) string {
	if said, ok := plainly[e.Code]; ok {
		return said
	}
	switch e.Code {
	case mend.NameExt:
		return "same name with the extension " + e.Text
	case mend.NameLonger:
		if e.N > 0 {
			return "name has “" + e.Text + "” added before it"
		}
		return "name has “" + e.Text + "” added after it"
	case mend.NameShorter:
		if e.N > 0 {
			return "name has no “" + e.Text + "” before it"
		}
		return "name has no “" + e.Text + "” after it"
	case mend.NameAlike:
		return fmt.Sprintf("similar name (%d of 100)", e.N)
	case mend.Parent:
		if e.N > 1 {
			return fmt.Sprintf("the %d folders above have the same names", e.N)
		}
		return "same parent folder"
	case mend.FolderAlike:
		return fmt.Sprintf("similar folders (%d of 100)", e.N)
	case mend.FolderSaid:
		return "name contains “" + e.Text + "”, the folder of the missing file"
	case mend.Copies:
		return fmt.Sprintf("one of %d copies of equal size and, as far as read, equal content", e.N)
	case mend.OneOf:
		return fmt.Sprintf("one of %d files with this content", e.N)
	case mend.Frames:
		return fmt.Sprintf("%d of %d files", e.N, e.Of)
	case mend.Fills:
		return fmt.Sprintf("%d of %d missing frames", e.N, e.Of)
	case mend.InOneMove:
		if e.N == e.Of {
			return fmt.Sprintf("all %s missing from this folder are there", phrase.Plural(int(e.N), "file"))
		}
		return fmt.Sprintf("%d of %s missing from this folder are there", e.N, phrase.Plural(int(e.Of), "file"))
	case mend.OtherContent:
		if e.N > 0 {
			return "content differs from when last seen"
		}
		return "same size, but content differs from when last seen"
	case mend.OtherSize:
		return fmt.Sprintf("%d bytes, last seen with %d", e.N, e.Of)
	case mend.OtherLength:
		return fmt.Sprintf("%.3f s at %d Hz, last seen with %.3f s at %d Hz", e.Have.Seconds, e.Have.Rate, e.Want.Seconds, e.Want.Rate)
	case mend.OtherFrame:
		return fmt.Sprintf("%d × %d, last seen with %d × %d", e.Have.Width, e.Have.Height, e.Want.Width, e.Want.Height)
	case mend.Harmed:
		return e.Text
	case mend.OtherKind:
		return "is " + Kind(facts.Kind(e.Text)) + ", another kind of file"
	case mend.SameProduct:
		return "product “" + e.Text + "”, as in the document"
	case mend.OtherProduct:
		return "other product, “" + e.Text + "”"
	case mend.SameReel:
		return "reel “" + e.Text + "”, as in the document"
	case mend.OtherReel:
		return "other reel, “" + e.Text + "”"
	case mend.SoundsAlike:
		return fmt.Sprintf("similar sound (%d of 100), possibly another encoding", e.N)
	case mend.SameSound:
		return "same sound in another file format (" + e.Text + "); the document will use this extension"
	case mend.SamePicture:
		return "same picture in another file format (" + e.Text + "); the document will use this extension"
	case mend.Follows:
		return "moved like “" + e.Text + "”, which was relinked"
	case mend.MendedElsewhere:
		return "relinked this way in “" + e.Text + "”"
	case mend.FitsAnother:
		return "a better match for the missing “" + e.Text + "”"
	}
	return expectedWords(e)
}

// expectedWords says evidence of what a document tells.
func expectedWords(e mend.Evidence) string {
	switch e.Code {
	case mend.ToldContent:
		return "checksum matches the document (" + strings.ToUpper(e.Text) + ")"
	case mend.OtherToldContent:
		return "checksum differs from the document (" + strings.ToUpper(e.Text) + ")"
	case mend.OtherToldSize:
		return fmt.Sprintf("%d bytes; the document says %d", e.N, e.Of)
	case mend.OtherToldLength:
		return fmt.Sprintf("%.2f s long; the document says %.2f s", float64(e.N)/1000, float64(e.Of)/1000)
	case mend.TooShort:
		return fmt.Sprintf("%.2f s long, but %.2f s are used", float64(e.N)/1000, float64(e.Of)/1000)
	}
	return string(e.Code)
}

// plainly is the evidence that says all by its code.
var plainly = map[mend.Code]string{
	mend.Content:     "same content as when last seen",
	mend.SameFile:    "the same file as last seen, renamed or moved",
	mend.LentContent: "same content as other documents had at this path",
	mend.Name:        "same name",
	mend.NameLoose:   "same name, other spelling",
	mend.NameParted:  "same name, other separators",
	mend.NameSpelled: "same words and numbers, written another way",
	mend.Nearest:     "closest name, in the most similar folders",
	mend.DateAdded:   "a date was added to the name",
	mend.InProject:   "used by another document of this project",
	mend.BesideDoc:   "in the folder of the document",
	mend.ByPlace:     "of several files with this content, the one in the most similar folder",
	mend.OnlyMove:    "no other folder has a third of them",
	mend.OtherName:   "under another name",
	mend.SameFolder:  "in the same folder",
	mend.SameSize:    "same size as last seen",
	mend.SameID:      "same embedded id",
	mend.SameLength:  "same length and rate",
	mend.SameFrame:   "same frame size",
	mend.ByHand:      "chosen by hand",
	mend.OneOfTwins:  "one of several matching files",
	mend.ToldSize:    "size as in the document",
	mend.ToldLength:  "length as in the document",
	mend.LongEnough:  "long enough for the part in use",
	mend.OtherID:     "embedded id differs from when last seen",
	mend.UsedAlready: "another reference already leads to this file",
	mend.OtherClock:  "part in use is before its first timecode",
	mend.OnlyOne:     "only file with this name",
	mend.PutBy:       "named like a copy or an older version",
	mend.Counted:     "a number was added to the name",
	mend.OtherWord:   "a different word in the name",
	mend.OtherDate:   "another date in the name or folders",
	mend.InBackup:    "in a folder of backups or copies",
	mend.OtherSet:    "folder may hold another set of files with the same names",
	mend.OtherNumber: "a different number in the name",
}

// Renamed says what became of names; "" where they are as they were.
func Renamed(r mend.Renaming) string {
	var said string
	switch {
	case r.Habit == mend.Dated:
		said = "date added or removed before the name"
	case r.Habit == mend.Numbered:
		said = "number added or removed before the name"
	case r.Habit == mend.Padded:
		said = "other leading zeros"
	case r.Habit == mend.Respelled:
		said = "other spelling"
	case r.Habit == mend.Kept:
	case r.From == "":
		said = "with “" + r.To + "” " + where[r.Habit] + " the name"
	case r.To == "":
		said = "without “" + r.From + "” " + where[r.Habit] + " the name"
	default:
		said = "with “" + r.To + "” instead of “" + r.From + "”"
	}
	if r.NewExt != r.OldExt {
		said = strings.TrimPrefix(said+", as ", ", ") + strings.TrimPrefix(r.NewExt, ".")
	}
	return said
}

var where = map[mend.Habit]string{mend.Before: "before", mend.After: "after", mend.Within: "in"}

// AllEvidence is Evidence for a list; the answer is never nil.
func AllEvidence(list []mend.Evidence) []string {
	out := make([]string, len(list))
	for i, e := range list {
		out[i] = Evidence(e)
	}
	return out
}

// Suspicion says all that speaks against a file that is there.
func Suspicion(all ...graph.Suspicion) string {
	said := make([]string, len(all))
	for i, s := range all {
		said[i] = suspicion(s)
	}
	return strings.Join(said, "; ")
}

func suspicion(s graph.Suspicion) string {
	switch s {
	case graph.ShorterThanUsed:
		return "it is shorter than the part in use"
	case graph.OtherRate:
		return "its rate differs from the document"
	case graph.OtherSize:
		return "its size differs from when last seen, or from the document"
	case graph.OtherContentSeen:
		return "its content differs from when last seen"
	case graph.NotAsNamed:
		return "its content does not match its extension"
	case graph.UsedTwice:
		return "it was guessed for two different files"
	case graph.NeverClosed:
		return "its recording was never closed; it was read to the end of the file"
	case graph.IsPointer:
		return "it is only a pointer of a large-file store in git; its content was not downloaded"
	case graph.HoldsNothing:
		return "it is empty or contains only zeros"
	case graph.IsBroken:
		return "it is damaged or cut off"
	}
	return string(s)
}

// Aside says why a file is set aside.
func Aside(w decide.Why) string {
	switch w {
	case decide.Rebuild:
		return "can be rebuilt by its program"
	case decide.Later:
		return "will be supplied later"
	case decide.NotNeeded:
		return "not needed"
	case decide.LeftOut:
		return "left out by the sender"
	case decide.Replaced:
		return "replaced by something else"
	}
	return string(w)
}

// There says how many of the files that are missing from a folder are in another, and whether
// under their own names.
func There(files, of int, named bool) string {
	said := fmt.Sprintf("%d of %s missing from the folder are there", files, phrase.Plural(of, "file"))
	if named {
		said += " under their own names"
	}
	return said
}

// Suggestion says why a folder is worth looking in.
func Suggestion(s mend.Suggestion) string {
	switch s.Why {
	case mend.Told:
		return "another project found " + phrase.Plural(s.N, "missing file") + " of this one there"
	case mend.Theirs:
		return phrase.Plural(s.N, "name") + " of missing files there, used by another project"
	case mend.Named:
		return fmt.Sprintf("the drive index has %s of missing files there", phrase.Plural(s.N, "name"))
	case mend.Led:
		return phrase.Plural(s.N, "earlier repair") + " lead there"
	case mend.Siblings:
		return phrase.Plural(s.N, "file") + " of the same documents there"
	case mend.Root:
		return "the project folder"
	case mend.Above:
		return "the folder above the project folder"
	case mend.Drive:
		return "a whole drive"
	}
	return string(s.Why)
}
