package app

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// DriveCards are the drives with all that is known of them.
func (a *App) DriveCards(ctx context.Context) (overview.DriveCards, error) {
	state, err := a.State(ctx)
	if err != nil {
		return overview.DriveCards{}, err
	}
	rows, err := a.store.Drives()
	if err != nil {
		return overview.DriveCards{}, err
	}
	core, err := a.drives()
	if err != nil {
		return overview.DriveCards{}, err
	}
	healths, err := a.store.Healths(core)
	if err != nil {
		return overview.DriveCards{}, err
	}
	declared, err := a.store.Declared(core)
	if err != nil {
		return overview.DriveCards{}, err
	}
	names := map[int64]string{}
	for _, p := range state.Projects {
		names[p.ID] = p.Name
	}
	backups, err := a.allBackups(core)
	if err != nil {
		return overview.DriveCards{}, err
	}
	out := overview.DriveCards{List: []overview.DriveCard{}}
	for i, d := range rows {
		v := overview.DriveCard{Drive: state.Drives[i], KindSaid: d.KindSaid, Slowed: d.Slowed, Unread: []string{}, Folders: []overview.Declared{}, Projects: []overview.LeansHere{}, Backups: []overview.BacksHere{}}
		if v.Gives, _ = core[i].Rate(); d.Gives > 0 {
			at := d.Measured()
			v.Measured = &at
		}
		known, err := a.store.Indexed(d.ID)
		if err != nil {
			return out, err
		}
		if v.Indexed = known.Files; !known.At.IsZero() {
			v.IndexAt = &known.At
		}
		v.Unread = append(v.Unread, known.Unread...)
		for _, f := range declared {
			if in, ok := drive.Find(core, f.Path); ok && in.ID == d.ID {
				v.Folders = append(v.Folders, overview.Declared{Path: f.Path, Label: drive.Label(core, f.Path), Kind: f.Kind})
			}
		}
		leaning, err := a.store.Leaning(d.ID)
		if err != nil {
			return out, err
		}
		writes := ""
		for _, l := range leaning {
			p := overview.LeansHere{Project: l.Project, Name: names[l.Project], Files: l.Files, Writes: l.Writes}
			for _, h := range healths {
				if h.Project == l.Project {
					p.Needs = h.Says.Needs[d.ID]
				}
			}
			if p.Needs > v.Needs {
				v.Needs, v.NeedsBy = p.Needs, p.Name
			}
			if l.Writes > 0 && a.opened(l.Project) {
				writes = p.Name
			}
			v.Projects = append(v.Projects, p)
		}
		for _, b := range backups {
			if b.to == d.ID {
				v.Backups = append(v.Backups, b.BacksHere)
			}
		}
		v.Safe, v.Why = a.unpluggable(v.Drive, writes)
		out.List = append(out.List, v)
	}
	return out, nil
}

// opened tells whether a project is open: held in memory with its trace.
func (a *App) opened(project int64) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	w := a.openProjects[project]
	return w != nil && w.now.Load() != nil
}

// unpluggable tells whether a drive may be taken out: no work runs that may read
// from it or write to it, and no open project will write there.
func (a *App) unpluggable(d api.Drive, writes string) (bool, string) {
	switch running := a.jobs.Anything(); {
	case !d.Connected:
		return true, ""
	case running != "":
		return false, "“" + running + "” is running and may use it"
	case writes != "":
		return false, writes + " is open and will write there"
	}
	return true, ""
}

// SetDrive says of what kind a drive is, or how slow a stand-in shall be.
func (a *App) SetDrive(ctx context.Context, id string, in overview.SetDrive) (overview.DriveCards, error) {
	if in.Kind != nil {
		if !slices.Contains(drive.Kinds, *in.Kind) {
			return overview.DriveCards{}, fault.Say(fault.Wrong, "No such kind", "A drive can be fixed, removable, network, optical or synced.")
		}
		if err := a.store.SetKind(id, *in.Kind); err != nil {
			return overview.DriveCards{}, err
		}
	}
	if in.Slowed != nil {
		if err := a.store.Slow(id, max(0, *in.Slowed)); err != nil {
			return overview.DriveCards{}, err
		}
	}
	a.drivesChanged()
	return a.DriveCards(ctx)
}

// Declare says that a folder is a library or a managed store, or neither.
func (a *App) Declare(ctx context.Context, in overview.Declare) (overview.DriveCards, error) {
	reach, err := a.reach()
	if err != nil {
		return overview.DriveCards{}, err
	}
	path := filepath.Clean(in.Path)
	switch in.Kind {
	case "":
	case origin.AsLibrary, origin.AsStore:
		info, err := reach.Stat(path)
		if err != nil {
			return overview.DriveCards{}, err
		}
		if !info.Mode.IsDir() {
			return overview.DriveCards{}, fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(reach.Drives, path)+"’ is a file.")
		}
	default:
		return overview.DriveCards{}, fault.Say(fault.Wrong, "No such kind", "A folder can be marked as library or managed store.")
	}
	if err := a.store.Declare(drive.At(reach.Drives, path), in.Kind); err != nil {
		return overview.DriveCards{}, err
	}
	a.drivesChanged() // whose the files there are is judged anew
	return a.DriveCards(ctx)
}

func (a *App) driveOf(id string) (store.Drive, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return store.Drive{}, err
	}
	for _, d := range rows {
		if d.ID == id {
			if !d.Core().Connected() {
				return d, &os.PathError{Op: "open", Path: d.Dir, Err: drive.ErrUnplugged}
			}
			return d, nil
		}
	}
	return store.Drive{}, store.ErrNotFound
}

// IndexDrive looks a drive through, as a job.
func (a *App) IndexDrive(ctx context.Context, id string) (api.Started, error) {
	d, err := a.driveOf(id)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobIndex, Slot: d.ID, Title: "Indexing " + d.Name, Unit: "files", Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		n := 0
		walked, err := store.Look(ctx, reach, []string{d.Dir}, func(files int, dir string) {
			n = files
			j.Step("in "+drive.Label(reach.Drives, dir), int64(files), 0)
		})
		if err != nil {
			return api.Nothing{}, "", err
		}
		return api.Nothing{}, phrase.Plural(n, "file"), a.store.Keep(ctx, reach.Drives, walked, time.Now())
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// How much is read to measure a drive, and for how long at the most.
const (
	measureBytes = 256 << 20
	measureTime  = 3 * time.Second
)

// Measure reads from a drive's largest files and keeps how fast that went, as a
// job.
func (a *App) Measure(ctx context.Context, id string) (api.Started, error) {
	d, err := a.driveOf(id)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobMeasure, Slot: d.ID, Title: "Testing the speed of " + d.Name, Unit: "bytes", Second: jobs.Join}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		rate, err := rateOf(ctx, reach, d, func(n int64) { j.Step("reading", n, measureBytes) })
		if err != nil {
			return api.Nothing{}, "", err
		}
		if err := a.store.Measured(d.ID, rate, time.Now()); err != nil {
			return api.Nothing{}, "", err
		}
		a.drivesChanged()
		return api.Nothing{}, phrase.Size(rate) + " per second", nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// rateOf is what a drive gives, in bytes a second, read from its largest files
// past the system's memory of them. A stand-in that is slowed gives no more than
// it is said to.
func rateOf(ctx context.Context, reach drive.Reach, d store.Drive, tick func(int64)) (int64, error) {
	var files []index.Entry
	_, err := drive.Walk{Reach: reach, Dirs: []string{d.Dir}, Each: func(f drive.Folder) error {
		for _, e := range f.Files {
			files = append(files, index.Entry{Path: filepath.Join(f.Path, e.Name), Size: e.Size})
		}
		return nil
	}}.Run(ctx)
	if err != nil {
		return 0, err
	}
	slices.SortFunc(files, func(x, y index.Entry) int { return int(y.Size/1024 - x.Size/1024) })
	var read int64
	from := time.Now()
	buf := make([]byte, 1<<20)
	for _, e := range files {
		f, err := reach.Open(e.Path)
		if err != nil {
			continue
		}
		drive.Forget(f)
		for at := int64(0); ; {
			n, err := f.ReadAt(buf, at)
			at, read = at+int64(n), read+int64(n)
			tick(read)
			if d.Slowed > 0 { // as slow as the drive it stands in for
				due := time.Duration(float64(read) / float64(d.Slowed) * float64(time.Second))
				select {
				case <-ctx.Done():
				case <-time.After(due - time.Since(from)):
				}
			}
			if err != nil || ctx.Err() != nil || read >= measureBytes || time.Since(from) > measureTime {
				if err != nil && !errors.Is(err, io.EOF) {
					f.Close()
					return 0, err
				}
				break
			}
		}
		f.Close()
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		if read >= measureBytes || time.Since(from) > measureTime {
			break
		}
	}
	took := time.Since(from)
	if read < 1<<16 || took <= 0 {
		return 0, fault.Say(fault.Conflict, "Nothing to test with", "“"+d.Name+"” has too few large files to test its speed.")
	}
	return int64(float64(read) / took.Seconds()), nil
}
