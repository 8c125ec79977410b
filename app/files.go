package app

import (
	"cmp"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/mention"
)

// fileRow is one line of the ledger of files: a file of the graph, else a place
// that needs none (its bytes are inside, it was never saved), else a write
// point. What a page shows of it is made when it is asked for.
type fileRow struct {
	file  graph.FileID
	ref   graph.RefID
	point int32
}

func fileRows(s *snapshot) []fileRow {
	g := s.graph
	rows := make([]fileRow, 0, len(g.Files))
	met := make([]bool, len(g.Files))
	for i := range g.References {
		switch r := &g.References[i]; {
		case r.File == graph.None:
			rows = append(rows, fileRow{graph.None, graph.RefID(i), graph.None})
		case !met[r.File]:
			met[r.File] = true
			rows = append(rows, fileRow{r.File, graph.RefID(i), graph.None})
		}
	}
	for i := range g.WritePoints {
		rows = append(rows, fileRow{graph.None, graph.None, int32(i)})
	}
	return rows
}

func (s *snapshot) key(r *fileRow) string {
	switch {
	case r.file != graph.None:
		return s.graph.Files[r.file].At.String()
	case r.ref != graph.None:
		ref := &s.graph.References[r.ref]
		return fmt.Sprintf("%s#%d", drive.At(s.drives, s.graph.Documents[ref.Doc].Path), ref.Mention)
	}
	w := &s.graph.WritePoints[r.point]
	return fmt.Sprintf("%s#%d", drive.At(s.drives, s.graph.Documents[w.Doc].Path), w.Mention)
}

func (s *snapshot) state(r *fileRow) graph.State {
	switch {
	case r.file != graph.None:
		return s.graph.Files[r.file].State
	case r.ref != graph.None:
		return s.graph.References[r.ref].State
	case slices.Contains(s.judged.FlagsOf(int(r.point)), graph.Outside):
		return graph.Away
	}
	return graph.Here
}

func (s *snapshot) use(r *fileRow) mention.Use {
	switch {
	case r.file != graph.None:
		return s.graph.Files[r.file].Use
	case r.ref != graph.None:
		return s.graph.References[r.ref].Use
	}
	return s.graph.WritePoints[r.point].Use
}

func (s *snapshot) kind(r *fileRow) facts.Kind {
	switch {
	case r.file != graph.None:
		return s.graph.Files[r.file].Kind
	case r.ref != graph.None:
		return s.graph.References[r.ref].Kind
	}
	return s.graph.WritePoints[r.point].Kind
}

func (s *snapshot) size(r *fileRow) int64 {
	switch {
	case r.file != graph.None:
		if f := &s.graph.Files[r.file]; f.State == graph.Unplugged {
			return s.lastOf[r.file]
		}
		return s.graph.Files[r.file].Size
	case r.ref != graph.None:
		return s.graph.References[r.ref].Size
	}
	return 0
}

func (s *snapshot) uses(r *fileRow) int {
	if r.file != graph.None {
		return len(s.graph.Files[r.file].Refs)
	}
	return 1
}

// place is a row's name and the folder it stands in, or should.
func (s *snapshot) place(r *fileRow) (name, dir string) {
	g := s.graph
	if r.point != graph.None {
		dir, name = filepath.Split(g.WritePoints[r.point].Path)
		return name, filepath.Clean(dir)
	}
	ref := &g.References[r.ref]
	switch {
	case r.file != graph.None && g.Files[r.file].Frames != nil:
		fr := g.Files[r.file].Frames
		return sequenceName(fr), fr.Pattern.Dir
	case r.file != graph.None:
		dir, name = filepath.Split(g.Files[r.file].Path)
		return name, filepath.Clean(dir)
	case ref.Network():
		return ref.Written, ""
	case ref.Written != "" && !strings.HasPrefix(ref.Written, "data:"): // a member of a package
		return ref.Written, filepath.Dir(g.Documents[ref.Doc].Path)
	}
	return ref.Owner, filepath.Dir(g.Documents[ref.Doc].Path)
}

// sequenceName shows the numbers: sun.[0101–0160].png.
func sequenceName(fr *graph.Frames) string {
	p, s := fr.Pattern, fr.Said
	num := func(name string) string {
		return strings.TrimSuffix(strings.TrimPrefix(filepath.Base(name), p.Head), p.Tail)
	}
	first, last := "", ""
	switch {
	case s.Count > 0:
		first, last = num(p.Name(s.First)), num(p.Name(s.First+(s.Count-1)*s.Step))
	case len(fr.Files) > 0:
		first, last = num(fr.Files[0]), num(fr.Files[len(fr.Files)-1])
	default:
		return p.Shown()
	}
	return p.Head + "[" + first + "–" + last + "]" + p.Tail
}

// part divides a folder's label into what it shares with the project's own
// folder and what parts from it.
func (s *snapshot) part(dir string) (common, parting string) {
	if dir == "" || dir == "." {
		return "", ""
	}
	label := strings.Split(drive.Label(s.drives, dir), "/")
	root := strings.Split(drive.Label(s.drives, s.graph.Root), "/")
	n := 0
	for n < len(label) && n < len(root) && label[n] == root[n] {
		n++
	}
	common, parting = strings.Join(label[:n], "/"), strings.Join(label[n:], "/")
	if n > 0 {
		common += "/"
	}
	if parting != "" {
		parting += "/"
	}
	return common, parting
}

// guessed tells that no format's rule says what the row's file is named by.
func (s *snapshot) isGuess(r *fileRow) bool {
	if r.ref == graph.None {
		return false
	}
	if r.file == graph.None {
		return s.graph.References[r.ref].Guessed
	}
	return !slices.ContainsFunc(s.graph.Files[r.file].Refs, func(id graph.RefID) bool { return !s.graph.References[id].Guessed })
}

func (s *snapshot) badges(r *fileRow) []tracing.Badge {
	list := []tracing.Badge{}
	add := func(code tracing.BadgeCode, text string) { list = append(list, tracing.Badge{Code: code, Text: text}) }
	if r.point != graph.None {
		add(tracing.BadgeWrite, "write point")
	}
	if s.isGuess(r) {
		add(tracing.BadgeGuess, "guess")
	}
	if r.ref != graph.None {
		ref := &s.graph.References[r.ref]
		if r.file != graph.None && s.graph.Files[r.file].Frames != nil && ref.State.Found() {
			if gaps := s.graph.Files[r.file].Frames.Gaps; len(gaps) > 0 {
				if n := lacks(gaps); n <= 3 {
					add(tracing.BadgeGaps, "gaps "+gapWords(gaps, 3))
				} else {
					add(tracing.BadgeGaps, fmt.Sprintf("%d gaps", n))
				}
			}
		}
		if ref.Loose {
			add(tracing.BadgeLoose, "loosely spelled")
		}
		if ref.Search != "" {
			add(tracing.BadgeSearch, "via search folder")
		}
		if ref.Repaired {
			add(tracing.BadgeMended, "mended")
		}
		if ref.Network() {
			add(tracing.BadgeNetwork, "on the network")
		}
	}
	switch s.use(r) {
	case mention.Dormant:
		add(tracing.BadgeDormant, "dormant")
	case mention.Listed:
		add(tracing.BadgeListed, "listed")
	}
	if r.file != graph.None {
		for _, x := range s.judged.Suspicions(r.file) {
			add(tracing.BadgeSuspect, words.Suspicion(x))
		}
		if s.judged.Rebuildable(r.file) {
			add(tracing.BadgeRebuild, "can be rebuilt")
		}
		switch s.judged.File(s.graph, r.file).Origin {
		case graph.OfDump:
			add(tracing.BadgeDump, "Downloads or temporary")
		case graph.OfOtherProject:
			add(tracing.BadgeProject, "another project")
		case graph.OfLibrary:
			add(tracing.BadgeLibrary, "library")
		case graph.OfStore:
			add(tracing.BadgeStore, "store")
			if v, ok := s.revised[s.graph.Files[r.file].Path]; ok && v.Newest != v.Is {
				add(tracing.BadgeNewer, v.Newest+" is newer")
			}
		}
	}
	return list
}

func lacks(gaps []graph.Gap) int { return (&graph.Place{Gaps: gaps}).Lacks() }

func gapWords(gaps []graph.Gap, most int) string {
	var parts []string
	for _, g := range gaps {
		if len(parts) == most {
			parts = append(parts, "…")
			break
		}
		if g.Len() == 1 {
			parts = append(parts, graph.Label(g.First))
		} else {
			parts = append(parts, graph.Label(g.First)+"–"+graph.Label(g.Last))
		}
	}
	return strings.Join(parts, ", ")
}

// row is a line as a page shows it.
func (s *snapshot) row(r *fileRow) tracing.Row {
	name, dir := s.place(r)
	v := tracing.Row{
		Key: s.key(r), Name: name, State: s.state(r), Use: s.use(r), Kind: s.kind(r), Word: words.Kind(s.kind(r)), Origin: graph.Nowhere,
		Size: s.size(r), Files: 1, Uses: s.uses(r), Write: r.point != graph.None, Badges: s.badges(r),
	}
	v.Common, v.Parting = s.part(dir)
	if r.file != graph.None {
		f := &s.graph.Files[r.file]
		if v.Origin = s.judged.File(s.graph, r.file).Origin; f.Frames != nil {
			v.Files, v.Of = len(f.Frames.Files), f.Frames.Count
		}
	}
	return v
}

// groups are the groups of the ledger by state: first what is lost soonest.
// Write points are in a state of their own.
var groups = []string{writesOut, string(graph.Unsaved), string(graph.Inside), string(graph.Missing), string(graph.Twins), string(graph.Unreadable),
	string(graph.Unplugged), string(graph.Away), string(graph.Here), writesIn}

const (
	writesOut = "writes-out"
	writesIn  = "writes-in"
)

func (s *snapshot) group(r *fileRow) string {
	switch {
	case r.point == graph.None:
		return string(s.state(r))
	case slices.Contains(s.judged.FlagsOf(int(r.point)), graph.Outside):
		return writesOut
	}
	return writesIn
}

func groupTitle(k string) string {
	switch k {
	case writesOut:
		return "Will be written outside the project"
	case writesIn:
		return "Will be written here"
	}
	return words.State(graph.State(k))
}

func fileSpec(s *snapshot) table.Spec[fileRow] {
	text := func(f func(r *fileRow) string) func(*fileRow) string { return f }
	folder := func(r *fileRow) string { _, dir := s.place(r); return drive.Label(s.drives, dir) }
	doc := func(r *fileRow) string {
		if r.ref == graph.None {
			return s.graph.Documents[s.graph.WritePoints[r.point].Doc].Path
		}
		return s.graph.Documents[s.graph.References[r.ref].Doc].Path
	}
	return table.Spec[fileRow]{
		Name: "files", Usual: "state", Key: s.key,
		Sum: func(r *fileRow) table.Sum {
			sum := table.Sum{Uses: s.uses(r)}
			if r.point != graph.None {
				sum.Uses = 0
			}
			if s.state(r).Found() && r.file != graph.None {
				if sum.Files, sum.Bytes = 1, s.size(r); s.graph.Files[r.file].Frames != nil {
					sum.Files = len(s.graph.Files[r.file].Frames.Files)
				}
			}
			return sum
		},
		Columns: []table.Column[fileRow]{
			{ID: "name", Title: "file", Text: func(r *fileRow) string { name, _ := s.place(r); return name }},
			{ID: "place", Title: "folder", Text: text(folder)},
			{ID: "state", Title: "state", Text: func(r *fileRow) string { return string(s.state(r)) }},
			{ID: "use", Title: "use", Text: func(r *fileRow) string { return s.use(r).String() }},
			{ID: "kind", Title: "kind", Text: func(r *fileRow) string { return words.Kind(s.kind(r)) }},
			{ID: "origin", Title: "origin", Text: func(r *fileRow) string {
				if r.file == graph.None {
					return string(graph.Nowhere)
				}
				return string(s.judged.File(s.graph, r.file).Origin)
			}},
			{ID: "size", Title: "bytes", Number: s.size},
			{ID: "uses", Title: "uses", Number: number(s.uses)},
			{ID: "remarks", Title: "remarks", Text: func(r *fileRow) string {
				var parts []string
				for _, b := range s.badges(r) {
					parts = append(parts, b.Text)
				}
				return strings.Join(parts, ", ")
			}},
			{ID: "document", Title: "document", Quiet: true, Text: text(doc)},
		},
		Groups: []table.Group[fileRow]{
			{ID: "state", Key: s.group, Title: groupTitle, Rank: func(k string) int { return slices.Index(groups, k) }, Note: s.note},
			{ID: "place", Key: folder, Title: nameOrNowhere, Note: s.note},
			{ID: "kind", Key: func(r *fileRow) string { return string(s.kind(r)) }, Title: func(k string) string { return capital(words.Kind(facts.Kind(k))) }, Note: s.note},
			{ID: "document", Key: doc, Title: filepath.Base, Note: s.note},
		},
		Facets: map[string]func(*fileRow, string) bool{
			"state": func(r *fileRow, v string) bool { return string(s.state(r)) == v && r.point == graph.None },
			"kind":  func(r *fileRow, v string) bool { return string(s.kind(r)) == v },
			"place": func(r *fileRow, v string) bool {
				_, dir := s.place(r)
				return drive.Within(v, dir) && s.state(r) != graph.Missing
			},
			"document": func(r *fileRow, v string) bool { // any that names it
				if r.file == graph.None {
					return doc(r) == v
				}
				return slices.ContainsFunc(s.graph.Files[r.file].Refs, func(k graph.RefID) bool {
					return s.graph.Documents[s.graph.References[k].Doc].Path == v
				})
			},
			"badge": func(r *fileRow, v string) bool {
				return slices.ContainsFunc(s.badges(r), func(b tracing.Badge) bool { return string(b.Code) == v })
			},
		},
	}
}

func nameOrNowhere(s string) string {
	if s == "" {
		return "Nowhere"
	}
	return s
}

func capital(s string) string { return strings.TrimSuffix(phrase.Sentence(s), ".") }

// note says what kinds a group holds, most first, and their bytes.
func (s *snapshot) note(rows []*fileRow) string {
	kinds := map[facts.Kind]int{}
	var bytes int64
	for _, r := range rows {
		kinds[s.kind(r)]++
		bytes += s.size(r)
	}
	list := make([]facts.Kind, 0, len(kinds))
	for k := range kinds {
		list = append(list, k)
	}
	slices.SortFunc(list, func(a, b facts.Kind) int { return cmp.Or(kinds[b]-kinds[a], strings.Compare(string(a), string(b))) })
	var parts []string
	for _, k := range list {
		parts = append(parts, words.Kinds(kinds[k], k))
	}
	if bytes > 0 {
		parts = append(parts, phrase.Size(bytes))
	}
	return strings.Join(parts, " · ")
}

func filesLedger(s *snapshot) ledger {
	return listed[fileRow, tracing.FileLine]{
		s.files, func(h api.Heading) tracing.FileLine { return tracing.FileLine{Heading: &h} },
		func(r *fileRow) tracing.FileLine { v := s.row(r); return tracing.FileLine{Row: &v} },
		func(w api.Window, lines []tracing.FileLine) any { return tracing.Files{Window: w, Lines: lines} },
	}
}
