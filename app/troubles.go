package app

import (
	"path/filepath"
	"strconv"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words"
)

// shownProblems is how many problems of a trace a summary holds; the list has all of them.
const shownProblems = 3

type problemRow = tracing.ProblemRow

func problemRows(s *snapshot) []problemRow {
	rows := make([]problemRow, len(s.graph.Problems))
	for i, p := range s.graph.Problems {
		said := words.OfProblem(p)
		rows[i] = problemRow{
			Key: strconv.Itoa(i), Kind: said.Heading, Name: filepath.Base(p.Path), Folder: drive.Label(s.drives, filepath.Dir(p.Path)),
			Line: said.Line, Message: said.Message, Untouched: said.Untouched, Do: said.Do,
		}
		if p.Document != "" && p.Document != p.Path {
			rows[i].Document = drive.Label(s.drives, p.Document)
		}
	}
	return rows
}

func problemSpec() table.Spec[problemRow] {
	return table.Spec[problemRow]{
		Name: "problems", Usual: "kind", Key: func(r *problemRow) string { return r.Key }, Sum: func(*problemRow) table.Sum { return table.Sum{Files: 1} },
		Columns: []table.Column[problemRow]{
			{ID: "name", Title: "file", Text: func(r *problemRow) string { return r.Name }},
			{ID: "place", Title: "folder", Text: func(r *problemRow) string { return r.Folder }},
			{ID: "line", Title: "line", Number: number(func(r *problemRow) int { return r.Line })},
			{ID: "message", Title: "problem", Text: func(r *problemRow) string { return r.Message }},
			{ID: "document", Title: "used by", Text: func(r *problemRow) string { return r.Document }},
			{ID: "kind", Title: "kind", Text: func(r *problemRow) string { return r.Kind }},
			{ID: "do", Title: "what to do", Text: func(r *problemRow) string { return r.Do }},
		},
		Groups: []table.Group[problemRow]{{ID: "kind", Key: func(r *problemRow) string { return r.Kind }}},
	}
}

func problemsLedger(s *snapshot) ledger {
	return listed[problemRow, tracing.ProblemLine]{
		s.problems, func(h api.Heading) tracing.ProblemLine { return tracing.ProblemLine{Heading: &h} }, func(r *problemRow) tracing.ProblemLine { return tracing.ProblemLine{Row: r} },
		func(w api.Window, lines []tracing.ProblemLine) any {
			return tracing.ProblemList{Window: w, Lines: lines}
		},
	}
}
