package app

import (
	"context"
	"sync/atomic"

	"boundcrate/app/table"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
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
}

// texts is what is known of what the documents will say.
func (pl *planned) texts() *stow.Texts {
	if t := pl.said.Load(); t != nil {
		return t
	}
	return pl.plan.Unsaid()
}

// planned is the stow plan of the present snapshot and choices. It is made
// outside all locks but the one of planning, so that many wishes at once end in
// the plan of the last.
func (a *App) planned(ctx context.Context, p store.Project, w *work, s *snapshot) (*planned, error) {
	l, err := a.loose(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	fits := func(pl *planned) bool {
		return pl != nil && pl.snapshot == s.number && pl.choices == w.choices.Load() && pl.loose == l.Loose && pl.twins == w.twins.Load()
	}
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
		rec := recipeOf(said)
		o := rec.Stow
		o.Drives, o.Judged, o.ByHand, o.Hand = s.drives, s.judged, log.Of(s.graph, s.drives), log.Paths(s.drives)
		o.Also = l.Chosen(rec.Also, byPath(o.Hand))
		if len(o.Also) > 0 {
			to, done, err := a.tracing(ctx, p, w, s)
			if err != nil {
				return nil, err
			}
			o.Asides, err = sift.Asides(ctx, to, o.Also)
			done()
			if err != nil {
				return nil, err
			}
		}
		reach, err := a.reach()
		if err != nil {
			return nil, err
		}
		o.Sounds, o.Listen, o.Revisions = w.ears.Sounds(reach), w.ears.Listen(reach), s.judged.RevisionsOf()
		t := w.twins.Load()
		if t != nil && t.snapshot == s.number {
			o.Same = t.groups
		}
		if was := w.plan.Load(); was != nil {
			o.First = was.plan.Order()
		}
		o.SetAside = map[string]decide.Why{} // it stays in the sheet of the crate
		for at, set := range s.aside {
			o.SetAside[at] = set.Why
		}
		plan, err := stow.Make(ctx, s.graph, o)
		if err != nil {
			return nil, err
		}
		pl := &planned{snapshot: s.number, choices: choices, plan: plan, options: o, recipe: rec, name: said.Recipe, loose: l.Loose, twins: t}
		pl.berths = table.New(berthSpec(s), berthRows(pl))
		w.plan.Store(pl)
		if choices == w.choices.Load() {
			return pl, nil
		}
	}
}

// said is planned, with what every document will say proved.
func (a *App) said(ctx context.Context, p store.Project, w *work, s *snapshot) (*planned, error) {
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	w.planning.Lock()
	defer w.planning.Unlock()
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
