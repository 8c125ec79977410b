package app

import (
	"context"
	"path/filepath"

	"boundcrate/app/api"
	"boundcrate/app/api/shipping"
	"boundcrate/app/desk"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
	"boundcrate/core/road/trace"
)

// maxCompared bounds how many files of each kind of difference a page is told.
const maxCompared = 2000

// Compare tells what came, went and changed between two documents or crates, as a job.
func (a *App) Compare(ctx context.Context, in shipping.CompareRequest) (api.Started, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	for _, p := range []string{in.A, in.B} {
		if _, err := reach.Stat(p); err != nil {
			return api.Started{}, err
		}
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobCompare, Slot: in.A + "\x00" + in.B, Title: "Comparing " + filepath.Base(in.A) + " and " + filepath.Base(in.B)}, func(ctx context.Context, j *jobs.Task) (shipping.Comparing, string, error) {
		memory, err := a.store.Memory(nil)
		if err != nil {
			return shipping.Comparing{}, "", err
		}
		defer memory.Close()
		j.Step("reading both", 0, 0)
		res, err := desk.Compare(ctx, in.A, in.B, trace.Options{Formats: a.formats(), Reach: reach, Drives: reach.Drives, Doubt: memory.Doubt(ctx, reach), Known: memory.Known}, memory.Hasher(reach), line.Open(a.editionsDir))
		if err != nil {
			return shipping.Comparing{}, "", err
		}
		label := func(list []compare.ComparedFile) {
			for i := range list {
				list[i].Path = drive.Label(reach.Drives, list[i].Path)
			}
		}
		label(res.Came)
		label(res.Went)
		for i := range res.Changed {
			c := &res.Changed[i]
			c.Path, c.Was = drive.Label(reach.Drives, c.Path), drive.Label(reach.Drives, c.Was)
		}
		res.A, res.B = drive.Label(reach.Drives, res.A), drive.Label(reach.Drives, res.B)
		out := shipping.Comparing{Equal: res.Equal(), Came: len(res.Came), Went: len(res.Went), Changed: len(res.Changed), Result: *res}
		out.Result.Came, out.Result.Went = res.Came[:min(len(res.Came), maxCompared)], res.Went[:min(len(res.Went), maxCompared)]
		out.Result.Changed = res.Changed[:min(len(res.Changed), maxCompared)]
		return out, map[bool]string{true: "The same", false: "Different"}[out.Equal], nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// Compared is what came of comparing.
func (a *App) Compared(ctx context.Context, job string) (shipping.Comparing, error) {
	return jobs.ResultOf[shipping.Comparing](a.jobs, job)
}
