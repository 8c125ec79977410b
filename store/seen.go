package store

import (
	"context"
	"encoding/json"
	"runtime"
	"sync"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/trace"
)

// Last looks up what was last seen at a path. It is a mend.Memory.
func (s *Store) Last(path string) (mend.Seen, bool) {
	var row Seen
	if s.db.Limit(1).Find(&row, "path = ?", path).RowsAffected == 0 {
		return mend.Seen{}, false
	}
	return row.seen(), true
}

func (r Seen) seen() mend.Seen {
	out := mend.Seen{Size: r.Size, SHA256: r.SHA256, ModTime: time.Unix(0, r.ModNano), At: r.At}
	_ = json.Unmarshal([]byte(r.Facts), &out.Facts) // empty facts are no facts
	return out
}

// Hash returns a file's fingerprint, from memory where size and time of the
// file are still those it was read with, else by reading it.
func (s *Store) Hash(ctx context.Context, reach drive.Reach, path string) (string, error) {
	info, err := reach.Stat(path)
	if err != nil {
		return "", err
	}
	if last, ok := s.Last(path); ok && last.SHA256 != "" && last.Size == info.Size && last.ModTime.Equal(info.ModTime) {
		return last.SHA256, nil
	}
	sum, err := facts.Fingerprint(ctx, reach, path, nil)
	if err != nil {
		return "", err
	}
	return sum, s.put([]Seen{row(reach, path, info, sum, time.Now())})
}

// Doubt tells a loosely spelled find from the file that was last seen.
func (s *Store) Doubt(ctx context.Context, reach drive.Reach) func(string, string, drive.Info) bool {
	return mend.Doubt(ctx, s.Last, func(ctx context.Context, p string) (string, error) { return s.Hash(ctx, reach, p) })
}

func row(reach drive.Reach, path string, info drive.Info, sum string, now time.Time) Seen {
	r := Seen{Path: path, Size: info.Size, ModNano: info.ModTime.UnixNano(), SHA256: sum, At: now}
	if f, err := reach.Open(path); err == nil {
		defer f.Close()
		if known, err := facts.Read(f, info.Size); err == nil && known != (facts.Facts{}) {
			b, _ := json.Marshal(known)
			r.Facts = string(b)
		}
	}
	return r
}

// put writes rows with one prepared statement in one transaction.
func (s *Store) put(rows []Seen) error {
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	tx, err := raw.Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback()
	st, err := tx.Prepare(`INSERT INTO seens (path, size, mod_nano, sha256, facts, at) VALUES (?,?,?,?,?,?)
		ON CONFLICT (path) DO UPDATE SET size=excluded.size, mod_nano=excluded.mod_nano, sha256=excluded.sha256, facts=excluded.facts, at=excluded.at`)
	if err != nil {
		return err
	}
	defer st.Close()
	for _, r := range rows {
		if _, err := st.Exec(r.Path, r.Size, r.ModNano, r.SHA256, r.Facts, r.At); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// aliases are what was seen under the place that was asked for, where a file was
// found under another spelling or through a repair: when it is missing one day,
// that place is what will be looked up.
func (s *Store) aliases(g *trace.Graph, fresh []Seen) []Seen {
	at := map[string]Seen{}
	for _, r := range fresh {
		at[r.Path] = r
	}
	var out []Seen
	for i := range g.References {
		r := &g.References[i]
		if r.Path == "" || !r.State.Found() || r.Expected == "" || r.Expected == r.Path {
			continue
		}
		row, ok := at[r.Path]
		if !ok && s.db.Limit(1).Find(&row, "path = ?", r.Path).RowsAffected == 0 {
			continue
		}
		row.Path = r.Expected
		out = append(out, row)
	}
	return out
}

// Remember keeps size, fingerprint and facts of every file a graph resolves.
// Files that did not change since are not read again; known gives digests that
// were computed on the way. progress is told files and bytes done of all.
func (s *Store) Remember(ctx context.Context, g *trace.Graph, reach drive.Reach, known map[string]string, now time.Time, progress func(done, total int64)) error {
	type todo struct {
		path string
		info drive.Info
	}
	var list []todo
	var total int64
	for _, path := range g.Files() {
		info, err := reach.Stat(path)
		if err != nil {
			continue // gone since the trace; the next one will tell
		}
		last, ok := s.Last(path)
		if ok && last.SHA256 != "" && last.Size == info.Size && last.ModTime.Equal(info.ModTime) {
			continue
		}
		list = append(list, todo{path: path, info: info})
		total += info.Size
	}
	var (
		mu   sync.Mutex
		rows []Seen
		done int64
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
				r := row(reach, t.path, t.info, sum, now)
				mu.Lock()
				rows = append(rows, r)
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
	if err := s.put(append(rows, s.aliases(g, rows)...)); err != nil {
		return err
	}
	return ctx.Err()
}
