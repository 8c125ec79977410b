package app

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/bring/home"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// HomePlan tells what bringing a project's outside files home would do.
func (a *App) HomePlan(ctx context.Context, project int64) (places.HomePlan, error) {
	_, _, s, err := a.traced(project)
	if err != nil {
		return places.HomePlan{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return places.HomePlan{}, err
	}
	p := home.Make(s.graph, s.judged, reach, home.Usual)
	out := places.HomePlan{Snapshot: s.id, Files: len(p.Moves), Bytes: p.Bytes, Folder: drive.Label(s.drives, s.graph.Root), Moves: []places.HomeMove{}}
	for _, m := range p.Moves[:min(len(p.Moves), maxUses)] {
		out.Moves = append(out.Moves, places.HomeMove{From: drive.Label(s.drives, m.From), To: drive.Label(s.drives, m.To)})
	}
	return out, nil
}

// BringHome copies outside files into the project's folder and makes its
// documents name them there, as a job.
func (a *App) BringHome(ctx context.Context, project int64, in places.BringHome) (api.Started, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobHome, Project: p.ID, Title: "Copying outside files into " + p.Name, Unit: "files"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		done, err := a.home(ctx, p, w, s)
		if err != nil {
			return api.Nothing{}, "", err
		}
		w.came.Store(nil)
		_, err = a.startTrace(p.ID)
		return api.Nothing{}, broughtHome(done), err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// broughtHome says what came of it, what did not too.
func broughtHome(done *home.Done) string {
	said := phrase.Plural(len(done.Moves), "file") + " copied, " + phrase.Plural(len(done.Written), "document") + " changed"
	tell := func(what string, of func(home.Why) bool) {
		list := slices.DeleteFunc(slices.Clone(done.Left), func(l home.Left) bool { return !of(l.Why) })
		if len(list) > 0 {
			said += "; " + what + ": " + phrase.Plural(len(list), "file") + ", the first is " + filepath.Base(list[0].Path)
		}
	}
	tell("not copied", func(w home.Why) bool { return w != home.NotChosen && w != home.Gaps })
	tell("files are missing from", func(w home.Why) bool { return w == home.Gaps })
	if len(done.Problems) > 0 {
		said += "; " + words.OfProblem(done.Problems[0]).String()
	}
	return said
}

func (a *App) home(ctx context.Context, p store.Project, w *openProject, s *snapshot) (*home.Done, error) {
	o, end, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return nil, err
	}
	defer end()
	plan := home.Make(s.graph, s.judged, o.Reach, home.Usual)
	if len(plan.Moves) == 0 {
		return nil, fault.Say(fault.Conflict, "Nothing to copy", "No files of this project are outside its folder, except in libraries.")
	}
	if err := a.keepBefore(ctx, p, w); err != nil {
		return nil, err
	}
	done, err := home.Run(ctx, plan, s.graph, o, a.editions(p), a.store.Journals())
	if err != nil {
		return nil, err
	}
	return done, a.wrote(p, store.WroteHome, done.Written, nil)
}

// outside keeps which outside files came from one snapshot to the next, those that
// bringing home would take.
func (w *openProject) outside(was, is *snapshot) {
	before := map[string]bool{}
	for i := range was.graph.Files {
		if f := &was.graph.Files[i]; f.State == graph.Away {
			before[f.At.String()] = true
		}
	}
	var list []string
	if had := w.came.Load(); had != nil {
		list = *had
	}
	for i := range is.graph.Files {
		f := &is.graph.Files[i]
		if label := drive.Label(is.drives, f.Shown()); f.State == graph.Away && len(f.Refs) > 0 && !before[f.At.String()] && slices.Contains(home.Usual, is.judged.File(is.graph, graph.FileID(i)).Origin) && !slices.Contains(list, label) {
			list = append(slices.Clone(list), label)
		}
	}
	w.came.Store(&list)
}

// AskHome says whether to ask when files come from outside, and forgets those that
// were asked about.
func (a *App) AskHome(ctx context.Context, project int64, in places.AskHome) error {
	p, w, err := a.open(project)
	if err != nil {
		return err
	}
	w.came.Store(nil)
	if err := a.store.SetAskHome(p.ID, in.Ask); err != nil {
		return err
	}
	a.hub.Send(api.Event{Type: api.EventProject, Project: p.ID, By: jobs.PageOf(ctx)})
	return nil
}
