package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"runtime"
	"strings"
	"sync"
	"time"

	"boundcrate/core/acoustic"
	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/look"
	"boundcrate/core/mend"
)

// Memory is what was last seen of files, by their identity on the drives that
// are known now.
type Memory struct {
	s      *Store
	drives []drive.Drive
	last   *sql.Stmt
	any    *sql.Stmt

	// Settle is how old a change must be before Remember reads a file: one that
	// is being written is read once it is done. Unsettled is how many it left.
	Settle    time.Duration
	Unsettled int

	// Closely also keeps what sounds sound like, and what sounds and pictures look
	// like: for whoever has the time while he looks at something else.
	Closely bool

	mu   sync.Mutex
	was  map[drive.Path]mend.Seen // before they changed in place
	bare map[drive.Path]bool      // folders of which nothing is remembered
}

// Memory remembers files by the configured drives, and by the given ones beside
// them.
func (s *Store) Memory(drives []drive.Drive) (*Memory, error) {
	known, err := s.CoreDrives()
	if err != nil {
		return nil, err
	}
	m := &Memory{s: s, drives: append(known, drives...), bare: map[drive.Path]bool{}}
	if m.was, err = s.was(); err != nil {
		return nil, err
	}
	if m.last, err = s.raw().Prepare("SELECT size, mod, dev, ino, changed, sha256, facts, at FROM seen WHERE drive = ? AND path = ?"); err != nil {
		return nil, err
	}
	m.any, err = s.raw().Prepare("SELECT COUNT(*) FROM (SELECT 1 FROM seen WHERE drive = ? AND path > ? AND path < ? LIMIT 1)")
	return m, err
}

func (s *Store) was() (map[drive.Path]mend.Seen, error) {
	rows, err := s.raw().Query("SELECT drive, path, size, sha256, at FROM was")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[drive.Path]mend.Seen{}
	for rows.Next() {
		var p drive.Path
		var v mend.Seen
		var when int64
		if err := rows.Scan(&p.Drive, &p.Path, &v.Size, &v.SHA256, &when); err != nil {
			return nil, err
		}
		v.At = at(when)
		out[p] = v
	}
	return out, rows.Err()
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
		now := drive.Info{Size: f.Stamp.Size, ModTime: time.Unix(0, f.Stamp.Mod), Node: f.Stamp.Node}
		switch {
		case before.Size != f.Size:
			return graph.OtherSize, true
		case ok && fresh(last, now):
			return graph.OtherContentSeen, last.SHA256 != before.SHA256
		case left < f.Size:
			return "", false
		}
		left -= f.Size
		sum, err := m.Hash(ctx, reach, f.Path)
		return graph.OtherContentSeen, err == nil && sum != before.SHA256
	}
}

// Close lets go of what the memory holds open.
func (m *Memory) Close() error { return errors.Join(m.last.Close(), m.any.Close()) }

// knows tells whether anything is remembered in a file's folder or below it:
// where a drive is gone, thousands of files are asked for of which nothing is.
func (m *Memory) knows(p drive.Path) bool {
	dir := drive.Path{Drive: p.Drive, Path: p.Path[:strings.LastIndexByte(p.Path, '/')+1]}
	m.mu.Lock()
	defer m.mu.Unlock()
	bare, asked := m.bare[dir]
	if !asked && dir.Path != "" {
		var n int
		after := dir.Path[:len(dir.Path)-1] + string('/'+1) // the least that sorts after all of the folder
		bare = m.any.QueryRow(p.Drive, dir.Path, after).Scan(&n) == nil && n == 0
		m.bare[dir] = bare
	}
	return !bare
}

// Last looks up what was last seen at a path. It is a mend.Memory.
func (m *Memory) Last(path string) (mend.Seen, bool) {
	var s mend.Seen
	var mod, when int64
	var known string
	p := drive.At(m.drives, path)
	if !m.knows(p) {
		return mend.Seen{}, false
	}
	err := m.last.QueryRow(p.Drive, p.Path).Scan(&s.Size, &mod, (*signed)(&s.Node.Dev), (*signed)(&s.Node.Ino), &s.Node.Changed, &s.SHA256, &known, &when)
	if err != nil {
		return mend.Seen{}, false // what cannot be read is not remembered
	}
	s.ModTime, s.At = at(mod), at(when)
	_ = json.Unmarshal([]byte(known), &s.Facts) // empty facts are no facts
	m.mu.Lock()
	defer m.mu.Unlock()
	if was, ok := m.was[p]; ok {
		s.Before = &was
	}
	return s, true
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
	sum, err := facts.Fingerprint(ctx, reach, path, nil)
	if err != nil {
		return "", err
	}
	r := m.row(reach, path, info, sum, time.Now())
	r.before = last
	return sum, m.put([]seen{r})
}

// Hasher is Hash over a reach.
func (m *Memory) Hasher(reach drive.Reach) mend.Hash {
	return func(ctx context.Context, p string) (string, error) { return m.Hash(ctx, reach, p) }
}

// Doubt tells a loosely spelled find from the file that was last seen.
func (m *Memory) Doubt(ctx context.Context, reach drive.Reach) func(string, string, drive.Info) bool {
	return mend.Doubt(ctx, m.Last, m.Hasher(reach))
}

// seen is one row.
type seen struct {
	at     drive.Path
	info   drive.Info
	sum    string
	facts  string
	when   time.Time
	source string // the path it was read at
	before mend.Seen
	look   []byte
	sound  []byte
}

func (m *Memory) row(reach drive.Reach, path string, info drive.Info, sum string, now time.Time) seen {
	r := seen{at: drive.At(m.drives, path), info: info, sum: sum, when: now, source: path}
	if f, err := reach.Open(path); err == nil {
		defer f.Close()
		if known, err := facts.Read(f, info.Size); err == nil && known != (facts.Facts{}) {
			most := facts.MostPixels
			if m.Closely { // in the background
				most = facts.LargePixels
			}
			known.Decoded, _ = facts.DecodedWithin(f, info.Size, most) // what cannot be decoded is known by its bytes alone
			b, _ := json.Marshal(known)
			r.facts = string(b)
		}
		if kind := facts.KindOfName(path); m.Closely && (kind == facts.Audio || kind == facts.Image || info.Size <= look.MostText) {
			r.look, _ = look.Of(f, info.Size) // what cannot be decoded has none
			if heard, err := acoustic.Of(f, info.Size); kind == facts.Audio && err == nil {
				r.sound = heard.Pack()
			}
		}
	}
	return r
}

func (m *Memory) put(rows []seen) error {
	if len(rows) == 0 {
		return nil
	}
	m.mu.Lock()
	clear(m.bare)
	m.mu.Unlock()
	if err := errors.Join(m.keepWas(rows), m.keepLooks(rows)); err != nil {
		return err
	}
	return m.s.many(nil, `INSERT INTO seen (drive, path, size, mod, dev, ino, changed, sha256, facts, at) VALUES (?,?,?,?,?,?,?,?,?,?)
		ON CONFLICT (drive, path) DO UPDATE SET size=excluded.size, mod=excluded.mod, dev=excluded.dev, ino=excluded.ino, changed=excluded.changed,
		sha256=excluded.sha256, facts=excluded.facts, at=excluded.at`, len(rows), func(i int) []any {
		r := &rows[i]
		return []any{r.at.Drive, r.at.Path, r.info.Size, r.info.ModTime.UnixNano(), int64(r.info.Node.Dev), int64(r.info.Node.Ino), r.info.Node.Changed, r.sum, r.facts, nanos(r.when)}
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

func (m *Memory) keepLooks(rows []seen) error {
	var with []*seen
	for i := range rows {
		if len(rows[i].look)+len(rows[i].sound) > 0 {
			with = append(with, &rows[i])
		}
	}
	return m.s.many(nil, "INSERT INTO looks (drive, path, look, sound) VALUES (?,?,?,?) ON CONFLICT (drive, path) DO UPDATE SET look = excluded.look, sound = excluded.sound", len(with), func(i int) []any {
		return []any{with[i].at.Drive, with[i].at.Path, append([]byte{}, with[i].look...), append([]byte{}, with[i].sound...)}
	})
}

// Look is what a file looked like when it was last seen (core/look).
func (m *Memory) Look(path string) ([]byte, error) {
	p := drive.At(m.drives, path)
	var b []byte
	err := m.s.raw().QueryRow("SELECT look FROM looks WHERE drive = ? AND path = ?", p.Drive, p.Path).Scan(&b)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	return b, err
}

// Heard is what a sound sounded like when it was last seen.
func (m *Memory) Heard(path string) (acoustic.Print, bool) {
	p := drive.At(m.drives, path)
	var b []byte
	err := m.s.raw().QueryRow("SELECT sound FROM looks WHERE drive = ? AND path = ?", p.Drive, p.Path).Scan(&b)
	return acoustic.Unpack(b), err == nil && len(b) > 0
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
	type todo struct {
		path string
		info drive.Info
		last mend.Seen
	}
	var list []todo
	var total int64
	others := asked(g)
	var rows []seen
	alias := func(r seen) {
		rows = append(rows, r)
		for _, p := range others[r.source] {
			other := r
			other.at, other.before = drive.At(m.drives, p), mend.Seen{}
			rows = append(rows, other)
		}
	}
	for _, path := range g.Leaves() {
		info, err := reach.Stat(path)
		if err != nil {
			continue // gone since the trace; the next one will tell
		}
		last, ok := m.Last(path)
		if ok && fresh(last, info) {
			for _, p := range others[path] {
				if was, ok := m.Last(p); !ok || was.SHA256 != last.SHA256 {
					b, _ := json.Marshal(last.Facts)
					rows = append(rows, seen{at: drive.At(m.drives, p), info: info, sum: last.SHA256, facts: string(b), when: now})
				}
			}
			continue
		}
		if m.Settle > 0 && now.Sub(info.ModTime) < m.Settle {
			m.Unsettled++
			continue
		}
		list = append(list, todo{path, info, last})
		total += info.Size
	}
	var (
		mu   sync.Mutex
		done int64
		kept = time.Now()
		fail error
		wg   sync.WaitGroup
		work = make(chan todo)
	)
	for range runtime.NumCPU() {
		wg.Go(func() {
			for t := range work {
				sum := known[t.path]
				if sum == "" {
					var err error
					sum, err = facts.Fingerprint(ctx, reach, t.path, func(n int64) {
						mu.Lock()
						if done += n; progress != nil {
							progress(done, total)
						}
						mu.Unlock()
					})
					if err != nil {
						continue // unreadable now; nothing is claimed of it
					}
				}
				r := m.row(reach, t.path, t.info, sum, now)
				r.before = t.last
				mu.Lock()
				alias(r)
				if time.Since(kept) > time.Second {
					fail = errors.Join(fail, m.put(rows))
					rows, kept = nil, time.Now()
				}
				mu.Unlock()
			}
		})
	}
	for _, t := range list {
		if ctx.Err() != nil {
			break
		}
		work <- t
	}
	close(work)
	wg.Wait()
	return errors.Join(fail, m.put(rows), ctx.Err())
}
