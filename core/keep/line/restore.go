package line

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// Restored is what came of restoring.
type Restored struct {
	Edition Edition
	Kept    *Edition // the present state, kept before; nil where there was nothing to keep
	Written []string // documents that are others now, absolute
	Same    []string // that were so already
	Outside []string // that lie outside the root and were left as they are
	Into    string   // where a copy was written; "" where the project itself was
}

// Restoring is what to restore, and where.
type Restoring struct {
	Present  Present // Own may be less than what is there, where documents cannot be traced
	Edition  int
	Only     []string // these documents alone, as the edition calls them; nil: all
	Into     string   // a folder for a copy; "": the project itself
	Journals string
	Now      time.Time
}

// NoEditionError is a number that no edition has.
type NoEditionError struct{ ID int }

func (e *NoEditionError) Error() string { return fmt.Sprintf("there is no edition %d", e.ID) }

// Restore gives all documents of an edition the state they had, or none. The present state is kept before.
// A document that came later stays, one that is gone comes back.
func (s *Store) Restore(ctx context.Context, r Restoring) (*Restored, error) {
	release, err := s.hold(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	l, err := s.Find(r.Present.Given, r.Present.Drives)
	if err != nil {
		return nil, err
	}
	e, ok := l.Edition(r.Edition)
	if !ok {
		return nil, &NoEditionError{r.Edition}
	}
	out := &Restored{Edition: *e, Into: r.Into}
	docs := e.Documents
	if r.Only != nil {
		docs = slices.DeleteFunc(slices.Clone(docs), func(d Document) bool { return !slices.Contains(r.Only, d.Path) })
	}
	for _, d := range docs { // before anything is touched: exact bytes, or a refusal
		if err := s.Copy(ctx, d.SHA256, io.Discard); err != nil {
			return nil, err
		}
		if !filepath.IsLocal(filepath.FromSlash(d.Path)) {
			return nil, &DamagedError{d.SHA256, errLine}
		}
	}
	if r.Into != "" {
		return out, s.copyTo(ctx, r.Into, docs, out)
	}
	root := r.Present.Root
	for _, list := range [][]Document{e.Documents, l.currentDocuments()} {
		for _, d := range list {
			at := filepath.Join(root, filepath.FromSlash(d.Path))
			if slices.Contains(r.Present.Own, at) {
				continue
			}
			// What no present document needs is kept where it is another than an edition has it.
			if sum, err := drive.Fingerprint(ctx, r.Present.Reach, at, nil); err != nil || sum != d.SHA256 {
				r.Present.Own = append(r.Present.Own, at)
			}
		}
	}
	if there := slices.ContainsFunc(r.Present.Own, func(p string) bool { _, err := r.Present.Reach.Stat(p); return err == nil }); there {
		kept, err := s.keep(ctx, r.Present, Request{By: BeforeRestore, Now: r.Now})
		if err != nil {
			return nil, err
		}
		out.Kept, l = &kept.Edition, kept.Line
	}
	for _, d := range e.Outside {
		out.Outside = append(out.Outside, d.Path)
	}
	if err := s.write(ctx, root, docs, r, out); err != nil {
		return nil, err
	}
	if r.Only != nil { // the whole is a state of its own, and it goes on from the one before
		note := fmt.Sprintf("%s from edition %d", strings.Join(r.Only, ", "), e.ID)
		_, err := s.keep(ctx, r.Present, Request{By: Hand, Note: note, onNew: true, Now: r.Now})
		return out, err
	}
	return out, s.add(l.key, moved{e.ID, r.Now})
}

// See makes the edition the current one whose documents stand on the disk, where there is one: a restore that
// was ended after the documents were written, or somebody who put them back by hand.
func (l *Line) See(ctx context.Context, reach drive.Reach, root string) error {
	e, ok := l.Edition(l.Current)
	if !ok {
		return nil
	}
	p := Present{Reach: reach, Root: root}
	for _, list := range [][]Document{e.Documents, l.Last().Documents} {
		for _, d := range list {
			if at := filepath.Join(root, filepath.FromSlash(d.Path)); !slices.Contains(p.Own, at) {
				p.Own = append(p.Own, at)
			}
		}
	}
	docs, err := digests(ctx, p, p.Own, true)
	if err != nil {
		return err
	}
	if stands := l.standing(docs); stands != nil {
		l.Current = stands.ID
	}
	return nil
}

func (l *Line) currentDocuments() []Document {
	if e, ok := l.Edition(l.Current); ok {
		return e.Documents
	}
	return nil
}

// write gives documents their bytes in one writing.
func (s *Store) write(ctx context.Context, root string, docs []Document, r Restoring, out *Restored) (err error) {
	tx, err := fileset.Begin(r.Journals, r.Present.Given[0])
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, d := range docs {
		at := filepath.Join(root, filepath.FromSlash(d.Path))
		if err := s.stage(ctx, tx, r.Present.Reach, root, at, d, out); err != nil {
			return err
		}
	}
	settled, err := tx.Commit()
	if err != nil {
		return err
	}
	if len(settled.Left) > 0 {
		return &settled.Left[0]
	}
	return nil
}

// stage makes ready what a document becomes.
func (s *Store) stage(ctx context.Context, tx *fileset.Txn, reach drive.Reach, root, at string, d Document, out *Restored) error {
	dir := filepath.Dir(at)
	if err := within(reach, root, dir); err != nil {
		return err
	}
	info, err := reach.Stat(at)
	if errors.Is(err, fs.ErrNotExist) {
		if _, err := os.Lstat(at); err == nil {
			return &fileset.Error{Path: at, Err: fs.ErrExist} // a link that leads nowhere
		}
		if err := tx.Dirs(dir); err != nil {
			return err
		}
		out.Written = append(out.Written, at)
		return tx.Create(at, fs.FileMode(d.Mode).Perm(), time.Time{}, func(w io.Writer) error { return s.Copy(ctx, d.SHA256, w) }, nil)
	}
	if err != nil {
		return err
	}
	if !info.Mode.IsRegular() {
		return &fileset.Error{Path: at, Err: drive.ErrNotRegular}
	}
	if err := within(reach, root, filepath.Dir(info.Real)); err != nil {
		return err
	}
	sum, err := drive.Fingerprint(ctx, reach, at, nil)
	if err != nil {
		return err
	}
	if sum == d.SHA256 {
		out.Same = append(out.Same, at)
		return nil
	}
	out.Written = append(out.Written, at)
	look := func() error {
		is, err := reach.Stat(at)
		if err == nil && !is.Same(info) {
			err = &ChangedError{at}
		}
		return err
	}
	mode := fs.FileMode(d.Mode).Perm()
	if mode == 0 {
		mode = info.Mode.Perm()
	}
	return tx.Stage(info.Real, mode, "", look, func(w io.Writer) error { return s.Copy(ctx, d.SHA256, w) })
}

// within refuses a folder that lies, through links, outside the project's.
func within(reach drive.Reach, root, dir string) error {
	if err := fileset.Reachable(reach, dir); err != nil {
		return err
	}
	for {
		if _, err := os.Lstat(dir); err == nil || filepath.Dir(dir) == dir {
			break
		}
		dir = filepath.Dir(dir)
	}
	real, err := filepath.EvalSymlinks(dir)
	if err != nil {
		return err
	}
	base, err := filepath.EvalSymlinks(root)
	if errors.Is(err, fs.ErrNotExist) {
		return nil // the project's folder itself is gone, and comes back
	}
	if err == nil && !drive.Within(base, real) {
		err = &fileset.Error{Path: dir, Err: drive.ErrOutside}
	}
	return err
}

// copyTo writes a copy of documents into a folder; nothing that is there is written over.
func (s *Store) copyTo(ctx context.Context, into string, docs []Document, out *Restored) (err error) {
	tx, err := fileset.Begin("", into)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, d := range docs {
		at := filepath.Join(into, filepath.FromSlash(d.Path))
		if err := tx.Dirs(filepath.Dir(at)); err != nil {
			return err
		}
		if err := tx.Create(at, fs.FileMode(d.Mode).Perm()|0o600, d.Modified, func(w io.Writer) error { return s.Copy(ctx, d.SHA256, w) }, nil); err != nil {
			return err
		}
		out.Written = append(out.Written, at)
	}
	_, err = tx.Commit()
	return err
}
