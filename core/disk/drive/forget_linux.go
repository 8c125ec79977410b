package drive

import (
	"io"

	"golang.org/x/sys/unix"
)

// Forget drops a file from the system's memory, so that reading it asks the drive.
// Where the system declines, the read is still made.
func Forget(f io.Closer) {
	if file, ok := f.(interface{ Fd() uintptr }); ok {
		_ = unix.Fadvise(int(file.Fd()), 0, 0, unix.FADV_DONTNEED)
	}
}
