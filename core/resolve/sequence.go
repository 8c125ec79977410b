package resolve

import (
	"errors"
	"path/filepath"
	"slices"
	"sort"
	"strconv"
	"strings"

	"boundcrate/core/drive"
	"boundcrate/core/mention"
)

// Gap is a run of numbers that a sequence lacks: First, First+Step … Last.
type Gap struct{ First, Last, Step int }

// Len is how many numbers the gap holds.
func (g Gap) Len() int { return (g.Last-g.First)/g.Step + 1 }

// Tiles of a grid are numbers beyond any frame: gridBase + v×gridRow + u.
const (
	gridBase = 1 << 41
	gridRow  = 10_000
)

// Label is a number as people read it: a frame's, or a tile's "u3_v1".
func Label(n int) string {
	if n < gridBase {
		return strconv.Itoa(n)
	}
	n -= gridBase
	return "u" + strconv.Itoa(n%gridRow) + "_v" + strconv.Itoa(n/gridRow)
}

// tile reads a label of the grid.
func tile(s string) (int, bool) {
	a, b, ok := strings.Cut(s, "_v")
	a, isU := strings.CutPrefix(a, "u")
	u, err := strconv.Atoi(a)
	v, err2 := strconv.Atoi(b)
	n := gridBase + v*gridRow + u
	return n, ok && isU && err == nil && err2 == nil && u > 0 && v > 0 && u < gridRow && v < gridRow && Label(n) == s
}

// gridGaps are the tiles that lack in the rectangle the found ones span.
func gridGaps(found []int) (gaps []Gap) {
	have := map[int]bool{}
	u0, u1 := gridRow, 0
	for _, n := range found {
		have[n] = true
		u := (n - gridBase) % gridRow
		u0, u1 = min(u0, u), max(u1, u)
	}
	if len(found) == 0 {
		return nil
	}
	for v := (found[0] - gridBase) / gridRow; v <= (found[len(found)-1]-gridBase)/gridRow; v++ {
		for u := u0; u <= u1; u++ {
			n := gridBase + v*gridRow + u
			if have[n] {
				continue
			}
			if k := len(gaps) - 1; k >= 0 && gaps[k].Last == n-1 {
				gaps[k].Last = n
			} else {
				gaps = append(gaps, Gap{n, n, 1})
			}
		}
	}
	return gaps
}

// Pattern is the place of a sequence: the files Dir/Head NUMBER Tail, the
// number zero-padded to Digits. Its text form, with the number of digits in
// angle brackets, is what repairs and places of sequences are keyed by:
// /film/sunrise/sun.<4>.png.
type Pattern struct {
	Dir, Head, Tail string
	Digits          int
}

func (p Pattern) String() string {
	return filepath.Join(p.Dir, p.Head+"<"+digitsWord(p.Digits)+">"+p.Tail)
}

func digitsWord(digits int) string {
	if digits == mention.Grid {
		return "u_v"
	}
	return strconv.Itoa(digits)
}

// Shown is the pattern's name for people and documents: sun.####.png.
func (p Pattern) Shown() string {
	if p.Digits == mention.Grid {
		return p.Head + "u#_v#" + p.Tail
	}
	return p.Head + strings.Repeat("#", p.Digits) + p.Tail
}

// Name is the file name of one number.
func (p Pattern) Name(n int) string {
	if p.Digits == mention.Grid {
		return p.Head + Label(n) + p.Tail
	}
	sign := ""
	if n < 0 {
		sign, n = "-", -n
	}
	s := strconv.Itoa(n)
	return p.Head + sign + strings.Repeat("0", max(0, p.Digits-len(s))) + s + p.Tail
}

// ParsePattern reads the text form.
func ParsePattern(s string) (Pattern, bool) {
	dir, base := filepath.Split(s)
	open := strings.LastIndexByte(base, '<')
	if open < 0 {
		return Pattern{}, false
	}
	num, tail, ok := strings.Cut(base[open+1:], ">")
	digits, err := strconv.Atoi(num)
	if num == digitsWord(mention.Grid) {
		return Pattern{filepath.Clean(dir), base[:open], tail, mention.Grid}, ok
	}
	if !ok || err != nil || digits < 0 {
		return Pattern{}, false
	}
	return Pattern{filepath.Clean(dir), base[:open], tail, digits}, true
}

// Shown is a place for people: of a sequence, its path with number signs.
func Shown(place string) string {
	if p, ok := ParsePattern(place); ok {
		return filepath.Join(p.Dir, p.Shown())
	}
	return place
}

// Number reads the number of a file name of the pattern.
func (p Pattern) Number(name string) (int, bool) {
	mid, ok := strings.CutPrefix(name, p.Head)
	if !ok {
		return 0, false
	}
	if mid, ok = strings.CutSuffix(mid, p.Tail); !ok || mid == "" {
		return 0, false
	}
	if p.Digits == mention.Grid {
		return tile(mid)
	}
	digits := strings.TrimPrefix(mid, "-")
	if digits == "" || len(digits) > 12 || len(digits) < p.Digits || len(digits) > max(1, p.Digits) && digits[0] == '0' {
		return 0, false
	}
	for _, c := range []byte(digits) {
		if c < '0' || c > '9' {
			return 0, false
		}
	}
	n, err := strconv.Atoi(mid)
	return n, err == nil
}

// Frames lists the files of a pattern that seq names, by rising number, and
// the numbers it names that are not there.
func Frames(p Pattern, seq mention.Sequence, list func(dir string) ([]string, []int64, error)) (files []string, sizes []int64, gaps []Gap, err error) {
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
			gaps = append(gaps, Gap{next, f.n - seq.Step, seq.Step})
		}
		next = f.n + seq.Step
		files = append(files, filepath.Join(p.Dir, names[f.i]))
		sizes = append(sizes, size[f.i])
	}
	if (seq.Count > 0 || len(found) > 0) && next <= last {
		gaps = append(gaps, Gap{next, last, seq.Step})
	}
	return files, sizes, gaps, nil
}

// mark stands for the number while a pattern's text is read as a path. It is
// a private-use character, which no escape and no separator can produce.
const mark = "\uE000"

func (r *Resolver) sequence(doc string, m *mention.Mention, written string) Place {
	sp := m.Spelling
	if sp == mention.Pattern {
		sp = mention.URI
	}
	ms, network := meanings(sp, m.Sequence.Head+mark+m.Sequence.Tail, filepath.Dir(doc))
	if network {
		return Place{State: Missing, Network: true, Expected: written, Why: "on the network, not fetched"}
	}
	var p Place
	p.State = Missing
	list := func(dir string) ([]string, []int64, error) { return r.files(dir) }
	there := func(pat Pattern, q *Place) bool {
		files, sizes, gaps, err := Frames(pat, *m.Sequence, list)
		if errors.Is(err, drive.ErrUnplugged) {
			q.State = Unplugged
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
	patternOf := func(m meaning) (Pattern, bool) {
		dir, base := filepath.Split(m.path)
		head, tail, ok := strings.Cut(base, mark)
		return Pattern{filepath.Clean(dir), head, tail, 0}, ok && !m.alien
	}
	unplugged := false
	for i, way := range ms {
		pat, ok := patternOf(way)
		if !ok {
			continue
		}
		pat.Digits = m.Sequence.Digits
		if p.Expected == "" {
			p.Expected = pat.String()
			var q Place
			if _, ok := r.repaired(p.Expected, doc, written, func(to string) bool {
				pat, ok := ParsePattern(to)
				return ok && there(pat, &q)
			}); ok {
				var own Place
				if there(pat, &own) {
					q = fill(own, q, pat, *m.Sequence)
				}
				q.Expected, q.Repaired = p.Expected, true
				return q
			}
		}
		for k, at := range r.translate(meaning{path: pat.Dir}) {
			q := p
			pat.Dir = at
			if there(pat, &q) {
				q.Loose = way.second && k == 0
				return q
			}
			unplugged = unplugged || q.State == Unplugged
			if i == 0 && k == 0 {
				p.Gaps = q.Gaps
			}
		}
	}
	if p.Expected == "" && len(ms) > 0 {
		p.Expected = strings.Replace(ms[0].path, mark, "<"+digitsWord(m.Sequence.Digits)+">", 1)
	}
	if unplugged {
		p.State, p.Gaps = Unplugged, nil
		return p
	}
	if m.Sequence.Count > 0 && p.Gaps == nil {
		s := m.Sequence
		p.Gaps = []Gap{{s.First, s.First + (s.Count-1)*s.Step, s.Step}}
	}
	return p
}

// within is a sequence whose files stand in the document's own package: what
// it lacks is lacking for good.
func within(m *mention.Mention) Place {
	p := Place{State: Inside}
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
	_, _, p.Gaps, _ = Frames(Pattern{Dir: "/", Head: head, Tail: tail, Digits: m.Sequence.Digits}, *m.Sequence, list) // the listing cannot fail
	return p
}

// fill joins a sequence with the files a repair found for its gaps. What stands
// in the sequence's own folder goes first; a document cannot say two folders,
// but a crate can bring them together.
func fill(own, more Place, pat Pattern, seq mention.Sequence) Place {
	type frame struct {
		path string
		size int64
	}
	at := map[string]frame{}
	for _, p := range []Place{more, own} {
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
	if more.State == Away {
		own.State = Away
	}
	return own
}

// files lists the regular files of a folder with their sizes.
func (r *Resolver) files(dir string) (names []string, sizes []int64, err error) {
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

// Numbers lists the numbers of gaps, or ok false when there are more than most.
func Numbers(gaps []Gap, most int) (ns []int, ok bool) {
	for _, g := range gaps {
		if g.Len() > most-len(ns) {
			return nil, false
		}
		for n := g.First; n <= g.Last; n += g.Step {
			ns = append(ns, n)
		}
	}
	return slices.Clip(ns), true
}
