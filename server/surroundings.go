package server

import (
	"path/filepath"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/origin"
	"boundcrate/store"
)

// surroundings is what is known around a project, for judging where its material
// lives. What the store cannot tell is not said.
func (a *App) surroundings(p store.Project, drives []drive.Drive, reach drive.Reach, memory *store.Memory) origin.Options {
	habits, err := a.store.Habits()
	if err != nil {
		a.log.Warn("habits", "error", err)
	}
	read := origin.Headers(reach)
	o := origin.Options{Reach: reach, Drives: drives, Habits: &habits}
	o.Facts = func(path string) (facts.Facts, bool) {
		if last, ok := memory.Last(path); ok && last.Facts.Seconds > 0 {
			return last.Facts, true
		}
		return read(path)
	}
	once, err := a.store.Besides(drives)
	if err != nil {
		a.log.Warn("companions", "error", err)
	}
	o.Once = func(path string) bool { return once[path] }
	o.Called = func(name string, folder bool) (there []string) {
		list, err := a.called(name, folder, drives) // as of when the drive was looked through
		if err != nil {
			a.log.Warn("drive index", "error", err)
		}
		for _, p := range list {
			if _, err := reach.Stat(p); err == nil {
				there = append(there, p)
			}
		}
		return there
	}
	o.Alike = func(x, y string) bool { return a.store.Alike(x, y, drives) }
	known, err := a.store.Projects() // without them only documents on disk tell whose a folder is
	if err != nil {
		a.log.Warn("projects", "error", err)
	}
	for _, other := range known {
		if other.ID != p.ID && other.Root != p.Root {
			o.Projects = append(o.Projects, other.Root)
		}
	}
	if o.Writers, err = a.store.Writers(p.ID, drives); err != nil {
		a.log.Warn("write points", "error", err)
	}
	declared, err := a.store.Declared(drives)
	if err != nil {
		a.log.Warn("declared folders", "error", err)
	}
	for _, d := range declared {
		if d.Kind == origin.AsLibrary {
			o.Libraries = append(o.Libraries, d.Path)
		} else {
			o.Stores = append(o.Stores, d.Path)
		}
	}
	return o
}

// mostCalled is how many places of one name are told: of more none is the one.
const mostCalled = 3

// called are the files, or the folders, of a name that the index of all drives holds.
func (a *App) called(name string, folder bool, drives []drive.Drive) (list []string, err error) {
	x, err := a.store.Catalogue(drives)
	if err != nil {
		return nil, err
	}
	if folder {
		list = x.Folders(name)
	} else {
		named, err := x.Named(name)
		if err != nil {
			return nil, err
		}
		for _, e := range named {
			if filepath.Base(e.Path) == name {
				list = append(list, e.Path)
			}
		}
	}
	return list[:min(len(list), mostCalled)], nil
}
