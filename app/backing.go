package app

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/backup"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// backed is what is known of a generation.
type backed struct {
	At       drive.Path
	Made     time.Time
	Files    int
	Bytes    int64
	Complete bool
	Verified time.Time // zero: never
	Harm     int
	Restored time.Time // the last dry restore that was complete
}

func backupSetting(project int64) string { return "backups:" + strconv.FormatInt(project, 10) }

// generations are those known of a project, the oldest first.
func (a *App) generations(project int64) (list []backed, err error) {
	text, err := a.store.Setting(backupSetting(project))
	if err == nil && text != "" {
		err = json.Unmarshal([]byte(text), &list)
	}
	return list, err
}

func (a *App) keepGenerations(project int64, list []backed) error {
	text, err := json.Marshal(list)
	if err != nil {
		return err
	}
	if err := a.store.SetSetting(backupSetting(project), string(text)); err != nil {
		return err
	}
	a.hub.Send(api.Event{Type: api.EventKept, Project: project})
	a.hub.Send(api.Event{Type: api.EventDrives})
	return nil
}

// connected are the drives that answer now.
func (a *App) connected(drives []drive.Drive) map[string]bool {
	on := map[string]bool{}
	for i, answer := range a.probes.all(drives) {
		on[drives[i].ID] = answer.connected
	}
	return on
}

// backupsOf are a project's generations as pages show them.
func (a *App) backupsOf(p store.Project, s keeping.KeepSettings, reach drive.Set) (keeping.Backups, error) {
	out := keeping.Backups{List: []keeping.Generation{}, Fit: -1}
	known, err := a.generations(p.ID)
	if err != nil {
		return out, err
	}
	on := a.connected(reach.Drives)
	if s.BackupTo != "" {
		out.Label = drive.Label(reach.Drives, s.BackupTo)
		d, ok := drive.Find(reach.Drives, s.BackupTo)
		out.There = ok && on[d.ID]
	}
	for _, g := range slices.Backward(known) {
		at, ok := drive.Abs(reach.Drives, g.At)
		if ok && on[g.At.Drive] {
			if _, err := reach.Stat(at); err != nil {
				continue // it was taken away
			}
		}
		row := keeping.Generation{Path: at, Name: filepath.Base(g.At.Path), At: g.Made, Files: g.Files, Bytes: g.Bytes, Complete: g.Complete, Harm: g.Harm}
		if !g.Verified.IsZero() {
			row.Verified = &g.Verified
		}
		if !g.Restored.IsZero() {
			row.Restored = &g.Restored
		}
		out.List = append(out.List, row)
	}
	out.Overdue = overdue(s, out, lastChange(p, reach, on), time.Now())
	return out, nil
}

// lastChange is when a project's documents changed last; zero where that cannot be asked.
func lastChange(p store.Project, reach drive.Set, on map[string]bool) (last time.Time) {
	for _, doc := range p.Documents {
		if d, ok := drive.Find(reach.Drives, doc); !ok || !on[d.ID] {
			continue
		}
		if info, err := reach.Stat(doc); err == nil && info.ModTime.After(last) {
			last = info.ModTime
		}
	}
	return last
}

// How long a backup may wait, and how old a verification may be.
const (
	overdueAfter = 24 * time.Hour
	verifyAfter  = 30 * 24 * time.Hour
)

// overdue tells what somebody should see to.
func overdue(s keeping.KeepSettings, b keeping.Backups, changed, now time.Time) string {
	switch {
	case s.BackupTo == "" && len(b.List) == 0:
		return ""
	case len(b.List) == 0:
		return "No backup yet"
	case b.List[0].Harm > 0:
		return "The last backup is damaged: " + phrase.Plural(b.List[0].Harm, "file")
	case !b.List[0].Complete:
		return "The last backup is not complete"
	case changed.After(b.List[0].At) && now.Sub(changed) > overdueAfter:
		return "Changed since the last backup"
	case now.Sub(b.List[0].At) > verifyAfter && (b.List[0].Verified == nil || now.Sub(*b.List[0].Verified) > verifyAfter):
		return "Not verified for " + phrase.Plural(int(now.Sub(b.List[0].At)/(24*time.Hour)), "day")
	}
	return ""
}

// Backup makes a generation, as a job.
func (a *App) Backup(ctx context.Context, project int64) (api.Started, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	set, err := a.keepSettings(project)
	if err != nil {
		return api.Started{}, err
	}
	if set.BackupTo == "" {
		return api.Started{}, fault.Say(fault.Wrong, "No folder", "Choose a folder on another drive for the backups first.")
	}
	if s.graph == nil {
		return api.Started{}, fault.Say(fault.Conflict, "Cannot be backed up", "The documents cannot be read now.")
	}
	if _, _, err := a.place(filepath.Join(set.BackupTo, "x")); err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobBackup, Project: project, Title: "Backing up " + p.Name, Unit: "bytes", Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		message, err := a.backUp(ctx, p, w, s, set, j)
		return api.Nothing{}, message, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) backUp(ctx context.Context, p store.Project, w *work, s *snapshot, set keeping.KeepSettings, j *jobs.Task) (string, error) {
	if err := a.listenToAll(ctx, p, w, s, j); err != nil {
		return "", err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return "", err
	}
	defer memory.Close()
	o, reach, err := a.traceOptions(ctx, p, w, s.log, memory)
	if err != nil {
		return "", err
	}
	var rec recipe.Recipe
	rec.Stow.Layout = stow.AsStands
	plan, err := desk.PlanSounds(ctx, desk.Of{Graph: s.graph, Judged: s.judged, Trace: o, Recipe: rec, Aside: s.whyAside(), Ears: &w.ears, Listen: true})
	if err != nil {
		return "", err
	}
	how := desk.Sealing{Plan: plan, Recipe: rec, Trace: o, Digest: memory.Hasher(reach), Progress: func(g seal.Progress) {
		j.Advance(string(g.Step), jobs.Pace{Done: g.Done, Total: g.Total, Files: g.Copied, Of: g.Of, Handled: g.Copied + g.Files, Handle: 2 * g.Of})
	}}
	began := time.Now()
	rep, err := backup.Run(ctx, backup.Options{Seal: desk.SealOptions(how), Dir: set.BackupTo, Name: portableName(p.Name), Keep: set.Keep, Beside: a.simulated(reach, p.Root, set.BackupTo)})
	if err != nil {
		return "", err
	}
	if err := memory.Remember(ctx, s.graph, reach, rep.Sums, time.Now(), nil); err != nil {
		return "", err
	}
	known, err := a.generations(p.ID)
	if err != nil {
		return "", err
	}
	known = slices.DeleteFunc(known, func(g backed) bool {
		at, ok := drive.Abs(reach.Drives, g.At)
		return ok && slices.Contains(rep.Removed, at)
	})
	known = append(known, backed{At: drive.At(reach.Drives, rep.Generation), Made: began, Files: rep.Files, Bytes: rep.Bytes, Complete: rep.Complete})
	if err := a.keepGenerations(p.ID, known); err != nil {
		return "", err
	}
	says := phrase.Plural(rep.Copied.Files, "file") + " copied, " + strconv.Itoa(rep.Stood.Files) + " shared with the one before"
	if !rep.Complete {
		return "Not complete. " + says, nil
	}
	return "Complete. " + says, nil
}

// simulated tells that a folder lies on another of the sample world's drives, which are folders of one device.
func (a *App) simulated(reach drive.Set, root, dir string) bool {
	own, _ := drive.Find(reach.Drives, root)
	to, ok := drive.Find(reach.Drives, dir)
	return a.demo && ok && own.ID != to.ID
}

// portableName is a project's name as a folder's.
func portableName(name string) string {
	clean := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < 0x20 {
			return '-'
		}
		return r
	}, strings.TrimSpace(name))
	if clean = strings.Trim(clean, ". "); clean == "" {
		return "project"
	}
	return clean
}

// ownGeneration is one of a project's, by where it stands now.
func (a *App) ownGeneration(project int64, path string, reach drive.Set) (known []backed, i int, err error) {
	if known, err = a.generations(project); err != nil {
		return nil, 0, err
	}
	i = slices.IndexFunc(known, func(g backed) bool {
		at, ok := drive.Abs(reach.Drives, g.At)
		return ok && at == path
	})
	if i < 0 {
		return nil, 0, store.ErrNotFound
	}
	return known, i, nil
}

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

func (a *App) verifyOne(ctx context.Context, project int64, at string, reach drive.Set, j *jobs.Task) (*backup.Verified, error) {
	list, err := backup.Verify(ctx, at, func(read int64) {
		a.jobs.GiveWay(ctx) // nobody waits for it
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
	known[i].Restored = time.Now()
	return "Complete: " + phrase.Plural(proof.Files, "file") + " restored aside and removed again", a.keepGenerations(p.ID, known)
}

// maxHeld bounds how many files of a generation are listed.
const maxHeld = 2000

// GenerationFiles are the files of a generation beside what is in the project now.
func (a *App) GenerationFiles(ctx context.Context, project int64, q keeping.AskGeneration) (keeping.GenerationFiles, error) {
	out := keeping.GenerationFiles{List: []keeping.HeldFile{}}
	p, err := a.store.Project(project)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	if _, _, err := a.ownGeneration(project, q.Path, reach); err != nil {
		return out, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return out, err
	}
	defer memory.Close()
	for _, f := range seal.Originals(q.Path) {
		if f.Made {
			continue // a document that was rewritten comes back from an edition
		}
		row := keeping.HeldFile{Path: shown(p.Root, f.Source), Now: keeping.Same}
		if info, err := os.Stat(filepath.Join(q.Path, filepath.FromSlash(f.Path))); err == nil {
			row.Bytes = info.Size()
		}
		info, err := reach.Stat(f.Source)
		if err != nil {
			row.Now = keeping.Lost
		} else {
			row.Changed = &info.ModTime
			if sum, err := memory.Hash(ctx, reach, f.Source); err != nil || sum != f.SHA256 {
				row.Now = keeping.Other
			}
		}
		if err := ctx.Err(); err != nil {
			return out, err
		}
		if len(out.List) == maxHeld {
			out.More++
			continue
		}
		out.List = append(out.List, row)
	}
	rank := map[keeping.Standing]int{keeping.Lost: 0, keeping.Other: 1, keeping.Same: 2}
	slices.SortStableFunc(out.List, func(x, y keeping.HeldFile) int { return rank[x.Now] - rank[y.Now] })
	return out, nil
}

// shown is a file as a project's pages call it.
func shown(root, p string) string {
	if rel, err := filepath.Rel(root, p); err == nil && filepath.IsLocal(rel) {
		return filepath.ToSlash(rel)
	}
	return p
}

// TakeBack takes files of a generation back into the project; what is another there is kept beside.
func (a *App) TakeBack(ctx context.Context, project int64, in keeping.TakeBack) (keeping.RestoredNow, error) {
	out := keeping.RestoredNow{Written: []string{}, Outside: []string{}, Beside: []string{}}
	p, w, err := a.open(project)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	if _, _, err := a.ownGeneration(project, in.Path, reach); err != nil {
		return out, err
	}
	var files []seal.Original
	for _, f := range seal.Originals(in.Path) {
		if !f.Made && (len(in.Files) == 0 || slices.Contains(in.Files, shown(p.Root, f.Source))) {
			files = append(files, f)
		}
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobRestore, Project: project, Title: "Taking files back into " + p.Name}, func(ctx context.Context, _ *jobs.Task) (keeping.RestoredNow, error) {
		if err := a.keepBefore(ctx, p, w); err != nil {
			return out, err
		}
		done, err := backup.TakeBack(ctx, in.Path, files, reach, a.store.Journals())
		if err != nil {
			return out, err
		}
		for _, at := range done.Written {
			out.Written = append(out.Written, drive.Label(reach.Drives, at))
		}
		for _, at := range done.Beside {
			out.Beside = append(out.Beside, drive.Label(reach.Drives, at))
		}
		_, err = a.startTrace(project)
		return out, err
	})
}
