package backup

import (
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/text/bag"
)

// standsName is the file beside a project's generations that keeps what the files of the last one were when they
// were read, so that the next backup need not read all of them once more. That what nobody wrote to is still whole
// is for the verification to tell.
const standsName = ".boundcrate-stands.json"

// stand is a file of a generation as it was read, or shared from one that was.
type stand struct {
	SHA256 string      `json:"sha256"`
	Stamp  drive.Stamp `json:"stamp"`
}

// stood are those of a generation, by their paths in it; nil where nothing is known.
func stood(generation string) map[string]stand {
	b, err := os.ReadFile(filepath.Join(filepath.Dir(generation), standsName))
	if err != nil {
		return nil
	}
	var kept struct {
		Generation string
		Files      map[string]stand
	}
	if json.Unmarshal(b, &kept) != nil || kept.Generation != filepath.Base(generation) {
		return nil
	}
	return kept.Files
}

// trusting tells what of a generation nobody wrote to since it was read. A file whose inode is not known by number
// and time is read.
func trusting(generation string) func(path string, is drive.Stamp) (string, bool) {
	known := stood(generation)
	return func(path string, is drive.Stamp) (string, bool) {
		rel, err := filepath.Rel(generation, path)
		f, ok := known[filepath.ToSlash(rel)]
		is.Node.Dev = f.Stamp.Node.Dev // a drive has another number each time it is plugged in
		return f.SHA256, err == nil && ok && is.Node.Changed != 0 && is == f.Stamp
	}
}

// stamps are a generation's files as they are now, with what its manifests tell: called when every one of them was
// read, or was known to stand.
func stamps(generation string) map[string]stand {
	m, err := readManifests(generation)
	if err != nil || len(m.bad) > 0 {
		return nil
	}
	list := map[string]stand{}
	for rel, sum := range m.sums {
		if !strings.HasPrefix(rel, bag.Payload+"/") {
			continue
		}
		if info, err := (drive.System{}).Lstat(filepath.Join(generation, filepath.FromSlash(rel))); err == nil && info.Mode.IsRegular() {
			list[rel] = stand{sum, info.Stamp()}
		}
	}
	return list
}

// keepStands keeps them. Taking older generations away changed the inodes of files that these shared: what has its
// size and time still is what it was.
func keepStands(generation string, were map[string]stand) error {
	for rel, f := range were {
		info, err := (drive.System{}).Lstat(filepath.Join(generation, filepath.FromSlash(rel)))
		is := info.Stamp()
		if err != nil || is.Size != f.Stamp.Size || is.Mod != f.Stamp.Mod || is.Node.Ino != f.Stamp.Node.Ino {
			delete(were, rel)
			continue
		}
		were[rel] = stand{f.SHA256, is}
	}
	at := filepath.Join(filepath.Dir(generation), standsName)
	return fileset.Replace(at, 0o644, func(w io.Writer) error {
		return json.NewEncoder(w).Encode(map[string]any{"Generation": filepath.Base(generation), "Files": were})
	})
}

// forget lets go of what is known of a folder's generations: something in them was damaged.
func forget(folder string) { _ = os.Remove(filepath.Join(folder, standsName)) }
