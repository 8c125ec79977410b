package fileset

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
)

// Swap puts a folder that is whole in the place of another, which then lies at aside,
// a name that nothing has. Where the system can (renameat2 on Linux), the two change
// places at once, so that at no moment there is none.
func Swap(fresh, path, aside string) error {
	if err := exchange(fresh, path); err == nil {
		return errors.Join(os.Rename(fresh, aside), SyncDir(filepath.Dir(path)))
	}
	if err := os.Rename(path, aside); err != nil {
		return err
	}
	if err := os.Rename(fresh, path); err != nil {
		return errors.Join(err, os.Rename(aside, path))
	}
	return SyncDir(filepath.Dir(path))
}

// Inventory is every file below a folder, as it stands, by its path from there.
func Inventory(dir string) (map[string]drive.Stamp, error) {
	files := map[string]drive.Stamp{}
	err := filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		info, err := (drive.System{}).Lstat(p)
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(dir, p)
		files[filepath.ToSlash(rel)] = info.Stamp()
		return err
	})
	return files, err
}

// ranks is how many ranks there are.
const ranks = 3

// Discard removes the files of an inventory, each only as long as it is what was told of
// it, in the order of their ranks (0, 1, 2), and the folders that then hold nothing. What came or changed since stays; kept are
// the paths of that.
func Discard(dir string, of map[string]drive.Stamp, rank func(rel string) int) (kept []string, err error) {
	now, err := Inventory(dir)
	if err != nil {
		return nil, err
	}
	for turn := range ranks {
		for rel, stamp := range now {
			if rank(rel) != turn {
				continue
			}
			p := filepath.Join(dir, filepath.FromSlash(rel))
			if was, known := of[rel]; !known || was != stamp {
				kept = append(kept, p)
				continue
			}
			if err := os.Remove(p); err != nil {
				return kept, err
			}
		}
	}
	slices.Sort(kept)
	var folders []string
	_ = filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.IsDir() {
			folders = append(folders, p)
		}
		return nil
	})
	for _, f := range slices.Backward(folders) {
		os.Remove(f) // where nothing is in it
	}
	return kept, nil
}
