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
	Kind string // fixed, removable, network, optical
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

// Info is what a reach tells of a file. Links are followed.
type Info struct {
	Mode    fs.FileMode
	Size    int64
	ModTime time.Time
	Real    string // path with all links undone: the identity of the file
}

// File is an open file.
type File interface {
	io.Reader
	io.ReaderAt
	io.Closer
}

// Reach opens what may be seen. Errors wrap fs.ErrNotExist, fs.ErrPermission,
// ErrOutside or ErrUnplugged where one of them is the reason.
type Reach interface {
	Stat(path string) (Info, error)
	Open(path string) (File, error)
	// ReadDir lists a folder in directory order of names.
	ReadDir(path string) ([]fs.DirEntry, error)
}

// Sized is a file with its size, as package format reads documents.
type Sized struct {
	File
	size int64
}

// Size is the file's size in bytes when it was opened.
func (s Sized) Size() int64 { return s.size }

// OpenSized opens a regular file together with its size.
func OpenSized(r Reach, path string) (Sized, error) {
	info, err := r.Stat(path)
	if err != nil {
		return Sized{}, err
	}
	if !info.Mode.IsRegular() {
		return Sized{}, &fs.PathError{Op: "open", Path: path, Err: ErrNotRegular}
	}
	f, err := r.Open(path)
	if err != nil {
		return Sized{}, err
	}
	return Sized{f, info.Size}, nil
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
	return Info{fi.Mode(), fi.Size(), fi.ModTime(), real}, nil
}

// Open implements Reach.
func (s System) Open(path string) (File, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, s.why(path, err)
	}
	return f, nil
}

// ReadDir implements Reach.
func (s System) ReadDir(path string) ([]fs.DirEntry, error) {
	es, err := os.ReadDir(path)
	return es, s.why(path, err)
}
