package mend

import (
	"cmp"
	"context"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/names"
)

// alike is the Jaro–Winkler measure of two stems from which a name is offered.
const alike = 0.87

// Find looks for all wanted files in one go and ranks what an index offers for
// each, best first, in the order of the wanted. Names, stems, sizes and contents
// are looked up; names that are only alike are met in one pass over the index,
// by the words and ends they share. step, which may be nil, is told how many of
// the wanted files are done.
func Find(ctx context.Context, x index.Index, wanted []Wanted, rd Reading, step func(done int)) ([][]Candidate, error) {
	f := &finder{ctx: ctx, x: x, rd: rd, open: make([]search, len(wanted))}
	out := make([][]Candidate, len(wanted))
	for i := range wanted {
		if err := f.begin(&f.open[i], &wanted[i]); err != nil {
			return nil, err
		}
	}
	if err := f.findNear(); err != nil {
		return nil, err
	}
	if err := f.identify(); err != nil {
		return nil, err
	}
	frames, err := f.sequences()
	if err != nil {
		return nil, err
	}
	if err := f.all(step, f.gather); err != nil {
		return nil, err
	}
	if err := f.joint(); err != nil {
		return nil, err
	}
	if err := f.all(nil, func(s *search) error { f.finish(s); return nil }); err != nil {
		return nil, err
	}
	f.finishGroups()
	for i := range wanted {
		if out[i] = f.open[i].listed(); wanted[i].Sequence != nil {
			out[i] = frames[i]
		}
		for k := range out[i] {
			f.weigh(&out[i][k]) // only of what is offered, where size had no say
		}
	}
	return out, nil
}

// together is how many files are ranked with one question to the index.
const together = 64

// all does something for every wanted file: side by side for those that were never
// seen, which ask the disk for sizes and headers alone, and one after the other for
// the rest, which read and remember contents.
func (f *finder) all(step func(done int), do func(*search) error) error {
	var (
		todo   = make(chan []int)
		mu     sync.Mutex
		done   int
		failed error
		hands  sync.WaitGroup
		unseen []int
		seen   []int
	)
	some := func(which []int) {
		err := f.entries(which)
		for _, i := range which {
			if err == nil {
				err = do(&f.open[i])
			}
			mu.Lock()
			if done++; err != nil && failed == nil {
				failed = err
			}
			if step != nil {
				step(done)
			}
			mu.Unlock()
		}
	}
	for i := range f.open {
		switch w := f.open[i].w; {
		case w.Sequence != nil:
		case w.Last == nil && (w.Told == nil || w.Told.Digest == ""):
			unseen = append(unseen, i)
		default:
			seen = append(seen, i)
		}
	}
	for range runtime.GOMAXPROCS(0) {
		hands.Go(func() {
			for which := range todo {
				some(which)
			}
		})
	}
	for which := range slices.Chunk(unseen, together) {
		if f.ctx.Err() == nil {
			todo <- which
		}
	}
	close(todo)
	hands.Wait()
	for which := range slices.Chunk(seen, together) {
		if failed == nil && f.ctx.Err() == nil {
			some(which)
		}
	}
	return cmp.Or(failed, f.ctx.Err())
}

type finder struct {
	ctx    context.Context
	x      index.Index
	rd     Reading
	open   []search
	crowds map[string]*crowd
	byHand bool // a person chose: names need not be alike

	opened atomic.Int64 // headers that were read

	mu       sync.Mutex
	standing map[string]bool // of folders that were asked for
}

// search is one wanted file on its way.
type search struct {
	w       *Wanted
	base    string
	spelled // as it is expected
	dir     string
	beside  string // the folder of the document that misses it
	stands  bool   // the folder that it is missing from holds files
	found   []*Candidate
	known   map[string]*Candidate // by path, once there are many
	exact   int
	near    []hit // files whose names are alike, by their numbers in the index
	least   int64 // what the least alike of them comes to, when there is no more room
}

// hit is a file that was met by its name alone.
type hit struct {
	id int64
	ev nearness
}

// nearness is the evidence a name alone can give.
type nearness struct {
	code Code
	text string
	n    int64
}

// fewFound is how many candidates are looked through one by one.
const fewFound = 48

func (s *search) has(path string) *Candidate {
	if s.known != nil {
		return s.known[path]
	}
	for _, c := range s.found {
		if c.Path == path {
			return c
		}
	}
	return nil
}

// offer takes a file on, unless it is known already or is where the wanted one
// should be.
func (s *search) offer(e index.Entry, ev Evidence) {
	if e.Path == s.w.Expected || s.has(e.Path) != nil {
		return
	}
	c := &Candidate{Path: e.Path, Certainty: Possible, Size: e.Size, Files: 1}
	c.add(ev)
	s.found = append(s.found, c)
	switch {
	case s.known != nil:
		s.known[e.Path] = c
	case len(s.found) > fewFound:
		s.known = make(map[string]*Candidate, 2*fewFound)
		for _, c := range s.found {
			s.known[c.Path] = c
		}
	}
}

// room is how many files are kept for a name that is alike: where nothing was
// seen of the wanted one, nothing but the name will part them.
func (s *search) room() int {
	if s.w.Last == nil {
		return 2 * maxOffered
	}
	return 4 * maxOffered
}

// meet keeps a file that was met by its name, in the place of the least alike one
// where there is no more room.
func (s *search) meet(id int64, ev Evidence) {
	if ev.Code != NameAlike || len(s.near) < s.room() {
		s.near = append(s.near, hit{id, nearness{ev.Code, ev.Text, ev.N}})
		return
	}
	worst := -1
	for i := range s.near {
		if x := &s.near[i]; x.ev.code == NameAlike && (worst < 0 || x.ev.n < s.near[worst].ev.n) {
			worst = i
		}
	}
	if worst < 0 {
		return
	}
	if s.least = s.near[worst].ev.n; ev.N > s.least {
		s.near[worst] = hit{id, nearness{ev.Code, ev.Text, ev.N}}
	}
}

// fits tells files that could stand for the wanted one by their kind.
func (s *search) fits(name, ext string) bool {
	return facts.KindOfName(name) == s.w.Kind && (s.w.Kind != facts.Other || strings.EqualFold(ext, s.ext))
}

// begin looks up names, stems and contents.
func (f *finder) begin(s *search, w *Wanted) error {
	s.w = w
	if w.Sequence != nil {
		return nil
	}
	s.base, s.dir, s.beside = filepath.Base(w.Expected), filepath.Dir(w.Expected), filepath.Dir(w.Document)
	s.spelled = spell(s.base)
	stem, _ := names.Split(s.base)
	named, err := f.crowd("name "+s.base, func() ([]index.Entry, error) { return f.x.Named(s.base) })
	if err != nil {
		return err
	}
	s.exact = named.called(s.base, w.Expected)
	for _, e := range named.nearest(s.dir, func(string) bool { return true }) {
		if filepath.Base(e.Path) == s.base {
			s.offer(e, Evidence{Code: Name})
		} else {
			s.offer(e, Evidence{Code: NameLoose})
		}
	}
	if s.stem == "" {
		return nil
	}
	stemmed, err := f.crowd("stem "+stem, func() ([]index.Entry, error) { return f.x.Stemmed(stem) })
	if err != nil {
		return err
	}
	for _, e := range stemmed.nearest(s.dir, func(name string) bool {
		_, ext := names.Split(name)
		return s.fits(name, ext) && name != s.base
	}) {
		if _, ext := names.Split(filepath.Base(e.Path)); strings.EqualFold(ext, s.ext) {
			s.offer(e, Evidence{Code: NameParted})
		} else {
			s.offer(e, Evidence{Code: NameExt, Text: strings.ToLower(ext)})
		}
	}
	return nil
}

// gather reads contents where they tell something, and holds what is offered
// against what was last seen and what the documents tell.
func (f *finder) gather(s *search) error {
	if err := f.byContent(s); err != nil {
		return err
	}
	s.prune()
	s.stands = f.holdsFiles(s.dir)
	for _, c := range s.found {
		if s.w.Last != nil || s.w.Told != nil && s.w.Told.Size > 0 {
			f.weigh(c)
		}
		s.named(c)
		s.placed(c)
		if s.exact == 1 && c.HasCode(Name) {
			c.add(Evidence{Code: OnlyOne})
		}
		f.rd.compare(c, s.w, c.proved())
	}
	s.neighbours()
	return nil
}

// byContent looks for the bytes that were last seen, or whose digest a document
// tells.
func (f *finder) byContent(s *search) error {
	if last := s.w.Last; last != nil && last.SHA256 != "" && last.Size > 0 {
		sized, err := f.x.Sized(last.Size)
		if err != nil {
			return err
		}
		for _, e := range sized {
			sum, err := f.rd.Hash(f.ctx, e.Path)
			if f.ctx.Err() != nil {
				return f.ctx.Err()
			}
			if err != nil {
				continue // cannot be read now; its name may still speak for it
			}
			if sum != last.SHA256 {
				if c := s.has(e.Path); c != nil && last.Lent {
					c.disputed = true
				} else if c != nil {
					c.against(Evidence{Code: OtherContent})
				}
				continue
			}
			s.offer(e, Evidence{Code: OtherName})
			if c := s.has(e.Path); c != nil {
				if last.Lent {
					c.first(Evidence{Code: LentContent})
				} else {
					c.first(Evidence{Code: Content})
				}
			}
		}
	}
	told := s.w.Told
	if told == nil || told.Digest == "" {
		return nil
	}
	if told.Size > 0 {
		sized, err := f.x.Sized(told.Size)
		if err != nil {
			return err
		}
		for _, e := range sized[:min(len(sized), maxTold)] {
			s.offer(e, Evidence{Code: OtherName})
		}
	}
	for _, c := range s.found[:min(len(s.found), maxTold)] {
		if told.Size > 0 && c.Size >= 0 && c.Size != told.Size || c.HasCode(Content) {
			continue
		}
		sum, err := f.rd.digest(f.ctx, c.Path, told.By)
		if f.ctx.Err() != nil {
			return f.ctx.Err()
		}
		switch {
		case err != nil:
		case sum == told.Digest:
			c.first(Evidence{Code: ToldContent, Text: string(told.By)})
		default:
			c.against(Evidence{Code: OtherToldContent, Text: string(told.By)})
		}
	}
	return nil
}

// maxTold is how many files are read to find the one whose digest a document tells.
const maxTold = 64

// looked is how many of a wanted file's candidates are opened: of thousands nobody
// looks at every one, and whoever shows the rest has them examined then.
const looked = 3

// worthALook is how good a candidate must be, as a share of the best one's score, to be
// opened at once.
const worthALook = 0.1

// finish opens what would be taken first.
func (f *finder) finish(s *search) {
	f.score(s)
	if f.copies(s) {
		f.score(s)
	}
	for range 2 * looked { // another one may be first then
		i := slices.IndexFunc(s.found[:min(looked, len(s.found))], func(c *Candidate) bool {
			return !c.examined && (!c.proved() || c.HasCode(Content) && (s.w.Told != nil || len(s.w.Ranges) > 0)) && c.Score >= worthALook*s.found[0].Score
		})
		if i < 0 {
			break
		}
		f.header(s.found[i], s)
		f.score(s)
	}
	// Where names do not decide and a document tells something, the headers of the others may.
	if len(s.found) == 0 || s.found[0].Score >= likelyFrom || s.w.Told == nil && len(s.w.Ranges) == 0 {
		return
	}
	for _, c := range slices.Clone(s.found) {
		if !c.examined && c.Score >= faint && f.opened.Load() < maxOpened {
			f.header(c, s)
		}
	}
	f.score(s)
}

// header reads a candidate's header.
func (f *finder) header(c *Candidate, s *search) {
	f.opened.Add(1)
	f.rd.Examine(c, s.w)
	c.examined = true
}

// faint is the score from which a candidate is opened where names do not decide; maxOpened
// is how many files are opened for one search before only the first three of each are.
const (
	faint     = 0.01
	maxOpened = 20_000
)

// weigh fills in a size the index does not know. Of a file that is gone in
// between it stays unknown; whoever applies it will be told.
func (f *finder) weigh(c *Candidate) {
	if c.Size != index.Unknown {
		return
	}
	info, err := f.rd.Reach.Lstat(c.Path)
	if err == nil && !info.Mode.IsRegular() {
		info, err = f.rd.Reach.Stat(c.Path)
	}
	if err == nil {
		c.Size = info.Size
	}
}

// prune keeps the best of a crowd before files are opened for them.
func (s *search) prune() {
	const most = 4 * maxOffered
	if len(s.found) <= most {
		return
	}
	keep := s.found[:0]
	var rest []*Candidate
	for _, c := range s.found {
		if c.proved() || c.HasCode(Name) && len(keep) < most {
			keep = append(keep, c)
		} else {
			rest = append(rest, c)
		}
	}
	s.found = append(keep, rest[:min(len(rest), max(0, most-len(keep)))]...)
}
