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
			return "name differs by “" + e.Text + "” before it"
		}
		return "name differs by the ending “" + e.Text + "”"
	case mend.NameShorter:
		if e.N > 0 {
			return "name lacks “" + e.Text + "” before it"
		}
		return "name lacks the ending “" + e.Text + "”"
	case mend.NameAlike:
		return fmt.Sprintf("name is alike (%d of 100)", e.N)
	case mend.Parent:
		if e.N > 1 {
			return fmt.Sprintf("in folders of the same names, %d deep", e.N)
		}
		return "same parent folder"
	case mend.FolderAlike:
		return fmt.Sprintf("folders are similar (%d of 100)", e.N)
	case mend.FolderSaid:
		return "its name also says “" + e.Text + "”, as the folder of the missing file does"
	case mend.Copies:
		return fmt.Sprintf("one of %d copies, alike in size and wherever they were read", e.N)
	case mend.OneOf:
		return fmt.Sprintf("one of %d with this content", e.N)
	case mend.Frames:
		return fmt.Sprintf("%d of %d files", e.N, e.Of)
	case mend.Fills:
		return fmt.Sprintf("%d of %d missing numbers", e.N, e.Of)
	case mend.InOneMove:
		if e.N == e.Of {
			return fmt.Sprintf("all %s missing from its folder are there too", phrase.Plural(int(e.N), "file"))
		}
		return fmt.Sprintf("%d of %s missing from its folder are there too", e.N, phrase.Plural(int(e.Of), "file"))
	case mend.OtherContent:
		if e.N > 0 {
			return "other content than when last seen"
		}
		return "same size, other content than when last seen"
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
		return "it is the product “" + e.Text + "”, as the document says"
	case mend.OtherProduct:
		return "it is another product, “" + e.Text + "”"
	case mend.SameReel:
		return "from reel “" + e.Text + "”, as the document says"
	case mend.OtherReel:
		return "from another reel, “" + e.Text + "”"
	case mend.SoundsAlike:
		return fmt.Sprintf("sounds like it (%d of 100), as through another coding", e.N)
	case mend.SameSound:
		return "same sound in another wrapping (" + e.Text + "); the document will name it by that"
	case mend.SamePicture:
		return "same picture in another wrapping (" + e.Text + "); the document will name it by that"
	case mend.Follows:
		return "as “" + e.Text + "” was mended"
	case mend.MendedElsewhere:
		return "“" + e.Text + "” was mended so"
	case mend.FitsAnother:
		return "fits the missing “" + e.Text + "” better"
	}
	return told(e)
}

// told says evidence of what a document tells.
func told(e mend.Evidence) string {
	switch e.Code {
	case mend.ToldContent:
		return "the digest that a document tells (" + strings.ToUpper(e.Text) + ")"
	case mend.OtherToldContent:
		return "not the digest that a document tells (" + strings.ToUpper(e.Text) + ")"
	case mend.OtherToldSize:
		return fmt.Sprintf("%d bytes, a document tells %d", e.N, e.Of)
	case mend.OtherToldLength:
		return fmt.Sprintf("%.2f s long, a document tells %.2f s", float64(e.N)/1000, float64(e.Of)/1000)
	case mend.TooShort:
		return fmt.Sprintf("%.2f s long, and %.2f s of it are used", float64(e.N)/1000, float64(e.Of)/1000)
	}
	return string(e.Code)
}

// plainly is the evidence that says all by its code.
var plainly = map[mend.Code]string{
	mend.Content:     "same content as when last seen",
	mend.SameFile:    "the very file that was last seen, under another name",
	mend.LentContent: "same content as other documents saw under this path",
	mend.Name:        "same name",
	mend.NameLoose:   "same name, spelled otherwise",
	mend.NameParted:  "same name, other separators",
	mend.NameSpelled: "same words and numbers, written another way",
	mend.Nearest:     "closest name, in the most similar folders",
	mend.DateAdded:   "a date was added to the name",
	mend.BesideDoc:   "in the folder of the document that misses it",
	mend.ByPlace:     "of several files with this content, the one in the most similar folders",
	mend.OnlyMove:    "no other folder holds a third of them",
	mend.OtherName:   "under another name",
	mend.SameFolder:  "in the folder it is missing from",
	mend.SameSize:    "same size as last seen",
	mend.SameID:      "same embedded id",
	mend.SameLength:  "same length and rate",
	mend.SameFrame:   "same frame size",
	mend.ByHand:      "chosen by hand",
	mend.OneOfTwins:  "one of the twins",
	mend.ToldSize:    "the size that a document tells",
	mend.ToldLength:  "the length that a document tells",
	mend.LongEnough:  "what is used of it lies within it",
	mend.OtherID:     "another embedded id than when last seen",
	mend.UsedAlready: "another reference already leads to this file",
	mend.OtherClock:  "what is used of it lies before its timecode begins",
	mend.OnlyOne:     "only file with this name",
	mend.PutBy:       "its name says that it is a copy or an older version",
	mend.Counted:     "a number was added to the name",
	mend.OtherWord:   "another word in its name",
	mend.OtherDate:   "from another date, by its name or folders",
	mend.InBackup:    "in a folder of backups or copies",
	mend.OtherSet:    "its folder may hold another set of files with the same names",
	mend.OtherNumber: "another number in its name",
}

// Renamed says what became of names; "" where they are as they were.
func Renamed(r mend.Renaming) string {
	var said string
	switch {
	case r.Habit == mend.Dated:
		said = "a date before the name came or went"
	case r.Habit == mend.Numbered:
		said = "a number before the name came or went"
	case r.Habit == mend.Padded:
		said = "other zeros before the numbers"
	case r.Habit == mend.Respelled:
		said = "spelled otherwise"
	case r.Habit == mend.Kept:
	case r.From == "":
		said = "with “" + r.To + "” " + where[r.Habit] + " the name"
	case r.To == "":
		said = "without “" + r.From + "” " + where[r.Habit] + " the name"
	default:
		said = "with “" + r.To + "” in the place of “" + r.From + "”"
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
		return "it is shorter than what is used of it"
	case graph.OtherRate:
		return "it has another rate than a document tells"
	case graph.OtherSize:
		return "it has another size than when it was last seen, or than a document tells"
	case graph.OtherContentSeen:
		return "it has other bytes than when it was last seen"
	case graph.NotAsNamed:
		return "it is not what its name says"
	case graph.UsedTwice:
		return "it stands for two files, by a guess"
	case graph.NeverClosed:
		return "its recording was never finished: it was read to the end of the file"
	case graph.HoldsNothing:
		return "it is empty, or holds zeros alone"
	case graph.IsBroken:
		return "it is damaged, or broken off"
	}
	return string(s)
}

// Aside says why a file is set aside.
func Aside(w decide.Why) string {
	switch w {
	case decide.Rebuild:
		return "its program makes it again"
	case decide.Later:
		return "will be supplied later"
	case decide.NotNeeded:
		return "not needed"
	case decide.Replaced:
		return "something else takes its place"
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
		return "another project found " + phrase.Plural(s.N, "file") + " that this one misses there"
	case mend.Theirs:
		return phrase.Plural(s.N, "name") + " of what is missing there, of files that another project uses"
	case mend.Named:
		return fmt.Sprintf("the drive index knows %s of what is missing there", phrase.Plural(s.N, "name"))
	case mend.Led:
		return phrase.Plural(s.N, "earlier repair") + " led there"
	case mend.Siblings:
		return "there: " + phrase.Plural(s.N, "file") + " of the same documents"
	case mend.Root:
		return "it is the project’s own folder"
	case mend.Above:
		return "it is the folder above the project’s"
	case mend.Drive:
		return "it is a whole drive"
	}
	return string(s.Why)
}
