package trace

import (
	"slices"
	"strings"

	"boundcrate/core/mention"
)

// What a document switches off holds for the documents it is made of: the
// layers under it, which share its names, and what is grafted at a name of its
// own. Of several layers the strongest that says anything is right; of several
// ways to a document, a name sleeps only if it sleeps in all of them.

// sleepers is a set of names, each with all below it.
type sleepers []string

func below(name, top string) bool {
	return name == top || top == "/" || strings.HasPrefix(name, top) && name[len(top)] == '/'
}

func (s sleepers) cover(name string) bool {
	return slices.ContainsFunc(s, func(top string) bool { return below(name, top) })
}

// both are the names that sleep in each of two sets.
func both(a, b sleepers) sleepers {
	var out sleepers
	for _, n := range a {
		if b.cover(n) {
			out = append(out, n)
		}
	}
	for _, n := range b {
		if a.cover(n) && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	slices.Sort(out)
	return out
}

// asleep tells, of every document, the names in it that other documents switch
// off. It is nil where no document switches anything off.
func (g *Graph) asleep() map[int]sleepers {
	some := false
	for i := range g.Documents {
		some = some || len(g.Documents[i].File.Doc.Active) > 0
	}
	if !some {
		return nil
	}
	grafts := make([][]*Reference, len(g.Documents))
	for k := range g.References {
		if r := &g.References[k]; r.Child >= 0 {
			grafts[r.Doc] = append(grafts[r.Doc], r)
		}
	}
	graft := func(r *Reference) *mention.Graft {
		return g.Documents[r.Doc].File.Doc.Mentions[r.Mention].Graft
	}
	// stack is a document with the layers under it, the strongest first.
	var stack func(i int, seen map[int]bool) []int
	stack = func(i int, seen map[int]bool) []int {
		if seen[i] {
			return nil
		}
		seen[i] = true
		list := []int{i}
		for _, r := range grafts[i] {
			if gr := graft(r); gr != nil && gr.Layer && r.own == mention.Used {
				list = append(list, stack(r.Child, seen)...)
			}
		}
		return list
	}
	// quiet is what sleeps in a stack that is reached with some names asleep.
	quiet := func(layers []int, from sleepers) sleepers {
		said := map[string]bool{}
		all := slices.Clone(from)
		for _, l := range layers {
			for name, on := range g.Documents[l].File.Doc.Active {
				if _, stronger := said[name]; stronger {
					continue
				}
				if said[name] = on; !on {
					all = append(all, name)
				}
			}
		}
		slices.Sort(all)
		return slices.Compact(all)
	}
	meet := func(of map[int]sleepers, i int, s sleepers) (changed bool) {
		have, ok := of[i]
		if ok {
			s = both(have, s)
		}
		of[i] = s
		return !ok || !slices.Equal(have, s)
	}
	arrived := map[int]sleepers{} // what sleeps in a document by all that name it, but for layers
	var next []int
	for i := range g.Given {
		arrived[i] = nil
		next = append(next, i)
	}
	// Sets only shrink, so this ends.
	for len(next) > 0 {
		top := next[0]
		next = next[1:]
		layers := stack(top, map[int]bool{})
		asleep := quiet(layers, arrived[top])
		for _, l := range layers {
			for _, r := range grafts[l] {
				gr := graft(r)
				if gr != nil && gr.Layer {
					continue
				}
				if meet(arrived, r.Child, g.passed(gr, r.Child, asleep)) {
					next = append(next, r.Child)
				}
			}
		}
	}
	sleep := map[int]sleepers{}
	for top, from := range arrived {
		layers := stack(top, map[int]bool{})
		asleep := quiet(layers, from)
		for _, l := range layers {
			meet(sleep, l, asleep)
		}
	}
	return sleep
}

// passed are sleeping names as the document at the end of a graft knows them.
func (g *Graph) passed(gr *mention.Graft, child int, asleep sleepers) sleepers {
	if gr == nil {
		return nil
	}
	to := gr.To
	if to == "" {
		to = g.Documents[child].File.Doc.Default
	}
	var out sleepers
	for _, n := range asleep {
		if to != "" && n != gr.At && below(n, gr.At) {
			out = append(out, to+n[len(gr.At):])
		}
	}
	return out
}
