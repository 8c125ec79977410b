package mendtest

import "slices"

// Scale gives, for shares in steps, the share that was right of the candidates whose odds
// came to it: isotonic regression by pooling adjacent violators (Barlow, Bartholomew,
// Bremner, Brunk 1972) over bins of equal width.
func Scale(shares []Share, bins int) (scale [][2]float64) {
	type block struct{ n, right, sum float64 }
	var blocks []block
	slices.SortFunc(shares, func(a, b Share) int {
		if a.Of < b.Of {
			return -1
		}
		return 1
	})
	at := 0
	for k := range bins {
		var b block
		for ; at < len(shares) && (k == bins-1 || shares[at].Of < float64(k+1)/float64(bins)); at++ {
			b.n++
			b.sum += shares[at].Of
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

// Share is one candidate: what its odds come to, and whether it was right.
type Share struct {
	Of    float64
	Right bool
}
