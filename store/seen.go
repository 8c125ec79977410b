package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/acoustic"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/look"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
)

// Memory is what was last seen of files, by their identity on the drives that
// are known now.
type Memory struct {
	s      *Store
	drives []drive.Drive
	last   *sql.Stmt // one file
	below  *sql.Stmt // a folder's
	found  *sql.Stmt // what a file was when a document found it
	users  *sql.Stmt // documents that found a file

	// Settle is how old a change must be before Remember reads a file: one that
	// is being written is read once it is done. Unsettled is how many it left.
	Settle    time.Duration
	Unsettled int

	// Closely also keeps what sounds sound like, and what sounds and pictures look
	// like: for whoever has the time while he looks at something else.
	Closely bool

	// Turn waits for a turn at a drive before a file of it is read; nil: nobody waits.
	Turn func(ctx context.Context, drive string) (done func(), err error)

	mu      sync.Mutex
	was     map[drive.Path]mend.Seen // before they changed in place
	folders map[drive.Path]*folder
	kept    int // rows in folders
	soon    []seen
	hashed  map[drive.Path]known // those of soon
	flushed time.Time
	byDoc   map[drive.Path]map[drive.Path][]stamp
}

// Memory remembers files by the configured drives, and by the given ones beside
// them.
func (s *Store) Memory(drives []drive.Drive) (*Memory, error) {
	configured, err := s.CoreDrives()
	if err != nil {
		return nil, err
	}
	m := &Memory{s: s, drives: append(configured, drives...), folders: map[drive.Path]*folder{}, hashed: map[drive.Path]known{}}
	if m.was, err = s.was(); err != nil {
		return nil, err
	}
	if m.last, err = s.raw().Prepare("SELECT path, " + seenColumns + " FROM seen WHERE drive = ? AND path = ?"); err != nil {
		return nil, err
	}
	if m.below, err = s.raw().Prepare("SELECT path, " + seenColumns + " FROM seen WHERE drive = ? AND path > ? AND path < ? LIMIT ?"); err != nil {
		return nil, err
	}
	if m.found, err = s.raw().Prepare("SELECT drive, path, size, mod FROM uses WHERE doc_drive = ? AND doc_path = ? AND (size IS NULL OR size >= 0)"); err != nil {
		return nil, err
	}
	m.users, err = s.raw().Prepare("SELECT doc_drive, doc_path FROM uses WHERE drive = ? AND path = ? AND role != 'write' AND (size IS NULL OR size >= 0)")
	return m, err
}

func (s *Store) was() (map[drive.Path]mend.Seen, error) {
	out := map[drive.Path]mend.Seen{}
	err := s.each("SELECT drive, path, size, sha256, at FROM was", nil, func(scan scan) error {
		var p drive.Path
		var v mend.Seen
		var when int64
		if err := scan(&p.Drive, &p.Path, &v.Size, &v.SHA256, &when); err != nil {
			return err
		}
		v.At = at(when)
		out[p] = v
		return nil
	})
	return out, err
}

// Before is what a file was before it changed in place, as long as nobody said that
// the change is meant.
func (m *Memory) Before(path string) (mend.Seen, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	s, ok := m.was[drive.At(m.drives, path)]
	return s, ok
}

// readAtOnce is how many bytes are read at most to see whether files of the same size
// still have their content, before a trace is shown.
const readAtOnce = 256 << 20

// Changed tells files that have other bytes than when they were last seen. Of files of
// the same size that were touched, so many are read as do not keep anybody waiting; the
// rest is read by Remember.
func (m *Memory) Changed(ctx context.Context, reach drive.Reach) func(f *graph.File) (graph.Suspicion, bool) {
	left := int64(readAtOnce)
	return func(f *graph.File) (graph.Suspicion, bool) {
		before, changed := m.Before(f.Path)
		last, ok := m.Last(f.Path)
		if !changed {
			if !ok || last.SHA256 == "" {
				return "", false
			}
			before = last
		}
		switch {
		case before.Size != f.Size:
			return graph.OtherSize, true
		case ok && fresh(last, infoOf(f.Stamp)):
			return graph.OtherContentSeen, last.SHA256 != before.SHA256
		case left < f.Size:
			return "", false
		}
		left -= f.Size
		sum, err := m.Hash(ctx, reach, f.Path)
		return graph.OtherContentSeen, err == nil && sum != before.SHA256
	}
}

// Close keeps what is not kept yet, and lets go of what the memory holds open.
func (m *Memory) Close() error {
	return errors.Join(m.flush(), m.last.Close(), m.below.Close(), m.found.Close(), m.users.Close())
}

// signed keeps 64 bits in SQLite's integers, which have a sign.
type signed uint64

// Scan implements sql.Scanner.
func (v *signed) Scan(src any) error {
	n, ok := src.(int64)
	if !ok {
		return errors.New("no number stands there")
	}
	*v = signed(uint64(n))
	return nil
}

// fresh tells that a file is the very one that was seen: its size, its time,
// its inode and when that last changed.
func fresh(last mend.Seen, info drive.Info) bool {
	return last.SHA256 != "" && last.Node != (drive.Node{}) && last.Size == info.Size && last.ModTime.Equal(info.ModTime) && last.Node == info.Node
}

func infoOf(s drive.Stamp) drive.Info {
	return drive.Info{Size: s.Size, ModTime: time.Unix(0, s.Mod), Node: s.Node}
}

// Hash returns a file's fingerprint, from memory where the file is still the one
// that was read, else by reading it.
func (m *Memory) Hash(ctx context.Context, reach drive.Reach, path string) (string, error) {
	info, err := reach.Stat(path)
	if err != nil {
		return "", err
	}
	last, ok := m.Last(path)
	if ok && fresh(last, info) {
		return last.SHA256, nil
	}
	r, err := m.read(ctx, reach, path, info, "", nil, nil)
	if err != nil {
		return "", err
	}
	r.before, r.when = last, time.Now()
	return r.sum, m.putSoon(r)
}

// putSoon keeps a row with those of the next second, in one transaction: one for each of many small files takes longer
// than reading them. What a sudden end loses is read again.
func (m *Memory) putSoon(r seen) error {
	m.mu.Lock()
	m.soon = append(m.soon, r)
	m.hashed[r.at] = r.known()
	if time.Since(m.flushed) < time.Second {
		m.mu.Unlock()
		return nil
	}
	m.mu.Unlock()
	return m.flush()
}

// flush keeps what was left for later.
func (m *Memory) flush() error {
	m.mu.Lock()
	rows := m.soon
	m.soon, m.flushed = nil, time.Now()
	m.mu.Unlock()
	return m.put(rows)
}

// Made remembers files that were written here, whose digests were told on the way.
func (m *Memory) Made(files map[string]mend.Seen) error {
	rows := make([]seen, 0, len(files))
	for p, f := range files {
		rows = append(rows, seen{at: drive.At(m.drives, p), info: drive.Info{Size: f.Size, ModTime: f.ModTime, Node: f.Node}, sum: f.SHA256, when: time.Now(), source: p})
	}
	return m.put(rows)
}

// Hasher is Hash over a reach.
func (m *Memory) Hasher(reach drive.Reach) mend.Hash {
	return func(ctx context.Context, p string) (string, error) { return m.Hash(ctx, reach, p) }
}

// Doubt tells a loosely spelled find from the file that was last seen.
func (m *Memory) Doubt(ctx context.Context, reach drive.Reach) func(string, string, drive.Info) bool {
	return mend.Doubt(ctx, m.Of, m.Hasher(reach))
}

// seen is one row.
type seen struct {
	at      drive.Path
	info    drive.Info
	sum     string
	facts   string
	kind    facts.Kind // see known
	formats int64
	when    time.Time
	source  string // the path it was read at
	before  mend.Seen
	look    []byte
	sound   []byte
}

// read makes a row of a file, which is opened once. sum is its fingerprint where that is
// known; told is told the bytes that are read for it. opened is what a trace saw.
func (m *Memory) read(ctx context.Context, reach drive.Reach, path string, info drive.Info, sum string, opened *graph.Look, told func(n int64)) (seen, error) {
	r := seen{at: drive.At(m.drives, path), info: info, sum: sum, source: path}
	f, err := reach.Open(path)
	if err != nil {
		return r, err
	}
	defer f.Close()
	if sum == "" {
		if r.sum, err = drive.Sum(ctx, f, told); err != nil {
			return r, err
		}
	}
	var known facts.Facts
	if opened != nil && (opened.Kind == facts.Audio || opened.Kind == facts.Video || opened.Kind == facts.Image) {
		known = opened.Facts
	} else if known, err = facts.Read(f, info.Size); err != nil {
		known = facts.Facts{}
	}
	if known != (facts.Facts{}) {
		most := facts.MaxPixels
		if m.Closely { // in the background
			most = facts.LargePixels
		}
		known.Decoded, _ = facts.DecodedWithin(f, info.Size, most) // what cannot be decoded is known by its bytes alone
		b, _ := json.Marshal(known)
		r.facts = string(b)
	}
	if kind := facts.KindOfName(path); m.Closely && (kind == facts.Audio || kind == facts.Image || info.Size <= look.MaxText) {
		r.look, _ = look.Of(f, info.Size) // what cannot be decoded has none
		if heard, err := acoustic.Of(f, info.Size); kind == facts.Audio && err == nil {
			r.sound = heard.Pack()
		}
	}
	return r, nil
}

func (m *Memory) put(rows []seen) error {
	if len(rows) == 0 {
		return nil
	}
	if err := errors.Join(m.keepWas(rows), m.keepLooks(rows)); err != nil {
		return err
	}
	defer m.keep(rows)
	return m.s.many(nil, "INSERT OR REPLACE INTO seen (drive, path, "+seenColumns+") VALUES (?,?,?,?,?,?,?,?,?,?,?,?)", len(rows), func(i int) []any {
		r := &rows[i]
		return []any{r.at.Drive, r.at.Path, r.info.Size, r.info.ModTime.UnixNano(), int64(r.info.Node.Dev), int64(r.info.Node.Ino), r.info.Node.Changed, r.sum, r.facts, string(r.kind), r.formats, nanos(r.when)}
	})
}

// keepWas keeps what files were whose content is about to be replaced, and forgets it
// of those that are as they were again.
func (m *Memory) keepWas(rows []seen) error {
	var changed []seen
	var back []drive.Path
	m.mu.Lock()
	defer m.mu.Unlock()
	for i := range rows {
		r := &rows[i]
		was, known := m.was[r.at]
		switch {
		case known && was.SHA256 == r.sum:
			delete(m.was, r.at)
			back = append(back, r.at)
		case !known && r.before.SHA256 != "" && r.before.SHA256 != r.sum:
			m.was[r.at] = r.before
			changed = append(changed, *r)
		}
	}
	if len(changed)+len(back) == 0 {
		return nil
	}
	return m.s.many(func(tx *sql.Tx) error {
		for _, p := range back {
			if _, err := tx.Exec("DELETE FROM was WHERE drive = ? AND path = ?", p.Drive, p.Path); err != nil {
				return err
			}
		}
		return nil
	}, "INSERT INTO was (drive, path, size, sha256, at) VALUES (?,?,?,?,?) ON CONFLICT DO NOTHING", len(changed), func(i int) []any {
		r := &changed[i]
		return []any{r.at.Drive, r.at.Path, r.before.Size, r.before.SHA256, nanos(r.before.At)}
	})
}

// asked are the places that were asked for where a file was found under another
// spelling or through a repair: when it is missing one day, that place is what
// will be looked up.
func asked(g *graph.Graph) map[string][]string {
	out := map[string][]string{}
	met := map[*graph.Place]bool{}
	for i := range g.References {
		r := &g.References[i]
		if r.Path != "" && r.State.Found() && r.Expected != "" && r.Expected != r.Path && !met[r.Place] {
			met[r.Place] = true
			out[r.Path] = append(out[r.Path], r.Expected)
		}
	}
	return out
}

// Remember keeps size, fingerprint and facts of every file a graph resolves.
// Files that did not change since are not read again; known gives digests that
// were computed on the way. What was read is kept every second, so that a stop
// loses no more. progress is told bytes done of all.
func (m *Memory) Remember(ctx context.Context, g *graph.Graph, reach drive.Reach, known map[string]string, now time.Time, progress func(done, total int64)) error {
	r := &remembering{m: m, g: g, reach: reach, now: now, others: asked(g), by: signature(g.Formats)}
	r.sort()
	var (
		mu   sync.Mutex
		done int64
		kept = time.Now()
		fail error
		wg   sync.WaitGroup
	)
	read := func(t unread) {
		if m.Turn != nil {
			over, err := m.Turn(ctx, t.at.Drive)
			if err != nil {
				return
			}
			defer over()
		}
		row, err := m.read(ctx, reach, t.path, t.info, known[t.path], t.look, func(n int64) {
			mu.Lock()
			if done += n; progress != nil {
				progress(done, r.total)
			}
			mu.Unlock()
		})
		if err != nil {
			return // unreadable now; nothing is claimed of it
		}
		row.before, row.when = t.last, now
		mu.Lock()
		defer mu.Unlock()
		if r.add(row, t.look); time.Since(kept) > time.Second {
			fail = errors.Join(fail, m.put(r.rows))
			r.rows, kept = nil, time.Now()
		}
	}
	// Each drive has readers of its own: one that is slow, or hangs, holds up no other.
	for _, list := range r.byDrive() {
		wg.Go(func() {
			var readers errgroup.Group
			readers.SetLimit(runtime.NumCPU())
			for _, t := range list {
				if ctx.Err() == nil {
					readers.Go(func() error { read(t); return nil })
				}
			}
			_ = readers.Wait() // what fails is kept in fail
		})
	}
	wg.Wait()
	return errors.Join(fail, m.put(r.rows), ctx.Err())
}

// remembering is one Remember on its way.
type remembering struct {
	m      *Memory
	g      *graph.Graph
	reach  drive.Reach
	now    time.Time
	others map[string][]string // see asked
	by     int64               // the formats of the trace
	rows   []seen              // to be kept
	list   []unread
	total  int64 // bytes of those
}

// unread is a file that is to be read.
type unread struct {
	path string
	at   drive.Path
	info drive.Info
	last mend.Seen
	look *graph.Look
}

// sort parts the files of the graph: those that are as they were last seen, and those that
// are to be read.
func (r *remembering) sort() {
	m := r.m
	traced := make(map[string]*graph.File, len(r.g.Files))
	for i := range r.g.Files {
		if f := &r.g.Files[i]; f.Frames == nil && f.State.Found() {
			traced[f.Path] = f
		}
	}
	for _, path := range r.g.Leaves() {
		var info drive.Info
		var look *graph.Look
		if f := traced[path]; f != nil {
			// As the trace saw it: should it have changed since, it is another file than
			// the one that is kept, and is read again.
			info, look = infoOf(f.Stamp), f.Look
		} else {
			var err error
			if info, err = r.reach.Stat(path); err != nil {
				continue // gone since the trace; the next one will tell
			}
		}
		at := drive.At(m.drives, path)
		last, ok := m.row(at)
		if ok && fresh(last.Seen, info) {
			r.still(path, info, last, look)
			continue
		}
		if m.Settle > 0 && r.now.Sub(info.ModTime).Abs() < m.Settle { // a clock may run ahead
			m.Unsettled++
			continue
		}
		r.list = append(r.list, unread{path, at, info, last.Seen, look})
		r.total += info.Size
	}
}

// byDrive are the files to be read, by the drive they lie on.
func (r *remembering) byDrive() map[string][]unread {
	lists := map[string][]unread{}
	for _, t := range r.list {
		lists[t.at.Drive] = append(lists[t.at.Drive], t)
	}
	return lists
}

// still keeps of a file that is as it was what it was opened as, and under which further
// names it was asked for.
func (r *remembering) still(path string, info drive.Info, last known, look *graph.Look) {
	m := r.m
	was := seen{at: drive.At(m.drives, path), info: info, sum: last.SHA256, kind: last.kind, formats: last.formats, when: r.now}
	if last.Facts != (facts.Facts{}) {
		text, _ := json.Marshal(last.Facts)
		was.facts = string(text)
	}
	if look != nil && (last.kind != look.Kind || last.formats != r.by) {
		was.kind, was.formats = look.Kind, r.by
		r.rows = append(r.rows, was)
	}
	for _, p := range r.others[path] {
		if other, ok := m.Last(p); !ok || other.SHA256 != last.SHA256 {
			was.at = drive.At(m.drives, p)
			r.rows = append(r.rows, was)
		}
	}
}

// add keeps a file that was read, and under the names that it was asked for by.
func (r *remembering) add(row seen, look *graph.Look) {
	if look != nil {
		row.kind, row.formats = look.Kind, r.by
	}
	r.rows = append(r.rows, row)
	for _, p := range r.others[row.source] {
		row.at, row.before = drive.At(r.m.drives, p), mend.Seen{}
		r.rows = append(r.rows, row)
	}
}
