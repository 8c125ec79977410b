package server

import (
	"context"
	"errors"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/core/decide"
	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/holding"
	"boundcrate/core/origin"
	"boundcrate/core/sift"
	"boundcrate/core/words"
	"boundcrate/server/api"
	"boundcrate/server/table"
	"boundcrate/store"
)

// looseFiles are the files of a project that nothing names, as of one look at the disk.
type looseFiles struct {
	snapshot int
	looked   int64
	drawn    sift.Drawn
	*sift.Loose
}

// fits tells whether that is as of the last look.
func (l *looseFiles) fits(w *work, s *snapshot) bool {
	return l != nil && l.snapshot == s.number && l.looked == w.looked.Load()
}

// unsought stands for what nothing names while it is looked for.
var unsought = &sift.Loose{}

// loose are the files that nothing names. A request waits for them as long as people wait; a
// folder that takes longer is answered by what was found last, or by unsought, and the
// page is told when it is known.
func (a *App) loose(ctx context.Context, p store.Project, w *work, s *snapshot) (*looseFiles, error) {
	return a.looseWithin(ctx, patience, p, w, s)
}

func (a *App) looseWithin(ctx context.Context, wait time.Duration, p store.Project, w *work, s *snapshot) (*looseFiles, error) {
	late := time.NewTimer(wait)
	defer late.Stop()
	for {
		have := w.loose.Load()
		if have.fits(w, s) {
			return have, nil
		}
		looked := w.looked.Load()
		j, err := run(a.jobs, job{Kind: api.JobSeek, Project: p.ID, Title: "Looking for what nothing names", Unit: "files", Quiet: true, Second: Join}, func(ctx context.Context, j *task) (nothing, string, error) {
			l, err := a.seek(ctx, p, w, s, looked, j)
			if err != nil {
				return nothing{}, "", err
			}
			if w.loose.Store(l); have == nil || have.Loose != l.Loose {
				a.replan(p.ID, w)
			}
			return nothing{}, words.Plural(len(l.Extras), "file"), nil
		})
		if err != nil {
			return nil, err
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-late.C:
			if have != nil && have.snapshot == s.number {
				return have, nil
			}
			return &looseFiles{snapshot: s.number, Loose: unsought}, nil
		case <-j.done:
			if v := j.view().Job; v.State != api.Done {
				return nil, say(http.StatusServiceUnavailable, "Not looked through", "What nothing names could not be told. "+v.Error)
			}
		}
	}
}

// seek looks through a project's folder for what nothing names. What is as it was is the
// same list.
func (a *App) seek(ctx context.Context, p store.Project, w *work, s *snapshot, looked int64, j *task) (*looseFiles, error) {
	reach, err := a.reach()
	if err != nil {
		return nil, err
	}
	habits, err := a.store.Habits()
	if err != nil {
		return nil, err
	}
	walked, err := a.store.Skim(ctx, reach, reach.Drives, []string{s.graph.Root}, func(files int, _ string) { j.step("looking through the project's folder", int64(files), 0) })
	if err != nil {
		return nil, err
	}
	l, err := sift.LooseOf(s.graph, s.judged, habits, reach, walked.Index(), a.editions(p))
	if err != nil {
		return nil, err
	}
	drawn := sift.FindDrawings(s.graph, sift.Selection{}, l, reach)
	if have := w.loose.Load(); have != nil && have.Newest == l.Newest && slices.Equal(have.Extras, l.Extras) {
		l = have.Loose
	}
	return &looseFiles{s.number, looked, drawn, l}, nil
}

// twins are the contents that a snapshot holds more than once, as far as they were
// looked for.
type twins struct {
	snapshot int
	list     []sift.Duplicate
	groups   [][]graph.FileID
}

// weigh looks for duplicates, which may read much: it is a job of its own, and what was
// read is remembered.
func (a *App) weigh(p store.Project, w *work, s *snapshot) {
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		return
	}
	if n, _ := sift.Alike(s.graph); n == 0 {
		w.twins.Store(&twins{s.number, nil, sift.Groups(s.graph, nil)})
		return
	}
	// One is under way already, or the page is told by the next ask.
	_, _ = run(a.jobs, job{Kind: api.JobWeigh, Project: p.ID, Title: "Comparing files of one size", Unit: "bytes", Quiet: true}, func(ctx context.Context, j *task) (nothing, string, error) {
		t, err := a.compare(ctx, w, s, j)
		if err != nil {
			return nothing{}, "", err
		}
		a.replan(p.ID, w)
		if len(t.list) == 0 {
			return nothing{}, "nothing is there twice", nil
		}
		return nothing{}, words.Plural(len(t.list), "content") + " under several paths", nil
	})
}

// compare looks for duplicates, unless that was done.
func (a *App) compare(ctx context.Context, w *work, s *snapshot, j *task) (*twins, error) {
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		return t, nil
	}
	reach, err := a.reach()
	if err != nil {
		return nil, err
	}
	_, total := sift.Alike(s.graph)
	memory, err := a.store.Memory(nil)
	if err != nil {
		return nil, err
	}
	defer memory.Close()
	hash, done := memory.Hasher(reach), int64(0)
	dups, err := sift.Duplicates(ctx, s.graph, reach, func(ctx context.Context, p string) (string, error) {
		if info, err := reach.Stat(p); err == nil {
			done += info.Size
		}
		j.step("comparing files of one size", done, total)
		return hash(ctx, p)
	})
	if err != nil {
		return nil, err
	}
	t := &twins{s.number, dups, sift.Groups(s.graph, dups)}
	w.twins.Store(t)
	return t, nil
}

// mostDocuments is how many nested documents have a switch of their own.
const mostDocuments = 200

// switches are the nested documents with what they alone name, the heaviest first.
func switches(g *graph.Graph, s sift.Selection, left []string, drives []drive.Drive) []api.DocSwitch {
	list := []api.DocSwitch{}
	at := map[graph.DocID]int{}
	for i := range g.Documents {
		d := &g.Documents[i]
		if g.IsRoot(graph.DocID(i)) || d.File == graph.None || !g.Files[d.File].Carried {
			continue
		}
		at[graph.DocID(i)] = len(list)
		full := drive.Label(drives, d.Path)
		list = append(list, api.DocSwitch{Path: d.Path, Name: filepath.Base(full), Label: filepath.Dir(full), Files: 1, Bytes: g.Files[d.File].Size, Stays: slices.Contains(left, d.Path)})
	}
	for i := range g.Files {
		f := &g.Files[i]
		if !f.Carried || len(f.Refs) == 0 || f.Doc != graph.None {
			continue
		}
		doc := g.References[f.Refs[0]].Doc
		if slices.ContainsFunc(f.Refs, func(r graph.RefID) bool { return g.References[r].Doc != doc }) {
			continue
		}
		if k, ok := at[doc]; ok {
			list[k].Files += sift.Files(f)
			list[k].Bytes += f.Size
		}
	}
	slices.SortStableFunc(list, func(a, b api.DocSwitch) int { return int(min(1, max(-1, b.Bytes-a.Bytes))) })
	return list[:min(len(list), mostDocuments)]
}

// sifted puts what Sift shows beside the plan.
func (a *App) sifted(out *api.Stow, pl *planned, w *work, s *snapshot) {
	g, sel := pl.plan.Graph, pl.plan.Selection
	found := pl.loose
	if out.Seeking = found == unsought; out.Seeking {
		found = nil
	}
	given := sift.GivesUp(g, sel, found, pl.plan.Along())
	cut := sift.GivenUp{What: sift.UnusedParts}
	for i := range pl.plan.Berths {
		if b := &pl.plan.Berths[i]; b.Cut != nil && !b.Absent && !b.Apart() {
			cut.Files++
			if b.IsSequence() {
				cut.Bytes += b.Raw - b.Size
			} else {
				cut.Bytes += int64(float64(b.Raw) * (1 - float64(b.Cut.Frames)/float64(b.Long)))
			}
		}
	}
	if cut.Files > 0 {
		given = append([]sift.GivenUp{cut}, given...)
	}
	for _, x := range given {
		out.GivesUp = append(out.GivesUp, api.GivenUp{GivenUp: x, Text: words.GivesUp(x)})
	}
	out.ForArchive = sift.ForArchive(given, sel) && s.tally.Pending == 0
	for i, k := range sift.KeptBy(g, sel) {
		if i == mostKept {
			break
		}
		out.Kept = append(out.Kept, words.Kept(filepath.Base(g.Documents[k.Doc].Path), k.Kind, k.Files))
	}
	if l := w.loose.Load(); l != nil && l.drawn.Parts > 0 {
		out.Drawn = words.Drawn(l.drawn)
	}
	globs := slices.Concat(pl.recipe.Also, pl.options.Leave.Drop, pl.options.Leave.Keep)
	out.Unmatched = append([]string{}, sift.Unmatched(globs, g, pl.loose)...)
	out.Documents = switches(g, sel, pl.options.Leave.Docs, s.drives)
	sums := map[sift.Along]*api.AlongSum{}
	for _, what := range sift.Alongs {
		sums[what] = &api.AlongSum{What: what, Word: words.Along(what), Travels: slices.Contains(pl.recipe.Also, string(what))}
	}
	chosen := map[string]bool{}
	for _, e := range pl.options.Also {
		chosen[e.Path] = true
	}
	for _, e := range pl.loose.Extras {
		sum := sums[e.What]
		sum.Files++
		sum.Bytes += e.Size
		if chosen[e.Path] {
			sum.GoFiles++
			sum.GoBytes += e.Size
		}
	}
	for _, e := range pl.plan.Along() { // what those need themselves
		if s := sums[e.What]; s != nil && !chosen[e.Path] {
			s.NeedFiles++
			s.NeedBytes += e.Size
		}
	}
	for _, what := range sift.Alongs {
		out.Along = append(out.Along, *sums[what])
	}
	for i := range pl.plan.Berths {
		if b := &pl.plan.Berths[i]; b.Along != "" {
			out.AlongBytes += b.Size
		}
	}
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		out.Twins.Known = true
		for _, group := range t.groups {
			n := int64(len(group) - 1)
			out.Twins.Files += int(n)
			out.Twins.Bytes += n * g.Files[group[0]].Size
		}
	} else {
		out.Twins.Files, out.Twins.Bytes = sift.Alike(g)
	}
}

// mostKept is how many lines tell what is still needed.
const mostKept = 20

// mostStrays is how many strays, and how many groups of duplicates and namesakes, are
// shown.
const mostStrays = 1000

// strays lists what nothing names, and what is there twice.
func (a *App) strays(c *echo.Context) (api.Strays, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Strays{}, err
	}
	pl, err := a.planned(c.Request().Context(), p, w, s)
	if err != nil {
		return api.Strays{}, err
	}
	out := api.Strays{List: []api.Stray{}, Duplicates: []api.Twin{}, Namesakes: []api.Twin{}}
	travels := map[string]bool{}
	for _, e := range pl.options.Also {
		travels[e.Path] = true
	}
	for _, e := range pl.loose.Extras {
		if e.What == sift.Companions {
			continue
		}
		if out.Files++; len(out.List) == mostStrays {
			continue
		}
		full := drive.Label(s.drives, e.Path)
		kind := facts.KindOfName(e.Path)
		out.List = append(out.List, api.Stray{
			Path: e.Path, Name: filepath.Base(full), Label: filepath.Dir(full), What: e.What, Word: words.Along(e.What), Kind: kind, KindWord: words.Kind(kind), Size: e.Size, Modified: time.Unix(0, e.Mod),
			Newer: e.What == sift.Strays && e.Mod > pl.loose.Newest, Travels: travels[e.Path], Preview: preview(kind, e.Path),
		})
	}
	paths := func(list []string) []string {
		out := make([]string, len(list))
		for i, p := range list {
			out[i] = drive.Label(s.drives, p)
		}
		return out
	}
	var dups []sift.Duplicate
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		dups, out.Known = t.list, true
	}
	for _, d := range dups[:min(len(dups), mostStrays)] {
		out.Duplicates = append(out.Duplicates, api.Twin{Name: filepath.Base(d.Paths[0]), Bytes: d.Bytes, Labels: paths(d.Paths)})
	}
	names := sift.Namesakes(s.graph, dups)
	for _, n := range names[:min(len(names), mostStrays)] {
		out.Namesakes = append(out.Namesakes, api.Twin{Name: n.Name, Labels: paths(n.Paths)})
	}
	return out, nil
}

// adopt lets files travel that nothing names, or leaves them.
func (a *App) adopt(c *echo.Context, in api.Adopt) (nothing, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return nothing{}, err
	}
	l, err := a.loose(c.Request().Context(), p, w, s)
	if err != nil {
		return nothing{}, err
	}
	known := map[string]bool{}
	for _, e := range l.Extras {
		known[e.Path] = true
	}
	var list []decide.Decision
	for _, at := range in.Paths {
		if !known[at] {
			return nothing{}, say(http.StatusConflict, "Not there", "‘"+drive.Label(s.drives, at)+"’ is no file of the project that nothing names.")
		}
		d := decide.Decision{Kind: decide.Leave, File: drive.At(s.drives, at), At: nowFunc()}
		if in.Travels {
			d.Kind = decide.Carry
		}
		list = append(list, d)
	}
	if len(list) == 0 {
		return nothing{}, say(http.StatusBadRequest, "Which files?", "Choose at least one file.")
	}
	if err := a.store.Decide(p.ID, list...); err != nil {
		return nothing{}, err
	}
	a.replan(p.ID, w)
	return nothing{}, nil
}

// byPath tells what was decided of a file by its path.
func byPath(hand map[string]decide.ByHand) func(string) (travels, stays bool) {
	return func(p string) (bool, bool) { h := hand[p]; return h.Travels, h.Stays }
}

// siftFacets are how the ledger of what travels is narrowed to what a line, or a part of
// the gauge, counts.
// alongside is the key of the group of what no document names.
const alongside = "\x00"

// siftGroup parts berths by something of their files.
func siftGroup(s *snapshot, id string, key func(graph.FileID) string, title func(string) string) table.Group[berthRow] {
	return table.Group[berthRow]{
		ID: id,
		Key: func(r *berthRow) string {
			if r.b().File == graph.None {
				return alongside
			}
			return key(r.b().File)
		},
		Title: func(k string) string {
			if k == alongside {
				return "Goes along, and no document names it"
			}
			return title(k)
		},
	}
}

// weighed says what a group of berths weighs.
func weighed(rows []*berthRow) string {
	var travels, stays int64
	for _, r := range rows {
		switch b := r.b(); {
		case !b.Absent:
			travels += b.Size
		case b.File != graph.None && r.stays():
			stays += b.Size
		}
	}
	switch {
	case stays == 0:
		return words.Size(travels)
	case travels == 0:
		return words.Size(stays) + " stay"
	}
	return words.Size(travels) + " travel, " + words.Size(stays) + " stay"
}

// stays tells a file that is there, or was, and stays by a choice.
func (r *berthRow) stays() bool {
	_, stays := r.plan.plan.Selection.Stays[r.b().File]
	return stays
}

func siftFacets(g *graph.Graph, judged *origin.Judged) map[string]func(*berthRow, string) bool {
	file := func(r *berthRow) *graph.File {
		if r.b().File == graph.None {
			return nil
		}
		return &g.Files[r.b().File]
	}
	return map[string]func(*berthRow, string) bool{
		"use": func(r *berthRow, v string) bool { f := file(r); return f != nil && f.Use.String() == v },
		"class": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && string(judged.File(g, r.b().File).Class) == v
		},
		"origin": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && string(judged.File(g, r.b().File).Origin) == v
		},
		"why":   func(r *berthRow, v string) bool { return r.b().Absent && string(r.b().Why) == v },
		"along": func(r *berthRow, v string) bool { return string(r.b().Along) == v || v == "all" && r.b().Along != "" },
		"doc": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && (f.Path == v || slices.ContainsFunc(f.Refs, func(id graph.RefID) bool { return g.Documents[g.References[id].Doc].Path == v }))
		},
	}
}

// putAway takes files that nothing names out of the way, into the holding folders of
// their drives, after every document on the drives was asked. One that somebody needs
// after all stays where it is, and is named.
func (a *App) putAway(c *echo.Context, in api.PutAway) (api.Started, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Started{}, err
	}
	l, err := a.loose(c.Request().Context(), p, w, s)
	if err != nil {
		return api.Started{}, err
	}
	if len(in.Paths) == 0 || in.Days < 1 {
		return api.Started{}, say(http.StatusBadRequest, "Which files?", "Choose at least one file, and keep it for a day at least.")
	}
	known := map[string]sift.Extra{}
	for _, e := range l.Extras {
		known[e.Path] = e
	}
	for _, at := range in.Paths {
		if e, ok := known[at]; !ok || e.What == sift.Companions || e.What == sift.Editions {
			return api.Started{}, say(http.StatusConflict, "Not there", "‘"+drive.Label(s.drives, at)+"’ is no file that nothing names.")
		}
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	j, err := run(a.jobs, job{Kind: api.JobPutAway, Project: p.ID, Title: "Putting away " + words.Plural(len(in.Paths), "file"), Unit: "files"}, func(ctx context.Context, j *task) (nothing, string, error) {
		message, err := a.takeAway(ctx, s, in, known, reach, j)
		_, terr := a.startTrace(p.ID)
		return nothing{}, message, errors.Join(err, terr)
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.view(), nil
}

func (a *App) takeAway(ctx context.Context, s *snapshot, in api.PutAway, known map[string]sift.Extra, reach drive.Set, j *task) (string, error) {
	said, err := a.mayGo(ctx, s.graph.Root, reach, j)
	if err != nil {
		return "", err
	}
	if len(said.Unread) > 0 {
		return "", say(http.StatusConflict, "Not everybody could be asked", "‘"+said.Unread[0]+"’ could not be read. Nothing was put away.")
	}
	ledger, err := a.store.Ledger(a.formats())
	if err != nil {
		return "", err
	}
	taken, kept := 0, 0
	for i, at := range in.Paths {
		if err := ctx.Err(); err != nil {
			return "", err
		}
		j.step("putting away", int64(i), int64(len(in.Paths)))
		uses, err := ledger.Into(at)
		if err != nil {
			return "", err
		}
		if len(uses) > 0 {
			kept++
			continue
		}
		now := time.Now()
		to, err := holding.Place(reach.Drives, at, now.Add(time.Duration(i)*time.Millisecond)) // a name of its own for each
		if err != nil {
			return "", refused(err, reach.Drives)
		}
		id, err := a.store.Hold(store.Held{Was: drive.At(reach.Drives, at), At: to, Files: 1, Bytes: known[at].Size, Since: now, Until: now.AddDate(0, 0, in.Days), Reasons: "[]"})
		if err != nil {
			return "", err
		}
		if err := holding.Move(at, to); err != nil {
			if _, lost := os.Lstat(to); errors.Is(lost, fs.ErrNotExist) { // it was not taken
				err = errors.Join(err, a.store.Dropped(id))
			}
			return "", refused(err, reach.Drives)
		}
		taken++
	}
	a.drivesChanged()
	if kept > 0 {
		return words.Plural(taken, "file") + " put away; " + words.Plural(kept, "file") + " stayed: a document names it", nil
	}
	return words.Plural(taken, "file") + " put away, for " + words.Plural(in.Days, "day") + " at least", nil
}
