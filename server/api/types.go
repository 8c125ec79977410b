// Package api holds every request, answer and event of the server in one
// place. TypeScript's types are generated from Document, the list of them all.
package api

import (
	"boundcrate/core/carrier"
	"time"

	"boundcrate/core/decide"
	"boundcrate/core/export"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/inside"
	"boundcrate/core/may"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/origin"
	"boundcrate/core/pcm"
	"boundcrate/core/report"
	"boundcrate/core/rules"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
	"boundcrate/core/survey"
	"boundcrate/core/tally"
)

// Document names every type that crosses the wire, for the type generator.
type Document struct {
	AppState     AppState     `json:"appState"`
	Folder       Folder       `json:"folder"`
	NewDrive     NewDrive     `json:"newDrive"`
	Plug         Plug         `json:"plug"`
	NewProject   NewProject   `json:"newProject"`
	Summary      Summary      `json:"summary"`
	Files        Files        `json:"files"`
	WantedList   WantedList   `json:"wantedList"`
	Berths       Berths       `json:"berths"`
	DocumentList DocumentList `json:"documentList"`
	Keys         Keys         `json:"keys"`
	Slip         Slip         `json:"slip"`
	Search       Search       `json:"search"`
	Mend         Mend         `json:"mend"`
	Wanted       Wanted       `json:"wanted"`
	MoveFolder   MoveFolder   `json:"moveFolder"`
	SetAside     SetAside     `json:"setAside"`
	SayMeant     SayMeant     `json:"sayMeant"`
	WriteRepairs WriteRepairs `json:"writeRepairs"`
	Strays       Strays       `json:"strays"`
	Adopt        Adopt        `json:"adopt"`
	PutAway      PutAway      `json:"putAway"`
	Estimates    Estimates    `json:"estimates"`
	Recipes      Recipes      `json:"recipes"`
	SetRecipe    SetRecipe    `json:"setRecipe"`
	UseRecipe    UseRecipe    `json:"useRecipe"`
	GroupFiles   GroupFiles   `json:"groupFiles"`
	MendGroup    MendGroup    `json:"mendGroup"`
	Decisions    Decisions    `json:"decisions"`
	Choose       Choose       `json:"choose"`
	Chosen       Chosen       `json:"chosen"`
	WriteResult  WriteResult  `json:"writeResult"`
	Stow         Stow         `json:"stow"`
	StowOptions  StowOptions  `json:"stowOptions"`
	Wish         Wish         `json:"wish"`
	Destination  Destination  `json:"destination"`
	SealRequest  SealRequest  `json:"sealRequest"`
	Sealed       Sealed       `json:"sealed"`
	Receive      Receive      `json:"receive"`
	Received     Received     `json:"received"`
	AskClearout  AskClearout  `json:"askClearout"`
	LearnRules   LearnRules   `json:"learnRules"`
	RulesLearned RulesLearned `json:"rulesLearned"`
	HomePlan     HomePlan     `json:"homePlan"`
	AskHome      AskHome      `json:"askHome"`
	Points       Points       `json:"points"`
	SetPoints    SetPoints    `json:"setPoints"`
	Aimed        Aimed        `json:"aimed"`
	PutBack      PutBack      `json:"putBack"`
	NoFiles      NoFiles      `json:"noFiles"`
	WriteOut     WriteOut     `json:"writeOut"`
	DriveCards   DriveCards   `json:"driveCards"`
	SetDrive     SetDrive     `json:"setDrive"`
	Declare      Declare      `json:"declare"`
	Stock        Stock        `json:"stock"`
	Hold         Hold         `json:"hold"`
	HeldList     HeldList     `json:"heldList"`
	SetSearch    SetSearch    `json:"setSearch"`
	Compared     Compared     `json:"compared"`
	Spread       Spread       `json:"spread"`
	Habits       Habits       `json:"habits"`
	Templates    Templates    `json:"templates"`
	Begin        Begin        `json:"begin"`
	Begun        Begun        `json:"begun"`
	SetHabits    SetHabits    `json:"setHabits"`
	HabitsTried  HabitsTried  `json:"habitsTried"`
	Cleared      Cleared      `json:"cleared"`
	Differs      Differs      `json:"differs"`
	Peaks        Peaks        `json:"peaks"`
	Started      Started      `json:"started"`
	Rules        Rules        `json:"rules"`
	SetRules     SetRules     `json:"setRules"`
	TryRules     TryRules     `json:"tryRules"`
	RulesTried   RulesTried   `json:"rulesTried"`
	Event        Event        `json:"event"`
	ProblemReply ProblemReply `json:"problemReply"`
}

// AppState is what the frame shows everywhere.
type AppState struct {
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
	JobCheck   JobKind = "check"
	JobReceive JobKind = "receive"
	JobSurvey  JobKind = "survey"
	JobHome    JobKind = "home"
	JobInside  JobKind = "inside"
	JobIndex   JobKind = "index"
	JobMeasure JobKind = "measure"
	JobStock   JobKind = "stock"
	JobWeigh   JobKind = "weigh"
	JobPutAway JobKind = "put-away"
	JobSeek    JobKind = "seek" // what nothing names
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

// Summary is a project's trace at a glance.
type Summary struct {
	tally.Tally
	Project     Project           `json:"project"`
	Snapshot    int               `json:"snapshot"` // 0: not traced yet
	Traced      *time.Time        `json:"traced"`
	Error       string            `json:"error"` // why it could not be traced
	States      []StateCount      `json:"states"`
	Lost        []KindCount       `json:"lost"` // what is missing and nothing makes again, by kind
	Places      []Place           `json:"places"`
	WritePoints []WritePoint      `json:"writePoints"` // that point out of the project
	Moved       []origin.Move     `json:"moved"`
	Warnings    []Warning         `json:"warnings"`
	ProblemList []mention.Problem `json:"problemList"`
	Unknown     bool              `json:"unknown"` // a document of no known format in which nothing was recognised
	AllHere     bool              `json:"allHere"` // everything that is named is there and is what it should be, and nothing is left unread
	CanStay     int64             `json:"canStay"` // bytes of what is not used
	Clashes     int               `json:"clashes"`
	Repairs     int               `json:"repairs"`
	CanUndo     bool              `json:"canUndo"`
	CanRedo     bool              `json:"canRedo"`
	Sealed      bool              `json:"sealed"`
	Complete    bool              `json:"complete"`
	Apart       []Apart           `json:"apart"`       // companions that stayed behind
	Polled      bool              `json:"polled"`      // not all its folders can be watched: the disk is asked again and again
	SealedGone  bool              `json:"sealedGone"`  // the crate does not stand there any more
	SealedStale int               `json:"sealedStale"` // sources that changed since, up to a bound
	Search      []SearchFolder    `json:"search"`      // folders it looks in for what is missing, in order
	Siblings    []Sibling         `json:"siblings"`    // other states of its first document, the latest first, itself among them
	AskHome     bool              `json:"askHome"`     // to be asked when files come from outside
	CameOutside []string          `json:"cameOutside"` // those that came since it was asked last, by their drives' names
	LastAct     *LastAct          `json:"lastAct"`     // the last writing into its documents that can be put back
}

// StateCount is a number of references and files of one state.
type StateCount struct {
	State      graph.State `json:"state"`
	References int         `json:"references"`
	Files      int         `json:"files"`
	Bytes      int64       `json:"bytes"`
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

// Place is a folder the project's material lies in, for the spread.
type Place struct {
	Drive     string           `json:"drive"` // name; "" where no drive holds it
	Folder    string           `json:"folder"`
	Path      string           `json:"path"`
	Kind      origin.PlaceKind `json:"kind"`
	Files     int              `json:"files"`
	Bytes     int64            `json:"bytes"`
	Connected bool             `json:"connected"`
}

// WritePoint is where new material will go.
type WritePoint struct {
	Document string       `json:"document"`
	Owner    string       `json:"owner"`
	Label    string       `json:"label"`
	Path     string       `json:"path"`
	Flags    []graph.Flag `json:"flags"`
}

// Warning is something to know of the whole project.
type Warning struct {
	Code    origin.WarningCode `json:"code"`
	Message string             `json:"message"`
	Paths   []string           `json:"paths"`
	Place   string             `json:"place"` // a folder that all of it lies in, absolute; "" none
}

// Window is what every window of a table begins with.
type Window struct {
	Snapshot int   `json:"snapshot"`
	Total    int   `json:"total"` // lines, with the headings of groups
	Offset   int   `json:"offset"`
	Rows     int   `json:"rows"`       // what the filter leaves
	Files    int   `json:"files"`      // the same
	Uses     int   `json:"references"` // the same
	Bytes    int64 `json:"bytes"`      // the same
}

// Heading stands over the rows of a group.
type Heading struct {
	Key   string `json:"key"` // of a group by state, the state
	Title string `json:"title"`
	Note  string `json:"note"`
	Count int    `json:"count"`
}

// Keys are the rows a query of a table shows.
type Keys struct {
	Keys []string `json:"keys"`
}

// Files is a window of the ledger of files.
type Files struct {
	Window
	Lines []FileLine `json:"lines"`
}

// FileLine is a heading or a row.
type FileLine struct {
	Heading *Heading `json:"heading"`
	Row     *Row     `json:"row"`
}

// Row is a line of the ledger of files.
type Row struct {
	Key     string       `json:"key"`
	Name    string       `json:"name"`
	Common  string       `json:"common"` // the folder's part that is the project's own
	Parting string       `json:"parting"`
	State   graph.State  `json:"state"`
	Use     mention.Use  `json:"use"`
	Kind    facts.Kind   `json:"kind"`
	Word    string       `json:"word"` // of the kind
	Origin  graph.Origin `json:"origin"`
	Size    int64        `json:"size"`
	Files   int          `json:"files"`
	Of      int          `json:"of"` // of a sequence: how many are expected
	Uses    int          `json:"uses"`
	Write   bool         `json:"write"` // a write point: no file yet
	Badges  []Badge      `json:"badges"`
}

// BadgeCode is what a badge is about.
type BadgeCode string

// The badges.
const (
	BadgeWrite   BadgeCode = "write"
	BadgeGuess   BadgeCode = "guess"
	BadgeGaps    BadgeCode = "gaps"
	BadgeLoose   BadgeCode = "loose"
	BadgeMended  BadgeCode = "mended"
	BadgeDormant BadgeCode = "dormant"
	BadgeListed  BadgeCode = "listed"
	BadgeNetwork BadgeCode = "network"
	BadgeDump    BadgeCode = "dump"
	BadgeProject BadgeCode = "other-project"
	BadgeLibrary BadgeCode = "library"
	BadgeStore   BadgeCode = "store"
	BadgeNewer   BadgeCode = "newer"
	BadgeSearch  BadgeCode = "search"
	BadgeSuspect BadgeCode = "suspect"
	BadgeRebuild BadgeCode = "rebuildable"
)

// Badge is one remark beside a name.
type Badge struct {
	Code BadgeCode `json:"code"`
	Text string    `json:"text"`
}

// DocumentList is a window of the ledger of documents.
type DocumentList struct {
	Window
	Lines []DocumentLine `json:"lines"`
}

// DocumentLine is a heading or a row.
type DocumentLine struct {
	Heading *Heading     `json:"heading"`
	Row     *DocumentRow `json:"row"`
}

// DocumentRow is one document of the trace.
type DocumentRow struct {
	Key        string      `json:"key"` // of the document's file
	Name       string      `json:"name"`
	Folder     string      `json:"folder"`
	Format     string      `json:"format"`
	Title      string      `json:"title"` // of the format, for people
	Guessed    bool        `json:"guessed"`
	Use        mention.Use `json:"use"`
	Depth      int         `json:"depth"`
	References int         `json:"references"`
	Open       int         `json:"open"` // references that need a person
	Size       int64       `json:"size"`
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
	Uses     []Asker      `json:"uses"`
	Gaps     string       `json:"gaps"` // "147, 148"
	Missing  int          `json:"missing"`
	Drive    string       `json:"drive"`  // to be connected
	Copies   []string     `json:"copies"` // files of its name and size on other drives
	DriveID  string       `json:"driveId"`
	Preview  Preview      `json:"preview"`
	Chain    []string     `json:"chain"`  // the documents from a given one down to the first that names it
	Repair   *Repair      `json:"repair"` // the one that leads here
	Others   []OtherUse   `json:"others"` // documents beyond this project that need the file
	Beside   []Apart      `json:"beside"` // its companions
}

// Apart is a companion of a file: beside it, or where it stayed behind.
type Apart struct {
	Of    string `json:"of"`    // by its drive's name
	Name  string `json:"name"`  // where it should be, below the file's folder
	Found string `json:"found"` // "" when it is where it should be, or nowhere
	Gone  bool   `json:"gone"`  // it was there once, and nothing of the name is known
}

// OtherUse is a document beyond a project that names, needs or writes its file.
type OtherUse struct {
	Document string      `json:"document"` // by its drive's name
	Project  string      `json:"project"`
	Owner    string      `json:"owner"`
	Use      mention.Use `json:"use"`
	Role     may.Role    `json:"role"`
	At       time.Time   `json:"at"` // when the document was traced
}

// Preview is how a browser can show a file with nothing added.
type Preview string

// The previews.
const (
	NoPreview Preview = ""
	AsSound   Preview = "sound"
	AsPicture Preview = "picture"
)

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

// Asker is one mention of a file.
type Asker struct {
	Document string      `json:"document"`
	Depth    int         `json:"depth"` // nesting
	Owner    string      `json:"owner"`
	Written  string      `json:"written"`
	Use      mention.Use `json:"use"`
	// Range is the part that is used, where the document tells it.
	Range *mention.Range `json:"range"`
}

// Search says where to look.
type Search struct {
	Folders []string `json:"folders"`
}

// Mend is the mending station.
type Mend struct {
	Snapshot int            `json:"snapshot"`
	Searched int            `json:"searched"` // files met by the last search; 0: none yet
	Folders  []string       `json:"folders"`
	Found    int            `json:"found"` // applied unasked by the last search
	Looked   int            `json:"looked"`
	Missing  int            `json:"missing"` // files still to find again
	Groups   []Group        `json:"groups"`  // what can be mended together, the most files first
	Repairs  []Repair       `json:"repairs"`
	Writable []string       `json:"writable"` // documents repairs can be written into
	Suggest  []Suggest      `json:"suggest"`  // folders worth looking in first, the likeliest first
	Aside    []Aside        `json:"aside"`    // files that do not count for now
	Loose    []Respell      `json:"loose"`    // files that documents spell otherwise than they are called
	Others   []OtherProject `json:"others"`   // projects that miss what was mended here
}

// OtherProject is a project that misses what another one mended.
type OtherProject struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Missing int    `json:"missing"` // names in its documents
}

// Respell is a file that a document spells otherwise than it is called.
type Respell struct {
	Expected string `json:"expected"`
	Label    string `json:"label"`
	Is       string `json:"is"` // its own name
}

// Aside is a file that was set aside.
type Aside struct {
	ID    int64      `json:"id"` // of the decision
	Label string     `json:"label"`
	Why   decide.Why `json:"why"`
	Says  string     `json:"says"`
}

// SetAside sets files aside, by where they are expected.
type SetAside struct {
	Expected []string   `json:"expected"`
	Why      decide.Why `json:"why"`
}

// SayMeant says that a file is the one that is meant, whatever speaks against it.
type SayMeant struct {
	Expected string `json:"expected"`
}

// Group is a folder whose missing files are offered together.
type Group struct {
	From      string         `json:"from"`
	To        string         `json:"to"`
	FromLabel string         `json:"fromLabel"`
	ToLabel   string         `json:"toLabel"`
	Files     int            `json:"files"` // that one act mends
	Of        int            `json:"of"`    // missing from the folder
	Renamed   string         `json:"renamed"`
	Certainty mend.Certainty `json:"certainty"`
	Doubts    int            `json:"doubts"` // files against which something speaks
	Reasons   []string       `json:"reasons"`
	Key       string         `json:"key"`
}

// GroupFiles are the files of a group.
type GroupFiles struct {
	Group Group        `json:"group"`
	List  []GroupedRow `json:"list"`
}

// GroupedRow is one of them.
type GroupedRow struct {
	Expected  string         `json:"expected"`
	Name      string         `json:"name"`
	Label     string         `json:"label"` // of the folder it is expected in
	Path      string         `json:"path"`
	Found     string         `json:"found"`
	FoundIn   string         `json:"foundIn"`
	Certainty mend.Certainty `json:"certainty"`
	Warnings  []string       `json:"warnings"`
}

// MendGroup mends the files of a group as one act.
type MendGroup struct {
	Key     string   `json:"key"`
	Without []string `json:"without"` // expected places that are taken out
	Despite bool     `json:"despite"` // those against which something speaks too
}

// MoveFolder says that everything expected below From is below To.
type MoveFolder struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Suggest is a folder worth looking in.
type Suggest struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Why   string `json:"why"`
	Known bool   `json:"known"` // something is known of it that speaks for it
	Best  bool   `json:"best"`  // among those that are looked in unless one chooses otherwise
}

// WantedList is a window of the ledger of wanted files.
type WantedList struct {
	Window
	Lines []WantedLine `json:"lines"`
}

// WantedLine is a heading or a row.
type WantedLine struct {
	Heading *Heading   `json:"heading"`
	Row     *WantedRow `json:"row"`
}

// WantedRow is one file to find again.
type WantedRow struct {
	Suspect    []string       `json:"suspect"` // what speaks against the file that is there
	Key        string         `json:"key"`     // where it is expected
	Name       string         `json:"name"`
	Label      string         `json:"label"` // the folder it should be in
	Kind       facts.Kind     `json:"kind"`
	Word       string         `json:"word"` // of the kind
	State      graph.State    `json:"state"`
	Use        mention.Use    `json:"use"`
	Uses       int            `json:"uses"`
	Gaps       string         `json:"gaps"`       // of a sequence that is there in part
	Candidates int            `json:"candidates"` // how many were found
	Best       string         `json:"best"`       // name of the first
	BestLabel  string         `json:"bestLabel"`  // its folder
	Certainty  mend.Certainty `json:"certainty"`  // its certainty; "" without one
	Doubtful   bool           `json:"doubtful"`   // something speaks against it
}

// Wanted is one file to find again, with all that was found for it.
type Wanted struct {
	Row        *WantedRow      `json:"row"` // nil: it is not missing any more
	Last       *LastSeen       `json:"last"`
	Text       bool            `json:"text"`   // it was a text, which is remembered
	Looks      bool            `json:"looks"`  // it is remembered what it looked like
	Ranges     []mention.Range `json:"ranges"` // the parts of it that are used
	Candidates []Candidate     `json:"candidates"`
}

// Candidate is a file that may be the wanted one.
type Candidate struct {
	report.Candidate
	Name    string       `json:"name"`
	Label   string       `json:"label"` // its folder
	Facts   *facts.Facts `json:"facts"`
	Preview Preview      `json:"preview"`
	Sample  string       `json:"sample"`  // the file to preview: itself, or a frame
	Content bool         `json:"content"` // it has the very content that was last seen
}

// Repair is an applied repair.
type Repair struct {
	ID        int64          `json:"id"`
	Batch     int64          `json:"batch"`
	From      string         `json:"from"`
	To        string         `json:"to"`
	FromLabel string         `json:"fromLabel"`
	ToLabel   string         `json:"toLabel"`
	Prefix    bool           `json:"prefix"` // of everything below
	Certainty mend.Certainty `json:"certainty"`
	Reasons   []string       `json:"reasons"`
	Live      bool           `json:"live"` // something in the trace leans on it
}

// Choose applies a candidate, or asks what speaks for a file chosen by hand.
type Choose struct {
	Expected string `json:"expected"`
	Path     string `json:"path"`
	Try      bool   `json:"try"`     // only ask
	Despite  bool   `json:"despite"` // of what speaks against it; else that is said, and nothing done
}

// Chosen is what came of it.
type Chosen struct {
	Candidate Candidate `json:"candidate"`
	Applied   bool      `json:"applied"`
}

// Decisions is everything that was said of a project, newest first.
type Decisions struct {
	List    []Decision `json:"list"`
	CanUndo bool       `json:"canUndo"`
	CanRedo bool       `json:"canRedo"`
}

// Decision is one of them.
type Decision struct {
	ID     int64       `json:"id"`
	Batch  int64       `json:"batch"`
	Kind   decide.Kind `json:"kind"`
	Say    string      `json:"say"` // in words
	At     time.Time   `json:"at"`
	Undone bool        `json:"undone"`
	Lost   bool        `json:"lost"` // nothing in the trace answers to it any more
}

// WriteRepairs puts the repairs into the documents, or tells which lines that changes.
type WriteRepairs struct {
	Try bool `json:"try"`
}

// WriteResult is what writing repairs into documents did.
type WriteResult struct {
	Lines    []AimLine         `json:"lines"` // that change, the first of them
	More     int               `json:"more"`  // lines that are not listed
	Written  []mend.Written    `json:"written"`
	Problems []mention.Problem `json:"problems"`
}

// Stow is the stowing station's totals.
type Stow struct {
	Snapshot   int               `json:"snapshot"`
	Options    StowOptions       `json:"options"`
	Files      int               `json:"files"`
	Bytes      int64             `json:"bytes"`
	About      bool              `json:"about"` // some sizes are told by samples
	Absent     int               `json:"absent"`
	Clashes    int               `json:"clashes"`
	Renamed    int               `json:"renamed"`
	Kinds      []KindCount       `json:"kinds"`
	Folders    []FolderCount     `json:"folders"`
	Weighed    []Weighed         `json:"weighed"`
	Left       []report.Left     `json:"left"`
	GivesUp    []GivenUp         `json:"givesUp"`
	ForArchive bool              `json:"forArchive"` // nothing is given up that could travel
	Kept       []string          `json:"kept"`       // what is still needed of what stays
	Documents  []DocSwitch       `json:"documents"`
	Along      []AlongSum        `json:"along"`
	AlongBytes int64             `json:"alongBytes"` // of what goes along
	Seeking    bool              `json:"seeking"`    // what nothing names is still looked for
	Twins      Twins             `json:"twins"`
	Drawn      string            `json:"drawn"`     // which parts have drawings; empty where there are no parts
	Unmatched  []string          `json:"unmatched"` // patterns that no file answers to
	Losses     []Losses          `json:"losses"`    // of each simpler document
	Repoint    []report.Repoint  `json:"repoint"`   // names that whoever receives the crate must point anew
	Passes     []int             `json:"passes"`
	Problems   []mention.Problem `json:"problems"`
	Note       string            `json:"note"`
	Out        string            `json:"out"`
	Limits     []Limit           `json:"limits"`
}

// Weighed is what there is of a kind, use and origin, with the kind's word.
type Weighed struct {
	sift.Line
	Word string `json:"word"`
	From string `json:"from"` // whose it is, in words
}

// Limit is what a carrier takes.
type Limit struct {
	Name  string `json:"name"`
	Bytes int64  `json:"bytes"`
	File  bool   `json:"file"` // for each file, not for all
	Fits  bool   `json:"fits"`
	Parts int    `json:"parts"` // of the limit that files would go into; 0 where one is too large
}

// StowOptions is how the crate is laid out.
type StowOptions struct {
	Layout      string        `json:"layout"` // one of stow.Layouts, or a pattern
	Leave       sift.Choice   `json:"leave"`
	AnyNames    bool          `json:"anyNames"`
	Prefix      string        `json:"prefix"`
	Suffix      string        `json:"suffix"`
	Also        []string      `json:"also"`        // what goes along: sift.Alongs and globs
	Sound       pcm.Spec      `json:"sound"`       // what sounds shall be; empty: as they are
	Trim        *float64      `json:"trim"`        // sounds are cut to what is used and this many seconds around
	Interchange []export.Form `json:"interchange"` // simpler documents beside those that were asked for
	SHA512      bool          `json:"sha512"`      // manifests of SHA-512 too
	Parts       int64         `json:"parts"`       // bytes that no archive is larger than; 0: it is one
	For         string        `json:"for"`
	From        string        `json:"from"`
	Recipe      string        `json:"recipe"` // the one these came from
}

// Recipes are saved choices, those that come along first.
type Recipes struct {
	List []Recipe `json:"list"`
}

// Recipe is one of them.
type Recipe struct {
	Name    string          `json:"name"`
	Says    string          `json:"says"` // in one sentence
	Own     bool            `json:"own"`
	Text    string          `json:"text"`    // YAML
	Problem string          `json:"problem"` // why it cannot be followed
	Differs []RecipeDiffers `json:"differs"` // from what a project was asked with
}

// RecipeDiffers is one thing that a recipe says otherwise than the choices of a project.
type RecipeDiffers struct {
	Key    string `json:"key"`
	Now    string `json:"now"`
	Recipe string `json:"recipe"`
}

// SetRecipe keeps a recipe: its text, or the present choices of a project.
type SetRecipe struct {
	Name    string `json:"name"`
	Text    string `json:"text"`
	Project int64  `json:"project"`
}

// UseRecipe takes a recipe's choices for a project.
type UseRecipe struct {
	Name string `json:"name"`
}

// Estimates are what is about to come of a plan.
type Estimates struct {
	Archives []ArchiveSize `json:"archives"`
	Seconds  float64       `json:"seconds"`  // of sealing, by the drives' rates
	Measured bool          `json:"measured"` // a rate of them was measured, and is not what its kind gives
	To       string        `json:"to"`       // the drive that was chosen last
}

// ArchiveSize is about how large an archive would be.
type ArchiveSize struct {
	Kind  carrier.Kind `json:"kind"`
	Bytes int64        `json:"bytes"`
}

// Losses is what a simpler document cannot carry.
type Losses struct {
	Form   export.Form `json:"form"`
	Word   string      `json:"word"`
	To     string      `json:"to"` // in the crate
	Losses []string    `json:"losses"`
}

// GivenUp is what a crate leaves behind for good, said with its figures.
type GivenUp struct {
	sift.GivenUp
	Text string `json:"text"`
}

// AlongSum is what could go along of one sort.
type AlongSum struct {
	What    sift.Along `json:"what"`
	Word    string     `json:"word"`
	Files   int        `json:"files"`
	Bytes   int64      `json:"bytes"`
	Travels bool       `json:"travels"`
	// Those of them that travel: all, or as they were adopted or left one by one.
	GoFiles int   `json:"goFiles"`
	GoBytes int64 `json:"goBytes"`
	// What those that travel need themselves, and nothing else brings.
	NeedFiles int   `json:"needFiles"`
	NeedBytes int64 `json:"needBytes"`
}

// DocSwitch is a nested document with what it alone names.
type DocSwitch struct {
	Path  string `json:"path"`
	Name  string `json:"name"`
	Label string `json:"label"` // of its folder
	Files int    `json:"files"`
	Bytes int64  `json:"bytes"`
	Stays bool   `json:"stays"`
}

// Twins is what travels more than once: files and bytes that could stay, or where they
// were not compared yet those of one size.
type Twins struct {
	Known bool  `json:"known"`
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}

// Strays are the files of a project that nothing names, and those that are there twice.
type Strays struct {
	Files      int     `json:"files"` // of all of them; the list may be shorter
	List       []Stray `json:"list"`
	Known      bool    `json:"known"` // files were compared
	Duplicates []Twin  `json:"duplicates"`
	Namesakes  []Twin  `json:"namesakes"`
}

// Stray is a file that nothing names.
type Stray struct {
	Path     string     `json:"path"`
	Name     string     `json:"name"`
	Label    string     `json:"label"` // of its folder
	What     sift.Along `json:"what"`
	Word     string     `json:"word"`
	Kind     facts.Kind `json:"kind"`
	KindWord string     `json:"kindWord"`
	Size     int64      `json:"size"`
	Modified time.Time  `json:"modified"`
	Newer    bool       `json:"newer"` // than the documents
	Travels  bool       `json:"travels"`
	Preview  Preview    `json:"preview"`
}

// Twin is one content, or one name, of several files.
type Twin struct {
	Name   string   `json:"name"`
	Bytes  int64    `json:"bytes"` // of each; 0 where they differ
	Labels []string `json:"labels"`
}

// PutAway takes files that nothing names out of the way.
type PutAway struct {
	Paths []string `json:"paths"`
	Days  int      `json:"days"` // that they are kept at least
}

// Adopt lets files travel that nothing names, or leaves them.
type Adopt struct {
	Paths   []string `json:"paths"`
	Travels bool     `json:"travels"`
}

// Berths is a window of the stow table.
type Berths struct {
	Window
	Lines []BerthLine `json:"lines"`
}

// BerthLine is a heading or a row.
type BerthLine struct {
	Heading *Heading `json:"heading"`
	Row     *Berth   `json:"row"`
}

// Berth is a line of the stow table.
type Berth struct {
	Key      string        `json:"key"`
	From     string        `json:"from"` // folder it comes from
	Was      string        `json:"was"`
	Folder   string        `json:"folder"`
	Name     string        `json:"name"`
	Kind     facts.Kind    `json:"kind"`
	Word     string        `json:"word"` // of the kind
	Use      mention.Use   `json:"use"`
	Size     int64         `json:"size"`
	Files    int           `json:"files"`
	Uses     int           `json:"uses"`
	Absent   bool          `json:"absent"`
	Why      stow.Absence  `json:"why"`
	WhyWord  string        `json:"whyWord"`
	Renamed  stow.Renaming `json:"renamed"`
	Clashed  bool          `json:"clashed"`
	Wished   bool          `json:"wished"`
	Stays    bool          `json:"stays"` // by choice, not because it is not there
	Sequence bool          `json:"sequence"`
	Along    sift.Along    `json:"along"` // why it goes along though nothing names it
	Sound    string        `json:"sound"` // what its sound becomes; empty: it is copied as it is
}

// Wish renames, moves, leaves or carries berths; nil leaves as it is, Reset
// forgets all that was said of them.
type Wish struct {
	Keys   []string `json:"keys"`
	Folder *string  `json:"folder"`
	Name   *string  `json:"name"` // of one alone
	Stays  *bool    `json:"stays"`
	Reset  bool     `json:"reset"`
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
	Same  bool   `json:"same"`  // of an archive: it would lie on the very drive of the project
}

// SealRequest seals.
type SealRequest struct {
	Out     string `json:"out"`
	Note    string `json:"note"`
	Despite bool   `json:"despite"` // also an archive on the project's own drive
}

// Sealed is the last seal of a project.
type Sealed struct {
	Report *report.Seal `json:"report"` // nil: not sealed yet
	At     *time.Time   `json:"at"`
	Label  string       `json:"label"`
	There  bool         `json:"there"` // the crate still stands where it was sealed to
	Stale  []string     `json:"stale"` // sources that changed since, by their drives' names
	Well   bool         `json:"well"`
	Proof  []ProofLine  `json:"proof"`
	Note   string       `json:"note"`
}

// ProofCode is what a line of a proof is about.
type ProofCode string

// The lines.
const (
	ProofCopied   ProofCode = "copied"
	ProofReadBack ProofCode = "read-back"
	ProofManifest ProofCode = "manifest"
	ProofRelative ProofCode = "relative"
	ProofTraced   ProofCode = "traced"
	ProofBytes    ProofCode = "bytes"
	ProofParts    ProofCode = "parts"
)

// ProofLine is one stamped check of a seal.
type ProofLine struct {
	Code   ProofCode `json:"code"`
	OK     bool      `json:"ok"`
	What   string    `json:"what"`
	Figure string    `json:"figure"`
	Note   string    `json:"note"`
}

// Receive unpacks a crate; with an empty Into it is only checked.
type Receive struct {
	Crate string `json:"crate"`
	Into  string `json:"into"`
}

// Received is what a received crate held.
type Received struct {
	Report report.Seal `json:"report"`
	Harm   int         `json:"harm"` // problems of the crate itself
	Well   bool        `json:"well"`
	Label  string      `json:"label"` // the crate by its drive's name
	Into   string      `json:"into"`  // where it was unpacked to, the same way; "" when it was not
	Proof  []ProofLine `json:"proof"`
}

// AskHome says whether to ask when files come from outside, and that it was
// answered.
type AskHome struct {
	Ask bool `json:"ask"`
}

// HomePlan is what bringing outside files home would do.
type HomePlan struct {
	Files  int        `json:"files"`
	Bytes  int64      `json:"bytes"`
	Folder string     `json:"folder"` // the project's, by its drive's name
	Moves  []HomeMove `json:"moves"`  // the first of them
}

// HomeMove is one file with its place at home.
type HomeMove struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Spread is where a project's material lies: as folders within one another, and as
// what each document uses of each place.
type Spread struct {
	Snapshot  int           `json:"snapshot"`
	Drives    []SpreadDrive `json:"drives"`
	Missing   int           `json:"missing"`   // files
	LastSeen  int64         `json:"lastSeen"`  // bytes the missing ones had
	Documents []SpreadEnd   `json:"documents"` // those that use the most
	Places    []SpreadEnd   `json:"places"`
	Threads   []SpreadLine  `json:"threads"`
}

// SpreadDrive is a drive with the folders that are used of it.
type SpreadDrive struct {
	Name string      `json:"name"`
	Out  bool        `json:"out"` // not connected
	Tree origin.Node `json:"tree"`
}

// SpreadEnd is an end of threads: a document, or a place.
type SpreadEnd struct {
	Name string           `json:"name"`
	Path string           `json:"path"` // "" of what is gathered, or missing
	Kind origin.PlaceKind `json:"kind"` // of a place
	More int              `json:"more"` // how many are gathered in it
}

// SpreadLine is how much a document uses of a place, by their numbers.
type SpreadLine struct {
	Document int   `json:"document"`
	Place    int   `json:"place"`
	Files    int   `json:"files"`
	Bytes    int64 `json:"bytes"`
}

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

// Habits are what programs and people do with files, as YAML.
type Habits struct {
	Text    string `json:"text"`
	Own     bool   `json:"own"` // else those shipped
	Shipped string `json:"shipped"`
}

// SetHabits sets or tries them; an empty text goes back to those shipped.
type SetHabits struct {
	Text    string `json:"text"`
	Project int64  `json:"project"` // to try them on
}

// HabitsTried is what habits would say of a project.
type HabitsTried struct {
	Problems    []rules.Mistake `json:"problems"`
	Project     string          `json:"project"`     // "" none was asked
	Rebuildable []string        `json:"rebuildable"` // files, by their drives' names
	Dumps       []string        `json:"dumps"`       // files in dumping grounds
	Companions  []Apart         `json:"companions"`
}

// SearchFolder is a folder in which a project looks, with what it finds there.
type SearchFolder struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Found int    `json:"found"` // references
}

// SetSearch sets the folders a project looks in, in order.
type SetSearch struct {
	Folders []string `json:"folders"`
}

// Sibling is a state of a document, of those that lie beside one another.
type Sibling struct {
	Path     string    `json:"path"`
	Name     string    `json:"name"`
	Modified time.Time `json:"modified"`
	Size     int64     `json:"size"`
	Newest   bool      `json:"newest"`
	Own      bool      `json:"own"` // it is the project's
}

// Compared is how another state of a document differs from the project's.
type Compared struct {
	References int      `json:"references"`
	Missing    int      `json:"missing"`
	Came       []string `json:"came"` // files that only the other names, by their drives' names
	Went       []string `json:"went"` // files that only the project's names
	Same       int      `json:"same"`
}

// Points are the places of a project's documents that tell where new material
// will be written.
type Points struct {
	Snapshot int        `json:"snapshot"`
	Root     string     `json:"root"`     // the project's folder
	RootName string     `json:"rootName"` // by its drive's name
	List     []PointRow `json:"list"`     // those that lead out first
}

// PointRow is one of them.
type PointRow struct {
	Nr       int          `json:"nr"` // within the snapshot
	Document string       `json:"document"`
	Owner    string       `json:"owner"`
	Written  string       `json:"written"`
	Label    string       `json:"label"` // where it writes next, by its drive's name
	Use      mention.Use  `json:"use"`
	Flags    []graph.Flag `json:"flags"`
	Says     string       `json:"says"`  // what is wrong with it; "" for nothing
	Fixed    string       `json:"fixed"` // why it cannot be set from here; "" when it can
}

// SetPoints makes write points lead to a folder.
type SetPoints struct {
	Snapshot int    `json:"snapshot"`
	Points   []int  `json:"points"`
	Folder   string `json:"folder"` // "": the project's own
	Try      bool   `json:"try"`    // only tell the lines that would change
}

// Aimed is what setting write points changes, or changed.
type Aimed struct {
	Lines    []AimLine         `json:"lines"`
	Written  []mend.Written    `json:"written"`
	Problems []mention.Problem `json:"problems"`
}

// AimLine is a line of a document before and after.
type AimLine struct {
	Document string `json:"document"` // by its drive's name
	Line     int    `json:"line"`
	Was      string `json:"was"`
	Becomes  string `json:"becomes"`
}

// NoFiles is what of a project has no file yet.
type NoFiles struct {
	Snapshot int         `json:"snapshot"`
	List     []NoFileRow `json:"list"` // in document order
	More     int         `json:"more"` // that are not listed
}

// NoFileRow is data that stands inside a document, or was never saved.
type NoFileRow struct {
	Ref      int         `json:"ref"` // within the snapshot
	Document string      `json:"document"`
	Owner    string      `json:"owner"`
	State    graph.State `json:"state"`
	Use      mention.Use `json:"use"`
	Kind     facts.Kind  `json:"kind"`
	Word     string      `json:"word"` // of the kind
	Type     string      `json:"type"` // its media type; "" unknown
	Size     int64       `json:"size"`
	Name     string      `json:"name"`   // proposed for its file
	Folder   string      `json:"folder"` // proposed, absolute
	Label    string      `json:"label"`  // the folder by its drive's name
	Why      inside.Why  `json:"why"`    // it cannot be written out; "" it can
	Says     string      `json:"says"`
}

// WriteOut writes data that stands inside out to files.
type WriteOut struct {
	Snapshot int       `json:"snapshot"`
	Files    []OutFile `json:"files"`
}

// OutFile is one of them.
type OutFile struct {
	Ref    int    `json:"ref"`
	Folder string `json:"folder"` // absolute
	Name   string `json:"name"`
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

// DriveCards are the drives with all that is known of them.
type DriveCards struct {
	List []DriveCard `json:"list"`
}

// DriveCard is one of them.
type DriveCard struct {
	Drive    Drive       `json:"drive"`
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
	Project  *Project       `json:"project"`  // nil: none has it yet
	Document string         `json:"document"` // absolute
	Name     string         `json:"name"`
	Label    string         `json:"label"`
	Health   *survey.Health `json:"health"` // nil: not looked at yet
	At       *time.Time     `json:"at"`     // when
	Sealed   *time.Time     `json:"sealed"`
	Complete bool           `json:"complete"` // the last seal was
	Backed   string         `json:"backed"`   // the drive on which that crate lies, where it is complete and not on the project's own
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

// Rules are the rules files of the data folder.
type Rules struct {
	Folder string      `json:"folder"` // where they lie
	Files  []RulesFile `json:"files"`
}

// LearnRules asks for proposals from a document.
type LearnRules struct {
	Sample string `json:"sample"`
}

// RulesLearned are rules files that a document suggests, the safest first.
type RulesLearned struct {
	Proposals []rules.Proposal `json:"proposals"`
}

// RulesFile is one of them.
type RulesFile struct {
	Name       string          `json:"name"` // of the file, without its extension
	Text       string          `json:"text"` // YAML
	On         bool            `json:"on"`
	Title      string          `json:"title"`
	Extensions []string        `json:"extensions"`
	Carrier    string          `json:"carrier"`
	Problems   []rules.Mistake `json:"problems"` // with any it cannot be switched on
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
	Problems []rules.Mistake `json:"problems"`
	Finds    []rules.Find    `json:"finds"`
	Damage   []string        `json:"damage"` // what is wrong with the sample
	More     int             `json:"more"`   // finds that are not listed
}

// Differs is how a text differs from what it was: lines that begin with a minus went,
// those with a plus came.
type Differs struct {
	Lines []string `json:"lines"`
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
	EventLooked   EventType = "looked"   // the disk was asked again, and everything is as it was
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
