package seal

import (
	"path"
	"strings"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/tally"
	"boundcrate/core/text/bag"
)

// Sheet is what the sheets for people tell of a crate: READ ME.txt, sheet.html.
type Sheet struct {
	Tally     tally.Tally // of the project, when it was sealed; the zero one where nobody counted
	Name      string
	Made      time.Time
	Files     int
	Bytes     int64
	Note      string
	For, From string
	Documents []string // to open first, in the crate
	Contents  []SheetFile
	Left      []stow.Left
	Renamed   []Renamed
	Simpler   []stow.Made // without their bytes
	Revisions []Revision
	Suspect   []Suspect
	Points    []stow.Aimed   // write points that led elsewhere
	Repoints  []stow.Repoint // what the receiver must point anew
	// SoundLoses is what could not go with sounds that were made anew.
	SoundLoses *export.Loss
	Since      string // of a difference crate: the crate it builds on
	Fetched    Amount // and what is in that one
	Packed     string // SHA-256 of a crate that is one file in a format's own package; "" of a bag
}

// SheetFile is a file of the payload.
type SheetFile struct {
	Path    string // below the crate's base, with slashes
	Size    int64
	Kind    facts.Kind
	Facts   facts.Facts
	Sound   string // what its sound was brought to; "" as it was
	Fetched bool   // it is not carried: the receiver has it by another crate
}

// Suspect is a file that something speaks against, at its place below data/.
type Suspect struct {
	Path string            `json:"path"`
	Why  []graph.Suspicion `json:"why"`
}

// Revision is a file that came out of a managed store, which was only read.
type Revision struct {
	To, Is, From string
}

// recordMade is a document that was made beside the native ones.
type recordMade struct {
	Path   string        `json:"path"`
	Form   export.Form   `json:"form,omitempty"`
	Losses []export.Loss `json:"losses,omitempty"`
}

// sheet tells of a crate by its record; size tells the bytes of a file below the base.
func (r *record) sheet(name string, size func(string) int64) Sheet {
	s := Sheet{
		Tally: r.Tally, Name: name, Made: r.Made, Note: r.Note, For: r.For, From: r.From, Left: r.Left, Suspect: r.Suspect, Renamed: r.Renamed,
		Points: r.Points, Repoints: r.Repoints, SoundLoses: r.SoundLoses, Since: r.Since,
	}
	for _, d := range r.Documents {
		s.Documents = append(s.Documents, d.Path)
	}
	fetched := map[string]bool{}
	for _, p := range r.Fetched {
		fetched[p] = true
	}
	for _, f := range r.Files {
		x := SheetFile{Path: f.Path, Size: size(f.Path), Kind: f.Kind, Sound: f.Sound, Fetched: fetched[f.Path]}
		if x.Kind == "" {
			x.Kind = facts.KindOfName(f.Path)
		}
		if f.Facts != nil {
			x.Facts = *f.Facts
		}
		s.add(x)
		if f.Revision != "" {
			s.Revisions = append(s.Revisions, Revision{strings.TrimPrefix(f.Path, bag.Payload+"/"), f.Revision, f.Source})
		}
	}
	for _, m := range r.Simpler {
		s.Simpler = append(s.Simpler, stow.Made{To: m.Path, Form: m.Form, Losses: m.Losses})
		at := path.Join(bag.Payload, m.Path)
		s.add(SheetFile{Path: at, Size: size(at), Kind: facts.Document})
	}
	return s
}

func (s *Sheet) add(f SheetFile) {
	s.Contents = append(s.Contents, f)
	s.Files, s.Bytes = s.Files+1, s.Bytes+f.Size
	if f.Fetched {
		s.Fetched.add(f.Size)
	}
}

func slashed(p string) string { return strings.ReplaceAll(p, `\`, "/") }

// counted is the project's tally, which is the same whenever it is asked for.
func (s *sealer) counted() tally.Tally {
	if s.tally == nil {
		t := tally.Of(s.Plan.Graph, s.Plan.Judged, nil)
		s.tally = &t
	}
	return *s.tally
}

// factsOf is what is known of each source without opening it again.
func (s *sealer) factsOf() map[string]facts.Facts {
	known := map[string]facts.Facts{}
	for i := range s.Plan.Graph.Files {
		if f := &s.Plan.Graph.Files[i]; f.Look != nil && f.Look.Facts != (facts.Facts{}) {
			known[f.Path] = f.Look.Facts
		}
	}
	return known
}

// brought are the facts of a sound once it is converted, cut and joined.
func brought(f facts.Facts, c *stow.Copy) facts.Facts {
	if c.Sound == nil {
		return f
	}
	rate := f.Rate
	if c.Sound.Rate > 0 {
		f.Rate = c.Sound.Rate
	}
	if c.Sound.Depth > 0 {
		f.Depth = c.Sound.Depth
	}
	if len(c.With) > 0 {
		f.Channels *= 1 + len(c.With)
	}
	if c.Cut != nil && c.Cut.Frames > 0 && rate > 0 {
		f.Seconds = float64(c.Cut.Frames) / float64(rate)
	}
	if c.Cut != nil && c.Cut.Channel > 0 {
		f.Channels = 1
	}
	return f
}
