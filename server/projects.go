package server

import (
	"context"
	"fmt"
	"net/http"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
	"boundcrate/server/api"
	"boundcrate/store"
)

// work is what is held in memory of one open project: its last trace as a
// numbered snapshot, and what was found while mending. Everything a user
// decided is in the store.
type work struct {
	mu       sync.Mutex
	graph    *trace.Graph
	targets  []*target // the ledger's rows, in order of first mention
	byKey    map[string]*target
	snapshot int
	traced   time.Time
	err      string
	drives   []drive.Drive
	places   []api.Place
	plan     *stow.Plan // nil: to be made anew

	index      *mend.Index
	folders    []string
	candidates map[string][]mend.Candidate
	looked     int
	found      int
}

// target is one row of the ledger: a file, a sequence, or a place where a file
// should be.
type target struct {
	row  api.Row
	refs []int
	dir  string
	doc  string // first document that names it
}

func (a *App) work(id int64) *work {
	a.mu.Lock()
	defer a.mu.Unlock()
	w := a.works[id]
	if w == nil {
		w = &work{candidates: map[string][]mend.Candidate{}}
		a.works[id] = w
	}
	return w
}

func projectID(c *echo.Context) (int64, error) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return id, nil
}

// open returns a project with its work.
func (a *App) open(c *echo.Context) (store.Project, *work, error) {
	id, err := projectID(c)
	if err != nil {
		return store.Project{}, nil, err
	}
	p, err := a.store.Project(id)
	if err != nil {
		return p, nil, err
	}
	return p, a.work(id), nil
}

// traced is open for requests that need a trace.
func (a *App) traced(c *echo.Context) (store.Project, *work, *trace.Graph, error) {
	p, w, err := a.open(c)
	if err != nil {
		return p, nil, nil, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.graph == nil {
		detail := "The project has not been traced yet."
		if w.err != "" {
			detail = w.err
		}
		return p, nil, nil, say(http.StatusConflict, "Not traced", detail)
	}
	return p, w, w.graph, nil
}

func (a *App) addProject(_ *echo.Context, in api.NewProject) (api.Project, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Project{}, err
	}
	doc := filepath.Clean(in.Document)
	info, err := reach.Stat(doc)
	if err != nil {
		return api.Project{}, err
	}
	if !info.Mode.IsRegular() {
		return api.Project{}, say(http.StatusBadRequest, "Not a document", "‘"+doc+"’ is not a file.")
	}
	root := filepath.Clean(in.Root)
	if in.Root == "" {
		root = filepath.Dir(doc)
	}
	if info, err := reach.Stat(root); err != nil {
		return api.Project{}, err
	} else if !info.Mode.IsDir() {
		return api.Project{}, say(http.StatusBadRequest, "Not a folder", "‘"+root+"’ is not a folder.")
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		name = filepath.Base(filepath.Dir(doc))
	}
	p, err := a.store.AddProject(name, doc, root, time.Now())
	if err != nil {
		return api.Project{}, err
	}
	_, err = a.startTrace(p.ID)
	return projectView(p, reach.Drives), err
}

func (a *App) dropProject(c *echo.Context) (nothing, error) {
	id, err := projectID(c)
	if err != nil {
		return nothing{}, err
	}
	a.jobs.end(id)
	a.mu.Lock()
	delete(a.works, id)
	a.mu.Unlock()
	return nothing{}, a.store.DeleteProject(id)
}

func (a *App) retrace(c *echo.Context, _ nothing) (api.Started, error) {
	id, err := projectID(c)
	if err != nil {
		return api.Started{}, err
	}
	return a.startTrace(id)
}

// startTrace traces a project anew as a job: what was found is not sure any more.
func (a *App) startTrace(id int64) (api.Started, error) { return a.traceJob(id, true) }

// traceJob traces a project as a job, then reads the content of what is new so
// that it can be found again one day. A trace under way begins again with
// anew, else it is left to its work.
func (a *App) traceJob(id int64, anew bool) (api.Started, error) {
	p, err := a.store.Project(id)
	if err != nil {
		return api.Started{}, err
	}
	j := a.jobs.start(api.JobTrace, id, "Tracing "+p.Name, "references", anew, func(ctx context.Context, j *job) (string, error) {
		g, reach, err := a.trace(ctx, p, j)
		if err != nil {
			return "", err
		}
		j.mu.Lock()
		j.row.Unit = "bytes"
		j.mu.Unlock()
		err = a.store.Remember(ctx, g, reach, nil, time.Now(), func(done, total int64) { j.step("reading contents", done, total) })
		if err != nil {
			return "", err
		}
		return plural(len(g.References), "reference") + " in " + plural(len(g.Documents), "document"), nil
	})
	return j.view(), nil
}

// trace makes the project's next snapshot.
func (a *App) trace(ctx context.Context, p store.Project, j *job) (*trace.Graph, drive.Reach, error) {
	reach, err := a.reach()
	if err != nil {
		return nil, nil, err
	}
	repairs, err := a.store.Repairs(p.ID)
	if err != nil {
		return nil, nil, err
	}
	w := a.work(p.ID)
	g, err := trace.Run(ctx, trace.Options{
		Formats: a.freshFormats(), Reach: reach, Drives: reach.Drives, Root: p.Root, Repairs: store.Rules(repairs),
		Doubt:    a.store.Doubt(ctx, reach),
		Progress: func(_, refs int) { j.step("following references", int64(refs), 0) },
	}, p.Document)
	w.mu.Lock()
	defer w.mu.Unlock()
	if err != nil {
		if ctx.Err() == nil {
			w.err = err.Error()
			w.snapshot++
			w.graph, w.plan = nil, nil
			a.hub.send(api.Event{Type: api.EventSnapshot, Project: p.ID, Snapshot: w.snapshot})
		}
		return nil, nil, err
	}
	w.graph, w.err, w.plan, w.drives, w.traced = g, "", nil, reach.Drives, time.Now()
	w.snapshot++
	w.list()
	w.spread(a, reach)
	a.hub.send(api.Event{Type: api.EventSnapshot, Project: p.ID, Snapshot: w.snapshot})
	return g, reach, nil
}

var kindWords = map[facts.Kind]string{
	facts.Audio: "sound", facts.Video: "video", facts.Image: "picture", facts.Sequence: "sequence", facts.Geometry: "geometry", facts.Part: "part",
	facts.Material: "material", facts.Drawing: "drawing", facts.Document: "document", facts.Data: "data", facts.Other: "other",
}

// list makes the ledger's rows of the graph.
func (w *work) list() {
	w.targets, w.byKey = nil, map[string]*target{}
	g := w.graph
	for i := range g.References {
		r := &g.References[i]
		key := sift.Key(r)
		if key == "" { // never saved, or inside: a row for each place
			key = fmt.Sprintf("%s#%d", g.Documents[r.Doc].Path, r.Mention)
		}
		t := w.byKey[key]
		if t == nil {
			t = &target{row: api.Row{Key: key, State: string(r.State), Use: r.Use.String(), Kind: kindWords[r.Kind], Size: r.Size, Badges: []string{}}, doc: g.Documents[r.Doc].Path}
			w.name(t, r)
			w.byKey[key] = t
			w.targets = append(w.targets, t)
		}
		t.refs = append(t.refs, i)
		t.row.Uses++
		if useRank(r.Use.String()) > useRank(t.row.Use) {
			t.row.Use = r.Use.String()
		}
	}
	for _, t := range w.targets {
		w.badge(t)
	}
}

func useRank(u string) int { return map[string]int{"listed": 1, "dormant": 2, "used": 3}[u] }

func (w *work) name(t *target, r *trace.Reference) {
	g := w.graph
	t.row.Files = 1
	switch {
	case r.Kind == facts.Sequence:
		pat, ok := resolve.ParsePattern(r.Expected)
		if p, found := mend.PatternOf(r, w.mention(r).Sequence); found {
			pat, ok = p, true
		}
		t.row.Files, t.row.Of = len(r.Files), w.mention(r).Sequence.Count
		if ok {
			t.dir, t.row.Name = pat.Dir, sequenceName(pat, w.mention(r).Sequence, r)
		} else {
			t.row.Name = r.Written
		}
	case r.Path != "":
		t.dir, t.row.Name = filepath.Split(r.Path)
	case r.Network:
		t.row.Name = r.Written
	case r.Expected != "":
		t.dir, t.row.Name = filepath.Split(r.Expected)
	default:
		t.row.Name, t.dir = r.Owner, filepath.Dir(g.Documents[r.Doc].Path)
		if r.Written != "" && !strings.HasPrefix(r.Written, "data:") { // a member of a package
			t.row.Name = r.Written
		}
	}
	t.dir = strings.TrimSuffix(t.dir, "/")
	t.row.Common, t.row.Parting = w.part(t.dir)
}

func (w *work) mention(r *trace.Reference) *mention.Mention {
	return &w.graph.Documents[r.Doc].File.Doc.Mentions[r.Mention]
}

// sequenceName shows the numbers: sun.[0101–0160].png.
func sequenceName(p resolve.Pattern, s *mention.Sequence, r *trace.Reference) string {
	first, last := s.First, s.First+(s.Count-1)*s.Step
	if s.Count == 0 {
		if len(r.Files) == 0 {
			return p.Shown()
		}
		trim := func(f string) string {
			return strings.TrimSuffix(strings.TrimPrefix(filepath.Base(f), p.Head), p.Tail)
		}
		return p.Head + "[" + trim(r.Files[0]) + "–" + trim(r.Files[len(r.Files)-1]) + "]" + p.Tail
	}
	num := func(n int) string { return strings.TrimSuffix(strings.TrimPrefix(p.Name(n), p.Head), p.Tail) }
	return p.Head + "[" + num(first) + "–" + num(last) + "]" + p.Tail
}

// part divides a folder's label into what it shares with the project's own
// folder and what parts from it.
func (w *work) part(dir string) (common, parting string) {
	if dir == "" {
		return "", ""
	}
	label := strings.Split(drive.Label(w.drives, dir), "/")
	root := strings.Split(drive.Label(w.drives, w.graph.Root), "/")
	n := 0
	for n < len(label) && n < len(root) && label[n] == root[n] {
		n++
	}
	common, parting = strings.Join(label[:n], "/"), strings.Join(label[n:], "/")
	if n > 0 {
		common += "/"
	}
	if parting != "" {
		parting += "/"
	}
	return common, parting
}

// guessed tells that no format's rule says what the row's file is named by.
func (w *work) guessed(t *target) bool {
	for _, i := range t.refs {
		if !w.mention(&w.graph.References[i]).Guessed {
			return false
		}
	}
	return true
}

func (w *work) badge(t *target) {
	r := &w.graph.References[t.refs[0]]
	if r.Write {
		t.row.Badges = append(t.row.Badges, "write point")
	}
	if w.guessed(t) {
		t.row.Badges = append(t.row.Badges, "guess")
	}
	if n := gapCount(r.Gaps); n > 0 && r.State.Found() {
		if n <= 3 {
			t.row.Badges = append(t.row.Badges, "gaps "+gapWords(r.Gaps, 3))
		} else {
			t.row.Badges = append(t.row.Badges, fmt.Sprintf("%d gaps", n))
		}
	}
	if r.Loose {
		t.row.Badges = append(t.row.Badges, "loosely spelled")
	}
	if r.Repaired {
		t.row.Badges = append(t.row.Badges, "mended")
	}
	if t.row.Use != "used" {
		t.row.Badges = append(t.row.Badges, t.row.Use)
	}
	if r.Network {
		t.row.Badges = append(t.row.Badges, "on the network")
	}
}

func gapCount(gaps []resolve.Gap) int {
	n := 0
	for _, g := range gaps {
		n += g.Len()
	}
	return n
}

func gapWords(gaps []resolve.Gap, most int) string {
	var parts []string
	for _, g := range gaps {
		if len(parts) == most {
			parts = append(parts, "…")
			break
		}
		if g.Len() == 1 {
			parts = append(parts, resolve.Label(g.First))
		} else {
			parts = append(parts, resolve.Label(g.First)+"–"+resolve.Label(g.Last))
		}
	}
	return strings.Join(parts, ", ")
}

var dumps = map[string]bool{"downloads": true, "download": true, "desktop": true, "temp": true, "tmp": true, "trash": true, "new folder": true, "unsorted": true}

// spread sums the project's material by the places it lies in.
func (w *work) spread(a *App, reach drive.Set) {
	known, _ := a.store.Projects() // without them only documents on disk tell
	own := map[string]bool{}
	for _, p := range known {
		own[p.Root] = true
	}
	holds := map[string]bool{}
	isProject := func(dir string) bool {
		if v, ok := holds[dir]; ok {
			return v
		}
		found := own[dir] && dir != w.graph.Root
		if entries, err := reach.ReadDir(dir); err == nil && !found {
			for _, e := range entries {
				k := facts.KindOfName(e.Name())
				if !e.IsDir() && k == facts.Document {
					found = true
				}
			}
		}
		holds[dir] = found
		return found
	}
	sums := map[string]*api.Place{}
	add := func(dir, base, kind string, files int, bytes int64) {
		d, _ := drive.Find(w.drives, dir)
		key := kind + "\x00" + base
		p := sums[key]
		if p == nil {
			label := drive.Label(w.drives, base)
			if d.Name != "" {
				label = strings.TrimPrefix(strings.TrimPrefix(label, d.Name), "/")
			}
			if label == "" {
				label = "top folder"
			}
			p = &api.Place{Drive: d.Name, Folder: label, Path: base, Kind: kind, Connected: d.Name == "" || d.Connected()}
			sums[key] = p
		}
		p.Files += files
		p.Bytes += bytes
	}
	for _, t := range w.targets {
		r := &w.graph.References[t.refs[0]]
		switch {
		case r.Write: // nothing lies there yet
		case r.State == resolve.Unplugged:
			d, _ := drive.Find(w.drives, t.dir)
			size := int64(0)
			if last, ok := a.store.Last(r.Expected); ok {
				size = last.Size
			}
			t.row.Size = size
			add(t.dir, w.top(d, t.dir), "unplugged", 1, size)
		case r.State == resolve.Missing && !r.Network:
			size := int64(0)
			if last, ok := a.store.Last(r.Expected); ok {
				size = last.Size
			}
			add("", "missing", "missing", 1, size)
		case r.State.Found() && drive.Within(w.graph.Root, t.dir):
			add(t.dir, w.graph.Root, "own", t.row.Files, r.Size)
		case r.State.Found():
			d, ok := drive.Find(w.drives, t.dir)
			base, kind := w.top(d, t.dir), "other"
			for at := t.dir; ok && drive.Within(d.Dir, at) && at != d.Dir; at = filepath.Dir(at) {
				if dumps[strings.ToLower(filepath.Base(at))] {
					base, kind = at, "dump"
					break
				}
				if isProject(at) {
					base, kind = at, "project"
					break
				}
			}
			switch kind {
			case "dump":
				t.row.Badges = append(t.row.Badges, "dumping ground")
			case "project":
				t.row.Badges = append(t.row.Badges, "another project")
			}
			add(t.dir, base, kind, t.row.Files, r.Size)
		}
	}
	w.places = []api.Place{}
	for _, p := range sums {
		w.places = append(w.places, *p)
	}
	rank := map[string]int{"own": 0, "project": 1, "dump": 2, "other": 3, "unplugged": 4, "missing": 5}
	sort.Slice(w.places, func(i, j int) bool {
		x, y := w.places[i], w.places[j]
		if rank[x.Kind] != rank[y.Kind] {
			return rank[x.Kind] < rank[y.Kind]
		}
		if x.Bytes != y.Bytes {
			return x.Bytes > y.Bytes
		}
		return x.Path < y.Path
	})
}

// top is the first folder below a drive on the way to dir.
func (w *work) top(d drive.Drive, dir string) string {
	if d.Dir == "" {
		return dir
	}
	rest := strings.TrimPrefix(strings.TrimPrefix(dir, d.Dir), "/")
	first, _, _ := strings.Cut(rest, "/")
	return filepath.Join(d.Dir, first)
}

func (a *App) summary(c *echo.Context) (api.Summary, error) {
	p, w, err := a.open(c)
	if err != nil {
		return api.Summary{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return api.Summary{}, err
	}
	w.mu.Lock()
	never := w.snapshot == 0
	w.mu.Unlock()
	if never {
		if _, err := a.traceJob(p.ID, false); err != nil {
			return api.Summary{}, err
		}
		p.OpenedAt = time.Now()
		if err := a.store.SaveProject(p); err != nil {
			return api.Summary{}, err
		}
	}
	repairs, err := a.store.Repairs(p.ID)
	if err != nil {
		return api.Summary{}, err
	}
	options, err := a.store.StowOptions(p)
	if err != nil {
		return api.Summary{}, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	s := api.Summary{
		Project: projectView(p, drives), Snapshot: w.snapshot, Error: w.err, Repairs: len(repairs),
		States: []api.Count{}, Missing: []api.Count{}, Places: []api.Place{}, Documents: []api.DocumentLine{}, Problems: []mention.Problem{},
	}
	if sealed, err := sealedReport(p); err == nil && sealed.Report != nil {
		s.Sealed, s.Complete = true, sealed.Report.Well()
	}
	if w.graph == nil {
		return s, nil
	}
	g := w.graph
	s.Traced, s.References, s.Places = &w.traced, len(g.References), w.places
	s.Problems = append(s.Problems, g.Problems...)
	states, missing := map[string]*api.Count{}, map[string]*api.Count{}
	for _, t := range w.targets {
		r := &g.References[t.refs[0]]
		count(states, t.row.State, t)
		if r.State.Found() && !r.Write {
			s.Files += t.row.Files
			s.Bytes += t.row.Size
		}
		if r.State == resolve.Missing && !r.Network {
			count(missing, t.row.Kind, t)
			s.ToFind++
		}
		if r.State == resolve.Twins {
			s.ToFind++
		}
		if n := gapCountFound(r); n > 0 {
			s.Gaps += n
			s.ToFind++
		}
	}
	of := make([]int, len(g.Documents))
	for i := range g.References {
		r := &g.References[i]
		if of[r.Doc]++; r.Pending() {
			s.Pending++
		}
		if w.mention(r).Guessed {
			s.Guessed++
		}
	}
	for _, it := range sift.Items(g) {
		if it.Found && it.Use != mention.Used {
			s.CanStay += it.Bytes
		}
	}
	s.States, s.Missing = counts(states), counts(missing)
	for i := range g.Documents {
		d := &g.Documents[i]
		s.Documents = append(s.Documents, api.DocumentLine{Path: d.Path, Name: filepath.Base(d.Path), Format: d.Format, Title: d.File.Format.About().Title, Use: d.Use.String(), References: of[i]})
	}
	s.Clashes = w.planned(options).Clashes
	return s, nil
}

func gapCountFound(r *trace.Reference) int {
	if !r.State.Found() {
		return 0
	}
	return gapCount(r.Gaps)
}

func count(m map[string]*api.Count, key string, t *target) {
	if m[key] == nil {
		m[key] = &api.Count{Key: key}
	}
	m[key].References += t.row.Uses
	m[key].Files++
	m[key].Bytes += t.row.Size
}

func counts(m map[string]*api.Count) []api.Count {
	out := []api.Count{}
	for _, c := range m {
		out = append(out, *c)
	}
	sort.Slice(out, func(i, j int) bool {
		if out[i].Files != out[j].Files {
			return out[i].Files > out[j].Files
		}
		return out[i].Key < out[j].Key
	})
	return out
}

// planned is the stow plan of the present snapshot and choices.
func (w *work) planned(o stow.Options) *stow.Plan {
	if w.plan == nil {
		o.Drives = w.drives
		w.plan = stow.Make(w.graph, o)
	}
	return w.plan
}
