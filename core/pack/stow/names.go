package stow

import (
	"context"
	"fmt"
	"path"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"unicode/utf8"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/names"
	"boundcrate/core/text/problem"
)

// Layout is how files are laid out in the crate.
type Layout string

// The layouts.
const (
	ByKind     Layout = "kind"     // a folder for each kind
	AsStands   Layout = "stands"   // as the folders stand; what lies outside the project under outside/
	Flat       Layout = "flat"     // everything in one folder
	ByDocument Layout = "document" // a folder for each document that needs it
)

// Layouts are all of them.
var Layouts = []Layout{ByKind, Flat, AsStands, ByDocument}

// Renaming is why a name in the crate differs.
type Renaming string

// The reasons, in the words of the command line's contract.
const (
	AsItWas  Renaming = ""
	Clash    Renaming = "clash"
	Portably Renaming = "portable"
	Pattern  Renaming = "pattern"
	ByWish   Renaming = "wish"
	Wrapped  Renaming = "sound"    // another extension, as its sound has another type
	Apart    Renaming = "channels" // its channels lie otherwise
)

var folderOf = map[facts.Kind]string{
	facts.Audio: "audio", facts.Video: "video", facts.Image: "images", facts.Sequence: "sequences",
	facts.Geometry: "geometry", facts.Part: "parts", facts.Material: "materials", facts.Drawing: "drawings",
	facts.Document: "documents", facts.Data: "data", facts.Other: "other",
}

// FolderOf is the folder that files of a kind go into.
func FolderOf(k facts.Kind) string { return folderOf[k] }

// name applies wishes and portable names, then solves clashes: the first to
// ask keeps its name, wishes ask first.
func (p *planner) name(ctx context.Context) error {
	order := make([]int, len(p.Berths))
	var wished []int
	for i := range p.Berths {
		order[i] = i
		b := &p.Berths[i]
		given := p.isRoot(b)
		p.sound(b)
		p.thin(b)
		if (p.o.Prefix != "" || p.o.Suffix != "") && !given && !b.pinned && (b.Along == "" || b.Along == sift.Adopted) {
			p.applyAffixes(b)
		}
		w := p.byHand(b)
		if w.Folder != nil || w.Name != nil {
			b.Wished = true
			wished = append(wished, i)
			if w.Folder != nil {
				b.Folder = cleanFolder(*w.Folder)
			}
			if w.Name != nil && !b.sequence {
				b.Name = withExtension(*w.Name, b.Name)
				b.Renamed = ByWish
			}
		}
		if !p.o.AnyNames && !b.pinned {
			p.portable(b)
		}
	}
	ranks := make([]int8, len(p.Berths))
	for i := range ranks {
		ranks[i] = p.rank(i)
	}
	sort.SliceStable(order, func(x, y int) bool {
		a, b := order[x], order[y]
		if r, s := ranks[a], ranks[b]; r != s || p.o.First == nil {
			return r < s
		}
		first, had := p.o.First[p.Berths[a].Key]
		second, too := p.o.First[p.Berths[b].Key]
		if had != too {
			return had
		}
		return had && first < second
	})
	t := newTaken(len(p.Berths))
	for i := range p.Berths {
		if p.Berths[i].sequence {
			t.names = map[int32][]named{}
			break
		}
	}
	for n, i := range order {
		if n%256 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		b := &p.Berths[i]
		if b.Why == Absence(sift.IsTwice) {
			continue
		}
		if !p.settle(b, t) {
			b.Absent, b.Why = true, Missing
			p.Problems = append(p.Problems, problem.Problem{Kind: problem.NoName, Path: filepath.Join(b.From, b.Was)})
		}
		if b.Clashed {
			p.Clashes++
		}
	}
	for _, i := range wished {
		p.Berths[i].Typed = p.altered(&p.Berths[i])
	}
	p.apart(t)
	p.tooLong()
	for i := 0; len(p.Selection.As) > 0 && i < len(p.Berths); i++ {
		if b := &p.Berths[i]; b.Why == Absence(sift.IsTwice) {
			b.Folder, b.Name = p.Berths[b.Twin].Folder, p.Berths[b.Twin].Name
		}
	}
	return nil
}

// byHand is what a person said of a berth.
func (p *planner) byHand(b *Berth) decide.ByHand {
	if b.File == graph.None {
		return p.o.Hand[b.Source]
	}
	return p.o.ByHand[b.File]
}

// altered is the name, else the folder, that a person typed for a berth and that is not what it
// has in the crate; "" where all is as typed.
func (p *planner) altered(b *Berth) string {
	w := p.byHand(b)
	switch {
	case w.Name != nil && !b.sequence && b.Name != *w.Name && b.Name != withExtension(*w.Name, b.Name):
		return *w.Name
	case w.Folder != nil && b.Folder != strings.Trim(*w.Folder, "/"):
		return *w.Folder
	}
	return ""
}

// maxPath is how many characters of a path below a crate's folder are safe: Windows takes
// 260 of a whole one without being told otherwise, and the crate lies somewhere.
const maxPath = 240

func (p *planner) tooLong() {
	if p.o.AnyNames {
		return
	}
	for i := range p.Berths {
		b := &p.Berths[i]
		if b.Absent || len(b.Folder)+len(b.Name) <= maxPath-len("data//") {
			continue
		}
		if n := utf8.RuneCountInString("data/" + b.To()); n > maxPath {
			p.Problems = append(p.Problems, problem.Problem{Kind: problem.LongPath, Path: filepath.Join(b.From, b.Was), Args: []string{strconv.Itoa(n)}})
		}
	}
}

// rank puts documents first, then wishes, then what is copied.
func (p *planner) rank(i int) int8 {
	b := &p.Berths[i]
	switch {
	case p.isRoot(b):
		return 0
	case b.Wished:
		return 1
	case b.pinned:
		return 2
	case !b.Absent && b.File != graph.None:
		return 3
	case b.Absent:
		return 4
	}
	return 5 // what goes along makes room for what is named
}

func (p *planner) portable(b *Berth) {
	dir, known := p.portably[b.Folder]
	if !known {
		dir = portableDir(b.Folder)
		p.portably[b.Folder] = dir
	}
	b.Folder = dir
	was := b.Name
	if b.sequence {
		head, tail := Portable(b.Pattern.Head+"0"), Portable("0"+b.Pattern.Tail)
		b.Pattern.Head, b.Pattern.Tail = strings.TrimSuffix(head, "0"), strings.TrimPrefix(tail, "0")
		b.Name = b.Pattern.Shown()
	} else {
		b.Name = Portable(b.Name)
	}
	if b.Name != was && b.Renamed == AsItWas {
		b.Renamed = Portably
	}
}

// maxTries bounds how often a free name is looked for: more of one name than
// this, each pushed aside by another, is no crate.
const maxTries = 100_000

// settle gives a berth a place nothing stands at. A name that is there already
// gets a number; so does a folder at whose place a file stands.
func (p *planner) settle(b *Berth, t taken) bool {
	for n := 2; ; n++ {
		block := t.blocked(b.Folder)
		if block == "" {
			break
		}
		if n > maxTries {
			return false
		}
		b.Folder = fmt.Sprintf("%s-%d", block, n) + strings.TrimPrefix(b.Folder, block)
		b.Clashed = true
		if b.Renamed == AsItWas {
			b.Renamed = Clash
		}
	}
	was, folder := b.Name, b.Folder
	// Thousands of files may share one name: each begins where the last ended.
	key := t.place(folder, was)
	at := key
	alone := func() bool {
		if b.sequence && len(b.Frames) > 0 {
			return t.free(b.places())
		}
		return t.at[at] == 0
	}
	free := func() bool { return alone() && !t.isMixed(b) }
	for n := max(2, p.next[key]); !free() || t.blocked(b.Folder) != ""; n++ {
		if n > maxTries {
			return false
		}
		if b.Clashed = true; b.Renamed != Apart { // it is told of the file that it is made of
			b.Renamed = Clash
		}
		p.next[key] = n + 1
		if b.sequence || was == "" {
			if b.Folder = fmt.Sprintf("%s-%d", folder, n); folder == "" {
				b.Folder = fmt.Sprintf("frames-%d", n)
			}
			at = t.place(b.Folder, b.Name)
			continue
		}
		stem, ext := names.Split(was)
		end := "-" + strconv.Itoa(n) + ext
		for len(stem)+len(end) > maxName {
			stem = strings.ToValidUTF8(stem[:len(stem)-1], "")
		}
		b.Name = stem + end
		at = t.place(b.Folder, b.Name)
	}
	if b.sequence && len(b.Frames) > 0 {
		for _, n := range b.places() {
			t.take(b.Folder, t.placeOf(n))
		}
	} else {
		t.take(b.Folder, at)
	}
	if b.sequence {
		b.Pattern.Dir = b.Folder
	}
	t.stand(b)
	return true
}

func cleanFolder(s string) string {
	s = path.Clean("/" + strings.ReplaceAll(strings.TrimSpace(s), `\`, "/"))
	return strings.Trim(s, "/")
}

// withExtension gives a wished name the extension the file came with.
func withExtension(name, was string) string {
	name = strings.NewReplacer("/", "_", `\`, "_").Replace(strings.TrimSpace(name))
	ext := path.Ext(was)
	if name == "" || name == "." || name == ".." {
		return was
	}
	if !strings.EqualFold(path.Ext(name), ext) {
		name += ext
	}
	return name
}
