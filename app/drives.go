package app

import (
	"context"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/seal"
	"boundcrate/core/text/format"
	"boundcrate/store"
)

// unpluggedDir is where a stand-in keeps a drive's folder while it is out.
const unpluggedDir = ".unplugged"

// State is what the frame of every page shows: drives, projects, jobs, formats.
func (a *App) State(ctx context.Context) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	s := api.AppState{Drives: []api.Drive{}, Projects: []api.Project{}, Jobs: a.jobs.List(), Demo: a.demo, Service: a.service, Formats: []api.Format{}}
	for _, f := range a.formats() {
		about := f.About()
		s.Formats = append(s.Formats, api.Format{Name: f.Name(), Title: about.Title, Extensions: about.Extensions, Knows: about.Knows})
	}
	core := make([]drive.Drive, len(rows))
	for i, d := range rows {
		core[i] = d.Core()
	}
	for i, answer := range a.probes.all(core) {
		d := rows[i]
		s.Drives = append(s.Drives, api.Drive{
			ID: d.ID, Name: d.Name, Dir: d.Dir, Kind: d.Kind, StandIn: d.Stand, Connected: answer.connected, Silent: answer.silent, Total: answer.total, Free: answer.free,
		})
	}
	projects, err := a.store.Projects()
	if err != nil {
		return s, err
	}
	for _, p := range projects {
		s.Projects = append(s.Projects, projectView(p, core))
	}
	return s, nil
}

// AddDrive adds a folder of this machine. A name that is taken is refused: it
// would quietly make another drive's files be looked for there. The folder is
// kept with its links undone, since nothing is written through links.
func (a *App) AddDrive(ctx context.Context, in api.NewDrive) (api.AppState, error) {
	dir := filepath.Clean(strings.TrimSpace(in.Dir))
	if !filepath.IsAbs(dir) {
		return api.AppState{}, fault.Say(fault.Wrong, "Not a folder", "Give the full path of a folder.")
	}
	real, err := filepath.EvalSymlinks(dir)
	if fi, serr := os.Stat(dir); err != nil || serr != nil || !fi.IsDir() {
		return api.AppState{}, fault.Say(fault.Wrong, "Not a folder", "‘"+dir+"’ is not a folder on this machine.")
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		name = filepath.Base(dir)
	}
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	for _, d := range rows {
		if err := clashes(d, name, real); err != nil {
			return api.AppState{}, err
		}
	}
	if err := a.store.PutDrive(name, real, drive.GuessKind(real), false); err != nil {
		return api.AppState{}, err
	}
	a.drivesChanged()
	return a.State(ctx)
}

// clashes refuses a name or a folder that another drive has.
func clashes(d store.Drive, name, dir string) error {
	switch {
	case name != "" && strings.EqualFold(d.Name, name):
		return fault.Say(fault.Conflict, "That name is taken", "There is already a drive “"+d.Name+"” at ‘"+d.Dir+"’. Choose another name.")
	case d.Dir == dir:
		return fault.Say(fault.Conflict, "Already a drive", "‘"+dir+"’ is the drive “"+d.Name+"”.")
	}
	return nil
}

// NameDrive gives a drive another name; it stays the drive it is.
func (a *App) NameDrive(ctx context.Context, id string, in api.NewDrive) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return api.AppState{}, fault.Say(fault.Wrong, "No name", "Give the drive a name.")
	}
	for _, d := range rows {
		if d.ID != id {
			if err := clashes(d, name, ""); err != nil {
				return api.AppState{}, err
			}
		}
	}
	if err := a.store.NameDrive(id, name); err != nil {
		return api.AppState{}, err
	}
	a.drivesChanged()
	return a.State(ctx)
}

// DropDrive forgets a drive that no project stands on. Nothing on it is touched.
func (a *App) DropDrive(ctx context.Context, id string) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	projects, err := a.store.Projects()
	if err != nil {
		return api.AppState{}, err
	}
	for _, d := range rows {
		if d.ID != id {
			continue
		}
		var on []string
		for _, p := range projects {
			if slices.ContainsFunc(p.Documents, func(doc string) bool { return drive.Within(d.Dir, doc) }) {
				on = append(on, p.Name)
			}
		}
		if len(on) > 0 {
			return api.AppState{}, fault.Say(fault.Conflict, "Used by projects", "Forget these projects first: "+strings.Join(on, ", ")+".")
		}
		if err := a.store.DropDrive(d.ID); err != nil {
			return api.AppState{}, err
		}
		a.prune()
		a.drivesChanged()
		return a.State(ctx)
	}
	return api.AppState{}, store.ErrNotFound
}

// Plug is the stand-in for a cable: the drive's folder really comes and goes.
func (a *App) Plug(ctx context.Context, id string, in api.Plug) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	for _, d := range rows {
		if d.ID != id {
			continue
		}
		if !d.Stand {
			return api.AppState{}, fault.Say(fault.Conflict, "Not a simulated drive", "“"+d.Name+"” is a real drive. Connect it by its cable.")
		}
		out := filepath.Join(filepath.Dir(d.Dir), unpluggedDir, filepath.Base(d.Dir))
		if connected := d.Core().Connected(); connected == in.Connected {
			return a.State(ctx)
		}
		if err := os.MkdirAll(filepath.Dir(out), 0o755); err != nil {
			return api.AppState{}, err
		}
		from, to := d.Dir, out
		if in.Connected {
			from, to = out, d.Dir
		}
		if err := os.Rename(from, to); err != nil {
			return api.AppState{}, err
		}
		a.drivesChanged()
		return a.State(ctx)
	}
	return api.AppState{}, store.ErrNotFound
}

// drivesChanged traces open projects again: what was unplugged may be there.
func (a *App) drivesChanged() {
	a.hub.Send(api.Event{Type: api.EventDrives})
	a.mu.Lock()
	var open []int64
	for id := range a.openProjects {
		open = append(open, id)
	}
	a.mu.Unlock()
	for _, id := range open {
		if _, err := a.startTrace(id); err != nil {
			a.log.Error("a project could not be traced again", "project", id, "error", err)
		}
	}
}

// watchDrives notices real drives that come and go.
func (a *App) watchDrives(ctx context.Context) {
	was := map[string]bool{}
	look := func() bool {
		changed := false
		ds, err := a.drives()
		if err != nil {
			return false
		}
		for i, answer := range a.probes.all(ds) {
			d, now := ds[i], answer.connected
			if before, known := was[d.ID]; known && before != now {
				changed = true
			}
			was[d.ID] = now
		}
		return changed
	}
	look()
	tick := time.NewTicker(2 * time.Second)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if look() {
				a.drivesChanged()
			}
		}
	}
}

// maxEntries is how many entries of a folder one answer holds.
const maxEntries = 300

// Browse lists a folder within the drives, folders first, a window at a time:
// only what is shown is looked at.
func (a *App) Browse(_ context.Context, ask api.AskFolder) (api.Folder, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Folder{}, err
	}
	dir := ask.Path
	if dir == "" {
		f := api.Folder{Label: "Drives", Entries: []api.Entry{}, Total: len(reach.Drives)}
		for i, answer := range a.probes.all(reach.Drives) {
			d := reach.Drives[i]
			f.Entries = append(f.Entries, api.Entry{Name: d.Name, Path: d.Dir, Folder: true, Gone: !answer.connected})
		}
		return f, nil
	}
	dir = filepath.Clean(dir)
	if info, err := reach.Stat(dir); err == nil && !info.Mode.IsDir() {
		return api.Folder{}, fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(reach.Drives, dir)+"’ is a file.")
	}
	entries, err := reach.ReadDir(dir)
	if err != nil {
		return api.Folder{}, err
	}
	up := filepath.Dir(dir)
	if d, ok := drive.Find(reach.Drives, dir); ok && d.Dir == dir {
		up = ""
	}
	f := api.Folder{Path: dir, Label: drive.Label(reach.Drives, dir), Parent: &up}
	f.Entries, f.Total = windowOf(ask, dir, entries, func(p string, e fs.DirEntry) api.Entry {
		v := api.Entry{Name: e.Name(), Path: p, Kind: facts.KindOfName(e.Name())}
		if fi, err := e.Info(); err == nil {
			v.Size = fi.Size()
		}
		if fm := a.claims(reach, p, v.Kind); fm != "" {
			v.Format, v.Root = fm, dir
		}
		return v
	})
	return f, nil
}

// windowOf is the part of a folder's entries that a page asks for: those whose
// names hold q, from one place on.
func windowOf(ask api.AskFolder, dir string, entries []fs.DirEntry, file func(string, fs.DirEntry) api.Entry) (list []api.Entry, total int) {
	q := strings.ToLower(ask.Holds)
	var folders, files []fs.DirEntry
	for _, e := range entries {
		switch {
		case strings.HasPrefix(e.Name(), "."), unfinished(e.Name()), q != "" && !strings.Contains(strings.ToLower(e.Name()), q):
		case e.IsDir():
			folders = append(folders, e)
		case file != nil && e.Type().IsRegular():
			files = append(files, e)
		}
	}
	all := append(folders, files...)
	from := max(0, min(ask.From, len(all)))
	list = []api.Entry{}
	for i, e := range all[from:min(from+maxEntries, len(all))] {
		p := filepath.Join(dir, e.Name())
		if from+i < len(folders) {
			list = append(list, api.Entry{Name: e.Name(), Path: p, Folder: true})
			continue
		}
		list = append(list, file(p, e))
	}
	return list, len(all)
}

// Machine lists the folders of this machine, for whoever adds one as a drive.
func (a *App) Machine(_ context.Context, ask api.AskFolder) (api.Folder, error) {
	dir := ask.Path
	if dir == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			home = "/"
		}
		dir = home
	}
	dir = filepath.Clean(dir)
	entries, err := os.ReadDir(dir)
	if err != nil {
		return api.Folder{}, err
	}
	f := api.Folder{Path: dir, Label: dir}
	if up := filepath.Dir(dir); up != dir {
		f.Parent = &up
	}
	f.Entries, f.Total = windowOf(ask, dir, entries, nil)
	return f, nil
}

// claims tells as what a file opens, "" for none. Sound and pictures are not
// opened to find out.
func (a *App) claims(reach drive.Reach, p string, k facts.Kind) string {
	switch k {
	case facts.Audio, facts.Video, facts.Image:
		return ""
	}
	f, err := reach.Open(p)
	if err != nil {
		return ""
	}
	defer f.Close()
	head := make([]byte, min(format.HeadSize, f.Size()))
	n, _ := f.ReadAt(head, 0)
	if fm := a.formats().Nested(filepath.Base(p), head[:n]); fm != nil {
		return fm.About().Title
	}
	// What only a person would take for a document can still be chosen.
	if fm := a.formats().Detect(filepath.Base(p), head[:n]); fm != nil && k != facts.Geometry {
		return fm.About().Title
	}
	return ""
}

// unfinished tells crates that are not whole yet.
func unfinished(name string) bool {
	_, is := seal.UnderWay(name)
	return is
}
