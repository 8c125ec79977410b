package server

import (
	"encoding/csv"
	"errors"
	"fmt"
	"net/http"
	"path/filepath"
	"sort"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
	"boundcrate/server/api"
	"boundcrate/store"
)

// stateWords are the ledger's headings, in the order that needs a person first.
var stateWords = []struct{ state, words string }{
	{"missing", "Missing"},
	{"twins", "More than one file could be meant"},
	{"unreadable", "Cannot be read"},
	{"unplugged", "On a drive that is not connected"},
	{"unsaved", "Never saved"},
	{"away", "Outside the project folder"},
	{"here", "In the project folder"},
	{"inside", "Inside the document itself"},
}

// maxWindow bounds one window of rows.
const maxWindow = 500

func window(c *echo.Context, total int) (from, to int) {
	from, _ = strconv.Atoi(c.QueryParam("offset"))
	limit, _ := strconv.Atoi(c.QueryParam("limit"))
	if limit <= 0 || limit > maxWindow {
		limit = maxWindow
	}
	from = max(0, min(from, total))
	return from, min(total, from+limit)
}

// rows answers a window of the ledger, filtered, sorted and grouped here: the
// page holds no more than it shows.
func (a *App) rows(c *echo.Context) (api.Rows, error) {
	_, w, g, err := a.traced(c)
	if err != nil {
		return api.Rows{}, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	out := api.Rows{Snapshot: w.snapshot, Rows: []api.Row{}}
	list := w.filtered(c)
	for _, t := range list {
		out.Files += t.row.Files
		out.Uses += t.row.Uses
		if g.References[t.refs[0]].State.Found() {
			out.Bytes += t.row.Size
		}
	}
	all := w.grouped(list, c.QueryParam("group"))
	out.Total = len(all)
	from, to := window(c, len(all))
	out.Offset = from
	out.Rows = append(out.Rows, all[from:to]...)
	return out, nil
}

func (w *work) filtered(c *echo.Context) []*target {
	words := strings.Fields(strings.ToLower(c.QueryParam("filter")))
	state, place, kind := c.QueryParam("state"), c.QueryParam("place"), c.QueryParam("kind")
	var list []*target
next:
	for _, t := range w.targets {
		if state != "" && t.row.State != state || kind != "" && t.row.Kind != kind {
			continue
		}
		if place != "" && (!drive.Within(place, t.dir) || t.row.State == "missing") {
			continue
		}
		if len(words) > 0 {
			hay := strings.ToLower(strings.Join(append([]string{t.row.Name, t.row.Common + t.row.Parting, t.row.Kind, t.row.State, t.row.Use}, t.row.Badges...), " "))
			for _, word := range words {
				if !strings.Contains(hay, word) {
					continue next
				}
			}
		}
		list = append(list, t)
	}
	sortTargets(list, c.QueryParam("sort"))
	return list
}

func sortTargets(list []*target, by string) {
	down := strings.HasPrefix(by, "-")
	less := map[string]func(x, y *target) bool{
		"name": func(x, y *target) bool { return strings.ToLower(x.row.Name) < strings.ToLower(y.row.Name) },
		"size": func(x, y *target) bool { return x.row.Size < y.row.Size },
		"uses": func(x, y *target) bool { return x.row.Uses < y.row.Uses },
		"kind": func(x, y *target) bool { return x.row.Kind < y.row.Kind },
		"place": func(x, y *target) bool {
			return x.row.Common+x.row.Parting < y.row.Common+y.row.Parting
		},
	}[strings.TrimPrefix(by, "-")]
	if less == nil {
		return
	}
	sort.SliceStable(list, func(i, j int) bool {
		if down {
			return less(list[j], list[i])
		}
		return less(list[i], list[j])
	})
}

func (w *work) grouped(list []*target, by string) []api.Row {
	type group struct {
		title string
		order int
		rows  []*target
	}
	groups := map[string]*group{}
	var order []*group
	into := func(key, title string, rank int, t *target) {
		g := groups[key]
		if g == nil {
			g = &group{title: title, order: rank}
			groups[key] = g
			order = append(order, g)
		}
		g.rows = append(g.rows, t)
	}
	for _, t := range list {
		switch by {
		case "place":
			into(t.dir, strings.TrimSuffix(t.row.Common+t.row.Parting, "/"), 0, t)
		case "kind":
			into(t.row.Kind, strings.ToUpper(t.row.Kind[:1])+t.row.Kind[1:], 0, t)
		case "document":
			into(t.doc, filepath.Base(t.doc), 0, t)
		case "none":
			into("", "", 0, t)
		default:
			for i, s := range stateWords {
				if s.state == t.row.State {
					into(s.state, s.words, i, t)
				}
			}
		}
	}
	sort.SliceStable(order, func(i, j int) bool { return order[i].order < order[j].order })
	var out []api.Row
	for _, g := range order {
		if by != "none" {
			h := api.Row{Heading: g.title, Count: len(g.rows), Note: w.note(g.rows), Badges: []string{}}
			if h.Heading == "" {
				h.Heading = "Nowhere"
			}
			h.State = ""
			if by == "state" || by == "" {
				h.State = g.rows[0].row.State
			}
			out = append(out, h)
		}
		for _, t := range g.rows {
			out = append(out, t.row)
		}
	}
	return out
}

// note says what kinds a group holds, most first, and their bytes.
func (w *work) note(rows []*target) string {
	kinds := map[string]int{}
	var bytes int64
	for _, t := range rows {
		kinds[t.row.Kind]++
		bytes += t.row.Size
	}
	names := make([]string, 0, len(kinds))
	for k := range kinds {
		names = append(names, k)
	}
	sort.Slice(names, func(i, j int) bool {
		if kinds[names[i]] != kinds[names[j]] {
			return kinds[names[i]] > kinds[names[j]]
		}
		return names[i] < names[j]
	})
	var parts []string
	for _, k := range names {
		parts = append(parts, fmt.Sprintf("%d %s", kinds[k], k))
	}
	if bytes > 0 {
		parts = append(parts, sizeWords(bytes))
	}
	return strings.Join(parts, " · ")
}

// plural is a count with its word.
func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// sizeWords uses decimal units, as carriers and drive makers count.
func sizeWords(n int64) string {
	v, unit := float64(n), ""
	for _, u := range []string{"kB", "MB", "GB", "TB"} {
		if v < 1000 {
			break
		}
		v, unit = v/1000, u
	}
	if unit == "" {
		return plural(int(n), "byte")
	}
	return fmt.Sprintf("%.1f %s", v, unit)
}

// rowsCSV saves what the ledger lists (RFC 4180).
func (a *App) rowsCSV(c *echo.Context) error {
	p, w, _, err := a.traced(c)
	if err != nil {
		return err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	h := c.Response().Header()
	h.Set("Content-Type", "text/csv; charset=utf-8")
	h.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="trace-%d.csv"`, p.ID))
	c.Response().WriteHeader(http.StatusOK)
	out := csv.NewWriter(c.Response())
	_ = out.Write([]string{"file", "folder", "state", "use", "kind", "bytes", "files", "uses"}) // Flush tells
	for _, t := range w.filtered(c) {
		_ = out.Write([]string{t.row.Name, t.dir, t.row.State, t.row.Use, t.row.Kind, strconv.FormatInt(t.row.Size, 10), strconv.Itoa(t.row.Files), strconv.Itoa(t.row.Uses)})
	}
	out.Flush()
	return out.Error()
}

func lastSeen(s mend.Seen) *api.LastSeen {
	l := &api.LastSeen{At: s.At, Size: s.Size, SHA256: s.SHA256}
	if s.Facts != (facts.Facts{}) {
		f := s.Facts
		l.Facts = &f
	}
	return l
}

func (a *App) slip(c *echo.Context) (api.Slip, error) {
	p, w, g, err := a.traced(c)
	if err != nil {
		return api.Slip{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Slip{}, err
	}
	repairs, err := a.store.Repairs(p.ID)
	if err != nil {
		return api.Slip{}, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	t := w.byKey[c.QueryParam("key")]
	if t == nil {
		return api.Slip{}, store.ErrNotFound
	}
	r := &g.References[t.refs[0]]
	s := api.Slip{Row: t.row, Path: r.Path, Size: r.Size, Missing: gapCount(r.Gaps), Gaps: gapWords(r.Gaps, 20), Paths: []api.PathLine{}, Uses: []api.Use{}}
	for _, i := range t.refs {
		u := &g.References[i]
		s.Uses = append(s.Uses, api.Use{
			Document: drive.Label(w.drives, g.Documents[u.Doc].Path), Depth: w.depth(u.Doc), Owner: u.Owner, Written: u.Written, Use: u.Use.String(), Range: w.mention(u).Range,
		})
	}
	if r.Write {
		s.Path = "" // whatever may lie there, it is none of the project's material
	}
	if last, ok := a.store.Last(first(r.Path, r.Expected)); ok && !r.Write {
		if r.Path != "" && r.State.Found() {
			s.SHA256 = last.SHA256
		} else {
			s.Last = lastSeen(last)
		}
	}
	if r.State.Found() && s.Path != "" {
		m := r.Info.ModTime
		s.Modified = &m
		s.Facts, s.Harm = a.facts(reach, r.Path)
		s.Preview = preview(r.Kind, r.Path)
	}
	if d, ok := drive.Find(w.drives, t.dir); ok && r.State == resolve.Unplugged {
		s.Drive, s.DriveID = d.Name, d.ID
	}
	for _, rep := range repairs {
		if r.Repaired && rep.From == r.Expected {
			v := repairView(rep, w.drives, true)
			s.Repair = &v
		}
	}
	s.Paths = w.compare(t, r)
	s.Say = w.sentence(t, r, s)
	return s, nil
}

func first(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

// depth is how many documents lie between one and the given ones.
func (w *work) depth(doc int) int {
	d := 0
	for seen := map[int]bool{}; doc >= w.graph.Given && !seen[doc]; d++ {
		seen[doc] = true
		for i := range w.graph.References {
			if w.graph.References[i].Child == doc {
				doc = w.graph.References[i].Doc
				break
			}
		}
	}
	return d
}

// facts are what a file's header tells, and what is wrong with it in words.
func (a *App) facts(reach drive.Reach, p string) (known *facts.Facts, harm string) {
	f, err := drive.OpenSized(reach, p)
	if err != nil {
		return nil, ""
	}
	defer f.Close()
	got, err := facts.Read(f, f.Size())
	if errors.Is(err, facts.ErrDamaged) {
		harm = strings.TrimPrefix(err.Error(), facts.ErrDamaged.Error()+": ")
	}
	if got == (facts.Facts{}) {
		return nil, harm
	}
	return &got, harm
}

// preview tells how a file can be shown by a browser with nothing added.
func preview(k facts.Kind, p string) string {
	switch ext := strings.ToLower(filepath.Ext(p)); {
	case k == facts.Audio && (ext == ".wav" || ext == ".mp3" || ext == ".flac" || ext == ".ogg"):
		return "sound"
	case ext == ".png" || ext == ".jpg" || ext == ".jpeg" || ext == ".gif" || ext == ".webp":
		return "picture"
	}
	return ""
}

// compare lays the paths over the project's own: what is common is dimmed on
// the page, what parts is raised.
func (w *work) compare(t *target, r *trace.Reference) []api.PathLine {
	root := strings.Split(drive.Label(w.drives, w.graph.Root), "/")
	line := func(label, path, mark string) api.PathLine {
		l := api.PathLine{Label: label, Mark: mark, Pieces: []api.Piece{}}
		parts := strings.Split(drive.Label(w.drives, path), "/")
		for i, p := range parts {
			common := i < len(root) && p == root[i] && (i == 0 || l.Pieces[i-1].Common)
			l.Pieces = append(l.Pieces, api.Piece{Text: p, Common: common})
		}
		return l
	}
	lines := []api.PathLine{line("project", w.graph.Root, "")}
	shown := func(p string) string {
		if pat, ok := resolve.ParsePattern(p); ok && r.Kind == facts.Sequence {
			return filepath.Join(pat.Dir, pat.Shown())
		}
		return p
	}
	at := first(r.Path, "")
	if len(r.Files) > 0 && r.Kind == facts.Sequence {
		at = filepath.Join(filepath.Dir(r.Files[0]), t.row.Name)
	}
	switch {
	case r.Write:
		lines = append(lines, line("goes to", r.Path, "found"))
	case r.Network:
		lines = append(lines, api.PathLine{Label: "asked", Mark: "asked", Pieces: []api.Piece{{Text: r.Written}}})
	case at == "" && r.Expected != "":
		lines = append(lines, line("asked", shown(r.Expected), "asked"))
	case at != "" && (r.Repaired || r.Loose):
		lines = append(lines, line("asked", shown(r.Expected), "asked"), line("found", at, "found"))
	case at != "":
		lines = append(lines, line("found", at, "found"))
	}
	for _, f := range r.Files {
		if r.State == resolve.Twins {
			lines = append(lines, line("twin", f, "found"))
		}
	}
	if cs := w.candidates[r.Expected]; len(cs) > 0 && !r.State.Found() {
		lines = append(lines, line("nearest", shown(cs[0].Path), "found"))
	}
	return lines
}

func (w *work) sentence(t *target, r *trace.Reference, s api.Slip) string {
	docs := map[int]bool{}
	for _, i := range t.refs {
		docs[w.graph.References[i].Doc] = true
	}
	by := "Named once."
	if n := len(t.refs); n > 1 && len(docs) > 1 {
		by = fmt.Sprintf("Named %d times, by %d documents.", n, len(docs))
	} else if n > 1 {
		by = fmt.Sprintf("Named %d times.", n)
	}
	if w.guessed(t) {
		by += " A guess, by the looks of it: nobody knows the format of the document."
	}
	if r.Write {
		return by + " New material will be written there; nothing has to be there yet."
	}
	switch r.State {
	case resolve.Missing:
		if r.Why != "" {
			return by + " Not found: " + r.Why + "."
		}
		return by + " It is not where the document says."
	case resolve.Unplugged:
		return by + fmt.Sprintf(" It lies on %s, which is not connected. Connect the drive; no search is needed.", first(s.Drive, "a drive"))
	case resolve.Twins:
		return by + fmt.Sprintf(" %d files could be meant; one has to be chosen.", len(r.Files))
	case resolve.Unsaved:
		return "The document keeps a place for a file that was never written."
	case resolve.Inside:
		return "Its bytes stand in the document itself; it cannot get lost on its own."
	case resolve.Unreadable:
		return by + " It is there and cannot be read: " + first(r.Why, "the reason is not known") + "."
	}
	say := by
	switch {
	case r.Repaired:
		say += " Mended: the document still says another place."
	case r.Loose:
		say += " Found under another spelling of the same name."
	case r.State == resolve.Away:
		say += " It lies outside the project folder: if that place moves, the project loses it."
	}
	if s.Missing > 0 {
		say += fmt.Sprintf(" %d of its numbers are not there.", s.Missing)
	}
	return say
}
