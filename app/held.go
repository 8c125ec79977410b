package app

import (
	"context"
	"encoding/json"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/back"
	"boundcrate/core/road/decide"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// maxHeld bounds how many files of a backup or a crate are listed.
const maxHeld = 2000

// HeldFiles are the files of a backup, or of any crate, beside what is in the project now.
func (a *App) HeldFiles(ctx context.Context, project int64, q keeping.AskHeld) (keeping.HeldFiles, error) {
	p, w, err := a.open(project)
	if err != nil {
		return keeping.HeldFiles{}, err
	}
	at, err := a.heldAt(q.Path)
	if err != nil {
		return keeping.HeldFiles{}, err
	}
	spec := jobs.Spec{Kind: api.JobCompare, Project: project, Slot: at, Title: "Comparing " + filepath.Base(at) + " with " + p.Name, Second: jobs.Join}
	return jobs.Soon(ctx, a.jobs, spec, func(ctx context.Context, _ *jobs.Task) (keeping.HeldFiles, error) {
		out := keeping.HeldFiles{List: []keeping.HeldFile{}}
		s, reach, done, err := a.lookInto(ctx, p, w, at)
		if err != nil {
			return out, err
		}
		defer done()
		out.Label = drive.Label(reach.Drives, at)
		rank := map[back.Standing]int{back.Lost: 0, back.Other: 1}
		items := slices.Clone(s.Items)
		slices.SortStableFunc(items, func(x, y back.Item) int { return rank[x.Now] - rank[y.Now] })
		for i := range items {
			if items[i].Now == back.Same {
				out.Same++
				continue
			}
			if len(out.List) == maxHeld {
				out.More++
				continue
			}
			out.List = append(out.List, heldFile(p.Root, &items[i]))
		}
		return out, nil
	})
}

func heldFile(root string, it *back.Item) keeping.HeldFile {
	row := keeping.HeldFile{Path: it.Place, Place: it.Place, Bytes: it.Bytes, Now: it.Now, Document: it.Document, Written: it.Written, Lost: append([]string{}, it.Lost...), Others: append([]string{}, it.Others...), Absent: len(it.Absent)}
	if it.Why != "" {
		row.Why = words.Error(it.Why)
	}
	if it.To != "" {
		row.Path = shown(root, it.To)
	}
	for _, t := range []struct {
		of *time.Time
		to **time.Time
	}{{&it.Modified, &row.Modified}, {&it.Here, &row.Changed}} {
		if !t.of.IsZero() {
			*t.to = t.of
		}
	}
	return row
}

// shown is a file as a project's pages call it.
func shown(root, p string) string {
	if rel, err := filepath.Rel(root, p); err == nil && filepath.IsLocal(rel) {
		return filepath.ToSlash(rel)
	}
	return p
}

// heldAt is a crate that may be looked into.
func (a *App) heldAt(path string) (string, error) {
	reach, err := a.reach()
	if err != nil {
		return "", err
	}
	at := filepath.Clean(path)
	return at, a.readable(reach, at)
}

// lookInto looks into a crate for a project. Backups that were made here are trusted: their files belong where they
// came from. What merely lies in the folder for backups is anybody's crate.
func (a *App) lookInto(ctx context.Context, p store.Project, w *openProject, at string) (*back.Source, drive.Set, func(), error) {
	q, err := a.ask(ctx, p, w)
	if err != nil {
		return nil, q.reach, nil, err
	}
	known, i, unknown := a.ownGeneration(p.ID, at, q.reach)
	o := back.Options{Crate: at, Documents: p.Documents, Root: p.Root, Trusted: unknown == nil && !known[i].Elsewhere, Trace: q.Options}
	o.Digest = func(ctx context.Context, path string) (string, error) { return q.memory.Hash(ctx, q.reach, path) }
	if s := w.now.Load(); s != nil && s.graph != nil {
		o.Graph = s.graph
	}
	s, err := back.Look(ctx, o)
	if err != nil {
		q.close()
		return nil, q.reach, nil, err
	}
	return s, q.reach, func() { s.Close(); q.close() }, nil
}

// TakeBack takes files and documents of a backup or a crate into the project. An edition of its documents is kept
// first; any other file that is another there is kept beside.
func (a *App) TakeBack(ctx context.Context, project int64, in keeping.TakeBack) (keeping.RestoredNow, error) {
	out := keeping.RestoredNow{Written: []string{}, Outside: []string{}, Beside: []string{}}
	p, w, err := a.open(project)
	if err != nil {
		return out, err
	}
	at, err := a.heldAt(in.Path)
	if err != nil {
		return out, err
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobRestore, Project: project, Title: "Taking files into " + p.Name}, func(ctx context.Context, _ *jobs.Task) (keeping.RestoredNow, error) {
		s, reach, done, err := a.lookInto(ctx, p, w, at)
		if err != nil {
			return out, err
		}
		defer done()
		kept, err := a.keptBefore(ctx, p, w)
		if err != nil {
			return out, err
		}
		out.Kept = kept.Edition.ID
		for _, d := range kept.Edition.Documents {
			s.Editions = append(s.Editions, filepath.Join(p.Root, filepath.FromSlash(d.Path)))
		}
		brought, err := s.Bring(ctx, in.Files, a.store.Journals())
		if err != nil {
			return out, fault.Say(fault.Conflict, "Not taken", words.Error(err))
		}
		for _, at := range brought.Written {
			out.Written = append(out.Written, drive.Label(reach.Drives, at))
		}
		for _, at := range brought.Beside {
			out.Beside = append(out.Beside, drive.Label(reach.Drives, at))
		}
		if err := a.meantNow(p, s, brought, reach); err != nil {
			return out, err
		}
		_, err = a.startTrace(project)
		return out, err
	})
}

// meantNow keeps that files which were taken are the ones that are meant: that they are others than were last seen
// there is nobody's mistake.
func (a *App) meantNow(p store.Project, s *back.Source, done *back.Brought, reach drive.Set) error {
	docs := map[string]bool{}
	for i := range s.Items {
		docs[s.Items[i].To] = s.Items[i].Document
	}
	var list []decide.Decision
	for _, at := range done.Written {
		info, err := reach.Stat(at)
		if err != nil || docs[at] {
			continue
		}
		is, err := json.Marshal(decide.State{Size: info.Size, Mod: info.ModTime.UnixNano()})
		if err != nil {
			return err
		}
		list = append(list, decide.Decision{Kind: decide.Meant, File: drive.At(reach.Drives, at), Reasons: is, At: now()})
	}
	return a.store.Decide(p.ID, list...)
}
