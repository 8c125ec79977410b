//go:build linux || darwin

package fileset

import (
	"bytes"
	"errors"
	"os"
	"strings"
	"syscall"

	"golang.org/x/sys/unix"
)

// copyAttributes gives a new file what another has beside its bytes: extended attributes, owner and
// group. What the system lets nobody set stays as it is; what a user set himself and cannot be
// kept is an error.
func copyAttributes(path, fresh string) error {
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	if st, ok := info.Sys().(*syscall.Stat_t); ok {
		if now, err := os.Stat(fresh); err == nil {
			if is, ok := now.Sys().(*syscall.Stat_t); ok && (is.Uid != st.Uid || is.Gid != st.Gid) {
				if os.Lchown(fresh, int(st.Uid), int(st.Gid)) != nil && is.Gid != st.Gid {
					_ = os.Lchown(fresh, -1, int(st.Gid)) // a group of one's own may be given where another owner may not
				}
				_ = os.Chmod(fresh, now.Mode().Perm()) // which giving it away may have narrowed
			}
		}
	}
	size, err := unix.Listxattr(path, nil)
	if err != nil || size == 0 {
		return nil // the file system has none
	}
	names := make([]byte, size)
	if size, err = unix.Listxattr(path, names); err != nil {
		return err
	}
	for name := range bytes.SplitSeq(names[:size], []byte{0}) {
		if len(name) == 0 {
			continue
		}
		if err := copyAttribute(path, fresh, string(name)); err != nil && strings.HasPrefix(string(name), "user.") {
			return &os.PathError{Op: "setxattr " + string(name), Path: path, Err: err}
		}
	}
	return nil
}

func copyAttribute(path, fresh, name string) error {
	size, err := unix.Getxattr(path, name, nil)
	if err != nil {
		return err
	}
	value := make([]byte, size)
	if size > 0 {
		if size, err = unix.Getxattr(path, name, value); err != nil {
			return err
		}
	}
	err = unix.Setxattr(fresh, name, value[:size], 0)
	if errors.Is(err, unix.ENOTSUP) {
		return nil // neither has them
	}
	return err
}
