package app

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/backup"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// VerifyBackup reads generations again, as a job: one, or all, the oldest verification first.
func (a *App) VerifyBackup(ctx context.Context, project int64, in keeping.OfGeneration) (api.Started, error) {
	p, err := a.store.Project(project)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	known, err := a.generations(project)
	if err != nil {
		return api.Started{}, err
	}
	if in.Path != "" {
		_, i, err := a.ownGeneration(project, in.Path, reach)
		if err != nil {
			return api.Started{}, err
		}
		known = known[i : i+1]
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobVerify, Project: project, Title: "Verifying the backups of " + p.Name, Unit: "bytes", Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		slices.SortStableFunc(known, func(x, y backed) int { return x.Verified.Compare(y.Verified) })
		harmed, n := 0, 0
		for _, g := range known {
			at, ok := drive.Abs(reach.Drives, g.At)
			if _, err := reach.Stat(at); !ok || err != nil {
				continue
			}
			v, err := a.verifyOne(ctx, p.ID, at, reach, j)
			if err != nil {
				return api.Nothing{}, "", err
			}
			n++
			if !v.Well() {
				harmed++
			}
		}
		if harmed > 0 {
			return api.Nothing{}, phrase.Plural(harmed, "backup") + " damaged", nil
		}
		return api.Nothing{}, phrase.Plural(n, "backup") + " undamaged", nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// giveWayEvery is how long a verification reads before it lets those go first whom somebody waits for.
const giveWayEvery = 2 * time.Second

func (a *App) verifyOne(ctx context.Context, project int64, at string, reach drive.Set, j *jobs.Task) (*backup.Verified, error) {
	gave := time.Now()
	list, err := backup.Verify(ctx, at, func(read int64) {
		if time.Since(gave) > giveWayEvery { // nobody waits for it
			a.jobs.GiveWay(ctx)
			gave = time.Now()
		}
		j.Step(filepath.Base(at), read, 0)
	})
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, store.ErrNotFound
	}
	if err := backup.Note(list); err != nil {
		a.log.Info("a verification is known here alone", "backup", at, "error", err)
	}
	known, i, err := a.ownGeneration(project, at, reach)
	if err != nil {
		return nil, err
	}
	known[i].Verified, known[i].Harm = list[0].At, len(list[0].Damaged)+len(list[0].Missing)
	return &list[0], a.keepGenerations(project, known)
}

// DryRestore unpacks a generation aside, traces it with nothing else reachable, and takes it away again, as a job.
func (a *App) DryRestore(ctx context.Context, project int64, in keeping.OfGeneration) (api.Started, error) {
	p, err := a.store.Project(project)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	if _, _, err := a.ownGeneration(project, in.Path, reach); err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobDry, Project: project, Title: "Trying to restore " + p.Name, Unit: "bytes"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		message, err := a.dryRestore(ctx, p, in.Path, reach, j)
		return api.Nothing{}, message, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) dryRestore(ctx context.Context, p store.Project, generation string, reach drive.Set, j *jobs.Task) (string, error) {
	into, err := os.MkdirTemp(a.store.Dir(), "dry-restore-")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(into)
	j.Step("checking every byte", 0, 0)
	rep, err := receive.Run(ctx, receive.Options{Crate: generation, Into: into, Formats: a.formats(), Progress: func(_ receive.Step, done int64) { j.Step("unpacking aside", done, 0) }})
	if err != nil {
		return "", err
	}
	if rep.Into == "" {
		return "Damaged: it cannot be restored", nil
	}
	j.Step("tracing what was unpacked", 0, 0)
	proof, err := seal.Check(ctx, rep.Into, a.formats())
	if err != nil {
		return "", err
	}
	if !proof.Complete || proof.Harm() > 0 {
		return "Not complete: a restored copy does not find all it needs", nil
	}
	known, i, err := a.ownGeneration(p.ID, generation, reach)
	if err != nil {
		return "", err
	}
	known[i].Restored, known[i].Complete = time.Now(), true
	return "Complete: " + phrase.Plural(proof.Files, "file") + " restored aside and removed again", a.keepGenerations(p.ID, known)
}
