package app

import (
	"context"
	"errors"

	"boundcrate/app/api"
	"boundcrate/app/api/ruling"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/rules"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// Habits are those in force, as YAML.
func (a *App) Habits(ctx context.Context) (ruling.Habits, error) {
	text, own, err := a.store.HabitsText()
	return ruling.Habits{Text: text, Own: own, Shipped: string(origin.Shipped())}, err
}

// SetHabits keeps the user's own habits, and judges open projects anew.
func (a *App) SetHabits(ctx context.Context, in ruling.SetHabits) (ruling.Habits, error) {
	if in.Text != "" {
		if _, err := origin.ParseHabits([]byte(in.Text)); err != nil {
			return ruling.Habits{}, fault.Say(fault.Unfit, "Not saved", "These habits have errors: "+phrase.Sentence(err.Error()))
		}
	}
	if err := a.store.SetHabits(in.Text); err != nil {
		return ruling.Habits{}, err
	}
	a.drivesChanged()
	return a.Habits(ctx)
}

// TryHabits tells what habits would say of a project, and keeps nothing.
func (a *App) TryHabits(ctx context.Context, in ruling.SetHabits) (ruling.HabitsTried, error) {
	out := ruling.HabitsTried{Problems: []rules.Mistake{}, Rebuildable: []string{}, Dumps: []string{}, Companions: []api.Apart{}}
	h, err := origin.ParseHabits([]byte(in.Text))
	if err != nil {
		m := rules.Mistake{Message: err.Error()}
		var at *origin.HabitsError
		if errors.As(err, &at) {
			m.Line = at.Line
		}
		out.Problems = append(out.Problems, m)
		return out, nil
	}
	if in.Project == 0 {
		return out, nil
	}
	p, err := a.store.Project(in.Project)
	if err != nil {
		return out, err
	}
	return tried(ctx, a, "Testing habits on "+p.Name, p.ID, p.Documents[0], func(ctx context.Context) (ruling.HabitsTried, error) {
		return out, a.judgedBy(ctx, p, h, &out)
	})
}

// judgedBy tells what some habits say of a project.
func (a *App) judgedBy(ctx context.Context, p store.Project, h origin.Habits, out *ruling.HabitsTried) error {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return err
	}
	defer memory.Close()
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return err
	}
	w := a.openProject(p.ID)
	o, reach, err := a.traceOptions(ctx, p, w, log, memory)
	if err != nil {
		return err
	}
	g, err := trace.Run(ctx, o, p.Documents...)
	if err != nil {
		return fault.Say(fault.Unfit, "Could not be read", words.Error(err))
	}
	around := a.surroundings(p, reach.Drives, reach)
	around.Habits = &h
	judged := origin.Judge(g, around)
	out.Project = p.Name
	for i := range g.Files {
		f, is := &g.Files[i], judged.File(g, graph.FileID(i))
		if is.Class == graph.Rebuildable && len(out.Rebuildable) < maxUses {
			out.Rebuildable = append(out.Rebuildable, drive.Label(reach.Drives, f.Shown()))
		}
		if is.Origin == graph.OfDump && len(out.Dumps) < maxUses {
			out.Dumps = append(out.Dumps, drive.Label(reach.Drives, f.Shown()))
		}
	}
	s := &snapshot{drives: reach.Drives}
	for _, comp := range judged.Companions[:min(len(judged.Companions), maxUses)] {
		out.Companions = append(out.Companions, s.companion(comp))
	}
	return nil
}
