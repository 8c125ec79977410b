package store

import (
	"database/sql"
	"fmt"
	"strings"

	"boundcrate/core/road/decide"
)

// Decisions is the log of a project.
func (s *Store) Decisions(project int64) (decide.Log, error) {
	var log decide.Log
	err := s.each(`SELECT id, batch, kind, from_drive, from_path, to_drive, to_path, file_drive, file_path, doc_drive, doc_path, owner, written, nth,
		folder, name, certainty, reasons, at, undone FROM decisions WHERE project_id = ? AND act = 0 ORDER BY id`, []any{project}, func(scan scan) error {
		var d decide.Decision
		var when int64
		var folder, name sql.NullString
		err := scan(&d.ID, &d.Batch, &d.Kind, &d.From.Drive, &d.From.Path, &d.To.Drive, &d.To.Path, &d.File.Drive, &d.File.Path,
			&d.By.Document.Drive, &d.By.Document.Path, &d.By.Owner, &d.By.Written, &d.By.Nth, &folder, &name, &d.Certainty, &d.Reasons, &when, &d.Undone)
		if err != nil {
			return err
		}
		if d.At = at(when); folder.Valid {
			d.Folder = &folder.String
		}
		if name.Valid {
			d.Name = &name.String
		}
		log = append(log, d)
		return nil
	})
	return log, err
}

// Decide adds decisions of one act to a project's log. What was undone and not
// redone is forgotten: it cannot be redone past something newer.
func (s *Store) Decide(project int64, list ...decide.Decision) error {
	var batch int64
	return s.many(func(tx *sql.Tx) error {
		if _, err := tx.Exec("DELETE FROM decisions WHERE project_id = ? AND undone AND act = 0", project); err != nil {
			return err
		}
		return tx.QueryRow("SELECT COALESCE(MAX(batch), 0) + 1 FROM decisions").Scan(&batch)
	}, `INSERT INTO decisions (project_id, batch, kind, from_drive, from_path, to_drive, to_path, file_drive, file_path, doc_drive, doc_path, owner, written, nth,
		folder, name, certainty, reasons, at) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`, len(list), func(i int) []any {
		d := &list[i]
		return []any{project, batch, d.Kind, d.From.Drive, d.From.Path, d.To.Drive, d.To.Path, d.File.Drive, d.File.Path,
			d.By.Document.Drive, d.By.Document.Path, d.By.Owner, d.By.Written, d.By.Nth, d.Folder, d.Name, d.Certainty, string(d.Reasons), nanos(d.At)}
	})
}

// SetUndone takes decisions back, or lets them hold again.
func (s *Store) SetUndone(project int64, ids []int64, undone bool) error {
	if len(ids) == 0 {
		return ErrNotFound
	}
	return s.db.Exec("UPDATE decisions SET undone = ? WHERE project_id = ? AND id IN ("+numbers(ids)+")", undone, project).Error
}

func numbers(ids []int64) string {
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(ids), " ", ","), "[]")
}
