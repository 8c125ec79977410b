package app

import (
	"context"
	"crypto/rand"
	"encoding/json"

	"boundcrate/app/api"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
)

// Result is what a job resulted in, as JSON, once it is done; until then it is *jobs.Underway.
func (a *App) Result(ctx context.Context, id string) (json.RawMessage, error) {
	return a.jobs.Result(ctx, id)
}

// StopJob ends a job, and waits for its end.
func (a *App) StopJob(_ context.Context, id string) (api.Started, error) { return a.jobs.Stop(id) }

// Listen begins to hear what happens.
func (a *App) Listen() (jobs.Listener, error) { return a.hub.Listen() }

// Waits says that somebody waits for an answer until over is called: what nobody waits for gives
// way.
func (a *App) Waits() (over func()) { return a.jobs.Waits() }

// Done is closed when the application ends.
func (a *App) Done() <-chan struct{} { return a.ctx.Done() }

// tried is soon for what only tries something with a file of a drive: it is read when its turn
// comes there. Any number may be tried.
func tried[R any](ctx context.Context, a *App, title string, project int64, file string, work func(context.Context) (R, error)) (R, error) {
	spec := jobs.Spec{Kind: api.JobTry, Project: project, Title: title, Slot: rand.Text()}
	return jobs.Soon(ctx, a.jobs, spec, func(ctx context.Context, _ *jobs.Task) (out R, err error) {
		drives, err := a.drives()
		if err != nil {
			return out, err
		}
		d, _ := drive.Find(drives, file)
		done, err := a.trials.take(ctx, d.ID)
		if err != nil {
			return out, err
		}
		defer done()
		return work(ctx)
	})
}
