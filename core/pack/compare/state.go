package compare

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
)

// State is all that a comparison asks of one side, as it can be kept.
type State struct {
	Documents []StateFile `json:"documents"` // the roots first, in their order
	Files     []StateFile `json:"files"`
}

// StateFile is a file of it, or a document.
type StateFile struct {
	Path     string      `json:"path"` // from the project's folder, with slashes; absolute of what lies outside
	Kind     facts.Kind  `json:"kind,omitempty"`
	Bytes    int64       `json:"bytes"`
	Use      mention.Use `json:"use,omitempty"`
	Ranges   string      `json:"ranges,omitempty"` // which parts of it are placed, in seconds
	Found    bool        `json:"found,omitempty"`
	Carried  bool        `json:"carried,omitempty"`  // its bytes are in a document
	Modified int64       `json:"modified,omitempty"` // nanoseconds since 1970; of a sequence the latest
	SHA256   string      `json:"sha256,omitempty"`   // "" where nobody read it; of a sequence that of its frames' digests
	Root     bool        `json:"root,omitempty"`     // a document that was given
}

// beforeFiles and afterFiles stand around the files of a state's text.
const beforeFiles, afterFiles = "\"files\":[\n", "\n]}"

// Text is a state as JSON, each file on a line of its own: what two states have in common is found without reading it.
func (s *State) Text() ([]byte, error) {
	documents, err := json.Marshal(s.Documents)
	if err != nil {
		return nil, err
	}
	b := bytes.NewBufferString(`{"documents":` + string(documents) + `,` + beforeFiles)
	for i := range s.Files {
		line, err := json.Marshal(&s.Files[i])
		if err != nil {
			return nil, err
		}
		if i > 0 {
			b.WriteString(",\n")
		}
		b.Write(line)
	}
	b.WriteString(afterFiles)
	return b.Bytes(), nil
}

// filesOf are the lines of a text's files, and what stands before them; not ok where it is laid out otherwise.
func filesOf(text []byte) (head string, lines []string, ok bool) {
	head, rest, ok := strings.Cut(string(text), beforeFiles)
	rest, ends := strings.CutSuffix(rest, afterFiles)
	return head, strings.Split(rest, ",\n"), ok && ends && rest != ""
}

// Apart reads the texts of two states but for the files that are the same in both, and tells how many these are.
func Apart(a, b []byte) (x, y *State, same int, err error) {
	x, y = &State{}, &State{}
	headA, linesA, okA := filesOf(a)
	headB, linesB, okB := filesOf(b)
	if okA && okB {
		common := make(map[string]bool, len(linesA))
		for _, l := range linesA {
			common[l] = false
		}
		rest := linesB[:0]
		for _, l := range linesB {
			if met, ok := common[l]; ok && !met {
				common[l], same = true, same+1
			} else {
				rest = append(rest, l)
			}
		}
		linesA = slices.DeleteFunc(linesA, func(l string) bool { return common[l] })
		a, b = []byte(headA+beforeFiles+strings.Join(linesA, ",\n")+afterFiles), []byte(headB+beforeFiles+strings.Join(rest, ",\n")+afterFiles)
	}
	if err := json.Unmarshal(a, x); err != nil {
		return nil, nil, 0, err
	}
	return x, y, same, json.Unmarshal(b, y)
}

// Keep is a side's state, with the digests that are known of its files; nothing is read.
func (s *Side) Keep(known func(path string, is drive.Stamp) string) *State {
	list := &State{Documents: []StateFile{}, Files: []StateFile{}}
	for _, d := range s.documents() {
		d.SHA256 = known(d.at, s.Graph.Documents[d.doc].Info.Stamp())
		list.Documents = append(list.Documents, d.StateFile)
	}
	items := s.items()
	for _, path := range sortedKeys(items) {
		i := items[path]
		if f := i.file; f.Frames == nil && f.State.Found() {
			i.SHA256 = known(f.Path, f.Stamp)
		}
		list.Files = append(list.Files, i.StateFile)
	}
	return list
}

type item struct {
	StateFile
	at   string // absolute
	doc  graph.DocID
	file *graph.File // nil of a document, and of what was kept
	side *Side
}

// sum is the digest of a file, of a sequence that of its frames' digests.
func (i *item) sum(ctx context.Context) (string, error) {
	if i.SHA256 != "" {
		return i.SHA256, nil
	}
	var err error
	if i.file == nil || i.file.Frames == nil {
		i.SHA256, err = i.side.Sum(ctx, i.at)
		return i.SHA256, err
	}
	h := sha256.New()
	for _, p := range i.file.Frames.Files {
		sum, err := i.side.Sum(ctx, p)
		if err != nil {
			return "", err
		}
		fmt.Fprintln(h, sum)
	}
	i.SHA256 = hex.EncodeToString(h.Sum(nil))
	return i.SHA256, nil
}

// items are the files of a side that are no documents, by their paths as they are told.
func (s *Side) items() map[string]*item {
	list := map[string]*item{}
	if s.Kept != nil {
		for _, f := range s.Kept.Files {
			list[f.Path] = &item{StateFile: f, side: s}
		}
		return list
	}
	g := s.Graph
	for i := range g.Files {
		f := &g.Files[i]
		if f.Doc != graph.None {
			continue
		}
		it := &item{at: f.Path, file: f, side: s}
		it.StateFile = StateFile{Path: s.label(f.Shown()), Kind: f.Kind, Bytes: f.Size, Use: f.Use, Found: f.State.Found(), Carried: f.Carried}
		if it.Found {
			it.Modified = f.Stamp.Mod
		}
		var ranges []string
		for _, n := range f.Refs {
			if r := g.References[n].Range; r != nil {
				ranges = append(ranges, fmt.Sprintf("%.6f+%.6f", r.Start, r.Duration))
			}
		}
		slices.Sort(ranges)
		it.Ranges = strings.Join(ranges, " ")
		list[it.Path] = it
	}
	return list
}

// documents are those of a side, the roots first.
func (s *Side) documents() (list []*item) {
	if s.Kept != nil {
		for _, d := range s.Kept.Documents {
			list = append(list, &item{StateFile: d, side: s})
		}
		return list
	}
	add := func(id graph.DocID, root bool) {
		d := &s.Graph.Documents[id]
		it := &item{at: d.Path, doc: id, side: s}
		it.StateFile = StateFile{Path: s.label(d.Path), Bytes: d.Info.Size, Found: true, Root: root}
		list = append(list, it)
	}
	for _, id := range s.Graph.Roots {
		add(id, true)
	}
	for i := range s.Graph.Documents {
		if id := graph.DocID(i); !slices.Contains(s.Graph.Roots, id) {
			add(id, false)
		}
	}
	return list
}

// label is a path as it is told.
func (s *Side) label(p string) string {
	if rel, err := filepath.Rel(s.Root, p); err == nil && filepath.IsLocal(rel) {
		return filepath.ToSlash(rel)
	}
	return p
}
