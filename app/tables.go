package app

import (
	"context"
	"io"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/table"
	"boundcrate/store"
)

// maxWindow bounds one window of rows.
const maxWindow = 500

// ledger is a table as a page asks for it, whatever its rows are.
type ledger interface {
	window(q table.Query, offset, limit int, s *snapshot) any
	keys(q table.Query) []string
	beside(q table.Query, key string) []string
	csv(w io.Writer, q table.Query) error
}

// listed joins a table with the shape its lines have for whoever asks.
type listed[T, Line any] struct {
	*table.Table[T]
	heading func(api.Heading) Line
	row     func(*T) Line
	answer  func(api.Window, []Line) any
}

func (l listed[T, Line]) keys(q table.Query) []string { return l.View(q).Keys() }
func (l listed[T, Line]) beside(q table.Query, key string) []string {
	return l.View(q).Beside(key)
}

func (l listed[T, Line]) window(q table.Query, offset, limit int, s *snapshot) any {
	v := l.View(q)
	if limit <= 0 || limit > maxWindow {
		limit = maxWindow
	}
	offset = max(0, min(offset, v.Total()))
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

// Window is a part of a table: at most limit lines from offset on.
func (a *App) Window(ctx context.Context, project int64, name string, q table.Query, offset, limit int) (any, error) {
	l, s, err := a.ledger(ctx, project, name)
	if err != nil {
		return nil, err
	}
	return l.window(q, offset, limit, s), nil
}

// RowKeys are the keys of all rows of a table, in its order; with beside those under the same
// heading as that one.
func (a *App) RowKeys(ctx context.Context, project int64, name string, q table.Query, beside string) (api.Keys, error) {
	l, _, err := a.ledger(ctx, project, name)
	if err != nil {
		return api.Keys{}, err
	}
	if beside != "" {
		return api.Keys{Keys: append([]string{}, l.beside(q, beside)...)}, nil
	}
	return api.Keys{Keys: append([]string{}, l.keys(q)...)}, nil
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
	var list []string
	if rows.Beside != "" {
		list = l.beside(q, rows.Beside)
	} else {
		list = l.keys(q)
	}
	if rows.From != "" || rows.To != "" {
		a, b := slices.Index(list, rows.From), slices.Index(list, rows.To)
		if a < 0 || b < 0 {
			return nil, store.ErrNotFound
		}
		list = list[min(a, b) : max(a, b)+1]
	}
	but := make(map[string]bool, len(rows.But))
	for _, k := range rows.But {
		but[k] = true
	}
	return slices.DeleteFunc(list, func(k string) bool { return but[k] }), nil
}

// Rows makes a table's writer as CSV (RFC 4180).
func (a *App) Rows(ctx context.Context, project int64, name string, q table.Query) (write func(io.Writer) error, err error) {
	l, _, err := a.ledger(ctx, project, name)
	if err != nil {
		return nil, err
	}
	return func(w io.Writer) error { return l.csv(w, q) }, nil
}

// number makes a count what a column sorts by.
func number[T any](f func(*T) int) func(*T) int64 { return func(r *T) int64 { return int64(f(r)) } }
