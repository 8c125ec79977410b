package sheet

import (
	"bytes"
	"cmp"
	"fmt"
	"html/template"
	"path"
	"regexp"
	"slices"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/bag"
)

// PageStyle is the style of the pages that Page writes, for whoever lets only known styles in.
const PageStyle = `@page{margin:16mm 15mm 18mm;@bottom-right{content:counter(page) " / " counter(pages);font:8.5pt system-ui,sans-serif;color:#444}}
*{box-sizing:border-box}
html{background:#eeeae0}
body{font:10pt/1.4 system-ui,-apple-system,"Segoe UI",sans-serif;color:#1e2a35;background:#fff;max-width:60em;margin:0 auto;padding:2.2em 2.6em 3em}
header{display:flex;gap:2em;align-items:flex-end;border-bottom:2.5pt solid #1e2a35;padding-bottom:.7em;margin-bottom:1em}
header div{flex:1;min-width:0}
h1{font-size:20pt;line-height:1.15;margin:0;overflow-wrap:anywhere}
header p{margin:.2em 0 0;color:#55606b}
dl{display:grid;grid-template-columns:auto 1fr;gap:.1em 1em;margin:0}
dt{color:#55606b}dd{margin:0;overflow-wrap:anywhere}
h2{font-size:11.5pt;margin:1.5em 0 .35em;border-bottom:.75pt solid #1e2a35;break-after:avoid}
.note{white-space:pre-wrap;border-left:3pt solid #14506b;padding:.1em 0 .1em .9em;margin:0 0 1em;overflow-wrap:anywhere}
p{margin:.3em 0}
ul{margin:.2em 0;padding-left:1.2em}li{break-inside:avoid;overflow-wrap:anywhere}
table{border-collapse:collapse;width:100%}
thead{display:table-header-group}
th{text-align:left;font-weight:600;color:#55606b;border-bottom:.75pt solid #1e2a35}
th,td{padding:.18em .9em .18em 0;vertical-align:top}
td{border-bottom:.5pt solid #d5cfc2;overflow-wrap:anywhere}
tr{break-inside:avoid}
.n{text-align:right;white-space:nowrap;font-variant-numeric:tabular-nums;overflow-wrap:normal}
.w{white-space:nowrap;overflow-wrap:normal}
col.file{width:42%}col.size{width:5.5em}
.folder td{font-weight:600;padding-top:.7em;break-after:avoid;background:#fff}
.faint{color:#55606b}
.warn{color:#8f3417;font-weight:600}
.good{color:#3d5a2c;font-weight:600}
code{font:9pt ui-monospace,monospace}
.long{break-before:page}
@media print{html{background:none}body{padding:0;max-width:none}}
@media screen and (max-width:40em){body{padding:1em}header{display:block}}`

var page = template.Must(template.New("sheet").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{{.Name}}: handoff sheet</title><style>{{.Style}}</style></head>
<body>
<header><div><h1>{{.Name}}</h1><p>Handoff sheet{{with .Made}} · sealed {{.}}{{end}} · {{.Size}}</p></div>
<dl>{{with .For}}<dt>For</dt><dd>{{.}}</dd>{{end}}{{with .From}}<dt>From</dt><dd>{{.}}</dd>{{end}}{{with .Since}}<dt>Needs</dt><dd>{{.}}</dd>{{end}}</dl></header>
{{with .Note}}<p class="note">{{.}}</p>{{end}}
{{if .Documents}}<h2>Open first</h2><ul>{{range .Documents}}<li>{{.}}</li>{{end}}</ul>{{end}}
<h2>What is in</h2>
<table><thead><tr><th scope="col">kind</th><th scope="col" class="n">files</th><th scope="col" class="n">size</th><th scope="col">technical</th></tr></thead><tbody>
{{range .Kinds}}<tr><td class="w">{{.Word}}</td><td class="n">{{.Files}}</td><td class="n">{{.Size}}</td><td>{{.Technical}}</td></tr>
{{end}}</tbody></table>
{{range .Said}}<p>{{.}}</p>{{end}}
{{if .ToDo}}<h2>To do on arrival</h2><ul>{{range .ToDo}}<li>{{.}}</li>{{end}}</ul>{{end}}
{{if .Losses}}<h2>Not kept</h2><ul>{{range .Losses}}<li>{{.}}</li>{{end}}</ul>{{end}}
<h2>Proof</h2>
{{with .Verdict}}<p class="{{$.Tone}}">{{.}}</p>{{end}}
{{if .Packed}}<p>This is one file in the format's own package. Its SHA-256 is <code>{{.Packed}}</code></p>{{else}}<p>Every file is listed with its SHA-256 in <code>manifest-sha256.txt</code>. The folder is a BagIt 1.0 bag (RFC 8493). To check every byte without any special program, run in it: <code>sha256sum -c manifest-sha256.txt</code></p>{{end}}
{{if .Folders}}<section class="long"><h2>Files</h2>
<table><colgroup><col class="file"><col class="size"></colgroup><thead><tr><th scope="col">file</th><th scope="col" class="n">size</th><th scope="col">technical</th>{{if .Remarked}}<th scope="col">remarks</th>{{end}}</tr></thead><tbody>
{{range .Folders}}<tr class="folder"><td colspan="{{$.Span}}">{{.Name}}</td></tr>
{{range .Rows}}<tr><td>{{.Name}}</td><td class="n">{{.Size}}</td><td>{{.Technical}}</td>{{if $.Remarked}}<td>{{.Remarks}}</td>{{end}}</tr>
{{end}}{{end}}</tbody></table></section>{{end}}
{{if .Left}}<h2>Not included</h2>
<table><thead><tr><th scope="col">file</th><th scope="col">reason</th></tr></thead><tbody>
{{range .Left}}<tr><td>{{.Path}}</td><td>{{.Why}}</td></tr>
{{end}}</tbody></table>{{end}}
</body></html>
`))

type kindRow struct{ Word, Files, Size, Technical string }

type fileRow struct{ Name, Size, Technical, Remarks string }

type folder struct {
	Name string
	Rows []fileRow
}

type leftRow struct{ Path, Why string }

type view struct {
	Name, Made, Size, For, From, Since, Note, Verdict, Tone string
	Packed                                                  string
	Style                                                   template.CSS
	Documents, Said, ToDo, Losses                           []string
	Kinds                                                   []kindRow
	Folders                                                 []folder
	Left                                                    []leftRow
	Remarked                                                bool // some file has a remark
}

// Span is how many columns the table of files has.
func (v view) Span() int {
	if v.Remarked {
		return 4
	}
	return 3
}

// Page is the handoff sheet of a crate as one HTML page: no script, nothing from outside, every text
// escaped, laid out for A4 and letter. What fits one page comes first, the long tables after it. The
// verdict is that of a check, nil where the crate was not checked yet.
func Page(s seal.Sheet, checked *seal.Report) []byte {
	v := view{
		Name: s.Name, Size: phrase.Plural(s.Files, "file") + ", " + phrase.Size(s.Bytes), For: s.For, From: s.From, Since: s.Since, Note: strings.TrimSpace(s.Note),
		Packed: s.Packed, Style: PageStyle, Kinds: kinds(s.Contents), Folders: folders(s),
	}
	if !s.Made.IsZero() {
		v.Made = s.Made.Format("2 January 2006")
	}
	for _, d := range s.Documents {
		v.Documents = append(v.Documents, strings.TrimPrefix(d, bag.Payload+"/"))
	}
	if s.Fetched.Files > 0 {
		v.Said = append(v.Said, fmt.Sprintf("This is a difference crate: %s (%s) listed here are not carried, because they are in the crate “%s”. Receive it together with that crate.", phrase.Plural(s.Fetched.Files, "file"), phrase.Size(s.Fetched.Bytes), s.Since))
	}
	if s.Tally.References > 0 {
		v.Said = append(v.Said, "The project, when this was sealed: "+words.Tally(s.Tally))
	}
	for _, l := range s.Left {
		if l.Why == stow.PointInside {
			continue // no file, and told under what is to do
		}
		v.Left = append(v.Left, leftRow{l.Path, words.Absence(l.Why, l.Detail)})
	}
	if n := len(v.Left); n > 0 {
		v.Said = append(v.Said, phrase.Plural(n, "file")+" not included; the list with the reasons is at the end.")
	}
	v.Remarked = slices.ContainsFunc(v.Folders, func(f folder) bool {
		return slices.ContainsFunc(f.Rows, func(r fileRow) bool { return r.Remarks != "" })
	})
	v.ToDo, v.Losses = toDo(s), losses(s)
	if checked != nil {
		v.Verdict, v.Tone = Verdict(checked), "warn"
		if checked.Well() {
			v.Tone = "good"
		}
	}
	var b bytes.Buffer
	if err := page.Execute(&b, v); err != nil {
		panic(err) // a buffer takes everything, and the template is ours
	}
	return b.Bytes()
}

// toDo is what the receiver has to do by hand.
func toDo(s seal.Sheet) (list []string) {
	for _, r := range s.Repoints {
		list = append(list, fmt.Sprintf("Relink in %s, %s: “%s” is now %s", r.Document, r.Owner, r.Written, r.To))
	}
	for _, p := range s.Points {
		to := "“" + p.To + "”, seen from the document"
		if p.To == "." {
			to = "the folder it is in"
		}
		list = append(list, fmt.Sprintf("%s, %s: new material will be written to %s. The sender has it at “%s”.", p.Document, p.Owner, to, ending(p.From)))
	}
	return list
}

// ending is what of a path somebody else can make use of: its last two parts.
func ending(p string) string {
	parts := strings.FieldsFunc(p, func(r rune) bool { return r == '/' || r == '\\' })
	return strings.Join(parts[max(0, len(parts)-2):], "/")
}

func losses(s seal.Sheet) (list []string) {
	if s.SoundLoses != nil {
		list = append(list, words.Loss(*s.SoundLoses))
	}
	for _, m := range s.Simpler {
		for _, l := range m.Losses {
			list = append(list, "In "+m.To+": "+words.Loss(l))
		}
	}
	return list
}

// kinds are the contents by kind, the largest first.
func kinds(all []seal.SheetFile) []kindRow {
	type sum struct {
		kind    facts.Kind
		files   int
		bytes   int64
		seconds float64
		forms   map[string]int
	}
	sums := map[facts.Kind]*sum{}
	for i := range all {
		f := &all[i]
		x := sums[f.Kind]
		if x == nil {
			x = &sum{kind: f.Kind, forms: map[string]int{}}
			sums[f.Kind] = x
		}
		x.files, x.bytes, x.seconds = x.files+1, x.bytes+f.Size, x.seconds+f.Facts.Seconds
		if form := form(f.Facts); form != "" {
			x.forms[form]++
		}
	}
	var list []*sum
	for _, x := range sums {
		list = append(list, x)
	}
	slices.SortFunc(list, func(a, b *sum) int {
		return cmp.Or(cmp.Compare(b.bytes, a.bytes), strings.Compare(string(a.kind), string(b.kind)))
	})
	var rows []kindRow
	for _, x := range list {
		rows = append(rows, kindRow{words.Kind(x.kind), phrase.Count(x.files), phrase.Size(x.bytes), technical(x.seconds, x.forms)})
	}
	return rows
}

// maxForms is how many forms of a kind are told.
const maxForms = 4

// technical is the length of all together, and the forms they come in, the most frequent first.
func technical(seconds float64, forms map[string]int) string {
	names := make([]string, 0, len(forms))
	for f := range forms {
		names = append(names, f)
	}
	slices.SortFunc(names, func(a, b string) int { return cmp.Or(forms[b]-forms[a], strings.Compare(a, b)) })
	var list []string
	for i, f := range names {
		if i == maxForms {
			list = append(list, phrase.Plural(len(names)-i, "other form"))
			break
		}
		if len(names) > 1 {
			f += " (" + phrase.Count(forms[f]) + ")"
		}
		list = append(list, f)
	}
	text := strings.Join(list, "; ")
	if seconds > 0 {
		text = strings.TrimSuffix(clock(seconds)+" in all · "+text, " · ")
	}
	return text
}

// form is what a file has in common with others: rate, depth, channels, frame size.
func form(f facts.Facts) string {
	var list []string
	if f.Rate > 0 {
		list = append(list, strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.3f", float64(f.Rate)/1000), "0"), ".")+" kHz")
	}
	if f.Depth > 0 && f.Rate > 0 {
		list = append(list, fmt.Sprintf("%d bit", f.Depth))
	}
	switch {
	case f.Channels == 1:
		list = append(list, "mono")
	case f.Channels == 2:
		list = append(list, "stereo")
	case f.Channels > 2:
		list = append(list, fmt.Sprintf("%d channels", f.Channels))
	}
	if f.Width > 0 && f.Height > 0 {
		list = append(list, fmt.Sprintf("%d×%d", f.Width, f.Height))
	}
	return strings.Join(list, ", ")
}

// clock is a length as people read it.
func clock(seconds float64) string {
	if seconds < 60 {
		return fmt.Sprintf("%.1f s", seconds)
	}
	n := int(seconds + 0.5)
	return fmt.Sprintf("%d:%02d:%02d", n/3600, n/60%60, n%60)
}

// describe is all that is known of one file.
func describe(f facts.Facts) string {
	var list []string
	if f.Seconds > 0 {
		list = append(list, clock(f.Seconds))
	}
	if form := form(f); form != "" {
		list = append(list, form)
	}
	if at, told := f.Begins(); told {
		n := int(at)
		list = append(list, fmt.Sprintf("starts %02d:%02d:%02d", n/3600, n/60%60, n%60))
	}
	if f.Vertices > 0 {
		list = append(list, phrase.Count(f.Vertices)+" vertices")
	}
	return strings.Join(list, " · ")
}

// numbered tells frames of a sequence by their names.
var numbered = regexp.MustCompile(`^(.*?)(\d+)(\.[^.]*)$`)

// leastFrames is how many files of one name and running numbers are told as one row.
const leastFrames = 4

// folders are the files by folder. What stands under “Open first” is not told again, and frames of a
// sequence are one row.
func folders(s seal.Sheet) (list []folder) {
	first, remarks := map[string]bool{}, map[string][]string{}
	for _, d := range s.Documents {
		first[d] = true
	}
	for _, r := range s.Renamed {
		remarks[r.To] = append(remarks[r.To], "was "+path.Base(strings.ReplaceAll(r.From, `\`, "/"))+", "+words.Renaming(r.Why))
	}
	for _, x := range s.Suspect {
		at := path.Join(bag.Payload, x.Path)
		remarks[at] = append(remarks[at], "please check: "+words.Suspicion(x.Why...))
	}
	for _, r := range s.Revisions {
		at := path.Join(bag.Payload, r.To)
		remarks[at] = append(remarks[at], "revision "+r.Is)
	}
	all := slices.Clone(s.Contents)
	slices.SortStableFunc(all, func(a, b seal.SheetFile) int {
		return cmp.Or(strings.Compare(path.Dir(a.Path), path.Dir(b.Path)), strings.Compare(a.Path, b.Path))
	})
	at := ""
	for i := 0; i < len(all); {
		f := &all[i]
		n := run(all[i:])
		if first[f.Path] {
			i++
			continue
		}
		if dir := path.Dir(f.Path); dir != at || list == nil {
			name := strings.TrimPrefix(strings.TrimPrefix(dir, bag.Payload), "/")
			if name == "" {
				name = "top folder"
			}
			list, at = append(list, folder{Name: name}), dir
		}
		into := &list[len(list)-1]
		if n >= leastFrames {
			into.Rows = append(into.Rows, frames(all[i:i+n]))
			i += n
			continue
		}
		r := remarks[f.Path]
		if f.Sound != "" {
			r = append(r, "converted: "+f.Sound)
		}
		if f.Fetched {
			r = append(r, "not carried")
		}
		into.Rows = append(into.Rows, fileRow{path.Base(f.Path), phrase.Size(f.Size), describe(f.Facts), strings.Join(r, "; ")})
		i++
	}
	return list
}

// run is how many files at the beginning of a list are frames of one sequence.
func run(all []seal.SheetFile) int {
	m := numbered.FindStringSubmatch(path.Base(all[0].Path))
	if m == nil || all[0].Kind != facts.Image && all[0].Kind != facts.Sequence {
		return 1
	}
	n := 1
	for n < len(all) && path.Dir(all[n].Path) == path.Dir(all[0].Path) {
		o := numbered.FindStringSubmatch(path.Base(all[n].Path))
		if o == nil || o[1] != m[1] || o[3] != m[3] {
			break
		}
		n++
	}
	return n
}

func frames(list []seal.SheetFile) fileRow {
	m := numbered.FindStringSubmatch(path.Base(list[0].Path))
	o := numbered.FindStringSubmatch(path.Base(list[len(list)-1].Path))
	var size int64
	for i := range list {
		size += list[i].Size
	}
	return fileRow{m[1] + strings.Repeat("#", len(m[2])) + m[3], phrase.Size(size), strings.TrimPrefix(describe(list[0].Facts)+" · "+phrase.Plural(len(list), "frame")+", "+m[2]+" to "+o[2], " · "), ""}
}
