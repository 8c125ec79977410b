// Package mention holds the places in a document's texts that name other
// files, and rewrites them by splicing.
//
// A format reads a document into a [Doc]: its texts, the mentions found in
// them, and the pieces several mentions share. [Doc.Retarget] turns wishes
// ("mention 7 shall say sound/gull.wav") into [Edit] values; [Splice] applies
// edits to a text. No byte outside a declared span is ever touched, which is
// what makes one rewriting operation serve every format.
package mention

import (
	"bytes"
	"fmt"
	"io"
	"sort"

	"boundcrate/core/text/problem"
)

// CannotSayError names the mention and the name that cannot be written.
type CannotSayError struct {
	Mention int    // index into Doc.Mentions
	Name    string // the name that was wanted
	Err     error  // a problem.NoError, mostly
}

func (e *CannotSayError) Error() string {
	return fmt.Sprintf("%q cannot be written at this place: %v", e.Name, e.Err)
}

func (e *CannotSayError) Unwrap() []error { return []error{e.Err, problem.ErrCannotSay} }

// Span is the bytes [Off,End) of one text of a document, delimiters included.
// Off == End is a place to insert at.
type Span struct {
	Text     int
	Off, End int64
}

// Edit replaces a span by New. The edits of one text are sorted and never
// overlap; several insertions at one offset keep their order.
type Edit struct {
	Span
	New []byte
}

// Coding undoes a carrier's syntax and redoes it in the manner of the old
// bytes (quotes, escapes, separators). fits tells the runes the text's
// charset holds: others are escaped, or the answer is [problem.No].
// Where text cannot be read whole, Decode returns what can be shown of it, or
// nothing, with the error.
type Coding interface {
	Decode(raw []byte) (string, error)
	Encode(s string, old []byte, fits func(rune) bool) ([]byte, error)
}

// Only is a coding for places where some names would be read as something else:
// Not tells of a name why it cannot stand there, nil if it can.
type Only struct {
	Coding
	Not func(name string) error
}

// Encode refuses what Not refuses.
func (o Only) Encode(s string, old []byte, fits func(rune) bool) ([]byte, error) {
	if err := o.Not(s); err != nil {
		return nil, err
	}
	return o.Coding.Encode(s, old, fits)
}

// Piece is one span that holds a name or a part of one; an absent field is an
// empty span at the place where it would be inserted.
type Piece struct {
	Span   Span
	Coding Coding
}

// Spelling tells how the text of a mention names a file.
type Spelling uint8

const (
	URI     Spelling = iota // RFC 3986 reference: percent-escapes are undone first
	Path                    // a path of any system: the text is taken as it stands first
	Bare                    // a name only; no folder can be said
	Pattern                 // a URI reference in which a number stands, see Sequence
)

// Use tells whether a document needs what it names. Larger is livelier; the
// zero value is the usual case.
type Use int8

const (
	Bystander Use = iota - 3 // read so that it keeps its meaning, never reported
	Listed                   // declared and never placed
	Dormant                  // present but switched off
	Used                     // placed and needed
)

func (u Use) String() string {
	return [...]string{"bystander", "listed", "dormant", "used"}[u-Bystander]
}

// ParseUse reads what String says.
func ParseUse(s string) (Use, bool) {
	for u := Bystander; u <= Used; u++ {
		if u.String() == s {
			return u, true
		}
	}
	return Used, false
}

// MarshalText says the use in its word.
func (u Use) MarshalText() ([]byte, error) { return []byte(u.String()), nil }

// UnmarshalText reads the word of a use.
func (u *Use) UnmarshalText(b []byte) error {
	var ok bool
	if *u, ok = ParseUse(string(b)); !ok {
		return fmt.Errorf("%q is no use", b)
	}
	return nil
}

// Nature tells what kind of a place in a document a mention is.
type Nature uint8

const (
	Material   Nature = iota // names a file that is read
	Roaming                  // the same; without a folder it may be anywhere in the project
	Guess                    // the same, told by its looks alone and by no rule of a format
	Shaped                   // a guess that can hardly be anything but a path: believed where it leads nowhere
	WritePoint               // names where new material will be written; never missing
	Unsaved                  // a place kept for a file that was never written
	Lost                     // names a part of its own file that is not there
)

// Guessed tells names that only look like names.
func (n Nature) Guessed() bool { return n == Guess || n == Shaped }

// Sequence tells how one name stands for many files: Head, a number of at
// least Digits digits, Tail. Head and Tail are spelled as in the document.
type Sequence struct {
	Head, Tail string
	Digits     int      // or Grid
	First      int      // number of the first file
	Step       int      // distance between numbers, 1 or more
	Count      int      // how many files are expected; 0: not told, whatever is found
	Within     []string // of a sequence whose files stand inside, their names
	Token      string   // what stands for the number in the text; "" is a number sign for each digit
}

// UDIM is the token of texture tiles that are numbered from 1001 to 9999 in four
// digits, ten in a row (MaterialX 1.38, "Filename Substitutions").
const UDIM = "<UDIM>"

// Grid as Digits: two numbers stand for one, u and v of a texture tile counted
// from 1, written u3_v1.
const Grid = -1

// Graft tells that a document's names (paths of prims, say) become part of
// this one's: as a layer, under the same names; else what is To there, "" its
// default, is At here.
type Graft struct {
	Layer  bool
	At, To string
}

// On and Off are said of names.
const (
	On  = "on"
	Off = "off"
)

// Number is a number as it stands in a text, in units of a rate.
type Number struct {
	Span  Span
	Value float64
	Rate  float64
}

// Slide is where a document tells which part of a file, or of a sequence of files, it uses,
// so that it can follow when they are cut to what is used.
type Slide struct {
	// Start is where the part begins, counted from the beginning of the file; where Raised
	// is true, at what the count begins there, from which the part's Range goes on.
	Start  Number
	Raised bool
	Origin float64 // at what the count begins, in seconds
	Whole  *Number // the length of the whole, where it is told
	First  *Number // of a sequence, the number of its first file; its Rate is files a second
	// Marks are where markers of the part begin, counted as Start is, where it is not Raised.
	Marks []Number
}

// Range is the part of the media that is placed, in seconds of the media's own
// time. Duration 0 is up to its end, where the document does not tell that.
type Range struct {
	Start    float64 `json:"start"`
	Duration float64 `json:"duration"`
}

// Data are bytes that stand inside a document.
type Data struct {
	Size int64
	Open func() io.ReadCloser // of a sequence, its first file
	// Type is the media type the document gives them; "" where it gives none.
	Type string
	// Say makes the document name a file in their place, by a name as Name gives
	// them; nil where it cannot, and the bytes can only be copied out.
	Say func(d *Doc, name string) ([]Edit, error)
}

// Instead is a Say that puts the name in the place of a piece.
func Instead(p Piece) func(*Doc, string) ([]Edit, error) {
	return func(d *Doc, name string) ([]Edit, error) {
		e, err := d.encode(p, name)
		return []Edit{e}, err
	}
}

// Group makes mentions of one number, not 0, alternatives in order: the first
// that is found counts. Instead: the others say nothing at all, instead of
// being dormant.
type Group struct {
	N       int
	Instead bool
}

// Scope is where in its document a mention stands, for formats in which what is
// said of one part decides over others.
type Scope struct {
	Under   string   // what it belongs to: a material, a fragment, the path of a prim
	When    []string // what must be said for it to be needed, as NAME=VALUE of Doc.Says
	Settled bool     // its use is so whatever other documents say
	Picks   []string // what it wakes in the document it names; nil: everything
	Graft   *Graft   // how the names within the document it leads to become names of this one
}

// Mention is one place that names a file.
//
// Name is the joined pieces, resolved against what the mention leans on. The
// zero value of every field but Pieces is the usual case.
type Mention struct {
	Pieces   []Piece                             // nearly always one; none: nothing here can be rewritten
	Merge    func(parts []string) string         // nil for one piece
	Split    func(name string) ([]string, error) // Merge undone
	Lean     []int                               // into Doc.Shared, outermost first
	Free     *Edit                               // inserting this frees the mention from what it leans on
	Owner    string                              // who names it, for people: "Track A2 / clip 'gull'"
	Member   string                              // of a named package, the part that is meant; Name is the package
	Kind     string                              // what the document says the file is, where its name does not tell
	Shown    *string                             // what "written" shows where it is not the joined pieces
	Data     *Data                               // the bytes, where they stand inside the document
	Sequence *Sequence                           // where one name stands for many files
	Slide    *Slide                              // nil: the part cannot be told anew
	Range    *Range                              // the part of the media that is placed
	Told     *Told                               // what the document tells of the file
	Says     *Says                               // where it tells digests and the size of the file; nil: nowhere
	Scope    *Scope                              // see In
	Group    Group
	Text     int // which text of the document it stands in
	Reads    int // of an include: the text of the document that is read in place, else 0
	Spelling Spelling
	Use      Use
	Nature   Nature
}

// Inside tells whether the bytes stand in the document itself.
func (m *Mention) Inside() bool { return m.Data != nil }

var nowhere Scope

// In is the mention's scope, an empty one where it has none; it is not to be
// changed.
func (m *Mention) In() *Scope {
	if m.Scope == nil {
		return &nowhere
	}
	return m.Scope
}

// Shared is a piece several mentions lean on: a file prefix, a base address.
type Shared struct {
	Piece
	Join    func(shared, own string) string          // string concatenation, or RFC 3986 §5
	Strip   func(shared, name string) (string, bool) // the own part, if the name can lean on it
	Move    func(name, own string) (string, bool)    // the shared value under which own says name; nil: cannot move
	Neutral string                                   // the value that adds nothing
}

// Text is one unwrapped UTF-8 text: the file, a zip member, an included file,
// the JSON chunk of a GLB. Fits nil means every rune fits.
type Text struct {
	Name  string
	Bytes []byte
	Fits  func(rune) bool
	// Sealed tells that nobody knows the text's encoding: it can be read, and
	// nothing in it can be said anew.
	Sealed bool
	// Member tells that the text is one of several in a package, by Name.
	Member bool
	// Beside opens bytes that stand beside this text in the same file (the
	// binary chunk of a GLB, a zip member); nil where there are none.
	Beside func(name string) (size int64, open func() io.ReadCloser, ok bool)
	// Members lists the names Beside knows; nil where there are none.
	Members func() []string
	// Exists tells whether a path as a text writes it leads to a file, for the
	// few places that cannot be read otherwise; nil where nobody can tell.
	Exists func(path string) bool
}

// Lines counts the lines of a text. Each is counted from the one before it, so that a long list of offsets in
// order reads the text once; counted from the beginning, 40,000 lines of a text of 190 MB took minutes.
type Lines struct {
	text []byte
	at   int64
	line int
}

// Lines returns a count that begins at the first line.
func (t Text) Lines() *Lines { return &Lines{t.Bytes, 0, 1} }

// At returns the 1-based line of a byte offset.
func (l *Lines) At(off int64) int {
	off = max(0, min(off, int64(len(l.text))))
	if off < l.at {
		l.line -= bytes.Count(l.text[off:l.at], []byte{'\n'})
	} else {
		l.line += bytes.Count(l.text[l.at:off], []byte{'\n'})
	}
	l.at = off
	return l.line
}

// Doc is what a format read; a function of its texts alone.
type Doc struct {
	Texts    []Text
	Mentions []Mention
	Shared   []Shared
	Problems []problem.Problem

	// Says is what the document says of names in it and in documents grafted to
	// it: On or Off of a name and all below it, or a choice, NAME{OF}. Nil: its
	// names are its own affair. Default is the name that is meant by a graft that
	// names none.
	Says    map[string]string
	Default string

	pieces []Piece // the block that One hands out
}

func (d *Doc) raw(s Span) []byte { return d.Texts[s.Text].Bytes[s.Off:s.End] }

func (d *Doc) decode(p Piece) string {
	s, err := p.Coding.Decode(d.raw(p.Span))
	if err != nil && s == "" {
		return string(d.raw(p.Span))
	}
	return s
}

func (d *Doc) parts(i int) []string {
	m := &d.Mentions[i]
	parts := make([]string, len(m.Pieces))
	for k, p := range m.Pieces {
		parts[k] = d.decode(p)
	}
	return parts
}

func (m *Mention) merge(parts []string) string {
	switch {
	case m.Merge != nil:
		return m.Merge(parts)
	case len(parts) == 0:
		return ""
	}
	return parts[0]
}

// Written is the text of mention i with the carrier's syntax undone and
// nothing else: percent-escapes, backslashes and patterns stay.
func (d *Doc) Written(i int) string {
	if m := &d.Mentions[i]; m.Shown != nil {
		return *m.Shown
	}
	return d.Mentions[i].merge(d.parts(i))
}

// Name is what mention i names: its own text joined to what it leans on.
func (d *Doc) Name(i int) string {
	m := &d.Mentions[i]
	name := m.merge(d.parts(i))
	for k := len(m.Lean) - 1; k >= 0; k-- {
		s := &d.Shared[m.Lean[k]]
		name = s.Join(d.decode(s.Piece), name)
	}
	return name
}

// Splice writes text with the edits of text number n applied. Edits must be
// sorted and must not overlap, as Retarget returns them.
func Splice(w io.Writer, n int, text []byte, edits []Edit) error {
	at := int64(0)
	for _, e := range edits {
		if e.Text != n {
			continue
		}
		if e.Off < at || e.End < e.Off || e.End > int64(len(text)) {
			return fmt.Errorf("edit [%d,%d) overlaps or lies outside its text", e.Off, e.End)
		}
		if _, err := w.Write(text[at:e.Off]); err != nil {
			return err
		}
		if _, err := w.Write(e.New); err != nil {
			return err
		}
		at = e.End
	}
	_, err := w.Write(text[at:])
	return err
}

// OfText are the edits of text number n.
func OfText(edits []Edit, n int) []Edit {
	var mine []Edit
	for _, e := range edits {
		if e.Text == n {
			mine = append(mine, e)
		}
	}
	return mine
}

func sortEdits(edits []Edit) {
	sort.SliceStable(edits, func(a, b int) bool {
		x, y := edits[a].Span, edits[b].Span
		if x.Text != y.Text {
			return x.Text < y.Text
		}
		if x.Off != y.Off {
			return x.Off < y.Off
		}
		return x.End < y.End
	})
}
