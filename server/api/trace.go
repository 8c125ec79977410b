package api

import (
	"time"

	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/inside"
	"boundcrate/core/may"
	"boundcrate/core/mention"
	"boundcrate/core/origin"
	"boundcrate/core/tally"
	"boundcrate/core/words"
	"boundcrate/core/writing"
)

// Summary is a project's trace at a glance.
type Summary struct {
	tally.Tally
	Project     Project         `json:"project"`
	Snapshot    int             `json:"snapshot"` // 0: not traced yet
	Traced      *time.Time      `json:"traced"`
	Error       string          `json:"error"` // why it could not be traced
	States      []StateCount    `json:"states"`
	Lost        []KindCount     `json:"lost"` // what is missing and nothing makes again, by kind
	Places      []Place         `json:"places"`
	WritePoints []WritePoint    `json:"writePoints"` // that point out of the project
	Moved       []origin.Move   `json:"moved"`
	Warnings    []Warning       `json:"warnings"`
	ProblemList []words.Problem `json:"problemList"`
	Unknown     bool            `json:"unknown"` // a document of no known format in which nothing was recognised
	AllHere     bool            `json:"allHere"` // everything that is named is there and is what it should be, and nothing is left unread
	CanStay     int64           `json:"canStay"` // bytes of what is not used
	Clashes     int             `json:"clashes"`
	Repairs     int             `json:"repairs"`
	CanUndo     bool            `json:"canUndo"`
	CanRedo     bool            `json:"canRedo"`
	Sealed      bool            `json:"sealed"`
	Complete    bool            `json:"complete"`
	Apart       []Apart         `json:"apart"`       // companions that stayed behind
	Polled      bool            `json:"polled"`      // not all its folders can be watched: the disk is asked again and again
	SealedGone  bool            `json:"sealedGone"`  // the crate does not stand there any more
	SealedStale int             `json:"sealedStale"` // sources that changed since, up to a bound
	Search      []SearchFolder  `json:"search"`      // folders it looks in for what is missing, in order
	Siblings    []Sibling       `json:"siblings"`    // other states of its first document, the latest first, itself among them
	AskHome     bool            `json:"askHome"`     // to be asked when files come from outside
	CameOutside []string        `json:"cameOutside"` // those that came since it was asked last, by their drives' names
	LastAct     *LastAct        `json:"lastAct"`     // the last writing into its documents that can be put back
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
	Written  []writing.Written `json:"written"`
	Problems []words.Problem   `json:"problems"`
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
