package drive

import (
	"context"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
)

func sortByName(es []fs.DirEntry) {
	slices.SortFunc(es, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
}

// Entry is one file met by Walk.
type Entry struct {
	Path string
	Size int64
}

// Walk calls each for every regular file below dir, folders in order of names.
// Links are not followed, so that no cycle can hold it; folders that cannot be
// read are passed over. It stops when ctx ends.
func Walk(ctx context.Context, r Reach, dir string, each func(Entry) error) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	entries, err := r.ReadDir(dir)
	if err != nil {
		return nil
	}
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		switch {
		case e.IsDir():
			if err := Walk(ctx, r, path, each); err != nil {
				return err
			}
		case e.Type().IsRegular():
			fi, err := e.Info()
			if err != nil {
				continue // gone in between
			}
			if err := each(Entry{path, fi.Size()}); err != nil {
				return err
			}
		}
	}
	return ctx.Err()
}
