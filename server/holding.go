package server

import (
	"encoding/json"
	"errors"
	"io/fs"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/core/drive"
	"boundcrate/core/holding"
	"boundcrate/core/survey"
	"boundcrate/core/words"
	"boundcrate/server/api"
	"boundcrate/store"
)

// stillTrue is how long what a clear-out check said may be acted on.
const stillTrue = 15 * time.Minute

// hold takes a folder out of the way that a check has been asked about. Whoever
// still needs it, or could not be asked, must have been answered with a reason.
func (a *App) hold(c *echo.Context, in api.Hold) (api.HeldList, error) {
	said, err := resultOf[api.Cleared](a.jobs, c.Param("job"))
	if err != nil {
		return api.HeldList{}, err
	}
	if time.Since(said.At) > stillTrue {
		return api.HeldList{}, say(http.StatusConflict, "Asked too long ago", "Ask once more who needs the folder: something may have changed since.")
	}
	for _, of := range said.Needy {
		if !slices.ContainsFunc(in.Reasons, func(r api.Reason) bool { return r.Of == of && strings.TrimSpace(r.Why) != "" }) {
			return api.HeldList{}, say(http.StatusConflict, "Somebody needs it", "‘"+of+"’ needs the folder, or could not be asked. Say why that does not count, or mend it first.")
		}
	}
	if in.Days < 1 {
		return api.HeldList{}, say(http.StatusBadRequest, "For how long?", "It is kept for a day at least.")
	}
	reach, err := a.reach()
	if err != nil {
		return api.HeldList{}, err
	}
	if _, err := reach.Stat(said.Folder); err != nil {
		return api.HeldList{}, err
	}
	now := time.Now()
	to, err := holding.Place(reach.Drives, said.Folder, now)
	if err != nil {
		return api.HeldList{}, refused(err, reach.Drives)
	}
	reasons, err := json.Marshal(in.Reasons)
	if err != nil {
		return api.HeldList{}, err
	}
	id, err := a.store.Hold(store.Held{Was: drive.At(reach.Drives, said.Folder), At: to, Files: said.Files, Bytes: said.Bytes, Since: now, Until: now.AddDate(0, 0, in.Days), Reasons: string(reasons)})
	if err != nil {
		return api.HeldList{}, err
	}
	if err := holding.Move(said.Folder, to); err != nil {
		if _, lost := os.Lstat(to); errors.Is(lost, fs.ErrNotExist) { // it was not taken
			err = errors.Join(err, a.store.Dropped(id))
		}
		return api.HeldList{}, refused(err, reach.Drives)
	}
	a.drivesChanged()
	return a.held(c)
}

// needy are the documents that a check found to need a folder, and all that could
// not be asked.
func needy(said api.Cleared) []string {
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
		return say(http.StatusConflict, "Refused", words.Holding(e, drive.Label(drives, e.Path)))
	}
	return err
}

// held lists what waits.
func (a *App) held(*echo.Context) (api.HeldList, error) {
	out := api.HeldList{List: []api.HeldRow{}}
	drives, err := a.drives()
	if err != nil {
		return out, err
	}
	list, err := a.store.HeldFolders()
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
		row := api.HeldRow{ID: h.ID, Label: drive.Label(drives, was), Files: h.Files, Bytes: h.Bytes, Since: h.Since, Until: h.Until, Over: time.Now().After(h.Until), There: missing == nil}
		if json.Unmarshal([]byte(h.Reasons), &row.Reasons) != nil || row.Reasons == nil {
			row.Reasons = []api.Reason{}
		}
		out.List = append(out.List, row)
	}
	return out, nil
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
		was, ok := drive.Abs(drives, h.Was)
		_, gone := os.Lstat(heldAt(drives, h))
		_, away := os.Lstat(was)
		if ok && errors.Is(gone, fs.ErrNotExist) && away == nil {
			if err := a.store.Dropped(h.ID); err != nil {
				return err
			}
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

func (a *App) heldOf(c *echo.Context) (store.Held, error) {
	id, _ := strconv.ParseInt(c.Param("id"), 10, 64) // of what is no number there is none
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

// bringBack puts a folder back where it stood.
func (a *App) bringBack(c *echo.Context, _ nothing) (api.HeldList, error) {
	h, err := a.heldOf(c)
	if err != nil {
		return api.HeldList{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return api.HeldList{}, err
	}
	was, ok := drive.Abs(drives, h.Was)
	if !ok {
		return api.HeldList{}, store.ErrNotFound
	}
	if err := holding.Move(heldAt(drives, h), was); err != nil {
		return api.HeldList{}, refused(err, drives)
	}
	if err := a.store.Dropped(h.ID); err != nil {
		return api.HeldList{}, err
	}
	a.drivesChanged()
	return a.held(c)
}

// erase removes for good what was kept for as long as was said.
func (a *App) erase(c *echo.Context, _ nothing) (api.HeldList, error) {
	h, err := a.heldOf(c)
	if err != nil {
		return api.HeldList{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return api.HeldList{}, err
	}
	if err := holding.Erase(heldAt(drives, h), h.Until, time.Now()); err != nil {
		return api.HeldList{}, refused(err, drives)
	}
	if err := a.store.Dropped(h.ID); err != nil {
		return api.HeldList{}, err
	}
	return a.held(c)
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
