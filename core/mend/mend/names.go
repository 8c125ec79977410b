package mend

// likeness is the Jaro–Winkler measure of two names, 0 to 1 (Winkler 1990,
// prefix weight 0.1 over at most four letters).
func likeness(a, b string) float64 {
	x, y := []rune(a), []rune(b)
	if len(x) == 0 || len(y) == 0 {
		return 0
	}
	reach := max(len(x), len(y))/2 - 1
	hitX, hitY := make([]bool, len(x)), make([]bool, len(y))
	m := 0
	for i, r := range x {
		for j := max(0, i-reach); j < min(len(y), i+reach+1); j++ {
			if !hitY[j] && y[j] == r {
				hitX[i], hitY[j] = true, true
				m++
				break
			}
		}
	}
	if m == 0 {
		return 0
	}
	swaps, j := 0, 0
	for i := range x {
		if !hitX[i] {
			continue
		}
		for !hitY[j] {
			j++
		}
		if x[i] != y[j] {
			swaps++
		}
		j++
	}
	f := float64(m)
	jaro := (f/float64(len(x)) + f/float64(len(y)) + (f-float64(swaps/2))/f) / 3
	prefix := 0
	for prefix < min(4, len(x), len(y)) && x[prefix] == y[prefix] {
		prefix++
	}
	return jaro + 0.1*float64(prefix)*(1-jaro)
}
