package holding

import (
	"io/fs"
	"path/filepath"

	"golang.org/x/sys/unix"
)

// mountIn is a folder at or below another at which something else is mounted, also a folder
// of the same file system; "" where there is none. What cannot be looked into is told as one.
func mountIn(dir string) (found string) {
	_ = filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			found = p
			return fs.SkipAll
		}
		if !d.IsDir() {
			return nil
		}
		var st unix.Statx_t
		if err := unix.Statx(unix.AT_FDCWD, p, unix.AT_SYMLINK_NOFOLLOW|unix.AT_NO_AUTOMOUNT, unix.STATX_BASIC_STATS, &st); err != nil || st.Attributes&unix.STATX_ATTR_MOUNT_ROOT != 0 {
			found = p
			return fs.SkipAll
		}
		return nil
	})
	return found
}
