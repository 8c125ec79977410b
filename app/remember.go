package app

import (
	"context"
	"sync"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/jobs"
	"boundcrate/core/road/graph"
	"boundcrate/store"
)

// remember reads the contents of what is new in a project, so that it can be found again one day.
// It is a job of its own, beside all looks and decisions: one that is under way goes on to its
// end, and then reads what came meanwhile.
func (a *App) remember(p store.Project, w *openProject, quiet bool) {
	w.unread.Store(true)
	t, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobRemember, Project: p.ID, Title: "Reading the contents of " + p.Name, Unit: "bytes", Second: jobs.Join, Quiet: quiet, Back: true}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		for w.unread.Swap(false) {
			if s := w.now.Load(); s != nil && s.graph != nil {
				if err := a.rememberNow(ctx, p, w, s.graph, quiet, j); err != nil {
					return api.Nothing{}, "", err
				}
			}
		}
		return api.Nothing{}, "Everything new was read", nil
	})
	if err != nil {
		return
	}
	if !w.followed.CompareAndSwap(false, true) {
		return // somebody waits for its end already
	}
	go func() { // one that was just ending has not seen what is asked for
		<-t.Done()
		w.followed.Store(false)
		if w.unread.Load() && t.View().Job.State == api.Done && a.ctx.Err() == nil {
			a.remember(p, w, quiet)
		}
	}()
}

func (a *App) rememberNow(ctx context.Context, p store.Project, w *openProject, g *graph.Graph, quiet bool, j *jobs.Task) error {
	reach, err := a.reach()
	if err != nil {
		return err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return err
	}
	defer memory.Close()
	memory.Closely = true
	memory.Turn = func(ctx context.Context, drive string) (func(), error) {
		a.jobs.GiveWay(ctx)
		return a.turns.take(ctx, drive)
	}
	if quiet { // somebody may be writing at this moment
		memory.Settle = stillWriting
	}
	err = memory.Remember(ctx, g, reach, nil, time.Now(), func(done, total int64) { j.Step("reading contents", done, total) })
	if w.fresh.Store(memory.Unsettled > 0); memory.Unsettled > 0 {
		time.AfterFunc(stillWriting, func() { a.lookSoon(p.ID) })
	}
	return err
}

// readersEach is how many of one sort read from a drive at once, whoever asks: more only make its
// heads jump.
const readersEach = 2

// turns are the drives' queues.
type turns struct {
	mu sync.Mutex
	of map[string]chan struct{}
}

// take waits for a turn at a drive; done gives it back. A drive that hangs makes those wait who
// want it, and nobody else.
func (t *turns) take(ctx context.Context, drive string) (done func(), err error) {
	t.mu.Lock()
	if t.of == nil {
		t.of = map[string]chan struct{}{}
	}
	if t.of[drive] == nil {
		t.of[drive] = make(chan struct{}, readersEach)
	}
	turn := t.of[drive]
	t.mu.Unlock()
	select {
	case turn <- struct{}{}:
		return func() { <-turn }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}
