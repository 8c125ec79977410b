package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/app/table"
	"boundcrate/store"
)

// maxWindow bounds one window of rows.
const maxWindow = 500

// ledger is a table as a page asks for it, whatever its rows are.
type ledger interface {
	window(q table.Query, offset, limit int, s *snapshot) any
	check(q table.Query) error
	// stretch is rows of what a query shows that stand together, as they are asked for.
	stretch(q table.Query, beside, from, to string) (table.Stretch, bool)
	keys(q table.Query, s table.Stretch) []string
	csv(w io.Writer, q table.Query) error
	print(w io.Writer, q table.Query, under string) error
}

// listed joins a table with the shape its lines have for whoever asks.
type listed[T, Line any] struct {
	*table.Table[T]
	heading func(api.Heading) Line
	row     func(*T) Line
	answer  func(api.Window, []Line) any
}

func (l listed[T, Line]) check(q table.Query) error { return l.Check(q) }

func (l listed[T, Line]) keys(q table.Query, s table.Stretch) []string { return l.View(q).Keys(s) }

func (l listed[T, Line]) stretch(q table.Query, beside, from, to string) (table.Stretch, bool) {
	v := l.View(q)
	switch {
	case beside != "":
		return v.Beside(beside)
	case from != "" || to != "":
		return v.Between(from, to)
	}
	return v.All(), true
}

func (l listed[T, Line]) window(q table.Query, offset, limit int, s *snapshot) any {
	v := l.View(q)
	offset = min(offset, v.Total())
	lines := make([]Line, 0, min(limit, v.Total()-offset))
	v.Window(offset, limit, func(h *table.Heading, row *T) {
		if h != nil {
			lines = append(lines, l.heading(api.Heading{Key: h.Key, Title: h.Title, Note: h.Note, Count: h.Count}))
		} else {
			lines = append(lines, l.row(row))
		}
	})
	return l.answer(api.Window{Snapshot: s.id, Total: v.Total(), Offset: offset, Rows: v.Sum.Rows, Files: v.Sum.Files, Uses: v.Sum.Uses, Bytes: v.Sum.Bytes}, lines)
}

func (l listed[T, Line]) csv(w io.Writer, q table.Query) error { return l.View(q).CSV(w) }

func (l listed[T, Line]) print(w io.Writer, q table.Query, under string) error {
	return l.View(q).Print(w, strings.ToUpper(l.Name[:1])+l.Name[1:], under)
}

// ledger is the table of a name. A new one is a definition, and a case here.
func (a *App) ledger(ctx context.Context, project int64, name string) (ledger, *snapshot, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return nil, nil, err
	}
	switch name {
	case "files":
		return filesLedger(s), s, nil
	case "documents":
		return docsLedger(s), s, nil
	case "points", "left", "strays":
		l, err := a.plainList(ctx, project, name)
		return l, s, err
	case "problems":
		return problemsLedger(s), s, nil
	case "wanted":
		return wantedLedger(s, w.found.Load()), s, nil
	case "berths":
		pl, err := a.planned(ctx, p, w, s)
		if err != nil {
			return nil, nil, err
		}
		return berthsLedger(pl), s, nil
	}
	return nil, nil, store.ErrNotFound
}

// asked is a table that has what a query asks for.
func (a *App) asked(ctx context.Context, project int64, name string, q table.Query) (ledger, *snapshot, error) {
	l, s, err := a.ledger(ctx, project, name)
	if err != nil {
		return nil, nil, err
	}
	if err := answerable(l.check(q)); err != nil {
		return nil, nil, err
	}
	return l, s, nil
}

// answerable is the fault of a query that asks for what the table has not, by what the table's
// check tells.
func answerable(checked error) error {
	var wrong *table.Error
	if errors.As(checked, &wrong) {
		return fault.Say(fault.Wrong, "No such list", "The list has no "+wrong.What+" “"+wrong.Name+"”.")
	}
	return checked
}

// Window is a part of a table: at most limit lines from offset on. A limit of 0 is the largest.
func (a *App) Window(ctx context.Context, project int64, name string, q table.Query, offset, limit int) (any, error) {
	if offset < 0 || limit < 0 || limit > maxWindow {
		return nil, fault.Say(fault.Wrong, "No such part", fmt.Sprintf("A window of a list starts at its first line or later and has at most %d lines.", maxWindow))
	}
	l, s, err := a.asked(ctx, project, name, q)
	if err != nil {
		return nil, err
	}
	return l.window(q, offset, cmp.Or(limit, maxWindow), s), nil
}

// Stretch is rows of a table that stand together: those between two, those under the same
// heading as one, or all. There are none where the list does not show one that is named.
func (a *App) Stretch(ctx context.Context, project int64, name string, q table.Query, beside, from, to string) (api.Stretch, error) {
	l, s, err := a.asked(ctx, project, name, q)
	if err != nil {
		return api.Stretch{}, err
	}
	x, ok := l.stretch(q, beside, from, to)
	if !ok {
		return api.Stretch{Snapshot: s.id, First: -1, Last: -1}, nil
	}
	return api.Stretch{Snapshot: s.id, First: x.First, Last: x.Last, Rows: x.Rows, Head: x.Head, Before: x.Before, After: x.After}, nil
}

// rowsChosen are the keys of rows that were chosen.
func rowsChosen(l ledger, s *snapshot, keys []string, rows *api.Rows) ([]string, error) {
	if rows == nil {
		return keys, nil
	}
	if rows.Snapshot != s.id {
		return nil, older
	}
	q := table.Query{Filter: rows.Filter, Sort: rows.Sort, Group: rows.Group, Facets: rows.Facets}
	if err := l.check(q); err != nil {
		return nil, store.ErrNotFound
	}
	x, ok := l.stretch(q, rows.Beside, rows.From, rows.To)
	if !ok {
		return nil, store.ErrNotFound
	}
	but := make(map[string]bool, len(rows.But))
	for _, k := range rows.But {
		but[k] = true
	}
	return slices.DeleteFunc(l.keys(q, x), func(k string) bool { return but[k] }), nil
}

// Rows makes a table's writer as CSV (RFC 4180).
func (a *App) Rows(ctx context.Context, project int64, name string, q table.Query) (write func(io.Writer) error, err error) {
	l, _, err := a.asked(ctx, project, name, q)
	if err != nil {
		return nil, err
	}
	return func(w io.Writer) error { return l.csv(w, q) }, nil
}

// Paper makes a table's writer as an HTML page to be printed: all rows that the query shows.
func (a *App) Paper(ctx context.Context, project int64, name string, q table.Query) (write func(io.Writer) error, err error) {
	l, s, err := a.asked(ctx, project, name, q)
	if err != nil {
		return nil, err
	}
	p, err := a.store.Project(project)
	if err != nil {
		return nil, err
	}
	under := p.Name + " · as of " + s.traced.Format("2 January 2006, 15:04")
	if q.Filter != "" {
		under += " · only rows with “" + q.Filter + "”"
	}
	return func(w io.Writer) error { return l.print(w, q, under) }, nil
}

// number makes a count what a column sorts by.
func number[T any](f func(*T) int) func(*T) int64 { return func(r *T) int64 { return int64(f(r)) } }
