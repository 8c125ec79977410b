package server

import (
	"context"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/seal"
	"boundcrate/server/api"
	"boundcrate/store"
)

// unpluggedDir is where a stand-in keeps a drive's folder while it is out.
const unpluggedDir = ".unplugged"

func (a *App) state(*echo.Context) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	s := api.AppState{Drives: []api.Drive{}, Projects: []api.Project{}, Jobs: a.jobs.list(), Demo: a.demo, Formats: []api.Format{}}
	for _, f := range a.formats() {
		about := f.About()
		s.Formats = append(s.Formats, api.Format{Name: f.Name(), Title: about.Title, Extensions: about.Extensions, Knows: about.Knows})
	}
	core := make([]drive.Drive, 0, len(rows))
	for _, d := range rows {
		core = append(core, d.Core())
		v := api.Drive{ID: d.ID, Name: d.Name, Dir: d.Dir, Kind: d.Kind, StandIn: d.Stand, Connected: d.Core().Connected()}
		if u, err := disk.Usage(d.Dir); err == nil && v.Connected {
			v.Total, v.Free = int64(u.Total), int64(u.Free)
		}
		s.Drives = append(s.Drives, v)
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

func (a *App) addDrive(c *echo.Context, in api.NewDrive) (api.AppState, error) {
	dir := filepath.Clean(strings.TrimSpace(in.Dir))
	if !filepath.IsAbs(dir) {
		return api.AppState{}, say(http.StatusBadRequest, "Not a folder", "Give the whole path of a folder, from the top.")
	}
	if fi, err := os.Stat(dir); err != nil || !fi.IsDir() {
		return api.AppState{}, say(http.StatusBadRequest, "Not a folder", "‘"+dir+"’ is not a folder on this machine.")
	}
	name := strings.TrimSpace(in.Name)
	if name == "" {
		name = filepath.Base(dir)
	}
	if err := a.store.PutDrive(name, dir, "fixed", false); err != nil {
		return api.AppState{}, err
	}
	a.hub.send(api.Event{Type: api.EventDrives})
	return a.state(c)
}

// plug is the stand-in for a cable: the drive's folder really comes and goes.
func (a *App) plug(c *echo.Context, in api.Plug) (api.AppState, error) {
	rows, err := a.store.Drives()
	if err != nil {
		return api.AppState{}, err
	}
	for _, d := range rows {
		if d.ID != c.Param("id") {
			continue
		}
		if !d.Stand {
			return api.AppState{}, say(http.StatusConflict, "Not a stand-in", "“"+d.Name+"” is a real drive. Connect it by its cable.")
		}
		out := filepath.Join(filepath.Dir(d.Dir), unpluggedDir, filepath.Base(d.Dir))
		if connected := d.Core().Connected(); connected == in.Connected {
			return a.state(c)
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
		return a.state(c)
	}
	return api.AppState{}, store.ErrNotFound
}

// drivesChanged traces open projects again: what was unplugged may be there.
func (a *App) drivesChanged() {
	a.hub.send(api.Event{Type: api.EventDrives})
	a.mu.Lock()
	var open []int64
	for id := range a.works {
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
		for _, d := range ds {
			now := d.Connected()
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

func (a *App) browse(c *echo.Context) (api.Folder, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Folder{}, err
	}
	dir := c.QueryParam("path")
	if dir == "" {
		f := api.Folder{Label: "Drives", Entries: []api.Entry{}}
		for _, d := range reach.Drives {
			f.Entries = append(f.Entries, api.Entry{Name: d.Name, Path: d.Dir, Folder: true, Gone: !d.Connected()})
		}
		return f, nil
	}
	dir = filepath.Clean(dir)
	if info, err := reach.Stat(dir); err == nil && !info.Mode.IsDir() {
		return api.Folder{}, say(http.StatusBadRequest, "Not a folder", "‘"+drive.Label(reach.Drives, dir)+"’ is a file.")
	}
	entries, err := reach.ReadDir(dir)
	if err != nil {
		return api.Folder{}, err
	}
	up := filepath.Dir(dir)
	if d, ok := drive.Find(reach.Drives, dir); ok && d.Dir == dir {
		up = ""
	}
	f := api.Folder{Path: dir, Label: drive.Label(reach.Drives, dir), Parent: &up, Entries: []api.Entry{}}
	var files []api.Entry
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), ".") || seal.UnderWay(e.Name()) {
			continue
		}
		p := filepath.Join(dir, e.Name())
		if e.IsDir() {
			f.Entries = append(f.Entries, api.Entry{Name: e.Name(), Path: p, Folder: true})
			continue
		}
		if !e.Type().IsRegular() {
			continue
		}
		v := api.Entry{Name: e.Name(), Path: p, Kind: facts.KindOfName(e.Name())}
		if fi, err := e.Info(); err == nil {
			v.Size = fi.Size()
		}
		if fm := a.claims(reach, p, v.Kind); fm != "" {
			v.Format, v.Root = fm, dir
		}
		files = append(files, v)
	}
	f.Entries = append(f.Entries, files...)
	return f, nil
}

// claims tells as what a file opens, "" for none. Sound and pictures are not
// opened to find out.
func (a *App) claims(reach drive.Reach, p string, k facts.Kind) string {
	switch k {
	case facts.Audio, facts.Video, facts.Image:
		return ""
	}
	f, err := drive.OpenSized(reach, p)
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
