package words

import (
	"fmt"

	"boundcrate/core/facts"
	"boundcrate/core/mend"
)

// Evidence says one fact for or against a candidate.
func Evidence(e mend.Evidence) string {
	switch e.Code {
	case mend.Content:
		return "same content as when last seen"
	case mend.Name:
		return "same name"
	case mend.NameLoose:
		return "same name, spelled otherwise"
	case mend.NameParted:
		return "same name, its words parted otherwise"
	case mend.NameExt:
		return "same name with the extension " + e.Text
	case mend.NameLonger:
		return "name differs by the ending “" + e.Text + "”"
	case mend.NameShorter:
		return "name lacks the ending “" + e.Text + "”"
	case mend.NameAlike:
		return fmt.Sprintf("name is alike (%d of 100)", e.N)
	case mend.OtherName:
		return "under another name"
	case mend.Parent:
		return "same parent folder"
	case mend.SameSize:
		return "same size as last seen"
	case mend.SameID:
		return "same embedded id"
	case mend.SameLength:
		return "same length and rate"
	case mend.SameFrame:
		return "same frame size"
	case mend.OneOf:
		return fmt.Sprintf("one of %d with this content", e.N)
	case mend.Frames:
		return fmt.Sprintf("%d of %d files", e.N, e.Of)
	case mend.Fills:
		return fmt.Sprintf("%d of %d missing numbers", e.N, e.Of)
	case mend.ByHand:
		return "chosen by hand"
	case mend.OneOfTwins:
		return "one of the twins"
	case mend.InOneMove:
		return fmt.Sprintf("its folder moved as a whole, with %s", Plural(int(e.N), "file"))
	case mend.OtherContent:
		if e.N > 0 {
			return "other content than when last seen"
		}
		return "same size, other content than when last seen"
	case mend.OtherSize:
		return fmt.Sprintf("%d bytes, last seen with %d", e.N, e.Of)
	case mend.OtherID:
		return "another embedded id than when last seen"
	case mend.OtherLength:
		return fmt.Sprintf("%.3f s at %d Hz, last seen with %.3f s at %d Hz", e.Have.Seconds, e.Have.Rate, e.Want.Seconds, e.Want.Rate)
	case mend.OtherFrame:
		return fmt.Sprintf("%d × %d, last seen with %d × %d", e.Have.Width, e.Have.Height, e.Want.Width, e.Want.Height)
	case mend.Harmed:
		return e.Text
	case mend.UsedAlready:
		return "another reference already leads to this file"
	case mend.OtherKind:
		return "is " + Kind(facts.Kind(e.Text)) + ", another kind of file"
	case mend.TooShort:
		return fmt.Sprintf("%.2f s long, and %.2f s of it are used", float64(e.N)/1000, float64(e.Of)/1000)
	}
	return string(e.Code)
}

// AllEvidence is Evidence for a list; the answer is never nil.
func AllEvidence(list []mend.Evidence) []string {
	out := make([]string, len(list))
	for i, e := range list {
		out[i] = Evidence(e)
	}
	return out
}

// CodesOf are the codes of what speaks for and against a candidate.
func CodesOf(c mend.Candidate) []mend.Code {
	out := make([]mend.Code, 0, len(c.For)+len(c.Against))
	for _, e := range c.For {
		out = append(out, e.Code)
	}
	for _, e := range c.Against {
		out = append(out, e.Code)
	}
	return out
}
