package app

import (
	"context"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/trace"
	"boundcrate/store"
)

// traceOptions is how a project is traced.
func (a *App) traceOptions(ctx context.Context, p store.Project, w *openProject, log decide.Log, memory *store.Memory) (trace.Options, drive.Set, error) {
	reach, err := a.reach()
	if err != nil {
		return trace.Options{}, reach, err
	}
	var search []string
	for _, f := range p.Search {
		if abs, ok := drive.Abs(reach.Drives, f); ok {
			search = append(search, abs)
		}
	}
	return trace.Options{
		Formats: a.formats(), Reach: reach, Drives: reach.Drives, Root: p.Root, Repairs: log.Repairs(reach.Drives), Search: search,
		Doubt: memory.Doubt(ctx, reach), Known: memory.Known, Readings: &w.readings,
	}, reach, nil
}

// tracing is traceOptions for whoever needs the memory for nothing else; done lets
// it go.
func (a *App) tracing(ctx context.Context, p store.Project, w *openProject, s *snapshot) (o trace.Options, done func(), err error) {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return o, nil, err
	}
	o, _, err = a.traceOptions(ctx, p, w, s.log, memory)
	if err != nil {
		memory.Close()
		return o, nil, err
	}
	return o, func() { memory.Close() }, nil
}

// asking is what whoever traces a project beside its snapshot needs.
type asking struct {
	trace.Options
	reach  drive.Set
	memory *store.Memory
}

// ask opens it, by the decisions as they are now. It must be closed.
func (a *App) ask(ctx context.Context, p store.Project, w *openProject) (q asking, err error) {
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return q, err
	}
	if q.memory, err = a.store.Memory(nil); err != nil {
		return q, err
	}
	if q.Options, q.reach, err = a.traceOptions(ctx, p, w, log, q.memory); err != nil {
		q.memory.Close()
	}
	return q, err
}

func (q *asking) close() { q.memory.Close() }
