package writing

import (
	"context"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// Change is what shall be written into one document's file.
type Change struct {
	Document *graph.Document
	File     *format.File // the document's own, opened again
	Edits    []mention.Edit
	Mentions int // how many places change
}

// Commit writes changes into documents as Repairs does: all or none, an edition of
// each kept first. first is the project's first document.
func Commit(reach drive.Reach, first string, changes []Change, keep edition.Keeper, journals string) ([]Written, error) {
	return commit(reach, first, jobsOf(changes), keep, journals)
}

// CommitIn is Commit within a writing that holds other files already, which it commits.
func CommitIn(tx *fileset.Txn, reach drive.Reach, changes []Change, keep edition.Keeper) ([]Written, error) {
	return commitIn(tx, reach, jobsOf(changes), keep)
}

func jobsOf(changes []Change) []write {
	jobs := make([]write, len(changes))
	for i, c := range changes {
		jobs[i] = write{doc: c.Document, file: c.File, edits: c.Edits, count: c.Mentions}
	}
	return jobs
}

// PutBack gives documents the state again that they had before they were
// written, all or none, after an edition of the present state was kept. A document
// that is not as it was written any more is a *Error around a
// *trace.ChangedError: what somebody did since is not undone by the way.
func PutBack(reach drive.Reach, list []Written, keep edition.Keeper, journals string) ([]Written, error) {
	var jobs []write
	for _, w := range list {
		info, err := reach.Stat(w.Document)
		if err != nil {
			return nil, &Error{Document: w.Document, Step: Writing, Err: err}
		}
		sum, err := drive.Fingerprint(context.Background(), drive.System{}, info.Real, nil)
		if err == nil && sum != w.SHA256 {
			err = &trace.ChangedError{Path: w.Document}
		}
		if err != nil {
			return nil, &Error{Document: w.Document, Step: Writing, Err: err}
		}
		if w.Was != "" {
			if kept, err := drive.Fingerprint(context.Background(), drive.System{}, w.Edition, nil); err != nil || kept != w.Was {
				return nil, &Error{Document: w.Document, Step: Spoiled, Err: err}
			}
		}
		jobs = append(jobs, write{doc: &graph.Document{Path: w.Document, Info: info}, from: w.Edition, count: w.Mentions})
	}
	if len(jobs) == 0 {
		return nil, nil
	}
	return commit(reach, list[0].Document, jobs, keep, journals)
}
