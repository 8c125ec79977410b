package fileset

import (
	"errors"
	"os"
	"path/filepath"
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

// Shares tells whether files of a folder can share their storage, by trying it with files that are taken away again;
// of a folder that cannot be written to nothing is known, and it is not said that it cannot. The answer is not kept: the
// next drive that is plugged in may have the same device number.
func Shares(dir string) bool {
	own, err := os.MkdirTemp(dir, ".boundcrate-try-")
	if err != nil {
		return true
	}
	defer os.RemoveAll(own)
	from := filepath.Join(own, "a")
	if err := os.WriteFile(from, []byte("a"), 0o600); err != nil {
		return true
	}
	_, err = Share(from, filepath.Join(own, "b"))
	return err == nil
}
