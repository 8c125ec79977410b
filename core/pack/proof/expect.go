// Package proof tells whether a crate is complete: whether every reference of its
// documents leads, with nothing else reachable, to the very files it led to when the
// crate was planned, byte for byte and frame for frame. What is expected is written
// down with the plan, one line for each reference, and kept in the crate's record; the
// trace of the crate is held against it one by one. A crate without such a record is
// proved by its trace alone, and says so.
package proof

import (
	"boundcrate/core/text/mention"
)

// Member is a file that a reference leads to. Places are below data/, with slashes.
type Member struct {
	Path   string `json:"path"`
	SHA256 string `json:"sha256,omitempty"` // hex; "" of what did not travel
}

// Why is why a reference is not expected to lead to a file that travels, in the words
// of the sheet: those of sift.Why and stow.Absence, and Inside, Network, Unsaved.
type Why string

// The reasons of references that no file belongs to.
const (
	Inside  Why = "inside"      // the bytes stand in the document
	Network Why = "on-network"  // an address on the network, which stays as it is written
	Unsaved Why = "never-saved" // a place for a file that was never written
	Fixed   Why = "fixed"       // of a document along: nothing can be rewritten there
)

// Expectation is one reference of a document that travels.
type Expectation struct {
	Document string      `json:"document"` // its place
	Owner    string      `json:"owner"`
	Nth      int         `json:"nth"` // which of the places that name files in the document it is, from 0
	Use      mention.Use `json:"use"`
	To       int         `json:"to"`              // among the targets; -1: nowhere
	Why      Why         `json:"why,omitempty"`   // its file does not travel; the target is the place kept for it
	Again    bool        `json:"again,omitempty"` // and a program makes it again
	Gaps     bool        `json:"gaps,omitempty"`  // of a sequence that lacks some of its files
	// OnPurpose tells that somebody decided that the file does not travel: why it was set aside
	// (decide.Why), or decide.LeftOut.
	OnPurpose string `json:"onPurpose,omitempty"`
}

// Expectations are all that a crate's documents must lead to.
type Expectations struct {
	Documents []string      `json:"documents"` // those that travel, roots first
	Roots     int           `json:"roots"`     // how many of them are roots
	Targets   [][]Member    `json:"targets"`
	List      []Expectation `json:"list"`
	// Along are those of documents that go along without being asked for (what a person
	// adopted, drawings of parts), each with what only it leads to. What travels of theirs
	// must be what it was; what does not is told as left and does not count against the
	// documents the crate is made of.
	Along []Expectations `json:"along,omitempty"`
}

// Places are the documents that these and those of documents along tell of.
func (e *Expectations) Places() map[string]bool {
	places := map[string]bool{}
	for _, d := range e.Documents {
		places[d] = true
	}
	for i := range e.Along {
		for _, d := range e.Along[i].Documents {
			places[d] = true
		}
	}
	return places
}

// Fill takes the digests of members from what was copied, by their places.
func (e *Expectations) Fill(digest func(place string) string) {
	for _, t := range e.Targets {
		for i := range t {
			if t[i].SHA256 == "" {
				t[i].SHA256 = digest(t[i].Path)
			}
		}
	}
	for i := range e.Along {
		e.Along[i].Fill(digest)
	}
}
