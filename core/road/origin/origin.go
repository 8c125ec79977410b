// Package origin judges whose a file is and what is dangerous about where it
// lives: another project's folder, a library, a managed store, a download
// folder; and what of a project points out of it.
package origin

import (
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
)

// Options is what is known of the surroundings.
type Options struct {
	Reach     drive.Reach
	Drives    []drive.Drive
	Projects  []string // roots of the other projects that are known
	Libraries []string // folders declared as a parts or sample library
	Stores    []string // folders declared as a managed store
	Habits    *Habits  // nil: those shipped
	// Alike tells whether two documents use mostly the same files; nil does not
	// know.
	Alike func(a, b string) bool
	// Called are the files, or folders, of a name that are known on all drives; nil
	// knows none. Once tells whether a companion stood somewhere when it was last
	// looked at.
	Called func(name string, folder bool) []string
	Once   func(path string) bool
	// Writers are the write points of other projects.
	Writers []Writer
}

// DeclaredKind is what a person declared a folder as.
type DeclaredKind string

// The kinds of declared folders.
const (
	AsLibrary DeclaredKind = "library" // parts or samples that projects lean on
	AsStore   DeclaredKind = "store"   // managed: its folders hold revisions
)

// Writer is a document of another project that will write into a folder.
type Writer struct {
	Project, Document, Folder string
}

// Judged is what was found out of a graph, by the same numbers. It never changes the
// graph.
type Judged struct {
	Files      []Judgement                        // by FileID
	Flags      [][]graph.Flag                     // by write point
	Suspect    map[graph.FileID][]graph.Suspicion // see mend.Suspects
	Companions []Companion
	Moved      []Move
	Warnings   []Warning
	Places     []Place
	Needs      []Need
	Revisions  []Revision
}

// Judgement is what a file is to its project.
type Judgement struct {
	Class  graph.Class
	Origin graph.Origin
	Home   string // the folder that makes its origin: the other project, the library
}

// File is what was judged of a file. Where nothing was, it is told by the graph alone.
func (j *Judged) File(g *graph.Graph, id graph.FileID) Judgement {
	if j != nil && int(id) < len(j.Files) {
		return j.Files[id]
	}
	return Judgement{Class: classOf(&g.Files[id]), Origin: graph.Nowhere}
}

// Rebuildable tells files that the program which made them makes again.
func (j *Judged) Rebuildable(id graph.FileID) bool {
	return j != nil && int(id) < len(j.Files) && j.Files[id].Class == graph.Rebuildable
}

// Suspicions are what speaks against a file that is there under the right name.
func (j *Judged) Suspicions(id graph.FileID) []graph.Suspicion {
	if j == nil {
		return nil
	}
	return j.Suspect[id]
}

// Beside are the companions that stand where they belong.
func (j *Judged) Beside() (list []string) {
	for _, c := range j.Companions {
		if c.State == graph.Here {
			list = append(list, c.Path)
		}
	}
	return list
}

// FlagsOf is what is wrong with a write point.
func (j *Judged) FlagsOf(point int) []graph.Flag {
	if j == nil || point >= len(j.Flags) {
		return nil
	}
	return j.Flags[point]
}

func classOf(f *graph.File) graph.Class {
	if f.Doc != graph.None {
		return graph.AsDocument
	}
	return graph.Material
}

// Companion is a data folder or sidecar that travels with a document or not at
// all.
type Companion struct {
	Of    string      `json:"of"`
	Path  string      `json:"path"`
	Rule  string      `json:"rule"`
	State graph.State `json:"state"`
	Found string      `json:"found,omitempty"`
}

// Move is an old root that many references share, while the rest of their
// paths exists below another.
type Move struct {
	From       string `json:"from"`
	To         string `json:"to"`
	References int    `json:"references"`
	Present    int    `json:"present"`
}

// WarningCode is what a warning is about.
type WarningCode string

// The warnings.
const (
	Scattered         WarningCode = "scattered"          // over many folders or drives
	DumpingGround     WarningCode = "dumping-ground"     // in a download, desktop or temporary folder
	NothingRecognised WarningCode = "nothing-recognised" // a document of no known format in which nothing looks like a name
	Guessed           WarningCode = "guessed"            // documents of no known format
	UnreadableFolder  WarningCode = "unreadable-folder"  // a folder names could not be looked for in
	SharedFolder      WarningCode = "shared-folder"      // another project writes into it too
	SlowDrive         WarningCode = "slow-drive"         // it gives less than the project needs while it plays
	SyncedFolder      WarningCode = "synced-folder"      // another program may change what lies there
	SiblingNewer      WarningCode = "sibling-newer"      // a later state of a document lies beside it
)

// Warning is something a person should know of the whole project.
type Warning struct {
	Code    WarningCode
	Paths   []string
	Folders int // of scattered
	Files   int
	Drive   string // the name of a slow or synced one
	Place   string // a folder that all of it lies in; "" none
	Needs   int64  // bytes a second, of a slow drive
	Gives   int64  // the same; 0 where it should not be played from at all
}

// maxBeside is how many folders and drives beside its own a project may use
// before it counts as scattered: common practice, no source.
const maxBeside = 3

// Judge tells the class and origin of every file of a graph and the flags of every
// write point, and what else there is to know.
func Judge(g *graph.Graph, o Options) *Judged {
	if o.Habits == nil {
		o.Habits = &DefaultHabits
	}
	j := &judge{Options: o, g: g, holds: map[string]bool{}, ours: map[string]bool{}, given: map[string]bool{}, dumps: newHabit(o.Habits.Dumps, g.Root), files: make([]Judgement, len(g.Files))}
	for i := range g.Documents {
		j.ours[g.Documents[i].Path] = true
	}
	for _, i := range g.Roots {
		j.given[g.Documents[i].Path] = true
	}
	w := witnesses(g, o)
	flags := make([][]graph.Flag, len(g.WritePoints))
	for i := range g.Files {
		f := &g.Files[i]
		is := Judgement{Class: classOf(f), Origin: graph.Nowhere}
		if is.Class == graph.Material && w.rebuilt(graph.FileID(i)) {
			is.Class = graph.Rebuildable
		}
		if f.Carried {
			is.Origin, is.Home = j.of(folderOf(f))
		}
		j.files[i] = is
	}
	for i := range g.WritePoints {
		flags[i] = j.point(&g.WritePoints[i])
	}
	moved := j.moved()
	needs := j.needs()
	warnings := append(j.warnings(), j.dangers(needs)...)
	return &Judged{Files: j.files, Flags: flags, Companions: j.companions(moved), Moved: moved, Warnings: warnings, Places: j.places(), Needs: needs, Revisions: j.revisions()}
}

type judge struct {
	Options
	g     *graph.Graph
	files []Judgement
	holds map[string]bool // folder → holds another project's document
	ours  map[string]bool // documents of this project
	given map[string]bool // those it begins with
	asked int             // companions that the index was asked for
	dumps *oneHabit
}

func folderOf(f *graph.File) string {
	if f.Frames != nil {
		return f.Frames.Pattern.Dir
	}
	return filepath.Dir(f.Path)
}

func within(dirs []string, p string) (string, bool) {
	for _, d := range dirs {
		if drive.Within(d, p) {
			return d, true
		}
	}
	return "", false
}

// of is whose a folder is, and the folder that makes it so.
func (j *judge) of(dir string) (graph.Origin, string) {
	if drive.Within(j.g.Root, dir) {
		return graph.OfProject, j.g.Root
	}
	if d, ok := within(j.Stores, dir); ok {
		return graph.OfStore, d
	}
	if d, ok := within(j.Libraries, dir); ok {
		return graph.OfLibrary, d
	}
	// What lies above the project's own folder too tells nothing.
	top := graph.CommonFolder([]string{filepath.Join(j.g.Root, "x"), filepath.Join(dir, "x")})
	d, onDrive := drive.Find(j.Drives, dir)
	for at := dir; at != filepath.Dir(at); at = filepath.Dir(at) {
		if onDrive && at == d.Dir || at == top && at != dir {
			break
		}
		if at != top && matches(j.dumps.folders, filepath.Base(at)) {
			return graph.OfDump, at
		}
		if j.otherProject(at) {
			return graph.OfOtherProject, at
		}
	}
	return graph.Loose, dir
}

// otherProject tells folders that are another project's root, or hold a
// document that is none of this one.
func (j *judge) otherProject(dir string) bool {
	if v, ok := j.holds[dir]; ok {
		return v
	}
	found := slices.Contains(j.Projects, dir) && dir != j.g.Root
	if !found {
		entries, _ := j.Reach.ReadDir(dir) // what cannot be listed tells nothing
		for _, e := range entries {
			if !e.IsDir() && facts.KindOfName(e.Name()) == facts.Document && !j.ours[filepath.Join(dir, e.Name())] {
				found = true
				break
			}
		}
	}
	j.holds[dir] = found
	return found
}

// point tells what is wrong with a write point.
func (j *judge) point(w *graph.WritePoint) (flags []graph.Flag) {
	flag := func(f graph.Flag) { flags = append(flags, f) }
	dir := w.Path
	if w.Kind != facts.Other { // a file that will be written, not a folder to write into
		dir = filepath.Dir(dir)
	}
	if w.Alien {
		return []graph.Flag{graph.Outside, graph.Absent}
	}
	if !drive.Within(j.g.Root, dir) {
		flag(graph.Outside)
		here, _ := drive.Find(j.Drives, j.g.Root)
		if there, _ := drive.Find(j.Drives, dir); there.ID != here.ID {
			flag(graph.OtherDrive)
		}
		if whose, _ := j.of(dir); whose == graph.OfOtherProject {
			flag(graph.OtherProject)
		}
	} else if dir != j.g.Root && w.Kind == facts.Other {
		flag(graph.InnerFolder)
	}
	if info, err := j.Reach.Stat(dir); err != nil || !info.Mode.IsDir() {
		flag(graph.Absent)
	}
	return flags
}

// maxMoved bounds how many files are asked for below the root.
const maxMoved = 5000

// moved finds old roots: absolute names that lead out of the project while the
// rest of their path is there below its root.
func (j *judge) moved() (list []Move) {
	g := j.g
	there := map[string]bool{}
	exists := func(p string) bool {
		v, ok := there[p]
		if !ok {
			_, err := j.Reach.Stat(p)
			v = err == nil
			there[p] = v
		}
		return v
	}
	votes := map[string]int{}
	var names []string // of each reference that counts
	asked := 0
	last := map[*graph.Place]string{}
	for i := range g.References {
		r := &g.References[i]
		if r.State != graph.Missing && r.State != graph.Away && r.State != graph.Unplugged || r.Network() || !absolute(r.Written) || r.Expected == "" || r.Repaired || drive.Within(g.Root, r.Expected) {
			continue
		}
		names = append(names, r.Expected)
		from, known := last[r.Place]
		if !known && asked < maxMoved {
			asked++
			from = oldRoot(r.Expected, g.Root, exists)
			last[r.Place] = from
		}
		if from != "" {
			votes[from]++
		}
	}
	for from, present := range votes {
		n := 0
		for _, e := range names {
			if drive.Within(from, e) {
				n++
			}
		}
		if present >= 2 && 2*present >= n {
			list = append(list, Move{from, g.Root, n, present})
		}
	}
	sort.Slice(list, func(a, b int) bool {
		if list[a].References != list[b].References {
			return list[a].References > list[b].References
		}
		return list[a].From < list[b].From
	})
	return list
}

// oldRoot is what stands before the longest end of a path that exists below
// root, "" for none.
func oldRoot(p, root string, exists func(string) bool) string {
	for at := 0; at >= 0 && at < len(p); {
		next := strings.IndexByte(p[at:], '/')
		if next < 0 {
			break
		}
		at += next + 1
		if from := strings.TrimSuffix(p[:at], "/"); from != "" && from != root && exists(filepath.Join(root, p[at:])) {
			return from
		}
	}
	return ""
}

func absolute(written string) bool {
	return strings.HasPrefix(written, "/") || strings.HasPrefix(written, `\`) || len(written) > 2 && written[1] == ':' || strings.HasPrefix(strings.ToLower(written), "file:")
}

func (j *judge) warnings() (list []Warning) {
	g := j.g
	folders, dumped := map[string]bool{}, map[string]bool{}
	n := 0
	for i := range g.Files {
		switch is := &j.files[i]; is.Origin {
		case graph.OfDump:
			dumped[is.Home] = true
			fallthrough
		case graph.Loose, graph.OfOtherProject:
			folders[is.Home] = true
			n++
		}
	}
	if len(folders) > maxBeside {
		list = append(list, Warning{Code: Scattered, Paths: keys(folders), Folders: len(folders), Files: n})
	}
	if len(dumped) > 0 {
		list = append(list, Warning{Code: DumpingGround, Paths: keys(dumped)})
	}
	var guessed, empty []string
	for i := range g.Documents {
		switch d := &g.Documents[i]; {
		case d.Guessed && !d.Recognised:
			empty = append(empty, d.Path)
		case d.Guessed:
			guessed = append(guessed, d.Path)
		}
	}
	if len(empty) > 0 {
		list = append(list, Warning{Code: NothingRecognised, Paths: empty})
	}
	if len(guessed) > 0 {
		list = append(list, Warning{Code: Guessed, Paths: guessed})
	}
	if len(g.Unread) > 0 {
		w := Warning{Code: UnreadableFolder}
		for _, u := range g.Unread {
			w.Paths = append(w.Paths, u.Path)
		}
		list = append(list, w)
	}
	return list
}

func keys(m map[string]bool) []string {
	list := make([]string, 0, len(m))
	for k := range m {
		list = append(list, k)
	}
	slices.Sort(list)
	return list
}
