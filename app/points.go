package app

import (
	"cmp"
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// Points are the write points of a project, those that lead out of it first.
func (a *App) Points(ctx context.Context, project int64) (places.Points, error) {
	_, _, s, err := a.traced(project)
	if err != nil {
		return places.Points{}, err
	}
	g := s.graph
	out := places.Points{Snapshot: s.id, Root: g.Root, RootName: drive.Label(s.drives, g.Root), List: []places.PointRow{}}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		row := places.PointRow{Nr: i, Document: drive.Label(s.drives, g.Where(w.Doc, w.Text)), Owner: w.Owner, Written: w.Written, Label: drive.Label(s.drives, w.Path), Use: w.Use, Flags: append([]graph.Flag{}, s.judged.FlagsOf(i)...)}
		for _, f := range s.judged.FlagsOf(i) {
			if row.Says != "" {
				row.Says += " "
			}
			row.Says += flagSays[f]
		}
		if !g.Owns(&g.Documents[w.Doc]) {
			row.Fixed = "Its document belongs to another project. Change it there."
		}
		out.List = append(out.List, row)
	}
	slices.SortStableFunc(out.List, func(x, y places.PointRow) int { return cmp.Compare(danger(y.Flags), danger(x.Flags)) })
	return out, nil
}

// danger orders write points: those that lead out, then those that lie
// otherwise than meant.
func danger(flags []graph.Flag) int {
	switch {
	case slices.Contains(flags, graph.Outside):
		return 2
	case len(flags) > 0:
		return 1
	}
	return 0
}

// SetPoints makes write points lead to a folder, or tells what that would change.
func (a *App) SetPoints(ctx context.Context, project int64, in places.SetPoints) (places.Aimed, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return places.Aimed{}, err
	}
	g := s.graph
	folder := g.Root
	reach, err := a.reach()
	if err != nil {
		return places.Aimed{}, err
	}
	if in.Folder != "" {
		folder = filepath.Clean(in.Folder)
		info, err := reach.Stat(folder)
		if err != nil {
			return places.Aimed{}, err
		}
		if !info.Mode.IsDir() {
			return places.Aimed{}, fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(s.drives, folder)+"’ is a file.")
		}
	}
	to := map[int]string{}
	var docs []string
	for _, k := range in.Points {
		if k < 0 || k >= len(g.WritePoints) {
			return places.Aimed{}, store.ErrNotFound
		}
		to[k] = writing.AimAt(&g.WritePoints[k], folder)
		docs = append(docs, g.Documents[g.WritePoints[k].Doc].Path)
	}
	if err := within(reach, g, docs); err != nil {
		return places.Aimed{}, err
	}
	if in.Try {
		return tried(ctx, a, "Previewing write points of "+p.Name, p.ID, p.Documents[0], func(ctx context.Context) (places.Aimed, error) {
			return a.aim(ctx, p, w, s, to, true)
		})
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobWrite, Project: p.ID, Title: "Changing write points of " + p.Name}, func(ctx context.Context, _ *jobs.Task) (places.Aimed, error) {
		return a.aim(ctx, p, w, s, to, false)
	})
}

// aim makes write points, by their numbers, lead to folders, or with try tells which lines would
// change.
func (a *App) aim(ctx context.Context, p store.Project, w *openProject, s *snapshot, to map[int]string, try bool) (places.Aimed, error) {
	g := s.graph
	o, done, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return places.Aimed{}, err
	}
	defer done()
	out := places.Aimed{Lines: []places.AimLine{}, Written: []writing.Written{}}
	var lines []writing.Line
	var result *writing.Outcome
	if try {
		lines, result, err = writing.AimLines(g, o, to)
	} else if err = a.keepBefore(ctx, p, w); err == nil {
		result, err = writing.Aim(g, o, to, a.editions(p), a.store.Journals())
	}
	if err != nil {
		return out, fault.Say(fault.Conflict, "Not written", words.Error(err))
	}
	out.Lines = linesView(s.drives, lines)
	out.Written, out.Problems = append(out.Written, result.Written...), words.Problems(result.Problems)
	if try || len(result.Written) == 0 {
		return out, nil
	}
	if err := a.wrote(p, store.WrotePoints, result.Written, nil); err != nil {
		return out, err
	}
	_, err = a.startTrace(p.ID)
	return out, err
}

func linesView(drives []drive.Drive, lines []writing.Line) []places.AimLine {
	list := make([]places.AimLine, len(lines))
	for i, l := range lines {
		list[i] = places.AimLine{Document: drive.Label(drives, l.Document), Line: l.Number, Was: l.Was, Becomes: l.Becomes}
	}
	return list
}
