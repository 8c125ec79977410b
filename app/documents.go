package app

import (
	"path/filepath"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
)

// docRow is one line of the ledger of documents.
type docRow = tracing.DocumentRow

func docRows(s *snapshot) []docRow {
	g := s.graph
	open := make([]int, len(g.Documents))
	for i := range g.References {
		if r := &g.References[i]; r.Pending() {
			open[r.Doc]++
		}
	}
	rows := make([]docRow, len(g.Documents))
	for i := range g.Documents {
		d := &g.Documents[i]
		rows[i] = docRow{
			Key: g.Files[d.File].At.String(), Name: filepath.Base(d.Path), Folder: drive.Label(s.drives, filepath.Dir(d.Path)), Format: d.Format, Title: d.Title,
			Guessed: d.Guessed, Use: d.Use, Depth: d.Depth, References: d.References, Open: open[i], Size: d.Info.Size,
		}
	}
	return rows
}

func docSpec(*snapshot) table.Spec[docRow] {
	return table.Spec[docRow]{
		Name: "documents", Key: func(r *docRow) string { return r.Key }, Sum: func(r *docRow) table.Sum { return table.Sum{Files: 1, Uses: r.References, Bytes: r.Size} },
		Columns: []table.Column[docRow]{
			{ID: "name", Title: "document", Text: func(r *docRow) string { return r.Name }},
			{ID: "place", Title: "folder", Text: func(r *docRow) string { return r.Folder }},
			{ID: "format", Title: "format", Text: func(r *docRow) string { return r.Title }},
			{ID: "depth", Title: "depth", Number: number(func(r *docRow) int { return r.Depth })},
			{ID: "references", Title: "references", Number: number(func(r *docRow) int { return r.References })},
			{ID: "open", Title: "open", Number: number(func(r *docRow) int { return r.Open })},
			{ID: "size", Title: "bytes", Number: func(r *docRow) int64 { return r.Size }},
		},
	}
}

func docsLedger(s *snapshot) ledger {
	return listed[docRow, tracing.DocumentLine]{
		s.docs, func(h api.Heading) tracing.DocumentLine { return tracing.DocumentLine{Heading: &h} }, func(r *docRow) tracing.DocumentLine { return tracing.DocumentLine{Row: r} },
		func(w api.Window, lines []tracing.DocumentLine) any {
			return tracing.DocumentList{Window: w, Lines: lines}
		},
	}
}
