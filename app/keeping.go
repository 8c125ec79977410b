package app

import (
	"context"
	"encoding/json"
	"errors"
	"path/filepath"
	"slices"
	"strconv"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// kept is the store of editions.
func (a *App) kept() *line.Store { return line.Open(a.editionsDir) }

// usualKeep is what is kept by itself of a project of which nobody said anything.
var usualKeep = keeping.KeepSettings{Every: 10, AllDays: 1, Hourly: 7, Daily: 365, Quiet: 30, Keep: 10}

func keepSetting(project int64) string { return "keep:" + strconv.FormatInt(project, 10) }

// keepSettings are those of a project.
func (a *App) keepSettings(project int64) (keeping.KeepSettings, error) {
	out := usualKeep
	text, err := a.store.Setting(keepSetting(project))
	if err == nil && text != "" {
		err = json.Unmarshal([]byte(text), &out)
	}
	return out, err
}

// SetKeep changes what is kept by itself of a project.
func (a *App) SetKeep(ctx context.Context, project int64, in keeping.KeepSettings) (keeping.KeepSettings, error) {
	if _, err := a.store.Project(project); err != nil {
		return in, err
	}
	for _, n := range []int{in.Every, in.AllDays, in.Hourly, in.Daily, in.Quiet, in.Keep} {
		if n < 0 || n > 100_000 {
			return in, fault.Say(fault.Wrong, "Out of range", "Numbers of minutes, days and generations are between 0 and 100,000.")
		}
	}
	if in.BackupTo != "" {
		if _, _, err := a.place(filepath.Join(in.BackupTo, "x")); err != nil {
			return in, err
		}
	}
	text, err := json.Marshal(in)
	if err != nil {
		return in, err
	}
	return in, a.store.SetSetting(keepSetting(project), string(text))
}

func ages(s keeping.KeepSettings) line.Ages {
	const day = 24 * time.Hour
	return line.Ages{All: time.Duration(s.AllDays) * day, Hourly: time.Duration(s.Hourly) * day, Daily: time.Duration(s.Daily) * day}
}

// Kept is all that is kept of a project. It needs no document that can be read.
func (a *App) Kept(ctx context.Context, project int64) (keeping.Keep, error) {
	out := keeping.Keep{Editions: []keeping.Edition{}, Differs: []keeping.Difference{}, Dir: a.editionsDir}
	p, w, err := a.open(project)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	if out.Settings, err = a.keepSettings(project); err != nil {
		return out, err
	}
	if why := w.waits.Load(); why != nil {
		out.Waits = *why
	}
	if out.Backups, err = a.backupsOf(p, out.Settings, reach); err != nil {
		return out, err
	}
	l, err := a.kept().Find(p.Documents, reach.Drives)
	if errors.Is(err, line.ErrNone) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	sent, err := a.Crates(ctx, project)
	if err != nil {
		return out, err
	}
	out.Damaged = l.Damaged
	if err := l.See(ctx, reach, p.Root); err == nil {
		out.Current = l.Current
	}
	out.Current = l.Current
	for i := range l.Editions {
		e := &l.Editions[i]
		row := keeping.Edition{ID: e.ID, From: e.From, By: e.By, At: e.At, Note: e.Note, Since: e.Since, Documents: []keeping.EditionDocument{}, Outside: len(e.Outside), Files: e.Material.Files, Bytes: e.Material.Bytes, Sealed: []keeping.SealedFrom{}}
		row.Line, _ = strconv.Atoi(e.Line)
		for _, d := range e.Documents {
			row.Documents = append(row.Documents, keeping.EditionDocument{Path: d.Path, Bytes: d.Bytes, Modified: d.Modified})
		}
		for _, x := range e.Sealed {
			from := keeping.SealedFrom{Label: drive.Label(reach.Drives, x.Crate), Sent: []string{}}
			for _, s := range sent.Sent {
				if s.Path == x.Crate && s.Receipt != "" && !slices.Contains(from.Sent, s.For) {
					from.Sent = append(from.Sent, s.For)
				}
			}
			row.Sealed = append(row.Sealed, from)
		}
		out.Editions = append(out.Editions, row)
	}
	out.Differs, err = a.differs(ctx, l, p, w, reach)
	return out, err
}

// differs are the documents that are not as the current edition has them.
func (a *App) differs(ctx context.Context, l *line.Line, p store.Project, w *openProject, reach drive.Set) ([]keeping.Difference, error) {
	list := []keeping.Difference{}
	e, ok := l.Edition(l.Current)
	if !ok {
		return list, nil
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return list, err
	}
	defer memory.Close()
	broken := map[string]bool{}
	if s := w.now.Load(); s != nil && s.graph != nil {
		for i := range s.graph.Problems {
			if x := &s.graph.Problems[i]; x.Code() == "malformed" {
				broken[x.Path] = true
			}
		}
	} else if s != nil {
		for _, d := range p.Documents {
			broken[d] = true
		}
	}
	for _, d := range e.Documents {
		at := filepath.Join(p.Root, filepath.FromSlash(d.Path))
		how := keeping.How("")
		if _, err := reach.Stat(at); err != nil {
			how = keeping.Gone
		} else if sum, err := memory.Hash(ctx, reach, at); err != nil || sum != d.SHA256 {
			how = keeping.Changed
			if broken[at] {
				how = keeping.Broken
			}
		}
		if how != "" {
			list = append(list, keeping.Difference{Path: d.Path, How: how})
		}
	}
	return list, ctx.Err()
}

// keepEdition keeps the present state of a project. Where its documents cannot be traced they are kept as they are.
func (a *App) keepEdition(ctx context.Context, p store.Project, w *openProject, r line.Request, whole bool) (*line.Kept, error) {
	q, err := a.ask(ctx, p, w)
	if err != nil {
		return nil, err
	}
	defer q.close()
	now, err := desk.PresentOf(ctx, p.Documents, p.Root, q.Options, q.memory)
	if ctx.Err() != nil || err != nil && whole {
		return nil, err
	}
	now.Root, now.Given = p.Root, p.Documents
	if _, err := q.reach.Stat(p.Root); err != nil {
		return nil, err
	}
	r.Now = time.Now()
	kept, err := a.kept().Keep(ctx, now, r)
	if err == nil && !kept.Unchanged {
		a.hub.Send(api.Event{Type: api.EventKept, Project: p.ID})
	}
	return kept, err
}

// KeepNow keeps an edition as a person asks.
func (a *App) KeepNow(ctx context.Context, project int64, in keeping.KeepNow) (keeping.KeptNow, error) {
	p, w, err := a.open(project)
	if err != nil {
		return keeping.KeptNow{}, err
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobKeep, Project: project, Title: "Keeping an edition of " + p.Name}, func(ctx context.Context, _ *jobs.Task) (keeping.KeptNow, error) {
		kept, err := a.keepEdition(ctx, p, w, line.Request{By: line.Hand, Note: in.Note, Alternative: in.Alternative}, true)
		if err != nil {
			return keeping.KeptNow{}, fault.Say(fault.Conflict, "Not kept", words.Error(err))
		}
		return keeping.KeptNow{ID: kept.Edition.ID, Unchanged: kept.Unchanged}, nil
	})
}

// SetNote gives an edition another note.
func (a *App) SetNote(ctx context.Context, project int64, in keeping.SetNote) error {
	p, _, err := a.open(project)
	if err != nil {
		return err
	}
	drives, err := a.drives()
	if err != nil {
		return err
	}
	l, err := a.kept().Find(p.Documents, drives)
	if errors.Is(err, line.ErrNone) {
		return store.ErrNotFound
	}
	if err == nil {
		err = a.kept().Note(ctx, l, in.Edition, in.Note)
	}
	var none *line.NoEditionError
	if errors.As(err, &none) {
		return store.ErrNotFound
	}
	return err
}

// keepBefore keeps the state before something is written; that this fails ends the writing.
func (a *App) keepBefore(ctx context.Context, p store.Project, w *openProject) error {
	_, err := a.keptBefore(ctx, p, w)
	return err
}

// keptBefore is keepBefore for whoever needs to know what is kept now.
func (a *App) keptBefore(ctx context.Context, p store.Project, w *openProject) (*line.Kept, error) {
	kept, err := a.keepEdition(ctx, p, w, line.Request{By: line.BeforeWriting}, false)
	if err != nil && ctx.Err() == nil {
		return nil, fault.Say(fault.Conflict, "Not written", "The present state could not be kept first: "+words.Error(err))
	}
	return kept, err
}

// Restore restores an edition of a project, or some documents of it; the present state is kept first.
func (a *App) Restore(ctx context.Context, project int64, in keeping.Restore) (keeping.RestoredNow, error) {
	out := keeping.RestoredNow{Written: []string{}, Outside: []string{}, Beside: []string{}}
	p, w, err := a.open(project)
	if err != nil {
		return out, err
	}
	if in.Into != "" {
		if in.Into, _, err = a.place(in.Into); err != nil {
			return out, err
		}
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobRestore, Project: project, Title: "Restoring edition " + strconv.Itoa(in.Edition) + " of " + p.Name}, func(ctx context.Context, _ *jobs.Task) (keeping.RestoredNow, error) {
		q, err := a.ask(ctx, p, w)
		if err != nil {
			return out, err
		}
		defer q.close()
		reach := q.reach
		if err := a.writeable(reach, p.Root); err != nil {
			return out, err
		}
		now, _ := desk.PresentOf(ctx, p.Documents, p.Root, q.Options, q.memory) // what cannot be traced is kept as it is
		now.Reach, now.Drives, now.Root, now.Given = reach, reach.Drives, p.Root, p.Documents
		r := line.Restoring{Present: now, Edition: in.Edition, Into: in.Into, Journals: a.store.Journals(), Now: time.Now()}
		if len(in.Only) > 0 {
			r.Only = in.Only
		}
		done, err := a.kept().Restore(ctx, r)
		if err != nil {
			return out, fault.Say(fault.Conflict, "Not restored", words.Error(err))
		}
		if done.Kept != nil {
			out.Kept = done.Kept.ID
		}
		for _, at := range done.Written {
			out.Written = append(out.Written, drive.Label(reach.Drives, at))
		}
		for _, at := range done.Outside {
			out.Outside = append(out.Outside, drive.Label(reach.Drives, at))
		}
		if in.Into == "" {
			_, err = a.startTrace(project)
		}
		return out, err
	})
}

// writeable refuses a project whose folder lies, through links, outside the drives.
func (a *App) writeable(reach drive.Set, root string) error {
	_, _, err := a.place(filepath.Join(root, "x"))
	return err
}

// maxBetween bounds how many files of each kind of difference between editions are told.
const maxBetween = 200

// CompareEditions tells what came, went and changed between two editions, or one and what is there now.
func (a *App) CompareEditions(ctx context.Context, project int64, q keeping.AskEditions) (keeping.EditionsCompared, error) {
	out := keeping.EditionsCompared{}
	p, w, err := a.open(project)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	l, err := a.kept().Find(p.Documents, reach.Drives)
	if errors.Is(err, line.ErrNone) {
		return out, store.ErrNotFound
	}
	if err != nil {
		return out, err
	}
	res, err := a.comparedEditions(ctx, p, w, reach, l, q)
	if err != nil {
		return out, err
	}
	out.Came, out.Went, out.Changed = len(res.Came), len(res.Went), len(res.Changed)
	res.Came, res.Went, res.Changed = res.Came[:min(out.Came, maxBetween)], res.Went[:min(out.Went, maxBetween)], res.Changed[:min(out.Changed, maxBetween)]
	out.Result = *res
	return out, nil
}

// comparedEditions compares two editions, or one and what is there now.
func (a *App) comparedEditions(ctx context.Context, p store.Project, w *openProject, reach drive.Set, l *line.Line, q keeping.AskEditions) (*compare.Comparison, error) {
	var editions [2]*line.Edition
	for i, id := range []int{q.A, q.B} {
		e, ok := l.Edition(id)
		if !ok && id != 0 {
			return nil, store.ErrNotFound
		}
		editions[i] = e
	}
	listless := func(id int) error {
		return fault.Say(fault.Conflict, "Cannot be compared", "Edition "+strconv.Itoa(id)+" was kept without its list of files: its documents could not be read then, or the store is damaged.")
	}
	if q.A != 0 && q.B != 0 {
		res, err := a.kept().Compare(ctx, editions[0], editions[1])
		if err != nil && ctx.Err() == nil {
			for i, id := range []int{q.A, q.B} {
				if _, err := a.kept().State(ctx, editions[i]); err != nil {
					return nil, listless(id)
				}
			}
		}
		return res, err
	}
	var sides [2]compare.Side
	for i, id := range []int{q.A, q.B} {
		if id == 0 {
			now, err := a.presentSide(ctx, p, w, reach)
			if err != nil {
				return nil, err
			}
			sides[i] = now
			continue
		}
		state, err := a.kept().State(ctx, editions[i])
		if err != nil {
			return nil, listless(id)
		}
		sides[i] = compare.Side{Kept: state}
	}
	return compare.Of(ctx, sides[0], sides[1])
}

// presentSide is what is there now as one of two that are compared: nothing is read that nobody read before.
func (a *App) presentSide(ctx context.Context, p store.Project, w *openProject, reach drive.Set) (compare.Side, error) {
	_, _, s, err := a.traced(p.ID)
	if err != nil {
		return compare.Side{}, err
	}
	if s.graph == nil {
		return compare.Side{}, fault.Say(fault.Conflict, "Cannot be compared", "The documents cannot be read now.")
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return compare.Side{}, err
	}
	defer memory.Close()
	own := map[string]bool{}
	for i := range s.graph.Documents {
		own[s.graph.Documents[i].Path] = true
	}
	known := desk.KnownBy(memory)
	side := compare.Side{Graph: s.graph, Root: p.Root}
	state := side.Keep(func(path string, is drive.Stamp) string {
		if own[path] {
			if sum, err := memory.Hash(ctx, reach, path); err == nil {
				return sum
			}
		}
		return known(path, is)
	})
	return compare.Side{Kept: state}, ctx.Err()
}

// noteSealed keeps that a crate was sealed, and from which edition.
func (a *App) noteSealed(ctx context.Context, row sealedRow, crate store.Crate, from *line.Kept, at string) error {
	b, err := json.Marshal(row)
	if err != nil {
		return err
	}
	if err := a.store.SetSealed(crate.Project, string(b), crate.At); err != nil {
		return err
	}
	if err := a.store.PutCrate(crate); err != nil {
		return err
	}
	if err := a.kept().SealedFrom(ctx, from.Line, from.Edition.ID, at, crate.At); err != nil {
		a.log.Warn("it is not noted which edition a crate was sealed from", "error", err)
	}
	return nil
}
