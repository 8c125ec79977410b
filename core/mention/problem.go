package mention

import "fmt"

// Codes of problems that several packages tell.
const (
	Malformed  = "malformed"  // makes no sense as what it is
	Unreadable = "unreadable" // the system does not let it be read
	CannotSay  = "cannot-say" // a document cannot be made to name its files
	NotOurs    = "outside"    // a document outside the project, which is not written to
	Unsayable  = "unsayable"  // a name a document cannot hold
	Scattered  = "scattered"  // a sequence in two folders, which no document can name
	Leaves     = "leaves"     // something in a crate leads out of it
	BadRules   = "rules"      // a rules file cannot be used as it stands
	Incomplete = "incomplete" // a crate lacks what its documents need
)

// Problem is the one shape of "something is wrong" everywhere: in a document
// that was read, on the command line, in an answer of the server.
type Problem struct {
	Code      string `json:"code,omitempty"`      // a stable word for programs: "malformed", "changed", …
	What      string `json:"what,omitempty"`      // what was being done
	Path      string `json:"path"`                // the file it is about, absolute
	Document  string `json:"document"`            // the document that led there
	Line      int    `json:"line"`                // 1-based; 0 where no line is known
	Message   string `json:"message"`             // one plain sentence
	Untouched string `json:"untouched,omitempty"` // what was left as it was
	Do        string `json:"do,omitempty"`        // what the reader can do
}

func (p Problem) Error() string {
	switch {
	case p.Path != "" && p.Line > 0:
		return fmt.Sprintf("%s, line %d: %s", p.Path, p.Line, p.Message)
	case p.Path != "":
		return fmt.Sprintf("%s: %s", p.Path, p.Message)
	}
	return p.Message
}
