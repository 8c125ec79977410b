package stow

import (
	"boundcrate/core/pack/content"
	"path"
	"path/filepath"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// Berth is one line of the plan: this file, to that place, under that name.
type Berth struct {
	File     graph.FileID
	Key      string // the file's identity, as text
	Source   string // the file; "" for sequences and for what is not there
	From     string // the folder it comes from
	Was      string // the name it comes with
	Folder   string // in the crate, below data/, "" for the top
	Name     string // a pattern's shown name for sequences
	Kind     facts.Kind
	Use      mention.Use
	Size     int64
	Doc      graph.DocID
	Absent   bool // nothing is copied: it stays, or it is not there
	Why      Absence
	Renamed  Renaming
	Clashed  bool   // a clash made the name or the folder what it is
	Wished   bool   // a person said where it goes
	Typed    string // the folder or name as a person typed it, where the rules changed it
	Uses     int    // how many mentions name it
	sequence bool
	*Series        // of a sequence
	Twin     int32 // of a duplicate that stays: the berth that stands for it; it has no place of its own
	pinned   bool  // a document that cannot be rewritten looks for it there
	*Heard
	*Beside
	*Simpler
}

// Heard is what a berth has beside whose sound is made anew, or of which a part is taken;
// others share one that says nothing.
type Heard struct {
	Sound    *pcm.Spec         // what its sound becomes; nil: it is copied as it is
	Cut      *pcm.Cut          // what is taken of its sound, or of its images; nil: all
	Long     int64             // of what is cut: its samples of each channel, or images, as it is
	rate     float64           // of what is cut: samples, or images, a second, as it is
	Raw      int64             // of a sound that is converted, and of what is cut: its bytes now
	Known    *content.Listened // what came of it when it was heard; nil: nobody listened
	About    bool              // its size is told by samples of it
	With     []string          // of a sound that is joined of files with a channel each: the further ones
	channels int               // of a sound; 0: nobody looked
	tells    facts.Facts       // of a sound: what its header tells
}

// Beside is what a berth has that goes along though no reference names it.
type Beside struct {
	Along sift.Along // why; File is none then
	aside *Aside     // of a document
}

// Simpler is what a berth has of a simpler document that is made beside another.
type Simpler struct {
	Form export.Form
	Of   graph.DocID // that one
}

// What berths share that have nothing of a kind. Nobody writes into them.
var (
	unheard = &Heard{}
	byName  = &Beside{}
	notMade = &Simpler{Of: graph.None}
)

// asIs is a berth of a file that is copied as it is.
func asIs(b Berth) Berth {
	b.Heard, b.Beside, b.Simpler = unheard, byName, notMade
	return b
}

// soundResult gives a berth its own Heard, to be written into.
func (b *Berth) soundResult() *Heard {
	if b.Heard == unheard {
		b.Heard = &Heard{}
	}
	return b.Heard
}

// Series is what a berth of many files has beside; of others it is nil, which keeps twenty
// thousand of them small.
type Series struct {
	Frames  []string
	Pattern graph.Pattern // as it will stand in the crate
	origin  graph.Pattern // as it stands now
	sizes   []int64
	step    int // of one that is cut: by which its numbers go on
}

// Files is how many files the berth copies.
func (b *Berth) Files() int {
	switch {
	case b.Absent:
		return 0
	case b.sequence:
		return len(b.Frames)
	}
	return 1
}

// IsSequence tells berths of many files.
func (b *Berth) IsSequence() bool { return b.sequence }

// To is the berth's place below data/.
func (b *Berth) To() string {
	if b.Folder == "" { // both are in plain form
		return b.Name
	}
	return b.Folder + "/" + b.Name
}

// Apart tells files that hold the channels of a sound otherwise: none of them stands for
// the file it is made of.
func (b *Berth) Apart() bool { return b.Along == sift.Channels }

// Left is something that does not travel.
type Left struct {
	Path   string  `json:"path"`
	Why    Absence `json:"why"`
	Detail string  `json:"detail,omitempty"`
	point  int     // of a write point: its number
}

// places lists the paths below data/ the berth takes.
func (b *Berth) places() []string {
	if !b.sequence || len(b.Frames) == 0 {
		return []string{b.To()}
	}
	list := make([]string, len(b.Frames))
	for i, f := range b.Frames {
		list[i] = path.Join(b.Folder, b.frame(f))
	}
	return list
}

// frame is the name of one frame in the crate: its number under the pattern
// of the berth.
func (b *Berth) frame(file string) string {
	base := filepath.Base(file)
	mid, ok := strings.CutPrefix(base, b.origin.Head)
	mid, ok2 := strings.CutSuffix(mid, b.origin.Tail)
	if !ok || !ok2 {
		return base
	}
	return b.Pattern.Head + mid + b.Pattern.Tail
}
