package app

import (
	"context"
	"path/filepath"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/tracing"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/report"
	"boundcrate/core/survey/survey"
)

// Clearout asks everything on the drives whether a folder may go, as a job.
func (a *App) Clearout(ctx context.Context, in overview.AskClearout) (api.Started, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	folder := filepath.Clean(in.Folder)
	info, err := reach.Stat(folder)
	if err != nil {
		return api.Started{}, err
	}
	if !info.Mode.IsDir() {
		return api.Started{}, fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(reach.Drives, folder)+"’ is a file.")
	}
	spec := jobs.Spec{Kind: api.JobSurvey, Slot: info.Real, Title: "Checking " + drive.Label(reach.Drives, folder), Unit: "documents", Second: jobs.Again}
	j, err := jobs.Run(a.jobs, spec, func(ctx context.Context, j *jobs.Task) (overview.Cleared, string, error) {
		out, err := a.clearoutVerdict(ctx, info.Real, reach, j)
		switch {
		case err != nil:
			return out, "", err
		case out.Safe:
			return out, "Safe to remove", nil
		}
		return out, "Not safe", nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// ClearedOut is what came of asking whether a folder may go.
func (a *App) ClearedOut(ctx context.Context, job string) (overview.Cleared, error) {
	return jobs.ResultOf[overview.Cleared](a.jobs, job)
}

// clearoutVerdict looks through all drives, reads what changed since it was last read, and
// asks.
func (a *App) clearoutVerdict(ctx context.Context, folder string, reach drive.Set, j *jobs.Task) (overview.Cleared, error) {
	out := overview.Cleared{Label: drive.Label(reach.Drives, folder), At: time.Now()}
	var dirs []string
	for i, answer := range a.probes.all(reach.Drives) {
		if answer.connected {
			dirs = append(dirs, reach.Drives[i].Dir)
		}
	}
	j.Unit("files")
	walked, err := a.store.IndexShallow(ctx, reach, reach.Drives, dirs, func(files int, dir string) {
		j.Step("in "+drive.Label(reach.Drives, dir), int64(files), 0)
	})
	if err != nil {
		return out, err
	}
	x := walked.Index()
	if err := a.store.Keep(ctx, reach.Drives, walked, time.Now()); err != nil {
		return out, err
	}
	ledger, err := a.store.Ledger(a.formats())
	if err != nil {
		return out, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return out, err
	}
	defer memory.Close()
	j.Unit("documents")
	got, err := survey.Check(ctx, folder, survey.Options{
		Trace: trace.Options{Formats: a.formats(), Reach: reach, Drives: reach.Drives}, Index: x, Ledger: ledger, Hash: memory.Hasher(reach),
		Progress: func(done, of int) {
			out.Read = of
			j.Step("reading documents", int64(done), int64(of))
		},
	})
	if err != nil {
		return out, err
	}
	if out.Files, out.Bytes, err = index.Sum(x, folder); err != nil {
		return out, err
	}
	out.Clearout, out.Left = report.OfClearout(got), report.OfUnread(got.Unread)
	if out.Owned, err = a.owners(got, reach.Drives); err != nil {
		return out, err
	}
	label := func(p *string) { *p = drive.Label(reach.Drives, *p) }
	for i := range out.ReadBy {
		r := &out.ReadBy[i]
		label(&r.Document)
		label(&r.Path)
		for k := range r.Elsewhere {
			label(&r.Elsewhere[k])
		}
	}
	for i := range out.WrittenBy {
		label(&out.WrittenBy[i].Document)
		label(&out.WrittenBy[i].Path)
	}
	for _, list := range [][]string{out.OnlyCopies, out.Documents, out.Unread} {
		for i := range list {
			label(&list[i])
		}
	}
	for i := range out.Left {
		label(&out.Left[i].Path)
	}
	out.Needy = neededBy(out)
	return out, nil
}

// others are the documents beyond a snapshot's own that need a file.
func (a *App) others(s *snapshot, path string) ([]tracing.OtherUse, error) {
	list := []tracing.OtherUse{}
	ledger, err := a.store.Ledger(a.formats())
	if err != nil {
		return list, err
	}
	uses, err := ledger.Into(path)
	if err != nil {
		return list, err
	}
	own := map[string]bool{}
	for i := range s.graph.Documents {
		own[s.graph.Documents[i].Path] = true
	}
	for _, u := range uses {
		if !own[u.Document] && len(list) < maxUses {
			list = append(list, tracing.OtherUse{Document: drive.Label(s.drives, u.Document), Project: u.Project, Owner: u.Owner, Use: u.Use, Role: u.Role, At: u.At})
		}
	}
	return list, nil
}
