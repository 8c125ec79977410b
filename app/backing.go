package app

import (
	"context"
	"encoding/json"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/api/overview"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/backup"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/say/words/sheet"
	"boundcrate/store"
)

// backed is what is known of a generation.
type backed struct {
	At       drive.Path
	Made     time.Time
	Files    int
	Bytes    int64
	Complete bool
	// Elsewhere tells one that the command line made, or another data folder knows of: whether it is complete is not
	// known here until it was tried.
	Elsewhere bool
	Verified  time.Time // zero: never
	Harm      int
	Restored  time.Time // the last dry restore that was complete
	Fit       int       // how many more like it there was room for; −1: not known
}

// view is a generation as pages show it.
func (g *backed) view(at string) keeping.Generation {
	row := keeping.Generation{Path: at, At: g.Made, Files: g.Files, Bytes: g.Bytes, Complete: g.Complete, Elsewhere: g.Elsewhere && !g.Complete, Harm: g.Harm}
	if !g.Verified.IsZero() {
		row.Verified = &g.Verified
	}
	if !g.Restored.IsZero() {
		row.Restored = &g.Restored
	}
	return row
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
	on := a.connected(reach.Drives)
	if s.BackupTo != "" {
		out.Label = drive.Label(reach.Drives, s.BackupTo)
		d, ok := drive.Find(reach.Drives, s.BackupTo)
		out.There = ok && on[d.ID]
	}
	known, err := a.generations(p.ID)
	if err == nil && out.There {
		known, err = a.metBackups(p, s.BackupTo, reach, known)
	}
	if err != nil {
		return out, err
	}
	for _, g := range slices.Backward(known) {
		at, ok := drive.Abs(reach.Drives, g.At)
		if ok && on[g.At.Drive] {
			if _, err := reach.Stat(at); err != nil {
				continue // it was taken away
			}
		}
		if len(out.List) == 0 {
			out.Fit = g.Fit
		}
		out.List = append(out.List, g.view(at))
	}
	out.Overdue = overdue(s, out, lastChange(p, reach, on), time.Now())
	return out, nil
}

// ofProject is a generation that was looked at for a project.
type ofProject struct {
	project int64
	path    string
}

// metBackups adds generations that lie in the folder for backups and that nobody here made.
func (a *App) metBackups(p store.Project, dir string, reach drive.Set, known []backed) ([]backed, error) {
	have := map[drive.Path]bool{}
	for _, g := range known {
		have[g.At] = true
	}
	list, err := backup.Below(dir)
	if err != nil {
		return known, nil // what cannot be read shows when a backup is made
	}
	met := 0
	for _, at := range list {
		where := drive.At(reach.Drives, at)
		key := ofProject{p.ID, at}
		if _, other := a.notOurs.Load(key); other || have[where] {
			continue
		}
		m, ok := backup.Of(at, p.Documents)
		if !ok {
			a.notOurs.Store(key, true)
			continue
		}
		known = append(known, backed{At: where, Made: m.At, Files: m.Files, Bytes: m.Bytes, Elsewhere: true, Verified: backup.VerifiedAt(at), Fit: -1})
		met++
	}
	if met == 0 {
		return known, nil
	}
	slices.SortStableFunc(known, func(x, y backed) int { return x.Made.Compare(y.Made) })
	return known, a.keepGenerations(p.ID, known)
}

// backupNow is how it stands with a project's backups.
type backupNow struct {
	overview.BacksHere
	verified *time.Time
	to       string // the drive that they go to; "" for none
}

// backupOf tells it, without asking a drive that is not there.
func (a *App) backupOf(p store.Project, drives []drive.Drive, on map[string]bool) (out backupNow, err error) {
	out.Project, out.Name = p.ID, p.Name
	set, err := a.keepSettings(p.ID)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	known, err := a.generations(p.ID)
	if err != nil {
		return out, err
	}
	b := keeping.Backups{}
	for _, g := range slices.Backward(known) {
		row := g.view("")
		b.List = append(b.List, row)
		if g.Complete && out.At == nil {
			out.At, out.verified = &row.At, row.Verified
		}
	}
	if d, ok := drive.Find(drives, set.BackupTo); ok && set.BackupTo != "" {
		out.to = d.ID
	}
	out.Overdue = overdue(set, b, lastChange(p, reach, on), time.Now())
	return out, nil
}

// allBackups tells it of all projects.
func (a *App) allBackups(drives []drive.Drive) (list []backupNow, err error) {
	projects, err := a.store.Projects()
	if err != nil {
		return nil, err
	}
	on := a.connected(drives)
	for _, p := range projects {
		b, err := a.backupOf(p, drives, on)
		if err != nil {
			return nil, err
		}
		list = append(list, b)
	}
	return list, nil
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
	case !b.List[0].Complete && !b.List[0].Elsewhere:
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

func (a *App) backUp(ctx context.Context, p store.Project, w *openProject, s *snapshot, set keeping.KeepSettings, j *jobs.Task) (string, error) {
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
		return ok && (slices.Contains(rep.Removed, at) || at == rep.Generation) // a page may have met it already
	})
	known = append(known, backed{At: drive.At(reach.Drives, rep.Generation), Made: began, Files: rep.Files, Bytes: rep.Bytes, Complete: rep.Complete, Fit: rep.Fit})
	if err := a.keepGenerations(p.ID, known); err != nil {
		return "", err
	}
	says := phrase.Plural(rep.Copied.Files, "file") + " copied, " + strconv.Itoa(rep.Stood.Files) + " shared with the one before"
	if again := sheet.Unshared(rep.Report); again != "" {
		says += ". " + again
	}
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
