package fileset

import (
	"errors"
	"os"
)

// ErrNoSharing: the file system can neither clone files nor link them.
var ErrNoSharing = errors.New("the file system shares no storage between files")

// Share makes a file of the same bytes without copying them: a clone, where the file system has them,
// else another name of the same file. Whoever writes into a linked file changes both, so it is to be
// replaced, never written into. Nothing may stand at to.
func Share(from, to string) (linked bool, err error) {
	if Clone(from, to) == nil {
		return false, nil
	}
	if err := os.Link(from, to); err != nil {
		return false, errors.Join(ErrNoSharing, err)
	}
	return true, nil
}
