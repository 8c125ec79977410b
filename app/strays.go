package app

import (
	"context"
	"errors"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/holding"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
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
func (l *looseFiles) fits(w *openProject, s *snapshot) bool {
	return l != nil && l.snapshot == s.number && l.looked == w.looked.Load()
}

// unsought stands for what nothing names while it is looked for.
var unsought = &sift.Loose{}

// loose are the files that nothing names. A request waits for them as long as people wait; a
// folder that takes longer is answered by what was found last, or by unsought, and the
// page is told when it is known.
func (a *App) loose(ctx context.Context, p store.Project, w *openProject, s *snapshot) (*looseFiles, error) {
	return a.looseWithin(ctx, a.jobs.Patience(), p, w, s)
}

func (a *App) looseWithin(ctx context.Context, wait time.Duration, p store.Project, w *openProject, s *snapshot) (*looseFiles, error) {
	late := time.NewTimer(wait)
	defer late.Stop()
	for {
		have := w.loose.Load()
		if have.fits(w, s) {
			return have, nil
		}
		looked := w.looked.Load()
		j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSeek, Project: p.ID, Title: "Searching for unreferenced files", Unit: "files", Quiet: true, Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
			l, err := a.seek(ctx, p, w, s, looked, j)
			if err != nil {
				return api.Nothing{}, "", err
			}
			if w.loose.Store(l); have == nil || have.Loose != l.Loose {
				a.replan(ctx, p.ID, w)
			}
			return api.Nothing{}, phrase.Plural(len(l.Extras), "file"), nil
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
		case <-j.Done():
			if v := j.View().Job; v.State != api.Done {
				return nil, fault.Say(fault.Unavailable, "Search failed", "Unreferenced files could not be found. "+v.Error)
			}
		}
	}
}

// seek looks through a project's folder for what nothing names. What is as it was is the
// same list.
func (a *App) seek(ctx context.Context, p store.Project, w *openProject, s *snapshot, looked int64, j *jobs.Task) (*looseFiles, error) {
	reach, err := a.reach()
	if err != nil {
		return nil, err
	}
	habits, err := a.store.Habits()
	if err != nil {
		return nil, err
	}
	walked, err := a.store.IndexShallow(ctx, reach, reach.Drives, []string{s.graph.Root}, func(files int, _ string) { j.Step("searching the project folder", int64(files), 0) })
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

// maxStrays is how many strays, and how many groups of duplicates and namesakes, are
// shown.
const maxStrays = 1000

// strayRows are the unreferenced files of a plan.
func strayRows(pl *planned, s *snapshot) []packing.Stray {
	travels := map[string]bool{}
	for _, e := range pl.options.Also {
		travels[e.Path] = true
	}
	var list []packing.Stray
	for _, e := range pl.loose.Extras {
		if e.What == sift.Companions {
			continue
		}
		full := drive.Label(s.drives, e.Path)
		kind := facts.KindOfName(e.Path)
		list = append(list, packing.Stray{
			Path: e.Path, Name: filepath.Base(full), Label: filepath.Dir(full), What: e.What, Word: words.Along(e.What), Kind: kind, KindWord: words.Kind(kind), Size: e.Size, Modified: time.Unix(0, e.Mod),
			Newer: e.What == sift.Strays && e.Mod > pl.loose.Newest, Travels: travels[e.Path], Preview: preview(kind, e.Path),
		})
	}
	return list
}

// Strays lists unreferenced files, as they are asked for, and duplicates.
func (a *App) Strays(ctx context.Context, project int64, in packing.StraysAsked) (packing.Strays, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return packing.Strays{}, err
	}
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return packing.Strays{}, err
	}
	out := packing.Strays{Snapshot: s.id, List: []packing.Stray{}, Duplicates: []packing.Twin{}, Namesakes: []packing.Twin{}}
	t := straysTable(pl, s)
	q := table.Query{Filter: in.Filter, Sort: in.Sort}
	if err := answerable(t.Check(q)); err != nil {
		return packing.Strays{}, err
	}
	v := t.View(q)
	out.Files = v.Total()
	v.Window(0, maxStrays, func(_ *table.Heading, r *packing.Stray) { out.List = append(out.List, *r) })
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
	for _, d := range dups[:min(len(dups), maxStrays)] {
		out.Duplicates = append(out.Duplicates, packing.Twin{Name: filepath.Base(d.Paths[0]), Bytes: d.Bytes, Labels: paths(d.Paths)})
	}
	names := sift.Namesakes(s.graph, dups)
	for _, n := range names[:min(len(names), maxStrays)] {
		out.Namesakes = append(out.Namesakes, packing.Twin{Name: n.Name, Labels: paths(n.Paths)})
	}
	return out, nil
}

// Adopt lets files travel that nothing names, or leaves them.
func (a *App) Adopt(ctx context.Context, project int64, in packing.Adopt) error {
	p, w, s, err := a.traced(project)
	if err != nil {
		return err
	}
	l, err := a.loose(ctx, p, w, s)
	if err != nil {
		return err
	}
	known := map[string]bool{}
	for _, e := range l.Extras {
		known[e.Path] = true
	}
	var list []decide.Decision
	for _, at := range in.Paths {
		if !known[at] {
			return fault.Say(fault.Conflict, "Not found", "‘"+drive.Label(s.drives, at)+"’ is not an unreferenced file of the project.")
		}
		d := decide.Decision{Kind: decide.Leave, File: drive.At(s.drives, at), At: now()}
		if in.Travels {
			d.Kind = decide.Carry
		}
		list = append(list, d)
	}
	if len(list) == 0 {
		return fault.Say(fault.Wrong, "No file", "Choose at least one file.")
	}
	if err := a.store.Decide(p.ID, list...); err != nil {
		return err
	}
	a.replan(ctx, p.ID, w)
	return nil
}

// PutAway takes files that nothing names out of the way, into the holding folders of
// their drives, after every document on the drives was asked. One that somebody needs
// after all stays where it is, and is named.
func (a *App) PutAway(ctx context.Context, project int64, in packing.PutAway) (api.Started, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return api.Started{}, err
	}
	l, err := a.loose(ctx, p, w, s)
	if err != nil {
		return api.Started{}, err
	}
	if len(in.Paths) == 0 || in.Days < 1 || in.Days > holding.MaxDays {
		return api.Started{}, fault.Say(fault.Wrong, "No file", "Choose at least one file, and keep it for at least a day.")
	}
	known := map[string]sift.Extra{}
	for _, e := range l.Extras {
		known[e.Path] = e
	}
	for _, at := range in.Paths {
		if e, ok := known[at]; !ok || e.What == sift.Companions || e.What == sift.Editions {
			return api.Started{}, fault.Say(fault.Conflict, "Not found", "‘"+drive.Label(s.drives, at)+"’ is not an unreferenced file.")
		}
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobPutAway, Project: p.ID, Title: "Moving " + phrase.Plural(len(in.Paths), "file"), Unit: "files"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		message, err := a.takeAway(ctx, s, in, known, reach, j)
		_, terr := a.startTrace(p.ID)
		return api.Nothing{}, message, errors.Join(err, terr)
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) takeAway(ctx context.Context, s *snapshot, in packing.PutAway, known map[string]sift.Extra, reach drive.Set, j *jobs.Task) (string, error) {
	said, err := a.clearoutVerdict(ctx, s.graph.Root, reach, j)
	if err != nil {
		return "", err
	}
	if len(said.Unread) > 0 {
		return "", fault.Say(fault.Conflict, "Not everything could be checked", "‘"+said.Unread[0]+"’ could not be read. Nothing was moved.")
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
		j.Step("moving to the holding folder", int64(i), int64(len(in.Paths)))
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
		info, err := reach.Lstat(at)
		if err != nil {
			return "", err
		}
		until, err := holding.Until(now, in.Days)
		if err != nil {
			return "", termless()
		}
		if err := a.take(store.Held{Was: drive.At(reach.Drives, at), At: to, Files: 1, Bytes: known[at].Size, Since: now, Until: until, Reasons: "[]"}, at, info.Node, reach.Drives); err != nil {
			return "", err
		}
		taken++
	}
	a.drivesChanged()
	if kept > 0 {
		return phrase.Plural(taken, "file") + " moved; " + phrase.Plural(kept, "file") + " kept because a document uses it", nil
	}
	return phrase.Plural(taken, "file") + " moved to the holding folder for at least " + phrase.Plural(in.Days, "day"), nil
}
