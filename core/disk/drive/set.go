package drive

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// Set reaches the given drives and nothing else, each through [os.Root], so
// that no name and no link leads out. A link whose target lies on another of
// the drives is followed there.
type Set struct{ Drives []Drive }

// at finds the drive and the name within it.
func (s Set) at(path string) (Drive, string, error) {
	path = filepath.Clean(path)
	d, ok := Find(s.Drives, path)
	if !ok {
		return Drive{}, "", &fs.PathError{Op: "open", Path: path, Err: ErrOutside}
	}
	if !d.Connected() {
		return Drive{}, "", &fs.PathError{Op: "open", Path: path, Err: ErrUnplugged}
	}
	rel, err := filepath.Rel(d.Dir, path)
	if err != nil {
		return Drive{}, "", err
	}
	return d, rel, nil
}

func (s Set) open(path string) (*os.File, error) {
	d, rel, err := s.at(path)
	if err != nil {
		return nil, err
	}
	f, err := openInRoot(d.Dir, rel)
	if err == nil || errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
		return f, err
	}
	// The root refused: perhaps a link that leads to another drive.
	real, lerr := filepath.EvalSymlinks(path)
	if lerr != nil || real == filepath.Clean(path) {
		return nil, err
	}
	d, rel, lerr = s.at(real)
	if lerr != nil {
		return nil, lerr
	}
	return openInRoot(d.Dir, rel)
}

// whole makes an error of os.Root, which knows names below its folder only,
// name the file by its whole path.
func whole(dir string, err error) error {
	var pe *fs.PathError
	if errors.As(err, &pe) && !filepath.IsAbs(pe.Path) {
		return &fs.PathError{Op: pe.Op, Path: filepath.Join(dir, pe.Path), Err: pe.Err}
	}
	return err
}

func openInRoot(dir, rel string) (f *os.File, err error) {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	defer func() { err = whole(dir, err) }()
	f, err = root.OpenFile(rel, os.O_RDONLY|nonblock, 0) // a pipe would block until somebody writes into it
	return f, notOpened(filepath.Join(dir, rel), err)
}

// Stat implements Reach.
func (s Set) Stat(path string) (Info, error) {
	d, rel, err := s.at(path)
	if err != nil {
		return Info{}, err
	}
	root, err := os.OpenRoot(d.Dir)
	if err != nil {
		return Info{}, err
	}
	defer root.Close()
	fi, err := root.Stat(rel)
	real := filepath.Clean(path)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
			return Info{}, whole(d.Dir, err)
		}
		if real, err = filepath.EvalSymlinks(path); err != nil {
			return Info{}, err
		}
		if _, _, err = s.at(real); err != nil {
			return Info{}, err
		}
		if fi, err = os.Stat(real); err != nil {
			return Info{}, err
		}
	} else if r, err := filepath.EvalSymlinks(path); err == nil {
		real = r
	}
	return infoOf(fi, real), nil
}

// Lstat implements Reach.
func (s Set) Lstat(path string) (Info, error) {
	d, rel, err := s.at(path)
	if err != nil {
		return Info{}, err
	}
	root, err := os.OpenRoot(d.Dir)
	if err != nil {
		return Info{}, err
	}
	defer root.Close()
	fi, err := root.Lstat(rel)
	if err == nil {
		return infoOf(fi, ""), nil
	}
	if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
		return Info{}, whole(d.Dir, err)
	}
	return s.Stat(path) // a folder on the way is a link to another drive
}

// Open implements Reach.
func (s Set) Open(path string) (File, error) {
	f, err := s.open(path)
	if err != nil {
		return nil, err
	}
	return regular(f, path)
}

// ReadDir implements Reach. A folder no drive holds but that leads to one
// (the parent of all drives) cannot be listed.
func (s Set) ReadDir(path string) ([]fs.DirEntry, error) {
	f, err := s.open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	es, err := f.ReadDir(-1)
	sortEntries(es)
	return es, err
}

func sortEntries(es []fs.DirEntry) {
	for i := 1; i < len(es); i++ {
		if es[i-1].Name() > es[i].Name() {
			sortByName(es)
			return
		}
	}
}

// Confined reaches one folder and nothing else: what a crate is proved with.
type Confined struct{ Dir string }

func (c Confined) set() Set { return Set{[]Drive{{ID: "crate", Name: "crate", Dir: c.Dir}}} }

// Stat implements Reach.
func (c Confined) Stat(path string) (Info, error) { return c.set().Stat(path) }

// Lstat implements Reach.
func (c Confined) Lstat(path string) (Info, error) { return c.set().Lstat(path) }

// Open implements Reach.
func (c Confined) Open(path string) (File, error) { return c.set().Open(path) }

// ReadDir implements Reach.
func (c Confined) ReadDir(path string) ([]fs.DirEntry, error) { return c.set().ReadDir(path) }

// Label shows a path as "Bench/tide-clock/film/x.wav" where a drive holds it.
func Label(drives []Drive, path string) string {
	d, ok := Find(drives, path)
	if !ok {
		return path
	}
	return strings.TrimSuffix(d.Name+strings.TrimPrefix(path, strings.TrimSuffix(d.Dir, "/")), "/")
}
