// Package mending holds what Mend shows and is told, and what was decided.
package mending

import (
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

// Search says where to look.
type Search struct {
	Folders []string `json:"folders"`
}

// Mend is the mending station.
type Mend struct {
	Snapshot   api.Snapshot   `json:"snapshot"`
	Searched   int            `json:"searched"` // files met by the last search; 0: none yet
	Folders    []string       `json:"folders"`
	Found      int            `json:"found"` // applied unasked by the last search
	Looked     int            `json:"looked"`
	Missing    int            `json:"missing"` // files still to find again
	Groups     []Group        `json:"groups"`  // what can be mended together, the most files first
	Repairs    []Repair       `json:"repairs"` // the last of them
	AllRepairs int            `json:"allRepairs"`
	Writable   []string       `json:"writable"` // documents repairs can be written into
	Suggest    []Suggest      `json:"suggest"`  // folders worth looking in first, the likeliest first
	Aside      []Aside        `json:"aside"`    // files that do not count for now
	Loose      []Respell      `json:"loose"`    // files that documents spell otherwise than they are called
	Others     []OtherProject `json:"others"`   // projects that miss what was mended here
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
	Doubtful  bool           `json:"doubtful"` // something speaks against it by itself
}

// MendGroup mends the files of a group as one act.
type MendGroup struct {
	Key     string   `json:"key"`
	Without []string `json:"without"` // expected places that are taken out
	Despite bool     `json:"despite"` // those against which something speaks too
}

// Accept applies the first candidates of many missing files, or with Try tells what it would do.
type Accept struct {
	Keys    []string  `json:"keys"`    // of the rows chosen, where they are few
	Rows    *api.Rows `json:"rows"`    // or by what shows them
	Without []string  `json:"without"` // expected places that are taken out
	Despite bool      `json:"despite"` // doubtful ones too
	Try     bool      `json:"try"`
}

// Accepted is what accepting does.
type Accepted struct {
	List    []GroupedRow `json:"list"` // the first of those with a candidate, doubtful ones before the others
	More    int          `json:"more"` // further ones
	Files   int          `json:"files"`
	Doubts  int          `json:"doubts"`
	None    int          `json:"none"` // without a candidate
	Applied bool         `json:"applied"`
}

// MoveFolder says that everything expected below From is below To.
type MoveFolder struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// MoveCount is how many of the files that are missing below a folder are below another.
type MoveCount struct {
	Of      int      `json:"of"`
	There   int      `json:"there"`
	Lacking []string `json:"lacking"` // the first of those that are not, by name
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
	api.Window
	Lines []WantedLine `json:"lines"`
}

// WantedLine is a heading or a row.
type WantedLine struct {
	Heading *api.Heading `json:"heading"`
	Row     *WantedRow   `json:"row"`
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
	Looked     bool           `json:"looked"`     // the last search was for it
	Best       string         `json:"best"`       // name of the first
	BestLabel  string         `json:"bestLabel"`  // its folder
	Certainty  mend.Certainty `json:"certainty"`  // its certainty; "" without one
	Doubtful   bool           `json:"doubtful"`   // something speaks against it
}

// Wanted is one file to find again, with all that was found for it.
type Wanted struct {
	Row        *WantedRow      `json:"row"` // nil: it is not missing any more
	Last       *api.LastSeen   `json:"last"`
	Told       *Told           `json:"told"`
	Text       bool            `json:"text"`   // it was a text, which is remembered
	Looks      bool            `json:"looks"`  // it is remembered what it looked like
	Ranges     []mention.Range `json:"ranges"` // the parts of it that are used
	Candidates []Candidate     `json:"candidates"`
}

// Candidate is a file that may be the wanted one.
type Candidate struct {
	report.Candidate
	Name     string       `json:"name"`
	Label    string       `json:"label"` // its folder
	Facts    *facts.Facts `json:"facts"`
	Preview  api.Preview  `json:"preview"`
	Sample   string       `json:"sample"`   // the file to preview: itself, or a frame
	Content  Sameness     `json:"content"`  // its bytes against those last seen
	Doubtful bool         `json:"doubtful"` // something speaks against it by itself
	UsedBy   []string     `json:"usedBy"`   // other projects that use it, by name
	Fills    bool         `json:"fills"`    // it has frames that a sequence lacks
}

// Sameness is what is known of a candidate's bytes.
type Sameness string

// As they were last seen, others, or not read.
const (
	Same   Sameness = "same"
	Other  Sameness = "other"
	Unread Sameness = ""
)

// Told is what documents tell of a file; zero is nothing.
type Told struct {
	Size    int64   `json:"size"`
	Seconds float64 `json:"seconds"`
	Rate    int     `json:"rate"`
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

// CopyFrames copies the frames that a sequence lacks from a candidate into its own folder.
type CopyFrames struct {
	Snapshot api.Snapshot `json:"snapshot"`
	Expected string       `json:"expected"`
	Path     string       `json:"path"` // of the candidate
}

// Chosen is what came of it.
type Chosen struct {
	Candidate Candidate `json:"candidate"`
	Applied   bool      `json:"applied"`
}

// Decisions is everything that was said of a project, newest first.
type Decisions struct {
	List    []Decision `json:"list"` // the newest of them
	All     int        `json:"all"`
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
	Snapshot api.Snapshot `json:"snapshot"`
	Try      bool         `json:"try"`
}

// WriteResult is what writing repairs into documents did.
type WriteResult struct {
	Snapshot api.Snapshot      `json:"snapshot"` // which the lines are of
	Lines    []places.AimLine  `json:"lines"`    // that change, the first of them
	More     int               `json:"more"`     // lines that are not listed
	Written  []writing.Written `json:"written"`
	Problems []words.Problem   `json:"problems"`
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
