package app

import (
	"context"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/problem"
	"boundcrate/store"
)

// listen hears the sounds of which a plan does not know yet whether they are whole and how
// loud they become, which takes as long as making them: it is a job of its own.
func (a *App) listen(p store.Project, w *openProject, plan *stow.Plan) {
	if len(plan.Unheard) == 0 {
		return
	}
	// One is under way already, or the page is told by the next ask.
	_, _ = jobs.Run(a.jobs, jobs.Spec{Kind: api.JobListen, Project: p.ID, Title: "Checking sounds", Unit: "files", Quiet: true}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		n, err := a.listenToSounds(ctx, p, w, plan, j)
		return api.Nothing{}, phrase.Plural(n, "sound") + " heard", err
	})
}

// listenToSounds listens to what a plan has not heard; what that tells is planned anew. It ends early
// when the choices change, for which other sounds would be made.
func (a *App) listenToSounds(ctx context.Context, p store.Project, w *openProject, plan *stow.Plan, j *jobs.Task) (int, error) {
	reach, err := a.reach()
	if err != nil {
		return 0, err
	}
	choices, heard := w.choices.Load(), 0
	within, enough := context.WithCancel(ctx)
	defer enough()
	err = w.ears.Hear(within, reach, plan.Unheard, func(done int) {
		heard = done
		j.Step("damage, loudness", int64(done), int64(len(plan.Unheard)))
		if w.choices.Load() != choices {
			enough()
		}
	})
	if ctx.Err() != nil {
		return heard, ctx.Err()
	}
	a.replan(ctx, p.ID, w)
	if within.Err() != nil {
		err = nil
	}
	return heard, err
}

// soundTroubles are what was found by listening.
func soundTroubles(plan *stow.Plan) (n int) {
	for _, p := range plan.Problems {
		if p.Kind == problem.BrokenSound || p.Kind == problem.Clipped || p.Kind == problem.NoNumbers {
			n++
		}
	}
	return n
}

// listenToAll listens to what was not heard yet. What it finds is told before anything is
// sealed: somebody who did not see it shall look first.
func (a *App) listenToAll(ctx context.Context, p store.Project, w *openProject, s *snapshot, j *jobs.Task) error {
	pl, err := a.planned(ctx, p, w, s)
	if err != nil || len(pl.plan.Unheard) == 0 {
		return err
	}
	known := soundTroubles(pl.plan)
	for len(pl.plan.Unheard) > 0 { // others may plan anew meanwhile
		if _, err := a.listenToSounds(ctx, p, w, pl.plan, j); err != nil {
			return err
		}
		if pl, err = a.planned(ctx, p, w, s); err != nil {
			return err
		}
	}
	if n := soundTroubles(pl.plan) - known; n > 0 {
		return fault.Say(fault.Conflict, "Check the sounds first", phrase.Plural(n, "sound")+" to be converted may be damaged or clipped. Nothing was sealed. See Stow, then seal again.")
	}
	return nil
}
