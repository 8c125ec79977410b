package app

import (
	"context"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/report"
)

// listLine is a heading or a row of a list that pages show in a form of their own and ask for as CSV.
type listLine[T any] struct {
	Heading *api.Heading `json:"heading"`
	Row     *T           `json:"row"`
}

// lines is a window of such a list.
type lines[T any] struct {
	api.Window
	Lines []listLine[T] `json:"lines"`
}

// plainLedger is a ledger of rows that have a form of their own on screen.
func plainLedger[T any](t *table.Table[T]) ledger {
	return listed[T, listLine[T]]{
		t, func(h api.Heading) listLine[T] { return listLine[T]{Heading: &h} }, func(r *T) listLine[T] { return listLine[T]{Row: r} },
		func(w api.Window, list []listLine[T]) any { return lines[T]{w, list} },
	}
}

// straysTable is all unreferenced files of a plan.
func straysTable(pl *planned, s *snapshot) *table.Table[packing.Stray] {
	return table.New(table.Spec[packing.Stray]{
		Name: "unreferenced files", Key: func(r *packing.Stray) string { return r.Path }, Sum: func(r *packing.Stray) table.Sum { return table.Sum{Files: 1, Bytes: r.Size} },
		Columns: []table.Column[packing.Stray]{
			{ID: "name", Title: "file", Text: func(r *packing.Stray) string { return r.Name }},
			{ID: "place", Title: "folder", Text: func(r *packing.Stray) string { return r.Label }},
			{ID: "what", Title: "what", Text: func(r *packing.Stray) string { return r.Word }},
			{ID: "kind", Title: "kind", Text: func(r *packing.Stray) string { return r.KindWord }},
			{ID: "modified", Title: "modified", Text: func(r *packing.Stray) string { return r.Modified.Format(time.DateTime) }},
			{ID: "size", Title: "bytes", Number: func(r *packing.Stray) int64 { return r.Size }},
			{ID: "included", Title: "included", Text: func(r *packing.Stray) string { return map[bool]string{true: "yes", false: "no"}[r.Travels] }},
		},
	}, strayRows(pl, s))
}

// leftLedger is all that a plan leaves out, with the reasons.
func leftLedger(pl *planned, s *snapshot) ledger {
	var rows []packing.LeftRow
	for _, l := range report.OfLeft(pl.texts().LeftOut()) {
		label := drive.Label(s.drives, l.Path)
		rows = append(rows, packing.LeftRow{Key: l.Path + "\x00" + l.Why, Name: filepath.Base(label), Label: filepath.Dir(label), Why: l.Why})
	}
	return plainLedger(table.New(table.Spec[packing.LeftRow]{
		Name: "files left out", Key: func(r *packing.LeftRow) string { return r.Key }, Sum: func(*packing.LeftRow) table.Sum { return table.Sum{Files: 1} },
		Columns: []table.Column[packing.LeftRow]{
			{ID: "name", Title: "file", Text: func(r *packing.LeftRow) string { return r.Name }},
			{ID: "place", Title: "folder", Text: func(r *packing.LeftRow) string { return r.Label }},
			{ID: "why", Title: "reason", Text: func(r *packing.LeftRow) string { return r.Why }},
		},
		Groups: []table.Group[packing.LeftRow]{
			{ID: "why", Key: func(r *packing.LeftRow) string { return r.Why }, Title: func(why string) string { return why }},
		},
	}, rows))
}

// pointsLedger is all write points of a snapshot.
func pointsLedger(list []places.PointRow) ledger {
	return plainLedger(table.New(table.Spec[places.PointRow]{
		Name: "write points", Key: func(r *places.PointRow) string { return r.Document + "\x00" + r.Owner + "\x00" + r.Written }, Sum: func(*places.PointRow) table.Sum { return table.Sum{Files: 1} },
		Columns: []table.Column[places.PointRow]{
			{ID: "owner", Title: "track or output", Text: func(r *places.PointRow) string { return r.Owner }},
			{ID: "document", Title: "document", Text: func(r *places.PointRow) string { return r.Document }},
			{ID: "label", Title: "writes to", Text: func(r *places.PointRow) string { return r.Label }},
			{ID: "written", Title: "as written", Text: func(r *places.PointRow) string { return r.Written }},
			{ID: "says", Title: "remark", Text: func(r *places.PointRow) string { return strings.TrimSpace(r.Says + " " + r.Fixed) }},
		},
	}, list))
}

// plainList is a list that has no table of its own on the wire, by its name; nil: there is none.
func (a *App) plainList(ctx context.Context, project int64, name string) (ledger, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return nil, err
	}
	if name == "points" {
		out, err := a.Points(ctx, project)
		return pointsLedger(out.List), err
	}
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	if name == "left" {
		return leftLedger(pl, s), nil
	}
	return plainLedger(straysTable(pl, s)), nil
}
