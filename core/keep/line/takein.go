package line

import (
	"context"
	"errors"
	"io"
	"path/filepath"
	"slices"
	"strconv"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/compare"
)

// Save is a state of a document that somebody saved under a name of its own.
type Save struct {
	Path string // absolute
	As   string // the document it is a state of, from the project's folder
	// Material is what it names; nil where it cannot be traced.
	Material *compare.State
}

// TakeIn keeps saves as editions with their own dates, on a line of their own, the oldest first. They are left
// where they are. One whose bytes an edition has already is passed over.
func (s *Store) TakeIn(ctx context.Context, p Present, saves []Save) (ids []int, err error) {
	release, err := s.hold(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	l, err := s.Find(p.Given, p.Drives)
	if errors.Is(err, ErrNone) {
		l = &Line{key: newKey(p.Given)}
	} else if err != nil {
		return nil, err
	}
	type found struct {
		Save
		doc Document
	}
	var list []found
	for _, x := range saves {
		docs, err := digests(ctx, p, []string{x.Path}, false)
		if err != nil {
			return nil, err
		}
		if len(docs) == 1 && !l.holds(x.As, docs[0].SHA256) {
			docs[0].Path = x.As
			list = append(list, found{x, docs[0]})
		}
	}
	slices.SortStableFunc(list, func(a, b found) int { return a.doc.Modified.Compare(b.doc.Modified) })
	line, from, current := strconv.Itoa(l.highest()+1), 0, l.Current
	for _, x := range list {
		e := Edition{ID: l.spent + 1, From: from, Line: line, By: TakenIn, At: x.doc.Modified, Note: filepath.Base(x.Path), Root: p.Root, Given: p.Given, Documents: []Document{x.doc}}
		for _, d := range p.Given {
			e.Places = append(e.Places, drive.At(p.Drives, d).String())
		}
		err := s.put(ctx, x.doc.SHA256, func() (io.ReadCloser, error) { return p.Reach.Open(x.Path) })
		if errors.Is(err, errBytes) {
			err = &ChangedError{x.Path}
		}
		if err == nil && x.Material != nil {
			err = s.putMaterial(ctx, &e, x.Material)
		}
		if before, ok := l.Edition(from); ok && err == nil {
			e.Since = s.since(ctx, before, &e)
		}
		if err == nil {
			err = s.add(l.key, e)
		}
		if err != nil {
			return ids, err
		}
		l.Editions, l.spent = append(l.Editions, e), e.ID
		ids, from = append(ids, e.ID), e.ID
	}
	if len(ids) > 0 && current > 0 {
		err = s.add(l.key, moved{current, l.Last().At}) // what was taken in is not what the documents say now
	}
	return ids, err
}

// holds tells that an edition has a document with these bytes.
func (l *Line) holds(path, sha string) bool {
	return slices.ContainsFunc(l.Editions, func(e Edition) bool {
		return slices.ContainsFunc(e.Documents, func(d Document) bool { return d.Path == path && d.SHA256 == sha })
	})
}

// highest is the number of the youngest line.
func (l *Line) highest() (n int) {
	for i := range l.Editions {
		if k, err := strconv.Atoi(l.Editions[i].Line); err == nil {
			n = max(n, k)
		}
	}
	return n
}
