package drive

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"boundcrate/core/names"
)

// Replace writes a file whole or not at all: under a temporary name in the
// same folder, synced, renamed, the folder synced. What stood there before is
// gone only when the new file is safe.
func Replace(path string, mode os.FileMode, write func(io.Writer) error) (err error) {
	dir := filepath.Dir(path)
	f, err := os.CreateTemp(dir, ".boundcrate-*")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			f.Close()
			os.Remove(f.Name())
		}
	}()
	w := bufio.NewWriterSize(f, 1<<18)
	if err = write(w); err != nil {
		return err
	}
	if err = w.Flush(); err != nil {
		return err
	}
	if err = f.Chmod(mode); err != nil {
		return err
	}
	if err = f.Sync(); err != nil {
		return err
	}
	if err = f.Close(); err != nil {
		return err
	}
	if err = os.Rename(f.Name(), path); err != nil {
		return err
	}
	return SyncDir(dir)
}

// SyncDir makes the names in a folder safe.
func SyncDir(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}

// Hold opens a file or folder that exists and takes it for this process. held is
// false where another has it, or has put something else in its place meanwhile;
// then it is closed again.
func Hold(path string, flag int) (f *os.File, held bool, err error) {
	if f, err = os.OpenFile(path, flag, 0o644); err != nil {
		return nil, false, err
	}
	if held, err = Lock(f); err == nil && held {
		a, err1 := f.Stat()
		b, err2 := os.Stat(path)
		held = err1 == nil && err2 == nil && os.SameFile(a, b)
	}
	if err != nil || !held {
		f.Close()
		return nil, false, err
	}
	return f, true, nil
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

// Create makes a new file whole or not at all, at a name that nothing has: under a
// temporary name in the same folder, synced, then named. written, where it is not
// nil, is told the temporary name before: its error leaves nothing.
func Create(path string, mode os.FileMode, write func(io.Writer) error, written func(tmp string) error) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".boundcrate-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if err := errors.Join(write(f), f.Chmod(mode), f.Sync(), f.Close()); err != nil {
		return err
	}
	if written != nil {
		if err := written(f.Name()); err != nil {
			return err
		}
	}
	return errors.Join(Name(f.Name(), path), SyncDir(filepath.Dir(path)))
}

// Free is a path in a folder for a file of some name, with a number behind it where
// one of the name is there or taken already; taken then holds it.
func Free(reach Reach, taken map[string]bool, dir, name string) string {
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

// MakeDirs makes a folder and those above it, and returns the ones it made, the
// outermost first.
func MakeDirs(dir string) (made []string, err error) {
	if _, err := os.Stat(dir); err == nil {
		return nil, nil
	}
	if made, err = MakeDirs(filepath.Dir(dir)); err != nil {
		return made, err
	}
	if err = os.Mkdir(dir, 0o755); err == nil {
		made = append(made, dir)
	}
	return made, err
}

// ContextReader is r until ctx ends.
func ContextReader(ctx context.Context, r io.Reader) io.Reader { return contextReader{ctx, r} }

type contextReader struct {
	ctx context.Context
	r   io.Reader
}

func (c contextReader) Read(b []byte) (int, error) {
	if err := c.ctx.Err(); err != nil {
		return 0, err
	}
	return c.r.Read(b)
}
