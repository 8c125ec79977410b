// Package jobs runs long work: a row in the database, progress, a stop; and tells pages what
// happens.
package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/store"
)

// Second is what becomes of a job when one of its kind runs already for the
// same thing.
type Second int

// The ways.
const (
	Refuse Second = iota // in words
	Join                 // it is the same work: the one that runs is the answer
	Again                // it would answer an older question: it ends, and says that it began again
)

// Spec describes long work.
type Spec struct {
	Kind    api.JobKind
	Project int64
	Slot    string // what else makes two of a kind the same
	Title   string
	Unit    string
	Second  Second
	Quiet   bool // pages hear of it, and the log, only when it takes longer than people wait
	Back    bool // nobody waits for it: it gives way to all else
}

// Patience is how long people wait, and quiet work stays unseen.
const Patience = 700 * time.Millisecond

func (s Spec) slot() string { return fmt.Sprintf("%s %d %s", s.Kind, s.Project, s.Slot) }

// Jobs runs long work, one of a kind for each thing.
type Jobs struct {
	ctx   context.Context
	store *store.Store
	hub   *Hub
	log   *slog.Logger
	wg    sync.WaitGroup
	mu    sync.Mutex
	all   map[string]*Task
	// patience is how long quiet work stays unseen.
	patience time.Duration
	waits    atomic.Int64 // how much of what runs somebody waits for
}

// Task is a job that runs, or ran.
type Task struct {
	mu     sync.Mutex
	row    api.Job
	quiet  bool // nobody was told of it yet
	slot   string
	cancel context.CancelCauseFunc
	sent   time.Time
	ended  time.Time
	from   time.Time // when the present step began
	worked int64     // of the work, when it began
	base   int64
	result []byte // JSON
	failed error
	done   chan struct{}
	jobs   *Jobs
}

// New runs work until ctx ends.
func New(ctx context.Context, s *store.Store, h *Hub, log *slog.Logger, patience time.Duration) *Jobs {
	return &Jobs{ctx: ctx, store: s, hub: h, log: log, all: map[string]*Task{}, patience: patience}
}

// ErrOlder is that of work that answers an older question than what stands by now.
var ErrOlder = errors.New("a newer one has overtaken it")

// errAgain ends a job that was begun again.
var errAgain = errors.New("begun again")

// Run begins work and returns at once. What it results in is kept with its row.
// A panic ends the work, and neither the process nor anything else.
func Run[R any](js *Jobs, spec Spec, work func(context.Context, *Task) (result R, message string, err error)) (*Task, error) {
	js.mu.Lock()
	var before *Task
	for _, t := range js.all {
		if t.slot != spec.slot() || !t.running() {
			continue
		}
		switch spec.Second {
		case Join:
			js.mu.Unlock()
			return t, nil
		case Refuse:
			js.mu.Unlock()
			return nil, fault.Say(fault.Conflict, "Already running", "“"+t.title()+"” is still running. Wait until it ends, or stop it first.")
		}
		before = t
		t.cancel(errAgain)
	}
	ctx, cancel := context.WithCancelCause(js.ctx)
	t := &Task{cancel: cancel, jobs: js, quiet: spec.Quiet, slot: spec.slot(), done: make(chan struct{}), from: time.Now(), row: api.Job{
		ID: uuid.NewString(), Project: spec.Project, Kind: spec.Kind, Title: spec.Title, State: api.Running, Unit: spec.Unit, Began: time.Now(),
	}}
	js.all[t.row.ID] = t
	js.mu.Unlock()
	t.keep()
	t.send(true)
	over := func() {}
	if !spec.Back {
		over = js.Waits()
	}
	js.wg.Go(func() {
		defer close(t.done)
		defer over()
		defer cancel(nil)
		if before != nil {
			<-before.done
		}
		result, message, err := guarded(ctx, t, work)
		if err == nil {
			if b, merr := json.Marshal(result); merr == nil {
				t.mu.Lock()
				t.result = b
				t.mu.Unlock()
			}
		} else if context.Cause(ctx) == errAgain {
			message = "Restarted"
		}
		t.finish(message, err)
	})
	return t, nil
}

func guarded[R any](ctx context.Context, t *Task, work func(context.Context, *Task) (R, string, error)) (result R, message string, err error) {
	defer func() {
		if p := recover(); p != nil {
			t.jobs.log.Error("a job panicked", "job", t.row.Title, "panic", p, "stack", string(debug.Stack()))
			err = errPanic
		}
	}()
	return work(ctx, t)
}

var errPanic = errors.New("It went wrong inside. Nothing else is touched; what was being written under a temporary name is taken away or taken up the next time.")

func (t *Task) running() bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.row.State == api.Running
}

// Unseen tells that nobody was told of the work yet.
func (t *Task) Unseen() bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.quiet
}

// show lets quiet work be seen. Of work that ended unseen nothing is kept, and it tells so.
func (t *Task) show() bool {
	t.mu.Lock()
	if t.row.State != api.Running {
		t.mu.Unlock()
		return false
	}
	t.quiet = false
	t.mu.Unlock()
	t.keep()
	t.send(true)
	return true
}

func (t *Task) title() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.row.Title
}

// Unit says what is counted.
func (t *Task) Unit(u string) {
	t.mu.Lock()
	t.row.Unit = u
	t.mu.Unlock()
}

// Step tells how far the work is. Pages hear of it at most four times a second.
func (t *Task) Step(step string, done, total int64) {
	t.Advance(step, Pace{Done: done, Total: total})
}

// Pace is how far work in bytes of several files is.
type Pace struct {
	Done, Total     int64
	Files, Of       int // of the present step; 0: not counted
	Handled, Handle int // how often files were opened, and will be in all
}

// perFile is what a file costs beside its bytes, as bytes: opening, naming and syncing it (by
// trial on a fixed drive; of many small files it is nearly all there is to do).
const perFile = 128 << 10

// Advance is Step for work whose share done, and time left, follow from bytes and files together.
func (t *Task) Advance(step string, p Pace) {
	t.mu.Lock()
	now, done, total := time.Now(), p.Done, p.Total
	work, all := done+perFile*int64(p.Handled), total+perFile*int64(p.Handle)
	if total == 0 {
		all = 0
	}
	if t.row.Step != step {
		t.row.Step, t.from, t.base, t.worked = step, now, done, work
		t.sent = time.Time{}
	}
	t.row.Done, t.row.Total, t.row.Files, t.row.Of = done, total, p.Files, p.Of
	t.row.Rate, t.row.Left, t.row.Share = 0, 0, 0
	if all > 0 {
		t.row.Share = min(1, float64(work)/float64(all))
	}
	if s := now.Sub(t.from).Seconds(); s > 0.2 && work > t.worked {
		t.row.Rate = float64(done-t.base) / s
		if all > work {
			t.row.Left = float64(all-work) * s / float64(work-t.worked)
		}
	}
	t.mu.Unlock()
	t.send(false)
}

func (t *Task) send(always bool) {
	t.mu.Lock()
	if t.quiet && time.Since(t.row.Began) < t.jobs.patience {
		t.mu.Unlock()
		return
	}
	t.quiet = false
	if !always && time.Since(t.sent) < 250*time.Millisecond {
		t.mu.Unlock()
		return
	}
	t.sent = time.Now()
	row := t.row
	t.mu.Unlock()
	t.jobs.hub.Send(api.Event{Type: api.EventJob, Project: row.Project, Job: &row})
}

func (t *Task) finish(message string, err error) {
	t.mu.Lock()
	t.ended, t.failed = time.Now(), err
	t.row.Left = 0
	switch {
	case err == nil:
		t.row.State, t.row.Message = api.Done, message
		if t.row.Total > 0 {
			t.row.Done = t.row.Total
		}
	case errors.Is(err, context.Canceled), errors.Is(err, errAgain), errors.Is(err, ErrOlder):
		t.row.State, t.row.Message = api.Stopped, message
	default:
		t.row.State, t.row.Error = api.Failed, fault.Explain(err).Detail
	}
	unseen := t.quiet && t.row.State != api.Failed
	t.quiet = unseen
	row := t.row
	t.mu.Unlock()
	t.jobs.log.Info("job", "kind", row.Kind, "title", row.Title, "project", row.Project, "state", row.State, "took", time.Since(row.Began).Round(time.Millisecond), "message", row.Message, "error", row.Error)
	if unseen {
		t.jobs.forget(t.row.ID)
		return
	}
	t.keep()
	t.send(true)
}

// keep writes the job's row. That it cannot be kept must not end the work.
func (t *Task) keep() {
	t.mu.Lock()
	if t.quiet {
		t.mu.Unlock()
		return
	}
	r := t.row
	row := store.Job{ID: r.ID, ProjectID: store.OfProject(r.Project), Kind: string(r.Kind), Title: r.Title, State: string(r.State), Step: r.Step, Unit: r.Unit, Done: r.Done, Total: r.Total, Error: r.Error, Message: r.Message, Result: string(t.result), CreatedAt: r.Began.UnixNano()}
	if !t.ended.IsZero() {
		row.EndedAt = t.ended.UnixNano()
	}
	t.mu.Unlock()
	if err := t.jobs.store.PutJob(row); err != nil && !errors.Is(err, store.ErrNotFound) {
		t.jobs.log.Error("a job's row could not be kept", "job", r.ID, "error", err)
	}
}

// List is what pages show: running jobs, and the last that ended, as many as the settings say,
// those of before a restart too.
func (js *Jobs) List() []api.Job {
	js.mu.Lock()
	out := []api.Job{}
	for _, t := range js.all {
		t.mu.Lock()
		if !t.quiet {
			out = append(out, t.row)
		}
		t.mu.Unlock()
	}
	js.mu.Unlock()
	maxJobs, err := js.store.KeptJobs()
	if err != nil {
		js.log.Error("the settings could not be read", "error", err)
	}
	if len(out) < maxJobs {
		old, err := js.store.Jobs(maxJobs)
		if err != nil {
			js.log.Error("the log of jobs could not be read", "error", err)
		}
		for _, r := range old {
			if !slices.ContainsFunc(out, func(j api.Job) bool { return j.ID == r.ID }) && r.State != string(api.Running) {
				out = append(out, api.Job{ID: r.ID, Project: r.Of(), Kind: api.JobKind(r.Kind), Title: r.Title, State: api.JobState(r.State), Step: r.Step, Unit: r.Unit, Done: r.Done, Total: r.Total, Error: r.Error, Ended: r.Error == store.Ended, Message: r.Message, Began: time.Unix(0, r.CreatedAt)})
			}
		}
	}
	slices.SortFunc(out, func(a, b api.Job) int { return b.Began.Compare(a.Began) })
	if len(out) > maxJobs {
		js.mu.Lock()
		for _, old := range out[maxJobs:] {
			if old.State != api.Running {
				delete(js.all, old.ID)
			}
		}
		js.mu.Unlock()
		out = slices.DeleteFunc(out, func(j api.Job) bool { return j.State != api.Running && j.Began.Before(out[maxJobs-1].Began) })
	}
	return out
}

// of are the running tasks of a project.
func (js *Jobs) of(project int64) (list []*Task) {
	js.mu.Lock()
	defer js.mu.Unlock()
	for _, t := range js.all {
		if t.row.Project == project && t.running() {
			list = append(list, t)
		}
	}
	return list
}

// Anything is the title of some work that runs, "" for none.
func (js *Jobs) Anything() string {
	js.mu.Lock()
	defer js.mu.Unlock()
	for _, t := range js.all {
		if t.running() && !t.Unseen() {
			return t.title()
		}
	}
	return ""
}

// Busy tells whether anything runs for a project.
func (js *Jobs) Busy(project int64) bool { return len(js.of(project)) > 0 }

// End stops all work for a project and waits for it.
func (js *Jobs) End(project int64) {
	for _, t := range js.of(project) {
		t.cancel(nil)
		<-t.done
	}
}

func (js *Jobs) forget(id string) {
	js.mu.Lock()
	delete(js.all, id)
	js.mu.Unlock()
}

func (js *Jobs) task(id string) (*Task, error) {
	js.mu.Lock()
	defer js.mu.Unlock()
	t, ok := js.all[id]
	if !ok {
		return nil, store.ErrNotFound
	}
	return t, nil
}

// ResultOf is what a job that ended resulted in, also one of an earlier start.
func ResultOf[R any](js *Jobs, id string) (R, error) {
	var r R
	var said []byte
	if t, err := js.task(id); err == nil {
		t.mu.Lock()
		said = t.result
		t.mu.Unlock()
	} else {
		kept, err := js.store.JobResult(id)
		if err != nil {
			return r, err
		}
		said = []byte(kept)
	}
	if said == nil || json.Unmarshal(said, &r) != nil {
		return r, store.ErrNotFound
	}
	return r, nil
}

// Done is closed when the work has ended.
func (t *Task) Done() <-chan struct{} { return t.done }

// View is how far the work is.
func (t *Task) View() api.Started {
	t.mu.Lock()
	defer t.mu.Unlock()
	return api.Started{Job: t.row}
}

// Stop ends a job, and waits for its end.
func (js *Jobs) Stop(id string) (api.Started, error) {
	t, err := js.task(id)
	if err != nil {
		return api.Started{}, err
	}
	t.cancel(nil)
	<-t.done
	return t.View(), nil
}

// Waits says that somebody waits for something, until over is called.
func (js *Jobs) Waits() (over func()) {
	js.waits.Add(1)
	return func() { js.waits.Add(-1) }
}

const (
	maxYield = time.Second
	yields   = 2 * time.Millisecond
)

// GiveWay lets those go first whom somebody waits for, for a second at the most: who asks again
// and again does not hold work up for good.
func (js *Jobs) GiveWay(ctx context.Context) {
	for began := time.Now(); js.waits.Load() > 0 && time.Since(began) < maxYield && ctx.Err() == nil; {
		time.Sleep(yields)
	}
}

// Go does small work that is no job, beside all else; Wait waits for it, too.
func (js *Jobs) Go(f func()) { js.wg.Go(f) }

// Wait returns when no work is running any more.
func (js *Jobs) Wait() { js.wg.Wait() }

// Patience is how long whoever asks is kept waiting by quiet work.
func (js *Jobs) Patience() time.Duration { return js.patience }
