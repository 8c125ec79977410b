// Package overview holds what Survey, Drives and templates show and are told.
package overview

import (
	"time"

	"boundcrate/app/api"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/report"
	"boundcrate/core/survey/survey"
)

// Templates are what a new project's folder can be made from.
type Templates struct {
	List []TemplateOf `json:"list"`
	Odd  string       `json:"odd"` // why some cannot be used
	At   string       `json:"at"`  // where one's own lie
}

// TemplateOf is one of them.
type TemplateOf struct {
	Title   string   `json:"title"`
	Folders []string `json:"folders"`
}

// Dropped are files that a person dropped on the window, as a browser tells of them.
type Dropped struct {
	Files []DroppedName `json:"files"`
}

// DroppedName is one of them.
type DroppedName struct {
	Name string `json:"name"`
	Size int64  `json:"size"`
}

// DroppedList are the places on the drives that have such files.
type DroppedList struct {
	List     []DroppedFile `json:"list"`
	NotFound []string      `json:"notFound"`
}

// DroppedFile is one place.
type DroppedFile struct {
	Name    string `json:"name"`
	Path    string `json:"path"`
	Label   string `json:"label"`
	Format  string `json:"format"`  // what it opens as; "" when it is no document
	Archive bool   `json:"archive"` // it may be a crate in one file
}

// Settings are those of the application on this machine.
type Settings struct {
	Version  string `json:"version"`
	Data     string `json:"data"`     // the data folder
	Editions string `json:"editions"` // where earlier states of documents are kept
	KeepJobs int    `json:"keepJobs"` // how many jobs the log shows
}

// SetSettings changes settings.
type SetSettings struct {
	KeepJobs int `json:"keepJobs"`
}

// Reveal opens the folder of a file in the machine's file manager.
type Reveal struct {
	Path string `json:"path"`
}

// MakeFolder makes a folder within the drives.
type MakeFolder struct {
	Dir  string `json:"dir"` // that it is made in
	Name string `json:"name"`
}

// Begin makes the folder of a new project.
type Begin struct {
	Template int    `json:"template"` // its place in the list
	Folder   string `json:"folder"`   // to make it in
	Name     string `json:"name"`
}

// Begun is the folder that was made.
type Begun struct {
	Path  string `json:"path"`
	Label string `json:"label"`
}

// DriveCards are the drives with all that is known of them.
type DriveCards struct {
	List []DriveCard `json:"list"`
}

// DriveCard is one of them.
type DriveCard struct {
	Drive    api.Drive   `json:"drive"`
	KindSaid bool        `json:"kindSaid"` // a person said of what kind it is
	Gives    int64       `json:"gives"`    // bytes a second; 0 not known
	Measured *time.Time  `json:"measured"` // nil: the standard's figure for its kind, or none
	Slowed   int64       `json:"slowed"`   // of a stand-in
	Needs    int64       `json:"needs"`    // bytes a second, of the project that asks the most
	NeedsBy  string      `json:"needsBy"`  // its name
	Indexed  int         `json:"indexed"`  // files
	IndexAt  *time.Time  `json:"indexAt"`  // nil: never looked through
	Unread   []string    `json:"unread"`
	Folders  []Declared  `json:"folders"`
	Projects []LeansHere `json:"projects"`
	Backups  []BacksHere `json:"backups"`
	Safe     bool        `json:"safe"` // to unplug
	Why      string      `json:"why"`  // it is not
}

// Declared is a folder that is a library or a managed store.
type Declared struct {
	Path  string              `json:"path"`
	Label string              `json:"label"`
	Kind  origin.DeclaredKind `json:"kind"`
}

// LeansHere is a project that leans on a drive.
type LeansHere struct {
	Project int64  `json:"project"`
	Name    string `json:"name"`
	Files   int    `json:"files"`
	Writes  int    `json:"writes"` // write points that lead there
	Needs   int64  `json:"needs"`  // bytes a second while it plays
}

// BacksHere is a project whose backups lie on a drive.
type BacksHere struct {
	Project int64      `json:"project"`
	Name    string     `json:"name"`
	At      *time.Time `json:"at"` // the last complete one; nil: none yet
	Overdue string     `json:"overdue"`
}

// SetDrive changes what is known of a drive; nil leaves it.
type SetDrive struct {
	Kind   *string `json:"kind"`
	Slowed *int64  `json:"slowed"` // of a stand-in
}

// Declare says what a folder is; "" takes it back.
type Declare struct {
	Path string              `json:"path"`
	Kind origin.DeclaredKind `json:"kind"`
}

// Stock is every project and every document that no project has, with its health.
type Stock struct {
	Groups []StockGroup `json:"groups"` // the worst first
	At     *time.Time   `json:"at"`     // when all were last looked at
}

// StockGroup is what lies in one folder.
type StockGroup struct {
	Label string     `json:"label"` // by its drive's name
	Rows  []StockRow `json:"rows"`
}

// StockRow is a project, or a document that no project has.
type StockRow struct {
	Project  *api.Project   `json:"project"`  // nil: none has it yet
	Document string         `json:"document"` // absolute
	Name     string         `json:"name"`
	Label    string         `json:"label"`
	Health   *survey.Health `json:"health"` // nil: not looked at yet
	At       *time.Time     `json:"at"`     // when
	Sealed   *time.Time     `json:"sealed"`
	Complete bool           `json:"complete"` // the last seal was
	Backed   string         `json:"backed"`   // the drive on which that crate lies, where it is complete and not on the project's own
	Backup   *time.Time     `json:"backup"`   // the last complete one
	Verified *time.Time     `json:"verified"` // when it was read again last
	Overdue  string         `json:"overdue"`  // what of its backups is, in words; "" where nothing is
	Offer    *CrateOffer    `json:"offer"`    // nil: nothing met holds files of the missing names
}

// CrateOffer is a crate or archive on a drive that holds files by the names of those missing.
type CrateOffer struct {
	Crate string `json:"crate"` // absolute
	Label string `json:"label"`
	Files int    `json:"files"`
}

// AskClearout asks whether a folder may go.
type AskClearout struct {
	Folder string `json:"folder"`
}

// Cleared is the answer: paths are by their drives' names.
type Cleared struct {
	report.Clearout
	Label string           `json:"label"` // the folder
	Left  []report.Unread  `json:"left"`  // what could not be read, and why
	Files int              `json:"files"` // in the folder
	Bytes int64            `json:"bytes"`
	Read  int              `json:"read"`  // documents that were asked
	Owned map[string]int64 `json:"owned"` // of documents named above, the project that has each
	Needy []string         `json:"needy"` // documents that need the folder, and all that could not be asked
	At    time.Time        `json:"at"`
}

// Hold takes a folder out of the way, on what a clear-out check said of it.
type Hold struct {
	Reasons []Reason `json:"reasons"` // one for each that still needs it, or could not be asked
	Days    int      `json:"days"`    // it is kept for at least
}

// Reason is why somebody who needs a folder, or could not be asked, does not count.
type Reason struct {
	Of  string `json:"of"`
	Why string `json:"why"`
}

// HeldList is what waits in holding folders.
type HeldList struct {
	List []HeldRow `json:"list"`
}

// HeldRow is one folder of them.
type HeldRow struct {
	ID      int64     `json:"id"`
	Label   string    `json:"label"` // where it stood
	Files   int       `json:"files"`
	Bytes   int64     `json:"bytes"`
	Since   time.Time `json:"since"`
	Until   time.Time `json:"until"`
	Over    bool      `json:"over"`  // it may be erased
	There   bool      `json:"there"` // its drive is connected, and it is where it was put
	Reasons []Reason  `json:"reasons"`
}
