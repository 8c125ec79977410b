//go:build unix

package drive

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// Lock takes a file or folder for this process; it is let go when it is closed,
// also by the process's death. held is false where another has it.
func Lock(f *os.File) (held bool, err error) {
	err = unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return false, nil
	}
	return err == nil, err
}
