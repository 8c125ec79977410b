package relocate

import (
	"errors"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
)

// File is where the bytes of a file lie for the time being.
type File struct {
	Reach drive.Reach
	Path  string
}

// Laid is a reach over files that lie elsewhere for the time being: each path it knows is a file under another
// name. What it does not know is looked for in Under; with nil nothing else is reachable.
type Laid struct {
	Under drive.Reach
	files map[string]File // by how they are called
	dirs  map[string]map[string]fs.DirEntry
}

// Lay makes one of files by how they are called, absolute.
func Lay(files map[string]File, under drive.Reach) *Laid {
	l := &Laid{under, files, map[string]map[string]fs.DirEntry{}}
	for as, is := range files {
		var e fs.DirEntry = entry{name: filepath.Base(as), at: is}
		for at := filepath.Dir(as); ; at = filepath.Dir(at) {
			known := l.dirs[at] != nil
			if !known {
				l.dirs[at] = map[string]fs.DirEntry{}
			}
			if was, ok := l.dirs[at][e.Name()]; !ok || was.IsDir() == e.IsDir() {
				l.dirs[at][e.Name()] = e
			}
			if known || at == filepath.Dir(at) {
				break
			}
			e = entry{name: filepath.Base(at), dir: true}
		}
	}
	return l
}

func none(p string) error { return &fs.PathError{Op: "open", Path: p, Err: fs.ErrNotExist} }

// Stat implements drive.Reach.
func (l *Laid) Stat(p string) (drive.Info, error) {
	if at, ok := l.files[p]; ok {
		info, err := at.Reach.Stat(at.Path)
		info.Real = p
		return info, err
	}
	if l.Under != nil {
		if info, err := l.Under.Stat(p); err == nil || !errors.Is(err, fs.ErrNotExist) {
			return info, err
		}
	}
	if l.dirs[p] != nil {
		return drive.Info{Mode: fs.ModeDir | 0o755, Real: p}, nil
	}
	return drive.Info{}, none(p)
}

// Lstat implements drive.Reach: nothing that is laid is a link.
func (l *Laid) Lstat(p string) (drive.Info, error) {
	if _, ok := l.files[p]; !ok && l.Under != nil {
		if info, err := l.Under.Lstat(p); err == nil || l.dirs[p] == nil {
			return info, err
		}
	}
	info, err := l.Stat(p)
	info.Real = ""
	return info, err
}

// Open implements drive.Reach.
func (l *Laid) Open(p string) (drive.File, error) {
	at, ok := l.files[p]
	switch {
	case ok:
		return at.Reach.Open(at.Path)
	case l.Under != nil:
		return l.Under.Open(p)
	case l.dirs[p] != nil:
		return nil, &fs.PathError{Op: "open", Path: p, Err: drive.ErrNotRegular}
	}
	return nil, none(p)
}

// ReadDir implements drive.Reach.
func (l *Laid) ReadDir(p string) ([]fs.DirEntry, error) {
	dir := l.dirs[p]
	list := make([]fs.DirEntry, 0, len(dir))
	if l.Under != nil {
		under, err := l.Under.ReadDir(p)
		if err != nil && (dir == nil || !errors.Is(err, fs.ErrNotExist)) {
			return nil, err
		}
		for _, e := range under {
			if dir[e.Name()] == nil {
				list = append(list, e)
			}
		}
	} else if dir == nil {
		return nil, none(p)
	}
	for _, e := range dir {
		list = append(list, e)
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list, nil
}

type entry struct {
	name string
	at   File // where it lies
	dir  bool
}

func (e entry) Name() string { return e.name }
func (e entry) IsDir() bool  { return e.dir }
func (e entry) Type() fs.FileMode {
	if e.dir {
		return fs.ModeDir
	}
	return 0
}

// Info implements fs.DirEntry.
func (e entry) Info() (fs.FileInfo, error) {
	if e.dir {
		return nil, none(e.name)
	}
	info, err := e.at.Reach.Stat(e.at.Path)
	return fileInfo{e.name, info}, err
}

// fileInfo is what a reach tells of a file as the system's interface has it.
type fileInfo struct {
	name string
	is   drive.Info
}

func (i fileInfo) Name() string       { return i.name }
func (i fileInfo) Size() int64        { return i.is.Size }
func (i fileInfo) Mode() fs.FileMode  { return i.is.Mode }
func (i fileInfo) ModTime() time.Time { return i.is.ModTime }
func (i fileInfo) IsDir() bool        { return i.is.Mode.IsDir() }
func (i fileInfo) Sys() any           { return nil }
