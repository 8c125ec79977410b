package app

import (
	"context"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// Stock is every project with its health, and every document that no project has,
// by the folders they lie in, the worst first.
func (a *App) Stock(ctx context.Context) (overview.Stock, error) {
	drives, err := a.drives()
	if err != nil {
		return overview.Stock{}, err
	}
	projects, err := a.store.Projects()
	if err != nil {
		return overview.Stock{}, err
	}
	healths, err := a.store.Healths(drives)
	if err != nil {
		return overview.Stock{}, err
	}
	owned, err := a.store.ProjectsOf(drives)
	if err != nil {
		return overview.Stock{}, err
	}
	on := a.connected(drives)
	offered := a.offered(drives, on)
	var out overview.Stock
	groups := map[string][]overview.StockRow{}
	var labels []string // that of what was opened last first
	add := func(folder string, r overview.StockRow) {
		if r.Health != nil && len(r.Health.Lacks) > 0 {
			r.Offer, r.Health.Lacks = offered[offerKey(r)], nil // the page asks for no names
		}
		label := drive.Label(drives, folder)
		if groups[label] == nil {
			labels = append(labels, label)
		}
		groups[label] = append(groups[label], r)
	}
	for _, p := range projects {
		view := projectView(p, drives)
		r := overview.StockRow{Project: &view, Name: p.Name, Document: p.Documents[0], Label: strings.Join(view.Labels, ", ")}
		for i := range healths {
			if h := &healths[i]; h.Project == p.ID {
				r.Health, r.At = &h.Says, &h.At
			}
		}
		if report, err := sealedReport(p); err == nil && report.Report != nil {
			at := p.LastSealed()
			r.Sealed, r.Complete = &at, report.Report.Complete && len(report.Report.Problems) == 0
			if d, on := drive.Find(drives, report.at(drives)); on && r.Complete && !drive.Within(d.Dir, p.Root) {
				r.Backed = d.Name
			}
		}
		b, err := a.backupOf(p, drives, on)
		if err != nil {
			return overview.Stock{}, err
		}
		r.Backup, r.Verified, r.Overdue = b.At, b.verified, b.Overdue
		add(filepath.Dir(p.Root), r)
	}
	for i := range healths {
		if h := &healths[i]; h.Project == 0 && owned[h.Document] == 0 {
			add(filepath.Dir(h.Document), overview.StockRow{Document: h.Document, Name: filepath.Base(h.Document), Label: drive.Label(drives, h.Document), Health: &h.Says, At: &h.At})
			if out.At == nil || h.At.After(*out.At) {
				out.At = &h.At
			}
		}
	}
	out.Groups = []overview.StockGroup{}
	for _, label := range labels {
		rows := groups[label]
		slices.SortStableFunc(rows, worse)
		out.Groups = append(out.Groups, overview.StockGroup{Label: label, Rows: rows})
	}
	slices.SortStableFunc(out.Groups, func(x, y overview.StockGroup) int { return worse(x.Rows[0], y.Rows[0]) })
	return out, nil
}

// worse orders rows: projects before documents that nobody opened, then by their
// health.
func worse(x, y overview.StockRow) int {
	switch {
	case (x.Project == nil) != (y.Project == nil):
		if x.Project != nil {
			return -1
		}
		return 1
	case x.Health == nil || y.Health == nil:
		return 0
	}
	return x.Health.Worse(*y.Health)
}

// between is how long looking at everything rests between two documents: somebody
// is at work.
const between = 20 * time.Millisecond

// TakeStock looks at every project and finds documents that no project has, one
// after the other, as a job.
func (a *App) TakeStock(ctx context.Context) (api.Started, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobStock, Title: "Checking all projects", Unit: "documents", Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		n, lone, err := a.lookAtAll(ctx, reach, j)
		return api.Nothing{}, phrase.Plural(n, "project") + ", " + phrase.Plural(lone, "document") + " without one", err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) lookAtAll(ctx context.Context, reach drive.Set, j *jobs.Task) (projects, lone int, err error) {
	began := time.Now()
	memory, err := a.store.Memory(nil)
	if err != nil {
		return 0, 0, err
	}
	defer memory.Close()
	if projects, err = a.lookAtProjects(ctx, reach, memory, j); err != nil {
		return projects, 0, err
	}
	docs, x, err := a.loneDocuments(ctx, reach, j)
	if err != nil {
		return projects, 0, err
	}
	for i, e := range docs {
		j.Step(filepath.Base(e.Path), int64(i), int64(len(docs)))
		h, err := a.healthOf(ctx, store.Project{Documents: []string{e.Path}, Root: filepath.Dir(e.Path)}, reach, memory)
		if err == nil && h.References == 0 && h.Error == "" {
			continue // it names nothing: it is a file, not the head of a project
		}
		if err == nil {
			err = a.store.KeepHealth(0, drive.At(reach.Drives, e.Path), h, time.Now())
		}
		if err == nil {
			err = pause(ctx)
		}
		if err != nil {
			return projects, lone, err
		}
		lone++
	}
	if err = a.store.DropHealth(began); err == nil {
		j.Step("looking at crates", 0, 0)
		err = a.lookForOffers(ctx, reach, x)
	}
	a.hub.Send(api.Event{Type: api.EventDrives})
	return projects, lone, err
}

// pause leaves the drives to others for a moment.
func pause(ctx context.Context) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(between):
		return nil
	}
}

// lookAtProjects keeps the health of every project that nobody has open.
func (a *App) lookAtProjects(ctx context.Context, reach drive.Set, memory *store.Memory, j *jobs.Task) (n int, err error) {
	known, err := a.store.Projects()
	if err != nil {
		return 0, err
	}
	for i, p := range known {
		j.Step(p.Name, int64(i), int64(len(known)))
		if a.opened(p.ID) { // it is kept up by itself
			n++
			continue
		}
		h, err := a.healthOf(ctx, p, reach, memory)
		if err == nil {
			err = a.store.KeepHealth(p.ID, drive.Path{}, h, time.Now())
		}
		if err == nil {
			err = pause(ctx)
		}
		if err != nil {
			return n, err
		}
		n++
		a.hub.Send(api.Event{Type: api.EventDrives})
	}
	return n, nil
}

// loneDocuments walks the drives for documents that belong to no project, and tells all that it met.
func (a *App) loneDocuments(ctx context.Context, reach drive.Set, j *jobs.Task) ([]index.Entry, index.Index, error) {
	var dirs []string
	for i, answer := range a.probes.all(reach.Drives) {
		if answer.connected {
			dirs = append(dirs, reach.Drives[i].Dir)
		}
	}
	j.Unit("files")
	walked, err := a.store.IndexShallow(ctx, reach, reach.Drives, dirs, func(files int, dir string) { j.Step("in "+drive.Label(reach.Drives, dir), int64(files), 0) })
	if err != nil {
		return nil, nil, err
	}
	x := walked.Index()
	if err := a.store.Keep(ctx, reach.Drives, walked, time.Now()); err != nil {
		return nil, nil, err
	}
	ledger, err := a.store.Ledger(a.formats())
	if err != nil {
		return nil, nil, err
	}
	j.Unit("documents")
	o := survey.Options{
		Trace: trace.Options{Formats: a.formats(), Reach: reach, Drives: reach.Drives}, Index: x, Ledger: ledger,
		Progress: func(done, of int) { j.Step("reading documents", int64(done), int64(of)) },
	}
	if _, err := survey.Refresh(ctx, o); err != nil { // what could not be read is told where it matters
		return nil, nil, err
	}
	docs, _, err := survey.Documents(ctx, o) // what could not be opened is no document anybody can open
	if err != nil {
		return nil, nil, err
	}
	owned, err := a.store.ProjectsOf(reach.Drives)
	if err != nil {
		return nil, nil, err
	}
	nested, err := a.store.Nested(reach.Drives)
	return slices.DeleteFunc(docs, func(e index.Entry) bool { return owned[e.Path] != 0 || nested[e.Path] }), x, err
}

// healthOf traces a project that nobody has open, and keeps what it uses.
func (a *App) healthOf(ctx context.Context, p store.Project, reach drive.Set, memory *store.Memory) (survey.Health, error) {
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return survey.Health{}, err
	}
	o, _, err := a.traceOptions(ctx, p, &openProject{}, log, memory)
	if err != nil {
		return survey.Health{}, err
	}
	g, err := trace.Run(ctx, o, p.Documents...)
	switch {
	case err != nil && ctx.Err() != nil:
		return survey.Health{}, err
	case err != nil:
		return survey.Health{Error: words.Error(err), Needs: map[string]int64{}}, nil
	}
	both := []*graph.Graph{g}
	if len(o.Repairs) > 0 {
		plain, err := asOnDisk(ctx, o, p.Documents)
		if err != nil {
			return survey.Health{}, err
		}
		both = append(both, plain...)
	}
	judged := origin.Judge(g, a.surroundings(p, reach.Drives, reach))
	judged.Suspect = mend.Suspects(g, judged, memory.Changed(ctx, reach), log.Meant(g, reach.Drives))
	return survey.HealthOf(g, judged), a.store.KeepUses(p.ID, reach, a.formats(), time.Now(), both...)
}
