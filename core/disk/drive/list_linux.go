package drive

import (
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"golang.org/x/sys/unix"
)

// list reads a folder with one look at each file, by its name within the open
// folder: the system need not go down the whole path for every one.
func (s System) list(dir string, w *Walk) (Folder, []Unread, error) {
	f, err := os.Open(dir)
	if err != nil {
		return Folder{}, nil, s.why(dir, err)
	}
	defer f.Close()
	return listOpen(f, dir, w)
}

func (s Set) list(dir string, w *Walk) (Folder, []Unread, error) {
	f, err := s.open(dir)
	if err != nil {
		return Folder{}, nil, err
	}
	defer f.Close()
	return listOpen(f, dir, w)
}

func (c Confined) list(dir string, w *Walk) (Folder, []Unread, error) {
	return c.set().list(dir, w)
}

func listOpen(f *os.File, dir string, w *Walk) (Folder, []Unread, error) {
	stamp := stampOf(f)
	if w.Known != nil && stamp != (Stamp{}) {
		if was, ok := w.Known(dir); ok && was.Stamp == stamp {
			was.Path, was.Known = dir, true
			return was, nil, nil
		}
	}
	es, err := f.ReadDir(-1)
	if err != nil {
		return Folder{}, nil, err
	}
	out := Folder{Path: dir, Files: make([]Entry, 0, len(es)), Stamp: stamp}
	var unread []Unread
	for _, e := range es {
		switch {
		case e.IsDir():
			out.Folders = append(out.Folders, e.Name())
		case !e.Type().IsRegular():
		case w.Names:
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
	if len(unread) > 0 {
		out.Stamp = Stamp{} // what could not be read is asked for again
	}
	return out, unread, nil
}

// keepTimes are the file systems that give a folder a new time whenever a name
// comes or goes in it. FAT need not, and what lies across a network may lag.
var keepTimes = map[int64]bool{
	unix.EXT4_SUPER_MAGIC: true, unix.XFS_SUPER_MAGIC: true, unix.BTRFS_SUPER_MAGIC: true, unix.F2FS_SUPER_MAGIC: true,
	unix.TMPFS_MAGIC: true, unix.OVERLAYFS_SUPER_MAGIC: true,
}

// stampOf is the stamp of an open folder, zero where it does not tell.
func stampOf(f *os.File) Stamp {
	var fs unix.Statfs_t
	var st unix.Stat_t
	if unix.Fstatfs(int(f.Fd()), &fs) != nil || !keepTimes[int64(fs.Type)] || unix.Fstat(int(f.Fd()), &st) != nil {
		return Stamp{}
	}
	if last := max(st.Mtim.Nano(), st.Ctim.Nano()); time.Now().UnixNano()-last < int64(settled) {
		return Stamp{}
	}
	return Stamp{st.Size, st.Mtim.Nano(), Node{st.Dev, st.Ino, st.Ctim.Nano()}}
}
