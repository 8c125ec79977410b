package fileset

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// Clone makes a file that shares its storage until one of the two is written to (ioctl FICLONE).
func Clone(from, to string) error {
	src, err := os.Open(from)
	if err != nil {
		return err
	}
	defer src.Close()
	dst, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	err = unix.IoctlFileClone(int(dst.Fd()), int(src.Fd()))
	if errors.Is(err, unix.ENOTTY) { // what file systems say that have never heard of it
		err = errors.Join(err, errors.ErrUnsupported)
	}
	if err = errors.Join(err, dst.Close()); err != nil {
		os.Remove(to)
	}
	return err
}
