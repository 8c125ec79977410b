//go:build !unix

package drive

import "io/fs"

const nonblock = 0

func nodeOf(fs.FileInfo) Node { return Node{} }
