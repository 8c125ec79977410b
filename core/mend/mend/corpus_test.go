package mend_test

import (
	"context"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
)

// The corpus: two thirds to fit the weights, one third to report.
const (
	toFit    = 8
	toReport = 4
	each     = 500 // references of a studio
)

func measure(t testing.TB, from, to uint64, remember bool) (f mendtest.Figures, samples []mendtest.Sample) {
	t.Helper()
	for seed := from; seed < to; seed++ {
		s, err := mendtest.Make(t.TempDir(), seed, each)
		if err != nil {
			t.Fatal(err)
		}
		memory := mend.Nothing
		if remember {
			memory = s.Memory
		}
		got, more, err := s.Measure(context.Background(), memory)
		if err != nil {
			t.Fatal(err)
		}
		f.Add(got)
		samples = append(samples, more...)
	}
	return f, samples
}

// TestWeights: the weights in force are those that the corpus gives.
func TestWeights(t *testing.T) {
	_, samples := measure(t, 0, toFit, false)
	have := mend.Weights()
	codes := slices.Sorted(maps.Keys(have))
	for c, w := range mendtest.Fit(samples, codes) {
		t.Logf("%q: %.1f,", c, w)
		if math.Abs(w-have[c]) > 0.35 {
			t.Errorf("%q weighs %.2f, the corpus gives %.2f", c, have[c], w)
		}
	}
}

// TestWritten: the page about the evidence gives the weights that are in force.
func TestWritten(t *testing.T) {
	page, err := os.ReadFile(filepath.Join("..", "..", "..", "docs", "evidence.md"))
	if err != nil {
		t.Fatal(err)
	}
	for c, w := range mend.Weights() {
		row := "(before any fact)"
		if c != mend.Prior {
			row = "`" + string(c) + "`"
		}
		said := strings.ReplaceAll(strconv.FormatFloat(w, 'f', 1, 64), "-", "−")
		if !slices.ContainsFunc(strings.Split(string(page), "\n"), func(l string) bool {
			return strings.HasPrefix(l, "|") && strings.Contains(l, row) && strings.Contains(l, said)
		}) {
			t.Errorf("docs/evidence.md does not give %s %s", row, said)
		}
	}
}

// TestCorpus reports the figures on the third that nothing was fitted to.
func TestCorpus(t *testing.T) {
	for _, c := range []struct {
		name       string
		remember   bool
		top1, top3 float64 // the least, as a share of what is still there
		certain    float64
	}{
		{"with memory", true, 0.99, 0.99, 0.95},
		{"without memory", false, 0.85, 0.95, 0.10}, // names alone are never certain
	} {
		f, _ := measure(t, toFit, toFit+toReport, c.remember)
		t.Log(c.name+":", f)
		there := float64(f.There)
		if float64(f.Top1) < c.top1*there || float64(f.Top3) < c.top3*there || float64(f.CertainRight) < c.certain*there || f.CertainWrong > 0 {
			t.Errorf("%s: %v\n%q", c.name, f, f.Wrong)
		}
	}
}
