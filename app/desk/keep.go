package desk

import (
	"context"
	"errors"
	"fmt"
	"os"
	"regexp"
	"strconv"

	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/compare"
	"boundcrate/core/road/trace"
	"boundcrate/store"
)

// KnownBy tells the digests of files that were read before and are the same still.
func KnownBy(m *store.Memory) func(path string, is drive.Stamp) string {
	return func(path string, is drive.Stamp) string {
		if m == nil {
			return ""
		}
		seen, ok := m.Last(path)
		if !ok || seen.Size != is.Size || seen.ModTime.UnixNano() != is.Mod || seen.Node != (drive.Node{}) && seen.Node != is.Node {
			return ""
		}
		return seen.SHA256
	}
}

// Known is the line of a project and where it stands now: all its documents and its folder. A project of
// which nothing is kept is what was asked.
func Known(s *line.Store, docs []string, o trace.Options) (l *line.Line, given []string, root string, err error) {
	if l, err = s.Find(docs, o.Drives); errors.Is(err, line.ErrNone) {
		return nil, docs, o.Root, nil
	}
	if err != nil {
		return nil, nil, "", err
	}
	root, given = l.Last().Stands(docs[0], o.Drives)
	if o.Root != "" {
		root = o.Root
	}
	return l, given, root, nil
}

// PresentOf is what stands on the disk of a project. Where its documents cannot be traced they are known by
// name alone, and their material is not told.
func PresentOf(ctx context.Context, docs []string, root string, o trace.Options, m *store.Memory) (line.Present, error) {
	o.Root = root
	g, err := trace.Run(ctx, o, docs...)
	if ctx.Err() != nil {
		return line.Present{}, ctx.Err()
	}
	if err != nil {
		return line.Present{Reach: o.Reach, Drives: o.Drives, Root: root, Given: docs, Own: docs}, err
	}
	return line.Of(g, o.Reach, o.Drives, KnownBy(m)), nil
}

var ofEdition = regexp.MustCompile(`^(.+)@([0-9]+)$`)

// editionOf reads DOCUMENT@N. A file that is really called so is that file.
func editionOf(p string) (document string, id int, ok bool) {
	m := ofEdition.FindStringSubmatch(p)
	if m == nil {
		return "", 0, false
	}
	if _, err := os.Lstat(p); err == nil {
		return "", 0, false
	}
	id, err := strconv.Atoi(m[2])
	return m[1], id, err == nil
}

// keptSide is an edition as one of two that are compared.
func keptSide(ctx context.Context, s *line.Store, document string, id int, o trace.Options) (compare.Side, error) {
	l, err := s.Find([]string{document}, o.Drives)
	if err != nil {
		return compare.Side{}, fmt.Errorf("‘%s’: %w", document, err)
	}
	e, ok := l.Edition(id)
	if !ok {
		return compare.Side{}, &line.NoEditionError{ID: id}
	}
	state, err := s.State(ctx, e)
	if errors.Is(err, line.ErrNone) {
		return compare.Side{}, fmt.Errorf("edition %d cannot be compared: its documents could not be traced when it was kept", id)
	}
	return compare.Side{Kept: state, Root: e.Root}, err
}
