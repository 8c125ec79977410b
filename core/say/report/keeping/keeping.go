// Package keeping is the command line's JSON of editions, backups and loose sets.
package keeping

import (
	"os"
	"path/filepath"
	"time"

	"boundcrate/core/keep/backup"
	"boundcrate/core/keep/line"
	"boundcrate/core/keep/loose"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
)

// Edition is one, as the contract tells it. Paths are absolute.
type Edition struct {
	ID        int        `json:"id"`
	From      int        `json:"from"` // 0 of the first
	Line      string     `json:"line"`
	By        line.By    `json:"by"`
	Note      string     `json:"note"`
	At        time.Time  `json:"at"`
	Current   bool       `json:"current"`
	Documents []Document `json:"documents"`
	Outside   []Document `json:"outside"` // outside the project's folder: listed, neither kept nor written
	Material  Material   `json:"material"`
	Sealed    []Sealed   `json:"sealed"`
}

// Document is a document of an edition.
type Document struct {
	Path     string    `json:"path"`
	SHA256   string    `json:"sha256"`
	Bytes    int64     `json:"bytes"`
	Modified time.Time `json:"modified"`
}

// Material counts what the documents named and was there.
type Material struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// Sealed is a crate that was sealed from an edition.
type Sealed struct {
	Crate string    `json:"crate"`
	At    time.Time `json:"at"`
}

// OfEdition tells an edition whose project stands at root now.
func OfEdition(e *line.Edition, root string, current bool) Edition {
	out := Edition{
		ID: e.ID, From: e.From, Line: e.Line, By: e.By, Note: e.Note, At: e.At, Current: current,
		Documents: []Document{}, Outside: []Document{}, Material: Material{e.Material.Files, e.Material.Bytes}, Sealed: []Sealed{},
	}
	for _, d := range e.Documents {
		out.Documents = append(out.Documents, Document{filepath.Join(root, filepath.FromSlash(d.Path)), d.SHA256, d.Bytes, d.Modified})
	}
	for _, d := range e.Outside {
		out.Outside = append(out.Outside, Document{d.Path, d.SHA256, d.Bytes, d.Modified})
	}
	for _, x := range e.Sealed {
		out.Sealed = append(out.Sealed, Sealed{x.Crate, x.At})
	}
	return out
}

// Kept is what `keep` prints.
type Kept struct {
	Edition   Edition `json:"edition"`
	Unchanged bool    `json:"unchanged"`
}

// Editions is what `editions` prints: the oldest first.
type Editions struct {
	Editions []Edition `json:"editions"`
	// Damaged counts lines of the store that cannot be read, Broken names editions whose bytes are damaged.
	Damaged int   `json:"damaged"`
	Broken  []int `json:"broken"`
}

// Restored is what `restore` prints.
type Restored struct {
	Edition Edition  `json:"edition"`
	Kept    *Edition `json:"kept"` // the state before, as it was kept; null for a copy
	Written []string `json:"written"`
	Same    []string `json:"same"`
	Outside []string `json:"outside"`
	Into    string   `json:"into,omitempty"`
}

// Amount is how much of a backup.
type Amount struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// LeftGeneration is one that was not taken away though there are more than are to be kept.
type LeftGeneration struct {
	Path string `json:"path"`
	Why  string `json:"why"` // "unsealed-file", "last-verified", "unreadable"
	File string `json:"file,omitempty"`
}

// Backup is what `backup` prints.
type Backup struct {
	Generation string           `json:"generation"`
	Files      int              `json:"files"`
	Bytes      int64            `json:"bytes"`
	Copied     Amount           `json:"copied"`
	Shared     Amount           `json:"shared"`
	Complete   bool             `json:"complete"`
	Removed    []string         `json:"removed"`
	Left       []LeftGeneration `json:"left"`
	Fit        *int             `json:"fit"` // about how many more such generations there is room for; null: not known
	Problems   []words.Problem  `json:"problems"`
}

// Verification is what `backup --verify` prints.
type Verification struct {
	Generations []backup.Verified `json:"generations"`
}

// OfBackup tells what came of a backup.
func OfBackup(r *backup.Report) Backup {
	sealed := report.OfSeal(r.Report)
	out := Backup{
		Generation: r.Generation, Files: r.Files, Bytes: r.Bytes, Copied: Amount{r.Copied.Files, r.Copied.Bytes}, Shared: Amount{r.Stood.Files, r.Stood.Bytes},
		Complete: sealed.Complete, Removed: r.Removed, Left: []LeftGeneration{}, Problems: sealed.Problems,
	}
	if out.Removed == nil {
		out.Removed = []string{}
	}
	for _, l := range r.Left {
		out.Left = append(out.Left, LeftGeneration{l.Path, l.Why, l.File})
	}
	if r.Fit >= 0 {
		out.Fit = &r.Fit
	}
	return out
}

// Set is what `gather` prints.
type Set struct {
	Out    string   `json:"out"`
	Title  string   `json:"title"`
	Files  []string `json:"files"` // those of the groups too
	Bytes  int64    `json:"bytes"`
	Groups []Group  `json:"groups"`
}

// Group is one of its groups.
type Group struct {
	Name  string   `json:"name"`
	Files []string `json:"files"`
}

// OfSet tells a loose set.
func OfSet(at string, s *loose.Set) (*Set, error) {
	out := &Set{Out: at, Title: s.Title, Files: []string{}, Groups: []Group{}}
	for _, g := range s.Groups {
		out.Groups = append(out.Groups, Group{g.Name, append([]string{}, g.Files...)})
		out.Files = append(out.Files, g.Files...)
	}
	out.Files = append(out.Files, s.Files...)
	for _, f := range out.Files {
		fi, err := os.Stat(f)
		if err != nil {
			return nil, err
		}
		out.Bytes += fi.Size()
	}
	return out, nil
}
