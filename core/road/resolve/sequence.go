package resolve

import (
	"errors"
	"path/filepath"
	"regexp"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// gridGaps are the tiles that lack in the rectangle the found ones span.
func gridGaps(found []int) (gaps []graph.Gap) {
	have := map[int]bool{}
	u0, u1 := graph.GridRow, 0
	for _, n := range found {
		have[n] = true
		u := (n - graph.GridBase) % graph.GridRow
		u0, u1 = min(u0, u), max(u1, u)
	}
	if len(found) == 0 {
		return nil
	}
	for v := (found[0] - graph.GridBase) / graph.GridRow; v <= (found[len(found)-1]-graph.GridBase)/graph.GridRow; v++ {
		for u := u0; u <= u1; u++ {
			n := graph.GridBase + v*graph.GridRow + u
			if have[n] {
				continue
			}
			if k := len(gaps) - 1; k >= 0 && gaps[k].Last == n-1 {
				gaps[k].Last = n
			} else {
				gaps = append(gaps, graph.Gap{First: n, Last: n, Step: 1})
			}
		}
	}
	return gaps
}

// Frames lists the files of a pattern that seq names, by rising number, and
// the numbers it names that are not there.
func Frames(p graph.Pattern, seq mention.Sequence, list func(dir string) ([]string, []int64, error)) (files []string, sizes []int64, gaps []graph.Gap, err error) {
	names, size, err := list(p.Dir)
	if err != nil {
		return nil, nil, nil, err
	}
	type frame struct {
		n int
		i int
	}
	var found []frame
	for i, name := range names {
		n, ok := p.Number(name)
		if !ok {
			continue
		}
		if k := n - seq.First; seq.Count > 0 && (k < 0 || k%seq.Step != 0 || k/seq.Step >= seq.Count) {
			continue
		}
		if seq.Token == mention.UDIM && (n < 1001 || n > 9999) {
			continue
		}
		found = append(found, frame{n, i})
	}
	sort.Slice(found, func(a, b int) bool { return found[a].n < found[b].n })
	if p.Digits == mention.Grid {
		at := make([]int, len(found))
		for k, f := range found {
			at[k] = f.n
			files, sizes = append(files, filepath.Join(p.Dir, names[f.i])), append(sizes, size[f.i])
		}
		return files, sizes, gridGaps(at), nil
	}
	next, last := seq.First, seq.First+(seq.Count-1)*seq.Step
	if seq.Count == 0 && len(found) > 0 {
		next, last = found[0].n, found[len(found)-1].n
	}
	for k, f := range found {
		if k > 0 && f.n == found[k-1].n {
			continue // "-0" and "0"
		}
		if f.n-seq.Step >= next {
			gaps = append(gaps, graph.Gap{First: next, Last: f.n - seq.Step, Step: seq.Step})
		}
		next = f.n + seq.Step
		files = append(files, filepath.Join(p.Dir, names[f.i]))
		sizes = append(sizes, size[f.i])
	}
	if (seq.Count > 0 || len(found) > 0) && next <= last {
		gaps = append(gaps, graph.Gap{First: next, Last: last, Step: seq.Step})
	}
	return files, sizes, gaps, nil
}

// mark stands for the number while a pattern's text is read as a path. It is
// a private-use character, which no escape and no separator can produce.
const mark = "\uE000"

func (r *Resolver) sequence(doc string, m *mention.Mention, written string) *graph.Place {
	p := r.frames(doc, m, written)
	return &p
}

func (r *Resolver) frames(doc string, m *mention.Mention, written string) graph.Place {
	sp := m.Spelling
	if sp == mention.Pattern {
		sp = mention.URI
	}
	ms, network := meanings(sp, m.Sequence.Head+mark+m.Sequence.Tail, filepath.Dir(doc))
	if network {
		return graph.Place{State: graph.Missing, Expected: written, Why: graph.OnNetwork}
	}
	var p graph.Place
	p.State = graph.Missing
	there := func(pat graph.Pattern, q *graph.Place) bool { return r.there(pat, *m.Sequence, q) }
	digits := m.Sequence.Digits
	patternOf := func(m meaning) (graph.Pattern, bool) {
		dir, base := filepath.Split(m.path)
		head, tail, ok := strings.Cut(base, mark)
		return graph.Pattern{Dir: filepath.Clean(dir), Head: head, Tail: tail, Digits: digits}, ok
	}
	unplugged := false
	for i, way := range ms {
		pat, ok := patternOf(way)
		if !ok {
			continue
		}
		if p.Expected == "" {
			p.Expected = pat.String()
			if q, ok := r.filled(pat, way.alien, *m.Sequence, r.repairs(p.Expected, doc, written), there); ok {
				q.Expected, q.Repaired = p.Expected, true
				return q
			}
		}
		for k, at := range r.translate(meaning{path: pat.Dir, alien: way.alien}) {
			if at == "" {
				continue // a folder of another machine
			}
			q := p
			pat.Dir = at
			if there(pat, &q) {
				q.Loose = way.second && k == 0
				return q
			}
			unplugged = unplugged || q.State == graph.Unplugged
			if i == 0 && k == 0 {
				p.Gaps = q.Gaps
			}
		}
	}
	if p.Expected == "" && len(ms) > 0 {
		p.Expected = strings.Replace(ms[0].path, mark, "<"+graph.DigitsWord(m.Sequence.Digits)+">", 1)
	}
	if unplugged {
		p.State, p.Gaps = graph.Unplugged, nil
		return p
	}
	for _, way := range ms {
		pat, ok := patternOf(way)
		if !ok || way.alien {
			continue
		}
		if list := r.alike(pat); len(list) == 1 {
			if q := p; there(list[0], &q) {
				q.Loose = true
				return q
			}
		}
	}
	if m.Sequence.Count > 0 && p.Gaps == nil {
		s := m.Sequence
		p.Gaps = []graph.Gap{{First: s.First, Last: s.First + (s.Count-1)*s.Step, Step: s.Step}}
	}
	return p
}

// there tells whether files of a sequence stand in the folder of a pattern, and puts them
// into a place.
func (r *Resolver) there(pat graph.Pattern, s mention.Sequence, q *graph.Place) bool {
	files, sizes, gaps, err := Frames(pat, s, r.listed)
	if errors.Is(err, drive.ErrUnplugged) {
		q.State = graph.Unplugged
		return false
	}
	if len(files) == 0 {
		q.Gaps = gaps
		return false
	}
	q.Files, q.Sizes, q.Gaps = files, sizes, gaps
	q.State = r.Locate(pat.Dir)
	return true
}

// alike are the patterns that files stand under which differ from one in letter
// case, Unicode form or escapes alone.
func (r *Resolver) alike(pat graph.Pattern) (list []graph.Pattern) {
	head, tail := names.Fold(pat.Head), names.Fold(pat.Tail)
	for _, dir := range r.spelled(pat.Dir) {
		for _, e := range r.list(dir).entries {
			name := e.Name()
			for _, at := range number.FindAllStringIndex(name, -1) {
				p := graph.Pattern{Dir: dir, Head: name[:at[0]], Tail: name[at[1]:], Digits: pat.Digits}
				if _, ok := p.Number(name); ok && names.Fold(p.Head) == head && names.Fold(p.Tail) == tail && !slices.Contains(list, p) {
					list = append(list, p)
				}
			}
		}
	}
	return list
}

// number is what a frame's name may hold as its number.
var number = regexp.MustCompile(`-?[0-9]+`)

// within is a sequence whose files stand in the document's own package: what
// it lacks is lacking for good.
func within(m *mention.Mention) *graph.Place {
	p := &graph.Place{State: graph.Inside}
	sp := m.Spelling
	if sp == mention.Pattern {
		sp = mention.URI
	}
	ms, _ := meanings(sp, m.Sequence.Head+mark+m.Sequence.Tail, "/")
	if len(ms) == 0 {
		return p
	}
	head, tail, _ := strings.Cut(filepath.Base(ms[0].path), mark)
	list := func(string) ([]string, []int64, error) {
		return m.Sequence.Within, make([]int64, len(m.Sequence.Within)), nil
	}
	_, _, p.Gaps, _ = Frames(graph.Pattern{Dir: "/", Head: head, Tail: tail, Digits: m.Sequence.Digits}, *m.Sequence, list) // the listing cannot fail
	return p
}

// filled is a sequence as its repairs leave it: where the last one leads, and what that
// lacks from the folder it was in and, of the same names, from where earlier ones led.
func (r *Resolver) filled(pat graph.Pattern, alien bool, seq mention.Sequence, repairs []string, there func(graph.Pattern, *graph.Place) bool) (q graph.Place, ok bool) {
	var first graph.Pattern
	for _, to := range repairs {
		at, is := graph.ParsePattern(to)
		var more graph.Place
		switch {
		case !is || ok && (at.Head != first.Head || at.Tail != first.Tail) || !there(at, &more):
		case !ok:
			q, first, ok = more, at, true
		default:
			q = fill(q, more, first, seq)
		}
	}
	var own graph.Place
	if ok && !alien && there(pat, &own) && !covers(q, first, own, pat) {
		q = fill(own, q, pat, seq)
	}
	return q, ok
}

// covers tells that a place has every number of a sequence that another has: it takes its
// place, since a document can say one folder.
func covers(p graph.Place, at graph.Pattern, other graph.Place, of graph.Pattern) bool {
	have := map[int]bool{}
	for _, f := range p.Files {
		if n, ok := at.Number(filepath.Base(f)); ok {
			have[n] = true
		}
	}
	return !slices.ContainsFunc(other.Files, func(f string) bool {
		n, ok := of.Number(filepath.Base(f))
		return !ok || !have[n]
	})
}

// fill joins a sequence with the files a repair found for its gaps. What stands
// in the sequence's own folder goes first; a document cannot say two folders,
// but a crate can bring them together.
func fill(own, more graph.Place, pat graph.Pattern, seq mention.Sequence) graph.Place {
	type frame struct {
		path string
		size int64
	}
	at := map[string]frame{}
	for _, p := range []graph.Place{more, own} {
		for i, f := range p.Files {
			at[filepath.Base(f)] = frame{f, p.Sizes[i]}
		}
	}
	names := make([]string, 0, len(at))
	sizes := make([]int64, 0, len(at))
	for n, f := range at {
		names, sizes = append(names, n), append(sizes, f.size)
	}
	files, sz, gaps, _ := Frames(pat, seq, func(string) ([]string, []int64, error) { return names, sizes, nil }) // the listing cannot fail
	for i, f := range files {
		files[i] = at[filepath.Base(f)].path
	}
	own.Files, own.Sizes, own.Gaps = files, sz, gaps
	if more.State == graph.Away {
		own.State = graph.Away
	}
	return own
}

// listed lists the regular files of a folder with their sizes.
func (r *Resolver) listed(dir string) (names []string, sizes []int64, err error) {
	l := r.list(dir)
	if l.err != nil {
		return nil, nil, l.err
	}
	for _, e := range l.entries {
		if e.IsDir() {
			continue
		}
		info, err := e.Info()
		if err != nil {
			continue
		}
		size := info.Size()
		if !info.Mode().IsRegular() {
			st, err := r.stat(filepath.Join(dir, e.Name()))
			if err != nil || !st.Mode.IsRegular() {
				continue
			}
			size = st.Size
		}
		names, sizes = append(names, e.Name()), append(sizes, size)
	}
	return names, sizes, nil
}
