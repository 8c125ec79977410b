package app

import (
	"context"
	"sync"
	"sync/atomic"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/desk"
	"boundcrate/app/jobs"
	"boundcrate/app/table"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/trace"
	"boundcrate/store"
)

// planned is the plan of one snapshot under one state of the choices.
type planned struct {
	snapshot int
	choices  int64
	plan     *stow.Plan
	options  stow.Options
	recipe   recipe.Recipe
	name     string // of the recipe these choices came from
	loose    *sift.Loose
	twins    *twins
	berths   *table.Table[berthRow]
	said     atomic.Pointer[stow.Texts] // what its documents will say, once somebody asked
	proving  sync.Mutex
	saying   atomic.Pointer[jobs.Task] // computes that
}

// texts is what is known of what the documents will say.
func (pl *planned) texts() *stow.Texts {
	if t := pl.said.Load(); t != nil {
		return t
	}
	return pl.plan.NewTexts()
}

// unplanned is why there is no plan of a snapshot under one state of the choices.
type unplanned struct {
	snapshot int
	choices  int64
	at       time.Time
	err      error
}

// planAgain is how long a failed plan is not tried anew by whoever only looks.
const planAgain = 5 * time.Second

// plannedAlready is the plan, where it is made, or why it cannot be. Else it is begun, and pages
// hear of its end: who only wants to know how a project is does not wait for it.
func (a *App) plannedAlready(p store.Project, w *openProject, s *snapshot) (*planned, error) {
	if pl := w.plan.Load(); pl.fits(w, s) { // what goes along may still be looked for
		return pl, nil
	}
	choices := w.choices.Load()
	if no := w.unplanned.Load(); no != nil && no.snapshot == s.number && no.choices == choices && recent(no.at, planAgain) {
		return nil, no.err
	}
	_, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSay, Project: p.ID, Slot: "plan", Title: "Planning the crate", Quiet: true, Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		said := "Planned"
		_, err := a.planned(ctx, p, w, s)
		if ctx.Err() != nil {
			return api.Nothing{}, "", ctx.Err()
		}
		if err != nil { // whoever asks next is told; a job that failed would make pages ask again and again
			w.unplanned.Store(&unplanned{s.number, choices, time.Now(), err})
			said = "The crate could not be planned"
		}
		a.hub.Send(api.Event{Type: api.EventPlan, Project: p.ID})
		return api.Nothing{}, said, nil
	})
	return nil, err
}

// fits tells whether it is the plan of a snapshot, under the choices that hold now.
func (pl *planned) fits(w *openProject, s *snapshot) bool {
	return pl != nil && pl.snapshot == s.number && pl.choices == w.choices.Load() && pl.twins == w.twins.Load()
}

// planned is the stow plan of the present snapshot and choices. It is made
// outside all locks but the one of planning, so that many wishes at once end in
// the plan of the last.
func (a *App) planned(ctx context.Context, p store.Project, w *openProject, s *snapshot) (*planned, error) {
	l, err := a.loose(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	fits := func(pl *planned) bool { return pl.fits(w, s) && pl.loose == l.Loose }
	if pl := w.plan.Load(); fits(pl) {
		return pl, nil
	}
	w.planning.Lock()
	defer w.planning.Unlock()
	for {
		if pl := w.plan.Load(); fits(pl) {
			return pl, nil
		}
		choices := w.choices.Load()
		fresh, err := a.store.Project(p.ID)
		if err != nil {
			return nil, err
		}
		log, err := a.store.Decisions(p.ID)
		if err != nil {
			return nil, err
		}
		said, err := chosen(fresh)
		if err != nil {
			return nil, err
		}
		to, done, err := a.tracing(ctx, p, w, s)
		if err != nil {
			return nil, err
		}
		t := w.twins.Load()
		of := desk.Of{Graph: s.graph, Judged: s.judged, Trace: to, Recipe: recipeOf(said), Said: log, Aside: s.whyAside(), Loose: l.Loose, Ears: &w.ears, Listen: true}
		if t != nil && t.snapshot == s.number {
			of.Same = t.groups
		}
		if was := w.plan.Load(); was != nil {
			of.First = was.plan.Order()
		}
		plan, o, err := desk.Plan(ctx, of)
		done()
		if err != nil {
			return nil, err
		}
		pl := &planned{snapshot: s.number, choices: choices, plan: plan, options: o, recipe: of.Recipe, name: said.Recipe, loose: l.Loose, twins: t}
		pl.berths = table.New(berthSpec(s), berthRows(pl))
		w.plan.Store(pl)
		if choices == w.choices.Load() {
			return pl, nil
		}
	}
}

// packagePlan is a plan for a destination that is one file in a format's own package, which has a layout
// of its own; what goes along, lists and parts do not go into it.
func (a *App) packagePlan(ctx context.Context, w *openProject, s *snapshot, o trace.Options, pl *planned, out string) (*stow.Plan, recipe.Recipe, error) {
	rec := pl.recipe
	rec.Also, rec.Lists, rec.Parts, rec.Stow.Interchange = nil, nil, 0, nil
	if layout := seal.PackageOf(out).Layout(); layout != "" {
		rec.Stow.Layout = layout
	}
	plan, err := desk.PlanSounds(ctx, desk.Of{Graph: s.graph, Judged: s.judged, Trace: o, Recipe: rec, Aside: s.whyAside(), Ears: &w.ears, Listen: true})
	return plan, rec, err
}

// whyAside are the files that are not there and do not count: they stay in the sheet of the crate.
func (s *snapshot) whyAside() map[string]decide.Why {
	why := make(map[string]decide.Why, len(s.aside))
	for at, set := range s.aside {
		why[at] = set.Why
	}
	return why
}

// withTextsSoon is withTexts, where that takes no longer than people wait. Else it goes on, pages hear of
// its end, and so far the plan's documents are unsaid. It ends when another plan takes its place.
func (a *App) withTextsSoon(ctx context.Context, p store.Project, w *openProject, s *snapshot) (*planned, error) {
	pl, err := a.planned(ctx, p, w, s)
	if err != nil || pl.said.Load() != nil {
		return pl, err
	}
	t := pl.saying.Load()
	if t == nil || t.View().Job.State == api.Stopped {
		t, err = jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSay, Project: p.ID, Title: "Preparing the documents", Quiet: true, Second: jobs.Again}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
			_, err := a.withTexts(ctx, p, w, s)
			if !j.Unseen() {
				a.hub.Send(api.Event{Type: api.EventPlan, Project: p.ID})
			}
			return api.Nothing{}, "Every document was checked", err
		})
		if err != nil {
			return nil, err
		}
		pl.saying.Store(t)
	}
	if !t.Late(ctx) && pl.said.Load() == nil && ctx.Err() == nil {
		return a.withTexts(ctx, p, w, s) // it failed, or was about a plan before
	}
	return pl, ctx.Err()
}

// withTexts is planned, with what every document will say proved.
func (a *App) withTexts(ctx context.Context, p store.Project, w *openProject, s *snapshot) (*planned, error) {
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	pl.proving.Lock()
	defer pl.proving.Unlock()
	o, done, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	defer done()
	if pl.said.Load() == nil {
		texts, err := pl.plan.Texts(ctx, o)
		if err != nil {
			return nil, err
		}
		pl.said.Store(texts)
	}
	return pl, nil
}
