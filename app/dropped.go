package app

import (
	"context"
	"path/filepath"
	"regexp"

	"boundcrate/app/api/overview"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
)

// maxDropped bounds the files that are looked up at once, and the places told of each.
const maxDropped = 20

// archive is a name that a crate in one file has.
var archive = regexp.MustCompile(`(?i)\.(zip|tar|tgz|tar\.gz|tar\.zst)$`)

// Dropped tells where on the drives files are that a person dropped on the window: a browser
// tells their names and sizes, and no path. The drive index answers, and each place is looked at.
func (a *App) Dropped(ctx context.Context, in overview.Dropped) (overview.DroppedList, error) {
	out := overview.DroppedList{List: []overview.DroppedFile{}, NotFound: []string{}}
	if len(in.Files) == 0 || len(in.Files) > maxDropped {
		return out, fault.Say(fault.Wrong, "Number of files", "Drop between 1 and 20 files.")
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	x, err := a.store.Catalogue(reach.Drives)
	if err != nil {
		return out, err
	}
	for _, f := range in.Files {
		named, err := x.Named(f.Name)
		if err != nil {
			return out, err
		}
		found := 0
		for _, e := range named {
			if ctx.Err() != nil {
				return out, ctx.Err()
			}
			info, err := reach.Stat(e.Path)
			if filepath.Base(e.Path) != f.Name || err != nil || !info.Mode.IsRegular() || info.Size != f.Size || found == maxDropped {
				continue
			}
			found++
			format := a.claims(reach, e.Path, facts.KindOfName(e.Path))
			out.List = append(out.List, overview.DroppedFile{Name: f.Name, Path: e.Path, Label: drive.Label(reach.Drives, e.Path), Format: format, Archive: archive.MatchString(f.Name)})
		}
		if found == 0 {
			out.NotFound = append(out.NotFound, f.Name)
		}
	}
	return out, nil
}
