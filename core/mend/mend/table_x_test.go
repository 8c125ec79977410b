package mend_test

import (
	"context"
	"fmt"
	"testing"

	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
)

func TestXTable(t *testing.T) {
	for _, m := range mendtest.Makers {
		for _, alone := range []bool{true, false} {
			var f mendtest.Figures
			for seed := range uint64(4) {
				s, err := m.Make(t.TempDir(), 2*seed+1, 500)
				if err != nil {
					t.Fatal(err)
				}
				got, err := s.Measure(context.Background(), mend.Nothing, alone)
				if err != nil {
					t.Fatal(err)
				}
				f.Add(got)
			}
			var bins [10]struct {
				n, right int
				sum      float64
			}
			for _, sm := range f.Samples {
				for _, o := range sm {
					k := min(9, int(10*o.Score))
					bins[k].n++
					bins[k].sum += o.Score
					if o.Right {
						bins[k].right++
					}
				}
			}
			for k := range bins {
				if bins[k].n > 0 {
					fmt.Printf("%.2f→%.2f(%d) ", bins[k].sum/float64(bins[k].n), float64(bins[k].right)/float64(bins[k].n), bins[k].n)
				}
			}
			fmt.Println()
			fmt.Println(m.Name, "alone", alone, f.String())
			fmt.Print(f.Table())
		}
	}
}
