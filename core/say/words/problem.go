package words

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/problem"
)

// Problem is something that is wrong, as people and programs are told of it: on the
// command line, in an answer of the server.
type Problem struct {
	Code      string `json:"code,omitempty"`      // a stable word for programs: "malformed", "changed", …
	What      string `json:"what,omitempty"`      // what was being done
	Path      string `json:"path"`                // the file it is about, absolute
	Document  string `json:"document"`            // the document that led there
	Line      int    `json:"line"`                // 1-based; 0 where no line is known
	Message   string `json:"message"`             // one plain sentence
	Untouched string `json:"untouched,omitempty"` // what was left as it was
	Do        string `json:"do,omitempty"`        // what the reader can do
	Heading   string `json:"-"`                   // heads the problems of its kind in a list
}

const (
	notTraced = "its references were not followed"
	saveAgain = "open it in the program that made it and save it again"
)

// problems are the words of each kind: what is wrong, what was left as it was, what the
// reader can do. {0}, {1}, {2} are its arguments, {doc} its document.
var problems = map[problem.Kind][3]string{
	problem.NotReadable:     {"{0}", notTraced, saveAgain},
	problem.Pointer:         {"is only a pointer of a large-file store in git; its content was not downloaded", notTraced, "download its content with git, then trace again"},
	problem.Denied:          {"permission denied", notTraced, "get read access, or set it aside"},
	problem.DamagedFrom:     {"damaged from this line on: {0}. Everything before it was read", notTraced, saveAgain},
	problem.CutOff:          {"its compressed text is cut off or damaged: {0}", "what could be unpacked was read; the file will not be rewritten", saveAgain},
	problem.IncludeUnread:   {"includes ‘{0}’, which could not be read: {1}", "the rest was read without it", saveAgain},
	problem.LayerDamaged:    {"its layer {0} is damaged: {1}", "everything before the damage was read", saveAgain},
	problem.MemberUnread:    {"{0}", "the other members were read", "unpack it to see its contents"},
	problem.MemberMoved:     {"is damaged: its member ‘{0}’ is not where the package says it is", "the other members were read; the package is not rewritten", saveAgain},
	problem.MemberOutside:   {"contains the member ‘{0}’, whose path leads out of the package; it was not read", "the other members were read", "repack it without that member"},
	problem.MemberTwice:     {"contains the member ‘{0}’ twice; the first one was read", "the other members were read", "repack it"},
	problem.TableCut:        {"its table {0} could not be read to the end: {1}", "the other tables were read", "open it in the program that made it"},
	problem.SourceTooLarge:  {"contains the source {0} of {1} bytes; sources of more than {2} bytes must be kept outside the package", "it was not extracted", "keep that source beside the project"},
	problem.LineTooLong:     {"this line has more than {0} bytes and was skipped", "the other lines were read", "check whether this is a text document"},
	problem.UnreadTag:       {"references a file by the tag {0}, which is not supported", "the other lines were read", "check that the file is included in the crate"},
	problem.Unfollowed:      {"{#0} further values match existing files but were not followed, because no rule describes them. The first is ‘{1}’", "Nothing was changed. Those files are not included.", "Write a rules file for such documents, or include the files by name."},
	problem.Unasked:         {"has more possible paths than are checked; {#0} were checked", "Files that the others lead to are not included.", "Write a rules file for such documents."},
	problem.NoSumLine:       {"this is not a checksum line", "the other lines were read", "correct the line"},
	problem.OpenQuote:       {"the closing quote is missing", "the other lines were read", "correct the line"},
	problem.WrongType:       {"“{0}” is not {1} and was skipped", "the rest was read", saveAgain},
	problem.NoActiveMedium:  {"clip ‘{0}’ has no media reference under its active key “{1}”", "its other media were read", saveAgain},
	problem.Encoding:        {"declares the encoding ‘{0}’ but was read as {1}", "changes keep that encoding", "save it again, or correct its first line"},
	problem.UnknownEncoding: {"declares the unknown encoding ‘{0}’; it was read as {1}", "changes keep that encoding", "save it again, or correct its first line"},
	problem.EntityOutside:   {"the entity {0} refers to another file, which was not opened", "its content is not in this trace", "save the document with its entities written out"},
	problem.EntityInName:    {"the entity {0} is not expanded", "the path was used as written", "save the document with its entities written out"},

	problem.CannotSay:      {"cannot reference its files in this crate. “{0}” cannot be written there: {1}", "", "Give that file another name or folder."},
	problem.FalseSum:       {"contains a checksum or size of ‘{0}’ that will no longer be right", "It was not changed.", "Keep that file unchanged, or create the list again."},
	problem.InBag:          {"is inside a sealed crate, whose manifest would no longer match", "It was not changed.", "Repair the original project and seal it again."},
	problem.NotOurs:        {"is outside the project folder", "It was not changed.", "Repair it in its own project."},
	problem.Unsayable:      {"cannot reference {0}", "The repair stays in Bound Crate and is used for crates.", "Give the file its old name, or move it to the path in the document."},
	problem.Scattered:      {"cannot reference a sequence in two folders: {0}", "The repair stays in Bound Crate; a crate brings the files together.", "Move the files into one folder to write it."},
	problem.BadRules:       {"its rules file cannot be used: {0}: {1}", "", ""},
	problem.NoTimeline:     {"has no timeline to convert: {0}", "The crate is made without the conversion.", "Choose a list or a playlist."},
	problem.LongPath:       {"its path in the crate has more than 240 characters, too long for some systems: {0}", "It is included under that path.", "Shorten its name or its folder."},
	problem.NoName:         {"no free name was found for it in the crate", "", ""},
	problem.IsRoot:         {"is one of the main documents of the crate and cannot be left out", "It is included.", "To leave it out, seal the other documents without it."},
	problem.NotSound:       {"is damaged, or not a sound", "It is copied unchanged.", "Open it in the program that made it and save it again."},
	problem.BrokenSound:    {"is damaged and cannot be read to the end", "It is copied unchanged.", "Find another copy, or render it again."},
	problem.CannotBear:     {"has more than this file type can store: {0}", "It is copied unchanged.", "Choose another type, or a depth of 24 bits."},
	problem.CountsSamples:  {"is used by a document that counts in samples, ‘{doc}’", "The crate cannot be sealed like this.", "Do not convert sample rates."},
	problem.OtherCoding:    {"is not linear PCM", "It is copied unchanged.", "Leave it, or save it as WAV first."},
	problem.Clipped:        {"exceeds full scale in {#0} samples, which are clipped by the conversion", "The original file is unchanged.", "Lower it by {1} dB in the project, or convert to floating point."},
	problem.NoNumbers:      {"contains {#0} samples that are not numbers or are infinite; they become silence in the crate", "The original file is unchanged.", "Listen to it, and render it again."},
	problem.UnevenChannels: {"is one channel of a sound whose other channels have another length, rate or depth", "Its channels are copied unchanged.", "Make them equal in length, rate and depth, or keep channels as they are."},
}

// problemKinds head the problems of a code.
var problemKinds = map[string]string{
	"malformed": "Damaged or not valid", "pointer": "Pointers of a large-file store in git", "unreadable": "Permission denied", "refused": "Refused for safety",
	"too-large": "Too large", "encoding": "Text encoding", "entity": "XML entities", "outside": "Outside the project", "rules": "Rules files", "unread": "Unsupported tags",
	"unfollowed": "Values not followed", "unasked": "Values not checked",
}

// OfProblem says a problem.
func OfProblem(p problem.Problem) Problem {
	said := problems[p.Kind]
	if p.Kind == problem.CannotSay {
		p.Args = []string{p.Arg(0), no(problem.Why(p.Arg(1)), p.Arg(2))}
		if p.Arg(0) == "" {
			said[0] = "cannot name its files in this crate: {1}"
		}
	}
	for i := range said {
		said[i] = filled(said[i], p)
	}
	return Problem{Code: p.Code(), Path: p.Path, Document: p.Document, Line: p.Line, Message: said[0], Untouched: phrase.Sentence(said[1]), Do: phrase.Sentence(said[2]), Heading: cmp.Or(problemKinds[p.Code()], "Other problems")}
}

// whys say why a name cannot be written at a place; {0} is what that speaks of.
var whys = map[problem.Why]string{
	problem.NoText:        "the document has no text there that names a file",
	problem.NoNUL:         "a name cannot hold a NUL byte",
	problem.BareOnly:      "only a bare name can stand there",
	problem.OtherStart:    "it does not begin with the shared part of the name",
	problem.Indivisible:   "it does not divide into the parts of that place",
	problem.Unreturnable:  "it would be read as another name",
	problem.SealedText:    "the encoding of that text is not known, or it is damaged",
	problem.LacksIn:       "the document’s encoding lacks a character of it",
	problem.NotUTF8:       "characters stand there, and this name is not UTF-8",
	problem.NoCharacter:   "the character {0} cannot stand there",
	problem.AtItsStart:    "“{0}” at its beginning would mean something else",
	problem.NoneOf:        "none of these characters can stand there: {0}",
	problem.WhiteSpace:    "white space cannot stand there",
	problem.WhiteEnds:     "it is empty, or begins or ends with white space",
	problem.LineEnd:       "a line end cannot stand there",
	problem.EmptyName:     "an empty text names nothing",
	problem.ByteOrderMark: "its beginning would be taken for a byte order mark",
	problem.Awkward:       "there is no way to write such a name there",
	problem.AsFragment:    "it would name a part of the document itself",
	problem.AsData:        "it would be read as data",
	problem.AsScript:      "it would be read as a script",
	problem.AsAddress:     "it would be read as a built-in address",
	problem.AsHeading:     "it would be read as a heading",
	problem.AsEnd:         "a part of it would be read as the end of the name",
	problem.AsComment:     "a part of it would be read as a comment",
	problem.AsOther:       "it is empty, or would name a member of a package",
	problem.NotFound:      "it would not be known as a name there again",
	problem.Taken:         "it is the name of something else in the document",
	problem.TokenOnce:     "it must hold {0} once",
	problem.DigitBeside:   "a number sign beside the number would be read as a digit",
	problem.EndsWith:      "it must end with {0} there",
	problem.AtSigns:       "its at signs cannot stand there",
	problem.NothingBeside: "a package cannot reference files beside it",
	problem.SharedText:    "another name stands in the same text",
}

// no says why a name cannot be written at a place of a document.
func no(why problem.Why, of string) string {
	if why == "" {
		return of
	}
	return strings.ReplaceAll(whys[why], "{0}", of)
}

// filled puts arguments into their places; what stands in an argument is put nowhere.
func filled(text string, p problem.Problem) string {
	pairs := []string{"{doc}", p.Document}
	for i := range 3 {
		pairs = append(pairs, fmt.Sprintf("{%d}", i), p.Arg(i), fmt.Sprintf("{#%d}", i), counted(p.Arg(i)))
	}
	return strings.NewReplacer(pairs...).Replace(text)
}

// Problems says all of a list; the answer is never nil.
func Problems(list []problem.Problem) []Problem {
	out := make([]Problem, len(list))
	for i, p := range list {
		out[i] = OfProblem(p)
	}
	return out
}

// String is the problem on one line, where and what.
func (p Problem) String() string {
	switch {
	case p.Path != "" && p.Line > 0:
		return fmt.Sprintf("%s, line %d: %s", p.Path, p.Line, p.Message)
	case p.Path != "":
		return fmt.Sprintf("%s: %s", p.Path, p.Message)
	}
	return p.Message
}

// counted is a count with its thousands parted.
func counted(digits string) string {
	n, err := strconv.Atoi(digits)
	if err != nil {
		return digits
	}
	return phrase.Count(n)
}
