//go:build !unix

package drive

import "io/fs"

const nonblock = 0

// NodeOf tells nothing: this system has no inodes.
func NodeOf(fs.FileInfo) Node { return Node{} }
