package server

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"boundcrate/server/api"
	"boundcrate/server/table"
	"boundcrate/store"
)

// maxWindow bounds one window of rows.
const maxWindow = 500

// ledger is a table as a page asks for it, whatever its rows are.
type ledger interface {
	window(c *echo.Context, s *snapshot) any
	keys(q table.Query) []string
	beside(q table.Query, key string) []string
	csv(c *echo.Context, q table.Query) error
	name() string
}

// listed joins a table with the shape its lines have on the wire.
type listed[T, Line any] struct {
	*table.Table[T]
	heading func(api.Heading) Line
	row     func(*T) Line
	answer  func(api.Window, []Line) any
}

func queryOf(c *echo.Context) table.Query {
	q := table.Query{Filter: c.QueryParam("filter"), Sort: c.QueryParam("sort"), Group: c.QueryParam("group"), Facets: map[string]string{}}
	for name, values := range c.QueryParams() {
		switch name {
		case "filter", "sort", "group", "offset", "limit":
		default:
			q.Facets[name] = values[0]
		}
	}
	return q
}

func (l listed[T, Line]) name() string { return l.Name }

func (l listed[T, Line]) keys(q table.Query) []string { return l.View(q).Keys() }
func (l listed[T, Line]) beside(q table.Query, key string) []string {
	return l.View(q).Beside(key)
}

func (l listed[T, Line]) window(c *echo.Context, s *snapshot) any {
	v := l.View(queryOf(c))
	offset, _ := strconv.Atoi(c.QueryParam("offset"))
	limit, _ := strconv.Atoi(c.QueryParam("limit"))
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
	return l.answer(api.Window{Snapshot: s.number, Total: v.Total(), Offset: offset, Rows: v.Sum.Rows, Files: v.Sum.Files, Uses: v.Sum.Uses, Bytes: v.Sum.Bytes}, lines)
}

func (l listed[T, Line]) csv(c *echo.Context, q table.Query) error {
	h := c.Response().Header()
	h.Set("Content-Type", "text/csv; charset=utf-8")
	h.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-%s.csv"`, l.Name, c.Param("id")))
	c.Response().WriteHeader(http.StatusOK)
	return l.View(q).CSV(c.Response())
}

// ledger is the table of a name. A new one is a definition, and a case here.
func (a *App) ledger(c *echo.Context, name string) (ledger, *snapshot, error) {
	p, w, s, err := a.traced(c)
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
		pl, err := a.planned(c.Request().Context(), p, w, s)
		if err != nil {
			return nil, nil, err
		}
		return berthsLedger(pl), s, nil
	}
	return nil, nil, store.ErrNotFound
}

func (a *App) window(c *echo.Context) (any, error) {
	l, s, err := a.ledger(c, c.Param("table"))
	if err != nil {
		return nil, err
	}
	return l.window(c, s), nil
}

func (a *App) rowKeys(c *echo.Context) (api.Keys, error) {
	l, _, err := a.ledger(c, c.Param("table"))
	if err != nil {
		return api.Keys{}, err
	}
	if key := c.QueryParam("beside"); key != "" { // those under the same heading
		return api.Keys{Keys: append([]string{}, l.beside(queryOf(c), key)...)}, nil
	}
	return api.Keys{Keys: append([]string{}, l.keys(queryOf(c))...)}, nil
}

func (a *App) tableCSV(c *echo.Context) error {
	l, _, err := a.ledger(c, strings.TrimSuffix(c.Param("table"), ".csv"))
	if err != nil {
		return err
	}
	return l.csv(c, queryOf(c))
}

// number makes a count what a column sorts by.
func number[T any](f func(*T) int) func(*T) int64 { return func(r *T) int64 { return int64(f(r)) } }
