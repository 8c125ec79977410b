package mend

import (
	"cmp"
	"context"
	"math"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/zeebo/xxh3"

	"boundcrate/core/facts"
	"boundcrate/core/index"
	"boundcrate/core/names"
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
	if err := f.near(); err != nil {
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
	f.conclude()
	for i := range wanted {
		if out[i] = listed(f.open[i].found); wanted[i].Sequence != nil {
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
}

// search is one wanted file on its way.
type search struct {
	w         *Wanted
	base      string
	stem, ext string // the stem loosely
	dir       string
	shape     string // the stem with a mark for each number
	plain     string // the stem without the zeros before numbers
	found     []*Candidate
	known     map[string]*Candidate // by path, once there are many
	exact     int
	near      []hit // files whose names are alike, by their numbers in the index
	least     int64 // what the least alike of them comes to, when there is no more room
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
		return 2 * mostOffered
	}
	return 4 * mostOffered
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
	s.base, s.dir = filepath.Base(w.Expected), filepath.Dir(w.Expected)
	stem, ext := names.Split(s.base)
	s.stem, s.ext = names.Loose(stem), ext
	s.shape, s.plain = numbers(s.stem, "#", false), unpadded(s.stem)
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
	for _, c := range s.found {
		if s.w.Last != nil || s.w.Told != nil && s.w.Told.Size > 0 {
			f.weigh(c)
		}
		if dir := filepath.Dir(c.Path); dir == s.dir {
			c.add(Evidence{Code: SameFolder})
		} else if n := tailsShared(dir, s.dir); n > 0 {
			c.add(Evidence{Code: Parent, N: int64(n)})
		}
		if otherNumber(s.base, filepath.Base(c.Path)) {
			c.against(Evidence{Code: OtherNumber})
		}
		switch {
		case c.proved():
			c.Certainty = Likely
		case s.exact == 1 && c.Says(Name):
			if c.add(Evidence{Code: OnlyOne}); s.w.Last == nil {
				c.Certainty = Likely
			}
		}
		if c.putBy() {
			c.against(Evidence{Code: PutBy})
		}
		f.rd.compare(c, s.w, c.proved())
	}
	return nil
}

// putBy tells that a name has a word more than the wanted one which is said of copies.
func (c *Candidate) putBy() bool {
	for _, e := range c.For {
		if e.Code == NameLonger && meet(strings.Fields(e.Text), putBy) {
			return true
		}
	}
	return false
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
				if c := s.has(e.Path); c != nil {
					c.against(Evidence{Code: OtherContent})
				}
				continue
			}
			s.offer(e, Evidence{Code: OtherName})
			if c := s.has(e.Path); c != nil {
				c.first(Evidence{Code: Content})
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
		for _, e := range sized[:min(len(sized), mostTold)] {
			s.offer(e, Evidence{Code: OtherName})
		}
	}
	for _, c := range s.found[:min(len(s.found), mostTold)] {
		if told.Size > 0 && c.Size >= 0 && c.Size != told.Size || c.Says(Content) {
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

// mostTold is how many files are read to find the one whose digest a document tells.
const mostTold = 64

// looked is how many of a wanted file's candidates are opened: of thousands nobody
// looks at every one, and whoever shows the rest has them examined then.
const looked = 3

// worthALook is how good a candidate must be, as a share of the best one's score, to be
// opened at once.
const worthALook = 0.1

// finish opens what would be taken first.
func (f *finder) finish(s *search) {
	f.score(s)
	for range 2 * looked { // another one may be first then
		i := slices.IndexFunc(s.found[:min(looked, len(s.found))], func(c *Candidate) bool {
			return !c.examined && !c.proved() && c.Score >= worthALook*s.found[0].Score
		})
		if i < 0 {
			return
		}
		f.rd.Examine(s.found[i], s.w)
		s.found[i].examined = true
		f.score(s)
	}
}

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
	const most = 4 * mostOffered
	if len(s.found) <= most {
		return
	}
	keep := s.found[:0]
	var rest []*Candidate
	for _, c := range s.found {
		if c.proved() || c.Says(Name) && len(keep) < most {
			keep = append(keep, c)
		} else {
			rest = append(rest, c)
		}
	}
	s.found = append(keep, rest[:min(len(rest), max(0, most-len(keep)))]...)
}

// Words and ends of names that more wanted files, or more files, share than
// this tell nothing: "take" in a folder of takes.
const (
	mostSharers = 64
	mostMet     = 2000
)

// sharers are the wanted files that have a word or an end of a name.
type sharers struct {
	who []int32
	met int
}

// met is a file with what it may share with wanted ones.
type met struct {
	id        int64
	name      string
	stem, ext string // the stem loosely
	keys      []*sharers
}

// near meets every name once and keeps those that are alike. One hand takes the
// names apart, batch by batch, while another holds them against the wanted.
func (f *finder) near() error {
	keys := f.keys()
	if len(keys) == 0 {
		return nil
	}
	ctx, stop := context.WithCancel(f.ctx)
	defer stop()
	batches := make(chan []met, 2)
	var failed error
	go func() {
		defer close(batches)
		failed = f.takeApart(ctx, keys, batches)
	}()
	asked := make([]int64, len(f.open)) // the file it was last held against, + 1
	for batch := range batches {
		for i := range batch {
			f.hold(&batch[i], asked)
		}
	}
	return failed
}

// keys are the words and ends of the wanted names.
func (f *finder) keys() map[uint64]*sharers {
	keys := map[uint64]*sharers{}
	var hashes []uint64
	for i := range f.open {
		s := &f.open[i]
		if s.w.Sequence != nil || s.stem == "" {
			continue
		}
		hashes = nearKeys(s.stem, hashes[:0])
		for _, h := range hashes {
			k := keys[h]
			if k == nil {
				k = &sharers{}
				keys[h] = k
			}
			if len(k.who) <= mostSharers && (len(k.who) == 0 || k.who[len(k.who)-1] != int32(i)) {
				k.who = append(k.who, int32(i))
			}
		}
	}
	for h, k := range keys {
		if len(k.who) > mostSharers {
			delete(keys, h)
		}
	}
	return keys
}

// takeApart sends on, in batches, the files that share something with a wanted one.
func (f *finder) takeApart(ctx context.Context, keys map[uint64]*sharers, batches chan<- []met) error {
	const size = 4096
	var hashes []uint64
	var shared []*sharers // what those of a batch share, one after another
	batch := make([]met, 0, size)
	count := 0
	send := func() error {
		select {
		case batches <- batch:
		case <-ctx.Done():
			return ctx.Err()
		}
		batch, shared = make([]met, 0, size), make([]*sharers, 0, 2*size)
		return nil
	}
	err := f.x.Each(func(id int64, name string) error {
		stem, ext := names.Split(name)
		stem = names.Loose(stem)
		hashes = nearKeys(stem, hashes[:0])
		from := len(shared)
		for _, h := range hashes {
			if k := keys[h]; k != nil {
				shared = append(shared, k)
			}
		}
		if len(shared) > from {
			batch = append(batch, met{id, name, stem, ext, shared[from:len(shared):len(shared)]})
		}
		if len(batch) == size {
			return send()
		}
		if count++; count%size == 0 {
			return ctx.Err()
		}
		return nil
	})
	if err != nil {
		return err
	}
	return send()
}

// hold holds a file against the wanted ones it shares something with.
func (f *finder) hold(m *met, asked []int64) {
	for _, k := range m.keys {
		if k.met > mostMet {
			continue
		}
		k.met++
		for _, i := range k.who {
			s := &f.open[i]
			if asked[i] == m.id+1 {
				continue
			}
			asked[i] = m.id + 1
			ev, ok := s.resembles(m.name, m.stem, m.ext)
			if ok && (ev.Code != NameAlike || ev.N > s.least) {
				s.meet(m.id, ev)
			}
		}
	}
}

// entries asks once for all the files that were met for some of the wanted.
func (f *finder) entries(which []int) error {
	type meeting struct {
		hit
		who int
	}
	n := 0
	for _, i := range which {
		n += len(f.open[i].near)
	}
	all := make([]meeting, 0, n)
	for _, i := range which {
		for _, h := range f.open[i].near {
			all = append(all, meeting{h, i})
		}
		f.open[i].near = nil
	}
	slices.SortFunc(all, func(a, b meeting) int { return cmp.Or(cmp.Compare(a.id, b.id), cmp.Compare(a.who, b.who)) })
	ids := make([]int64, 0, len(all))
	for i := range all {
		if i == 0 || all[i].id != all[i-1].id {
			ids = append(ids, all[i].id)
		}
	}
	at := 0
	return f.x.Entries(ids, func(id int64, e index.Entry) error {
		for at < len(all) && all[at].id < id {
			at++ // gone from the index in between
		}
		for ; at < len(all) && all[at].id == id; at++ {
			f.open[all[at].who].offer(e, Evidence{Code: all[at].ev.code, Text: all[at].ev.text, N: all[at].ev.n})
		}
		return nil
	})
}

// atBeginning tells that a name differs at its beginning, not its end.
const atBeginning = 1

// resembles tells how a name is like the wanted one; equal stems were looked up
// already.
func (s *search) resembles(name, stem, ext string) (Evidence, bool) {
	if stem == s.stem || stem == "" || !strings.EqualFold(ext, s.ext) || !s.fits(name, ext) {
		return Evidence{}, false
	}
	switch {
	case len(s.stem) >= 3 && strings.HasPrefix(stem, s.stem+" "):
		return Evidence{Code: NameLonger, Text: strings.TrimSpace(stem[len(s.stem):])}, true
	case len(s.stem) >= 3 && strings.HasSuffix(stem, " "+s.stem):
		return Evidence{Code: NameLonger, Text: strings.TrimSpace(stem[:len(stem)-len(s.stem)]), N: atBeginning}, true
	case len(stem) >= 3 && strings.HasSuffix(s.stem, " "+stem):
		return Evidence{Code: NameShorter, Text: strings.TrimSpace(s.stem[:len(s.stem)-len(stem)]), N: atBeginning}, true
	case len(stem) >= 3 && strings.HasPrefix(s.stem, stem+" "):
		return Evidence{Code: NameShorter, Text: strings.TrimSpace(s.stem[len(stem):])}, true
	case 2*len(stem) < len(s.stem) || 2*len(s.stem) < len(stem):
		return Evidence{}, false
	}
	// Where the very name is there, another number only stands in its light.
	if s.exact > 0 && numbers(stem, "#", false) == s.shape && unpadded(stem) != s.plain {
		return Evidence{}, false
	}
	if l := Likeness(s.stem, stem); l >= alike {
		return Evidence{Code: NameAlike, N: int64(math.Round(100 * l))}, true
	}
	return Evidence{}, false
}

// nearKeys are what two loose stems that are alike nearly always share one of:
// a word, the first four letters, the last four.
func nearKeys(stem string, list []uint64) []uint64 {
	if stem == "" {
		return list
	}
	add := func(mark byte, s string) { list = append(list, xxh3.HashString(s)^uint64(mark)<<56) }
	add('^', stem[:min(4, len(stem))])
	add('$', stem[max(0, len(stem)-4):])
	for from := 0; from < len(stem); {
		to := strings.IndexByte(stem[from:], ' ')
		if to < 0 {
			to = len(stem) - from
		}
		if word := stem[from : from+to]; len(word) >= 3 && !digitsOnly(word) {
			add('w', word)
		}
		from += to + 1
	}
	return list
}

func digitsOnly(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}
