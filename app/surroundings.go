package app

import (
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/origin"
	"boundcrate/store"
)

// surroundings is what is known around a project, for judging where its material
// lives. What the store cannot tell is not said.
func (a *App) surroundings(p store.Project, drives []drive.Drive, reach drive.Reach) origin.Options {
	o := origin.Options{Reach: reach, Drives: drives}
	if err := a.store.Surround(&o, p.ID, p.Root, drives); err != nil {
		a.log.Warn("surroundings", "error", err)
	}
	return o
}
