package app

import (
	"context"
	"errors"
	"path/filepath"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// tendEvery is how often it is asked whether a backup or a verification is due.
const tendEvery = time.Minute

// tend makes backups and verifications by themselves until ctx ends.
func (a *App) tend(ctx context.Context) {
	tick := time.NewTicker(tendEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case now := <-tick.C:
			a.Tend(ctx, now)
		}
	}
}

// Tend starts the backups and verifications that are due: a backup when documents changed since the last one and
// nothing was written for the time set, a verification of the generation that was read longest ago.
func (a *App) Tend(ctx context.Context, now time.Time) {
	projects, err := a.store.Projects()
	if err != nil {
		return
	}
	reach, err := a.reach()
	if err != nil {
		return
	}
	var on map[string]bool
	for _, p := range projects {
		set, err := a.keepSettings(p.ID)
		if err != nil || set.BackupTo == "" || !set.BackupAt {
			continue
		}
		if on == nil {
			on = a.connected(reach.Drives)
		}
		if d, ok := drive.Find(reach.Drives, set.BackupTo); !ok || !on[d.ID] {
			continue // its page says that the drive is needed
		}
		if err := a.tendTo(ctx, p, set, reach, on, now); err != nil && ctx.Err() == nil {
			a.log.Warn("a backup could not be begun", "project", p.Name, "error", words.Error(err))
		}
	}
}

func (a *App) tendTo(ctx context.Context, p store.Project, set keeping.KeepSettings, reach drive.Set, on map[string]bool, now time.Time) error {
	known, err := a.generations(p.ID)
	if err != nil || a.jobs.Busy(p.ID) {
		return err
	}
	changed := lastChange(p, reach, on)
	quiet := now.Sub(changed) >= time.Duration(set.Quiet)*time.Minute
	if quiet && !changed.IsZero() && (len(known) == 0 || changed.After(known[len(known)-1].Made)) {
		_, err := a.Backup(ctx, p.ID)
		return err
	}
	var oldest *backed
	for i := range known {
		if g := &known[i]; on[g.At.Drive] && now.Sub(g.Made) > verifyAfter && now.Sub(g.Verified) > verifyAfter && (oldest == nil || g.Verified.Before(oldest.Verified)) {
			oldest = g
		}
	}
	if oldest == nil {
		return nil
	}
	at, ok := drive.Abs(reach.Drives, oldest.At)
	if !ok {
		return nil
	}
	_, err = a.VerifyBackup(ctx, p.ID, keeping.OfGeneration{Path: at})
	return err
}

// stands are the stamps of a project's own documents, as a snapshot read them.
func (s *snapshot) stands() map[string]drive.Stamp {
	list := map[string]drive.Stamp{}
	for i := range s.graph.Documents {
		if d := &s.graph.Documents[i]; s.graph.Owns(d) {
			list[d.Path] = d.Info.Stamp()
		}
	}
	return list
}

// halfWritten is an own document that does not read whole; "" for none.
func (s *snapshot) halfWritten() string {
	for i := range s.graph.Problems {
		x := &s.graph.Problems[i]
		for k := range s.graph.Documents {
			if d := &s.graph.Documents[k]; d.Path == x.Path && x.Code() == "malformed" && s.graph.Owns(d) {
				return d.Path
			}
		}
	}
	return ""
}

// keepByItself keeps an edition when documents changed since the last look and the interval is over, beside all
// else; until then it waits. One that does not read whole is not kept, and the page of the project says so.
func (a *App) keepByItself(p store.Project, w *openProject, s *snapshot) {
	set, err := a.keepSettings(p.ID)
	if err != nil || set.Every == 0 || s.graph == nil {
		return
	}
	w.keeping.Lock()
	defer w.keeping.Unlock()
	if sameStamps(w.keptStands, s.stands()) {
		return
	}
	if bad := s.halfWritten(); bad != "" {
		why := filepath.Base(bad) + " cannot be read whole; no edition is kept until it can."
		w.waits.Store(&why)
		a.hub.Send(api.Event{Type: api.EventKept, Project: p.ID})
		return
	}
	wait := time.Until(w.keptAt.Add(time.Duration(set.Every) * time.Minute))
	if w.keptAt.IsZero() {
		wait = a.sinceLast(p, set)
	}
	if w.keepSoon != nil {
		w.keepSoon.Stop()
	}
	w.keepSoon = time.AfterFunc(max(wait, 0), func() { a.jobs.Go(func() { a.keepDue(p, w, set) }) })
}

// sinceLast is how long the next edition waits, by the last one that is kept.
func (a *App) sinceLast(p store.Project, set keeping.KeepSettings) time.Duration {
	drives, err := a.drives()
	if err != nil {
		return 0
	}
	l, err := a.kept().Find(p.Documents, drives)
	if err != nil || l.Last() == nil {
		return 0
	}
	return min(time.Until(l.Last().At.Add(time.Duration(set.Every)*time.Minute)), time.Duration(set.Every)*time.Minute) // a clock may have gone back
}

// keepDue keeps the edition, of whatever the documents say by now.
func (a *App) keepDue(p store.Project, w *openProject, set keeping.KeepSettings) {
	s := w.now.Load()
	if a.ctx.Err() != nil || s == nil || s.graph == nil || s.halfWritten() != "" {
		return
	}
	_, err := a.keepEdition(a.ctx, p, w, line.Request{By: line.Interval}, true)
	why := ""
	if err != nil {
		why = "No edition could be kept: " + words.Error(err)
	}
	w.waits.Store(&why)
	if err != nil {
		a.hub.Send(api.Event{Type: api.EventKept, Project: p.ID})
		return
	}
	w.keeping.Lock()
	w.keptStands, w.keptAt = s.stands(), time.Now()
	w.keeping.Unlock()
	reach, err := a.reach()
	if err == nil {
		_, err = a.kept().Thin(a.ctx, p.Documents, line.Present{Drives: reach.Drives}, ages(set), time.Now())
	}
	if err != nil && !errors.Is(err, line.ErrNone) && a.ctx.Err() == nil {
		a.log.Warn("editions could not be thinned", "project", p.Name, "error", words.Error(err))
	}
}

func sameStamps(a, b map[string]drive.Stamp) bool {
	if len(a) != len(b) {
		return false
	}
	for p, is := range b {
		if was, ok := a[p]; !ok || was != is {
			return false
		}
	}
	return true
}
