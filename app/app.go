// Package app is what can be done: the acts of the job, with plain arguments and plain
// results. It holds the open projects and their snapshots, runs long work, and says on a bus
// what became stale. It knows neither HTTP nor flags; whoever serves it decides how an act is
// asked for, and how a refusal is said.
package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"log/slog"
	"path/filepath"
	"sync"
	"time"

	"boundcrate/app/jobs"
	"boundcrate/app/live"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format"
	"boundcrate/store"
)

// Options is what an application leans on.
type Options struct {
	Store *store.Store
	Demo  bool
	// Service is a transfer service to try sending with; "" for none.
	Service string
	Log     *slog.Logger // nil: nothing is logged
	// Editions is the folder that earlier states of documents are kept in; "" a place in the
	// store's folder.
	Editions string
	// Carriers are what crates are weighed against; nil: the usual ones.
	Carriers []carrier.Limit
	// Version is what this build is called.
	Version string
	// Ask asks a drive's folder whether it is there; nil asks the system.
	Ask func(dir string) (connected bool)
	// Reveal opens a folder in the machine's file manager; nil: the system's own opener does.
	Reveal func(dir string) error
	// Patience is how long whoever asks is kept waiting by work that is mostly quick, before it
	// goes on as a job; 0: as long as people wait.
	Patience time.Duration
}

// App is the application.
type App struct {
	store   *store.Store
	set     format.Set // see formats; nil: to be read anew
	demo    bool
	service string
	version string
	log     *slog.Logger
	hub     *jobs.Hub
	jobs    *jobs.Jobs
	ctx     context.Context
	probes  *probes
	turns   turns // at the drives, of those who read contents
	trials  turns // of those who try something: they do not wait for a file of hours that is read
	live    *live.Watch

	editionsDir string
	carriers    []carrier.Limit
	reveal      func(dir string) error

	notOurs sync.Map // generations (ofProject) that are another project's: they are not read again and again

	start string // a nonce: snapshots of another start are none of ours

	mu           sync.Mutex
	openProjects map[int64]*openProject
}

// New takes up what was interrupted and makes the application. Work it starts ends with ctx.
func New(ctx context.Context, o Options) (*App, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if err := o.Store.Interrupted(time.Now()); err != nil {
		return nil, err
	}
	finished, err := fileset.Recover(o.Store.Journals())
	if err != nil {
		o.Log.Error("an interrupted writing could not be finished", "error", words.Error(err))
	}
	a := &App{store: o.Store, demo: o.Demo, service: o.Service, version: o.Version, log: o.Log, hub: jobs.NewHub(), ctx: ctx, start: rand.Text()[:8], openProjects: map[int64]*openProject{}, probes: newProbes(nil)}
	a.editionsDir, a.carriers = cmp.Or(o.Editions, filepath.Join(o.Store.Dir(), "editions")), o.Carriers
	if a.carriers == nil {
		a.carriers = carrier.Limits
	}
	if a.reveal = o.Reveal; a.reveal == nil {
		a.reveal = revealer
	}
	if o.Ask != nil {
		a.probes.ask = func(dir string) answer { return answer{connected: o.Ask(dir)} }
	}
	a.live = live.New(a.lookSoon, a.hub.Listens)
	a.jobs = jobs.New(ctx, o.Store, a.hub, o.Log, cmp.Or(o.Patience, jobs.Patience))
	if err := errors.Join(a.recovered(finished), a.sweepHeld()); err != nil {
		return nil, err
	}
	a.prune()
	go a.watchDrives(ctx)
	go a.tend(ctx)
	go a.live.Run(ctx)
	return a, nil
}

// prune takes out of the database what nobody can ask for any more, beside all else.
func (a *App) prune() {
	a.jobs.Go(func() {
		if err := a.store.Prune(a.ctx); err != nil && a.ctx.Err() == nil {
			a.log.Error("the database could not be pruned", "error", err)
		}
	})
}

// Wait returns when no work is running any more. Call it once the context of
// New has ended, before the store is closed: a seal takes its unfinished crate
// away on the way out.
func (a *App) Wait() { a.jobs.Wait() }

// Well tells that the application and its database answer.
func (a *App) Well(ctx context.Context) error { return a.store.Ping(ctx) }

// drives are the configured drives as the core sees them.
func (a *App) drives() ([]drive.Drive, error) { return a.store.CoreDrives() }

func (a *App) reach() (drive.Set, error) {
	ds, err := a.drives()
	return drive.Set{Drives: ds}, err
}
