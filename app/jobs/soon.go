package jobs

import (
	"context"
	"encoding/json"
	"sync/atomic"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/store"
)

// Underway is the answer of work that takes longer than people wait for one: it goes on as a
// job, whose result is asked for later.
type Underway struct{ api.Started }

func (u *Underway) Error() string { return "“" + u.Job.Title + "” is still running." }

// Soon does work that is mostly quick. It answers when it is done, or that it is *Underway.
// Whoever gives up before that stops it.
func Soon[R any](ctx context.Context, js *Jobs, spec Spec, work func(context.Context, *Task) (R, error)) (R, error) {
	var out R
	var failed error
	var own atomic.Bool
	spec.Quiet = true
	t, err := Run(js, spec, func(ctx context.Context, j *Task) (R, string, error) {
		own.Store(true)
		out, failed = work(ctx, j)
		return out, "", failed
	})
	if err != nil {
		return out, err
	}
	switch {
	case !t.Late(ctx) && own.Load():
		return out, failed
	case !t.running(): // it was somebody else's work of the same kind, or was just ending
		var is R
		<-t.done
		said, err := t.outcome()
		if err == nil {
			err = json.Unmarshal(said, &is)
		}
		return is, err
	case ctx.Err() != nil && spec.Second == Join:
		return out, ctx.Err()
	case ctx.Err() != nil:
		t.cancel(nil)
		<-t.done
		return out, ctx.Err()
	}
	var none R // the work still has out
	return none, &Underway{t.View()}
}

// Late waits for the end of work as long as people wait. Work that is late is seen from then on.
func (t *Task) Late(ctx context.Context) bool {
	late := time.NewTimer(t.jobs.patience)
	defer late.Stop()
	select {
	case <-t.done:
		return false
	case <-ctx.Done():
		return true
	case <-late.C:
		if t.show() {
			return true
		}
		<-t.done // it was just ending
		return false
	}
}

// answersWithin is how long whoever asks for a result is kept waiting: longer, and a line that
// stands between may be cut.
const answersWithin = 20 * time.Second

// Result is what a job resulted in, as JSON, once it is done; until then it is *Underway.
func (js *Jobs) Result(ctx context.Context, id string) (json.RawMessage, error) {
	t, err := js.task(id)
	if err != nil {
		return ResultOf[json.RawMessage](js, id)
	}
	late := time.NewTimer(answersWithin)
	defer late.Stop()
	select {
	case <-t.done:
	case <-late.C:
		return nil, &Underway{t.View()}
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	return t.outcome()
}

// outcome is what work that ended resulted in, as JSON.
func (t *Task) outcome() (json.RawMessage, error) {
	switch t.View().Job.State {
	case api.Failed:
		return nil, t.failed
	case api.Stopped:
		return nil, fault.Say(fault.Conflict, "Stopped", "“"+t.title()+"” was stopped.")
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.result == nil {
		return nil, store.ErrNotFound
	}
	return t.result, nil
}
