package holding

import (
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// MaxDays is for how long a folder may be held: ten years.
const MaxDays = 3650

// Until is when a term of some days ends.
func Until(now time.Time, days int) (time.Time, error) {
	if days < 1 || days > MaxDays {
		return time.Time{}, &Error{Code: BadTerm}
	}
	return now.AddDate(0, 0, days), nil
}

// Record is what stands beside what is held, on its drive: whoever connects the drive to
// another computer, or forgot it and adds it anew, knows by it what waits there.
type Record struct {
	Was   string          `json:"was"` // where it stood, from the drive's folder
	Since time.Time       `json:"since"`
	Until time.Time       `json:"until"`
	Files int             `json:"files"`
	Bytes int64           `json:"bytes"`
	Node  drive.Node      `json:"node"`          // of the folder itself, by which it is known wherever it is renamed to
	Why   json.RawMessage `json:"why,omitempty"` // what was said against those who still need it
}

// ending is what the name of a record has more than the name of what it tells of.
const ending = ".held.json"

// maxRecord is how large a record may be, in bytes.
const maxRecord = 1 << 20

// Keep writes the record of what is held at a place.
func Keep(at string, r Record) error {
	if _, err := fileset.MakeDirs(filepath.Dir(at)); err != nil {
		return err
	}
	return fileset.Create(at+ending, 0o644, func(w io.Writer) error { return json.NewEncoder(w).Encode(r) })
}

// Forget takes a record away.
func Forget(at string) error {
	if err := os.Remove(at + ending); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Read is the record of what is held at a place. What makes no sense is no record.
func Read(at string) (r Record, ok bool) {
	f, err := os.Open(at + ending)
	if err != nil {
		return r, false
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxRecord+1))
	if err != nil {
		return r, false
	}
	return Parse(b)
}

// Parse reads a record.
func Parse(b []byte) (r Record, ok bool) {
	if len(b) > maxRecord || json.Unmarshal(b, &r) != nil {
		return Record{}, false
	}
	if !fs.ValidPath(r.Was) || r.Was == "." || r.Since.IsZero() || r.Until.Before(r.Since) || r.Until.Sub(r.Since) > (MaxDays+10)*24*time.Hour || r.Files < 0 || r.Bytes < 0 {
		return Record{}, false
	}
	return r, true
}

// Waiting are the places of all that waits in a drive's holding folder and has a record.
func Waiting(dir string) (list []string) {
	entries, err := os.ReadDir(filepath.Join(dir, drive.Holding))
	if err != nil {
		return nil
	}
	for _, e := range entries {
		name, record := strings.CutSuffix(e.Name(), ending)
		if !record {
			continue
		}
		at := filepath.Join(dir, drive.Holding, name)
		if _, err := os.Lstat(at); err == nil {
			list = append(list, at)
		}
	}
	return list
}

// Sweep forgets what was never taken, or came back: the records of a drive whose folder stands where
// it stood.
func Sweep(dir string) error {
	entries, err := os.ReadDir(filepath.Join(dir, drive.Holding))
	if err != nil {
		return nil // nothing waits on a drive that is not there
	}
	for _, e := range entries {
		name, record := strings.CutSuffix(e.Name(), ending)
		at := filepath.Join(dir, drive.Holding, name)
		if _, err := os.Lstat(at); !record || !errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if r, ok := Read(at); ok && IsBack(filepath.Join(dir, filepath.FromSlash(r.Was)), r) {
			if err := Forget(at); err != nil {
				return err
			}
		}
	}
	return nil
}

// IsBack tells that what was held stands where it stood once more: the very folder, not
// another of its name.
func IsBack(was string, r Record) bool {
	info, err := drive.System{}.Lstat(was)
	return err == nil && r.Node.Ino != 0 && info.Node.Ino == r.Node.Ino
}
