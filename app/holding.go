package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/holding"
	"boundcrate/core/say/words"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// stillTrue is how long what a clear-out check said may be acted on.
const stillTrue = 15 * time.Minute

// Hold takes a folder out of the way that a check has been asked about. Whoever
// still needs it, or could not be asked, must have been answered with a reason.
func (a *App) Hold(ctx context.Context, job string, in overview.Hold) (overview.HeldList, error) {
	said, err := jobs.ResultOf[overview.Cleared](a.jobs, job)
	if err != nil {
		return overview.HeldList{}, err
	}
	if !recent(said.At, stillTrue) {
		return overview.HeldList{}, fault.Say(fault.Conflict, "Check again", "The last check of this folder is too old. Check it again.")
	}
	for _, of := range said.Needy {
		if !slices.ContainsFunc(in.Reasons, func(r overview.Reason) bool { return r.Of == of && strings.TrimSpace(r.Why) != "" }) {
			return overview.HeldList{}, fault.Say(fault.Conflict, "In use", "‘"+of+"’ uses the folder, or could not be checked. Give a reason to ignore it, or relink it first.")
		}
	}
	now := time.Now()
	until, err := holding.Until(now, in.Days)
	if err != nil {
		return overview.HeldList{}, termless()
	}
	reach, err := a.reach()
	if err != nil {
		return overview.HeldList{}, err
	}
	info, err := reach.Stat(said.Folder)
	if err != nil {
		return overview.HeldList{}, err
	}
	if err := a.askedAgain(said, reach); err != nil {
		return overview.HeldList{}, err
	}
	to, err := holding.Place(reach.Drives, said.Folder, now)
	if err != nil {
		return overview.HeldList{}, refused(err, reach.Drives)
	}
	reasons, err := json.Marshal(in.Reasons)
	if err != nil {
		return overview.HeldList{}, err
	}
	h := store.Held{Was: drive.At(reach.Drives, said.Folder), At: to, Files: said.Files, Bytes: said.Bytes, Since: now, Until: until, Reasons: string(reasons)}
	if err := a.take(h, said.Folder, info.Node, reach.Drives); err != nil {
		return overview.HeldList{}, err
	}
	a.drivesChanged()
	return a.Held(ctx)
}

func termless() error {
	return fault.Say(fault.Wrong, "Number of days", fmt.Sprintf("Folders are kept for 1 to %d days.", holding.MaxDays))
}

// take moves something into the holding folder of its drive. What it was stands beside it on the
// drive before it is moved, and in the database after: who is stopped in between finds it
// there.
func (a *App) take(h store.Held, from string, node drive.Node, drives []drive.Drive) error {
	if !holding.Here(drives, h.Was) {
		return refused(&holding.Error{Code: holding.DriveOut, Path: from}, drives)
	}
	rec := holding.Record{Was: strings.TrimPrefix(h.Was.Path, "/"), Since: h.Since, Until: h.Until, Files: h.Files, Bytes: h.Bytes, Node: node, Why: json.RawMessage(h.Reasons)}
	if err := holding.Keep(h.At, rec); err != nil {
		return err
	}
	if err := holding.Move(from, h.At); err != nil {
		if _, lost := os.Lstat(h.At); errors.Is(lost, fs.ErrNotExist) { // it was not taken
			err = errors.Join(err, holding.Forget(h.At))
		}
		return refused(err, drives)
	}
	if err := a.store.Hold(h); err != nil {
		a.log.Warn("the drive alone tells of a folder that is held, until the next look", "folder", h.At, "error", err)
	}
	return nil
}

// askedAgain refuses a folder that somebody came to need since it was asked about.
func (a *App) askedAgain(said overview.Cleared, reach drive.Set) error {
	ledger, err := a.store.Ledger(a.formats())
	if err != nil {
		return err
	}
	known := map[string]bool{}
	for _, of := range neededBy(said) {
		known[of] = true
	}
	for _, folder := range append([]string{said.Folder}, drive.Aliases(said.Folder)...) {
		uses, err := ledger.Into(folder)
		if err != nil {
			return err
		}
		for _, u := range uses {
			of := drive.Label(reach.Drives, u.Document)
			if drive.Within(folder, u.Document) || known[of] || !u.At.After(said.At) {
				continue
			}
			return fault.Say(fault.Conflict, "In use", "‘"+of+"’ has started to use the folder since the check. Check again.")
		}
	}
	return nil
}

// neededBy are the documents that a check found to need a folder, and all that could
// not be asked.
func neededBy(said overview.Cleared) []string {
	list := []string{}
	for _, r := range said.ReadBy {
		list = append(list, r.Document)
	}
	for _, w := range said.WrittenBy {
		list = append(list, w.Document)
	}
	list = append(list, said.Unread...)
	slices.Sort(list)
	return slices.Compact(list)
}

func refused(err error, drives []drive.Drive) error {
	var e *holding.Error
	if errors.As(err, &e) {
		return fault.Say(fault.Conflict, "Refused", words.Holding(e, drive.Label(drives, e.Path)))
	}
	return err
}

// Held lists what waits.
func (a *App) Held(ctx context.Context) (overview.HeldList, error) {
	out := overview.HeldList{List: []overview.HeldRow{}}
	drives, err := a.drives()
	if err != nil {
		return out, err
	}
	list, err := a.waiting(drives)
	if err != nil {
		return out, err
	}
	for _, h := range list {
		was, ok := drive.Abs(drives, h.Was)
		if !ok {
			was = h.Was.Path
		}
		at := heldAt(drives, h)
		_, missing := os.Lstat(at)
		row := overview.HeldRow{ID: h.ID, Label: drive.Label(drives, was), Files: h.Files, Bytes: h.Bytes, Since: h.Since, Until: h.Until, Over: time.Now().After(h.Until) && h.Until.After(h.Since), There: missing == nil}
		if json.Unmarshal([]byte(h.Reasons), &row.Reasons) != nil || row.Reasons == nil {
			row.Reasons = []overview.Reason{}
		}
		out.List = append(out.List, row)
	}
	return out, nil
}

// waiting are the folders that wait, also those that a drive tells of which was forgotten
// meanwhile, or comes from another computer.
func (a *App) waiting(drives []drive.Drive) ([]store.Held, error) {
	list, err := a.store.HeldFolders()
	if err != nil {
		return nil, err
	}
	met := map[string]bool{}
	for _, h := range list {
		met[heldAt(drives, h)] = true
	}
	added := false
	for _, d := range drives {
		for _, at := range holding.Waiting(d.Dir) {
			r, ok := holding.Read(at)
			if !ok || met[at] {
				continue
			}
			why := string(r.Why)
			if why == "" {
				why = "[]"
			}
			if err := a.store.Hold(store.Held{Was: drive.Path{Drive: d.ID, Path: "/" + r.Was}, At: at, Files: r.Files, Bytes: r.Bytes, Since: r.Since, Until: r.Until, Reasons: why}); err != nil {
				return nil, err
			}
			added = true
		}
	}
	if added {
		return a.store.HeldFolders()
	}
	return list, nil
}

// sweepHeld forgets folders that were never taken, or came back: the application
// ended in the middle.
func (a *App) sweepHeld() error {
	drives, err := a.drives()
	if err != nil {
		return err
	}
	list, err := a.store.HeldFolders()
	if err != nil {
		return err
	}
	for _, h := range list {
		at := heldAt(drives, h)
		was, ok := drive.Abs(drives, h.Was)
		_, gone := os.Lstat(at)
		r, told := holding.Read(at)
		// Something new at the old place is not what was held.
		if ok && told && holding.Here(drives, h.Was) && errors.Is(gone, fs.ErrNotExist) && holding.IsBack(was, r) {
			if err := errors.Join(a.store.Dropped(h.ID), holding.Forget(at)); err != nil {
				return err
			}
		}
	}
	for _, d := range drives {
		if err := holding.Sweep(d.Dir); err != nil {
			return err
		}
	}
	return nil
}

// heldAt is where a folder waits, by the drive it lies on.
func heldAt(drives []drive.Drive, h store.Held) string {
	if at, ok := holding.At(drives, h.Was, h.At); ok {
		return at
	}
	return h.At
}

func (a *App) heldOf(id int64) (store.Held, error) {
	list, err := a.store.HeldFolders()
	if err != nil {
		return store.Held{}, err
	}
	for _, h := range list {
		if h.ID == id {
			return h, nil
		}
	}
	return store.Held{}, store.ErrNotFound
}

// BringBack puts a folder back where it stood.
func (a *App) BringBack(ctx context.Context, id int64) (overview.HeldList, error) {
	h, err := a.heldOf(id)
	if err != nil {
		return overview.HeldList{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return overview.HeldList{}, err
	}
	was, ok := drive.Abs(drives, h.Was)
	if !ok {
		return overview.HeldList{}, store.ErrNotFound
	}
	if !holding.Here(drives, h.Was) {
		return overview.HeldList{}, refused(&holding.Error{Code: holding.DriveOut, Path: was}, drives)
	}
	at := heldAt(drives, h)
	if err := holding.Move(at, was); err != nil {
		return overview.HeldList{}, refused(err, drives)
	}
	if err := errors.Join(a.store.Dropped(h.ID), holding.Forget(at)); err != nil {
		return overview.HeldList{}, err
	}
	a.drivesChanged()
	return a.Held(ctx)
}

// Erase removes for good what was kept for as long as was said.
func (a *App) Erase(ctx context.Context, id int64) (overview.HeldList, error) {
	h, err := a.heldOf(id)
	if err != nil {
		return overview.HeldList{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return overview.HeldList{}, err
	}
	at := heldAt(drives, h)
	if !holding.Here(drives, h.Was) {
		return overview.HeldList{}, refused(&holding.Error{Code: holding.DriveOut, Path: at}, drives)
	}
	if !h.Until.After(h.Since) { // a term that made no sense when it was kept is none
		return overview.HeldList{}, refused(&holding.Error{Code: holding.TooSoon, Path: at}, drives)
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobErase, Slot: at, Title: "Erasing " + drive.Label(drives, at)}, func(context.Context, *jobs.Task) (overview.HeldList, error) {
		if err := holding.Erase(at, h.Until, time.Now()); err != nil {
			return overview.HeldList{}, refused(err, drives)
		}
		if err := a.store.Dropped(h.ID); err != nil {
			return overview.HeldList{}, err
		}
		return a.Held(a.ctx)
	})
}

// owners are the projects that have the documents which need a folder.
func (a *App) owners(said *survey.Clearout, drives []drive.Drive) (map[string]int64, error) {
	of, err := a.store.ProjectsOf(drives)
	if err != nil {
		return nil, err
	}
	out := map[string]int64{}
	for _, r := range said.ReadBy {
		if id := of[r.Document]; id != 0 {
			out[drive.Label(drives, r.Document)] = id
		}
	}
	for _, w := range said.WrittenBy {
		if id := of[w.Document]; id != 0 {
			out[drive.Label(drives, w.Document)] = id
		}
	}
	return out, nil
}
