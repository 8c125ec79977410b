package origin

import (
	"io/fs"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/text/names"
)

// Sibling is a state of a document, of those that lie in one folder.
type Sibling struct {
	Path     string
	Size     int64
	Modified time.Time
	Newest   bool // of all of them
	// Bare tells that its name differs from the document's by plain figures alone:
	// it may as well be the next reel as the next state.
	Bare bool
	Says string // what its name adds to the common part: "cut-03" adds "03"
}

// states are the words and figures by which people tell one state of a document
// from the next; what is left without them is the same for all states. Common
// practice, no source.
var states = regexp.MustCompile(`(?i)(^|[\s._()\[\]-]+)(v(er(sion)?)?[\s._-]?\d+[a-z]?|rev[\s._-]?\d+|r\d+|\d{4}[-_.]?\d{2}[-_.]?\d{2}([-_. ]?\d{2}[-_.:]?\d{2}([-_.:]?\d{2})?)?|\d+[a-z]?|old(er)?|new(er|est)?|latest|final|really|copy( of)?|backup|bak|autosave|recovered|draft|current|wip)($|[\s._()\[\]-])`)

// base is what the names of all states of a document have in common, folded.
func base(stem string) string {
	s := names.Fold(stem)
	for {
		cut := strings.TrimSpace(states.ReplaceAllString(s, " "))
		cut = strings.Trim(cut, " ._-()[]")
		if cut == s {
			return s
		}
		if cut == "" {
			return s // nothing but figures and words: it has no name beside them
		}
		s = cut
	}
}

// Base is what the names of all states of a file have in common, with its extension,
// folded.
func Base(file string) string {
	stem, ext := names.Split(filepath.Base(file))
	return base(stem) + strings.ToLower(ext)
}

// Siblings lists the states of a document in its folder, itself among them, the
// latest first; nil where it is the only one.
func Siblings(reach drive.Reach, document string) (list []Sibling) {
	dir := filepath.Dir(document)
	entries, err := reach.ReadDir(dir)
	if err != nil {
		return nil // what cannot be listed tells nothing
	}
	stem, ext := names.Split(filepath.Base(document))
	want := base(stem)
	for _, e := range entries {
		s, x := names.Split(e.Name())
		if !e.Type().IsRegular() || !strings.EqualFold(x, ext) || base(s) != want || edition.Is(e.Name()) {
			continue
		}
		info, err := e.Info()
		if err != nil {
			continue
		}
		sib := siblingOf(filepath.Join(dir, e.Name()), s, want, info)
		sib.Bare = !dated.MatchString(s) && bare.ReplaceAllString(names.Fold(s), "0") == bare.ReplaceAllString(names.Fold(stem), "0")
		list = append(list, sib)
	}
	if len(list) < 2 {
		return nil
	}
	slices.SortFunc(list, func(a, b Sibling) int {
		// What was written in one go, or copied, tells no order by its times.
		if d := b.Modified.Sub(a.Modified); d > together || d < -together {
			return int(d / together)
		}
		return compareNumbers(b.Path, a.Path)
	})
	list[0].Newest = true
	return list
}

// together is how near two times may be and tell nothing: copying and coarse file
// systems (FAT32 keeps two seconds) move them.
const together = 3 * time.Second

func siblingOf(path, stem, common string, info fs.FileInfo) Sibling {
	says := stem
	if len(common) <= len(stem) && strings.EqualFold(stem[:len(common)], common) {
		says = strings.Trim(stem[len(common):], " ._-()[]")
	}
	return Sibling{Path: path, Size: info.Size(), Modified: info.ModTime(), Says: says}
}

var dated = regexp.MustCompile(`\d{4}[-_.]?\d{2}[-_.]?\d{2}`)

// bare are figures that are not the number of a version.
var bare = regexp.MustCompile(`\b\d{1,3}\b`)

var number = regexp.MustCompile(`\d+`)

// compareNumbers orders names by the figures in them, then as text.
func compareNumbers(a, b string) int {
	x, y := number.FindAllString(filepath.Base(a), -1), number.FindAllString(filepath.Base(b), -1)
	for i := range min(len(x), len(y)) {
		m, err := strconv.ParseUint(x[i], 10, 64)
		n, err2 := strconv.ParseUint(y[i], 10, 64)
		if err == nil && err2 == nil && m != n {
			if m < n {
				return -1
			}
			return 1
		}
	}
	return strings.Compare(a, b)
}
