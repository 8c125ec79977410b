// Package shipping is what pages are told of crates that were sealed and sent.
package shipping

import (
	"time"

	"boundcrate/core/pack/compare"
)

// Crates are the crates that were sealed of a project, and where they were sent.
type Crates struct {
	List []Crate   `json:"list"` // one for each place, the newest first
	Sent []Sending `json:"sent"` // the newest first
}

// Crate is a crate that was sealed.
type Crate struct {
	Path     string    `json:"path"`
	Label    string    `json:"label"`
	At       time.Time `json:"at"`
	For      string    `json:"for"`
	Since    string    `json:"since"`
	Complete bool      `json:"complete"`
	Files    int       `json:"files"`
	Bytes    int64     `json:"bytes"`
	There    bool      `json:"there"`
}

// Sending is one try to send a crate.
type Sending struct {
	Crate   string     `json:"crate"` // its label
	Path    string     `json:"path"`
	To      string     `json:"to"`
	For     string     `json:"for"`
	Began   time.Time  `json:"began"`
	Ended   *time.Time `json:"ended"`
	Bytes   int64      `json:"bytes"`
	Receipt string     `json:"receipt"` // the other side's name of it; "" where it is not there
	SHA256  string     `json:"sha256"`
	Trouble string     `json:"trouble"`
}

// SendRequest asks to send a crate.
type SendRequest struct {
	Crate string `json:"crate"`
	To    string `json:"to"`    // a folder of a drive, or an http or https address
	Token string `json:"token"` // for the address; it is kept nowhere
}

// AskCarrier asks what a carrier takes.
type AskCarrier struct {
	Crate string `json:"crate"`
	To    string `json:"to"`
}

// CarrierTakes tells whether a crate fits.
type CarrierTakes struct {
	Limit int64  `json:"limit"` // bytes; 0: nobody says
	Size  int64  `json:"size"`
	Fits  bool   `json:"fits"`
	Parts int    `json:"parts"` // that would fit; 0: a file alone is larger
	Why   string `json:"why"`   // why it cannot be sent there
}

// CompareRequest names two documents or crates.
type CompareRequest struct {
	A string `json:"a"`
	B string `json:"b"`
}

// Comparing is what two differ in: of its lists the first lines, and how many there are.
type Comparing struct {
	Equal   bool               `json:"equal"`
	Came    int                `json:"came"`
	Went    int                `json:"went"`
	Changed int                `json:"changed"`
	Result  compare.Comparison `json:"result"`
}
