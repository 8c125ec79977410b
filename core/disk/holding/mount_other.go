//go:build !linux

package holding

import (
	"io/fs"
	"path/filepath"

	"boundcrate/core/disk/drive"
)

// mountIn is a folder below another that lies on another file system; "" where there is none.
func mountIn(dir string) (found string) {
	top, err := drive.System{}.Lstat(dir)
	if err != nil {
		return dir
	}
	_ = filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			found = p
			return fs.SkipAll
		}
		if info, err := (drive.System{}).Lstat(p); d.IsDir() && (err != nil || info.Node.Dev != top.Node.Dev) {
			found = p
			return fs.SkipAll
		}
		return nil
	})
	return found
}
