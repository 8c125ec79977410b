package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"boundcrate/server/api"
	"boundcrate/store"
)

// hub hands events to every open page. A page that does not keep up loses
// events rather than holding work back; it asks for the state when it returns.
type hub struct {
	mu    sync.Mutex
	pages map[chan api.Event]bool
}

func newHub() *hub { return &hub{pages: map[chan api.Event]bool{}} }

func (h *hub) send(e api.Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.pages {
		select {
		case p <- e:
		default:
		}
	}
}

func (h *hub) join() chan api.Event {
	p := make(chan api.Event, 256)
	h.mu.Lock()
	h.pages[p] = true
	h.mu.Unlock()
	return p
}

func (h *hub) leave(p chan api.Event) {
	h.mu.Lock()
	delete(h.pages, p)
	h.mu.Unlock()
}

// events streams to one page (server-sent events).
func (a *App) events(c *echo.Context) error {
	w := c.Response()
	flush := http.NewResponseController(w)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	p := a.hub.join()
	defer a.hub.leave(p)
	fmt.Fprint(w, ": open\n\n")
	if err := flush.Flush(); err != nil {
		return err
	}
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-a.ctx.Done():
			return nil
		case <-beat.C:
			fmt.Fprint(w, ": still here\n\n")
		case e := <-p:
			b, err := json.Marshal(e)
			if err != nil {
				return err
			}
			fmt.Fprintf(w, "data: %s\n\n", b)
		}
		if err := flush.Flush(); err != nil {
			return nil // the page is gone
		}
	}
}

// jobs runs long work, one of a kind for each project.
type jobs struct {
	ctx   context.Context
	store *store.Store
	hub   *hub
	log   *slog.Logger
	wg    sync.WaitGroup
	mu    sync.Mutex
	all   map[string]*job
}

type job struct {
	mu     sync.Mutex
	row    api.Job
	cancel context.CancelFunc
	sent   time.Time
	ended  time.Time
	from   time.Time // when the present step began
	base   int64
	result any
	done   chan struct{}
	jobs   *jobs
}

func newJobs(ctx context.Context, s *store.Store, h *hub, log *slog.Logger) *jobs {
	return &jobs{ctx: ctx, store: s, hub: h, log: log, all: map[string]*job{}}
}

// start begins work and returns at once. A running job of the same kind for
// the same project is stopped and waited for first, where replace is set;
// else it is returned instead.
func (js *jobs) start(kind api.JobKind, project int64, title, unit string, replace bool, work func(context.Context, *job) (message string, err error)) *job {
	js.mu.Lock()
	var before *job
	for _, j := range js.all {
		if j.row.Kind == kind && j.row.Project == project && j.running() {
			if !replace {
				js.mu.Unlock()
				return j
			}
			before = j
			j.cancel()
		}
	}
	ctx, cancel := context.WithCancel(js.ctx)
	j := &job{cancel: cancel, jobs: js, done: make(chan struct{}), from: time.Now(), row: api.Job{
		ID: uuid.NewString(), Project: project, Kind: kind, Title: title, State: api.Running, Unit: unit, Began: time.Now(),
	}}
	js.all[j.row.ID] = j
	js.mu.Unlock()
	j.keep()
	j.send(true)
	js.wg.Go(func() {
		defer close(j.done)
		defer cancel()
		if before != nil {
			<-before.done
		}
		message, err := work(ctx, j)
		j.finish(message, err)
	})
	return j
}

func (j *job) running() bool {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.row.State == api.Running
}

// step tells how far the work is. Pages hear of it at most four times a second.
func (j *job) step(step string, done, total int64) {
	j.mu.Lock()
	now := time.Now()
	if j.row.Step != step {
		j.row.Step, j.from, j.base = step, now, done
		j.sent = time.Time{}
	}
	j.row.Done, j.row.Total = done, total
	j.row.Rate, j.row.Left = 0, 0
	if s := now.Sub(j.from).Seconds(); s > 0.2 && done > j.base {
		j.row.Rate = float64(done-j.base) / s
		if total > done {
			j.row.Left = float64(total-done) / j.row.Rate
		}
	}
	j.mu.Unlock()
	j.send(false)
}

func (j *job) send(always bool) {
	j.mu.Lock()
	if !always && time.Since(j.sent) < 250*time.Millisecond {
		j.mu.Unlock()
		return
	}
	j.sent = time.Now()
	row := j.row
	j.mu.Unlock()
	j.jobs.hub.send(api.Event{Type: api.EventJob, Project: row.Project, Job: &row})
}

func (j *job) finish(message string, err error) {
	j.mu.Lock()
	j.ended = time.Now()
	j.row.Left = 0
	switch {
	case err == nil:
		j.row.State, j.row.Message = api.Done, message
		if j.row.Total > 0 {
			j.row.Done = j.row.Total
		}
	case errors.Is(err, context.Canceled):
		j.row.State, j.row.Message = api.Stopped, message
	default:
		j.row.State, j.row.Error = api.Failed, explain(err).Detail
	}
	j.mu.Unlock()
	j.keep()
	j.send(true)
}

// keep writes the job's row. That it cannot be kept must not end the work.
func (j *job) keep() {
	j.mu.Lock()
	r := j.row
	row := store.Job{ID: r.ID, ProjectID: r.Project, Kind: string(r.Kind), Title: r.Title, State: string(r.State), Step: r.Step, Done: r.Done, Total: r.Total, Error: r.Error, CreatedAt: r.Began}
	if !j.ended.IsZero() {
		row.EndedAt = &j.ended
	}
	j.mu.Unlock()
	if err := j.jobs.store.PutJob(row); err != nil {
		j.jobs.log.Error("a job's row could not be kept", "job", r.ID, "error", err)
	}
}

// list is what pages show: running jobs, and the last few that ended.
func (js *jobs) list() []api.Job {
	js.mu.Lock()
	defer js.mu.Unlock()
	out := []api.Job{}
	for _, j := range js.all {
		j.mu.Lock()
		out = append(out, j.row)
		j.mu.Unlock()
	}
	slices.SortFunc(out, func(a, b api.Job) int { return b.Began.Compare(a.Began) })
	const most = 20
	if len(out) > most {
		for _, old := range out[most:] {
			if old.State != api.Running {
				delete(js.all, old.ID)
			}
		}
		out = out[:most]
	}
	return out
}

// end stops all work for a project and waits for it.
func (js *jobs) end(project int64) {
	js.mu.Lock()
	var running []*job
	for _, j := range js.all {
		if j.row.Project == project && j.running() {
			running = append(running, j)
		}
	}
	js.mu.Unlock()
	for _, j := range running {
		j.cancel()
		<-j.done
	}
}

func (js *jobs) get(id string) (*job, error) {
	js.mu.Lock()
	defer js.mu.Unlock()
	j, ok := js.all[id]
	if !ok {
		return nil, store.ErrNotFound
	}
	return j, nil
}

func (j *job) view() api.Started {
	j.mu.Lock()
	defer j.mu.Unlock()
	return api.Started{Job: j.row}
}

func (a *App) stopJob(c *echo.Context, _ nothing) (api.Started, error) {
	j, err := a.jobs.get(c.Param("id"))
	if err != nil {
		return api.Started{}, err
	}
	j.cancel()
	<-j.done
	return j.view(), nil
}
