// Package api holds every request, answer and event of the server in one
// place. TypeScript's types are generated from Document, the list of them all.
package api

import (
	"time"

	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/rules"
	"boundcrate/core/seal"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
)

// Document names every type that crosses the wire, for the type generator.
type Document struct {
	State        State        `json:"state"`
	Folder       Folder       `json:"folder"`
	NewDrive     NewDrive     `json:"newDrive"`
	Plug         Plug         `json:"plug"`
	NewProject   NewProject   `json:"newProject"`
	Summary      Summary      `json:"summary"`
	Rows         Rows         `json:"rows"`
	Slip         Slip         `json:"slip"`
	Search       Search       `json:"search"`
	Mend         Mend         `json:"mend"`
	Choose       Choose       `json:"choose"`
	Chosen       Chosen       `json:"chosen"`
	WriteResult  WriteResult  `json:"writeResult"`
	Stow         Stow         `json:"stow"`
	StowOptions  StowOptions  `json:"stowOptions"`
	Berths       Berths       `json:"berths"`
	Wish         Wish         `json:"wish"`
	Destination  Destination  `json:"destination"`
	SealRequest  SealRequest  `json:"sealRequest"`
	Sealed       Sealed       `json:"sealed"`
	Receive      Receive      `json:"receive"`
	Received     Received     `json:"received"`
	Peaks        Peaks        `json:"peaks"`
	Started      Started      `json:"started"`
	Rules        Rules        `json:"rules"`
	SetRules     SetRules     `json:"setRules"`
	TryRules     TryRules     `json:"tryRules"`
	RulesTried   RulesTried   `json:"rulesTried"`
	Event        Event        `json:"event"`
	ProblemReply ProblemReply `json:"problemReply"`
}

// State is what the frame shows everywhere.
type State struct {
	Drives   []Drive   `json:"drives"`
	Projects []Project `json:"projects"`
	Jobs     []Job     `json:"jobs"` // running ones, and those that ended lately
	Demo     bool      `json:"demo"`
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
	StandIn   bool   `json:"standIn"` // can be plugged in and unplugged from here
	Total     int64  `json:"total"`   // bytes; 0 when it is not connected
	Free      int64  `json:"free"`
}

// Project is a document the user works on.
type Project struct {
	ID       int64     `json:"id"`
	Name     string    `json:"name"`
	Document string    `json:"document"` // absolute path
	Label    string    `json:"label"`    // the document by its drive's name
	Root     string    `json:"root"`
	RootName string    `json:"rootName"` // the root by its drive's name
	Opened   time.Time `json:"opened"`
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
	Rate    float64   `json:"rate"`  // units a second
	Left    float64   `json:"left"`  // seconds; 0: not known
	Error   string    `json:"error"`
	Began   time.Time `json:"began"`
	Message string    `json:"message"` // what came of it, when it is done
}

// JobKind tells what a job does.
type JobKind string

// The kinds of jobs.
const (
	JobTrace   JobKind = "trace"
	JobSearch  JobKind = "search"
	JobSeal    JobKind = "seal"
	JobReceive JobKind = "receive"
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
	Parent  *string `json:"parent"` // nil above the drives
	Entries []Entry `json:"entries"`
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
	Document string `json:"document"`
	Root     string `json:"root"`
	Name     string `json:"name"`
}

// Summary is a project's trace at a glance.
type Summary struct {
	Project    Project           `json:"project"`
	Snapshot   int               `json:"snapshot"` // 0: not traced yet
	Traced     *time.Time        `json:"traced"`
	Error      string            `json:"error"` // why it could not be traced
	References int               `json:"references"`
	Files      int               `json:"files"`
	Bytes      int64             `json:"bytes"`
	States     []Count           `json:"states"`
	Missing    []Count           `json:"missing"` // by kind
	Places     []Place           `json:"places"`
	Documents  []DocumentLine    `json:"documents"`
	Problems   []mention.Problem `json:"problems"`
	ToFind     int               `json:"toFind"`  // missing, twins and sequences with gaps, each once
	Guessed    int               `json:"guessed"` // references that no format's rule tells
	Pending    int               `json:"pending"` // used references that need a person
	Gaps       int               `json:"gaps"`    // numbers that sequences lack
	CanStay    int64             `json:"canStay"` // bytes of what is not used
	Clashes    int               `json:"clashes"`
	Repairs    int               `json:"repairs"`
	Sealed     bool              `json:"sealed"`
	Complete   bool              `json:"complete"`
}

// Count is a number of references and files under one heading.
type Count struct {
	Key        string `json:"key"`
	References int    `json:"references"`
	Files      int    `json:"files"`
	Bytes      int64  `json:"bytes"`
}

// Place is a folder the project's material lies in, for the spread.
type Place struct {
	Drive     string `json:"drive"` // name; "" where no drive holds it
	Folder    string `json:"folder"`
	Path      string `json:"path"`
	Kind      string `json:"kind"` // own, project, dump, other, unplugged, missing
	Files     int    `json:"files"`
	Bytes     int64  `json:"bytes"`
	Connected bool   `json:"connected"`
}

// DocumentLine is one document of the trace.
type DocumentLine struct {
	Path       string `json:"path"`
	Name       string `json:"name"`
	Format     string `json:"format"`
	Title      string `json:"title"` // of the format, for people
	Use        string `json:"use"`
	References int    `json:"references"`
}

// Rows is a window of the ledger.
type Rows struct {
	Snapshot int   `json:"snapshot"`
	Total    int   `json:"total"` // rows with group headings
	Offset   int   `json:"offset"`
	Files    int   `json:"files"`      // what the filter leaves
	Uses     int   `json:"references"` // what the filter leaves
	Bytes    int64 `json:"bytes"`
	Rows     []Row `json:"rows"`
}

// Row is a line of the ledger, or a group's heading.
type Row struct {
	Heading string   `json:"heading"` // of a group; "" for a file
	Note    string   `json:"note"`    // of a heading
	Count   int      `json:"count"`   // of a heading
	Key     string   `json:"key"`
	Name    string   `json:"name"`
	Common  string   `json:"common"` // the folder's part that is the project's own
	Parting string   `json:"parting"`
	State   string   `json:"state"`
	Use     string   `json:"use"`
	Kind    string   `json:"kind"`
	Size    int64    `json:"size"`
	Files   int      `json:"files"`
	Of      int      `json:"of"` // of a sequence: how many are expected
	Uses    int      `json:"uses"`
	Badges  []string `json:"badges"`
}

// Slip is everything about one file.
type Slip struct {
	Row      Row          `json:"row"`
	Say      string       `json:"say"` // one or two sentences
	Paths    []PathLine   `json:"paths"`
	Path     string       `json:"path"` // absolute; "" when it is not there
	Size     int64        `json:"size"`
	Modified *time.Time   `json:"modified"`
	Facts    *facts.Facts `json:"facts"`
	Harm     string       `json:"harm"` // what is wrong with its header; "" for nothing
	SHA256   string       `json:"sha256"`
	Last     *LastSeen    `json:"last"`
	Uses     []Use        `json:"uses"`
	Gaps     string       `json:"gaps"` // "147, 148"
	Missing  int          `json:"missing"`
	Drive    string       `json:"drive"` // to be connected
	DriveID  string       `json:"driveId"`
	Preview  string       `json:"preview"` // sound, picture or ""
	Repair   *Repair      `json:"repair"`  // the one that leads here
}

// PathLine is one path of the comparison, in pieces.
type PathLine struct {
	Label  string  `json:"label"`
	Pieces []Piece `json:"pieces"`
	Mark   string  `json:"mark"` // asked or found: how the parting pieces are marked
}

// Piece is a run of path elements.
type Piece struct {
	Text   string `json:"text"`
	Common bool   `json:"common"`
}

// LastSeen is what was known of a file when it was last found.
type LastSeen struct {
	At     time.Time    `json:"at"`
	Size   int64        `json:"size"`
	SHA256 string       `json:"sha256"`
	Facts  *facts.Facts `json:"facts"`
}

// Use is one mention of a file.
type Use struct {
	Document string `json:"document"`
	Depth    int    `json:"depth"` // nesting
	Owner    string `json:"owner"`
	Written  string `json:"written"`
	Use      string `json:"use"`
	// Range is the part that is used, where the document tells it.
	Range *mention.Range `json:"range"`
}

// Search says where to look.
type Search struct {
	Folders []string `json:"folders"`
}

// Mend is the mending station.
type Mend struct {
	Snapshot int       `json:"snapshot"`
	Searched int       `json:"searched"` // files met by the last search; 0: none yet
	Folders  []string  `json:"folders"`
	Found    int       `json:"found"` // applied unasked by the last search
	Looked   int       `json:"looked"`
	Wanted   []Wanted  `json:"wanted"`
	Repairs  []Repair  `json:"repairs"`
	Writable []string  `json:"writable"` // documents repairs can be written into
	Suggest  []Suggest `json:"suggest"`  // folders worth looking in first
}

// Suggest is a folder worth looking in.
type Suggest struct {
	Path  string `json:"path"`
	Label string `json:"label"`
}

// Wanted is one file to find again.
type Wanted struct {
	Expected   string      `json:"expected"`
	Name       string      `json:"name"`
	Label      string      `json:"label"` // the folder it should be in
	Kind       string      `json:"kind"`
	State      string      `json:"state"`
	Use        string      `json:"use"`
	Uses       int         `json:"uses"`
	Gaps       string      `json:"gaps"` // of a sequence that is there in part
	Last       *LastSeen   `json:"last"`
	Candidates []Candidate `json:"candidates"`
}

// Candidate is a file that may be the wanted one.
type Candidate struct {
	mend.Candidate
	Name    string       `json:"name"`
	Label   string       `json:"label"` // its folder
	Facts   *facts.Facts `json:"facts"`
	Preview string       `json:"preview"` // sound, picture or ""
	Sample  string       `json:"sample"`  // the file to preview: itself, or a frame
}

// Repair is an applied repair.
type Repair struct {
	ID        int64    `json:"id"`
	Batch     int64    `json:"batch"`
	From      string   `json:"from"`
	To        string   `json:"to"`
	FromLabel string   `json:"fromLabel"`
	ToLabel   string   `json:"toLabel"`
	Certainty string   `json:"certainty"`
	Reasons   []string `json:"reasons"`
	Live      bool     `json:"live"` // something in the trace leans on it
}

// Choose applies a candidate, or asks what speaks for a file chosen by hand.
type Choose struct {
	Expected string `json:"expected"`
	Path     string `json:"path"`
	Try      bool   `json:"try"` // only ask
}

// Chosen is what came of it.
type Chosen struct {
	Candidate Candidate `json:"candidate"`
	Applied   bool      `json:"applied"`
}

// WriteResult is what writing repairs into documents did.
type WriteResult struct {
	Written  []mend.Written    `json:"written"`
	Problems []mention.Problem `json:"problems"`
}

// Stow is the stowing station's totals.
type Stow struct {
	Snapshot int               `json:"snapshot"`
	Options  StowOptions       `json:"options"`
	Files    int               `json:"files"`
	Bytes    int64             `json:"bytes"`
	Absent   int               `json:"absent"`
	Clashes  int               `json:"clashes"`
	Renamed  int               `json:"renamed"`
	Kinds    []Count           `json:"kinds"`
	Folders  []Count           `json:"folders"`
	Weighed  []sift.Line       `json:"weighed"`
	Left     []stow.Left       `json:"left"`
	Problems []mention.Problem `json:"problems"`
	Note     string            `json:"note"`
	Out      string            `json:"out"`
	Limits   []Limit           `json:"limits"`
}

// Limit is what a carrier takes.
type Limit struct {
	Name  string `json:"name"`
	Bytes int64  `json:"bytes"`
	File  bool   `json:"file"` // for each file, not for all
	Fits  bool   `json:"fits"`
}

// StowOptions is how the crate is laid out.
type StowOptions struct {
	Layout   stow.Layout `json:"layout"`
	Leave    sift.Choice `json:"leave"`
	AnyNames bool        `json:"anyNames"`
}

// Berths is a window of the stow table.
type Berths struct {
	Snapshot int     `json:"snapshot"`
	Total    int     `json:"total"`
	Offset   int     `json:"offset"`
	Berths   []Berth `json:"berths"`
}

// Berth is a line of the stow table.
type Berth struct {
	Key      string `json:"key"`
	From     string `json:"from"` // folder it comes from
	Was      string `json:"was"`
	Folder   string `json:"folder"`
	Name     string `json:"name"`
	Kind     string `json:"kind"`
	Use      string `json:"use"`
	Size     int64  `json:"size"`
	Files    int    `json:"files"`
	Uses     int    `json:"uses"`
	Absent   bool   `json:"absent"`
	Why      string `json:"why"`
	Renamed  string `json:"renamed"`
	Clashed  bool   `json:"clashed"`
	Wished   bool   `json:"wished"`
	Sequence bool   `json:"sequence"`
}

// Wish renames or moves one berth; nil leaves as it is, Reset forgets all.
type Wish struct {
	Key    string  `json:"key"`
	Folder *string `json:"folder"`
	Name   *string `json:"name"`
	Reset  bool    `json:"reset"`
}

// Destination asks whether a crate may be sealed to a place.
type Destination struct {
	Out   string `json:"out"`
	Label string `json:"label"`
	OK    bool   `json:"ok"`
	Why   string `json:"why"`
	Free  int64  `json:"free"`
	Needs int64  `json:"needs"`
	Again bool   `json:"again"` // an earlier crate is there
}

// SealRequest seals.
type SealRequest struct {
	Out  string `json:"out"`
	Note string `json:"note"`
}

// Sealed is the last seal of a project.
type Sealed struct {
	Report *seal.Report `json:"report"` // nil: not sealed yet
	At     *time.Time   `json:"at"`
	Label  string       `json:"label"`
	There  bool         `json:"there"` // the crate still stands where it was sealed to
	Proof  []ProofLine  `json:"proof"`
	Note   string       `json:"note"`
}

// ProofLine is one stamped check of a seal.
type ProofLine struct {
	OK     bool   `json:"ok"`
	What   string `json:"what"`
	Figure string `json:"figure"`
	Note   string `json:"note"`
}

// Receive unpacks a crate; with an empty Into it is only checked.
type Receive struct {
	Crate string `json:"crate"`
	Into  string `json:"into"`
}

// Received is what a received crate held.
type Received struct {
	Report seal.Report `json:"report"`
	Label  string      `json:"label"` // the crate by its drive's name
	Into   string      `json:"into"`  // where it was unpacked to, the same way; "" when it was not
	Proof  []ProofLine `json:"proof"`
}

// Rules are the rules files of the data folder.
type Rules struct {
	Folder string      `json:"folder"` // where they lie
	Files  []RulesFile `json:"files"`
}

// RulesFile is one of them.
type RulesFile struct {
	Name       string          `json:"name"` // of the file, without its extension
	Text       string          `json:"text"` // YAML
	On         bool            `json:"on"`
	Title      string          `json:"title"`
	Extensions []string        `json:"extensions"`
	Carrier    string          `json:"carrier"`
	Problems   []rules.Problem `json:"problems"` // with any it cannot be switched on
}

// SetRules writes a rules file and switches it.
type SetRules struct {
	Name string `json:"name"`
	Text string `json:"text"`
	On   bool   `json:"on"`
}

// TryRules holds a text against a sample document; without one it is only
// checked.
type TryRules struct {
	Text   string `json:"text"`
	Sample string `json:"sample"`
}

// RulesTried is what a text that may become a rules file finds.
type RulesTried struct {
	Problems []rules.Problem `json:"problems"`
	Finds    []rules.Find    `json:"finds"`
	Damage   []string        `json:"damage"` // what is wrong with the sample
	More     int             `json:"more"`   // finds that are not listed
}

// Peaks is a waveform: the lowest and highest sample of each slice, −1 to 1.
type Peaks struct {
	Low     []float64 `json:"low"`
	High    []float64 `json:"high"`
	Seconds float64   `json:"seconds"`
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
	EventDrives   EventType = "drives"   // a drive came or went
	EventProject  EventType = "project"  // a project's choices or seals changed
)

// Event is one server-sent event.
type Event struct {
	Type     EventType `json:"type"`
	Project  int64     `json:"project"`
	Snapshot int       `json:"snapshot"`
	Job      *Job      `json:"job,omitempty"`
}

// ProblemReply is an error as RFC 9457 problem details.
type ProblemReply struct {
	Type   string           `json:"type"`
	Title  string           `json:"title"`
	Status int              `json:"status"`
	Detail string           `json:"detail"`
	More   *mention.Problem `json:"problem,omitempty"`
}
