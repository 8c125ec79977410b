package stow

import (
	"errors"
	"math"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/export"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
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
	To    *pcm.Spec   // nil: it is so already
	Bytes int64       // that it will have
	About bool        // which is told by samples: within a tenth, as a rule
	Long  int64       // samples of each channel, as it is
	Wide  int         // channels, as it is
	Lost  []string    // what stands beside it and its new file cannot carry
	Tells facts.Facts // what its header tells beside its sound
	// Untold: whether it is whole, and whether it goes beyond full scale, is known only
	// when it is heard.
	Untold bool
}

// Hearing is a sound as it will be made.
type Hearing struct {
	Paths []string
	To    pcm.Spec
	Cut   pcm.Cut
}

// Listen hears a sound as it will be made, as content.Listen does. Nil, and no error:
// that is still to come.
type Listen func(Hearing) (*content.Listened, error)

// Sounds tells what becomes of a sound, or of several that hold a channel each as one, as
// PlanSound does.
type Sounds func(paths []string, to pcm.Spec, cut pcm.Cut) (SoundPlan, error)

// PlanSound opens a sound and tells what becomes of it: pcm.ErrNotLinear and others
// where it is none, pcm.ErrCannotBear where it cannot be that, pcm.ErrUneven where several
// do not fit together.
func PlanSound(reach drive.Reach, paths []string, to pcm.Spec, cut pcm.Cut) (SoundPlan, error) {
	s, closeAll, err := pcm.OpenFiles(reach, paths...)
	if err != nil {
		return SoundPlan{}, err
	}
	defer closeAll()
	p := SoundPlan{Type: s.Type, Rate: s.Rate, Long: s.Frames, Wide: s.Channels, Tells: headerOf(reach, paths[0])}
	s.Take(cut)
	c, err := s.Convert(to)
	if err == nil && c != nil {
		p.To = &c.To
		var known bool
		p.Bytes, known = c.Size()
		p.About = !known
		p.Lost, p.Untold = c.Lost(), c.Untold()
	}
	return p, err
}

func headerOf(reach drive.Reach, path string) facts.Facts {
	f, err := reach.Open(path)
	if err != nil {
		return facts.Facts{}
	}
	defer f.Close()
	got, _ := facts.Read(f, f.Size()) // what cannot be read tells nothing
	return got
}

// sound tells what becomes of a berth's sound, if anything does.
func (p *planner) sound(b *Berth) {
	if p.o.Sound == (pcm.Spec{}) && p.o.Trim == nil || b.Absent || b.sequence || b.Doc != graph.None || b.Kind != facts.Audio || b.pinned && p.o.Sound.Channels == "" || p.o.Sounds == nil {
		return
	}
	trouble := func(kind problem.Kind, document string, args ...string) {
		p.Problems = append(p.Problems, problem.Problem{Kind: kind, Path: b.Source, Document: document, Args: args})
	}
	s, err := p.o.Sounds([]string{b.Source}, p.o.Sound, pcm.Cut{})
	switch {
	case errors.Is(err, pcm.ErrCannotBear):
		trouble(problem.CannotBear, "", string(p.o.Sound.Type))
		return
	case err != nil && slices.Contains(linear, strings.ToLower(filepath.Ext(b.Source))):
		trouble(problem.NotSound, "")
		return
	case err != nil:
		trouble(problem.OtherCoding, "")
		return
	}
	b.soundResult().channels, b.Heard.tells = s.Wide, s.Tells
	if b.pinned {
		return
	}
	long := s.Long
	cut := p.cut(b, s)
	if cut.Frames > 0 {
		c, err := p.o.Sounds([]string{b.Source}, p.o.Sound, cut)
		if err == nil && c.To != nil {
			s = c
		} else {
			cut = pcm.Cut{}
		}
	}
	if s.To == nil {
		return
	}
	if s.To.Rate != s.Rate && b.File != graph.None {
		for _, id := range p.Graph.Files[b.File].Refs {
			d := &p.Graph.Documents[p.Graph.References[id].Doc]
			if _, stays := p.Selection.Stays[d.File]; !stays && slices.Contains(countSamples, d.Format) {
				trouble(problem.CountsSamples, d.Path)
				return
			}
		}
	}
	heard, whole := p.listen(s, cut, b.Source)
	if !whole {
		return
	}
	p.loses(s.Lost)
	h := b.soundResult()
	if cut.Frames > 0 {
		h.Cut, h.Long = &cut, long
	}
	h.Known = heard
	h.Sound, h.Raw, h.rate, h.About = s.To, b.Size, float64(s.Rate), s.About
	b.Size = s.Bytes
	if heard != nil {
		b.Size, h.About = heard.Result.Bytes, false
	}
	if s.To.Type != s.Type {
		stem, _ := names.Split(b.Name)
		if b.Name = stem + s.To.Type.Ext(); b.Renamed == AsItWas {
			b.Renamed = Wrapped
		}
	}
}

// listen hears a sound as it will be made, or notes that this is still to come, and tells
// what it loses. One that is not whole is carried as it is.
func (p *planner) listen(s SoundPlan, cut pcm.Cut, paths ...string) (heard *content.Listened, whole bool) {
	if !s.Untold || p.o.Listen == nil {
		return nil, true
	}
	of := Hearing{paths, *s.To, cut}
	heard, err := p.o.Listen(of)
	switch {
	case errors.Is(err, facts.ErrDamaged):
		p.Problems = append(p.Problems, problem.Problem{Kind: problem.BrokenSound, Path: blamed(err, paths[0])})
		return nil, false
	case err != nil: // sealing meets it again, and says so
		return nil, true
	case heard == nil:
		p.Unheard = append(p.Unheard, of)
		return nil, true
	}
	p.Problems = append(p.Problems, SoundProblems(paths[0], heard.Result)...)
	return heard, true
}

// blamed is the file that an error speaks of.
func blamed(err error, or string) string {
	if bad, ok := errors.AsType[*content.ReadError](err); ok {
		return bad.Path
	}
	return or
}

// SoundProblems tells what of a sound its new file does not hold as it was.
func SoundProblems(source string, r pcm.Result) (list []problem.Problem) {
	if r.Clipped > 0 {
		list = append(list, problem.Problem{Kind: problem.Clipped, Path: source, Args: []string{strconv.FormatInt(r.Clipped, 10), strconv.FormatFloat(r.Gain(), 'f', 1, 64)}})
	}
	if r.Odd > 0 {
		list = append(list, problem.Problem{Kind: problem.NoNumbers, Path: source, Args: []string{strconv.FormatInt(r.Odd, 10)}})
	}
	return list
}

// loses tells, once for a plan, what stands beside sounds and their new files cannot carry.
func (p *planner) loses(lost []string) {
	if len(lost) == 0 {
		return
	}
	if p.SoundLoses == nil {
		p.SoundLoses = &export.Loss{Code: export.BesideSound}
	}
	l := p.SoundLoses
	l.Count++
	all := strings.Split(l.What, ", ")
	for _, x := range lost {
		if !slices.Contains(all, x) {
			all = append(all, x)
		}
	}
	l.What = strings.TrimPrefix(strings.Join(all, ", "), ", ")
}

// cut is the part of a sound that its documents use, with what shall be kept around it,
// in whole seconds of the file so that every rate can tell it; none where a document cannot tell it
// anew, or uses what is not there.
func (p *planner) cut(b *Berth, s SoundPlan) pcm.Cut {
	if p.o.Trim == nil || b.File == graph.None || s.Rate == 0 {
		return pcm.Cut{}
	}
	long := float64(s.Long) / float64(s.Rate)
	first, last := math.Inf(1), 0.0
	for _, id := range p.Graph.Files[b.File].Refs {
		r := &p.Graph.References[id]
		if _, stays := p.Selection.Stays[p.Graph.Documents[r.Doc].File]; stays {
			continue
		}
		from, to, ok := usedOf(r)
		if !ok || r.Slide.Images || to > long+slack {
			return pcm.Cut{}
		}
		first, last = min(first, from), max(last, to)
	}
	if p.standsForOthers(b.File) {
		return pcm.Cut{}
	}
	if last == 0 {
		return pcm.Cut{}
	}
	first, last = math.Floor(max(0, first-*p.o.Trim)), math.Ceil(last+*p.o.Trim)
	c := pcm.Cut{First: int64(first) * int64(s.Rate)}
	if c.Frames = min(s.Long, int64(last)*int64(s.Rate)) - c.First; c.Frames >= s.Long {
		return pcm.Cut{}
	}
	return c
}
