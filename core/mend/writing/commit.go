package writing

import (
	"errors"
	"io"
	"os"
	"path/filepath"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/road/trace"
)

// commit writes documents all or none: an edition of each is kept, what shall stand in its
// place is staged beside it, and all take their places together. first is the project's
// first document.
func commit(reach drive.Reach, first string, jobs []write, keep edition.Keeper, journals string) (done []Written, err error) {
	tx, err := begin(journals, first)
	if err != nil {
		return nil, err
	}
	defer func() {
		if cerr := tx.Close(); err == nil && cerr != nil {
			err = &Error{Document: first, Step: Syncing, Err: cerr}
		}
	}()
	return commitIn(tx, reach, jobs, keep)
}

func begin(journals, first string) (*fileset.Txn, error) {
	tx, err := fileset.Begin(journals, first)
	switch {
	case errors.Is(err, fileset.ErrBusy):
		return nil, &Error{Document: first, Step: Busy, Err: err}
	case err != nil:
		return nil, &Error{Document: first, Step: Writing, Err: err}
	}
	return tx, nil
}

// commitIn stages documents in a writing that may hold other files already, and commits
// it. Without an error everything is written; with a *Error of Unfinished some are,
// which are returned.
func commitIn(tx *fileset.Txn, reach drive.Reach, jobs []write, keep edition.Keeper) ([]Written, error) {
	var folders []string
	for _, w := range jobs {
		folders = append(folders, filepath.Dir(w.doc.Info.Real), keep.Of(w.doc.Info.Real))
	}
	if err := tx.Within(folders...); err != nil {
		return nil, &Error{Document: jobs[0].doc.Path, Step: Writing, Err: err}
	}
	mentions := map[string]int{}
	for _, w := range jobs {
		mentions[w.doc.Info.Real] = w.count
		if step, err := stage(tx, reach, w, keep); err != nil {
			return nil, &Error{Document: w.doc.Path, Step: step, Err: err}
		}
	}
	settled, err := tx.Commit()
	var bad *fileset.Error
	if errors.As(err, &bad) {
		return nil, &Error{Document: bad.Path, Step: Writing, Err: bad.Err}
	}
	if err != nil {
		return nil, &Error{Document: jobs[0].doc.Path, Step: Writing, Err: err}
	}
	done := make([]Written, 0, len(jobs))
	for _, p := range settled.Done {
		done = append(done, Written{p.Path, p.Edition, mentions[p.Path], p.Becomes, p.Was})
	}
	if len(settled.Left) > 0 {
		left := settled.Left[0]
		return done, &Error{Document: left.Path, Step: Unfinished, Err: left.Err}
	}
	return done, nil
}

// stage keeps an edition of a document and makes what shall stand in its place.
func stage(tx *fileset.Txn, reach drive.Reach, w write, keep edition.Keeper) (Step, error) {
	if keep.Dir == "" { // beside the document, and not where a link would lead
		if err := fileset.Reachable(reach, filepath.Join(filepath.Dir(w.doc.Info.Real), edition.Folder)); err != nil {
			return Keeping, err
		}
	}
	kept, err := keep.KeepAs(w.doc.Info.Real, tx.Mark())
	if err == nil {
		err = tx.Kept(kept)
	}
	if err != nil {
		return Keeping, err
	}
	err = tx.Stage(w.doc.Info.Real, w.doc.Info.Mode.Perm(), kept, func() error { return unchanged(reach, w) }, func(to io.Writer) error { return w.text(reach, to) })
	if errors.Is(err, fileset.ErrChanged) {
		err = &trace.ChangedError{Path: w.doc.Path}
	}
	return Writing, err
}

// unchanged tells that a document is still the one that was traced.
func unchanged(reach drive.Reach, w write) error {
	info, err := reach.Stat(w.doc.Path)
	if err == nil && !info.Same(w.doc.Info) {
		err = &trace.ChangedError{Path: w.doc.Path}
	}
	return err
}

// text writes what shall stand in the document.
func (w write) text(reach drive.Reach, to io.Writer) error {
	if w.from != "" {
		f, err := os.Open(w.from)
		if err != nil {
			return err
		}
		defer f.Close()
		_, err = io.Copy(to, f)
		return err
	}
	// What the texts do not hold, the other members of a package, is read from the
	// file once more.
	src, err := reach.Open(w.doc.Path)
	if err != nil {
		return err
	}
	defer src.Close()
	return w.file.RewriteFrom(src, to, w.edits)
}
