package mend_test

import (
	"context"
	"fmt"
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

// The corpora: of those that fit, even seeds fit the weights; odd seeds report, of all.
const (
	toFit    = 6
	toReport = 4
	each     = 500 // references of a studio
)

func measure(t testing.TB, m mendtest.Maker, seed uint64, remember bool, how mendtest.How) *mendtest.Figures {
	t.Helper()
	s, err := m.Make(t.TempDir(), seed, each)
	if err != nil {
		t.Fatal(err)
	}
	memory := mend.Nothing
	if remember {
		memory = s.Memory
	}
	f, err := s.Measure(context.Background(), memory, how)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// samples are those of the seeds that fit, of some corpora.
func samples(t testing.TB, of ...mendtest.Maker) (list []mendtest.Sample) {
	for _, m := range of {
		for n := range uint64(toFit) {
			for _, how := range []mendtest.How{mendtest.Alone, mendtest.Together} {
				list = append(list, measure(t, m, 2*n, false, how).Samples...)
			}
		}
	}
	return list
}

// TestWeights: the weights in force are those that the corpora give; and two fits on corpora
// that have nothing in common agree about what speaks for a file and what against it, far
// beyond chance (Cohen 1960: kappa).
func TestWeights(t *testing.T) {
	if testing.Short() {
		t.Skip("the fit takes long")
	}
	var fitting []mendtest.Maker
	for _, m := range mendtest.Makers {
		if m.Fits {
			fitting = append(fitting, m)
		}
	}
	one, other := samples(t, fitting[:2]...), samples(t, fitting[2:]...)
	have := mend.Weights()
	codes := slices.Sorted(maps.Keys(have))
	for c, w := range mendtest.Fit(slices.Concat(one, other), codes) {
		t.Logf("%q %.1f", c, w) // for whoever pastes them
		if math.Abs(w-have[c]) > 0.35 {
			t.Errorf("%q weighs %.2f, the corpora give %.2f", c, have[c], w)
		}
	}
	for _, k := range mendtest.Scale(slices.Concat(one, other), 20) {
		t.Logf("{%.3f, %.3f},", k[0], k[1])
		if have := mend.Calibrated(k[0]); math.Abs(have-k[1]) > 0.08 {
			t.Errorf("a share of %.2f is read as %.2f, the corpora give %.2f", k[0], have, k[1])
		}
	}
	a, b := mendtest.Fit(one, codes), mendtest.Fit(other, codes)
	if k, n := kappa(a, b); k < 0.6 {
		t.Errorf("kappa of the signs of %d weights is %.2f\n%v\n%v", n, k, a, b)
	} else {
		t.Logf("kappa of the signs of %d weights: %.2f", n, k)
	}
}

// kappa is Cohen's measure of how far two fits agree about the signs of weights, of those
// that are not as good as nothing for either. How names are alike is left out: every
// candidate has one such class, and the fits differ in what stands for nothing.
func kappa(a, b map[mend.Code]float64) (float64, int) {
	const nothing = 0.05
	var n, same, forA, forB float64
	for c := range a {
		if c == mend.Prior || strings.HasPrefix(string(c), "name") || math.Abs(a[c]) < nothing || math.Abs(b[c]) < nothing {
			continue
		}
		n++
		if a[c] > 0 == (b[c] > 0) {
			same++
		}
		if a[c] > 0 {
			forA++
		}
		if b[c] > 0 {
			forB++
		}
	}
	chance := forA/n*forB/n + (1-forA/n)*(1-forB/n)
	return (same/n - chance) / (1 - chance), int(n)
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

// TestCorpora reports the figures of every corpus on studios that nothing was fitted to, by
// what became of the files, beside the plain ranking.
func TestCorpora(t *testing.T) {
	if testing.Short() {
		t.Skip("twelve studios of each kind take long")
	}
	var all, new mendtest.Figures
	for _, m := range mendtest.Makers {
		for which, how := range []string{"documents alone", "alone, others known", "all together"} {
			var f mendtest.Figures
			for n := range uint64(toReport) {
				f.Add(measure(t, m, 2*n+1, false, mendtest.How(which)))
			}
			t.Logf("%s, %s: %s\n%s", m.Name, how, &f, f.Table())
			there := float64(f.There)
			least := floors[m.Name]
			if float64(f.Top1) < least[0]*there || float64(f.Top3) < least[1]*there || float64(f.CertainRight) < least[2]*there || f.CertainWrong > 0 || float64(f.LikelyWrong) > 0.1*float64(f.LikelyRight+f.LikelyWrong) {
				t.Errorf("%s, %s: %s\n%q", m.Name, how, &f, f.Wrong)
			}
			if f.Top1 < f.Plain1 || f.Top3 < f.Plain3 {
				t.Errorf("%s, %s: the plain ranking is better: %s", m.Name, how, &f)
			}
			for fate, k := range f.Fates {
				if slices.Contains(below, m.Name+", "+fate) {
					continue
				}
				// A fate of few files is a matter of luck.
				if slack := 1 + k.There/12; k.Top1+slack < k.Plain1 || k.Top3+slack < k.Plain3 {
					t.Errorf("%s, %s, %s: %+v", m.Name, how, fate, *k)
				}
			}
			if all.Add(&f); !m.Fits {
				new.Add(&f)
			}
		}
	}
	for name, f := range map[string]*mendtest.Figures{"all corpora": &all, "those that had no part in the fit": &new} {
		said := "score → share that was right, of how many: " + name + "\n"
		for _, b := range reliability(f) {
			said += fmt.Sprintf("| %.2f | %.2f | %d |\n", b.score, b.right, b.n)
		}
		t.Log(said)
	}
	for _, b := range reliability(&all) {
		if b.n > 400 && math.Abs(b.score-b.right) > 0.2 {
			t.Errorf("of %d with a score of %.2f, %.2f were right", b.n, b.score, b.right)
		}
	}
}

// floors are the least that each corpus must come to: the right file first, among the first
// three, and certain, as shares of what is still there.
var floors = map[string][3]float64{
	"harbour": {0.95, 0.98, 0.1}, "scattered": {0.85, 0.95}, "packs": {0.75, 0.9}, "days": {0.97, 0.99},
	"assemblies": {0.98, 0.99}, "catalogue": {0.94, 0.98}, "theatre": {0.9, 0.98},
}

// below are the kinds of fate in which the plain ranking is better, as docs/evidence.md says:
// what lies in a folder of copies is trusted less than it, and so is a name that lacks its end.
var below = []string{"catalogue, older copy", "theatre, cut short"}

type bin struct {
	n            int
	score, right float64
}

// reliability is, for ten bins of scores, the share that was right.
func reliability(f *mendtest.Figures) (bins [10]bin) {
	for _, s := range f.Samples {
		for _, o := range s {
			b := &bins[min(9, int(10*o.Score))]
			b.n++
			b.score += o.Score
			if o.Right {
				b.right++
			}
		}
	}
	for i := range bins {
		b := &bins[i]
		b.score, b.right = b.score/float64(max(1, b.n)), b.right/float64(max(1, b.n))
	}
	return bins
}

// TestRemembered: with memory of every file, nearly all is found for certain, on every corpus.
// What was put into another wrapping has other bytes and never is, so it does not count there.
func TestRemembered(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: no race to be found")
	}
	for _, m := range mendtest.Makers {
		var f mendtest.Figures
		for n := range uint64(2) {
			f.Add(measure(t, m, 2*n+1, true, mendtest.Together))
		}
		t.Log(m.Name, &f)
		sure, of := 0, 0
		for fate, k := range f.Fates {
			if fate != "converted" {
				sure, of = sure+k.Certain, of+k.There
			}
		}
		if there := float64(f.There); float64(f.Top1) < 0.99*there || float64(f.Top3) < 0.995*there || float64(sure) < 0.95*float64(of) || f.CertainWrong > 0 {
			t.Errorf("%s: %s; %d of %d certain\n%q", m.Name, &f, sure, of, f.Wrong)
		}
	}
}

// TestNeverWrong: over thirty seeds of each corpus (six in make test), by names and what documents tell alone,
// nothing is certain and wrong.
func TestNeverWrong(t *testing.T) {
	if testing.Short() {
		t.Skip("hundreds of studios take long")
	}
	seeds := uint64(6)
	if os.Getenv("FAULTS") != "" {
		seeds = 30
	}
	for _, m := range mendtest.Makers {
		certain := 0
		for seed := range seeds {
			s, err := m.Make(t.TempDir(), 1000+seed, 150)
			if err != nil {
				t.Fatal(err)
			}
			f, err := s.Measure(context.Background(), mend.Nothing, mendtest.Together)
			if err != nil {
				t.Fatal(err)
			}
			certain += f.CertainRight
			if f.CertainWrong > 0 {
				t.Errorf("%s %d: %q", m.Name, seed, f.Wrong)
			}
		}
		t.Logf("%s: %d certain and right", m.Name, certain)
	}
}
