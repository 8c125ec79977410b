// Package packing holds what Sift, Stow, Seal and Receive show and are told.
package packing

import (
	"time"

	"boundcrate/app/api"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

// Stow is the stowing station's totals.
type Stow struct {
	Snapshot   api.Snapshot      `json:"snapshot"`
	Options    StowOptions       `json:"options"`
	Recipe     *Recipe           `json:"recipe"` // that the choices came from; nil: none that is still there
	Files      int               `json:"files"`
	Bytes      int64             `json:"bytes"`
	About      bool              `json:"about"` // some sizes are told by samples
	Absent     int               `json:"absent"`
	Clashes    int               `json:"clashes"`
	ByHand     int               `json:"byHand"` // files of which something was decided by hand
	Renamed    int               `json:"renamed"`
	Kinds      []api.KindCount   `json:"kinds"`
	Folders    []api.FolderCount `json:"folders"`
	Weighed    []Weighed         `json:"weighed"`
	Left       []report.Left     `json:"left"` // the first of them, as of repoint and problems
	All        Totals            `json:"all"`
	GivesUp    []GivenUp         `json:"givesUp"`
	OneFile    string            `json:"oneFile"`    // ending of the format's own package that the document has; "" for none
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
	Problems   []words.Problem   `json:"problems"`
	Saying     bool              `json:"saying"`  // what the documents will say is still worked out
	Unheard    int               `json:"unheard"` // sounds that are still to be heard before all is told of them
	Note       string            `json:"note"`
	Out        string            `json:"out"`
	Limits     []Limit           `json:"limits"`
}

// Totals are how many there are of what is listed in part: a page shows the first hundred.
type Totals struct {
	Left     int `json:"left"`
	Repoint  int `json:"repoint"`
	Problems int `json:"problems"`
	Renamed  int `json:"renamed"`
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
	Lists       []lists.Kind  `json:"lists"`       // what others read the crate by
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

// StraysAsked is how unreferenced files are filtered and sorted: words that stand in the row, and a
// column's id.
type StraysAsked struct {
	Filter string `query:"filter"`
	Sort   string `query:"sort"`
}

// LeftRow is a file that does not go into the crate.
type LeftRow struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	Label string `json:"label"` // of its folder
	Why   string `json:"why"`
}

// Strays are the files of a project that nothing names, and those that are there twice.
type Strays struct {
	Snapshot   api.Snapshot `json:"snapshot"`
	Files      int          `json:"files"` // of all of them; the list may be shorter
	List       []Stray      `json:"list"`
	Known      bool         `json:"known"` // files were compared
	Duplicates []Twin       `json:"duplicates"`
	Namesakes  []Twin       `json:"namesakes"`
}

// Stray is a file that nothing names.
type Stray struct {
	Path     string      `json:"path"`
	Name     string      `json:"name"`
	Label    string      `json:"label"` // of its folder
	What     sift.Along  `json:"what"`
	Word     string      `json:"word"`
	Kind     facts.Kind  `json:"kind"`
	KindWord string      `json:"kindWord"`
	Size     int64       `json:"size"`
	Modified time.Time   `json:"modified"`
	Newer    bool        `json:"newer"` // than the documents
	Travels  bool        `json:"travels"`
	Preview  api.Preview `json:"preview"`
}

// Twin is one content, or one name, of several files.
type Twin struct {
	Name   string   `json:"name"`
	Bytes  int64    `json:"bytes"` // of each; 0 where they differ
	Labels []string `json:"labels"`
}

// PutAway takes files that nothing names out of the way.
type PutAway struct {
	Snapshot api.Snapshot `json:"snapshot"`
	Paths    []string     `json:"paths"`
	Days     int          `json:"days"` // that they are kept at least
}

// Adopt lets files travel that nothing names, or leaves them.
type Adopt struct {
	Paths   []string `json:"paths"`
	Travels bool     `json:"travels"`
}

// Berths is a window of the stow table.
type Berths struct {
	api.Window
	Lines []BerthLine `json:"lines"`
}

// BerthLine is a heading or a row.
type BerthLine struct {
	Heading *api.Heading `json:"heading"`
	Row     *Berth       `json:"row"`
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
	Said     bool          `json:"said"`  // something was decided of it by hand, which can be reset
	Typed    string        `json:"typed"` // the folder or name as typed, where the rules changed it
	Stays    bool          `json:"stays"` // by choice, not because it is not there
	Sequence bool          `json:"sequence"`
	Along    sift.Along    `json:"along"` // why it goes along though nothing names it
	Sound    string        `json:"sound"` // what its sound becomes; empty: it is copied as it is
}

// Wish renames, moves, leaves or carries berths; nil leaves as it is, Reset
// forgets all that was said of them.
type Wish struct {
	Keys   []string  `json:"keys"`
	Rows   *api.Rows `json:"rows"` // instead of keys
	Folder *string   `json:"folder"`
	Name   *string   `json:"name"` // of one alone
	Stays  *bool     `json:"stays"`
	Reset  bool      `json:"reset"`
}

// Amount is how many files, and bytes.
type Amount struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
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
	// Unshared: it is a folder, and the drive can neither clone nor link, so that all of it is copied again.
	Unshared bool `json:"unshared"`
	// Of an earlier crate that is a folder: what of it stands, by size and time, and what will be copied.
	Stands  Amount  `json:"stands"`
	Copies  Amount  `json:"copies"`
	Seconds float64 `json:"seconds"` // that sealing again takes, about; 0: nobody knows
	Same    bool    `json:"same"`    // of an archive: it would lie on the very drive of the project
}

// SealRequest seals.
type SealRequest struct {
	Snapshot api.Snapshot `json:"snapshot"`
	Out      string       `json:"out"`
	Note     string       `json:"note"`
	Since    string       `json:"since"`   // a crate that the receiver has; "" for none
	Despite  bool         `json:"despite"` // also an archive on the project's own drive
}

// Sealed is the last seal of a project.
type Sealed struct {
	Report  *report.Seal `json:"report"` // nil: not sealed yet; of its lists the first lines
	All     Totals       `json:"all"`
	At      *time.Time   `json:"at"`
	Label   string       `json:"label"`
	There   bool         `json:"there"` // the crate still stands where it was sealed to
	Stale   []string     `json:"stale"` // sources that changed since, by their drives' names
	Well    bool         `json:"well"`
	Omitted int          `json:"omitted"` // problems that are files left out on purpose
	Proof   []ProofLine  `json:"proof"`
	Note    string       `json:"note"`
	Sheet   bool         `json:"sheet"` // there is a handoff sheet to look at
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
type ReceiveRequest struct {
	Crate    string   `json:"crate"`
	Into     string   `json:"into"`
	Bases    []string `json:"bases"`    // crates or folders that a difference crate is filled from
	Material string   `json:"material"` // a folder for sounds and pictures; "" keeps them in the crate
	For      []string `json:"for"`      // documents that lie elsewhere, to be connected
}

// AlreadyHere is a project with a document that is called like one that was received.
type AlreadyHere struct {
	Project  int64  `json:"project"`
	Name     string `json:"name"`
	Document string `json:"document"` // absolute
}

// Received is what a received crate held.
type Received struct {
	Report  report.Receive `json:"report"` // also where it lies now, what does not fit, what was connected
	Harm    int            `json:"harm"`   // problems of the crate itself
	Well    bool           `json:"well"`
	Omitted int            `json:"omitted"` // problems that are files left out on purpose
	Note    string         `json:"note"`
	From    string         `json:"from"`  // the sender
	For     string         `json:"for"`   // the recipient
	Label   string         `json:"label"` // the crate by its drive's name
	Into    string         `json:"into"`  // where it was unpacked to, the same way; "" when it was not
	Proof   []ProofLine    `json:"proof"`
	ToFetch int            `json:"toFetch"` // files of a difference crate that are not here
	Sheet   bool           `json:"sheet"`   // there is a handoff sheet to look at
	Here    []AlreadyHere  `json:"here"`    // projects that have a document of the same name
	Crate   string         `json:"crate"`   // absolute
	Apart   string         `json:"apart"`   // where sounds and pictures went, by the drive's name; "" when they are with the documents
}
