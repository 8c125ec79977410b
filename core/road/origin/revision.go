package origin

import (
	"path/filepath"
	"regexp"
	"strconv"
	"strings"

	"boundcrate/core/road/graph"
)

// Revision is a file of a managed store, with the revision it is of and the newest
// there is. The store is only ever read.
type Revision struct {
	Path   string
	Is     string // the folder of its revision: "r2"
	Newest string // that of the newest one that has the file; Is where there is none newer
	At     string // the file there
}

// RevisionsOf are the revisions of files, by their paths.
func (j *Judged) RevisionsOf() map[string]string {
	out := map[string]string{}
	for _, r := range j.Revisions {
		out[r.Path] = r.Is
	}
	return out
}

// revised are the folders of a managed store that hold one revision each.
var revised = regexp.MustCompile(`^(?i:r|rev|revision|v|version)?[ ._-]?(\d{1,9})$`)

func revisionOf(name string) (n int, ok bool) {
	m := revised.FindStringSubmatch(name)
	if m == nil {
		return 0, false
	}
	n, err := strconv.Atoi(m[1])
	return n, err == nil
}

// revisions tells of which revision the files of managed stores are.
func (j *judge) revisions() (list []Revision) {
	type folder struct{ dir, rest string }
	newest := map[folder]string{}
	for i := range j.g.Files {
		f, is := &j.g.Files[i], &j.files[i]
		if is.Origin != graph.OfStore || !f.State.Found() || f.Path == "" || f.Frames != nil {
			continue
		}
		parts := strings.Split(strings.TrimPrefix(strings.TrimPrefix(f.Path, is.Home), "/"), "/")
		for k := len(parts) - 2; k >= 0; k-- {
			number, ok := revisionOf(parts[k])
			if !ok {
				continue
			}
			dir := filepath.Join(is.Home, filepath.Join(parts[:k]...))
			rest := filepath.Join(parts[k+1:]...)
			best, met := newest[folder{dir, rest}]
			if !met {
				best = j.newest(dir, rest)
				newest[folder{dir, rest}] = best
			}
			r := Revision{Path: f.Path, Is: parts[k], Newest: parts[k], At: f.Path}
			if n, ok := revisionOf(best); ok && n > number {
				r.Newest, r.At = best, filepath.Join(dir, best, rest)
			}
			list = append(list, r)
			break
		}
	}
	return list
}

// newest is the folder of the highest revision that has a file, "" for none.
func (j *judge) newest(dir, rest string) (best string) {
	entries, _ := j.Reach.ReadDir(dir) // what cannot be listed has none newer
	most := -1
	for _, e := range entries {
		n, ok := revisionOf(e.Name())
		if !ok || !e.IsDir() || n <= most {
			continue
		}
		if _, err := j.Reach.Stat(filepath.Join(dir, e.Name(), rest)); err == nil {
			best, most = e.Name(), n
		}
	}
	return best
}
