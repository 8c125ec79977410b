package mend

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/index"
	"boundcrate/core/text/names"
)

// Words and ends of names that more wanted files, or more files, share than
// this tell nothing: "take" in a folder of takes.
const (
	maxSharers = 64
	maxMet     = 2000
)

// sharers are the wanted files that have a word or an end of a name.
type sharers struct {
	who []int32
	met int
}

// met is a file with what it may share with wanted ones.
type met struct {
	id   int64
	name string
	keys []*sharers
}

// findNear meets every name once and keeps those that are alike. One hand takes the
// names apart, batch by batch, while another holds them against the wanted.
func (f *finder) findNear() error {
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
			f.keepNear(&batch[i], asked)
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
		hashes = nearKeys(s.stem, true, hashes[:0])
		for _, h := range hashes {
			k := keys[h]
			if k == nil {
				k = &sharers{}
				keys[h] = k
			}
			if len(k.who) <= maxSharers && (len(k.who) == 0 || k.who[len(k.who)-1] != int32(i)) {
				k.who = append(k.who, int32(i))
			}
		}
	}
	for h, k := range keys {
		if len(k.who) > maxSharers {
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
		stem, _ := names.Split(name)
		stem = names.Loose(stem)
		hashes = nearKeys(stem, false, hashes[:0])
		from := len(shared)
		for _, h := range hashes {
			if k := keys[h]; k != nil {
				shared = append(shared, k)
			}
		}
		if len(shared) > from {
			batch = append(batch, met{id, name, shared[from:len(shared):len(shared)]})
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

// keepNear holds a file against the wanted ones it shares something with.
func (f *finder) keepNear(m *met, asked []int64) {
	is := spell(m.name)
	for _, k := range m.keys {
		if k.met > maxMet {
			continue
		}
		k.met++
		for _, i := range k.who {
			s := &f.open[i]
			if asked[i] == m.id+1 {
				continue
			}
			asked[i] = m.id + 1
			ev, ok := s.resembles(m.name, &is)
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
func (s *search) resembles(name string, is *spelled) (Evidence, bool) {
	if is.stem == s.stem || is.stem == "" || !s.fits(name, is.ext) {
		return Evidence{}, false
	}
	if slices.Equal(is.parts, s.parts) {
		return Evidence{Code: NameSpelled}, true
	}
	if !strings.EqualFold(is.ext, s.ext) {
		return Evidence{}, false
	}
	if before, after, ok := inside(s.parts, is.parts); ok && len(s.stem) >= 3 {
		return added(NameLonger, before, after), true
	}
	if before, after, ok := inside(is.parts, s.parts); ok && len(is.stem) >= 3 && !allOf(is.parts, number) {
		return added(NameShorter, before, after), true
	}
	if 2*len(is.stem) < len(s.stem) || 2*len(s.stem) < len(is.stem) {
		return Evidence{}, false
	}
	// Where the very name is there, another number only stands in its light.
	if s.exact > 0 && otherCount(is.parts, s.parts) {
		return Evidence{}, false
	}
	if l := likeness(s.stem, is.stem); l >= alike {
		return Evidence{Code: NameAlike, N: int64(math.Round(100 * l))}, true
	}
	return Evidence{}, false
}

// added tells what stands before or after the one name in the other.
func added(code Code, before, after []part) Evidence {
	e := Evidence{Code: code, Text: strings.Join(textsOf(slices.Concat(before, after)), " ")}
	if len(after) == 0 {
		e.N = atBeginning
	}
	return e
}

// nearKeys are what two loose stems that are alike nearly always share one of: a word, the
// first four letters, the last four, the whole of the one as the beginning or the end of
// the other. wanted tells whose they are.
func nearKeys(stem string, wanted bool, list []uint64) []uint64 {
	if stem == "" {
		return list
	}
	add := func(mark byte, s string) { list = append(list, xxh3.HashString(s)^uint64(mark)<<56) }
	list = wholeKeys(stem, wanted, list)
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

// wholeKeys are those of names of which the one begins or ends with all of the other: the
// whole of a wanted name against the beginnings and ends of those in an index, and the
// other way round.
func wholeKeys(stem string, wanted bool, list []uint64) []uint64 {
	const whole, piece = uint64('=') << 56, uint64('<') << 56
	var room [96]byte
	var at [16]int
	text, ends := compact(stem, room[:], at[:0])
	of, into := whole, piece // of an index: its whole is looked for among pieces of the wanted
	if wanted {
		of, into = piece, whole
	}
	list = append(list, xxh3.Hash(text)^whole)
	if !wanted {
		list = append(list, xxh3.Hash(text)^into)
	}
	for _, end := range ends {
		if end >= leastWhole && end < len(text) {
			list = append(list, xxh3.Hash(text[:end])^of)
		}
		if len(text)-end >= leastWhole && end > 0 {
			list = append(list, xxh3.Hash(text[end:])^of)
		}
	}
	return list
}

// leastWhole is how long a name must be to be met as a part of another one.
const leastWhole = 3

func digitsOnly(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}
