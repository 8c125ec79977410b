package words

import (
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
}

const (
	notTraced = "what it names is not in this trace"
	saveAgain = "open it in the program that made it and save it again"
)

// problems are the words of each kind: what is wrong, what was left as it was, what the
// reader can do. {0}, {1}, {2} are its arguments, {doc} its document.
var problems = map[problem.Kind][3]string{
	problem.NotReadable:     {"{0}", notTraced, saveAgain},
	problem.Denied:          {"permission denied", notTraced, "give yourself read access, or set it aside"},
	problem.DamagedFrom:     {"damaged from here on: {0}; what stands before was read", notTraced, saveAgain},
	problem.CutOff:          {"its compressed text is cut off or damaged: {0}", "what could be unpacked was read, and will not be written anew", saveAgain},
	problem.IncludeUnread:   {"includes ‘{0}’, which could not be read: {1}", "the rest was read without it", saveAgain},
	problem.LayerDamaged:    {"its layer {0} is damaged: {1}", "what stands before the damage was read", saveAgain},
	problem.MemberUnread:    {"{0}", "the other members were read", "unpack it to see what it holds"},
	problem.MemberMoved:     {"is damaged: its member ‘{0}’ is not where the package says it is", "the other members were read; the package is not rewritten", saveAgain},
	problem.MemberOutside:   {"holds a member ‘{0}’, whose name leads out of the package; it is not read", "the other members were read", "pack it again without that member"},
	problem.MemberTwice:     {"holds the member ‘{0}’ twice; the first is read", "the other members were read", "pack it again"},
	problem.TableCut:        {"its table {0} could not be read to the end: {1}", "the other tables were read", "open it in the program that made it"},
	problem.SourceTooLarge:  {"holds the source {0} of {1} bytes; sources of more than {2} bytes must stay outside the package", "it was not taken out", "keep that source beside the project"},
	problem.LineTooLong:     {"this line has more than {0} bytes and was passed over", "the other lines were read", "see whether the document is a text"},
	problem.UnreadTag:       {"names a file by the tag {0}, which is not known here", "the other lines were read", "see that the file travels with it"},
	problem.Unfollowed:      {"names other files that are there and were not followed, for no rule tells what they mean: {#0}, the first is ‘{1}’", "Nothing is changed there, and those files do not travel for it.", "Make rules for such documents under Rules, or carry those files along."},
	problem.Unasked:         {"has more words that could be names than are looked for: {#0} were", "What was found is read. Files that the others lead to do not travel for it.", "Make rules for such documents under Rules."},
	problem.NoSumLine:       {"this is no checksum line", "the other lines were read", "correct the line"},
	problem.OpenQuote:       {"the name is not closed by a quote", "the other lines were read", "correct the line"},
	problem.WrongType:       {"“{0}” is not {1} and was passed over", "the rest was read", saveAgain},
	problem.NoActiveMedium:  {"clip ‘{0}’ has no media reference under its active key “{1}”", "its other media were read", saveAgain},
	problem.Encoding:        {"declares the encoding ‘{0}’; it was read as {1}", "a change leaves it in that encoding", "save it again, or correct its first line"},
	problem.UnknownEncoding: {"declares the encoding ‘{0}’, which is not known; it was read as {1}", "a change leaves it in that encoding", "save it again, or correct its first line"},
	problem.EntityOutside:   {"the entity {0} stands for another file, which was not opened", "what it would say is not in this trace", "save the document with its entities written out"},
	problem.EntityInName:    {"the entity {0} is not expanded", "the name it stands in was taken as it is written", "save the document with its entities written out"},

	problem.CannotSay:      {"cannot name its files in this crate: “{0}” cannot be written at its place: {1}", "", "Give that file another name or folder."},
	problem.FalseSum:       {"tells a digest or a size of ‘{0}’, whose bytes are others there: it would be false", "It says what it said.", "Leave that file as it is, or make the list anew once it is there."},
	problem.InBag:          {"lies in a sealed bag, whose manifest tells its bytes", "It was not written to.", "Repair the project that the bag was made of, and seal it again."},
	problem.NotOurs:        {"lies outside the project folder", "It was not written to.", "Repair it in its own project."},
	problem.Unsayable:      {"cannot be made to name {0}", "The repair stays as it is, and a crate is made with it.", "Give the file the old name, or move it to where the document looks."},
	problem.Scattered:      {"cannot name a sequence that stands in two folders: {0}", "The repair stays as it is, and a crate brings the files together.", "Move the files into one folder to have it written."},
	problem.BadRules:       {"its rules file cannot be used: {0}: {1}", "", ""},
	problem.NoTimeline:     {"has no timeline for a simpler document: {0}", "The crate is made without it.", "Choose a list or a playlist."},
	problem.LongPath:       {"its path in the crate has more than 240 characters, which some systems do not take: {0}", "It travels under that path.", "Shorten its name or its folder."},
	problem.NoName:         {"no free name was found for it in the crate", "", ""},
	problem.IsRoot:         {"is one of the documents the crate is made of, and cannot be left out of it", "It travels.", "Leave it out by sealing the other documents without it."},
	problem.NotSound:       {"is damaged, or no sound, whatever its name says", "It is carried as it is.", "Open it in the program that made it and save it again."},
	problem.BrokenSound:    {"is damaged somewhere within: it cannot be read to its end", "It is carried as it is.", "Look for another copy of it, or render it again."},
	problem.CannotBear:     {"has more than this type can hold: {0}", "It is carried as it is.", "Choose another type, or a depth of 24 bits."},
	problem.CountsSamples:  {"is named by a document that counts in samples, ‘{doc}’", "Nothing is sealed like that.", "Leave the rate of sounds as it is."},
	problem.OtherCoding:    {"is no linear sound", "It is carried as it is.", "Leave it, or save it as WAV first."},
	problem.Clipped:        {"goes beyond full scale in {#0} samples, which its new file cuts to it", "The project’s own file is as it was.", "Make it {1} dB lower in the project, or carry it as floating point."},
	problem.NoNumbers:      {"holds {#0} samples that are no numbers, or infinite; they are silence in the crate", "The project’s own file is as it was.", "Listen to it, and render it again."},
	problem.UnevenChannels: {"holds one channel of a sound, and the others are of another length, rate or depth", "Its channels travel as they lie.", "Make them of one length, rate and depth, or carry channels as they lie."},
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
	return Problem{Code: p.Code(), Path: p.Path, Document: p.Document, Line: p.Line, Message: said[0], Untouched: said[1], Do: said[2]}
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
	problem.NothingBeside: "a package finds nothing that lies beside it",
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
