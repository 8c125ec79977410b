package app

import (
	"context"
	"fmt"
	"path"
	"slices"

	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// Decisions is everything that was said of a project, newest first.
func (a *App) Decisions(ctx context.Context, project int64) (mending.Decisions, error) {
	p, w, err := a.open(project)
	if err != nil {
		return mending.Decisions{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return mending.Decisions{}, err
	}
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return mending.Decisions{}, err
	}
	lost := map[int64]bool{}
	if s := w.now.Load(); s != nil && s.graph != nil {
		for _, d := range log.Lost(s.graph, drives) {
			lost[d.ID] = true
		}
	}
	out := mending.Decisions{List: []mending.Decision{}, All: len(log), CanUndo: len(log.Undo()) > 0, CanRedo: len(log.Redo()) > 0}
	for i := max(0, len(log)-maxDecisions); i < len(log); i++ {
		d := &log[i]
		out.List = append(out.List, mending.Decision{ID: d.ID, Batch: d.Batch, Kind: d.Kind, Say: decisionSays(d, drives), At: d.At, Undone: d.Undone, Lost: lost[d.ID]})
	}
	slices.Reverse(out.List)
	return out, nil
}

// maxDecisions is how many of them, the newest, are told.
const maxDecisions = 300

func decisionSays(d *decide.Decision, drives []drive.Drive) string {
	at := func(p drive.Path) string {
		abs, ok := drive.Abs(drives, p)
		if !ok {
			return p.Path
		}
		return label(drives, abs)
	}
	switch d.Kind {
	case decide.Mend:
		return at(d.From) + " is " + at(d.To)
	case decide.Move:
		return "all files of " + at(d.From) + " moved to " + at(d.To)
	case decide.Leave:
		return at(d.File) + " stays"
	case decide.Carry:
		return at(d.File) + " travels"
	case decide.Aside:
		return at(d.From) + " set aside: " + words.Aside(decide.Why(*d.Name))
	case decide.Meant:
		return at(d.File) + " confirmed as the right file"
	}
	s := at(d.File)
	if d.Folder == nil && d.Name == nil {
		return s + " back to its planned place"
	}
	if d.Name != nil {
		s += fmt.Sprintf(" renamed to %s", *d.Name)
	}
	if d.Folder != nil {
		s += fmt.Sprintf(" moved to %s", path.Join("data", *d.Folder))
	}
	return s
}

// Undo takes the last act back.
func (a *App) Undo(ctx context.Context, project int64) error {
	return a.again(ctx, project, true, decide.Log.Undo)
}

// Redo does again what was taken back last.
func (a *App) Redo(ctx context.Context, project int64) error {
	return a.again(ctx, project, false, decide.Log.Redo)
}

func (a *App) again(ctx context.Context, project int64, undo bool, which func(decide.Log) []int64) error {
	p, _, err := a.open(project)
	if err != nil {
		return err
	}
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return err
	}
	ids := which(log)
	if len(ids) == 0 {
		return fault.Say(fault.Conflict, "Nothing to undo", "There is nothing to undo or redo.")
	}
	// Where files go is the plan's affair: nothing is traced for it.
	of := make(map[int64]bool, len(ids))
	for _, id := range ids {
		of[id] = true
	}
	if slices.ContainsFunc(leading(log), func(d decide.Decision) bool { return of[d.ID] }) {
		return a.decided(p.ID, a.store.SetUndone(p.ID, ids, undo))
	}
	if err := a.store.SetUndone(p.ID, ids, undo); err != nil {
		return err
	}
	a.replan(ctx, p.ID, a.openProject(p.ID))
	return nil
}

// Wish says where files go in the crate, under which name, or whether they go
// at all.
func (a *App) Wish(ctx context.Context, project int64, in packing.Wish) error {
	p, w, s, err := a.traced(project)
	if err != nil {
		return err
	}
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return err
	}
	keys, err := rowsChosen(berthsLedger(pl), s, in.Keys, in.Rows)
	if err != nil {
		return err
	}
	if len(keys) == 0 || len(keys) > 1 && in.Name != nil {
		return fault.Say(fault.Wrong, "One file only", "A name can be given to one file only.")
	}
	list := make([]decide.Decision, 0, len(keys))
	for _, key := range keys {
		row, ok := pl.berths.Row(key)
		if !ok {
			return store.ErrNotFound
		}
		b := &pl.plan.Berths[row.berth]
		if b.Apart() {
			return fault.Say(fault.Conflict, "Follows its sound", "“"+b.Name+"” is made from “"+b.Was+"” and stays beside it. Change that file instead, or change the channel option.")
		}
		d := decide.Decision{Kind: decide.Wish, At: now()}
		was := pl.options.Hand[b.Source]
		if b.File == graph.None {
			d.File = drive.At(s.drives, b.Source)
		} else {
			d.File, d.By = decide.On(s.graph, b.File, s.drives)
			was = pl.options.ByHand[b.File]
		}
		switch {
		case in.Reset:
			list = append(list, d) // a wish for nothing
			if was.Stays || was.Travels {
				d.Kind = decide.Carry
				list = append(list, d)
			}
		case in.Stays != nil:
			if d.Kind = decide.Carry; *in.Stays {
				d.Kind = decide.Leave
			}
			list = append(list, d)
		default:
			d.Folder, d.Name = was.Folder, was.Name // what was wished before goes on
			if in.Folder != nil {
				d.Folder = in.Folder
			}
			if in.Name != nil {
				d.Name = in.Name
			}
			list = append(list, d)
		}
	}
	if err := a.store.Decide(p.ID, list...); err != nil {
		return err
	}
	a.replan(ctx, p.ID, w)
	return nil
}
