package drive

import (
	"io/fs"
	"os"
	"path/filepath"

	"golang.org/x/sys/unix"
)

// list reads a folder with one look at each file, by its name within the open
// folder: the system need not go down the whole path for every one.
func (s System) list(dir string, names bool) (Folder, []Unread, error) {
	f, err := os.Open(dir)
	if err != nil {
		return Folder{}, nil, s.why(dir, err)
	}
	defer f.Close()
	return listOpen(f, dir, names)
}

func (s Set) list(dir string, names bool) (Folder, []Unread, error) {
	f, err := s.open(dir)
	if err != nil {
		return Folder{}, nil, err
	}
	defer f.Close()
	return listOpen(f, dir, names)
}

func (c Confined) list(dir string, names bool) (Folder, []Unread, error) {
	return c.set().list(dir, names)
}

func listOpen(f *os.File, dir string, names bool) (Folder, []Unread, error) {
	es, err := f.ReadDir(-1)
	if err != nil {
		return Folder{}, nil, err
	}
	out := Folder{Path: dir, Files: make([]Entry, 0, len(es))}
	var unread []Unread
	for _, e := range es {
		switch {
		case e.IsDir():
			out.Folders = append(out.Folders, e.Name())
		case !e.Type().IsRegular():
		case names:
			out.Files = append(out.Files, Entry{Name: e.Name()})
		default:
			var st unix.Stat_t
			if err := unix.Fstatat(int(f.Fd()), e.Name(), &st, unix.AT_SYMLINK_NOFOLLOW); err != nil {
				if err != unix.ENOENT {
					p := filepath.Join(dir, e.Name())
					unread = append(unread, Unread{p, &fs.PathError{Op: "stat", Path: p, Err: err}})
				}
				continue
			}
			out.Files = append(out.Files, Entry{e.Name(), st.Size, st.Mtim.Nano(), Node{st.Dev, st.Ino, st.Ctim.Nano()}})
		}
	}
	return out, unread, nil
}
