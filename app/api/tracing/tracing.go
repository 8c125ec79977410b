// Package tracing holds what Trace shows: the summary, files, documents, a file looked at closely.
package tracing

import (
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/places"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/may"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

// Summary is a project's trace at a glance.
type Summary struct {
	tally.Tally
	Project     api.Project            `json:"project"`
	Snapshot    api.Snapshot           `json:"snapshot"` // "": not traced yet
	Traced      *time.Time             `json:"traced"`
	Error       string                 `json:"error"` // why it could not be traced
	States      []StateCount           `json:"states"`
	Lost        []api.KindCount        `json:"lost"` // what is missing and nothing makes again, by kind
	Places      []Place                `json:"places"`
	WritePoints []WritePoint           `json:"writePoints"` // that point out of the project
	Moved       []origin.Move          `json:"moved"`
	Warnings    []Warning              `json:"warnings"`
	ProblemList []words.Problem        `json:"problemList"`
	Unknown     bool                   `json:"unknown"` // a document of no known format in which nothing was recognised
	AllHere     bool                   `json:"allHere"` // everything that is named is there and is what it should be, and nothing is left unread
	CanStay     int64                  `json:"canStay"` // bytes of what is not used
	Clashes     *int                   `json:"clashes"` // nil: the crate is being planned
	Repairs     int                    `json:"repairs"`
	CanUndo     bool                   `json:"canUndo"`
	CanRedo     bool                   `json:"canRedo"`
	Sealed      bool                   `json:"sealed"`
	Complete    bool                   `json:"complete"`
	Apart       []api.Apart            `json:"apart"`       // companions that stayed behind
	Polled      bool                   `json:"polled"`      // not all its folders can be watched: the disk is asked again and again
	SealedGone  bool                   `json:"sealedGone"`  // the crate does not stand there any more
	SealedStale int                    `json:"sealedStale"` // sources that changed since, up to a bound
	Search      []mending.SearchFolder `json:"search"`      // folders it looks in for what is missing, in order
	Siblings    []places.Sibling       `json:"siblings"`    // other states of its first document, the latest first, itself among them
	AskHome     bool                   `json:"askHome"`     // to be asked when files come from outside
	CameOutside []string               `json:"cameOutside"` // those that came since it was asked last, by their drives' names
	LastAct     *api.LastAct           `json:"lastAct"`     // the last writing into its documents that can be put back
}

// StateCount is a number of references and files of one state.
type StateCount struct {
	State      graph.State `json:"state"`
	References int         `json:"references"`
	Files      int         `json:"files"`
	Bytes      int64       `json:"bytes"`
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

// Files is a window of the ledger of files.
type Files struct {
	api.Window
	Lines []FileLine `json:"lines"`
}

// FileLine is a heading or a row.
type FileLine struct {
	Heading *api.Heading `json:"heading"`
	Row     *Row         `json:"row"`
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

// ProblemList is a window of the list of problems.
type ProblemList struct {
	api.Window
	Lines []ProblemLine `json:"lines"`
}

// ProblemLine is a heading or a row.
type ProblemLine struct {
	Heading *api.Heading `json:"heading"`
	Row     *ProblemRow  `json:"row"`
}

// ProblemRow is one thing that is wrong with what was read.
type ProblemRow struct {
	Key       string `json:"key"`
	Kind      string `json:"kind"` // for people
	Name      string `json:"name"`
	Folder    string `json:"folder"`
	Line      int    `json:"line"`     // 1-based; 0 where no line is known
	Document  string `json:"document"` // that uses the file; "" for one that was opened by itself
	Message   string `json:"message"`
	Untouched string `json:"untouched"`
	Do        string `json:"do"`
}

// DocumentList is a window of the ledger of documents.
type DocumentList struct {
	api.Window
	Lines []DocumentLine `json:"lines"`
}

// DocumentLine is a heading or a row.
type DocumentLine struct {
	Heading *api.Heading `json:"heading"`
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
	Row      Row             `json:"row"`
	Say      string          `json:"say"` // one or two sentences
	Paths    []PathLine      `json:"paths"`
	Path     string          `json:"path"` // absolute; "" when it is not there
	Size     int64           `json:"size"`
	Modified *time.Time      `json:"modified"`
	Facts    *facts.Facts    `json:"facts"`
	Harm     string          `json:"harm"` // what is wrong with its header; "" for nothing
	SHA256   string          `json:"sha256"`
	Last     *api.LastSeen   `json:"last"`
	Uses     []Asker         `json:"uses"`
	Gaps     string          `json:"gaps"` // "147, 148"
	Missing  int             `json:"missing"`
	Drive    string          `json:"drive"`  // to be connected
	Copies   []string        `json:"copies"` // files of its name and size on other drives
	DriveID  string          `json:"driveId"`
	Preview  api.Preview     `json:"preview"`
	Chain    []string        `json:"chain"`  // the documents from a given one down to the first that names it
	Repair   *mending.Repair `json:"repair"` // the one that leads here
	Others   []OtherUse      `json:"others"` // documents beyond this project that need the file
	Beside   []api.Apart     `json:"beside"` // its companions
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
