package mend_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
)

// BenchmarkFind looks for 4,000 files at once in an index of names, of 200,000 files
// and of a million.
func BenchmarkFind(b *testing.B) {
	for _, n := range []int{200_000, 1_000_000} {
		var met []drive.Folder
		for at := 0; at < n; at += 100 {
			f := drive.Folder{Path: fmt.Sprintf("/tree/d%02d/s%05d", at/5000, at/100)}
			for i := range 100 {
				f.Files = append(f.Files, drive.Entry{Name: fmt.Sprintf("clip %07d.wav", at+i)})
			}
			met = append(met, f)
		}
		x := index.New(met, false, nil)
		rng := rand.New(rand.NewPCG(1, 1))
		var list []mend.Wanted
		for range 4000 {
			list = append(list, mend.Wanted{Expected: fmt.Sprintf("/lost/clip %07d.wav", rng.IntN(n)), Kind: facts.Audio})
		}
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				if _, err := mend.Find(context.Background(), x, list, reading(nil), nil); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
