// Package edition keeps the state of a document before it is written to.
package edition

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"

	"boundcrate/core/disk/fileset"
	"boundcrate/core/text/names"
)

// Keeper keeps editions in one folder; where Dir is empty, in a folder
// "editions" beside each document, apart from its live parts.
type Keeper struct{ Dir string }

// Folder is the folder beside a document that holds its editions.
const Folder = "editions"

// Mark begins the names of editions that are not whole yet.
const Mark = ".boundcrate-edition-"

// Of is the folder that holds a document's editions.
func (k Keeper) Of(document string) string {
	if k.Dir != "" {
		return k.Dir
	}
	return filepath.Join(filepath.Dir(document), Folder)
}

// Keep copies a document under the next free edition name and returns where:
// cut.otio becomes editions/cut.edition-1.otio. The name appears when the copy is
// whole and safe. Nothing is ever written over.
func (k Keeper) Keep(document string) (kept string, err error) { return k.KeepAs(document, Mark) }

// KeepAs is Keep with what begins the name of a copy that is not whole yet.
func (k Keeper) KeepAs(document, mark string) (kept string, err error) {
	src, err := os.Open(document)
	if err != nil {
		return "", err
	}
	defer src.Close()
	dir := k.Of(document)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", err
	}
	tmp, err := os.CreateTemp(dir, mark+"*")
	if err != nil {
		return "", err
	}
	defer os.Remove(tmp.Name())
	_, err = io.Copy(tmp, src)
	if info, serr := src.Stat(); err == nil && serr == nil {
		err = errors.Join(tmp.Chmod(info.Mode().Perm()), os.Chtimes(tmp.Name(), info.ModTime(), info.ModTime()))
	}
	if err = errors.Join(err, tmp.Sync(), tmp.Close()); err != nil {
		return "", err
	}
	stem, ext := names.Split(filepath.Base(document))
	for n := 1; ; n++ {
		path := filepath.Join(dir, fmt.Sprintf("%s.edition-%d%s", stem, n, ext))
		switch err := fileset.Name(tmp.Name(), path); {
		case err == nil:
			return path, fileset.SyncDir(dir)
		case !errors.Is(err, fs.ErrExist):
			return "", err
		}
	}
}

var kept = regexp.MustCompile(`\.edition-[0-9]+(\.[^.]*)?$`)

// Is tells files that are editions, by their names.
func Is(path string) bool { return kept.MatchString(filepath.Base(path)) }
