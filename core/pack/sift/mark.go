package sift

import (
	"boundcrate/core/road/graph"
)

// marker runs along the references of a graph, from the roots.
type marker struct {
	Of
	choice Choice
	stays  map[graph.FileID]Why // left for a reason of their own
	marked []bool               // files that travel
	refs   [][]graph.FileID     // what each document names
	of     [][]graph.DocID      // documents that a file is: with it, the texts it includes are files of their own
}

func newMarker(of Of, c Choice) *marker {
	g := of.Graph
	m := &marker{Of: of, choice: c, stays: map[graph.FileID]Why{}, marked: make([]bool, len(g.Files)), refs: make([][]graph.FileID, len(g.Documents)), of: make([][]graph.DocID, len(g.Files))}
	counts := make([]int, len(g.Documents))
	for i := range g.References {
		if r := &g.References[i]; r.File != graph.None {
			counts[r.Doc]++
		}
	}
	all := make([]graph.FileID, 0, len(g.References))
	for d, n := range counts {
		at := len(all)
		all = all[:at+n]
		m.refs[d] = all[at : at : at+n]
	}
	for i := range g.References {
		if r := &g.References[i]; r.File != graph.None {
			m.refs[r.Doc] = append(m.refs[r.Doc], r.File)
		}
	}
	for i := range g.Documents {
		m.of[g.Documents[i].File] = append(m.of[g.Documents[i].File], graph.DocID(i))
	}
	docs := map[string]bool{}
	for _, d := range c.Docs {
		docs[d] = true
	}
	for i := range g.Files {
		id, f := graph.FileID(i), &g.Files[i]
		if !Weighable(g, id) {
			continue
		}
		why := c.why(g, f, of.Judged.File(g, id), of.ByHand[id])
		if why == "" && f.Doc != graph.None && docs[f.Path] && !m.keeps(id) {
			why = IsDocument
		}
		if why != "" {
			m.stays[id] = why
		}
	}
	return m
}

// keeps tells files that travel whatever names them.
func (m *marker) keeps(id graph.FileID) bool {
	return m.ByHand[id].Travels || m.choice.kept(m.Graph, &m.Graph.Files[id])
}

func (m *marker) mark() {
	g := m.Graph
	var next []graph.FileID
	reach := func(id graph.FileID) {
		if _, left := m.stays[id]; !left && !m.marked[id] {
			m.marked[id] = true
			next = append(next, id)
		}
	}
	for _, d := range g.Roots {
		reach(g.Documents[d].File)
	}
	if len(m.ByHand) > 0 || len(m.choice.Keep) > 0 {
		for i := range g.Files {
			if id := graph.FileID(i); Weighable(g, id) && m.keeps(id) {
				reach(id)
			}
		}
	}
	for len(next) > 0 {
		id := next[len(next)-1]
		next = next[:len(next)-1]
		for _, d := range m.of[id] {
			for _, f := range m.refs[d] {
				reach(f)
			}
		}
	}
}

// passes tells how what stays fell away, if it had been taken out by hand: first what
// is left for a reason of its own, then what only that needed, and so on. Documents
// that hold on to each other in a circle fall with the first of them that something
// fallen named.
func (m *marker) passes() []int {
	g := m.Graph
	passes := []int{len(m.stays)}
	waits := make([]int, len(g.Files)) // references from documents that have not fallen yet
	falls := make([]bool, len(g.Files))
	left := 0
	for i := range g.Files {
		id := graph.FileID(i)
		_, own := m.stays[id]
		if falls[i] = !own && !m.marked[id] && Weighable(g, id); falls[i] {
			waits[i] = len(g.Files[i].Refs)
			left++
		}
	}
	fallen := make([]graph.FileID, 0, len(m.stays))
	for id := range m.stays {
		fallen = append(fallen, id)
	}
	touched := map[graph.FileID]bool{} // named by something fallen, and held by something else
	for len(fallen) > 0 && (left > 0 || passes[len(passes)-1] > 0) {
		var next []graph.FileID
		for _, id := range fallen {
			for _, d := range m.of[id] {
				for _, f := range m.refs[d] {
					if !falls[f] {
						continue
					}
					touched[f] = true
					if waits[f]--; waits[f] == 0 {
						next = append(next, f)
					}
				}
			}
		}
		if len(next) == 0 && left > 0 {
			for f := range touched {
				next = append(next, f)
			}
		}
		for _, f := range next {
			falls[f] = false
			delete(touched, f)
		}
		left -= len(next)
		passes = append(passes, len(next))
		fallen = next
	}
	if left > 0 { // nothing that fell named them: circles that nothing reaches
		passes = append(passes[:len(passes)-1], left, 0)
	}
	return passes
}
