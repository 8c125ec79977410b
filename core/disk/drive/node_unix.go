//go:build unix

package drive

import (
	"io/fs"
	"syscall"
)

// nonblock opens pipes and the like without waiting for somebody at the other
// end.
const nonblock = syscall.O_NONBLOCK

// NodeOf is the inode of what was looked at, and when that last changed.
func NodeOf(fi fs.FileInfo) Node {
	st, ok := fi.Sys().(*syscall.Stat_t)
	if !ok {
		return Node{}
	}
	return Node{uint64(st.Dev), st.Ino, changed(st)}
}
