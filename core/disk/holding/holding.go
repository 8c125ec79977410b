// Package holding takes folders out of the way without erasing them: each moves, by
// one rename within its drive, into a holding folder, from where it comes back by
// another.
package holding

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// Code is why a folder is not taken, or does not come back.
type Code string

// The reasons.
const (
	IsDrive  Code = "is-drive"  // it is the drive itself
	NoDrive  Code = "no-drive"  // it lies on no known drive
	IsHeld   Code = "is-held"   // it lies in a holding folder already
	NoFolder Code = "no-folder" // it is none
	InTheWay Code = "in-the-way"
	TooSoon  Code = "too-soon"  // it is kept for longer
	NotThere Code = "not-there" // nothing is held there: its drive may be out
	BadTerm  Code = "bad-term"  // for how long it shall be held makes no sense
	HasMount Code = "has-mount" // something else is mounted in it
	DriveOut Code = "drive-out" // its drive is not connected
)

// Error is a refusal; nothing was moved.
type Error struct {
	Code Code
	Path string
	Err  error
}

func (e *Error) Error() string { return fmt.Sprintf("‘%s’: %s", e.Path, e.Code) }

func (e *Error) Unwrap() error { return e.Err }

// Place is where a folder would wait: on its own drive, under the time and its name.
func Place(drives []drive.Drive, folder string, now time.Time) (string, error) {
	d, ok := drive.Find(drives, folder)
	switch {
	case !ok:
		return "", &Error{Code: NoDrive, Path: folder}
	case d.Dir == folder:
		return "", &Error{Code: IsDrive, Path: folder}
	}
	for _, part := range strings.Split(folder, "/") {
		if part == drive.Holding {
			return "", &Error{Code: IsHeld, Path: folder}
		}
	}
	for _, other := range drives { // a drive that lies in the folder would go with it
		if drive.Within(folder, other.Dir) {
			return "", &Error{Code: IsDrive, Path: other.Dir}
		}
	}
	return filepath.Join(d.Dir, drive.Holding, now.UTC().Format("20060102-150405.000")+" "+filepath.Base(folder)), nil
}

// At is where a folder of a drive waits now: its drive may be mounted elsewhere than when
// it was taken. False where the drive is not known.
func At(drives []drive.Drive, was drive.Path, at string) (string, bool) {
	return drive.Abs(drives, drive.Path{Drive: was.Drive, Path: drive.Holding + "/" + filepath.Base(at)})
}

// Move renames a folder or a plain file, by what it is and not through a link, to a
// place that is free. The folders above the place are made, and stay.
func Move(from, to string) error {
	info, err := os.Lstat(from)
	if errors.Is(err, fs.ErrNotExist) {
		return &Error{Code: NotThere, Path: from, Err: err}
	}
	if err != nil {
		return err
	}
	if !info.IsDir() && !info.Mode().IsRegular() {
		return &Error{Code: NoFolder, Path: from}
	}
	if info.IsDir() {
		if at := mountIn(from); at != "" {
			return &Error{Code: HasMount, Path: at}
		}
	}
	if _, err := os.Lstat(to); !errors.Is(err, fs.ErrNotExist) {
		return &Error{Code: InTheWay, Path: to, Err: err}
	}
	if _, err := fileset.MakeDirs(filepath.Dir(to)); err != nil {
		return err
	}
	if err := os.Rename(from, to); err != nil {
		return err
	}
	return errors.Join(fileset.SyncDir(filepath.Dir(from)), fileset.SyncDir(filepath.Dir(to)))
}

// Erase removes what was held, for good, once it was kept for as long as was said. What is
// not there is not erased: without its drive nobody knows.
func Erase(at string, until, now time.Time) error {
	if now.Before(until) {
		return &Error{Code: TooSoon, Path: at}
	}
	if filepath.Base(filepath.Dir(at)) != drive.Holding {
		return &Error{Code: NoFolder, Path: at}
	}
	if _, err := os.Lstat(at); errors.Is(err, fs.ErrNotExist) {
		return &Error{Code: NotThere, Path: at, Err: err}
	}
	if info, err := os.Lstat(at); err == nil && info.IsDir() {
		if m := mountIn(at); m != "" { // another file system, or another folder, would be emptied through it
			return &Error{Code: HasMount, Path: m}
		}
	}
	if err := os.RemoveAll(at); err != nil { // no link is followed
		return err
	}
	return Forget(at)
}

// Here tells whether the drive of what is held is known and connected now.
func Here(drives []drive.Drive, was drive.Path) bool {
	for _, d := range drives {
		if d.ID == was.Drive {
			return d.Connected()
		}
	}
	return false
}
