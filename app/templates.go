package app

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"boundcrate/app/api/overview"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/store"
)

// Templates are what a new project's folder can be made from.
func (a *App) Templates(ctx context.Context) (overview.Templates, error) {
	out := overview.Templates{List: []overview.TemplateOf{}, At: filepath.Join(a.store.Dir(), "templates")}
	list, err := a.store.Templates()
	if err != nil {
		out.Odd = err.Error()
	}
	for _, t := range list {
		out.List = append(out.List, overview.TemplateOf{Title: t.Title, Folders: append([]string{}, t.Folders...)})
	}
	return out, nil
}

// newFolder is where a folder of a name would be made in another one within the drives.
func (a *App) newFolder(dir, name string) (at string, reach drive.Set, err error) {
	plainName := strings.TrimSpace(name)
	if !plain(plainName) {
		return "", reach, fault.Say(fault.Wrong, "Not a name", "‘"+name+"’ cannot be the name of a folder.")
	}
	if reach, err = a.reach(); err != nil {
		return "", reach, err
	}
	dir = filepath.Clean(dir)
	return filepath.Join(dir, plainName), reach, checkFolder(reach, dir)
}

// Begin makes the folder of a new project within the drives.
func (a *App) Begin(ctx context.Context, in overview.Begin) (overview.Begun, error) {
	list, lerr := a.store.Templates()
	if in.Template < 0 || in.Template >= len(list) {
		return overview.Begun{}, errors.Join(store.ErrNotFound, lerr)
	}
	at, reach, err := a.newFolder(in.Folder, in.Name)
	if err != nil {
		return overview.Begun{}, err
	}
	switch err := list[in.Template].Make(at); {
	case errors.Is(err, fs.ErrExist):
		return overview.Begun{}, fault.Say(fault.Conflict, "That name is taken", "‘"+drive.Label(reach.Drives, at)+"’ already exists. Nothing was created.")
	case err != nil:
		return overview.Begun{}, err
	}
	return overview.Begun{Path: at, Label: drive.Label(reach.Drives, at)}, nil
}

// MakeFolder makes one empty folder within the drives, for whoever chooses where something goes.
func (a *App) MakeFolder(ctx context.Context, in overview.MakeFolder) (overview.Begun, error) {
	at, reach, err := a.newFolder(in.Dir, in.Name)
	if err != nil {
		return overview.Begun{}, err
	}
	if err := fileset.Reachable(reach, at); err != nil {
		return overview.Begun{}, err
	}
	switch err := os.Mkdir(at, 0o755); {
	case errors.Is(err, fs.ErrExist):
		return overview.Begun{}, fault.Say(fault.Conflict, "That name is taken", "‘"+drive.Label(reach.Drives, at)+"’ already exists. Nothing was created.")
	case err != nil:
		return overview.Begun{}, err
	}
	return overview.Begun{Path: at, Label: drive.Label(reach.Drives, at)}, nil
}
