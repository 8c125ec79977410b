package ability

import (
	"os"

	"golang.org/x/sys/unix"
)

// clone gives a file the storage of another, which takes neither time nor room (ioctl_ficlone(2)).
func clone(from, to string) error {
	src, err := os.Open(from)
	if err != nil {
		return err
	}
	defer src.Close()
	dst, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	defer dst.Close()
	return unix.IoctlFileClone(int(dst.Fd()), int(src.Fd()))
}
