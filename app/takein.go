package app

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/api/places"
	"boundcrate/app/desk"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
	"boundcrate/core/road/trace"
	"boundcrate/store"
)

// TakeIn keeps saves of a project's first document, which somebody numbered by hand, as editions with their dates.
// The files stay where they are.
func (a *App) TakeIn(ctx context.Context, project int64, in keeping.TakeIn) (keeping.TookIn, error) {
	out := keeping.TookIn{Editions: []int{}}
	p, w, s, err := a.traced(project)
	if err != nil {
		return out, err
	}
	known := a.siblings(p)
	for _, path := range in.Paths {
		if !slices.ContainsFunc(known, func(x places.Sibling) bool { return x.Path == path }) {
			return out, store.ErrNotFound
		}
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobKeep, Project: project, Title: "Taking in earlier saves of " + p.Name}, func(ctx context.Context, _ *jobs.Task) (keeping.TookIn, error) {
		o, done, err := a.tracing(ctx, p, w, s)
		if err != nil {
			return out, err
		}
		defer done()
		memory, err := a.store.Memory(nil)
		if err != nil {
			return out, err
		}
		defer memory.Close()
		if _, err := a.keepEdition(ctx, p, w, line.Request{By: line.Hand}, false); err != nil { // what stands is the current one
			return out, err
		}
		as := shown(p.Root, p.Documents[0])
		var saves []line.Save
		for _, path := range in.Paths {
			if path != p.Documents[0] {
				saves = append(saves, line.Save{Path: path, As: as, Material: saveState(ctx, o, path, p.Root, as, memory)})
			}
		}
		now := line.Present{Reach: o.Reach, Drives: o.Drives, Root: p.Root, Given: p.Documents}
		if out.Editions, err = a.kept().TakeIn(ctx, now, saves); out.Editions == nil {
			out.Editions = []int{}
		}
		a.hub.Send(api.Event{Type: api.EventKept, Project: project})
		return out, err
	})
}

// saveState is what a save names, as the document it is a state of; nil where it cannot be traced.
func saveState(ctx context.Context, o trace.Options, path, root, as string, m *store.Memory) *compare.State {
	o.Readings, o.Root = nil, root
	g, err := trace.Run(ctx, o, path)
	if err != nil {
		return nil
	}
	side := compare.Side{Graph: g, Root: root}
	known := desk.KnownBy(m)
	state := side.Keep(func(p string, is drive.Stamp) string {
		if p == path {
			sum, _ := m.Hash(ctx, o.Reach, p)
			return sum
		}
		return known(p, is)
	})
	for i := range state.Documents {
		if d := &state.Documents[i]; d.Root {
			d.Path = filepath.ToSlash(as)
		}
	}
	return state
}
