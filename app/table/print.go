package table

import (
	"html/template"
	"io"
	"iter"
	"strconv"
)

// PrintStyle is the style of a page that Print writes, for whoever lets only known styles in.
const PrintStyle = `@page{margin:15mm}
body{font:10pt/1.35 system-ui,sans-serif;color:#000;background:#fff;margin:1.5em}
h1{font-size:14pt;margin:0 0 .2em}p{margin:0 0 1em;color:#444}
table{border-collapse:collapse;width:100%}
thead{display:table-header-group}
th{text-align:left;border-bottom:1.5pt solid #000;font-weight:600}
td,th{padding:.2em .8em .2em 0;vertical-align:top}
.long{overflow-wrap:anywhere}
tr{break-inside:avoid}td{border-bottom:.5pt solid #bbb}
tr.group td{font-weight:600;padding-top:.8em;break-after:avoid}
.number{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}
@media print{body{margin:0}}`

var printed = template.Must(template.New("list").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{{.Title}}</title><style>{{.Style}}</style></head>
<body><h1>{{.Title}}</h1><p>{{.Under}}</p>
<table><thead><tr>{{range .Heads}}<th scope="col"{{if .Number}} class="number"{{end}}>{{.Text}}</th>{{end}}</tr></thead><tbody>
{{range .Rows}}{{if .Group}}<tr class="group"><td colspan="{{.Span}}">{{.Group}}</td></tr>{{else}}<tr>{{range .Cells}}<td{{with .Class}} class="{{.}}"{{end}}>{{.Text}}</td>{{end}}</tr>{{end}}
{{end}}</tbody></table></body></html>
`))

type cell struct {
	Text   string
	Number bool
}

// longWord is from how many bytes on a text may be parted anywhere: a path or a name, not a word.
const longWord = 16

// Class is how a cell is set on paper.
func (c cell) Class() string {
	switch {
	case c.Number:
		return "number"
	case len(c.Text) > longWord:
		return "long"
	}
	return ""
}

type printedRow struct {
	Group string
	Span  int
	Cells []cell
}

// Print writes all rows that the query shows, under their headings, as one HTML page for paper: no
// script, nothing from outside, every text escaped. The column heads stand on every sheet.
func (v *View[T]) Print(w io.Writer, title, under string) error {
	columns := v.table.Columns
	heads := make([]cell, len(columns))
	for i, c := range columns {
		heads[i] = cell{c.Title, c.Number != nil && c.Text == nil}
	}
	return printed.Execute(w, struct {
		Title, Under string
		Style        template.CSS
		Heads        []cell
		Rows         iter.Seq[printedRow]
	}{title, under, PrintStyle, heads, func(yield func(printedRow) bool) {
		for _, l := range v.lines {
			r := printedRow{Span: len(columns)}
			if l < 0 {
				h := v.headings[-1-l]
				r.Group = h.Title + " (" + strconv.Itoa(h.Count) + ")"
			} else {
				r.Cells = v.cells(&v.table.rows[l])
			}
			if !yield(r) {
				return
			}
		}
	}})
}

// cells are the texts of a row, in the order of the columns.
func (v *View[T]) cells(row *T) []cell {
	list := make([]cell, len(v.table.Columns))
	for i, c := range v.table.Columns {
		if c.Number != nil && c.Text == nil {
			list[i] = cell{strconv.FormatInt(c.Number(row), 10), true}
		} else {
			list[i] = cell{c.Text(row), false}
		}
	}
	return list
}
