package store

import (
	"database/sql"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/graph"
)

// Use is one place that names, needs or writes a file.
type Use struct {
	Project  int64 // 0: traced on the command line
	Document drive.Path
	Owner    string
	Use      string
	Role     string // read or write
	At       time.Time
}

// KeepUses replaces what a project's documents use by what a trace found.
func (s *Store) KeepUses(project int64, g *graph.Graph, drives []drive.Drive, now time.Time) error {
	docs := make([]drive.Path, len(g.Documents))
	for i := range g.Documents {
		docs[i] = drive.At(drives, g.Documents[i].Path)
	}
	type row struct {
		file, doc        drive.Path
		owner, use, role string
	}
	rows := make([]row, 0, len(g.References))
	type key struct {
		file graph.FileID
		doc  graph.DocID
	}
	met := map[key]bool{} // one line a file and document: the first place of each is enough
	for i := range g.References {
		r := &g.References[i]
		if r.File == graph.None || met[key{r.File, r.Doc}] {
			continue
		}
		met[key{r.File, r.Doc}] = true
		rows = append(rows, row{g.Files[r.File].At, docs[r.Doc], r.Owner, r.Use.String(), "read"})
	}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		rows = append(rows, row{drive.At(drives, w.Path), docs[w.Doc], w.Owner, w.Use.String(), "write"})
	}
	return s.many(func(tx *sql.Tx) error {
		if project != 0 {
			_, err := tx.Exec("DELETE FROM uses WHERE project_id = ?", project)
			return err
		}
		for _, d := range docs {
			if _, err := tx.Exec("DELETE FROM uses WHERE project_id = 0 AND doc_drive = ? AND doc_path = ?", d.Drive, d.Path); err != nil {
				return err
			}
		}
		return nil
	}, `INSERT INTO uses (project_id, drive, path, doc_drive, doc_path, owner, use, role, at) VALUES (?,?,?,?,?,?,?,?,?)`, len(rows), func(i int) []any {
		r := &rows[i]
		return []any{project, r.file.Drive, r.file.Path, r.doc.Drive, r.doc.Path, r.owner, r.use, r.role, nanos(now)}
	})
}

// UsesOf are the places that name a file, over all that was ever traced.
func (s *Store) UsesOf(file drive.Path) ([]Use, error) {
	rows, err := s.raw().Query("SELECT project_id, doc_drive, doc_path, owner, use, role, at FROM uses WHERE drive = ? AND path = ? ORDER BY project_id, doc_path", file.Drive, file.Path)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []Use
	for rows.Next() {
		var u Use
		var when int64
		if err := rows.Scan(&u.Project, &u.Document.Drive, &u.Document.Path, &u.Owner, &u.Use, &u.Role, &when); err != nil {
			return nil, err
		}
		u.At = at(when)
		list = append(list, u)
	}
	return list, rows.Err()
}
