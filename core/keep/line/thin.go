package line

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/core/disk/fileset"
)

// Ages is for how long editions that were made by themselves are kept: all of them, one an hour, one a day;
// after that one a month.
type Ages struct {
	All    time.Duration `json:"all"`
	Hourly time.Duration `json:"hourly"`
	Daily  time.Duration `json:"daily"`
}

// UsualAges are all of a day, one an hour of a week, one a day of a year.
var UsualAges = Ages{24 * time.Hour, 7 * 24 * time.Hour, 365 * 24 * time.Hour}

// span is the stretch of time of which one edition is kept: of that age, to a time. Clocks that went
// backwards make no edition older than it is.
func (a Ages) span(at, now time.Time) string {
	at = at.UTC()
	switch age := now.Sub(at); {
	case age < a.All:
		return at.Format(time.RFC3339Nano)
	case age < a.Hourly:
		return at.Format("2006-01-02T15")
	case age < a.Daily:
		return at.Format("2006-01-02")
	}
	return at.Format("2006-01")
}

// lasting tells editions that are never thinned: made by hand, with a note, sealed from, the current one, the
// ends of lines and where alternatives branch off.
func (l *Line) lasting() map[int]bool {
	keep := map[int]bool{l.Current: true}
	ends := map[string]int{}
	for i := range l.Editions {
		e := &l.Editions[i]
		if e.By == Hand || e.By == TakenIn || e.By == Sealing || e.Note != "" || len(e.Sealed) > 0 {
			keep[e.ID] = true
		}
		if from, ok := l.Edition(e.From); ok && from.Line != e.Line {
			keep[from.ID] = true
		}
		ends[e.Line] = e.ID
	}
	for _, id := range ends {
		keep[id] = true
	}
	return keep
}

// Thin takes away editions of a project that were made by themselves, by their age: of each span the last
// stays. It returns their numbers. States that no edition of any project needs are deleted, where every line of
// the store can be read.
func (s *Store) Thin(ctx context.Context, docs []string, p Present, ages Ages, now time.Time) ([]int, error) {
	release, err := s.hold(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	l, err := s.Find(docs, p.Drives)
	if err != nil || l.Damaged > 0 { // a damaged line is not written anew
		return nil, err
	}
	keep, last := l.lasting(), map[string]int{}
	for i := range l.Editions {
		e := &l.Editions[i]
		last[e.Line+" "+ages.span(e.At, now)] = e.ID
	}
	for _, id := range last {
		keep[id] = true
	}
	var gone []int
	from := map[int]int{} // of what goes, what it came from
	var stay []Edition
	for i := range l.Editions {
		e := l.Editions[i]
		if up, ok := from[e.From]; ok {
			e.From, e.Since = up, nil
			if above, ok := l.Edition(up); ok && keep[e.ID] {
				e.Since = s.since(ctx, above, &e)
			}
		}
		if !keep[e.ID] {
			gone, from[e.ID] = append(gone, e.ID), e.From
			continue
		}
		stay = append(stay, e)
	}
	if len(gone) == 0 {
		return nil, nil
	}
	l.Editions = stay
	if err := s.writeAnew(l, gone, now); err != nil {
		return nil, err
	}
	return gone, s.sweep(ctx)
}

// writeAnew writes all lines of a project.
func (s *Store) writeAnew(l *Line, gone []int, now time.Time) error {
	values := []any{thinned{append(gone, l.spent)}}
	for i := range l.Editions {
		values = append(values, l.Editions[i])
		for _, x := range l.Editions[i].Sealed {
			values = append(values, x)
		}
	}
	values = append(values, moved{l.Current, now})
	return fileset.Replace(s.file(l.key), 0o644, func(w io.Writer) error {
		for _, v := range values {
			text, err := seal(v)
			if err != nil {
				return err
			}
			if _, err := w.Write(text); err != nil {
				return err
			}
		}
		return nil
	})
}

// sweep deletes states that nothing needs. The store is held.
func (s *Store) sweep(ctx context.Context) error {
	lines, err := s.all()
	if err != nil {
		return err
	}
	needed := map[string]bool{}
	for _, l := range lines {
		if l.Damaged > 0 {
			return nil // nobody can tell what its lines need
		}
		for i := range l.Editions {
			for _, sha := range l.Editions[i].sums() {
				needed[sha] = true
			}
		}
	}
	return filepath.WalkDir(filepath.Join(s.dir, "states"), func(p string, e fs.DirEntry, err error) error {
		if err = errors.Join(err, ctx.Err()); err != nil || e.IsDir() {
			return err
		}
		if sha, ok := strings.CutSuffix(e.Name(), ".zst"); ok && len(sha) == 64 && !needed[sha] {
			return os.Remove(p)
		}
		return nil
	})
}

// SealedFrom notes that a crate was sealed from an edition: it is never thinned.
func (s *Store) SealedFrom(ctx context.Context, l *Line, edition int, crate string, now time.Time) error {
	release, err := s.hold(ctx)
	if err != nil {
		return err
	}
	defer release()
	return s.add(l.key, Sealed{edition, crate, now})
}
