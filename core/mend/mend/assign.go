package mend

import (
	"math"
	"path/filepath"
	"slices"
)

// contested is how many of a wanted file's candidates are looked at when one file is
// offered to several; maxContested bounds how many wanted files are judged against
// one another at once.
const (
	contested    = 6
	maxContested = 250
)

// assign gives each file to the one missing it fits best: of those that are offered
// the same files, so that the sum of scores is the greatest. What another one fits
// better says so, and counts less.
func (f *finder) assign() {
	byPath := map[string][]int{}
	for i := range f.open {
		for _, c := range f.open[i].found[:min(contested, len(f.open[i].found))] {
			byPath[c.Path] = append(byPath[c.Path], i)
		}
	}
	// Only where the first choices of two are one file is there anything to part.
	first := map[string]int{}
	clash := false
	for i := range f.open {
		if s := &f.open[i]; len(s.found) > 0 {
			first[s.found[0].Path]++
			clash = clash || first[s.found[0].Path] > 1
		}
	}
	if !clash {
		return
	}
	met := make([]bool, len(f.open))
	for i := range f.open {
		if met[i] || len(f.open[i].found) == 0 || first[f.open[i].found[0].Path] < 2 {
			continue
		}
		var who []int
		queue := []int{i}
		met[i] = true
		for len(queue) > 0 && len(who) < maxContested {
			k := queue[0]
			queue = queue[1:]
			who = append(who, k)
			for _, c := range f.open[k].found[:min(contested, len(f.open[k].found))] {
				for _, other := range byPath[c.Path] {
					if !met[other] {
						met[other] = true
						queue = append(queue, other)
					}
				}
			}
		}
		f.part(who)
	}
}

// part assigns the files that are offered to some wanted ones.
func (f *finder) part(who []int) {
	var paths []string
	at := map[string]int{}
	for _, i := range who {
		for _, c := range f.open[i].found[:min(contested, len(f.open[i].found))] {
			if _, ok := at[c.Path]; !ok {
				at[c.Path] = len(paths)
				paths = append(paths, c.Path)
			}
		}
	}
	worth := make([][]float64, len(who))
	for k, i := range who {
		worth[k] = make([]float64, len(paths))
		for _, c := range f.open[i].found[:min(contested, len(f.open[i].found))] {
			worth[k][at[c.Path]] = c.Score
		}
	}
	got := assign(worth)
	owner := map[string]int{}
	for k, p := range got {
		if p >= 0 && worth[k][p] > 0 {
			owner[paths[p]] = who[k]
		}
	}
	for _, i := range who {
		s := &f.open[i]
		again := false
		for _, c := range s.found[:min(contested, len(s.found))] {
			if o, ok := owner[c.Path]; ok && o != i && !c.proved() && f.open[o].w.Expected != s.w.Expected {
				c.against(Evidence{Code: FitsAnother, Text: filepath.Base(f.open[o].w.Expected)})
				again = true
			}
		}
		if again {
			f.score(s)
		}
	}
}

// assign gives every row one column at the most, and every column to one row, so that
// the sum of worths is the greatest; -1 is none. It is the Hungarian method with
// potentials along shortest augmenting paths (Kuhn 1955, Munkres 1957; in this form
// Jonker and Volgenant 1987), in O(rows² · columns).
func assign(worth [][]float64) []int {
	n := len(worth)
	if n == 0 {
		return nil
	}
	// A column of no worth for each row stands for none.
	m := len(worth[0]) + n
	cost := func(i, j int) float64 {
		if j < len(worth[0]) {
			return -worth[i][j]
		}
		return 0
	}
	u, v := make([]float64, n+1), make([]float64, m+1)
	row := make([]int, m+1) // of a column, from 1; 0: none
	way := make([]int, m+1)
	for i := 1; i <= n; i++ {
		row[0] = i
		j0 := 0
		least := slices.Repeat([]float64{math.Inf(1)}, m+1)
		used := make([]bool, m+1)
		for {
			used[j0] = true
			i0, delta, j1 := row[j0], math.Inf(1), 0
			for j := 1; j <= m; j++ {
				if used[j] {
					continue
				}
				if c := cost(i0-1, j-1) - u[i0] - v[j]; c < least[j] {
					least[j], way[j] = c, j0
				}
				if least[j] < delta {
					delta, j1 = least[j], j
				}
			}
			for j := 0; j <= m; j++ {
				if used[j] {
					u[row[j]] += delta
					v[j] -= delta
				} else {
					least[j] -= delta
				}
			}
			if j0 = j1; row[j0] == 0 {
				break
			}
		}
		for j0 != 0 {
			row[j0] = row[way[j0]]
			j0 = way[j0]
		}
	}
	out := slices.Repeat([]int{-1}, n)
	for j := 1; j <= len(worth[0]); j++ {
		if row[j] > 0 {
			out[row[j]-1] = j - 1
		}
	}
	return out
}
