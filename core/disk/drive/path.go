package drive

import (
	"path"
	"path/filepath"
	"strings"
)

// Path is a file's identity: the id of its drive, and its path there exactly as
// the folders list it. It stays when the drive comes back under another mount.
// Of a file on no known drive, Drive is empty and Path the system's own.
type Path struct {
	Drive string
	Path  string // begins with a slash; "/" is the drive itself
}

// String is the form paths have as keys: "ID:/film/x.wav", or "/film/x.wav" of
// no drive.
func (p Path) String() string {
	if p.Drive == "" {
		return p.Path
	}
	return p.Drive + ":" + p.Path
}

// ParsePath reads the form of String.
func ParsePath(s string) Path {
	if i := strings.Index(s, ":/"); i > 0 && !strings.Contains(s[:i], "/") {
		return Path{s[:i], s[i+1:]}
	}
	return Path{"", s}
}

// At is the identity of an absolute path of the system.
func At(drives []Drive, abs string) Path {
	d, ok := Find(drives, abs)
	if !ok || d.ID == "" {
		return Path{"", abs}
	}
	rest := strings.TrimPrefix(filepath.ToSlash(abs[len(d.Dir):]), "/")
	return Path{d.ID, "/" + rest}
}

// Abs is where a file stands on the system now; false when its drive is not
// known any more.
func Abs(drives []Drive, p Path) (string, bool) {
	if p.Drive == "" {
		return p.Path, true
	}
	for _, d := range drives {
		if d.ID == p.Drive {
			if p.Path == "/" {
				return d.Dir, true
			}
			return path.Join(d.Dir, p.Path), true
		}
	}
	return "", false
}
