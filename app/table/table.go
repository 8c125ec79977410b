// Package table serves a list of any length from one description: columns,
// groups, facets and a key. A page asks for windows of it, filtered, sorted and
// grouped here; CSV, counts and selection by query come from the same words.
package table

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
)

// Column is one column: an id, what CSV calls it, and its text. Number, where
// there is one, is what it sorts by; a hidden column is only filtered by and
// exported.
type Column[T any] struct {
	ID     string
	Title  string
	Text   func(*T) string
	Number func(*T) int64
	Quiet  bool // the filter does not look at it
}

// Group is one way to part the rows under headings.
type Group[T any] struct {
	ID    string
	Key   func(*T) string
	Title func(key string) string // nil: the key itself
	Rank  func(key string) int    // nil: in the order they are met
	Note  func(rows []*T) string
}

// Sum is what a list of rows comes to.
type Sum struct {
	Rows  int
	Files int
	Uses  int
	Bytes int64
}

// Spec describes a table once.
type Spec[T any] struct {
	Name    string
	Columns []Column[T]
	Groups  []Group[T]
	Usual   string // the id of the usual group; "" is one list
	Facets  map[string]func(row *T, value string) bool
	Key     func(*T) string
	Sum     func(*T) Sum
}

// Table is the rows of one snapshot. It never changes; what was ordered once is
// kept. Safe for concurrent use.
type Table[T any] struct {
	Spec[T]
	rows []T
	keys map[string]int32

	mu     sync.Mutex
	views  map[string]*View[T]
	oldest []string
}

// New makes a table of rows.
func New[T any](spec Spec[T], rows []T) *Table[T] {
	return &Table[T]{Spec: spec, rows: rows, views: map[string]*View[T]{}}
}

// Len is how many rows there are.
func (t *Table[T]) Len() int { return len(t.rows) }

// All are the rows in their own order.
func (t *Table[T]) All() []T { return t.rows }

// Row is the row of a key.
func (t *Table[T]) Row(key string) (*T, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.keys == nil {
		t.keys = make(map[string]int32, len(t.rows))
		for i := range t.rows {
			t.keys[t.Key(&t.rows[i])] = int32(i)
		}
	}
	i, ok := t.keys[key]
	if !ok {
		return nil, false
	}
	return &t.rows[i], true
}

// Query is what to show, and how.
type Query struct {
	Filter string // words; each has to stand in the row
	Sort   string // a column's id, with a hyphen before it to turn it round
	Group  string // a group's id, or "none" for one list; "" is the usual one
	Facets map[string]string
}

func (q Query) key() string {
	parts := []string{q.Filter, q.Sort, q.Group}
	for k, v := range q.Facets {
		if v != "" {
			parts = append(parts, k+"="+v)
		}
	}
	slices.Sort(parts[3:])
	return strings.Join(parts, "\x00")
}

// Heading stands over the rows of a group.
type Heading struct {
	Key   string
	Title string
	Note  string
	Count int
}

// View is the lines of a query in their order.
type View[T any] struct {
	lines    []int32 // a row, or −1 − the number of a heading
	headings []Heading
	table    *Table[T]
	Sum      Sum
}

// Error tells what of a query the table does not know.
type Error struct{ What, Name string }

func (e *Error) Error() string { return fmt.Sprintf("the list has no %s %q", e.What, e.Name) }

// Check tells whether a query asks for what the table has.
func (t *Table[T]) Check(q Query) error {
	id := strings.TrimPrefix(q.Sort, "-")
	if id != "" && !slices.ContainsFunc(t.Columns, func(c Column[T]) bool { return c.ID == id }) {
		return &Error{"column", id}
	}
	if q.Group != "" && q.Group != "none" && t.group(q.Group) == nil {
		return &Error{"grouping", q.Group}
	}
	for name := range q.Facets {
		if t.Facets[name] == nil {
			return &Error{"facet", name}
		}
	}
	return nil
}

// maxViews bounds how many orders of one table are kept.
const maxViews = 12

// View orders the table by a query, once.
func (t *Table[T]) View(q Query) *View[T] {
	key := q.key()
	t.mu.Lock()
	v := t.views[key]
	t.mu.Unlock()
	if v != nil {
		return v
	}
	v = t.order(q)
	t.mu.Lock()
	defer t.mu.Unlock()
	if len(t.oldest) >= maxViews {
		delete(t.views, t.oldest[0])
		t.oldest = t.oldest[1:]
	}
	t.views[key], t.oldest = v, append(t.oldest, key)
	return v
}

func (t *Table[T]) order(q Query) *View[T] {
	list := t.filtered(q)
	t.sort(list, q.Sort)
	v := &View[T]{table: t}
	for _, i := range list {
		s := t.Spec.Sum(&t.rows[i])
		v.Sum.Rows++
		v.Sum.Files += s.Files
		v.Sum.Uses += s.Uses
		v.Sum.Bytes += s.Bytes
	}
	g := t.group(q.Group)
	if g == nil {
		v.lines = list
		return v
	}
	type part struct {
		key  string
		rank int
		rows []int32
	}
	parts := map[string]*part{}
	var order []*part
	for _, i := range list {
		k := g.Key(&t.rows[i])
		p := parts[k]
		if p == nil {
			p = &part{key: k}
			if g.Rank != nil {
				p.rank = g.Rank(k)
			}
			parts[k] = p
			order = append(order, p)
		}
		p.rows = append(p.rows, i)
	}
	slices.SortStableFunc(order, func(a, b *part) int { return cmp.Compare(a.rank, b.rank) })
	v.lines = make([]int32, 0, len(list)+len(order))
	for _, p := range order {
		h := Heading{Key: p.key, Title: p.key, Count: len(p.rows)}
		if g.Title != nil {
			h.Title = g.Title(p.key)
		}
		if g.Note != nil {
			rows := make([]*T, len(p.rows))
			for k, i := range p.rows {
				rows[k] = &t.rows[i]
			}
			h.Note = g.Note(rows)
		}
		v.lines = append(append(v.lines, int32(-1-len(v.headings))), p.rows...)
		v.headings = append(v.headings, h)
	}
	return v
}

func (t *Table[T]) group(id string) *Group[T] {
	if id == "" {
		id = t.Usual
	}
	for i := range t.Groups {
		if t.Groups[i].ID == id {
			return &t.Groups[i]
		}
	}
	return nil
}

func (t *Table[T]) filtered(q Query) []int32 {
	words := strings.Fields(strings.ToLower(q.Filter))
	list := make([]int32, 0, len(t.rows))
	var b strings.Builder
next:
	for i := range t.rows {
		row := &t.rows[i]
		for name, value := range q.Facets {
			if is := t.Facets[name]; is != nil && value != "" && !is(row, value) {
				continue next
			}
		}
		if len(words) > 0 {
			b.Reset()
			for k := range t.Columns {
				if c := &t.Columns[k]; !c.Quiet && c.Text != nil {
					b.WriteString(c.Text(row))
					b.WriteByte('\n')
				}
			}
			hay := strings.ToLower(b.String())
			for _, w := range words {
				if !strings.Contains(hay, w) {
					continue next
				}
			}
		}
		list = append(list, int32(i))
	}
	return list
}

// sort orders rows by a column, those that are equal as they stand.
func (t *Table[T]) sort(list []int32, by string) {
	id, down := strings.CutPrefix(by, "-")
	i := slices.IndexFunc(t.Columns, func(c Column[T]) bool { return c.ID == id })
	if i < 0 {
		return
	}
	turn := 1
	if down {
		turn = -1
	}
	c := t.Columns[i]
	if c.Number != nil {
		keys := make([]int64, len(t.rows))
		for _, k := range list {
			keys[k] = c.Number(&t.rows[k])
		}
		slices.SortStableFunc(list, func(a, b int32) int { return turn * cmp.Compare(keys[a], keys[b]) })
		return
	}
	keys := make([]string, len(t.rows))
	for _, k := range list {
		keys[k] = strings.ToLower(c.Text(&t.rows[k]))
	}
	slices.SortStableFunc(list, func(a, b int32) int { return turn * strings.Compare(keys[a], keys[b]) })
}

// Total is how many lines there are, headings too.
func (v *View[T]) Total() int { return len(v.lines) }

// Window calls each for lines from offset on, at most limit: with a heading, or
// a row.
func (v *View[T]) Window(offset, limit int, each func(*Heading, *T)) {
	for _, l := range v.lines[min(offset, len(v.lines)):min(offset+limit, len(v.lines))] {
		if l < 0 {
			each(&v.headings[-1-l], nil)
		} else {
			each(nil, &v.table.rows[l])
		}
	}
}

// Stretch is rows that stand together in a list.
type Stretch struct {
	First, Last   int    // its lines
	Rows          int    // headings do not count
	Head          string // the key of its first row
	Before, After string // the keys of the rows around it; "" where there is none
}

// All is the stretch of all rows.
func (v *View[T]) All() Stretch { return v.stretch(0, len(v.lines)-1) }

// Between is the stretch from one row to another, whichever comes first. ok is false where the
// query does not show one of them.
func (v *View[T]) Between(a, b string) (s Stretch, ok bool) {
	i, j := v.Line(a), v.Line(b)
	if i < 0 || j < 0 {
		return s, false
	}
	return v.stretch(min(i, j), max(i, j)), true
}

// Beside is the stretch of the rows under the same heading as a row; all where there are no
// headings. ok is false where the query does not show the row.
func (v *View[T]) Beside(key string) (s Stretch, ok bool) {
	from := v.Line(key)
	if from < 0 {
		return s, false
	}
	to := from
	for from > 0 && v.lines[from-1] >= 0 {
		from--
	}
	for to+1 < len(v.lines) && v.lines[to+1] >= 0 {
		to++
	}
	return v.stretch(from, to), true
}

func (v *View[T]) stretch(first, last int) Stretch {
	s := Stretch{First: first, Last: last}
	for i := first; i <= last; i++ {
		if v.lines[i] >= 0 {
			if s.Rows++; s.Rows == 1 {
				s.Head = v.key(i)
			}
		}
	}
	for i := first - 1; i >= 0 && s.Before == ""; i-- {
		s.Before = v.key(i)
	}
	for i := last + 1; i < len(v.lines) && s.After == ""; i++ {
		s.After = v.key(i)
	}
	return s
}

// key is that of the row of a line, "" of a heading.
func (v *View[T]) key(line int) string {
	if v.lines[line] < 0 {
		return ""
	}
	return v.table.Key(&v.table.rows[v.lines[line]])
}

// Keys are the keys of the rows of a stretch.
func (v *View[T]) Keys(s Stretch) []string {
	list := make([]string, 0, s.Rows)
	for i := s.First; i <= s.Last; i++ {
		if v.lines[i] >= 0 {
			list = append(list, v.key(i))
		}
	}
	return list
}

// Line is the line a row stands at, −1 where the query does not show it.
func (v *View[T]) Line(key string) int {
	row, ok := v.table.Row(key)
	if !ok {
		return -1
	}
	for i, l := range v.lines {
		if l >= 0 && &v.table.rows[l] == row {
			return i
		}
	}
	return -1
}

// CSV writes what the query shows (RFC 4180). Cells that a spreadsheet would
// take for a formula are written as text.
func (v *View[T]) CSV(w io.Writer) error {
	out := csv.NewWriter(w)
	cells := make([]string, len(v.table.Columns))
	for i, c := range v.table.Columns {
		cells[i] = c.Title
	}
	if err := out.Write(cells); err != nil {
		return err
	}
	for _, l := range v.lines {
		if l < 0 {
			continue
		}
		for i, c := range v.cells(&v.table.rows[l]) {
			if cells[i] = c.Text; !c.Number {
				cells[i] = Plain(c.Text)
			}
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// Plain keeps a spreadsheet from reading a cell as a formula.
func Plain(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}
