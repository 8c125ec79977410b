package receive

import (
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
)

// laid is a reach over files that lie elsewhere for the time being: each path it knows is a file of
// the system under another name. Nothing else is reachable.
type laid struct {
	files map[string]string // as it is called → where it lies
	dirs  map[string]map[string]fs.DirEntry
}

// lay makes it.
func lay(files map[string]string) *laid {
	l := &laid{files, map[string]map[string]fs.DirEntry{}}
	for as := range files {
		var e fs.DirEntry = entry{name: filepath.Base(as), at: files[as]}
		for at := filepath.Dir(as); ; at = filepath.Dir(at) {
			known := l.dirs[at] != nil
			if !known {
				l.dirs[at] = map[string]fs.DirEntry{}
			}
			l.dirs[at][e.Name()] = e
			if known || at == filepath.Dir(at) {
				break
			}
			e = entry{name: filepath.Base(at), dir: true}
		}
	}
	return l
}

func (l *laid) none(p string) error { return &fs.PathError{Op: "open", Path: p, Err: fs.ErrNotExist} }

// Stat implements drive.Reach.
func (l *laid) Stat(p string) (drive.Info, error) {
	if at, ok := l.files[p]; ok {
		info, err := (drive.System{}).Lstat(at)
		info.Real = p
		return info, err
	}
	if l.dirs[p] != nil {
		return drive.Info{Mode: fs.ModeDir | 0o755, Real: p}, nil
	}
	return drive.Info{}, l.none(p)
}

// Lstat implements drive.Reach: nothing that was unpacked is a link.
func (l *laid) Lstat(p string) (drive.Info, error) {
	info, err := l.Stat(p)
	info.Real = ""
	return info, err
}

// Open implements drive.Reach.
func (l *laid) Open(p string) (drive.File, error) {
	at, ok := l.files[p]
	if !ok {
		if l.dirs[p] != nil {
			return nil, &fs.PathError{Op: "open", Path: p, Err: drive.ErrNotRegular}
		}
		return nil, l.none(p)
	}
	return drive.System{}.Open(at)
}

// ReadDir implements drive.Reach.
func (l *laid) ReadDir(p string) ([]fs.DirEntry, error) {
	dir := l.dirs[p]
	if dir == nil {
		return nil, l.none(p)
	}
	list := make([]fs.DirEntry, 0, len(dir))
	for _, e := range dir {
		list = append(list, e)
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list, nil
}

type entry struct {
	name string
	at   string // where it lies; "" of a folder
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
func (e entry) Info() (fs.FileInfo, error) { return os.Lstat(e.at) }
