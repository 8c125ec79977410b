package mention

import (
	"bytes"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/text/problem"
)

// Retarget makes the wanted mentions (by index) say new names and all others
// what they said, and returns the edits that do it. It is pure: Stow dry-runs
// it, Seal applies it.
//
// For each mention it tries, in order: the mention's own span; moving a shared
// piece for all that lean on it; freeing the mention; a neutral shared piece
// with whole names; then it fails with a [CannotSayError].
func (d *Doc) Retarget(want map[int]string) ([]Edit, error) {
	p := planner{d: d, want: want, shared: map[int]string{}, freed: map[int]bool{}, tries: map[int]int{}}
	order := make([]int, 0, len(want))
	for i := range want {
		order = append(order, i)
	}
	sort.Ints(order)
	for _, i := range order {
		if p.target(i) == d.Name(i) && !p.affected(i) {
			continue
		}
		if err := p.place(i); err != nil {
			return nil, err
		}
	}
	return p.edits(order)
}

// maxMoves bounds how often one shared piece is tried elsewhere; each try asks
// all that lean on it, so without a bound a hostile document is quadratic.
const maxMoves = 4

type planner struct {
	d       *Doc
	want    map[int]string
	shared  map[int]string // planned values of shared pieces that change
	freed   map[int]bool
	tries   map[int]int
	leaning map[int][]int // shared piece → mentions that lean on it
}

func (p *planner) target(i int) string {
	if n, ok := p.want[i]; ok {
		return n
	}
	return p.d.Name(i)
}

func (p *planner) value(k int) string {
	if v, ok := p.shared[k]; ok {
		return v
	}
	return p.d.decode(p.d.Shared[k].Piece)
}

func (p *planner) affected(i int) bool {
	if p.freed[i] {
		return true
	}
	for _, k := range p.d.Mentions[i].Lean {
		if _, ok := p.shared[k]; ok {
			return true
		}
	}
	return false
}

func (p *planner) leaners(k int) []int {
	if p.leaning == nil {
		p.leaning = map[int][]int{}
		for i := range p.d.Mentions {
			for _, k := range p.d.Mentions[i].Lean {
				p.leaning[k] = append(p.leaning[k], i)
			}
		}
	}
	return p.leaning[k]
}

// own strips what the mention leans on from a name.
func (p *planner) own(i int, name string, depth int) (string, bool) {
	if p.freed[i] {
		return name, true
	}
	for _, k := range p.d.Mentions[i].Lean[:depth] {
		v := p.value(k)
		own, ok := p.d.Shared[k].Strip(v, name)
		if !ok || p.d.Shared[k].Join(v, own) != name {
			return "", false
		}
		name = own
	}
	return name, true
}

// textOf is what mention i names under the planned shared pieces if its own text
// stays: one name may be said in several ways, and the present one is best.
func (p *planner) textOf(i int) string {
	m := &p.d.Mentions[i]
	name := m.merge(p.d.parts(i))
	if !p.freed[i] {
		for k := len(m.Lean) - 1; k >= 0; k-- {
			name = p.d.Shared[m.Lean[k]].Join(p.value(m.Lean[k]), name)
		}
	}
	return name
}

// editsFor returns the edits by which mention i says its target under the planned
// shared pieces.
func (p *planner) editsFor(i int) ([]Edit, error) {
	d, m, name := p.d, &p.d.Mentions[i], p.target(i)
	no := func(err error) ([]Edit, error) { return nil, &CannotSayError{i, name, err} }
	if len(m.Pieces) == 0 {
		if name == d.Name(i) {
			return nil, nil
		}
		return no(problem.No(problem.NoText))
	}
	if p.textOf(i) == name {
		return nil, nil
	}
	if strings.ContainsRune(name, 0) {
		return no(problem.No(problem.NoNUL))
	}
	if m.Spelling == Bare && strings.ContainsAny(name, `/\`) {
		return no(problem.No(problem.BareOnly))
	}
	own, ok := p.own(i, name, len(m.Lean))
	if !ok {
		return no(problem.No(problem.OtherStart))
	}
	old := d.parts(i)
	if m.merge(old) == own {
		return nil, nil
	}
	parts := []string{own}
	if m.Split != nil {
		var err error
		if parts, err = m.Split(own); err != nil {
			return no(err)
		}
	}
	if len(parts) != len(m.Pieces) || m.merge(parts) != own {
		return no(problem.No(problem.Indivisible))
	}
	var edits []Edit
	for k, piece := range m.Pieces {
		if parts[k] == old[k] {
			continue
		}
		e, err := d.encode(piece, parts[k])
		if err != nil {
			return no(err)
		}
		edits = append(edits, e)
	}
	return edits, nil
}

func (d *Doc) encode(p Piece, s string) (Edit, error) {
	if d.Texts[p.Span.Text].Sealed {
		return Edit{}, problem.No(problem.SealedText)
	}
	fits := d.Texts[p.Span.Text].Fits
	if fits == nil {
		fits = func(rune) bool { return true }
	}
	b, err := p.Coding.Encode(s, d.raw(p.Span), fits)
	if err != nil {
		return Edit{}, err
	}
	if back, err := p.Coding.Decode(b); err != nil || back != s {
		// A coding that cannot read its own writing must not reach a file.
		return Edit{}, problem.No(problem.Unreturnable)
	}
	return Edit{p.Span, b}, nil
}

func (p *planner) place(i int) error {
	_, first := p.editsFor(i)
	if first == nil {
		return nil
	}
	m := &p.d.Mentions[i]
	if p.freed[i] {
		return first
	}
	for depth := len(m.Lean) - 1; depth >= 0; depth-- {
		k := m.Lean[depth]
		s := &p.d.Shared[k]
		if s.Move == nil || p.tries[k] >= maxMoves {
			continue
		}
		p.tries[k]++
		outer, ok := p.own(i, p.target(i), depth)
		if !ok {
			continue
		}
		inner := m.merge(p.d.parts(i))
		for j := len(m.Lean) - 1; j > depth; j-- {
			inner = p.d.Shared[m.Lean[j]].Join(p.value(m.Lean[j]), inner)
		}
		if v, ok := s.Move(outer, inner); ok && p.try(map[int]string{k: v}) {
			return nil
		}
	}
	if m.Free != nil {
		p.freed[i] = true
		if _, err := p.editsFor(i); err == nil {
			return nil
		}
		delete(p.freed, i)
	}
	if len(m.Lean) > 0 {
		neutral := map[int]string{}
		for _, k := range m.Lean {
			neutral[k] = p.d.Shared[k].Neutral
			if p.tries[k] > maxMoves {
				return first
			}
			p.tries[k] = maxMoves + 1
		}
		if p.try(neutral) {
			return nil
		}
	}
	return first
}

// try plans new values for shared pieces and keeps them if every mention that
// leans on one can still say its target.
func (p *planner) try(values map[int]string) bool {
	before := map[int]*string{}
	for k, v := range values {
		if old, ok := p.shared[k]; ok {
			before[k] = &old
		} else {
			before[k] = nil
		}
		p.shared[k] = v
	}
	good := true
check:
	for k, v := range values {
		if _, err := p.d.encode(p.d.Shared[k].Piece, v); err != nil {
			good = false
			break
		}
		for _, i := range p.leaners(k) {
			if _, err := p.editsFor(i); err != nil {
				good = false
				break check
			}
		}
	}
	if !good {
		for k, v := range before {
			if v == nil {
				delete(p.shared, k)
			} else {
				p.shared[k] = *v
			}
		}
	}
	return good
}

func (p *planner) edits(order []int) ([]Edit, error) {
	var edits []Edit
	touched := map[int]bool{}
	for _, i := range order {
		touched[i] = true
	}
	for k, v := range p.shared {
		if v != p.d.decode(p.d.Shared[k].Piece) {
			e, err := p.d.encode(p.d.Shared[k].Piece, v)
			if err != nil {
				return nil, err
			}
			edits = append(edits, e)
		}
		for _, i := range p.leaners(k) {
			touched[i] = true
		}
	}
	all := make([]int, 0, len(touched))
	for i := range touched {
		all = append(all, i)
	}
	sort.Ints(all)
	owner := make(map[Span]int, len(all))
	for _, i := range all {
		es, err := p.editsFor(i)
		if err != nil {
			return nil, err
		}
		if p.freed[i] {
			edits = append(edits, *p.d.Mentions[i].Free)
		}
		for _, e := range es {
			if e.Off < e.End {
				// Two mentions may stand in one span (an include read twice):
				// they agree, or one of them cannot have its way.
				if j, ok := owner[e.Span]; ok {
					if p.target(j) != p.target(i) {
						return nil, &CannotSayError{i, p.target(i), problem.No(problem.SharedText)}
					}
					continue
				}
				owner[e.Span] = i
			}
			edits = append(edits, e)
		}
	}
	edits = slices.DeleteFunc(edits, func(e Edit) bool { return bytes.Equal(e.New, p.d.raw(e.Span)) })
	sortEdits(edits)
	return edits, nil
}
