package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
)

// ActKind is what an act wrote into documents.
type ActKind string

// The kinds of acts.
const (
	WroteRepairs ActKind = "repairs"
	WrotePoints  ActKind = "write-points"
	WroteHome    ActKind = "home"
	WroteInside  ActKind = "inside"
	WroteLater   ActKind = "recovered" // which of them is not known any more: it was ended in the middle, and finished later
)

// Act is one writing into a project's documents.
type Act struct {
	ID      int64
	Project int64
	Kind    ActKind
	At      time.Time
	Written []writing.Written
	Back    bool // it was put back
}

// Wrote keeps an act and the decisions that stand in the documents now: they hold
// again when it is put back.
func (s *Store) Wrote(project int64, kind ActKind, written []writing.Written, decisions []int64, now time.Time) error {
	drives, err := s.CoreDrives()
	if err != nil {
		return err
	}
	rows := make([]writtenAt, len(written))
	for i, w := range written {
		rows[i] = writtenAt{w, drive.At(drives, w.Document)}
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	return s.tx(func(tx *sql.Tx) error {
		r, err := tx.Exec("INSERT INTO acts (project_id, kind, at, written) VALUES (?,?,?,?)", project, kind, nanos(now), string(text))
		if err != nil || len(decisions) == 0 {
			return forgotten(err)
		}
		id, err := r.LastInsertId()
		if err != nil {
			return err
		}
		_, err = tx.Exec("UPDATE decisions SET act = ? WHERE project_id = ? AND id IN ("+numbers(decisions)+")", id, project)
		return err
	})
}

// LastAct is the last writing of a project that was not put back.
func (s *Store) LastAct(project int64) (Act, error) {
	a := Act{Project: project}
	var when int64
	var text string
	err := s.raw().QueryRow("SELECT id, kind, at, written FROM acts WHERE project_id = ? AND back = 0 ORDER BY id DESC LIMIT 1", project).Scan(&a.ID, &a.Kind, &when, &text)
	if errors.Is(err, sql.ErrNoRows) {
		return a, ErrNotFound
	}
	if err != nil {
		return a, err
	}
	a.At = at(when)
	drives, err := s.CoreDrives()
	if err != nil {
		return a, err
	}
	var rows []writtenAt
	if err := json.Unmarshal([]byte(text), &rows); err != nil {
		return a, err
	}
	for _, r := range rows {
		if r.At.Path != "" { // acts of before these were kept know their path alone
			r.Document = nowAt(drives, r.At)
		}
		a.Written = append(a.Written, r.Written)
	}
	return a, nil
}

// writtenAt is what was written, with the drive its document lies on.
type writtenAt struct {
	writing.Written
	At drive.Path `json:"at"`
}

// PutBack says that an act was put back: its decisions hold again.
func (s *Store) PutBack(a Act) error {
	return s.tx(func(tx *sql.Tx) error {
		if _, err := tx.Exec("UPDATE acts SET back = 1 WHERE id = ? AND project_id = ?", a.ID, a.Project); err != nil {
			return err
		}
		_, err := tx.Exec("UPDATE decisions SET act = 0 WHERE act = ? AND project_id = ?", a.ID, a.Project)
		return err
	})
}
