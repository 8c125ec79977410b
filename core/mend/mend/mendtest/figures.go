package mendtest

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// Figures are what mending made of studios.
type Figures struct {
	Tally
	Wanted       int // files that were lost
	CertainRight int
	CertainWrong int
	LikelyRight  int
	LikelyWrong  int
	Wrong        []string          // what was certain and wrong
	Fates        map[string]*Tally // by what became of the files
	Samples      []Sample
}

// Tally counts the lost files that are still somewhere, and how often the right one is
// first, or among the first three, by mending and by the plain ranking.
type Tally struct {
	There, Top1, Top3, Plain1, Plain3 int
	Likely                            int // likely, or certain, and right
	Certain                           int // certain and right
}

func (t *Tally) add(o Tally) {
	t.There, t.Top1, t.Top3, t.Likely = t.There+o.There, t.Top1+o.Top1, t.Top3+o.Top3, t.Likely+o.Likely
	t.Certain += o.Certain
	t.Plain1, t.Plain3 = t.Plain1+o.Plain1, t.Plain3+o.Plain3
}

// Percent is a share of a hundred, to a tenth.
func Percent(n, of int) float64 { return math.Round(1000*float64(n)/float64(max(1, of))) / 10 }

func (f *Figures) String() string {
	return fmt.Sprintf("%d lost, %d still there: top 1 %.1f %% (plain %.1f), top 3 %.1f %% (plain %.1f), certain and right %.1f %%, certain and wrong %d, likely right %.1f %% of %d",
		f.Wanted, f.There, Percent(f.Top1, f.There), Percent(f.Plain1, f.There), Percent(f.Top3, f.There), Percent(f.Plain3, f.There), Percent(f.CertainRight, f.There), f.CertainWrong, Percent(f.LikelyRight, f.LikelyRight+f.LikelyWrong), f.LikelyRight+f.LikelyWrong)
}

// Table is a line for each fate.
func (f *Figures) Table() string {
	var w strings.Builder
	for _, fate := range slices.Sorted(maps.Keys(f.Fates)) {
		t := f.Fates[fate]
		fmt.Fprintf(&w, "| %s | %d | %.0f | %.0f | %.0f | %.0f | %.0f |\n", fate, t.There, Percent(t.Top1, t.There), Percent(t.Plain1, t.There), Percent(t.Top3, t.There), Percent(t.Plain3, t.There), Percent(t.Likely, t.There))
	}
	return w.String()
}

// Add adds those of another studio.
func (f *Figures) Add(o *Figures) {
	f.add(o.Tally)
	f.Wanted += o.Wanted
	f.CertainRight, f.CertainWrong = f.CertainRight+o.CertainRight, f.CertainWrong+o.CertainWrong
	f.LikelyRight, f.LikelyWrong = f.LikelyRight+o.LikelyRight, f.LikelyWrong+o.LikelyWrong
	f.Wrong = append(f.Wrong, o.Wrong...)
	f.Samples = append(f.Samples, o.Samples...)
	for fate, t := range o.Fates {
		f.of(fate).add(*t)
	}
}

func (f *Figures) of(fate string) *Tally {
	if f.Fates == nil {
		f.Fates = map[string]*Tally{}
	}
	if f.Fates[fate] == nil {
		f.Fates[fate] = &Tally{}
	}
	return f.Fates[fate]
}

// Sample is one missing file: the facts of what was offered for it, and what was right.
type Sample []Offered

// Offered is one candidate.
type Offered struct {
	Facts map[mend.Code]float64
	Score float64
	Share float64 // before the scale
	Right bool
}

// How documents are looked through.
type How int

// Every document by itself; the same, while what the others miss is known; all at once.
const (
	Alone How = iota
	Known
	Together
)

// Measure looks for all that a studio lost.
func (s *Studio) Measure(ctx context.Context, memory mend.Memory, how How) (*Figures, error) {
	f := &Figures{}
	x, err := index.Build(ctx, index.Options{Reach: drive.System{}, Dirs: s.Search})
	if err != nil {
		return nil, err
	}
	p, err := newPlain(x, s.Search)
	if err != nil {
		return nil, err
	}
	sets := [][]string{s.Documents}
	if how != Together {
		sets = slices.Collect(slices.Chunk(s.Documents, 1))
	}
	rd := mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: memory}
	if how == Known {
		rd.Others = s.below
	}
	for _, documents := range sets {
		g, err := trace.Run(ctx, trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: s.Root}, documents...)
		if err != nil {
			return nil, err
		}
		wanted := mend.Missing(g, origin.Judge(g, origin.Options{Reach: drive.System{}}), memory)
		rd.Used = mend.Used(g)
		offered, err := mend.Find(ctx, x, wanted, rd, nil)
		if err != nil {
			return nil, err
		}
		for i := range wanted {
			s.count(f, &wanted[i], offered[i], p)
		}
	}
	return f, nil
}

// below are the files that documents lost in a folder or below it.
func (s *Studio) below(dir string) (list []string) {
	for p := range s.Truth {
		if drive.Within(dir, p) {
			list = append(list, p)
		}
	}
	slices.Sort(list)
	return list
}

func (s *Studio) count(f *Figures, w *mend.Wanted, offered []mend.Candidate, p plain) {
	f.Wanted++
	right := func(path string) bool { return s.Right(w.Expected, path) }
	var sample Sample
	for _, c := range offered {
		sample = append(sample, Offered{c.Features(), c.Score, c.Share(), right(c.Path)})
	}
	f.Samples = append(f.Samples, sample)
	var t Tally
	sure := len(offered) > 0 && offered[0].Certainty != mend.Possible
	switch {
	case sure && right(offered[0].Path):
		f.LikelyRight++
		t.Likely++
	case sure:
		f.LikelyWrong++
	}
	if best, ok := mend.Sure(offered); ok && right(best.Path) {
		f.CertainRight++
		t.Certain++
	} else if ok {
		f.CertainWrong++
		f.Wrong = append(f.Wrong, w.Expected+" → "+best.Path)
	}
	if len(s.Truth[w.Expected]) == 0 {
		return
	}
	t.There++
	first := func(n, at int) int {
		if at >= 0 && at < n {
			return 1
		}
		return 0
	}
	at := slices.IndexFunc(offered, func(c mend.Candidate) bool { return right(c.Path) })
	t.Top1, t.Top3 = first(1, at), first(3, at)
	at = slices.IndexFunc(p.first(w), right)
	t.Plain1, t.Plain3 = first(1, at), first(3, at)
	f.add(t)
	f.of(s.Fate[w.Expected]).add(t)
}

// lesser are likenesses of a name, which never count more than the very name.
var lesser = []mend.Code{mend.NameLoose, mend.NameParted, mend.NameSpelled, mend.NameExt, mend.NameLonger, mend.NameShorter, mend.NameAlike}

// Fit gives the weights under which the samples are likeliest: a choice among what is
// offered and none of it (conditional logit, McFadden 1974), by Newton's method in one
// dimension after another, with a ridge of one that keeps a fact which only few samples
// have near to nothing (Hastie, Tibshirani, Friedman, The Elements of Statistical
// Learning, §4.4).
func Fit(samples []Sample, codes []mend.Code) map[mend.Code]float64 {
	const ridge, rounds = 1.0, 40
	w := map[mend.Code]float64{mend.Prior: mend.Weights()[mend.Prior]}
	odds := make([][]float64, len(samples))
	having := map[mend.Code][]int{}
	for i, s := range samples {
		odds[i] = make([]float64, len(s))
		met := map[mend.Code]bool{}
		for k, o := range s {
			odds[i][k] = w[mend.Prior] * o.Facts[mend.Prior]
			for c := range o.Facts {
				if !met[c] {
					met[c] = true
					having[c] = append(having[c], i)
				}
			}
		}
	}
	for range rounds {
		for _, c := range codes {
			if c == mend.Prior { // every name has a class of its own, which tells as much
				continue
			}
			slope, curve := -ridge*w[c], ridge
			for _, i := range having[c] {
				s, c := samples[i].pull(odds[i], c)
				slope, curve = slope+s, curve+c
			}
			step := max(-1, min(1, slope/curve))
			if slices.Contains(lesser, c) { // whatever the corpora hold, another spelling is no better than the name
				step = min(step, w[mend.Name]-w[c])
			}
			if mend.IsAgainst(c) { // nor does what speaks against a file speak for it
				step = min(step, -w[c])
			}
			w[c] += step
			for _, i := range having[c] {
				for k, o := range samples[i] {
					odds[i][k] += step * o.Facts[c]
				}
			}
		}
	}
	return w
}

// pull is the slope and the curvature of the log-likelihood of one choice along one fact.
func (s Sample) pull(odds []float64, c mend.Code) (slope, curve float64) {
	all, right := 1.0, 0.0 // none of them has odds of one
	for k := range s {
		e := math.Exp(odds[k])
		if all += e; s[k].Right {
			right += e
		}
	}
	var mean, square, meant float64
	for k := range s {
		x := s[k].Facts[c]
		p := math.Exp(odds[k]) / all
		mean, square = mean+p*x, square+p*x*x
		if s[k].Right {
			meant += math.Exp(odds[k]) / right * x
		}
	}
	return meant - mean, square - mean*mean
}
