package trace

import (
	"maps"
	"slices"
	"strings"

	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
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
func (s spoken) use(m *mention.Scope) mention.Use {
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
func (s spoken) grafted(gr *mention.Graft, main string) spoken {
	out := spoken{}
	if gr == nil {
		return out
	}
	to := gr.To
	if to == "" {
		to = main
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
func (t *tracer) ways() map[graph.DocID][]spoken {
	g := t.graph
	if !slices.ContainsFunc(t.readings, func(r *reading) bool { return len(r.says) > 0 }) {
		return nil
	}
	arcs := make([][]*graph.Reference, len(g.Documents))
	for k := range g.References {
		if r := &g.References[k]; r.Child >= 0 && g.Documents[r.Doc].Host == r.Doc {
			arcs[r.Doc] = append(arcs[r.Doc], r)
		}
	}
	graft := func(r *graph.Reference) *mention.Graft { return t.readingOf(r).scope().Graft }
	// stack is a document with the layers under it, the strongest first.
	var stack func(i graph.DocID, seen map[graph.DocID]bool) []graph.DocID
	stack = func(i graph.DocID, seen map[graph.DocID]bool) []graph.DocID {
		if seen[i] {
			return nil
		}
		seen[i] = true
		list := []graph.DocID{i}
		for _, r := range arcs[i] {
			if gr := graft(r); gr != nil && gr.Layer {
				list = append(list, stack(r.Child, seen)...)
			}
		}
		return list
	}
	out := map[graph.DocID][]spoken{}
	known := map[graph.DocID]map[string]bool{}
	type way struct {
		top graph.DocID
		s   spoken
	}
	var next []way
	reach := func(top graph.DocID, s spoken) {
		if known[top] == nil {
			known[top] = map[string]bool{}
		}
		if k := s.key(); !known[top][k] && len(known[top]) <= maxWays {
			known[top][k] = true
			next = append(next, way{top, s})
		}
	}
	for _, i := range g.Roots {
		reach(i, spoken{})
	}
	for len(next) > 0 {
		w := next[0]
		next = next[1:]
		layers := stack(w.top, map[graph.DocID]bool{})
		all := maps.Clone(w.s)
		for _, l := range layers {
			for name, value := range t.readings[l].says {
				if _, stronger := all[name]; !stronger {
					all[name] = value
				}
			}
		}
		for _, l := range layers {
			out[l] = append(out[l], all)
			for _, r := range arcs[l] {
				if gr := graft(r); gr == nil || !gr.Layer {
					reach(r.Child, all.grafted(gr, t.readings[r.Child].main))
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

func (t *tracer) readingOf(r *graph.Reference) *said { return &t.readings[r.Doc].said[r.Mention] }

// settle makes the mentions of layered documents as lively as what is said on
// the ways to them.
func (t *tracer) settle() {
	ways := t.ways()
	if ways == nil {
		return
	}
	of := func(doc graph.DocID, in *mention.Scope) (mention.Use, bool) {
		ws := ways[doc]
		// What is under no name, or in a document without names, nobody speaks of.
		if len(ws) == 0 || !strings.HasPrefix(in.Under, "/") || in.Settled || t.readings[doc].says == nil {
			return 0, false
		}
		use := mention.Dormant
		for _, s := range ws {
			use = max(use, s.use(in))
		}
		return use, true
	}
	for k := range t.graph.References {
		r := &t.graph.References[k]
		if use, ok := of(r.Doc, t.readingOf(r).scope()); ok {
			t.own[k] = use
		}
	}
	for k := range t.graph.WritePoints {
		w := &t.graph.WritePoints[k]
		if use, ok := of(w.Doc, t.readings[w.Doc].said[w.Mention].scope()); ok {
			w.Use = use
		}
	}
}

// propagate carries use through nesting: what a dormant or listed mention leads
// to is no livelier than it; of several ways in, the liveliest wins. A way that
// picks names wakes only what belongs to them.
func (t *tracer) propagate() {
	g := t.graph
	all := make([]mention.Use, len(g.Documents))
	picked := make([]map[string]mention.Use, len(g.Documents))
	for i := range all {
		all[i] = mention.Bystander
	}
	for _, i := range g.Roots {
		all[i] = mention.Used
	}
	t.settle()
	liveliest := func(doc graph.DocID, under string) mention.Use {
		live := all[doc]
		if under != "" {
			if u, ok := picked[doc][under]; ok {
				live = max(live, u)
			}
			return live
		}
		for _, u := range picked[doc] {
			live = max(live, u)
		}
		return live
	}
	of := func(k int) mention.Use {
		r := &g.References[k]
		return max(min(t.own[k], liveliest(r.Doc, t.readingOf(r).scope().Under)), mention.Listed)
	}
	var arcs []int
	for k := range g.References {
		if g.References[k].Child >= 0 {
			arcs = append(arcs, k)
		}
	}
	// Use only rises and has four values, so this ends after few rounds.
	for changed := true; changed; {
		changed = false
		for _, k := range arcs {
			ref := &g.References[k]
			use, picks := of(k), t.readingOf(ref).scope().Picks
			if picks == nil && use > all[ref.Child] {
				all[ref.Child], changed = use, true
			}
			for _, p := range picks {
				if picked[ref.Child] == nil {
					picked[ref.Child] = map[string]mention.Use{}
				}
				if was, ok := picked[ref.Child][p]; !ok || use > was {
					picked[ref.Child][p], changed = use, true
				}
			}
		}
	}
	for k := range g.References {
		g.References[k].Use = of(k)
	}
	for k := range g.WritePoints {
		w := &g.WritePoints[k]
		w.Use = max(min(w.Use, liveliest(w.Doc, t.readings[w.Doc].said[w.Mention].scope().Under)), mention.Listed)
	}
	for i := range g.Documents {
		g.Documents[i].Use = liveliest(graph.DocID(i), "")
	}
}
