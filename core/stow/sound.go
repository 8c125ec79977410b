package stow

import (
	"errors"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/mention"
	"boundcrate/core/names"
	"boundcrate/core/pcm"
)

// The codes of problems with sound that shall be uniform: a file that is carried as it
// is, in Path, and why.
const (
	NotSound      = "not-sound"      // it is not what its name says, or damaged
	CannotBear    = "cannot-bear"    // the type cannot hold what it has
	CountsSamples = "counts-samples" // Document counts in samples of its rate
	OtherCoding   = "other-coding"   // it is not linear sound
)

// linear are the extensions of files that say that they hold linear sound.
var linear = []string{".wav", ".wave", ".bwf", ".rf64", ".aif", ".aiff", ".aifc", ".flac"}

// countSamples are the formats whose documents count in samples of their files: an
// AES31-3 list, a sampled instrument.
var countSamples = []string{"adl", "sfz"}

// SoundPlan is what becomes of one sound.
type SoundPlan struct {
	Type  pcm.Type // as it is
	Rate  int
	To    *pcm.Spec // nil: it is so already
	Bytes int64     // that it will have, or about
}

// PlanSound opens a sound and tells what becomes of it: pcm.ErrNotLinear and others
// where it is none, pcm.ErrCannotBear where it cannot be that.
func PlanSound(reach drive.Reach, path string, to pcm.Spec) (SoundPlan, error) {
	f, err := drive.OpenSized(reach, path)
	if err != nil {
		return SoundPlan{}, err
	}
	defer f.Close()
	s, err := pcm.Open(f, f.Size())
	if err != nil {
		return SoundPlan{}, err
	}
	p := SoundPlan{Type: s.Type, Rate: s.Rate}
	c, err := s.Convert(to)
	if err == nil && c != nil {
		p.To = &c.To
		p.Bytes, _ = c.Size()
	}
	return p, err
}

// sound tells what becomes of a berth's sound, if anything does.
func (p *planner) sound(b *Berth) {
	if p.o.Sound == (pcm.Spec{}) || b.Absent || b.sequence || b.Doc != graph.None || b.pinned || b.Kind != facts.Audio || p.o.Sounds == nil {
		return
	}
	trouble := func(code, document, message string) {
		p.Problems = append(p.Problems, mention.Problem{Code: code, Path: b.Source, Document: document, Message: message})
	}
	s, err := p.o.Sounds(b.Source, p.o.Sound)
	switch {
	case errors.Is(err, pcm.ErrCannotBear):
		trouble(CannotBear, "", string(p.o.Sound.Type))
		return
	case err != nil && slices.Contains(linear, strings.ToLower(filepath.Ext(b.Source))):
		trouble(NotSound, "", "")
		return
	case err != nil:
		trouble(OtherCoding, "", "")
		return
	case s.To == nil:
		return
	}
	if s.To.Rate != s.Rate && b.File != graph.None {
		for _, id := range p.Graph.Files[b.File].Refs {
			d := &p.Graph.Documents[p.Graph.References[id].Doc]
			if _, stays := p.Selection.Stays[d.File]; !stays && slices.Contains(countSamples, d.Format) {
				trouble(CountsSamples, d.Path, "")
				return
			}
		}
	}
	b.Sound, b.Raw, b.Size = s.To, b.Size, s.Bytes
	if s.To.Type != s.Type {
		stem, _ := names.Split(b.Name)
		if b.Name = stem + s.To.Type.Ext(); b.Renamed == AsItWas {
			b.Renamed = Wrapped
		}
	}
}
