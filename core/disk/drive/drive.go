// Package drive is how the core sees files: through one [Reach].
//
// On the command line the reach is the file system as it stands; in the server
// it is the configured drives and nothing else; for the proof of a crate it is
// the crate alone. Paths are absolute system paths throughout.
package drive

import (
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// ErrOutside: the path lies in no drive of this reach.
var ErrOutside = errors.New("outside your drives")

// ErrUnplugged: the path lies on a drive that is not connected.
var ErrUnplugged = errors.New("on a drive that is not connected")

// Drive is one place where material lives.
type Drive struct {
	ID   string // stays when the drive comes back under another mount
	Name string
	Dir  string // where it is mounted; absolute
	Kind string // one of Kinds; "" unknown
	// Gives is what it was measured to give, in bytes a second; 0 never.
	Gives int64
	// Known are prefixes under which other machines know this drive.
	Known []string
}

// Connected tells whether the drive's folder is there.
func (d Drive) Connected() bool {
	fi, err := os.Stat(d.Dir)
	return err == nil && fi.IsDir()
}

// Holds tells whether a path lies on the drive, by its name alone.
func (d Drive) Holds(path string) bool { return Within(d.Dir, path) }

// Within tells whether path is dir or lies below it, by name.
func Within(dir, path string) bool {
	if dir == path {
		return true
	}
	if !strings.HasSuffix(dir, "/") {
		dir += "/"
	}
	return strings.HasPrefix(path, dir)
}

// Find returns the drive a path lies on: the one with the longest folder.
func Find(drives []Drive, path string) (Drive, bool) {
	best, ok := Drive{}, false
	for _, d := range drives {
		if d.Holds(path) && (!ok || len(d.Dir) > len(best.Dir)) {
			best, ok = d, true
		}
	}
	return best, ok
}

// Info is what a reach tells of a file.
type Info struct {
	Mode    fs.FileMode
	Size    int64
	ModTime time.Time
	Real    string // path with all links undone: what makes two paths one file; "" from Lstat
	Node    Node   // of the file on its system; zero where that is not known
}

// Node is a file's number on its file system, and when its inode last changed:
// what tells two files of one size and time apart that changed names.
type Node struct {
	Dev, Ino uint64
	Changed  int64 // nanoseconds since 1970
}

// Stamp tells one state of one file from any other without reading it.
type Stamp struct {
	Size, Mod int64 // bytes; nanoseconds since 1970
	Node      Node
}

// Stamp is that of the file when it was looked at.
func (i Info) Stamp() Stamp { return Stamp{i.Size, i.ModTime.UnixNano(), i.Node} }

// Same tells that a file has the size and time it had; its names and rights may
// have changed.
func (i Info) Same(as Info) bool { return i.Size == as.Size && i.ModTime.Equal(as.ModTime) }

// File is an open file.
type File interface {
	io.Reader
	io.ReaderAt
	io.Closer
	// Size is the file's size in bytes when it was opened.
	Size() int64
}

// opened is a file of the system that was found regular.
type opened struct {
	*os.File
	size int64
}

func (o opened) Size() int64 { return o.size }

// Reach opens what may be seen. Errors wrap fs.ErrNotExist, fs.ErrPermission,
// ErrOutside or ErrUnplugged where one of them is the reason.
//
// drivetest holds every implementation to the same conformance test.
type Reach interface {
	// Stat follows links.
	Stat(path string) (Info, error)
	// Lstat tells of a link itself; Info.Real stays empty.
	Lstat(path string) (Info, error)
	// Open opens a regular file, and nothing else: a folder, pipe or device is
	// ErrNotRegular, and no open blocks.
	Open(path string) (File, error)
	// ReadDir lists a folder in directory order of names.
	ReadDir(path string) ([]fs.DirEntry, error)
}

// ErrNotRegular: a folder, pipe or device stands where a file was named.
var ErrNotRegular = errors.New("not a regular file")

// System is the file system as it stands, with the drives that are known: a
// path on one that is not connected is unplugged rather than missing.
type System struct{ Drives []Drive }

func (s System) why(path string, err error) error {
	if err == nil || !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if d, ok := Find(s.Drives, path); ok && !d.Connected() {
		return &fs.PathError{Op: "open", Path: path, Err: ErrUnplugged}
	}
	return err
}

// Stat implements Reach.
func (s System) Stat(path string) (Info, error) {
	fi, err := os.Stat(path)
	if err != nil {
		return Info{}, s.why(path, err)
	}
	real, err := filepath.EvalSymlinks(path)
	if err != nil {
		return Info{}, s.why(path, err)
	}
	return infoOf(fi, real), nil
}

func infoOf(fi fs.FileInfo, real string) Info {
	return Info{fi.Mode(), fi.Size(), fi.ModTime(), real, NodeOf(fi)}
}

// Lstat implements Reach.
func (s System) Lstat(path string) (Info, error) {
	fi, err := os.Lstat(path)
	if err != nil {
		return Info{}, s.why(path, err)
	}
	return infoOf(fi, ""), nil
}

// Open implements Reach.
func (s System) Open(path string) (File, error) {
	f, err := os.OpenFile(path, os.O_RDONLY|nonblock, 0)
	if err != nil {
		return nil, s.why(path, notOpened(path, err))
	}
	return regular(f, path)
}

// regular hands on a file that is one, and closes anything else.
func regular(f *os.File, path string) (File, error) {
	fi, err := f.Stat()
	if err == nil && (!fi.Mode().IsRegular() || pseudo(f, NodeOf(fi).Dev)) {
		err = &fs.PathError{Op: "open", Path: path, Err: ErrNotRegular}
	}
	if err != nil {
		f.Close()
		return nil, err
	}
	return opened{f, fi.Size()}, nil
}

// notOpened tells sockets and devices nobody serves, which cannot even be
// opened, as what they are.
func notOpened(path string, err error) error {
	if errors.Is(err, syscall.ENXIO) {
		return &fs.PathError{Op: "open", Path: path, Err: ErrNotRegular}
	}
	return err
}

// ReadDir implements Reach.
func (s System) ReadDir(path string) ([]fs.DirEntry, error) {
	es, err := os.ReadDir(path)
	return es, s.why(path, err)
}
