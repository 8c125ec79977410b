package origin

import (
	"path/filepath"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/names"
)

// witness tells which files a program makes again. A habit's pattern alone does not:
// a clip that is placed and lies in a folder called previews may be the only one there
// is. Beside the pattern stands one of three: no placed item uses the file, it is a
// fade, peak, thumbnail or cache by what its folder or ending says, or its original is
// there.
type witness struct {
	g       *graph.Graph
	o       Options
	stems   map[string][]graph.FileID  // files that are there and no habit names, by stem
	folders map[string]map[string]bool // of folders that were listed: stems of the files in them
	made    func(file string) bool     // the habit of what is made again
	always  func(file string) bool
}

func witnesses(g *graph.Graph, o Options) *witness {
	return &witness{g: g, o: o, made: o.Habits.Rebuilt(g.Root), always: newHabit(alwaysMade, g.Root).holds}
}

// alwaysMade are the habits whose files are made by a program whatever uses them.
var alwaysMade = []string{"peaks/", "waveforms/", "fades/", "thumbnails/", "thumbs/", "cache/", "caches/", "* cache/", "*.peak", "*.peaks"}

// madeWords are what a made file's name has beside that of its original.
var madeWords = []string{"_proxy", "-proxy", ".proxy", "_preview", "-preview", ".preview"}

func (w *witness) rebuilt(id graph.FileID) bool {
	f := &w.g.Files[id]
	switch {
	case !w.made(f.Path):
		return false
	case f.Use != mention.Used, w.always(f.Path):
		return true
	}
	return w.original(id)
}

// original tells that the file which this one is made of is there: of the same stem, of
// a kind that it can be made of, and itself no made one.
func (w *witness) original(id graph.FileID) bool {
	f := &w.g.Files[id]
	base, kind := strings.ToLower(filepath.Base(f.Path)), f.Kind
	if was, ok := strings.CutSuffix(base, ".tmp"); ok { // written beside what it becomes
		base, kind = was, facts.KindOfName(was)
	}
	stem := madeOf(base)
	if stem == "" {
		return false
	}
	if w.stems == nil {
		w.index()
	}
	for _, other := range w.stems[stem] {
		if o := &w.g.Files[other]; other != id && plays(o.Kind) == plays(kind) {
			return true
		}
	}
	// Beside the folder of what is made, the original needs nobody that names it.
	dir := filepath.Dir(f.Path)
	for _, at := range []string{dir, filepath.Dir(dir)} {
		if drive.Within(w.g.Root, at) && w.listed(at)[stem+"\x00"+plays(kind)] {
			return true
		}
	}
	return false
}

func (w *witness) index() {
	w.stems = map[string][]graph.FileID{}
	for i := range w.g.Files {
		if f := &w.g.Files[i]; f.Carried && !w.made(f.Path) {
			stem := madeOf(filepath.Base(f.Path))
			w.stems[stem] = append(w.stems[stem], graph.FileID(i))
		}
	}
}

// listed are the stems of the files in a folder that no habit names, with what they
// play as.
func (w *witness) listed(dir string) map[string]bool {
	known, ok := w.folders[dir]
	if ok {
		return known
	}
	known = map[string]bool{}
	if w.folders == nil {
		w.folders = map[string]map[string]bool{}
	}
	w.folders[dir] = known
	entries, _ := w.o.Reach.ReadDir(dir) // what cannot be listed is no witness
	for _, e := range entries {
		if !e.IsDir() && !w.made(filepath.Join(dir, e.Name())) {
			known[madeOf(e.Name())+"\x00"+plays(facts.KindOfName(e.Name()))] = true
		}
	}
	return known
}

// madeOf is the stem of a name without the words that tell what is made.
func madeOf(name string) string {
	stem, _ := names.Split(name)
	stem = strings.ToLower(stem)
	for _, word := range madeWords {
		stem = strings.TrimSuffix(stem, word)
	}
	return names.Loose(stem)
}

// plays is what a kind can be made of: sound of sound, all that is seen of one another.
func plays(k facts.Kind) string {
	switch k {
	case facts.Video, facts.Image, facts.Sequence:
		return "seen"
	}
	return string(k)
}
