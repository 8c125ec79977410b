// Package export writes simpler documents beside the native one: an edit decision list
// (SMPTE ST 258), an audio decision list (AES31-3), a playlist, an older timeline, a plain
// list. What the simpler form cannot carry is counted from the document before anything
// is written.
package export

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// Form is a form of interchange.
type Form string

// The forms.
const (
	EDL   Form = "edl"
	ADL   Form = "adl"
	M3U   Form = "m3u"
	XSPF  Form = "xspf"
	OTIO1 Form = "otio-1"
	List  Form = "list"
)

// Forms are all of them.
var Forms = []Form{EDL, ADL, M3U, XSPF, OTIO1, List}

// Ext is the extension of a form's documents.
func (f Form) Ext() string {
	switch f {
	case M3U:
		return ".m3u8"
	case OTIO1:
		return ".otio"
	case List:
		return ".csv"
	}
	return "." + string(f)
}

// Timeline tells forms that only a timeline can be told in.
func (f Form) Timeline() bool { return f == EDL || f == ADL || f == OTIO1 }

// Code is what a form cannot carry.
type Code string

// The codes, in the words of the command line's contract.
const (
	NestedTimeline   Code = "nested-timeline"
	Effect           Code = "effect"
	Speed            Code = "speed"
	TransitionLost   Code = "transition"
	Generator        Code = "generator"
	AlternativeMedia Code = "alternative-media"
	Gap              Code = "gap"
	Marker           Code = "marker"
	ExtraTrack       Code = "extra-track"
	Disabled         Code = "disabled"
	Metadata         Code = "metadata"
	LongName         Code = "long-name"
	Sequence         Code = "sequence"
	NameChanged      Code = "name-changed"
	BesideSound      Code = "beside-sound"  // notes, markers, tags of a sound that is made anew; What names them
	OddRate          Code = "odd-rate"      // the form is made for 24, 25 and 30 frames a second
	PastMidnight     Code = "past-midnight" // an address of more than a day begins anew
)

// Codes are all of them, as they are told.
var Codes = []Code{NestedTimeline, Effect, Speed, TransitionLost, Generator, AlternativeMedia, Gap, Marker, ExtraTrack, Disabled, Metadata, LongName, Sequence, NameChanged, BesideSound, OddRate, PastMidnight}

// Loss is something of a document that a form cannot carry.
type Loss struct {
	Code  Code
	What  string // the first of it, by its name
	Count int
}

// ErrNoTimeline: the document has no timeline that the form could tell.
var ErrNoTimeline = errors.New("the document has no timeline")

// Options is what to export.
type Options struct {
	As    Form
	Graph *graph.Graph
	Doc   graph.DocID
	Says  *mention.Doc // the document as it was read, of a timeline
	// Name tells how the new document shall name a file: a relative or whole path with
	// slashes. "" leaves it out.
	Name func(file graph.FileID) string
	// Frames tells where the files of a sequence will lie and how they will be called, its
	// folder relative to the new document. nil: they keep their names.
	Frames func(file graph.FileID) (graph.Pattern, bool)
	// Channels tells how many channels a file's sound has, and how the new document shall
	// name the files that hold one each; none: they lie in one file. nil: nobody knows.
	Channels func(file graph.FileID) (n int, apart []string)
	// Cut tells how many seconds at its beginning a file will lack; nil: none lacks any.
	Cut func(file graph.FileID) float64
}

// Document is what will be written.
type Document struct {
	Bytes  []byte
	Losses []Loss
}

// Make makes a simpler document.
func Make(o Options) (*Document, error) {
	if !slices.Contains(Forms, o.As) {
		return nil, fmt.Errorf("%w: %q", errors.ErrUnsupported, o.As)
	}
	l := losses{}
	doc := &o.Graph.Documents[o.Doc]
	if doc.Format == "otio" {
		if o.As == OTIO1 {
			b, err := older(o, l)
			return &Document{b, l.list()}, err
		}
		t, err := readTimeline(o, l)
		if err != nil {
			return nil, err
		}
		var b []byte
		switch o.As {
		case EDL:
			b = t.edl(l)
		case ADL:
			b = t.adl(l)
		default:
			b = entries(o.As, t.flat(l), l)
		}
		return &Document{b, l.list()}, nil
	}
	if o.As.Timeline() {
		return nil, ErrNoTimeline
	}
	return &Document{entries(o.As, named(o, l), l), l.list()}, nil
}

// losses counts.
type losses map[Code]*Loss

func (l losses) add(code Code, what string) {
	if l[code] == nil {
		l[code] = &Loss{Code: code, What: what}
	}
	l[code].Count++
}

func (l losses) list() []Loss {
	list := []Loss{}
	for _, c := range Codes {
		if l[c] != nil {
			list = append(list, *l[c])
		}
	}
	return list
}

// plain is a name on one line.
func plain(s string, l losses) string {
	clean := strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7F {
			return ' '
		}
		return r
	}, s)
	if clean != s {
		l.add(NameChanged, clean)
	}
	return clean
}

// ChannelsAt tells how many channels the sound of a file has by its header; 0 where it has
// none or cannot be read.
func ChannelsAt(reach drive.Reach, path string) int {
	f, err := reach.Open(path)
	if err != nil {
		return 0
	}
	defer f.Close()
	got, err := facts.Read(f, f.Size())
	if err != nil {
		return 0
	}
	return got.Channels
}
