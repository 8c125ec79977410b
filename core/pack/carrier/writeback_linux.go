package carrier

import (
	"os"

	"golang.org/x/sys/unix"
)

// startWriteback lets the system begin to write a file out while the next one
// is copied; making it safe waits for less then.
func startWriteback(f *os.File) {
	_ = unix.SyncFileRange(int(f.Fd()), 0, 0, unix.SYNC_FILE_RANGE_WRITE) // only a hint
}
