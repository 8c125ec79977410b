// Package mend finds missing files again: it asks an index for all of them in
// one go, ranks what it is offered by evidence, and writes repairs into
// documents when asked. A wrong link is worse than a missing one.
package mend

import (
	"cmp"
	"context"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/text/mention"
)

// Seen is what is remembered of a file from the last trace that found it.
type Seen struct {
	Size    int64
	SHA256  string // hex; empty: not read yet
	ModTime time.Time
	Node    drive.Node
	Facts   facts.Facts
	At      time.Time // when
	Before  *Seen     // what was there before it changed in place; nil: it did not, or that is meant
	Lent    bool      // other documents found it there; the one that asks never did
}

// Memory looks up what was last seen at a path where a document names it; "" as document
// is whoever.
type Memory func(document, path string) (Seen, bool)

// Nothing is a memory that holds nothing.
func Nothing(string, string) (Seen, bool) { return Seen{}, false }

// Hash is the SHA-256 of a file's content, in hex; it may remember.
type Hash func(ctx context.Context, path string) (string, error)

// Doubt tells a loosely spelled find from the file that was last seen, by its
// content. It is a resolve.Resolver's Doubt.
func Doubt(ctx context.Context, memory Memory, hash Hash) func(string, string, drive.Info) bool {
	return func(expected, found string, info drive.Info) bool {
		last, ok := memory("", expected)
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

// rank is less for what is surer.
func (c Certainty) rank() int {
	switch c {
	case Certain:
		return 0
	case Likely:
		return 1
	}
	return 2
}

// Candidate is a file that may be the missing one.
type Candidate struct {
	Path      string
	Certainty Certainty
	Score     float64 // 0 to 1
	For       []Evidence
	Against   []Evidence
	Size      int64
	Files     int
	Sequence  bool // Path is a graph.Pattern

	examined bool
	parallel bool // what speaks for another set is that its folder lies beside the first, which stands
	share    float64
	own      float64 // its odds against none of them
	bytes    string  // what it has in common with its copies, where some were found
	disputed bool    // other documents saw something else under the wanted one's path
	move     *move   // the one it belongs to
	turn     int     // the search folder it was found in, in the order they were named
}

// Codes are the codes of what speaks for and against the candidate.
func (c Candidate) Codes() []Code {
	out := make([]Code, 0, len(c.For)+len(c.Against))
	for _, e := range c.For {
		out = append(out, e.Code)
	}
	for _, e := range c.Against {
		out = append(out, e.Code)
	}
	return out
}

// Warns tells whether a piece of evidence speaks against the candidate.
func (c *Candidate) Warns(code Code) bool {
	return slices.ContainsFunc(c.Against, func(e Evidence) bool { return e.Code == code })
}

// HasCode tells whether a piece of evidence speaks for the candidate.
func (c *Candidate) HasCode(code Code) bool {
	for _, e := range c.For {
		if e.Code == code {
			return true
		}
	}
	return false
}

// Wanted is one file to find again, with everything that names it.
type Wanted struct {
	File     graph.FileID
	Document string // the first that names it, with whose memory it is looked for
	Expected string // where it should be, as its first reference names it; the key of its repair
	Refs     []graph.RefID
	Kind     facts.Kind
	Sequence *mention.Sequence
	Gaps     []graph.Gap // of a sequence that is there in part: what it lacks
	Last     *Seen
	Ranges   []mention.Range   // the parts of it that are used
	Told     *mention.Told     // what the documents tell of it; nil: nothing
	Suspect  []graph.Suspicion // what speaks against the file that is there under its name
	Guessed  bool              // a name that no format's rule tells: nothing of it is certain unseen
	Bare     bool              // documents tell its name alone, in no folder
}

// Missing lists what a graph lacks and a search may find: what is missing, has
// twins or has gaps, or is there and speaks otherwise. What is unplugged wants its drive, not a search, and what a
// program makes again is made again.
func Missing(g *graph.Graph, judged *origin.Judged, memory Memory) []Wanted {
	var list []Wanted
	for i := range g.Files {
		if w, ok := WantedAt(g, judged, graph.FileID(i), memory); ok {
			list = append(list, w)
		}
	}
	return list
}

// WantedAt is the entry of Missing for one file; false where it lacks nothing.
func WantedAt(g *graph.Graph, judged *origin.Judged, id graph.FileID, memory Memory) (Wanted, bool) {
	f := &g.Files[id]
	suspect := judged.Suspicions(id)
	gaps := f.State.Found() && f.Frames != nil && len(f.Frames.Gaps) > 0
	if judged.Rebuildable(id) || f.State != graph.Missing && f.State != graph.Twins && !gaps && len(suspect) == 0 {
		return Wanted{}, false
	}
	w, ok := NamedAt(g, id, memory)
	if w.Suspect = suspect; w.Last != nil && w.Last.Before != nil && len(suspect) > 0 {
		w.Last = w.Last.Before
	}
	if gaps {
		w.Gaps = f.Frames.Gaps
	}
	return w, ok
}

// NamedAt is what the documents want of any file that they name, also of one that is there:
// somebody may want another in its place. False where it has no place of its own.
func NamedAt(g *graph.Graph, id graph.FileID, memory Memory) (Wanted, bool) {
	f := &g.Files[id]
	if len(f.Refs) == 0 {
		return Wanted{}, false
	}
	r := &g.References[f.Refs[0]]
	if r.Expected == "" {
		return Wanted{}, false
	}
	w := Wanted{File: id, Expected: r.Expected, Kind: f.Kind, Refs: f.Refs, Bare: namesAlone(g, f.Refs), Document: g.Documents[r.Doc].Path, Last: lastOf(g, f.Refs, memory), Guessed: r.Guessed}
	if f.Frames != nil {
		w.Sequence = &f.Frames.Said
	} else {
		w.Ranges, w.Told = ranges(g, f.Refs), expectedFacts(g, f.Refs)
	}
	return w, true
}

// namesAlone tells that no reference can say a folder.
func namesAlone(g *graph.Graph, refs []graph.RefID) bool {
	return !slices.ContainsFunc(refs, func(id graph.RefID) bool { return !g.References[id].Bare })
}

// ranges are the parts that references use, each once.
func ranges(g *graph.Graph, refs []graph.RefID) (list []mention.Range) {
	for _, id := range refs {
		if r := g.References[id].Range; r != nil && !slices.Contains(list, *r) {
			list = append(list, *r)
		}
	}
	return list
}

// expectedFacts is what references tell of one file. What two tell otherwise is not told.
func expectedFacts(g *graph.Graph, refs []graph.RefID) *mention.Told {
	var all mention.Told
	for _, id := range refs {
		t := g.References[id].Told
		if t == nil {
			continue
		}
		agree(&all.Size, t.Size)
		agree(&all.Seconds, t.Seconds)
		agree(&all.Rate, t.Rate)
		all.Product, all.Reel = cmp.Or(all.Product, t.Product), cmp.Or(all.Reel, t.Reel)
		if t.Digest != "" && all.By == t.By && all.Digest != t.Digest {
			all.Digest = ""
		} else if t.Digest != "" && all.By == "" {
			all.Digest, all.By = t.Digest, t.By
		}
	}
	return all.OrNil()
}

// agree takes what is told first; less than nothing marks that it is told otherwise.
func agree[T int | int64 | float64](have *T, told T) {
	switch {
	case told <= 0 || *have == told || *have < 0:
	case *have == 0:
		*have = told
	default:
		*have = -1
	}
}

// Measured tells whether sizes tell anything of one of the wanted files: where it was
// seen before, or a document tells its size.
func Measured(list []Wanted) bool {
	for i := range list {
		if list[i].Last != nil || list[i].Sequence != nil || list[i].Told != nil && list[i].Told.Size > 0 {
			return true
		}
	}
	return false
}

// lastOf is what was last seen of a file by any of the documents that name it: by one of
// them rather than by others.
func lastOf(g *graph.Graph, refs []graph.RefID, memory Memory) (lent *Seen) {
	asked := map[graph.DocID]bool{}
	for _, id := range refs {
		r := &g.References[id]
		if host := g.Documents[r.Doc].Host; asked[host] {
			continue
		} else if asked[host] = true; len(asked) > maxAsked {
			break
		}
		if s := last(g, r, memory); s != nil && !s.Lent {
			return s
		} else if lent == nil {
			lent = s
		}
	}
	return lent
}

// maxAsked is how many documents that name a file are asked what they saw.
const maxAsked = 16

// last looks up what was last seen where a reference leads. A document that was
// found elsewhere names its files from its new place; what was seen of them was
// seen from the old one.
func last(g *graph.Graph, r *graph.Reference, memory Memory) *Seen {
	d, document := &g.Documents[g.Documents[r.Doc].Host], g.Documents[r.Doc].Path
	look := func(p string) *Seen {
		s, ok := memory(document, p)
		if ok && !s.Lent {
			return &s
		}
		if d.Was != "" {
			if own, had := memory(d.Was, p); had && !own.Lent {
				return &own
			}
		}
		if ok {
			return &s
		}
		if d.Was == "" {
			return nil
		}
		rel, err := filepath.Rel(filepath.Dir(d.Path), p)
		if err != nil {
			return nil
		}
		if s, ok := memory(d.Was, filepath.Join(filepath.Dir(d.Was), rel)); ok {
			return &s
		}
		return nil
	}
	if s := look(r.Expected); s != nil {
		return s
	}
	for _, p := range r.Also {
		if s := look(p); s != nil {
			return s
		}
	}
	return nil
}

// Sure returns the candidate that may be applied unasked: certain and alone, and
// nothing speaks against it.
func Sure(cs []Candidate) (Candidate, bool) {
	if len(cs) == 0 || cs[0].Certainty != Certain || len(cs[0].Against) > 0 || len(cs) > 1 && cs[1].Certainty == Certain {
		return Candidate{}, false
	}
	return cs[0], true
}

// confident are, by the wanted files, the candidates that may be applied: those that are
// Sure, and where likely ones are accepted, those of groups against which nothing
// speaks. A file that is there is never replaced unasked.
func confident(wanted []Wanted, offered [][]Candidate, likely bool) map[int]Candidate {
	out := map[int]Candidate{}
	for i := range wanted {
		if c, ok := Sure(offered[i]); ok && len(wanted[i].Suspect) == 0 {
			out[i] = c
		}
	}
	if !likely {
		return out
	}
	for _, g := range Groups(wanted, offered) {
		for _, m := range g.Members {
			if _, have := out[m.Wanted]; !have && len(wanted[m.Wanted].Suspect) == 0 && m.Best.Certainty == Likely && len(m.Best.Against) == 0 {
				out[m.Wanted] = m.Best
			}
		}
	}
	return out
}

// Repair is the rule that applies a candidate.
func (w Wanted) Repair(c Candidate) resolve.Repair {
	return resolve.Repair{From: w.Expected, To: c.Path}
}

// Until looks for everything a graph lacks, applies what is certain and alone,
// and goes on with what the repaired graph lacks, until nothing more is found:
// a nested document that was found again may miss files of its own.
//
// find is asked for all that is new at once and answers in the same order;
// apply takes repairs and returns the graph traced with them, judged. likely accepts what
// sureWith does.
func Until(ctx context.Context, g *graph.Graph, judged *origin.Judged, memory Memory, likely bool, find func(*graph.Graph, []Wanted) ([][]Candidate, error), apply func([]resolve.Repair) (*graph.Graph, *origin.Judged, error)) error {
	asked := map[string]bool{}
	for {
		var wanted []Wanted
		for _, w := range Missing(g, judged, memory) {
			if !asked[w.Expected] {
				asked[w.Expected] = true
				wanted = append(wanted, w)
			}
		}
		if len(wanted) == 0 {
			return nil
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		offered, err := find(g, wanted)
		if err != nil {
			return err
		}
		take := confident(wanted, offered, likely)
		var sure []resolve.Repair
		for i, w := range wanted {
			if c, ok := take[i]; ok {
				sure = append(sure, w.Repair(c))
			}
		}
		if len(sure) == 0 {
			return nil
		}
		if g, judged, err = apply(sure); err != nil {
			return err
		}
	}
}

// Once is a Hash that reads every file once and keeps what it read; read, which
// may be nil, is told the bytes as they go by. Not for concurrent use.
func Once(reach drive.Reach, read func(n int64)) Hash {
	sums := map[string]string{}
	return func(ctx context.Context, path string) (string, error) {
		if sum, ok := sums[path]; ok {
			return sum, nil
		}
		sum, err := drive.Fingerprint(ctx, reach, path, read)
		if err == nil {
			sums[path] = sum
		}
		return sum, err
	}
}
