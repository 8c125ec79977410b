package mend

func SetWeights(w map[Code]float64) {
	for c, v := range w {
		weights[c] = v
	}
}
