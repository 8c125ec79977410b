package sift

import (
	"cmp"
	"io"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/text/bag"
)

// Along is what goes along in a crate though no reference names it.
type Along string

// What goes along, in the words of recipes. Adopted are files that a person chose,
// Named those of the recipe's own globs.
const (
	Companions Along = "companions" // what stands beside documents and files and belongs to them
	Editions   Along = "editions"   // earlier states of the documents
	Renders    Along = "renders"    // the newest of each rendering
	Drawings   Along = "drawings"   // drawings that name parts which travel
	Strays     Along = "strays"     // what lies in the project's folder and nothing names
	Adopted    Along = "adopted"
	ByGlob     Along = "glob"
	Channels   Along = "channels" // sounds whose channels lie otherwise than in the file that is named
)

// Alongs are those that a recipe may name.
var Alongs = []Along{Companions, Editions, Drawings, Renders, Strays}

// Keeps tells what goes along in a crate that is to keep a project: everything of a
// project that could.
func Keeps(also []string) bool {
	for _, what := range []Along{Companions, Editions, Renders, Strays} {
		if !slices.Contains(also, string(what)) {
			return false
		}
	}
	return true
}

// Extra is a file that could go along.
type Extra struct {
	Path string // absolute
	Size int64  // bytes
	Mod  int64  // nanoseconds since 1970
	What Along
	Of   string // of a companion and an edition: the file it belongs to
	Rel  string // of a companion and an edition: its place from the folder of that file
}

// Loose are the files of a project that no reference names, by what they are.
type Loose struct {
	Extras []Extra // companions and editions, renders, then strays, the newest first
	Root   string
	Newest int64 // when the documents that were asked for changed last
}

// maxExtras bounds how many files are listed.
const maxExtras = 200_000

// LooseOf sorts the files that nothing names: companions where they stand, editions
// that were kept beside the documents or in a folder of editions, and other states of
// the documents, the newest rendering of each, and strays: all else below the project's
// folder but what is hidden, what programs make again, other documents that this
// project's documents are among, and crates.
func LooseOf(g *graph.Graph, judged *origin.Judged, habits origin.Habits, reach drive.Reach, x index.Index, keeper edition.Keeper) (*Loose, error) {
	l := &lister{Loose: &Loose{Root: g.Root}, met: map[string]bool{}}
	for _, p := range g.Leaves() {
		l.met[p] = true
	}
	for i := range g.Files {
		l.met[g.Files[i].Real], l.met[g.Files[i].Path] = true, true
		for _, p := range g.Files[i].Also {
			l.met[p] = true
		}
	}
	if err := l.companions(judged.Companions, reach); err != nil {
		return nil, err
	}
	for _, i := range g.Roots {
		l.states(&g.Documents[i], reach, keeper)
	}
	if err := l.others(x, habits); err != nil {
		return nil, err
	}
	slices.SortStableFunc(l.Extras, func(a, b Extra) int {
		return cmp.Or(slices.Index(Alongs, a.What)-slices.Index(Alongs, b.What), cmp.Compare(b.Mod, a.Mod), strings.Compare(a.Path, b.Path))
	})
	l.Extras = l.Extras[:min(len(l.Extras), maxExtras)]
	return l.Loose, nil
}

// lister gathers what nothing names, each file once.
type lister struct {
	*Loose
	met map[string]bool
}

func (l *lister) add(e Extra) {
	if !l.met[e.Path] && len(l.Extras) < maxExtras {
		l.met[e.Path] = true
		l.Extras = append(l.Extras, e)
	}
}

func (l *lister) companions(list []origin.Companion, reach drive.Reach) error {
	for _, c := range list {
		at := c.Path
		if c.Found != "" {
			at = c.Found
		}
		dir := filepath.Dir(c.Of)
		err := filesAt(reach, at, func(p string, info drive.Info) {
			rel, err := filepath.Rel(at, p)
			if err == nil {
				rel = filepath.Join(strings.TrimPrefix(strings.TrimPrefix(c.Path, dir), "/"), rel)
				l.add(Extra{p, info.Size, info.ModTime.UnixNano(), Companions, c.Of, filepath.ToSlash(filepath.Clean(rel))})
			}
		})
		if err != nil && c.State == graph.Here {
			return err
		}
	}
	return nil
}

// states adds the editions of a document that were kept, and its other states beside it.
func (l *lister) states(d *graph.Document, reach drive.Reach, keeper edition.Keeper) {
	l.Newest = max(l.Newest, d.Info.ModTime.UnixNano())
	stem, _ := strings.CutSuffix(filepath.Base(d.Path), filepath.Ext(d.Path))
	_ = filesAt(reach, keeper.Of(d.Path), func(p string, info drive.Info) { // where nothing was kept yet nothing is
		if edition.Is(p) && strings.HasPrefix(filepath.Base(p), stem+".edition-") {
			l.add(Extra{p, info.Size, info.ModTime.UnixNano(), Editions, d.Path, path.Join(edition.Folder, filepath.Base(p))})
		}
	})
	for _, s := range origin.Siblings(reach, d.Path) {
		if s.Path != d.Path {
			l.add(Extra{s.Path, s.Size, s.Modified.UnixNano(), Editions, d.Path, filepath.Base(s.Path)})
		}
	}
}

// others are renders and strays, but none of a crate.
func (l *lister) others(x index.Index, habits origin.Habits) error {
	renders := map[string]Extra{}
	var strays []Extra
	crates := map[string]bool{}
	rebuilt, rendered := habits.Rebuilt(l.Root), habits.Rendered(l.Root)
	err := x.Below(l.Root, func(e index.Entry) error {
		if filepath.Base(e.Path) == bag.Declaration {
			crates[filepath.Dir(e.Path)] = true
		}
		rel := strings.TrimPrefix(strings.TrimPrefix(e.Path, l.Root), "/")
		if l.met[e.Path] || hidden(rel) || edition.Is(e.Path) || rebuilt(e.Path) {
			return nil
		}
		x := Extra{Path: e.Path, Size: max(0, e.Size), Mod: e.Mod, What: Strays}
		if !rendered(e.Path) {
			strays = append(strays, x)
			return nil
		}
		key := filepath.Dir(e.Path) + "/" + origin.Base(e.Path)
		if was, ok := renders[key]; ok && was.Mod >= x.Mod {
			strays = append(strays, x) // of renderings the older ones are strays, and say so
		} else {
			if ok {
				was.What = Strays
				strays = append(strays, was)
			}
			x.What = Renders
			renders[key] = x
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, r := range renders {
		l.Extras = append(l.Extras, r)
	}
	l.Extras = append(l.Extras, strays...)
	l.Extras = slices.DeleteFunc(l.Extras, func(e Extra) bool {
		for dir := filepath.Dir(e.Path); len(dir) > len(l.Root); dir = filepath.Dir(dir) {
			if crates[dir] {
				return true
			}
		}
		return false
	})
	return nil
}

// hidden tells files below a folder whose name, or that of a folder above them, begins
// with a dot.
func hidden(rel string) bool { return strings.HasPrefix(rel, ".") || strings.Contains(rel, "/.") }

// filesAt tells a file, or all below a folder.
func filesAt(reach drive.Reach, at string, each func(path string, info drive.Info)) error {
	info, err := reach.Stat(at)
	if err != nil {
		return err
	}
	if info.Mode.IsRegular() {
		each(at, info)
		return nil
	}
	entries, err := reach.ReadDir(at)
	if err != nil {
		return err
	}
	for _, e := range entries {
		p := filepath.Join(at, e.Name())
		switch info, err := reach.Lstat(p); {
		case err != nil || strings.HasPrefix(e.Name(), "."):
		case info.Mode.IsDir():
			if err := filesAt(reach, p, each); err != nil {
				return err
			}
		case info.Mode.IsRegular():
			each(p, info)
		}
	}
	return nil
}

// Strays are the files that nothing names, the newest first, whatever may be said for
// some of them: not companions, which belong to something, nor other states of the
// documents.
func (l *Loose) Strays() []Stray {
	var list []Stray
	for _, e := range l.Extras {
		if e.What == Strays || e.What == Renders || e.What == Drawings {
			list = append(list, Stray{e.Path, e.Size, time.Unix(0, e.Mod).UTC(), e.Mod > l.Newest})
		}
	}
	slices.SortStableFunc(list, func(a, b Stray) int { return b.Modified.Compare(a.Modified) })
	return list
}

// Chosen are those that go along: of the kinds that a recipe names, by its globs of
// paths below the project's folder, and by what a person adopted or left, by paths.
func (l *Loose) Chosen(also []string, byHand func(path string) (travels, stays bool)) []Extra {
	var list []Extra
	for _, e := range l.Extras {
		travels, stays := byHand(e.Path)
		switch {
		case stays:
			continue
		case slices.Contains(also, string(e.What)):
		case travels:
			e.What = Adopted
		default:
			if e.What = ByGlob; !l.matches(also, e.Path) {
				continue
			}
		}
		list = append(list, e)
	}
	return list
}

// matches holds a path below the project's folder against globs; one that names a
// folder takes all below it.
func (l *Loose) matches(globs []string, p string) bool {
	rel := strings.TrimPrefix(strings.TrimPrefix(filepath.ToSlash(p), filepath.ToSlash(l.Root)), "/")
	for _, glob := range globs {
		if slices.Contains(Alongs, Along(glob)) {
			continue
		}
		glob = strings.TrimSuffix(glob, "/")
		if Match(glob, rel) || Match(glob+"/**", rel) || !strings.Contains(glob, "/") && Match(glob, path.Base(rel)) {
			return true
		}
	}
	return false
}

// Unmatched are the globs of a list that no file that could go along, nor any of the
// graph, answers to: a slip of the pen, more often than not.
func Unmatched(globs []string, g *graph.Graph, l *Loose) (list []string) {
	for _, glob := range globs {
		if slices.Contains(Alongs, Along(glob)) {
			continue
		}
		met := l != nil && slices.ContainsFunc(l.Extras, func(e Extra) bool { return l.matches([]string{glob}, e.Path) })
		for i := 0; i < len(g.Files) && !met; i++ {
			met = matches([]string{glob}, g, &g.Files[i])
		}
		if !met {
			list = append(list, glob)
		}
	}
	return list
}

// head reads the beginning of a file.
func head(reach drive.Reach, p string, most int64) ([]byte, error) {
	f, err := reach.Open(p)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, most))
}
