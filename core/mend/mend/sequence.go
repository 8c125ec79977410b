package mend

import (
	"context"
	"errors"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/text/names"
)

// What a sequence's name counts, whole or alike (common practice and trial, no
// source), and what is left of it where the content is another.
const (
	namedSequence     = 0.92
	likeSequence      = 0.36
	otherContentShare = 0.6
)

// maxSequenced bounds how many frames of one sequence are read to compare them.
const maxSequenced = 20_000

// sequences ranks folders that hold files of wanted patterns, or of ones that
// differ in the words before the number, in one pass over the index.
func (f *finder) sequences() (map[int][]Candidate, error) {
	type wantedPattern struct {
		at  int
		pat graph.Pattern
	}
	var list []wantedPattern
	for i := range f.open {
		if w := f.open[i].w; w.Sequence != nil {
			if pat, ok := graph.ParsePattern(w.Expected); ok {
				list = append(list, wantedPattern{i, pat})
			}
		}
	}
	out := map[int][]Candidate{}
	if len(list) == 0 {
		return out, nil
	}
	found := map[int][]*Candidate{}
	offer := func(dir string, files []index.Entry) error {
		if err := f.ctx.Err(); err != nil {
			return err
		}
		for _, p := range list {
			cs, err := f.framesIn(dir, files, f.open[p.at].w, p.pat)
			if err != nil {
				return err
			}
			found[p.at] = append(found[p.at], cs...)
		}
		return nil
	}
	dir := ""
	var files []index.Entry
	err := f.x.Below("/", func(e index.Entry) error {
		if at := filepath.Dir(e.Path); at != dir {
			if len(files) > 0 {
				if err := offer(dir, files); err != nil {
					return err
				}
			}
			dir, files = at, files[:0]
		}
		files = append(files, e)
		return nil
	})
	if err == nil && len(files) > 0 {
		err = offer(dir, files)
	}
	if err != nil {
		return nil, err
	}
	for _, p := range list {
		s := search{w: f.open[p.at].w, dir: p.pat.Dir, found: found[p.at]}
		setCertainty(s.found)
		out[p.at] = s.listed()
	}
	return out, nil
}

// framesIn are the candidates of one folder for one pattern.
func (f *finder) framesIn(dir string, entries []index.Entry, w *Wanted, pat graph.Pattern) ([]*Candidate, error) {
	heads := map[string]bool{}
	for i := range entries {
		if head, ok := pat.HeadOf(filepath.Base(entries[i].Path)); ok {
			heads[head] = true
		}
	}
	if len(heads) == 0 {
		return nil, nil
	}
	base, sizes := make([]string, len(entries)), make([]int64, len(entries))
	for k := range entries {
		base[k], sizes[k] = filepath.Base(entries[k].Path), max(0, entries[k].Size)
	}
	var out []*Candidate
	for head := range heads {
		like := likeness(names.Loose(head), names.Loose(pat.Head))
		if head != pat.Head && like < alike && !f.byHand {
			continue
		}
		at := graph.Pattern{Dir: dir, Head: head, Tail: pat.Tail, Digits: pat.Digits}
		files, sz, gaps, err := resolve.Frames(at, *w.Sequence, func(string) ([]string, []int64, error) { return base, sizes, nil })
		if err != nil || len(files) == 0 {
			continue
		}
		want, code := w.Sequence.Count, Frames
		if len(w.Gaps) > 0 {
			if head != pat.Head || at == pat {
				continue // only files of the very name can fill a gap
			}
			files, sz, want = within(w.Gaps, at, files, sz)
			if len(files) == 0 {
				continue
			}
			gaps, code = nil, Fills
			if len(files) < want {
				gaps = []graph.Gap{{First: 1, Last: want - len(files), Step: 1}}
			}
		}
		c := &Candidate{Path: at.String(), Certainty: Possible, Files: len(files), Sequence: true, Score: likeSequence * like}
		for _, n := range sz {
			c.Size += n
		}
		if head == pat.Head {
			c.Score = namedSequence
			c.For = append(c.For, Evidence{Code: Name})
		} else {
			c.For = append(c.For, Evidence{Code: NameAlike, N: int64(100 * like)})
		}
		lacking := (&graph.Place{Gaps: gaps}).Lacks()
		if want > 0 {
			c.For = append(c.For, Evidence{Code: code, N: int64(len(files)), Of: int64(want)})
			c.Score *= 0.5 + 0.5*float64(len(files))/float64(want)
		}
		same, err := f.sameFrames(w.Document, pat, at, files)
		if err != nil {
			return nil, err
		}
		switch {
		case same == sameAll && lacking == 0:
			c.first(Evidence{Code: Content})
			c.Score = 0.9 + 0.1*c.Score
		case same == sameOther:
			c.against(Evidence{Code: OtherContent, N: 1})
			c.Score *= otherContentShare
		}
		out = append(out, c)
	}
	return out, nil
}

// setCertainty gives the sequences that are offered for one the word that follows from their scores.
// Several that are whole share what there is to be sure of.
func setCertainty(found []*Candidate) {
	whole := 0
	for _, c := range found {
		if !c.proved() && c.Score >= likelyFrom {
			whole++
		}
	}
	for _, c := range found {
		if whole > 1 && !c.proved() && c.Score >= likelyFrom {
			c.Score /= float64(whole)
		}
		if c.Score >= likelyFrom {
			c.Certainty = Likely
		}
	}
}

// within keeps the files whose numbers lie in gaps, and counts all such numbers.
func within(gaps []graph.Gap, at graph.Pattern, files []string, sizes []int64) (in []string, sz []int64, want int) {
	want = (&graph.Place{Gaps: gaps}).Lacks()
	for i, f := range files {
		n, ok := at.Number(filepath.Base(f))
		if !ok {
			continue
		}
		for _, g := range gaps {
			if n >= g.First && n <= g.Last && (n-g.First)%g.Step == 0 {
				in, sz = append(in, f), append(sz, sizes[i])
				break
			}
		}
	}
	return in, sz, want
}

type sameness int

const (
	sameUnknown sameness = iota
	sameAll
	sameOther
)

// sameFrames compares every frame with what was last seen under its number.
func (f *finder) sameFrames(document string, was, at graph.Pattern, files []string) (sameness, error) {
	if f.rd.Memory == nil || len(files) > maxSequenced {
		return sameUnknown, nil
	}
	for _, p := range files {
		number := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(p), at.Head), at.Tail)
		last, ok := f.rd.Memory(document, filepath.Join(was.Dir, was.Head+number+was.Tail))
		if !ok || last.SHA256 == "" || last.Lent {
			return sameUnknown, nil
		}
		sum, err := f.rd.Hash(f.ctx, p)
		if f.ctx.Err() != nil {
			return sameUnknown, f.ctx.Err()
		}
		if err != nil {
			return sameUnknown, nil
		}
		if sum != last.SHA256 {
			return sameOther, nil
		}
	}
	return sameAll, nil
}

// checkFrames is Check for a sequence: path is one of the frames that a person chose, and all
// that belong to it in their folder are held against what is wanted.
func (w Wanted) checkFrames(ctx context.Context, path string, rd Reading) (Candidate, error) {
	pat, ok := graph.ParsePattern(w.Expected)
	head, frame := pat.HeadOf(filepath.Base(path))
	if !ok || !frame {
		return Candidate{}, ErrNoFrame
	}
	dir := filepath.Dir(path)
	list, err := rd.Reach.ReadDir(dir)
	if err != nil {
		return Candidate{}, err
	}
	var entries []index.Entry
	for _, e := range list {
		if info, err := rd.Reach.Stat(filepath.Join(dir, e.Name())); err == nil && info.Mode.IsRegular() {
			entries = append(entries, index.Entry{Path: filepath.Join(dir, e.Name()), Size: info.Size})
		}
	}
	f := &finder{ctx: ctx, rd: rd, byHand: true}
	found, err := f.framesIn(dir, entries, &w, pat)
	if err != nil {
		return Candidate{}, err
	}
	for _, c := range found {
		if at, ok := graph.ParsePattern(c.Path); ok && at.Head == head {
			c.first(Evidence{Code: ByHand})
			if c.proved() {
				c.Certainty = Certain
			}
			return *c, nil
		}
	}
	return Candidate{}, ErrNoFrame
}

// Frame is a file of another folder that has a number a sequence lacks, and the path it would
// have in the sequence's own folder.
type Frame struct {
	From, To string
	Size     int64 // bytes
}

// Filling lists the files of a candidate (a pattern, as Candidate.Path) that have the numbers w
// lacks, rising. It is ErrNoFrame where the candidate is no pattern or w is no sequence with gaps.
func (w Wanted) Filling(candidate string, reach drive.Reach) ([]Frame, error) {
	own, ok := graph.ParsePattern(w.Expected)
	from, isPattern := graph.ParsePattern(candidate)
	if !ok || !isPattern || len(w.Gaps) == 0 {
		return nil, ErrNoFrame
	}
	list, err := reach.ReadDir(from.Dir)
	if err != nil {
		return nil, err
	}
	var files []string
	var sizes []int64
	for _, e := range list {
		path := filepath.Join(from.Dir, e.Name())
		if _, ok := from.Number(e.Name()); !ok {
			continue
		}
		if info, err := reach.Stat(path); err == nil && info.Mode.IsRegular() {
			files, sizes = append(files, path), append(sizes, info.Size)
		}
	}
	files, sizes, _ = within(w.Gaps, from, files, sizes)
	out := make([]Frame, len(files))
	for i, f := range files {
		n, _ := from.Number(filepath.Base(f))
		out[i] = Frame{From: f, To: filepath.Join(own.Dir, own.Name(n)), Size: sizes[i]}
	}
	slices.SortFunc(out, func(a, b Frame) int { return strings.Compare(a.To, b.To) })
	return out, nil
}

// ErrNoFrame: a file that is no frame of what is wanted: it has no number where the sequence
// has one, or another ending.
var ErrNoFrame = errors.New("it is no frame of that sequence")
