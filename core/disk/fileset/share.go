package fileset

import (
	"errors"
	"os"
	"sync"

	"boundcrate/core/disk/drive"
)

// ErrNoSharing: the file system can neither clone files nor link them.
var ErrNoSharing = errors.New("the file system shares no storage between files")

// Share makes a file of the same bytes without copying them: a clone, where the file system has them,
// else another name of the same file. Whoever writes into a linked file changes both, so it is to be
// replaced, never written into. Nothing may stand at to.
func Share(from, to string) (linked bool, err error) {
	fi, err := os.Lstat(from)
	if err != nil {
		return false, errors.Join(ErrNoSharing, err)
	}
	dev := drive.NodeOf(fi).Dev
	if _, never := unclonable.Load(dev); !never || dev == 0 {
		err := Clone(from, to)
		if err == nil {
			return false, nil
		}
		if errors.Is(err, errors.ErrUnsupported) {
			unclonable.Store(dev, true)
		}
	}
	if err := os.Link(from, to); err != nil {
		return false, errors.Join(ErrNoSharing, err)
	}
	return true, nil
}

// unclonable are the numbers of devices whose file systems said that they do not clone: they are not asked for every
// file.
var unclonable sync.Map
