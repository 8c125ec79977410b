package trace

import (
	"maps"
	"slices"
	"strings"

	"boundcrate/core/mention"
)

// What a document says of names holds for the documents it is made of: the
// layers under it, which share its names, and what is grafted at a name of its
// own. Of several layers the strongest that says anything is right; of several
// ways to a document the liveliest counts.

// spoken is what is said of names on one way to a document, the strongest word of
// each.
type spoken map[string]string

// maxWays bounds on how many ways a document is looked at. One with more is
// taken at its own word.
const maxWays = 16

func below(name, top string) bool {
	return name == top || top == "/" || strings.HasPrefix(name, top) && name[len(top)] == '/'
}

// use is how lively a mention is under what is said.
func (s spoken) use(m *mention.Mention) mention.Use {
	for name := m.Under; name != ""; name = name[:strings.LastIndexByte(name, '/')] {
		if s[name] == mention.Off {
			return mention.Dormant
		}
	}
	for _, w := range m.When {
		name, value, _ := strings.Cut(w, "}=")
		if s[name+"}"] != value {
			return mention.Dormant
		}
	}
	return mention.Used
}

// grafted are the words of a way as the document at the end of a graft knows
// them.
func (s spoken) grafted(gr *mention.Graft, child *mention.Doc) spoken {
	out := spoken{}
	if gr == nil {
		return out
	}
	to := gr.To
	if to == "" {
		to = child.Default
	}
	if to == "" {
		return out
	}
	for name, value := range s {
		path, choice, _ := strings.Cut(name, "{")
		if !below(path, gr.At) {
			continue
		}
		if path = to + path[len(gr.At):]; choice != "" {
			path += "{" + choice
		}
		out[path] = value
	}
	return out
}

func (s spoken) key() string {
	var b strings.Builder
	for _, name := range slices.Sorted(maps.Keys(s)) {
		b.WriteString(name + "=" + s[name] + "\n")
	}
	return b.String()
}

// ways tells, of documents that are layered or grafted, what is said on each
// way to them. It is nil where no document says anything.
func (g *Graph) ways() map[int][]spoken {
	doc := func(i int) *mention.Doc { return g.Documents[i].File.Doc }
	if !slices.ContainsFunc(g.Documents, func(d Document) bool { return len(d.File.Doc.Says) > 0 }) {
		return nil
	}
	arcs := make([][]*Reference, len(g.Documents))
	for k := range g.References {
		if r := &g.References[k]; r.Child >= 0 && g.Documents[r.Doc].Host == r.Doc {
			arcs[r.Doc] = append(arcs[r.Doc], r)
		}
	}
	graft := func(r *Reference) *mention.Graft { return doc(r.Doc).Mentions[r.Mention].Graft }
	// stack is a document with the layers under it, the strongest first.
	var stack func(i int, seen map[int]bool) []int
	stack = func(i int, seen map[int]bool) []int {
		if seen[i] {
			return nil
		}
		seen[i] = true
		list := []int{i}
		for _, r := range arcs[i] {
			if gr := graft(r); gr != nil && gr.Layer {
				list = append(list, stack(r.Child, seen)...)
			}
		}
		return list
	}
	out := map[int][]spoken{}
	known := map[int]map[string]bool{}
	type way struct {
		top int
		s   spoken
	}
	var next []way
	reach := func(top int, s spoken) {
		if known[top] == nil {
			known[top] = map[string]bool{}
		}
		if k := s.key(); !known[top][k] && len(known[top]) <= maxWays {
			known[top][k] = true
			next = append(next, way{top, s})
		}
	}
	for i := range g.Given {
		reach(i, spoken{})
	}
	for len(next) > 0 {
		w := next[0]
		next = next[1:]
		layers := stack(w.top, map[int]bool{})
		all := maps.Clone(w.s)
		for _, l := range layers {
			for name, value := range doc(l).Says {
				if _, stronger := all[name]; !stronger {
					all[name] = value
				}
			}
		}
		for _, l := range layers {
			out[l] = append(out[l], all)
			for _, r := range arcs[l] {
				if gr := graft(r); gr == nil || !gr.Layer {
					reach(r.Child, all.grafted(gr, doc(r.Child)))
				}
			}
		}
	}
	for i := range out {
		if len(out[i]) > maxWays {
			delete(out, i)
		}
	}
	return out
}

// settle makes the mentions of layered documents as lively as what is said on
// the ways to them.
func (g *Graph) settle() {
	ways := g.ways()
	if ways == nil {
		return
	}
	for k := range g.References {
		r := &g.References[k]
		m := &g.Documents[r.Doc].File.Doc.Mentions[r.Mention]
		ws := ways[r.Doc]
		// What is under no name, or in a document without names, nobody speaks of.
		if len(ws) == 0 || !strings.HasPrefix(m.Under, "/") || m.Settled || g.Documents[r.Doc].File.Doc.Says == nil {
			continue
		}
		use := mention.Dormant
		for _, s := range ws {
			use = max(use, s.use(m))
		}
		r.own = use
	}
}
