// Package problem is the one shape of "something is wrong" in all of the core: which kind
// of thing, where, and what its sentence speaks of. The sentences stand in words.
package problem

import (
	"fmt"
	"strings"
)

// Kind is what is wrong. Each has a code for programs, see [Problem.Code], and a sentence
// in words.
type Kind string

// What is wrong with a document that was read. In brackets: the Args.
const (
	NotReadable     Kind = "not-readable"     // it makes no sense as what it claims to be [what its reader says]
	Pointer         Kind = "pointer"          // a pointer of a large-file store in git, in place of the document
	Denied          Kind = "denied"           // the system does not let it be read
	DamagedFrom     Kind = "damaged-from"     // read up to a line [what its reader says]
	CutOff          Kind = "cut-off"          // its compressed text ends early, or is damaged [why]
	IncludeUnread   Kind = "include-unread"   // [name, why]
	LayerDamaged    Kind = "layer-damaged"    // of a package [member, what its reader says]
	MemberUnread    Kind = "member-unread"    // of a package [what its reader says]
	MemberMoved     Kind = "member-moved"     // it is not where the package says [member]
	MemberOutside   Kind = "member-outside"   // its name leads out of the package [member]
	MemberTwice     Kind = "member-twice"     // [member]
	TableCut        Kind = "table-cut"        // of a database [table, why]
	SourceTooLarge  Kind = "source-too-large" // in a package [name, bytes, bytes at the most]
	LineTooLong     Kind = "line-too-long"    // [bytes at the most]
	UnreadTag       Kind = "unread-tag"       // of a playlist, which names a file by a tag that nobody here knows [tag]
	Unfollowed      Kind = "unfollowed"       // of a guessed document: names that lead to files and were not taken for names [how many, the first]
	Unasked         Kind = "unasked"          // of a guessed document: more words could be names than are looked for [how many were]
	NoSumLine       Kind = "no-sum-line"      // of a list of checksums
	OpenQuote       Kind = "open-quote"       // a name is not closed
	WrongType       Kind = "wrong-type"       // a member of another type than its standard says [member, type]
	NoActiveMedium  Kind = "no-active-medium" // of a clip [clip, key]
	Encoding        Kind = "encoding"         // declares another than it has; all was read [declared, had]
	UnknownEncoding Kind = "unknown-encoding" // declares one that nobody knows; all was read [declared, had]
	EntityOutside   Kind = "entity-outside"   // stands for another file, which was not opened [entity]
	EntityInName    Kind = "entity-in-name"   // stays as it is written [entity]
)

// What cannot be done with a document, a sound, a crate.
const (
	CannotSay      Kind = "cannot-say"      // a document cannot be made to name its files [name, Why, of what]
	FalseSum       Kind = "false-sum"       // a document tells a digest or a size of a file whose bytes will be others [file]
	InBag          Kind = "in-bag"          // a document lies in a bag, whose manifest tells its bytes
	NotOurs        Kind = "not-ours"        // a document outside the project, which is not written to
	Unsayable      Kind = "unsayable"       // a name that a document cannot hold [name]
	Scattered      Kind = "scattered"       // a sequence in two folders, which no document can name [name]
	BadRules       Kind = "bad-rules"       // a rules file cannot be used as it stands [id, why]
	NoTimeline     Kind = "no-timeline"     // that a simpler document could tell [form]
	LongPath       Kind = "long-path"       // some systems do not take it [characters]
	NoName         Kind = "no-name"         // none is free in the crate
	IsRoot         Kind = "is-root"         // a document the crate is made of cannot be left
	NotSound       Kind = "not-sound"       // it is not what its name says, or damaged
	BrokenSound    Kind = "broken-sound"    // it breaks off, or is damaged, somewhere within
	CannotBear     Kind = "cannot-bear"     // the type cannot hold what it has [type]
	CountsSamples  Kind = "counts-samples"  // Document counts in samples of its rate
	OtherCoding    Kind = "other-coding"    // it is not linear sound
	Clipped        Kind = "clipped"         // samples of a sound are cut to full scale [how many, decibels that it would have to be lower]
	NoNumbers      Kind = "no-numbers"      // samples of a sound are no numbers [how many]
	UnevenChannels Kind = "uneven-channels" // files that hold a channel each do not fit together
)

// codes are the words of the command line's contract where they are not the kind's own.
var codes = map[Kind]string{
	NotReadable: "malformed", DamagedFrom: "malformed", CutOff: "malformed", IncludeUnread: "malformed", LayerDamaged: "malformed", MemberUnread: "malformed", MemberMoved: "malformed",
	TableCut: "malformed", UnreadTag: "unread", NoSumLine: "malformed", OpenQuote: "malformed", WrongType: "malformed", NoActiveMedium: "malformed",
	Denied: "unreadable", MemberOutside: "refused", MemberTwice: "refused", SourceTooLarge: "too-large", LineTooLong: "too-large", UnknownEncoding: "encoding",
	EntityOutside: "entity", EntityInName: "entity", NotOurs: "outside", BadRules: "rules",
}

// Problem is something that is wrong.
type Problem struct {
	Kind     Kind
	Path     string // the file it is about, absolute
	Document string // the document that led there
	Line     int    // 1-based; 0 where no line is known
	Args     []string
}

// Code is the stable word for programs.
func (p Problem) Code() string {
	if c, ok := codes[p.Kind]; ok {
		return c
	}
	return string(p.Kind)
}

// Harmless tells problems for which all that a document names was read all the same.
func (p Problem) Harmless() bool { return p.Kind == Encoding || p.Kind == UnknownEncoding }

// Arg is an argument by its place, "" where there is none.
func (p Problem) Arg(i int) string {
	if i < len(p.Args) {
		return p.Args[i]
	}
	return ""
}

// Error is for logs and tests; people read what words makes of it.
func (p Problem) Error() string {
	s := string(p.Kind)
	if len(p.Args) > 0 {
		s += " " + strings.Join(p.Args, ", ")
	}
	switch {
	case p.Path != "" && p.Line > 0:
		return fmt.Sprintf("%s, line %d: %s", p.Path, p.Line, s)
	case p.Path != "":
		return p.Path + ": " + s
	}
	return s
}
