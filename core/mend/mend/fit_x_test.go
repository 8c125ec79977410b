package mend_test

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"testing"

	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
)

func TestXFit(t *testing.T) {
	var samples []mendtest.Sample
	for _, m := range mendtest.Makers {
		if !m.Fits {
			continue
		}
		for seed := uint64(0); seed < 12; seed += 2 {
			s, err := m.Make(t.TempDir(), seed, 500)
			if err != nil {
				t.Fatal(err)
			}
			for _, alone := range []bool{true, false} {
				f, err := s.Measure(context.Background(), mend.Nothing, alone)
				if err != nil {
					t.Fatal(err)
				}
				samples = append(samples, f.Samples...)
			}
		}
	}
	w := mendtest.Fit(samples, slices.Sorted(maps.Keys(mend.Weights())))
	mend.SetWeights(w)
	for _, c := range slices.Sorted(maps.Keys(w)) {
		fmt.Printf("%q %.1f\n", c, w[c])
	}
}
