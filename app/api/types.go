// Package api holds what every part of the wire shares: the frame, drives,
// projects, jobs, events, windows of tables. Its packages hold the rest, by view.
package api

import (
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/say/words"
)

// AppState is what the frame shows everywhere.
type AppState struct {
	Drives   []Drive   `json:"drives"`
	Projects []Project `json:"projects"`
	Jobs     []Job     `json:"jobs"` // running ones, and those that ended lately
	Demo     bool      `json:"demo"`
	Service  string    `json:"service"` // address of a transfer service to try sending with; "" for none
	Formats  []Format  `json:"formats"` // what can be opened
}

// Format is a kind of document, in words.
type Format struct {
	Name       string   `json:"name"`
	Title      string   `json:"title"`
	Extensions []string `json:"extensions"`
	Knows      string   `json:"knows"`
}

// Drive is a place where material lives.
type Drive struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Dir       string `json:"dir"`
	Kind      string `json:"kind"`
	Connected bool   `json:"connected"`
	Silent    bool   `json:"silent"`  // it does not answer: the other end of a mount is gone
	StandIn   bool   `json:"standIn"` // can be plugged in and unplugged from here
	Total     int64  `json:"total"`   // bytes; 0 when it is not connected
	Free      int64  `json:"free"`
}

// Project is documents the user works on together.
type Project struct {
	ID        int64     `json:"id"`
	Name      string    `json:"name"`
	Documents []string  `json:"documents"` // absolute paths, the first one leads
	Labels    []string  `json:"labels"`    // the documents by their drives' names
	Root      string    `json:"root"`
	RootName  string    `json:"rootName"` // the root by its drive's name
	Opened    time.Time `json:"opened"`
}

// Job is long work.
type Job struct {
	ID      string    `json:"id"`
	Project int64     `json:"project"` // 0: none
	Kind    JobKind   `json:"kind"`
	Title   string    `json:"title"`
	State   JobState  `json:"state"`
	Step    string    `json:"step"`
	Done    int64     `json:"done"`
	Total   int64     `json:"total"` // 0: not known
	Unit    string    `json:"unit"`  // bytes, files, references
	Files   int       `json:"files"` // done, of work in bytes that tells of files too
	Of      int       `json:"of"`    // files in all; 0: not told
	Share   float64   `json:"share"` // of the work that is done, from bytes and files together; 0: not known
	Rate    float64   `json:"rate"`  // units a second
	Left    float64   `json:"left"`  // seconds; 0: not known
	Error   string    `json:"error"`
	Ended   bool      `json:"ended"` // the application ended while it ran
	Began   time.Time `json:"began"`
	Message string    `json:"message"` // what came of it, when it is done
}

// JobKind tells what a job does.
type JobKind string

// The kinds of jobs.
const (
	JobTrace    JobKind = "trace"
	JobRemember JobKind = "remember" // reads contents, so that they can be found again
	JobSearch   JobKind = "search"
	JobSeal     JobKind = "seal"
	JobCheck    JobKind = "check"
	JobReceive  JobKind = "receive"
	JobSurvey   JobKind = "survey"
	JobHome     JobKind = "home"
	JobInside   JobKind = "inside"
	JobIndex    JobKind = "index"
	JobMeasure  JobKind = "measure"
	JobStock    JobKind = "stock"
	JobWeigh    JobKind = "weigh"
	JobPutAway  JobKind = "put-away"
	JobSeek     JobKind = "seek"   // what nothing names
	JobListen   JobKind = "listen" // to sounds that will be made anew
	JobWrite    JobKind = "write"  // into documents
	JobErase    JobKind = "erase"  // what waited in a holding folder
	JobTry      JobKind = "try"    // what something would come to
	JobSend     JobKind = "send"   // a crate, to somebody else
	JobCompare  JobKind = "compare"
	JobSay      JobKind = "say" // what documents will say in the crate
	JobKeep     JobKind = "keep"
	JobRestore  JobKind = "restore"
	JobBackup   JobKind = "backup"
	JobVerify   JobKind = "verify"      // generations of a backup
	JobDry      JobKind = "dry-restore" // of one, aside
)

// JobState tells how far a job is.
type JobState string

// The states of jobs.
const (
	Running JobState = "running"
	Done    JobState = "done"
	Stopped JobState = "stopped"
	Failed  JobState = "failed"
)

// Folder is a listing within the drives. The empty path lists the drives.
type Folder struct {
	Path    string  `json:"path"`
	Label   string  `json:"label"`
	Parent  *string `json:"parent"`  // nil above the drives
	Entries []Entry `json:"entries"` // a window of them
	Total   int     `json:"total"`
}

// Entry is one line of a folder.
type Entry struct {
	Name   string     `json:"name"`
	Path   string     `json:"path"`
	Folder bool       `json:"folder"`
	Size   int64      `json:"size"`
	Kind   facts.Kind `json:"kind"`
	Format string     `json:"format"` // what it opens as; "" when it is no document
	Root   string     `json:"root"`   // the project folder proposed for a document
	Gone   bool       `json:"gone"`   // a drive that is not connected
}

// NewDrive adds a folder of this machine as a drive.
type NewDrive struct {
	Name string `json:"name"`
	Dir  string `json:"dir"`
}

// Plug plugs a stand-in drive in or out.
type Plug struct {
	Connected bool `json:"connected"`
}

// NewProject adds a project.
type NewProject struct {
	Documents []string `json:"documents"` // chosen together: an assembly and its drawings
	Root      string   `json:"root"`      // "": the folder that holds them all
	Name      string   `json:"name"`
}

// Window is what every window of a table begins with.
type Window struct {
	Snapshot Snapshot `json:"snapshot"`
	Total    int      `json:"total"` // lines, with the headings of groups
	Offset   int      `json:"offset"`
	Rows     int      `json:"rows"`       // what the filter leaves
	Files    int      `json:"files"`      // the same
	Uses     int      `json:"references"` // the same
	Bytes    int64    `json:"bytes"`      // the same
}

// Heading stands over the rows of a group.
type Heading struct {
	Key   string `json:"key"` // of a group by state, the state
	Title string `json:"title"`
	Note  string `json:"note"`
	Count int    `json:"count"`
}

// Stretch is rows of a list that stand together.
type Stretch struct {
	Snapshot Snapshot `json:"snapshot"`
	First    int      `json:"first"` // its lines
	Last     int      `json:"last"`
	Rows     int      `json:"rows"`   // headings do not count
	Head     string   `json:"head"`   // the key of its first row
	Before   string   `json:"before"` // the keys of the rows around it; "" where there is none
	After    string   `json:"after"`
}

// LastAct is the last writing into a project's documents, which can be put back.
type LastAct struct {
	ID        int64     `json:"id"`
	Say       string    `json:"say"`
	Documents []string  `json:"documents"` // by their drives' names
	At        time.Time `json:"at"`
}

// PutBack gives the documents of an act their earlier state.
type PutBack struct {
	Act int64 `json:"act"`
}

// Snapshot names one trace of one project, of this start of the application: what was decided on
// another is not done.
type Snapshot string

// Rows are rows of a table told by what shows them, so that a choice of 50,000 is a small request:
// all that a query shows, those under the heading of one, or those from one to another; but these.
type Rows struct {
	Snapshot Snapshot          `json:"snapshot"` // that they were chosen on
	Filter   string            `json:"filter"`
	Sort     string            `json:"sort"`
	Group    string            `json:"group"`
	Facets   map[string]string `json:"facets"`
	Beside   string            `json:"beside"`
	From     string            `json:"from"`
	To       string            `json:"to"`
	But      []string          `json:"but"`
}

// Started answers a request that began long work.
type Started struct {
	Job Job `json:"job"`
}

// EventType tells what an event is about.
type EventType string

// The events.
const (
	EventJob      EventType = "job"      // Job changed
	EventSnapshot EventType = "snapshot" // a project has a new snapshot
	EventLooked   EventType = "looked"   // the disk was asked again, and everything is as it was
	EventDrives   EventType = "drives"   // a drive came or went
	EventKept     EventType = "kept"     // an edition or a backup of a project came, or went
	EventPlan     EventType = "plan"     // a project's choices changed, and what leans on them
	EventProject  EventType = "project"  // something else of a project changed
)

// Event is one server-sent event.
type Event struct {
	Type     EventType `json:"type"`
	Project  int64     `json:"project"`
	Snapshot Snapshot  `json:"snapshot"`
	Job      *Job      `json:"job,omitempty"`
	Looked   time.Time `json:"looked,omitzero"` // when the disk was asked
	By       string    `json:"by,omitempty"`    // the page whose act it came from, which knows it already
}

// ProblemReply is an error as RFC 9457 problem details.
type ProblemReply struct {
	Type   string         `json:"type"`
	Title  string         `json:"title"`
	Status int            `json:"status"`
	Detail string         `json:"detail"`
	More   *words.Problem `json:"problem,omitempty"`
}

// KindCount is a number of files of one kind.
type KindCount struct {
	Kind  facts.Kind `json:"kind"`
	Word  string     `json:"word"` // "5 pictures"
	Files int        `json:"files"`
	Bytes int64      `json:"bytes"`
}

// FolderCount is a number of files in one folder of a crate.
type FolderCount struct {
	Folder string `json:"folder"`
	Files  int    `json:"files"`
	Bytes  int64  `json:"bytes"`
}

// Apart is a companion of a file: beside it, or where it stayed behind.
type Apart struct {
	Of    string `json:"of"`    // by its drive's name
	Name  string `json:"name"`  // where it should be, below the file's folder
	Found string `json:"found"` // "" when it is where it should be, or nowhere
	Gone  bool   `json:"gone"`  // it was there once, and nothing of the name is known
}

// Preview is how a browser can show a file with nothing added.
type Preview string

// The previews.
const (
	NoPreview Preview = ""
	AsSound   Preview = "sound"
	AsPicture Preview = "picture"
)

// LastSeen is what was known of a file when it was last found.
type LastSeen struct {
	At     time.Time    `json:"at"`
	Size   int64        `json:"size"`
	SHA256 string       `json:"sha256"`
	Facts  *facts.Facts `json:"facts"`
}
