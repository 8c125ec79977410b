package report

import (
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/may"
	"boundcrate/core/say/words"
	"boundcrate/core/survey/survey"
	"boundcrate/core/text/mention"
)

// Unread is a folder or file that could not be read, and why.
type Unread struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// OfUnread says why in words; the answer is never nil.
func OfUnread(list []drive.Unread) []Unread {
	out := make([]Unread, len(list))
	for i, u := range list {
		out[i] = Unread{u.Path, words.Reason(u.Err)}
	}
	return out
}

// Indexed is the JSON of `boundcrate index --json`.
type Indexed struct {
	Drives []IndexedDrive `json:"drives"`
}

// IndexedDrive is one drive that was looked through.
type IndexedDrive struct {
	Name   string    `json:"name"`
	Dir    string    `json:"dir"`
	Files  int       `json:"files"`
	Bytes  int64     `json:"bytes"` // apparent sizes; a file with several names once
	Unread []Unread  `json:"unread"`
	AsOf   time.Time `json:"asOf"`
}

// Where is the JSON of `boundcrate where --json`.
type Where struct {
	Files []whereFile `json:"files"`
	AsOf  *time.Time  `json:"asOf"` // of the oldest answer; null where nothing names them
}

// whereFile is one file, with every known document that names it.
type whereFile struct {
	Path      string   `json:"path"`
	Documents []usedBy `json:"documents"`
}

// UsedBy is one use of a file.
type usedBy struct {
	Document string      `json:"document"`
	Project  string      `json:"project"`
	Owner    string      `json:"owner"`
	Use      mention.Use `json:"use"`
	Role     may.Role    `json:"role"`
	Path     string      `json:"path"` // the file it names; of a folder, one in it
}

// OfUse is a use as the contract says it.
func ofUse(u survey.Use) usedBy { return usedBy{u.Document, u.Project, u.Owner, u.Use, u.Role, u.Path} }

// Add adds a file with its uses.
func (w *Where) Add(path string, uses []survey.Use) {
	f := whereFile{Path: path, Documents: []usedBy{}}
	for _, u := range uses {
		f.Documents = append(f.Documents, ofUse(u))
		if w.AsOf == nil || u.At.Before(*w.AsOf) {
			at := u.At
			w.AsOf = &at
		}
	}
	w.Files = append(w.Files, f)
}

// Clearout is the JSON of `boundcrate clearout --json`.
type Clearout struct {
	Folder     string     `json:"folder"`
	Safe       bool       `json:"safe"`
	ReadBy     []ReadBy   `json:"readBy"`
	WrittenBy  []WriterOf `json:"writtenBy"`
	OnlyCopies []string   `json:"onlyCopies"`
	Documents  []string   `json:"documents"`
	Unread     []string   `json:"unread"`
	Coverage   Coverage   `json:"coverage"`
}

// Coverage is how far it was looked before a folder was called safe.
type Coverage struct {
	Documents int  `json:"documents"` // that were read
	Looked    int  `json:"looked"`    // files whose beginnings tell that they are documents or none
	Skipped   int  `json:"skipped"`   // sounds, moving pictures and images, which were not opened
	Whole     bool `json:"whole"`     // nothing was left unread
}

// ReadBy is a document outside the folder that reads a file in it.
type ReadBy struct {
	Document  string      `json:"document"`
	Project   string      `json:"project"`
	Path      string      `json:"path"`
	Owner     string      `json:"owner"`
	Use       mention.Use `json:"use"`
	Elsewhere []string    `json:"elsewhere"`
}

// WriterOf is a document outside the folder that writes into it.
type WriterOf struct {
	Document string `json:"document"`
	Project  string `json:"project"`
	Owner    string `json:"owner"`
	Path     string `json:"path"`
}

// OfClearout is the answer as the contract says it.
func OfClearout(c *survey.Clearout) Clearout {
	out := Clearout{Folder: c.Folder, Safe: c.Safe, ReadBy: []ReadBy{}, WrittenBy: []WriterOf{}, OnlyCopies: append([]string{}, c.OnlyCopies...), Documents: append([]string{}, c.Documents...), Unread: []string{}, Coverage: Coverage{c.Coverage.Documents, c.Looked, c.Skipped, c.Whole()}}
	for _, r := range c.ReadBy {
		out.ReadBy = append(out.ReadBy, ReadBy{r.Document, r.Project, r.Path, r.Owner, r.Use.Use, append([]string{}, r.Elsewhere...)})
	}
	for _, u := range c.WrittenBy {
		out.WrittenBy = append(out.WrittenBy, WriterOf{u.Document, u.Project, u.Owner, u.Path})
	}
	for _, u := range c.Unread {
		out.Unread = append(out.Unread, u.Path)
	}
	return out
}
