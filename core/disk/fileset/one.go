package fileset

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"syscall"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/names"
)

// Reachable tells that what would be made in a folder comes to lie where a reach allows it to:
// the nearest folder that is there is asked, through all links. A link that leads out of the
// drives is refused so.
func Reachable(reach drive.Reach, dir string) error {
	for {
		if _, err := os.Lstat(dir); err == nil || !errors.Is(err, fs.ErrNotExist) || filepath.Dir(dir) == dir {
			break
		}
		dir = filepath.Dir(dir)
	}
	info, err := reach.Stat(dir)
	if err == nil && !info.Mode.IsDir() {
		err = fs.ErrExist
	}
	if err != nil {
		return &Error{dir, err}
	}
	return nil
}

// Replace writes one file whole or not at all: under a temporary name in the same
// folder, synced, renamed, the folder synced. What stood there before is gone only when
// the new file is safe.
func Replace(path string, mode os.FileMode, write func(io.Writer) error) error {
	tmp, err := temp(filepath.Dir(path), tempMark, mode, time.Time{}, write)
	if err != nil {
		return err
	}
	if err := os.Rename(tmp, path); err != nil {
		os.Remove(tmp)
		return err
	}
	return SyncDir(filepath.Dir(path))
}

// Create makes a new file whole or not at all, at a name that nothing has: under a
// temporary name in the same folder, synced, then named.
func Create(path string, mode os.FileMode, write func(io.Writer) error) error {
	return create(path, tempMark, mode, time.Time{}, write, nil)
}

func create(path, mark string, mode os.FileMode, mod time.Time, write func(io.Writer) error, written func(tmp string) error) error {
	tmp, err := temp(filepath.Dir(path), mark, mode, mod, write)
	if err != nil {
		return err
	}
	defer os.Remove(tmp) // where it has its own name, that of the time being is gone or goes
	if written != nil {
		if err := written(tmp); err != nil {
			return err
		}
	}
	if err := Name(tmp, path); err != nil {
		return err
	}
	return SyncDir(filepath.Dir(path))
}

// temp writes a file under a name for the time being, and makes it safe.
func temp(dir, mark string, mode os.FileMode, mod time.Time, write func(io.Writer) error) (name string, err error) {
	f, err := os.CreateTemp(dir, mark+"*")
	if err != nil {
		return "", err
	}
	w := bufio.NewWriterSize(f, 1<<18)
	if err = write(w); err == nil {
		err = w.Flush()
	}
	if err = errors.Join(err, f.Chmod(mode)); err == nil && !mod.IsZero() {
		err = os.Chtimes(f.Name(), mod, mod)
	}
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		os.Remove(f.Name())
		return "", err
	}
	return f.Name(), nil
}

// SyncDir makes the names in a folder safe, where its file system can.
func SyncDir(dir string) error {
	_, err := synced(dir)
	return err
}

// synced is SyncDir; false where the file system has no way to say so (EINVAL, ENOTSUP),
// which is no failure of the writing.
func synced(dir string) (bool, error) {
	d, err := os.Open(dir)
	if err != nil {
		return false, err
	}
	defer d.Close()
	if err = d.Sync(); errors.Is(err, syscall.EINVAL) || errors.Is(err, syscall.ENOTSUP) {
		return false, nil
	}
	return err == nil, err
}

// Name gives a file another name that nothing has; a name that is taken is
// fs.ErrExist. Where the file system has no links, another could take the name in
// between.
func Name(from, to string) error {
	err := os.Link(from, to)
	if err == nil || errors.Is(err, fs.ErrExist) {
		return err
	}
	if _, err := os.Lstat(to); !errors.Is(err, fs.ErrNotExist) {
		return fs.ErrExist
	}
	return os.Rename(from, to)
}

// Free is a path in a folder for a file of some name, with a number behind it where
// one of the name is there or taken already; taken then holds it.
func Free(reach drive.Reach, taken map[string]bool, dir, name string) string {
	stem, ext := names.Split(name)
	for n := 1; ; n++ {
		at := filepath.Join(dir, name)
		if n > 1 {
			at = filepath.Join(dir, fmt.Sprintf("%s-%d%s", stem, n, ext))
		}
		// Whatever else keeps it from being looked at, making it will say.
		if _, err := reach.Lstat(at); err != nil && !taken[names.Same(at)] {
			taken[names.Same(at)] = true
			return at
		}
	}
}

// missing are a folder and those above it as far as they are not there, the outermost first.
func missing(dir string) (list []string) {
	for d := dir; ; d = filepath.Dir(d) {
		if _, err := os.Stat(d); err == nil || filepath.Dir(d) == d {
			slices.Reverse(list)
			return list
		}
		list = append(list, d)
	}
}

// MakeDirs makes a folder and those above it, and returns the ones it made, the
// outermost first.
func MakeDirs(dir string) (made []string, err error) {
	if _, err := os.Stat(dir); err == nil {
		return nil, nil
	}
	if made, err = MakeDirs(filepath.Dir(dir)); err != nil {
		return made, err
	}
	err = os.Mkdir(dir, 0o755)
	if err == nil {
		return append(made, dir), nil
	}
	if info, serr := os.Stat(dir); serr == nil && info.IsDir() {
		return made, nil // another made it meanwhile
	}
	return made, err
}
