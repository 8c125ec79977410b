package app

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"time"

	"boundcrate/app/api"
	"boundcrate/core/disk/drive"
)

// Underway is the answer of work that takes longer than people wait for one: it goes on as a
// job, whose result is asked for later.
type Underway struct{ api.Started }

func (u *Underway) Error() string { return "“" + u.Job.Title + "” goes on." }

// soon does work that is mostly quick. It answers when it is done, or that it is *Underway.
// Whoever gives up before that stops it.
func soon[R any](ctx context.Context, a *App, spec job, work func(context.Context, *task) (R, error)) (R, error) {
	var out R
	var failed error
	spec.Quiet = true
	t, err := run(a.jobs, spec, func(ctx context.Context, j *task) (R, string, error) {
		out, failed = work(ctx, j)
		return out, "", failed
	})
	if err != nil {
		return out, err
	}
	late := time.NewTimer(a.jobs.patience)
	defer late.Stop()
	select {
	case <-t.done:
		return out, failed
	case <-ctx.Done():
		t.cancel(nil)
		<-t.done
		return out, ctx.Err()
	case <-late.C:
	}
	t.show()
	var none R // the work still has out
	return none, &Underway{t.view()}
}

// answersWithin is how long whoever asks for a result is kept waiting: longer, and a line that
// stands between may be cut.
const answersWithin = 20 * time.Second

// Result is what a job resulted in, as JSON, once it is done; until then it is *Underway.
func (a *App) Result(ctx context.Context, id string) (json.RawMessage, error) {
	t, err := a.jobs.get(id)
	if err != nil {
		return resultOf[json.RawMessage](a.jobs, id)
	}
	late := time.NewTimer(answersWithin)
	defer late.Stop()
	select {
	case <-t.done:
	case <-late.C:
		return nil, &Underway{t.view()}
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	switch j := t.view().Job; j.State {
	case api.Failed:
		return nil, say(Unfit, "It did not work", j.Error)
	case api.Stopped:
		return nil, say(Conflict, "Stopped", "“"+j.Title+"” was stopped.")
	}
	return resultOf[json.RawMessage](a.jobs, id)
}

// tried is soon for what only tries something with a file of a drive: it is read when its turn
// comes there. Any number may be tried.
func tried[R any](ctx context.Context, a *App, title string, project int64, file string, work func(context.Context) (R, error)) (R, error) {
	spec := job{Kind: api.JobTry, Project: project, Title: title, Slot: rand.Text()}
	return soon(ctx, a, spec, func(ctx context.Context, _ *task) (out R, err error) {
		drives, err := a.drives()
		if err != nil {
			return out, err
		}
		d, _ := drive.Find(drives, file)
		done, err := a.turns.take(ctx, d.ID)
		if err != nil {
			return out, err
		}
		defer done()
		return work(ctx)
	})
}
