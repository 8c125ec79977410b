package store

import (
	"errors"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/origin"
)

// Surround tells what is known around a project, for judging where its material lives: the
// user's habits, other projects, who else writes where, companions that stood once, what
// the drive index holds. project is 0 for documents that no project has. What cannot be
// told is left out, and is the error.
func (s *Store) Surround(o *origin.Options, project int64, root string, drives []drive.Drive) error {
	var errs []error
	keep := func(err error) bool {
		errs = append(errs, err)
		return err == nil
	}
	if habits, err := s.Habits(); keep(err) {
		o.Habits = &habits
	}
	if once, err := s.Besides(drives); keep(err) {
		o.Once = func(path string) bool { return once[path] }
	}
	o.Called = func(name string, folder bool) (there []string) {
		list, err := s.Called(name, folder, drives) // as of when the drive was looked through
		if err != nil {
			return nil
		}
		for _, p := range list {
			if _, err := o.Reach.Stat(p); err == nil {
				there = append(there, p)
			}
		}
		return there
	}
	o.Alike = func(x, y string) bool { return s.Alike(x, y, drives) }
	if known, err := s.Projects(); keep(err) { // without them only documents on disk tell whose a folder is
		for _, other := range known {
			if other.ID != project && other.Root != root {
				o.Projects = append(o.Projects, other.Root)
			}
		}
	}
	var err error
	o.Writers, err = s.Writers(project, drives)
	keep(err)
	if declared, err := s.Declared(drives); keep(err) {
		for _, d := range declared {
			if d.Kind == origin.AsLibrary {
				o.Libraries = append(o.Libraries, d.Path)
			} else {
				o.Stores = append(o.Stores, d.Path)
			}
		}
	}
	return errors.Join(errs...)
}

// MaxCalled is how many places of one name are told: of more none is the one.
const MaxCalled = 3

// Called are the files, or the folders, of a name that the index of all drives holds.
func (s *Store) Called(name string, folder bool, drives []drive.Drive) (list []string, err error) {
	x, err := s.Catalogue(drives)
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
	return list[:min(len(list), MaxCalled)], nil
}
