package mendtest

import (
	"cmp"
	"slices"
)

// Scale gives, for shares in steps, the share that was right of the candidates whose odds
// came to it: isotonic regression by pooling adjacent violators (Barlow, Bartholomew,
// Bremner, Brunk 1972) over bins of equal width.
func Scale(samples []Sample, bins int) (scale [][2]float64) {
	type block struct{ n, right, sum float64 }
	var blocks []block
	shares := slices.Concat(samples...)
	slices.SortFunc(shares, func(a, b Offered) int { return cmp.Compare(a.Share, b.Share) })
	at := 0
	for k := range bins {
		var b block
		for ; at < len(shares) && (k == bins-1 || shares[at].Share < float64(k+1)/float64(bins)); at++ {
			b.n++
			b.sum += shares[at].Share
			if shares[at].Right {
				b.right++
			}
		}
		if b.n == 0 {
			continue
		}
		blocks = append(blocks, b)
		for n := len(blocks); n > 1 && blocks[n-2].right/blocks[n-2].n >= blocks[n-1].right/blocks[n-1].n; n-- {
			x, y := blocks[n-2], blocks[n-1]
			blocks = append(blocks[:n-2], block{x.n + y.n, x.right + y.right, x.sum + y.sum})
		}
	}
	scale = append(scale, [2]float64{})
	for _, b := range blocks {
		scale = append(scale, [2]float64{b.sum / b.n, b.right / b.n})
	}
	return append(scale, [2]float64{1, 1})
}
