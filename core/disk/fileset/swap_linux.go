package fileset

import "golang.org/x/sys/unix"

// exchange lets two names change places at once.
func exchange(a, b string) error {
	return unix.Renameat2(unix.AT_FDCWD, a, unix.AT_FDCWD, b, unix.RENAME_EXCHANGE)
}
