package trace

import (
	"encoding/json"
	"fmt"
	"strconv"

	"boundcrate/core/facts"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
)

// Report is the JSON of `boundcrate trace --json`. Keys are added, never renamed.
type Report struct {
	Document   string            `json:"document"`
	Format     string            `json:"format"`
	Root       string            `json:"root"`
	References []ReportReference `json:"references"`
	Problems   []mention.Problem `json:"problems"`
}

// ReportReference is one place that names a file.
type ReportReference struct {
	Document string   `json:"document"`
	Written  string   `json:"written"`
	Path     *string  `json:"path"`
	Files    []string `json:"files,omitzero"` // of a sequence or twins
	Gaps     Gaps     `json:"gaps,omitzero"`  // of a sequence
	State    string   `json:"state"`
	Use      string   `json:"use"`
	Kind     string   `json:"kind"`
	Owner    string   `json:"owner"`
	Guessed  bool     `json:"guessed"`
	Member   string   `json:"member,omitempty"` // of a package
	Role     string   `json:"role,omitempty"`   // write: a write point, never missing
	Size     int64    `json:"size"`
	Expected string   `json:"expected,omitempty"` // where a file that was not found was looked for
	Loose    bool     `json:"loose,omitempty"`    // found under another spelling of the same name
	Why      string   `json:"why,omitempty"`
	// Range is the part that is used, in seconds of the media's own time; a
	// duration of 0 is up to its end.
	Range *mention.Range `json:"range,omitempty"`
}

// Gaps are numbers, or ranges "101-240" when there are more than 10,000.
type Gaps []resolve.Gap

// MarshalJSON lists numbers (of tiles, u3_v1), or ranges when there are too many to read.
func (g Gaps) MarshalJSON() ([]byte, error) {
	if ns, ok := resolve.Numbers(g, 10_000); ok {
		if len(ns) == 0 || resolve.Label(ns[0]) == strconv.Itoa(ns[0]) {
			return json.Marshal(ns)
		}
		tiles := make([]string, len(ns))
		for i, n := range ns {
			tiles[i] = resolve.Label(n)
		}
		return json.Marshal(tiles)
	}
	ranges := make([]string, len(g))
	for i, r := range g {
		if ranges[i] = resolve.Label(r.First) + "-" + resolve.Label(r.Last); r.Step > 1 {
			ranges[i] += fmt.Sprintf(" by %d", r.Step)
		}
	}
	return json.Marshal(ranges)
}

// Report makes the contract's shape of a graph.
func (g *Graph) Report() Report {
	rep := Report{
		Document: g.Documents[0].Path, Format: g.Documents[0].Format, Root: g.Root,
		References: make([]ReportReference, 0, len(g.References)),
		Problems:   append([]mention.Problem{}, g.Problems...),
	}
	for i := range g.References {
		r := &g.References[i]
		out := ReportReference{
			Document: g.Documents[r.Doc].File.Where(g.Documents[r.Doc].Path, r.Mention), Written: r.Written, State: string(r.State), Use: r.Use.String(),
			Kind: string(r.Kind), Owner: r.Owner, Size: r.Size, Files: r.Files, Gaps: r.Gaps, Loose: r.Loose, Why: r.Why,
			Guessed: g.Documents[r.Doc].File.Doc.Mentions[r.Mention].Guessed, Member: g.Documents[r.Doc].File.Doc.Mentions[r.Mention].Member,
		}
		if r.Path != "" && r.Files == nil {
			out.Path = &r.Path
		}
		if r.Kind == facts.Sequence && !r.Write {
			// A list that holds nothing says so; one that is absent says nothing.
			out.Files, out.Gaps = append([]string{}, out.Files...), append(Gaps{}, out.Gaps...)
		}
		out.Range = g.Documents[r.Doc].File.Doc.Mentions[r.Mention].Range
		if r.Write {
			out.Role = "write"
		}
		if !r.State.Found() {
			out.Expected = r.Expected
		}
		rep.References = append(rep.References, out)
	}
	return rep
}
