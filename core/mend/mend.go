// Package mend finds missing files again: it searches the folders it is told
// to, ranks what it meets by evidence, and writes repairs into documents when
// asked. A wrong link is worse than a missing one.
package mend

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
)

// Seen is what is remembered of a file from the last trace that found it.
type Seen struct {
	Size    int64
	SHA256  string // hex; empty: not read yet
	ModTime time.Time
	Facts   facts.Facts
	At      time.Time // when
}

// Memory looks up what was last seen at a path.
type Memory func(path string) (Seen, bool)

// Doubt tells a loosely spelled find from the file that was last seen, by its
// content. It is a resolve.Resolver's Doubt.
func Doubt(ctx context.Context, memory Memory, hash func(context.Context, string) (string, error)) func(string, string, drive.Info) bool {
	return func(expected, found string, info drive.Info) bool {
		last, ok := memory(expected)
		if !ok || last.SHA256 == "" {
			return false
		}
		if last.Size != info.Size {
			return true
		}
		sum, err := hash(ctx, found)
		return err == nil && sum != last.SHA256
	}
}

// Certainty tells how sure a candidate is.
type Certainty string

// The certainties. Certain is safe to apply unasked.
const (
	Certain  Certainty = "certain"
	Likely   Certainty = "likely"
	Possible Certainty = "possible"
)

// Candidate is a file that may be the missing one.
type Candidate struct {
	Path      string    `json:"path"` // a resolve.Pattern for sequences
	Certainty Certainty `json:"certainty"`
	Score     float64   `json:"score"` // 0 to 1
	Reasons   []string  `json:"reasons"`
	Warnings  []string  `json:"warnings,omitempty"` // what disagrees
	Size      int64     `json:"size"`
	Files     int       `json:"files"`
}

// Wanted is one file to find again, with everything that names it.
type Wanted struct {
	Expected   string // where it should be; the key of its repair
	References []int  // of the graph
	Kind       facts.Kind
	Sequence   *mention.Sequence
	Gaps       []resolve.Gap // of a sequence that is there in part: what it lacks
	Last       *Seen
}

// Missing lists what a graph lacks and a search may find: what is missing, has
// twins or has gaps. What is unplugged wants its drive, not a search.
func Missing(g *trace.Graph, memory Memory) []Wanted {
	var list []Wanted
	at := map[string]int{}
	for i := range g.References {
		r := &g.References[i]
		gaps := r.State.Found() && len(r.Gaps) > 0
		if r.State != resolve.Missing && r.State != resolve.Twins && !gaps || r.Network || r.Write || r.Expected == "" {
			continue
		}
		k, ok := at[r.Expected]
		if !ok {
			k = len(list)
			at[r.Expected] = k
			w := Wanted{Expected: r.Expected, Kind: r.Kind, Sequence: g.Documents[r.Doc].File.Doc.Mentions[r.Mention].Sequence}
			w.Last = last(g, r, memory)
			if gaps {
				w.Gaps = r.Gaps
			}
			list = append(list, w)
		}
		list[k].References = append(list[k].References, i)
	}
	return list
}

// last looks up what was last seen where a reference leads. A document that was
// found elsewhere names its files from its new place; what was seen of them was
// seen from the old one.
func last(g *trace.Graph, r *trace.Reference, memory Memory) *Seen {
	d := &g.Documents[g.Documents[r.Doc].Host]
	for _, p := range append([]string{r.Expected}, r.Also...) {
		if s, ok := memory(p); ok {
			return &s
		}
		if d.Was == "" {
			continue
		}
		rel, err := filepath.Rel(filepath.Dir(d.Path), p)
		if err != nil {
			continue
		}
		if s, ok := memory(filepath.Join(filepath.Dir(d.Was), rel)); ok {
			return &s
		}
	}
	return nil
}

// Index is what a search met.
type Index struct {
	files  []file
	byName map[string][]int // folded name
	bySize map[int64][]int
	byDir  map[string][]int
}

type file struct {
	drive.Entry
	stem string // loose
	ext  string
	kind facts.Kind
}

// Progress of a search: files met so far and the folder it is in.
type Progress func(files int, folder string)

// Search walks the folders. It stops when ctx ends, with what was met so far
// and the error.
func Search(ctx context.Context, reach drive.Reach, folders []string, progress Progress) (*Index, error) {
	x := &Index{byName: map[string][]int{}, bySize: map[int64][]int{}, byDir: map[string][]int{}}
	met := map[string]bool{}
	for _, dir := range folders {
		err := drive.Walk(ctx, reach, filepath.Clean(dir), func(e drive.Entry) error {
			if met[e.Path] {
				return nil // one of the folders lies in another
			}
			met[e.Path] = true
			base := filepath.Base(e.Path)
			ext := filepath.Ext(base)
			i := len(x.files)
			x.files = append(x.files, file{e, loose(strings.TrimSuffix(base, ext)), strings.ToLower(ext), facts.KindOfName(base)})
			key := resolve.Fold(base)
			x.byName[key] = append(x.byName[key], i)
			x.bySize[e.Size] = append(x.bySize[e.Size], i)
			x.byDir[filepath.Dir(e.Path)] = append(x.byDir[filepath.Dir(e.Path)], i)
			if progress != nil && len(x.files)%64 == 0 {
				progress(len(x.files), filepath.Dir(e.Path))
			}
			return nil
		})
		if err != nil {
			return x, err
		}
	}
	return x, nil
}

// Files is how many files the search met.
func (x *Index) Files() int { return len(x.files) }

// Evidence reads what candidates are compared by. Hash may remember.
type Evidence struct {
	Reach  drive.Reach
	Hash   func(ctx context.Context, path string) (string, error)
	Memory Memory // of the frames of sequences
}

const (
	alike         = 0.87 // Jaro–Winkler of two stems from which a name is offered
	mostOffered   = 12
	mostSequenced = 20_000
)

// Candidates ranks the files met for one wanted file, best first.
func (x *Index) Candidates(ctx context.Context, w Wanted, ev Evidence) ([]Candidate, error) {
	if w.Sequence != nil {
		return x.sequences(ctx, w, ev)
	}
	base := filepath.Base(w.Expected)
	ext := filepath.Ext(base)
	stem := loose(strings.TrimSuffix(base, ext))
	parent := filepath.Base(filepath.Dir(w.Expected))
	found := map[int]*Candidate{}
	offer := func(i int, score float64, reason string) {
		if found[i] == nil && x.files[i].Path != w.Expected {
			found[i] = &Candidate{Path: x.files[i].Path, Certainty: Possible, Size: x.files[i].Size, Files: 1, Score: score, Reasons: []string{reason}}
		}
	}
	exact := 0
	for _, i := range x.byName[resolve.Fold(base)] {
		if filepath.Base(x.files[i].Path) == base {
			offer(i, 0.55, "same name")
			exact++
		} else {
			offer(i, 0.5, "same name, spelled otherwise")
		}
	}
	for i := range x.files {
		f := &x.files[i]
		if i%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if found[i] != nil || f.kind != w.Kind || (w.Kind == facts.Other && !strings.EqualFold(f.ext, ext)) || stem == "" || f.stem == "" {
			continue
		}
		same := strings.EqualFold(f.ext, ext)
		switch {
		case f.stem == stem && same:
			offer(i, 0.48, "same name, its words parted otherwise")
		case f.stem == stem:
			offer(i, 0.42, "same name with the extension "+f.ext)
		case len(stem) >= 3 && same && strings.HasPrefix(f.stem, stem+" "):
			offer(i, 0.4, fmt.Sprintf("name differs by the ending “%s”", strings.TrimSpace(f.stem[len(stem):])))
		case len(f.stem) >= 3 && same && strings.HasPrefix(stem, f.stem+" "):
			offer(i, 0.4, fmt.Sprintf("name lacks the ending “%s”", strings.TrimSpace(stem[len(f.stem):])))
		case same && 2*len(f.stem) >= len(stem) && 2*len(stem) >= len(f.stem):
			if l := Likeness(stem, f.stem); l >= alike {
				offer(i, 0.36*l, fmt.Sprintf("name is alike (%.0f of 100)", 100*l))
			}
		}
	}
	var contents []int
	if w.Last != nil && w.Last.SHA256 != "" && w.Last.Size > 0 {
		for _, i := range x.bySize[w.Last.Size] {
			sum, err := ev.Hash(ctx, x.files[i].Path)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err != nil {
				continue // cannot be read now; its name may still speak for it
			}
			if sum == w.Last.SHA256 {
				offer(i, 0.4, "under another name")
				contents = append(contents, i)
			} else if c := found[i]; c != nil {
				c.Warnings = append(c.Warnings, "same size, other content than when last seen")
			}
		}
	}
	for i, c := range found {
		if filepath.Base(filepath.Dir(c.Path)) == parent {
			c.Score += 0.05
			c.Reasons = append(c.Reasons, "same parent folder")
		}
		switch {
		case slices.Contains(contents, i):
			c.Score = 0.9 + 0.1*math.Min(1, c.Score)
			c.Reasons = slices.Insert(c.Reasons, 0, "same content as when last seen")
			c.Certainty = Likely
		case w.Last == nil:
			if c.Reasons[0] == "same name" && exact == 1 {
				c.Certainty = Likely
			}
		default:
			ev.compare(c, w.Last)
		}
	}
	sure(contents, found)
	return ranked(found), nil
}

// compare holds a candidate of other or unknown content against what was last
// seen.
func (ev Evidence) compare(c *Candidate, last *Seen) {
	if c.Size != last.Size {
		c.Score *= 0.7
		c.Warnings = append(c.Warnings, fmt.Sprintf("%d bytes, last seen with %d", c.Size, last.Size))
	} else if last.SHA256 == "" {
		c.Score += 0.2
		c.Reasons = append(c.Reasons, "same size as last seen")
		c.Certainty = Likely
	}
	if last.Facts == (facts.Facts{}) {
		return
	}
	f, err := drive.OpenSized(ev.Reach, c.Path)
	if err != nil {
		return
	}
	defer f.Close()
	got, err := facts.Read(f, f.Size())
	if errors.Is(err, facts.ErrDamaged) {
		c.Warnings = append(c.Warnings, err.Error())
	}
	if err != nil {
		return
	}
	if last.Facts.ID != "" && got.ID != "" {
		if got.ID == last.Facts.ID {
			c.Score += 0.2
			c.Reasons = append(c.Reasons, "same embedded id")
			c.Certainty = Likely
		} else {
			c.Warnings = append(c.Warnings, "another embedded id than when last seen")
		}
	}
	if last.Facts.Seconds > 0 && got.Seconds > 0 {
		if math.Abs(got.Seconds-last.Facts.Seconds) < 0.001 && got.Rate == last.Facts.Rate {
			c.Score += 0.1
			c.Reasons = append(c.Reasons, "same length and rate")
		} else {
			c.Warnings = append(c.Warnings, fmt.Sprintf("%.3f s at %d Hz, last seen with %.3f s at %d Hz", got.Seconds, got.Rate, last.Facts.Seconds, last.Facts.Rate))
		}
	}
	if last.Facts.Width > 0 && got.Width > 0 {
		if got.Width == last.Facts.Width && got.Height == last.Facts.Height {
			c.Score += 0.05
			c.Reasons = append(c.Reasons, "same frame size")
		} else {
			c.Warnings = append(c.Warnings, fmt.Sprintf("%d × %d, last seen with %d × %d", got.Width, got.Height, last.Facts.Width, last.Facts.Height))
		}
	}
}

// sure makes the one candidate certain that has the content and stands alone
// with it, or alone with it under the same name.
func sure[K comparable](contents []K, found map[K]*Candidate) {
	if len(contents) == 1 {
		found[contents[0]].Certainty = Certain
		return
	}
	var named *Candidate
	for _, i := range contents {
		c := found[i]
		if slices.Contains(c.Reasons, "same name") {
			if named != nil {
				named = nil
				break
			}
			named = c
		}
	}
	for _, i := range contents {
		found[i].Reasons = append(found[i].Reasons, fmt.Sprintf("one of %d with this content", len(contents)))
	}
	if named != nil {
		named.Certainty = Certain
	}
}

func ranked[K comparable](found map[K]*Candidate) []Candidate {
	list := make([]Candidate, 0, len(found))
	for _, c := range found {
		c.Score = math.Round(1000*math.Min(c.Score, 0.999)) / 1000
		list = append(list, *c)
	}
	rank := map[Certainty]int{Certain: 0, Likely: 1, Possible: 2}
	sort.Slice(list, func(a, b int) bool {
		x, y := list[a], list[b]
		if rank[x.Certainty] != rank[y.Certainty] {
			return rank[x.Certainty] < rank[y.Certainty]
		}
		if x.Score != y.Score {
			return x.Score > y.Score
		}
		return x.Path < y.Path
	})
	return list[:min(len(list), mostOffered)]
}

// Sure returns the candidate that may be applied unasked: certain and alone.
func Sure(cs []Candidate) (Candidate, bool) {
	if len(cs) == 0 || cs[0].Certainty != Certain || len(cs) > 1 && cs[1].Certainty == Certain {
		return Candidate{}, false
	}
	return cs[0], true
}

// Repair is the rule that applies a candidate.
func (w Wanted) Repair(c Candidate) resolve.Repair {
	return resolve.Repair{From: w.Expected, To: c.Path}
}

// Check tells whether a file chosen by hand can stand for the wanted one, and
// what disagrees with what was last seen.
func (w Wanted) Check(ctx context.Context, path string, ev Evidence) (Candidate, error) {
	info, err := ev.Reach.Stat(path)
	if err != nil {
		return Candidate{}, err
	}
	if !info.Mode.IsRegular() {
		return Candidate{}, drive.ErrNotRegular
	}
	c := Candidate{Path: path, Size: info.Size, Files: 1, Certainty: Possible, Reasons: []string{"chosen by hand"}}
	if w.Last != nil {
		if w.Last.SHA256 != "" && w.Last.Size == info.Size {
			if sum, err := ev.Hash(ctx, path); err == nil && sum == w.Last.SHA256 {
				c.Certainty = Certain
				c.Reasons = append(c.Reasons, "same content as when last seen")
				return c, nil
			}
			c.Warnings = append(c.Warnings, "same size, other content than when last seen")
		}
		ev.compare(&c, w.Last)
	}
	return c, nil
}
