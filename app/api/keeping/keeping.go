// Package keeping is what the pages of Keep show and are told: editions and backups.
package keeping

import (
	"time"

	"boundcrate/core/keep/back"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
)

// Keep is all that is kept of a project.
type Keep struct {
	Editions []Edition `json:"editions"` // the oldest first
	Current  int       `json:"current"`  // its number; 0: none is kept
	// Differs tells what of the present is another than the current edition.
	Differs []Difference `json:"differs"`
	Damaged int          `json:"damaged"` // lines of the store that cannot be read
	Dir     string       `json:"dir"`     // where editions are kept
	// Waits tells why none was kept by itself lately; "" where nothing stands in the way.
	Waits    string       `json:"waits"`
	Settings KeepSettings `json:"settings"`
	Backups  Backups      `json:"backups"`
}

// Edition is one of them.
type Edition struct {
	ID        int               `json:"id"`
	From      int               `json:"from"`
	Line      int               `json:"line"`
	By        line.By           `json:"by"`
	At        time.Time         `json:"at"`
	Note      string            `json:"note"`
	Since     *line.Since       `json:"since"`
	Documents []EditionDocument `json:"documents"`
	Outside   int               `json:"outside"`
	Files     int               `json:"files"` // of material
	Bytes     int64             `json:"bytes"`
	Sealed    []SealedFrom      `json:"sealed"`
}

// EditionDocument is a document of an edition.
type EditionDocument struct {
	Path     string    `json:"path"` // from the project's folder
	Bytes    int64     `json:"bytes"`
	Modified time.Time `json:"modified"`
}

// SealedFrom is a crate that was sealed from an edition, and whom it was sent to.
type SealedFrom struct {
	Label string   `json:"label"`
	Sent  []string `json:"sent"`
}

// How is how a document differs from the current edition.
type How string

// The differences.
const (
	Changed How = "changed"
	Gone    How = "gone"
	Broken  How = "broken" // it is there and cannot be read
)

// Difference is a document that is not as the current edition has it.
type Difference struct {
	Path string `json:"path"`
	How  How    `json:"how"`
}

// KeepSettings say what is kept by itself, of one project.
type KeepSettings struct {
	Every    int    `json:"every"` // minutes between editions by themselves; 0: none
	AllDays  int    `json:"allDays"`
	Hourly   int    `json:"hourly"`   // days of which one an hour stays
	Daily    int    `json:"daily"`    // days of which one a day stays
	BackupTo string `json:"backupTo"` // a folder; "": no backups
	BackupAt bool   `json:"backupAt"` // after a day's work, by itself
	Quiet    int    `json:"quiet"`    // minutes without a change after which it is made
	Keep     int    `json:"keep"`     // generations that stay; 0: all
}

// KeepNow keeps an edition.
type KeepNow struct {
	Note        string `json:"note"`
	Alternative bool   `json:"alternative"`
}

// KeptNow is what came of it.
type KeptNow struct {
	ID        int  `json:"id"`
	Unchanged bool `json:"unchanged"`
}

// TakeIn takes saves that somebody numbered by hand in as editions.
type TakeIn struct {
	Paths []string `json:"paths"` // absolute: other states of the project's first document
}

// TookIn is what came of it.
type TookIn struct {
	Editions []int `json:"editions"` // their numbers; saves that an edition had already are not among them
}

// SetNote gives an edition another note.
type SetNote struct {
	Edition int    `json:"edition"`
	Note    string `json:"note"`
}

// Restore restores an edition, or some of its documents.
type Restore struct {
	Edition int      `json:"edition"`
	Only    []string `json:"only"` // from the project's folder; empty: all
	Into    string   `json:"into"` // a new folder for a copy; "": the project itself
}

// RestoredNow is what came of it.
type RestoredNow struct {
	Kept    int      `json:"kept"` // the edition of the state before; 0: there was nothing
	Written []string `json:"written"`
	Outside []string `json:"outside"` // documents outside the project's folder, left as they are
	Beside  []string `json:"beside"`  // files that stood in the way, under their new names
}

// AskEditions asks what changed between two editions.
type AskEditions struct {
	A int `query:"a" json:"a"`
	B int `query:"b" json:"b"` // 0: what is there now
}

// EditionsCompared is the answer, of each kind the first.
type EditionsCompared struct {
	Came    int                `json:"came"`
	Went    int                `json:"went"`
	Changed int                `json:"changed"`
	Result  compare.Comparison `json:"result"`
}

// Backups are the generations of a project.
type Backups struct {
	Label   string       `json:"label"`   // where they lie
	There   bool         `json:"there"`   // the drive is connected
	Overdue string       `json:"overdue"` // what is overdue, for people; "" where nothing is
	List    []Generation `json:"list"`    // the newest first
	Fit     int          `json:"fit"`     // about how many more there is room for; −1: not known
}

// Generation is one of them.
type Generation struct {
	Path      string     `json:"path"`
	At        time.Time  `json:"at"`
	Files     int        `json:"files"`
	Bytes     int64      `json:"bytes"`
	Complete  bool       `json:"complete"`
	Elsewhere bool       `json:"elsewhere"` // not made here: whether it is complete shows when it is tried
	Verified  *time.Time `json:"verified"`  // nil: never
	Harm      int        `json:"harm"`      // files that were damaged or missing when it was last verified
	Restored  *time.Time `json:"restored"`  // the last dry restore that was complete
}

// OfGeneration names one.
type OfGeneration struct {
	Path string `json:"path"` // "": all
}

// AskHeld asks what a backup or a crate holds.
type AskHeld struct {
	Path string `query:"path" json:"path"`
}

// TakeBack takes files of a backup or a crate into the project.
type TakeBack struct {
	Path  string   `json:"path"`
	Files []string `json:"files"` // their places in it
}

// HeldFile is a file of a backup or a crate beside what is in the project now.
type HeldFile struct {
	Path     string        `json:"path"`  // where it belongs, from the project's folder; its place where nobody knows
	Place    string        `json:"place"` // in the crate, below data/
	Bytes    int64         `json:"bytes"`
	Now      back.Standing `json:"now"`
	Modified *time.Time    `json:"modified"` // the one of the crate; nil: not told
	Changed  *time.Time    `json:"changed"`  // the one in the project; nil: there is none
	Document bool          `json:"document"`
	Written  bool          `json:"written"` // a document that is made to name its files where they are here
	Why      string        `json:"why"`     // why it cannot be taken, for people; "" where it can
	Lost     []string      `json:"lost"`    // of a document: places of files it uses that the project lacks, which come along
	Others   []string      `json:"others"`  // of those that are different there
	Absent   int           `json:"absent"`  // files it uses that are neither in the project nor can be taken: they will be missing
}

// HeldFiles are the files of a backup or a crate that are not in the project, or different there.
type HeldFiles struct {
	Label string     `json:"label"`
	List  []HeldFile `json:"list"`
	More  int        `json:"more"`
	Same  int        `json:"same"` // files that are in the project, unchanged
}

// LooseSet is a project with no document: what was gathered, by groups.
type LooseSet struct {
	Title  string       `json:"title"`
	Author string       `json:"author"`
	Note   string       `json:"note"`
	Groups []LooseGroup `json:"groups"` // the files in no group last, under ""
	Is     string       `json:"is"`     // SHA-256 of what was read
}

// LooseGroup is a part of a set.
type LooseGroup struct {
	Name     string      `json:"name"`
	Patterns []string    `json:"patterns"` // from the set's folder
	Files    []LooseFile `json:"files"`
	New      []LooseFile `json:"new"` // that its patterns match and that are not in the set yet
}

// LooseFile is a file of a set.
type LooseFile struct {
	Path  string `json:"path"` // absolute
	Name  string `json:"name"` // from the set's folder
	Bytes int64  `json:"bytes"`
	There bool   `json:"there"`
}

// SetLoose writes a set anew.
type SetLoose struct {
	Title  string          `json:"title"`
	Author string          `json:"author"`
	Note   string          `json:"note"`
	Groups []SetLooseGroup `json:"groups"`
	Is     string          `json:"is"` // what it was made of; another state is refused
}

// SetLooseGroup is a group of it, its files in their order.
type SetLooseGroup struct {
	Name     string   `json:"name"`
	Patterns []string `json:"patterns"`
	Files    []string `json:"files"`
}

// NewLoose begins a set in a folder.
type NewLoose struct {
	Folder   string   `json:"folder"` // "": the one that holds all files
	Files    []string `json:"files"`  // absolute
	Title    string   `json:"title"`
	Author   string   `json:"author"`
	Note     string   `json:"note"`
	Patterns []string `json:"patterns"`
}
