// Package places holds what is asked and answered about places: home, spread, siblings, write points, files without a name of their own.
package places

import (
	"time"

	"boundcrate/app/api"
	"boundcrate/core/bring/inside"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

// AskHome says whether to ask when files come from outside, and that it was
// answered.
type AskHome struct {
	Ask bool `json:"ask"`
}

// BringHome brings what a plan showed into the project's folder.
type BringHome struct {
	Snapshot api.Snapshot `json:"snapshot"`
}

// HomePlan is what bringing outside files home would do.
type HomePlan struct {
	Snapshot api.Snapshot `json:"snapshot"`
	Files    int          `json:"files"`
	Bytes    int64        `json:"bytes"`
	Folder   string       `json:"folder"` // the project's, by its drive's name
	Moves    []HomeMove   `json:"moves"`  // the first of them
}

// HomeMove is one file with its place at home.
type HomeMove struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Spread is where a project's material lies: as folders within one another, and as
// what each document uses of each place.
type Spread struct {
	Snapshot  api.Snapshot  `json:"snapshot"`
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
	Snapshot api.Snapshot `json:"snapshot"`
	Root     string       `json:"root"`     // the project's folder
	RootName string       `json:"rootName"` // by its drive's name
	List     []PointRow   `json:"list"`     // those that lead out first
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
	Snapshot api.Snapshot `json:"snapshot"`
	Points   []int        `json:"points"`
	Folder   string       `json:"folder"` // "": the project's own
	Try      bool         `json:"try"`    // only tell the lines that would change
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
	Snapshot api.Snapshot `json:"snapshot"`
	List     []NoFileRow  `json:"list"` // in document order
	More     int          `json:"more"` // that are not listed
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
	Snapshot api.Snapshot `json:"snapshot"`
	Files    []OutFile    `json:"files"`
}

// OutFile is one of them.
type OutFile struct {
	Ref    int    `json:"ref"`
	Folder string `json:"folder"` // absolute
	Name   string `json:"name"`
}
