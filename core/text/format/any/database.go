package any

import (
	"bytes"
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
	"strings"
	"time"

	_ "modernc.org/sqlite" // reads databases

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// databaseMagic begins every SQLite 3 database (its file format, §1.3.1).
const databaseMagic = "SQLite format 3\x00"

// What one database may cost.
const (
	maxCells   = 5_000_000
	maxReading = 20 * time.Second
)

// database reads the text cells of a database's tables, from a copy in memory,
// and tells whether it could. Nothing the schema holds is run but plain tables.
func (r *reader) database() (ok bool) {
	ctx, stop := context.WithTimeout(context.Background(), maxReading)
	defer stop()
	defer func() {
		if recover() != nil { // a database damaged on purpose
			r.doc.Mentions, ok = nil, false
		}
	}()
	db, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		return false
	}
	defer db.Close()
	conn, err := db.Conn(ctx)
	if err != nil {
		return false
	}
	defer conn.Close()
	b := bytes.Clone(r.t.Bytes)
	if len(b) < 100 {
		return false
	}
	b[18], b[19] = 1, 1 // a write-ahead log would have to lie beside it
	err = conn.Raw(func(c any) error {
		d, ok := c.(interface{ Deserialize([]byte) error })
		if !ok {
			return driver.ErrBadConn
		}
		return d.Deserialize(b)
	})
	if err != nil {
		return false
	}
	_, _ = conn.ExecContext(ctx, "PRAGMA trusted_schema = OFF") // only narrows what a schema may do
	rows, err := conn.QueryContext(ctx, "SELECT name FROM sqlite_schema WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%' ORDER BY rowid")
	if err != nil {
		return false
	}
	var tables []string
	for rows.Next() {
		var name string
		if rows.Scan(&name) == nil && !strings.HasPrefix(name, "sqlite_") {
			tables = append(tables, name)
		}
	}
	rows.Close()
	cells := 0
	for _, name := range tables {
		if err := r.table(ctx, conn, name, &cells); err != nil {
			r.doc.Problems = append(r.doc.Problems, problem.Problem{Kind: problem.TableCut, Args: []string{name, err.Error()}})
		}
	}
	return true
}

func (r *reader) table(ctx context.Context, conn *sql.Conn, name string, cells *int) error {
	rows, err := conn.QueryContext(ctx, `SELECT * FROM "`+strings.ReplaceAll(name, `"`, `""`)+`"`)
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	values, at := make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		at[i] = &values[i]
	}
	for row := 1; rows.Next(); row++ {
		if err := rows.Scan(at...); err != nil {
			return err
		}
		for i, v := range values {
			if *cells++; *cells > maxCells {
				return fmt.Errorf("there are more than %d cells", maxCells)
			}
			if s, ok := v.(string); ok {
				r.cell(s, fmt.Sprintf("table %s, row %d, %s", name, row, columns[i]))
			}
		}
	}
	return rows.Err()
}

// cell reads one text cell: a path, or a text that names some.
func (r *reader) cell(s, owner string) {
	add := func(name string, nature mention.Nature) {
		m := mention.Mention{Merge: func([]string) string { return name }, Spelling: mention.Path, Nature: nature, Owner: owner}
		if isURI(name) {
			m.Spelling = mention.URI
		}
		r.doc.Add(m)
	}
	if looksLike(s) {
		add(s, nature(s, true))
		return
	}
	if !strings.Contains(s, ".") {
		return
	}
	t := mention.Text{Bytes: []byte(s)}
	in := &reader{t: t, doc: &mention.Doc{Texts: []mention.Text{t}}}
	in.scan()
	for i := range in.doc.Mentions {
		add(in.doc.Name(i), in.doc.Mentions[i].Nature)
	}
}
