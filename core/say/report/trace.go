// Package report is the JSON contract of the command line: the shapes that
// programs read. Keys are added, never renamed.
package report

import (
	"encoding/json"
	"fmt"
	"strconv"

	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
)

// Trace is the JSON of `boundcrate trace --json`.
type Trace struct {
	Document    string             `json:"document"` // the first given one
	Documents   []string           `json:"documents"`
	Format      string             `json:"format"`
	Root        string             `json:"root"`
	References  []Reference        `json:"references"`
	Files       []File             `json:"files"`
	WritePoints []writePoint       `json:"writePoints"`
	Companions  []origin.Companion `json:"companions"`
	Moved       []origin.Move      `json:"moved"`
	Warnings    []Warning          `json:"warnings"`
	Problems    []words.Problem    `json:"problems"`
}

// Reference is one place that names a file.
type Reference struct {
	Document string      `json:"document"`
	Written  string      `json:"written"`
	Path     *string     `json:"path"`
	Files    []string    `json:"files,omitzero"` // of a sequence or twins
	Gaps     Gaps        `json:"gaps,omitzero"`  // of a sequence
	State    graph.State `json:"state"`
	Use      mention.Use `json:"use"`
	Kind     facts.Kind  `json:"kind"`
	Owner    string      `json:"owner"`
	Guessed  bool        `json:"guessed"`
	Member   string      `json:"member,omitempty"` // of a package
	Role     string      `json:"role,omitempty"`   // write: a write point, never missing
	Size     int64       `json:"size"`
	Expected string      `json:"expected,omitempty"` // where a file that was not found was looked for
	Loose    bool        `json:"loose,omitempty"`    // found under another spelling of the same name
	Why      string      `json:"why,omitempty"`
	// Range is the part that is used, in seconds of the media's own time; a
	// duration of 0 is up to its end.
	Range *mention.Range `json:"range,omitempty"`
}

// File is every file, sequence or expected place once.
type File struct {
	Path       string            `json:"path"`           // of a sequence, its name with number signs
	Paths      []string          `json:"paths,omitzero"` // further paths of the same file: links
	State      graph.State       `json:"state"`
	Use        mention.Use       `json:"use"`
	Kind       facts.Kind        `json:"kind"`
	Class      graph.Class       `json:"class"`
	Origin     graph.Origin      `json:"origin"`
	Size       int64             `json:"size"`
	References int               `json:"references"`
	Suspect    []graph.Suspicion `json:"suspect"`
}

// writePoint is where new material will go.
type writePoint struct {
	Document string       `json:"document"`
	Owner    string       `json:"owner"`
	Written  string       `json:"written"`
	Path     string       `json:"path"`
	Use      mention.Use  `json:"use"`
	Flags    []graph.Flag `json:"flags"`
}

// Warning is something a person should know of the whole project.
type Warning struct {
	Code    origin.WarningCode `json:"code"`
	Message string             `json:"message"`
	Paths   []string           `json:"paths"`
}

// Gaps are numbers, or ranges "101-240" when there are more than 10,000.
type Gaps []graph.Gap

// MarshalJSON lists numbers (of tiles, u3_v1), or ranges when there are too many to read.
func (g Gaps) MarshalJSON() ([]byte, error) {
	if ns, ok := graph.Numbers(g, 10_000); ok {
		if len(ns) == 0 || graph.Label(ns[0]) == strconv.Itoa(ns[0]) {
			return json.Marshal(ns)
		}
		tiles := make([]string, len(ns))
		for i, n := range ns {
			tiles[i] = graph.Label(n)
		}
		return json.Marshal(tiles)
	}
	ranges := make([]string, len(g))
	for i, r := range g {
		if ranges[i] = graph.Label(r.First) + "-" + graph.Label(r.Last); r.Step > 1 {
			ranges[i] += fmt.Sprintf(" by %d", r.Step)
		}
	}
	return json.Marshal(ranges)
}

// OfTrace makes the contract's shape of a graph and what was judged of it.
func OfTrace(g *graph.Graph, judged *origin.Judged) Trace {
	rep := Trace{
		Document: g.Documents[0].Path, Documents: []string{}, Format: g.Documents[0].Format, Root: g.Root,
		References: make([]Reference, 0, len(g.References)+len(g.WritePoints)), Files: make([]File, 0, len(g.Files)), WritePoints: []writePoint{},
		Companions: append([]origin.Companion{}, judged.Companions...), Moved: append([]origin.Move{}, judged.Moved...), Warnings: []Warning{}, Problems: words.Problems(g.Problems),
	}
	for _, i := range g.Roots {
		rep.Documents = append(rep.Documents, g.Documents[i].Path)
	}
	point := 0
	for i := range g.References {
		r := &g.References[i]
		// A write point stands among the references too, in document order.
		for ; point < len(g.WritePoints); point++ {
			if w := &g.WritePoints[point]; w.Doc > r.Doc || w.Doc == r.Doc && w.Mention > r.Mention {
				break
			}
			rep.References = append(rep.References, pointReference(g, judged, point))
		}
		rep.References = append(rep.References, reference(g, r))
	}
	for ; point < len(g.WritePoints); point++ {
		rep.References = append(rep.References, pointReference(g, judged, point))
	}
	for i := range g.Files {
		f := &g.Files[i]
		id := graph.FileID(i)
		is := judged.File(g, id)
		rep.Files = append(rep.Files, File{f.Shown(), f.Also, f.State, f.Use, f.Kind, is.Class, is.Origin, f.Size, len(f.Refs), append([]graph.Suspicion{}, judged.Suspicions(id)...)})
	}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		rep.WritePoints = append(rep.WritePoints, writePoint{g.Where(w.Doc, w.Text), w.Owner, w.Written, w.Path, w.Use, append([]graph.Flag{}, judged.FlagsOf(i)...)})
	}
	for _, w := range judged.Warnings {
		rep.Warnings = append(rep.Warnings, Warning{w.Code, words.Warning(w), append([]string{}, w.Paths...)})
	}
	return rep
}

func reference(g *graph.Graph, r *graph.Reference) Reference {
	out := Reference{
		Document: g.Where(r.Doc, r.Text), Written: r.Written, State: r.State, Use: r.Use, Kind: r.Kind, Owner: r.Owner, Size: r.Size,
		Files: r.Files, Gaps: r.Gaps, Loose: r.Loose, Why: words.Why(r.Why, r.Member), Guessed: r.Guessed, Member: r.Member, Range: r.Range,
	}
	if r.Path != "" && r.Files == nil {
		out.Path = &r.Path
	}
	if r.IsSequence() {
		// A list that holds nothing says so; one that is absent says nothing.
		out.Files, out.Gaps = append([]string{}, out.Files...), append(Gaps{}, out.Gaps...)
	}
	if !r.State.Found() {
		out.Expected = r.Expected
	}
	return out
}

func pointReference(g *graph.Graph, judged *origin.Judged, point int) Reference {
	w := &g.WritePoints[point]
	state, why := graph.Here, graph.Why("")
	for _, f := range judged.FlagsOf(point) {
		if f == graph.Outside {
			state = graph.Away
		}
	}
	if w.Alien {
		state, why = graph.Away, graph.OtherSystem
	}
	return Reference{
		Document: g.Where(w.Doc, w.Text), Written: w.Written, Path: &w.Path, State: state, Use: w.Use, Kind: w.Kind, Owner: w.Owner,
		Why: words.Why(why, ""), Role: "write",
	}
}
