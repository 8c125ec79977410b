package mendtest

import (
	"context"
	"fmt"
	"math"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// Figures are what mending made of studios.
type Figures struct {
	Wanted       int // files that were lost
	There        int // of them, those that are still somewhere
	Top1, Top3   int // of those, the right one is first, or among the first three
	CertainRight int
	CertainWrong int
	LikelyRight  int
	LikelyWrong  int
	Wrong        []string // what was certain and wrong
}

func percent(n, of int) float64 { return math.Round(1000*float64(n)/float64(max(1, of))) / 10 }

func (f Figures) String() string {
	return fmt.Sprintf("%d lost, %d still there: top 1 %.1f %%, top 3 %.1f %%, certain and right %.1f %%, certain and wrong %d, likely %d right and %d wrong",
		f.Wanted, f.There, percent(f.Top1, f.There), percent(f.Top3, f.There), percent(f.CertainRight, f.There), f.CertainWrong, f.LikelyRight, f.LikelyWrong)
}

// Add adds those of another studio.
func (f *Figures) Add(o Figures) {
	f.Wanted, f.There, f.Top1, f.Top3 = f.Wanted+o.Wanted, f.There+o.There, f.Top1+o.Top1, f.Top3+o.Top3
	f.CertainRight, f.CertainWrong = f.CertainRight+o.CertainRight, f.CertainWrong+o.CertainWrong
	f.LikelyRight, f.LikelyWrong = f.LikelyRight+o.LikelyRight, f.LikelyWrong+o.LikelyWrong
	f.Wrong = append(f.Wrong, o.Wrong...)
}

// Sample is one candidate: its facts, and whether it was right.
type Sample struct {
	Facts map[mend.Code]float64
	Right bool
}

// Measure looks for all that a studio lost, once.
func (s *Studio) Measure(ctx context.Context, memory mend.Memory) (f Figures, samples []Sample, err error) {
	g, err := trace.Run(ctx, trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: s.Root}, s.Documents...)
	if err != nil {
		return f, nil, err
	}
	x, err := index.Build(ctx, index.Options{Reach: drive.System{}, Dirs: []string{s.Search}})
	if err != nil {
		return f, nil, err
	}
	wanted := mend.Missing(g, origin.Judge(g, origin.Options{Reach: drive.System{}}), memory)
	offered, err := mend.Find(ctx, x, wanted, mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: memory, Used: mend.Used(g)}, nil)
	if err != nil {
		return f, nil, err
	}
	f.Wanted = len(wanted)
	for i, w := range wanted {
		there := len(s.Truth[w.Expected]) > 0
		for k, c := range offered[i] {
			right := s.Right(w.Expected, c.Path)
			samples = append(samples, Sample{c.Features(), right})
			switch {
			case k == 0 && c.Certainty == mend.Likely && right:
				f.LikelyRight++
			case k == 0 && c.Certainty == mend.Likely:
				f.LikelyWrong++
			}
		}
		if best, ok := mend.Sure(offered[i]); ok && s.Right(w.Expected, best.Path) {
			f.CertainRight++
		} else if ok {
			f.CertainWrong++
			f.Wrong = append(f.Wrong, w.Expected+" → "+best.Path)
		}
		if !there {
			continue
		}
		f.There++
		at := slices.IndexFunc(offered[i], func(c mend.Candidate) bool { return s.Right(w.Expected, c.Path) })
		if at == 0 {
			f.Top1++
		}
		if at >= 0 && at < 3 {
			f.Top3++
		}
	}
	return f, samples, nil
}

// lesser are likenesses of a name, which never count more than the very name.
var lesser = []mend.Code{mend.NameLoose, mend.NameParted, mend.NameExt, mend.NameLonger, mend.NameShorter, mend.NameAlike}

// Fit gives the weights under which the samples are likeliest: logistic regression by
// Newton's method in one dimension after another, with a ridge of one that keeps a
// fact which only few samples have near to nothing (Hastie, Tibshirani, Friedman, The
// Elements of Statistical Learning, §4.4).
func Fit(samples []Sample, codes []mend.Code) map[mend.Code]float64 {
	const ridge, rounds = 1.0, 60
	w := map[mend.Code]float64{}
	odds := make([]float64, len(samples))
	having := map[mend.Code][]int{}
	for i := range samples {
		for c := range samples[i].Facts {
			having[c] = append(having[c], i)
		}
	}
	for range rounds {
		for _, c := range codes {
			slope, curve := -ridge*w[c], ridge
			if c == mend.Prior {
				slope, curve = 0, 1e-9
			}
			for _, i := range having[c] {
				p, x := 1/(1+math.Exp(-odds[i])), samples[i].Facts[c]
				if samples[i].Right {
					slope += x * (1 - p)
				} else {
					slope -= x * p
				}
				curve += x * x * p * (1 - p)
			}
			step := max(-1, min(1, slope/curve))
			if slices.Contains(lesser, c) { // whatever the corpus holds, another spelling is no better than the name
				step = min(step, w[mend.Name]-w[c])
			}
			w[c] += step
			for _, i := range having[c] {
				odds[i] += step * samples[i].Facts[c]
			}
		}
	}
	return w
}
