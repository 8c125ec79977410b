// Package ability finds out what a folder's file system can do, by doing it with files of its
// own that it takes away again.
package ability

import (
	"errors"
	"os"
	"path/filepath"
	"time"

	"github.com/fsnotify/fsnotify"
	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// What is something a file system can do, or not.
type What string

// What is tried, in this order. Without the first none of the others is.
const (
	Writes   What = "writes"
	Room     What = "room"
	HardLink What = "hard-links"
	Link     What = "links"
	Clone    What = "clones"
	Lock     What = "locks"
	Case     What = "letter-case" // names that differ in letter case alone are two files
	Sync     What = "syncs"       // a folder's names can be made safe
	Watch    What = "watches"     // changes are told
)

// Tried is what came of trying something.
type Tried struct {
	What   What
	Can    bool
	Needed bool  // without it the folder cannot be worked in
	Free   int64 // of Room, bytes
	Err    error // why not
}

// leastRoom is what Bound Crate needs for itself at the least, in bytes.
const leastRoom = 100_000_000

// Of tries a folder. It leaves nothing behind.
func Of(dir string) (list []Tried) {
	add := func(t Tried) { list = append(list, t) }
	own, err := os.MkdirTemp(dir, ".boundcrate-try-")
	add(Tried{What: Writes, Can: err == nil, Needed: true, Err: err})
	if err != nil {
		return list
	}
	defer os.RemoveAll(own)
	if u, err := disk.Usage(dir); err != nil {
		add(Tried{What: Room, Err: err})
	} else {
		add(Tried{What: Room, Can: u.Free >= leastRoom, Needed: true, Free: int64(u.Free)})
	}
	file := filepath.Join(own, "a")
	try := func(what What, f func() error) {
		err := f()
		add(Tried{What: what, Can: err == nil, Err: err})
	}
	if err := os.WriteFile(file, []byte("gull"), 0o600); err != nil {
		list[0].Can, list[0].Err = false, err
		return list
	}
	try(HardLink, func() error { return os.Link(file, filepath.Join(own, "b")) })
	try(Link, func() error { return os.Symlink("a", filepath.Join(own, "c")) })
	try(Clone, func() error { return fileset.Clone(file, filepath.Join(own, "d")) })
	try(Lock, func() error { return locks(file) })
	try(Case, func() error {
		_, err := os.Stat(filepath.Join(own, "A"))
		if err == nil {
			return errOneName
		}
		return nil
	})
	try(Sync, func() error { return fileset.SyncDir(own) })
	try(Watch, func() error { return watches(own) })
	return list
}

var (
	errOneName = errors.New("a and A are one name")
	errTwice   = errors.New("two held it at once")
	errQuiet   = errors.New("no change was told within a second")
)

func locks(file string) error {
	f, held, err := drive.Hold(file, os.O_RDWR)
	if err != nil || !held {
		return errors.Join(err, errors.ErrUnsupported)
	}
	defer f.Close()
	again, twice, err := drive.Hold(file, os.O_RDWR)
	if twice {
		again.Close()
		return errTwice
	}
	return err
}

// told is how long a change may take to be told.
const told = time.Second

func watches(dir string) error {
	w, err := fsnotify.NewWatcher()
	if err != nil {
		return err
	}
	defer w.Close()
	if err := w.Add(dir); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "new"), nil, 0o600); err != nil {
		return err
	}
	select {
	case <-w.Events:
		return nil
	case err := <-w.Errors:
		return err
	case <-time.After(told):
		return errQuiet
	}
}
