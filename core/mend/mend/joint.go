package mend

import (
	"cmp"
	"errors"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/names"
)

// Missing files of one folder share a fate: somebody moved the folder, or renamed all
// of it by one habit. Moves are looked for over all missing files at once, and what
// is offered is offered in their light.

// move is a folder whose files are in another one, by one renaming.
type move struct {
	key     moveKey
	members map[int]*Candidate // by the wanted file; from len(open) on, by what other documents miss
	of      int                // how many are missing from the folder
	own     int                // of them, those that are wanted here
}

type moveKey struct {
	from, to string
	how      Renaming
}

// levels is how far above two folders a move may have been.
const levels = 8

// leastMoved is how many files must have gone the same way to tell a move.
const leastMoved = 2

// value is how much of a folder went this way, less where it is few files.
func (m *move) value() float64 {
	n := float64(len(m.members))
	return n / float64(m.of) * (1 - 1/n)
}

// joint finds the moves, and tells every candidate of the best it belongs to.
func (f *finder) joint() error {
	moves := map[moveKey]*move{}
	below := map[string]int{} // wanted files by the folders they are expected below
	for i := range f.open {
		s := &f.open[i]
		if s.w.Sequence != nil {
			continue
		}
		count(below, s.dir)
		for _, c := range s.found {
			vote(moves, i, s.base, s.dir, c)
		}
	}
	own := maps.Clone(below)
	if err := f.others(moves, below); err != nil {
		return err
	}
	if err := f.follow(moves); err != nil {
		return err
	}
	best := map[*Candidate]*move{}
	from := map[string][]*move{} // those that hold a third of a folder
	for _, m := range moves {
		if m.of, m.own = below[m.key.from], own[m.key.from]; len(m.members) < leastMoved {
			continue
		}
		if 3*len(m.members) >= m.of {
			from[m.key.from] = append(from[m.key.from], m)
		}
		for i, c := range m.members {
			if i >= len(f.open) {
				continue
			}
			if was := best[c]; was == nil || m.better(was) {
				best[c] = m
			}
		}
	}
	for c, m := range best {
		c.move = m
		c.add(Evidence{Code: InOneMove, N: int64(len(m.members)), Of: int64(m.of)})
		if !slices.ContainsFunc(from[m.key.from], m.rivals) {
			c.add(Evidence{Code: OnlyMove, N: int64(len(m.members)), Of: int64(m.of)})
			if c.parallel && len(m.members) > leastMoved && 3*len(m.members) >= 2*m.of {
				c.Against = slices.DeleteFunc(c.Against, func(e Evidence) bool { return e.Code == OtherSet })
			}
		}
	}
	return nil
}

// rivals tells moves of one folder to two places.
func (m *move) rivals(o *move) bool {
	return o.key.to != m.key.to && !drive.Within(o.key.to, m.key.to) && !drive.Within(m.key.to, o.key.to)
}

// better orders moves: what explains more of its folder, then more files, then the
// nearer folders.
func (m *move) better(o *move) bool {
	return cmp.Or(cmp.Compare(m.value(), o.value()), cmp.Compare(len(m.members), len(o.members)), cmp.Compare(len(m.key.from), len(o.key.from)), cmp.Compare(o.key.to, m.key.to), cmp.Compare(o.key.how.From+o.key.how.To, m.key.how.From+m.key.how.To)) > 0
}

// vote counts a candidate for the moves of its folder and of those above it.
func vote(moves map[moveKey]*move, i int, base, dir string, c *Candidate) {
	how, ok := renamingOf(base, filepath.Base(c.Path))
	if !ok {
		return
	}
	from, to := dir, filepath.Dir(c.Path)
	for range levels {
		if from == to && how.Same() {
			return
		}
		k := moveKey{from, to, how}
		m := moves[k]
		if m == nil {
			m = &move{key: k, members: map[int]*Candidate{}}
			moves[k] = m
		}
		if was := m.members[i]; was == nil || c.Path < was.Path {
			m.members[i] = c
		}
		if filepath.Base(from) != filepath.Base(to) || from == filepath.Dir(from) || to == filepath.Dir(to) {
			return
		}
		from, to = filepath.Dir(from), filepath.Dir(to)
	}
}

// count counts a file for its folder and those above it.
func count(below map[string]int, dir string) {
	for n := 0; n < levels; n++ {
		below[dir]++
		if dir == filepath.Dir(dir) {
			return
		}
		dir = filepath.Dir(dir)
	}
}

// maxBeside bounds how many files of other documents are asked for, maxDirs from how many
// folders.
const (
	maxBeside = 5000
	maxDirs   = 400
)

// others lets the files vote that other known documents miss from the same folders, and from
// those beside them: by their very names alone.
func (f *finder) others(moves map[moveKey]*move, below map[string]int) error {
	if f.rd.Others == nil {
		return nil
	}
	met := map[string]bool{}
	dirs := map[string]bool{}
	for i := range f.open {
		if s := &f.open[i]; s.w.Sequence == nil {
			met[s.w.Expected] = true
			dirs[filepath.Dir(s.dir)] = true
		}
	}
	next, asked := len(f.open), 0
	for _, dir := range slices.Sorted(maps.Keys(dirs))[:min(len(dirs), maxDirs)] {
		for _, p := range f.rd.Others(dir) {
			if met[p] || asked >= maxBeside {
				continue
			}
			met[p] = true
			asked++
			if _, err := f.rd.Reach.Lstat(p); !errors.Is(err, fs.ErrNotExist) {
				continue
			}
			base, at := filepath.Base(p), filepath.Dir(p)
			named, err := f.x.Named(base)
			if err != nil {
				return err
			}
			there := false
			for _, e := range named[:min(len(named), maxOffered)] {
				if filepath.Base(e.Path) == base {
					there = true
					vote(moves, next, base, at, &Candidate{Path: e.Path})
				}
			}
			if !there {
				continue // gone, or only a way in which a name might have been read
			}
			count(below, at)
			next++
		}
	}
	return f.ctx.Err()
}

// follow asks for the files of a folder that a renaming would have brought where the
// others are, and whose names alone did not tell.
func (f *finder) follow(moves map[moveKey]*move) error {
	in := map[string][]int{}
	for i := range f.open {
		if f.open[i].w.Sequence == nil {
			in[f.open[i].dir] = append(in[f.open[i].dir], i)
		}
	}
	keys := make([]moveKey, 0, len(moves))
	for k, m := range moves {
		if !k.how.Same() && len(m.members) > leastMoved && len(m.members) < len(in[k.from]) {
			keys = append(keys, k)
		}
	}
	slices.SortFunc(keys, func(a, b moveKey) int {
		return cmp.Or(strings.Compare(a.from, b.from), strings.Compare(a.to, b.to), strings.Compare(a.how.From, b.how.From), strings.Compare(a.how.To, b.how.To))
	})
	for _, k := range keys {
		for _, i := range in[k.from] {
			s := &f.open[i]
			name, ok := k.how.Apply(s.base)
			if moves[k].members[i] != nil || !ok {
				continue
			}
			named, err := f.x.Named(name)
			if err != nil {
				return err
			}
			for _, e := range named {
				if filepath.Dir(e.Path) != k.to || filepath.Base(e.Path) != name {
					continue
				}
				s.offer(e, Evidence{Code: OtherName})
				if c := s.has(e.Path); c != nil {
					vote(moves, i, s.base, s.dir, c)
				}
			}
		}
	}
	return f.ctx.Err()
}

// finishGroups gives every file to the one missing it fits best, and says how sure the
// best candidates are in the light of their moves.
func (f *finder) finishGroups() {
	f.assign()
	tops := map[*move][]int{} // moves by what they explain best
	for i := range f.open {
		if s := &f.open[i]; len(s.found) > 0 && s.found[0].move != nil && len(s.w.Suspect) == 0 {
			tops[s.found[0].move] = append(tops[s.found[0].move], i)
		}
	}
	for m, who := range tops {
		f.certify(m, who)
	}
	f.taken()
	for i := range f.open {
		s := &f.open[i]
		if len(s.found) == 0 {
			continue
		}
		slices.SortFunc(s.found, byConfidence)
	}
}

// taken tells of every file that is as good as found for one missing file that it is
// not for the others, whatever their names.
func (f *finder) taken() {
	owner := map[string]*search{}
	for i := range f.open {
		if s := &f.open[i]; len(s.found) > 0 && (s.found[0].Certainty == Certain || s.found[0].Score >= likelyFrom && len(s.found[0].Against) == 0) {
			owner[s.found[0].Path] = s
		}
	}
	for i := range f.open {
		s := &f.open[i]
		again := false
		for _, c := range s.found[min(1, len(s.found)):] {
			if o := owner[c.Path]; o != nil && o != s && !c.proved() && !c.Warns(FitsAnother) {
				c.against(Evidence{Code: FitsAnother, Text: filepath.Base(o.w.Expected)})
				again = true
			}
		}
		if again {
			f.score(s)
		}
	}
}

// leastCertain is how many files must have moved together, each of them well, to be
// certain without having been seen before.
const leastCertain = 5

// certify makes the files of a move certain where facts beyond their names agree that it is
// one: a document tells how long or how large five of them are at the least, each
// otherwise, and they are. All that is wanted from the folder is there under its own name;
// nothing speaks against any of them; no other file has the name of any; the folders'
// whole paths are not those of two sets; the first is gone; the second is nobody else's,
// and nobody knew the files there before.
func (f *finder) certify(m *move, who []int) {
	if !m.key.how.Same() || len(who) < leastCertain || len(who) != m.own || len(m.members) != m.of || !moved(m.key.from, m.key.to) {
		return
	}
	told := map[int64]bool{}
	for _, i := range who {
		s := &f.open[i]
		c := s.found[0]
		if len(c.Against) > 0 || c.disputed || !c.HasCode(Name) || s.w.Guessed || f.rd.Claimed != nil && f.rd.Claimed(c.Path) {
			return
		}
		for _, other := range s.found[1:] {
			if (other.HasCode(Name) || other.HasCode(NameLoose)) && len(other.Against) == 0 {
				return
			}
		}
		if c.HasCode(ToldLength) || c.HasCode(ToldSize) {
			told[int64(1000*s.w.Told.Seconds)+s.w.Told.Size] = true
		}
	}
	if len(told) < leastCertain || f.readHoldsFiles(m.key.from) || f.copied(who) || f.foreign(m) {
		return
	}
	for _, i := range who {
		f.open[i].found[0].Certainty = Certain
	}
}

// holdsFiles is readHoldsFiles, asked of the disk once.
func (f *finder) holdsFiles(dir string) bool {
	f.mu.Lock()
	v, known := f.standing[dir]
	f.mu.Unlock()
	if known {
		return v
	}
	v = f.readHoldsFiles(dir)
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.standing == nil {
		f.standing = map[string]bool{}
	}
	f.standing[dir] = v
	return v
}

// readHoldsFiles tells that a folder holds files still: what was taken from it was chosen, and the
// folder did not move.
func (f *finder) readHoldsFiles(dir string) bool {
	entries, err := f.rd.Reach.ReadDir(dir)
	return err == nil && slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return !e.IsDir() }) || err != nil && !errors.Is(err, fs.ErrNotExist)
}

// moved tells a folder that went elsewhere, or was given another name, from one that
// may be a variant of it, the next one of a series, or a copy that was put by.
func moved(from, to string) bool {
	was, is := words(filepath.Base(from)), words(filepath.Base(to))
	if filepath.Dir(from) == filepath.Dir(to) && (meet(was, is) || meet(is, made) || meet(was, made)) || anotherSet(from, to) {
		return false
	}
	return !keeps(from, to)
}

// keeps tells that a folder is called as those in which copies are kept, and the first one
// is not.
func keeps(from, to string) bool {
	for dir := to; dir != filepath.Dir(dir); dir = filepath.Dir(dir) {
		if meet(words(filepath.Base(dir)), putBy) && !strings.Contains(from, filepath.Base(dir)) {
			return true
		}
	}
	return false
}

func words(name string) []string { return strings.Fields(names.Loose(name)) }

func meet(a, b []string) bool {
	return slices.ContainsFunc(a, func(w string) bool { return slices.Contains(b, w) })
}

// made are words in the names of folders that hold what was made of other files
// (common practice).
var made = []string{"raw", "clean", "cleaned", "processed", "denoised", "mix", "mixed", "mixdown", "mixdowns", "edit", "edited", "edits", "final", "selected", "master", "masters", "render", "renders", "export", "exports", "graded", "proxy", "proxies", "small", "large", "low", "high", "draft", "drafts", "selects"}

// putBy are words in the names of folders that hold copies (common practice).
var putBy = []string{"backup", "backups", "bak", "copy", "copies", "old", "older", "previous", "prev", "versions", "version", "snapshot", "snapshots", "trash", "alt", "alternative", "alternatives"}

// copied tells that the folder a file was offered from holds the name of a file that
// still stands where it should: it is a copy of the folder, and may be an old one.
func (f *finder) copied(who []int) bool {
	at := map[string]string{}
	for _, i := range who {
		at[filepath.Dir(f.open[i].found[0].Path)] = f.open[i].dir
	}
	for now, was := range at {
		if info, err := f.rd.Reach.Stat(was); err != nil || !info.Mode.IsDir() {
			continue
		}
		entries, err := f.rd.Reach.ReadDir(now)
		if err != nil {
			return true
		}
		for _, e := range entries {
			if info, err := f.rd.Reach.Lstat(filepath.Join(was, e.Name())); err == nil && info.Mode.IsRegular() {
				return true
			}
		}
	}
	return false
}

// foreign tells that a folder belongs to another piece of work: a document stands
// beside the files, or in a folder above them that is not above the first place.
func (f *finder) foreign(m *move) bool {
	for dir, n := m.key.to, 0; n < levels && !drive.Within(dir, m.key.from) && dir != filepath.Dir(dir); dir, n = filepath.Dir(dir), n+1 {
		entries, err := f.rd.Reach.ReadDir(dir)
		if err != nil {
			return true
		}
		for _, e := range entries {
			if facts.KindOfName(e.Name()) == facts.Document && !e.IsDir() {
				return true
			}
		}
	}
	return false
}

// Group is a folder whose missing files are offered together: what one act mends.
type Group struct {
	From, To  string
	How       Renaming
	Of        int // files that are missing from the folder
	Members   []Member
	Certainty Certainty // of the least sure of them
	Doubts    int       // members against which something speaks
}

// Member is one file of a group.
type Member struct {
	Wanted   int // among those that were looked for
	Expected string
	Best     Candidate
}

// Take counts a member's certainty and doubts for the whole group. What is doubtful is
// asked for by itself, and leaves the rest as sure as it is.
func (g *Group) Take(m *Member) {
	switch {
	case m.Best.Doubtful():
		if g.Doubts++; g.Certainty == Certain {
			g.Certainty = Likely
		}
	case m.Best.Certainty.rank() > g.Certainty.rank():
		g.Certainty = m.Best.Certainty
	}
}

// Files is how many the group mends.
func (g *Group) Files() int { return len(g.Members) }

// Groups are what was found together: each missing file in one group at the most, by
// its best candidate; those of most files first.
func Groups(wanted []Wanted, offered [][]Candidate) []Group {
	by := map[*move]*Group{}
	for i := range wanted {
		if len(offered[i]) == 0 || offered[i][0].move == nil {
			continue
		}
		best := &offered[i][0]
		g := by[best.move]
		if g == nil {
			g = &Group{From: best.move.key.from, To: best.move.key.to, How: best.move.key.how, Of: best.move.of, Certainty: Certain}
			by[best.move] = g
		}
		m := Member{i, wanted[i].Expected, *best}
		g.Members = append(g.Members, m)
		g.Take(&m)
	}
	var list []Group
	for _, g := range by {
		if len(g.Members) >= leastMoved {
			list = append(list, *g)
		}
	}
	slices.SortFunc(list, func(a, b Group) int {
		return cmp.Or(cmp.Compare(len(b.Members), len(a.Members)), strings.Compare(a.From, b.From), strings.Compare(a.To, b.To), strings.Compare(string(a.How.Habit), string(b.How.Habit)))
	})
	return list
}
