package app

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// editions keeps what a project's documents said before they are written.
func (a *App) editions(p store.Project) edition.Keeper {
	return edition.Keeper{Dir: filepath.Join(a.editionsDir, strconv.FormatInt(p.ID, 10))}
}

// within refuses to write documents whose real file lies outside the drives.
func within(reach drive.Set, g *graph.Graph, docs []string) error {
	for i := range g.Documents {
		if d := &g.Documents[i]; slices.Contains(docs, d.Path) {
			if _, ok := drive.Find(reach.Drives, d.Info.Real); !ok {
				return &os.PathError{Op: "write", Path: d.Info.Real, Err: drive.ErrOutside}
			}
		}
	}
	return nil
}

// wrote keeps what an act wrote, so that it can be put back.
func (a *App) wrote(p store.Project, kind store.ActKind, written []writing.Written, decisions []int64) error {
	if len(written) == 0 {
		return nil
	}
	act := pendingAct{p.ID, kind, written, decisions, time.Now()}
	if a.store.Wrote(act.Project, act.Kind, act.Written, act.Decisions, act.At) == nil {
		return nil
	}
	// The documents are written: that must be known whatever became of the database.
	if _, err := fileset.MakeDirs(a.pendingActs()); err != nil {
		return err
	}
	return fileset.Create(filepath.Join(a.pendingActs(), strconv.FormatInt(act.At.UnixNano(), 10)+".json"), 0o600, func(w io.Writer) error { return json.NewEncoder(w).Encode(act) })
}

// recovered keeps what was finished of writings that had been ended in the middle as acts of their
// projects, so that they can be put back like any other. The folder of an edition tells whose
// it is.
func (a *App) recovered(done []fileset.Place) error {
	of := map[int64][]writing.Written{}
	for _, p := range done {
		rel, err := filepath.Rel(a.editionsDir, p.Edition)
		if err != nil || p.Edition == "" {
			continue // kept beside its document: a command wrote it
		}
		first, _, _ := strings.Cut(filepath.ToSlash(rel), "/")
		if project, err := strconv.ParseInt(first, 10, 64); err == nil {
			of[project] = append(of[project], writing.Written{Document: p.Path, Edition: p.Edition, SHA256: p.Becomes, Was: p.Was})
		}
	}
	var err error
	for project, written := range of {
		p, perr := a.store.Project(project)
		if perr != nil {
			continue // it was forgotten meanwhile
		}
		// Where only the end of the journal was cut off, the act is known.
		if last, lerr := a.store.LastAct(project); lerr == nil && slices.EqualFunc(last.Written, written, func(a, b writing.Written) bool { return a.Edition == b.Edition && a.SHA256 == b.SHA256 }) {
			continue
		}
		err = errors.Join(err, a.wrote(p, store.WroteLater, written, nil))
	}
	return err
}

// pendingAct is a writing that the database could not take at the time.
type pendingAct struct {
	Project   int64
	Kind      store.ActKind
	Written   []writing.Written
	Decisions []int64
	At        time.Time
}

func (a *App) pendingActs() string { return filepath.Join(a.store.Dir(), "acts") }

// adoptActs takes into the database what it could not take before.
func (a *App) adoptActs() error {
	entries, err := os.ReadDir(a.pendingActs()) // by name, which is their time
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	for _, e := range entries {
		at := filepath.Join(a.pendingActs(), e.Name())
		b, rerr := os.ReadFile(at)
		var act pendingAct
		if rerr != nil || json.Unmarshal(b, &act) != nil {
			continue
		}
		// Of a project that was forgotten since nothing is to be put back from here.
		if werr := a.store.Wrote(act.Project, act.Kind, act.Written, act.Decisions, act.At); werr != nil && !errors.Is(werr, store.ErrNotFound) {
			return errors.Join(err, werr)
		}
		err = errors.Join(err, os.Remove(at))
	}
	return err
}

var actSays = map[store.ActKind]string{
	store.WroteRepairs: "repairs were written", store.WrotePoints: "write points were set",
	store.WroteHome: "outside files were copied in", store.WroteInside: "data was saved as files", store.WroteLater: "an interrupted write was finished",
}

// lastAct is the last writing that can be put back; nil for none.
func (a *App) lastAct(p store.Project, drives []drive.Drive) (*api.LastAct, error) {
	if err := a.adoptActs(); err != nil {
		return nil, err
	}
	act, err := a.store.LastAct(p.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	out := &api.LastAct{ID: act.ID, Say: actSays[act.Kind], At: act.At}
	for _, w := range act.Written {
		out.Documents = append(out.Documents, drive.Label(drives, w.Document))
	}
	return out, nil
}

// PutBack gives the documents of the last act the state they had before it. Files
// that the act made stay where they are.
func (a *App) PutBack(ctx context.Context, project int64, in api.PutBack) error {
	p, _, err := a.open(project)
	if err != nil {
		return err
	}
	if err := a.adoptActs(); err != nil {
		return err
	}
	act, err := a.store.LastAct(p.ID)
	if err != nil {
		return err
	}
	if act.ID != in.Act {
		return fault.Say(fault.Conflict, "Not the latest change", "These documents were written again later. Restore that change first.")
	}
	reach, err := a.reach()
	if err != nil {
		return err
	}
	if err := a.keepBefore(ctx, p, a.openProject(p.ID)); err != nil {
		return err
	}
	if _, err := writing.PutBack(reach, act.Written, a.editions(p), a.store.Journals()); err != nil {
		return fault.Say(fault.Conflict, "Not restored", words.Error(err))
	}
	return a.decided(p.ID, a.store.PutBack(act))
}
