package graph

import (
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// FileID, DocID and RefID are indices into a graph's lists, plain numbers like
// the positions of go/token. None is no such thing.
type (
	FileID int32
	DocID  int32
	RefID  int32
)

// None is the number of nothing.
const None = -1

// Graph is one trace. It is frozen once trace.Run returned it: whoever finds out more
// keeps a table of its own by the same numbers (origin.Judged).
type Graph struct {
	Root        string     // the project folder, absolute
	Real        string     // the same with all links undone; "" where nobody can tell
	Formats     string     // the signature of the formats that it was read with
	Documents   []Document // each is also a file
	Roots       []DocID    // those that were given, in their order; a text that another document includes is none
	Files       []File     // every file, sequence or expected place, once
	References  []Reference
	WritePoints []WritePoint
	Problems    []problem.Problem
	Unread      []drive.Unread // folders that a search by name could not look into
}

// Class is what a file is to its project.
type Class string

// The classes.
const (
	Material    Class = "material"
	AsDocument  Class = "document"
	Rebuildable Class = "rebuildable" // can be made again by the program that made it
	Companion   Class = "companion"   // travels with a document or not at all
)

// Origin is whose a file is.
type Origin string

// The origins, in the words of the command line's contract.
const (
	OfProject      Origin = "project"
	OfOtherProject Origin = "other-project" // in or below a folder with another project's document
	OfLibrary      Origin = "library"       // a parts or sample library
	OfStore        Origin = "store"         // a managed store
	OfDump         Origin = "dump"          // a download, desktop or temporary folder
	Loose          Origin = "loose"         // anywhere else
	Nowhere        Origin = "none"          // no file yet
)

// Owns tells documents of the project itself: they lie in its folder, and not behind a link that
// leads out of it, to where another's may lie.
func (g *Graph) Owns(d *Document) bool {
	return drive.Within(g.Root, d.Path) && (g.Real == "" || d.Info.Real == "" || drive.Within(g.Real, d.Info.Real))
}

// File is one thing that travels, or is missed.
type File struct {
	At       drive.Path // identity; of what is not there, where it is expected
	Path     string     // the same, as the system has it now; of a sequence its Pattern
	Real     string     // with all links undone; "" of what is not there
	Also     []string   // further paths of it that documents name: hard links, symbolic ones
	State    State
	Kind     facts.Kind
	Use      mention.Use // the liveliest of its references
	Size     int64       // bytes of all its files
	Stamp    drive.Stamp
	Look     *Look   // nil: not opened (a document, a sequence, what is not there)
	Frames   *Frames // of a sequence
	Refs     []RefID
	Doc      DocID // None: not read as a document
	Carried  bool  // there is something to carry
	Repaired bool  // found through a repair
}

// Look is what a file's beginning told when a trace opened it.
type Look struct {
	Kind  facts.Kind  // by its bytes
	Facts facts.Facts // of sound and pictures; none where the header tells none
}

// Suspicion is what speaks against a file that is there under the right name.
type Suspicion string

// The suspicions.
const (
	ShorterThanUsed  Suspicion = "shorter-than-used"
	OtherRate        Suspicion = "other-rate"
	OtherSize        Suspicion = "other-size"
	OtherContentSeen Suspicion = "other-content"
	NotAsNamed       Suspicion = "not-what-its-name-says"
	UsedTwice        Suspicion = "used-twice-by-guess"
	NeverClosed      Suspicion = "unfinished" // its header does not say where its sound ends
	HoldsNothing     Suspicion = "empty"      // no bytes, or zeros alone
	IsPointer        Suspicion = "pointer"    // of a large-file store in git; its content was not downloaded
	IsBroken         Suspicion = "damaged"    // broken off before what is used of it, or its header contradicts itself
)

// Frames are the files of a sequence, all its references together.
type Frames struct {
	Pattern Pattern
	Files   []string
	Sizes   []int64
	Gaps    []Gap
	Count   int // how many are expected; 0: whatever is found
	// Said is what the first reference says of it.
	Said mention.Sequence
}

// Document is a document that was read.
type Document struct {
	Path   string // as it was first reached
	Was    string // where it was expected, if a repair led to it; else ""
	Info   drive.Info
	Format string // its id
	Title  string // of the format, for people
	Use    mention.Use
	File   FileID
	// Host is the document that includes this one, whose names are all read
	// against the host's folder; itself for all others. Text is which of the
	// host's texts this one is.
	Host DocID
	Text int
	// Shared tells a text that several documents include: it holds for all of
	// them, and is changed for none.
	Shared bool
	// Package tells that its mentions stand in members of the file.
	Package bool
	Depth   int   // documents between it and a root, on the shortest way
	By      RefID // the reference that leads to it on that way; None for roots
	// Guessed tells a document of no known format. Recognised is false where
	// nothing in it looks like the name of a file.
	Guessed, Recognised bool
	References          int
	// Rules is the source of the rules file it was read by.
	Rules []byte
}

// Reference is an edge: this place of this document needs that file.
type Reference struct {
	*Place
	Doc     DocID
	File    FileID // None: no file could be meant (inside, never saved, on the network)
	Child   DocID  // the document it leads to, or None
	Mention int32  // among the mentions of its document's host
	Nth     int32  // among the document's references with the same owner and text
	Written string
	Owner   string
	Member  string // of a package, the part that is meant
	Text    string // the member of a package it stands in; "" for a plain document
	Kind    facts.Kind
	Size    int64 // bytes of all its files, or of the data inside
	Range   *mention.Range
	Told    *mention.Told
	Use     mention.Use
	Guessed bool
	Slide   *Slide // nil: the part that is used cannot be told anew
	// Fixed tells that nothing there can be rewritten, Absolute that its name is
	// a whole path, Bare that its format tells names alone, in no folder.
	Fixed, Absolute, Bare bool
	// Damaged tells that a file is there and is not what it should be. Its bytes
	// can still be carried.
	Damaged bool
}

// Slide is how the part of a file that is used can be told anew, as far as it has to be
// known without its document.
type Slide struct {
	Raised bool // the part is counted from Origin, in seconds
	Origin float64
	Images bool    // it is a sequence
	First  float64 // of that: the number of its first file
	Rate   float64 // and its files a second
}

// WritePoint is where new material will go. It is never missing, and never
// carried.
type WritePoint struct {
	Doc     DocID
	Mention int32
	Owner   string
	Written string
	Text    string
	Path    string // absolute
	Use     mention.Use
	Alien   bool // a path of another system
	Kind    facts.Kind
}

// Flag is what is wrong with a write point.
type Flag string

// The flags.
const (
	Outside      Flag = "outside" // the project
	OtherDrive   Flag = "other-drive"
	OtherProject Flag = "other-project"
	InnerFolder  Flag = "inner"  // where the root was meant
	Absent       Flag = "absent" // the folder is not there
)

// Where is the document a reference stands in: the file, or for a package the
// file, "!/" and the member.
func (g *Graph) Where(doc DocID, text string) string {
	if text == "" {
		return g.Documents[doc].Path
	}
	return g.Documents[doc].Path + "!/" + text
}

// Shown is the file's path for people: of a sequence with number signs. A file
// that is only called like one keeps its name.
func (f *File) Shown() string {
	if f.Frames == nil {
		return f.Path
	}
	return Shown(f.Path)
}

// Shown is a place of a reference for people, as a file's is.
func (r *Reference) Shown(at string) string {
	if !r.IsSequence() {
		return at
	}
	return Shown(at)
}

// IsSequence tells references to many files of one name.
func (r *Reference) IsSequence() bool { return r.Kind == facts.Sequence }

// IsCarried tells references that have a file to carry.
func (r *Reference) IsCarried() bool { return r.State.Found() || r.Damaged }

// Pending tells references that need a person, by the contract: used and not
// found, or with gaps.
func (r *Reference) Pending() bool {
	if len(r.Gaps) > 0 && (r.State.Found() || r.State == Inside) {
		return true
	}
	return r.Use == mention.Used && !r.State.Found() && r.State != Inside
}

// Given are the paths of the documents that were given.
func (g *Graph) Given() []string {
	list := make([]string, len(g.Roots))
	for i, id := range g.Roots {
		list[i] = g.Documents[id].Path
	}
	return list
}

// IsRoot tells documents that were given.
func (g *Graph) IsRoot(d DocID) bool { return slices.Contains(g.Roots, d) }

// CommonFolder is the folder that holds all the paths.
func CommonFolder(paths []string) string {
	common := filepath.Dir(paths[0])
	for _, p := range paths[1:] {
		for !drive.Within(common, p) {
			common = filepath.Dir(common)
		}
	}
	return common
}

// Leaves lists every real file the graph reaches, documents included, each
// once, by the path it was first reached by.
func (g *Graph) Leaves() []string {
	var list []string
	seen := map[string]bool{}
	add := func(key, path string) {
		if key == "" {
			key = path
		}
		if !seen[key] {
			seen[key] = true
			list = append(list, path)
		}
	}
	for i := range g.Files {
		switch f := &g.Files[i]; {
		case f.Frames != nil:
			for _, p := range f.Frames.Files {
				add("", p)
			}
		case f.State.Found():
			add(f.Real, f.Path)
		}
	}
	return list
}

// Ways are the documents from a given one down to a document, by the shortest
// way, the given one first.
func (g *Graph) Ways(d DocID) []DocID {
	way := []DocID{d}
	for g.Documents[d].By != None {
		d = g.References[g.Documents[d].By].Doc
		way = append(way, d)
	}
	for i, j := 0, len(way)-1; i < j; i, j = i+1, j-1 {
		way[i], way[j] = way[j], way[i]
	}
	return way
}
