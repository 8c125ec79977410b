package store

import (
	"database/sql"
	"encoding/json"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/road/origin"
	"boundcrate/core/survey/survey"
)

// Declared is a folder of a drive that is a library or a managed store.
type Declared struct {
	Path string // absolute
	Kind origin.DeclaredKind
}

// Declare says what a folder is; "" takes it back.
func (s *Store) Declare(p drive.Path, kind origin.DeclaredKind) error {
	if kind == "" {
		return s.db.Exec("DELETE FROM declared WHERE drive = ? AND path = ?", p.Drive, p.Path).Error
	}
	return s.db.Exec("INSERT INTO declared (drive, path, kind) VALUES (?,?,?) ON CONFLICT (drive, path) DO UPDATE SET kind = excluded.kind", p.Drive, p.Path, kind).Error
}

// Declared are the folders as the drives are now.
func (s *Store) Declared(drives []drive.Drive) (list []Declared, err error) {
	err = s.each("SELECT drive, path, kind FROM declared ORDER BY drive, path", nil, func(scan scan) error {
		var p drive.Path
		var kind origin.DeclaredKind
		if err := scan(&p.Drive, &p.Path, &kind); err != nil {
			return err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			list = append(list, Declared{abs, kind})
		}
		return nil
	})
	return list, err
}

// SetKind says of what kind a drive is, against what was guessed.
func (s *Store) SetKind(id, kind string) error {
	return affected(s.db.Model(&Drive{}).Where("id = ?", id).Updates(map[string]any{"kind": kind, "kind_said": true}))
}

// Measured keeps what a drive was found to give, in bytes a second.
func (s *Store) Measured(id string, gives int64, now time.Time) error {
	return affected(s.db.Model(&Drive{}).Where("id = ?", id).Updates(map[string]any{"gives": gives, "measured_at": nanos(now)}))
}

// Slow makes a stand-in give no more than some bytes a second when it is measured;
// 0 lets it give what it can.
func (s *Store) Slow(id string, bytes int64) error {
	return affected(s.db.Model(&Drive{}).Where("id = ? AND stand", id).Update("slowed", bytes))
}

// Indexed is the state of a drive's index.
type Indexed struct {
	Files  int
	At     time.Time // when it was last looked through; zero never
	Unread []string  // folders that could not be read, with why
}

// Indexed tells how much of a drive is known.
func (s *Store) Indexed(id string) (x Indexed, err error) {
	var when sql.NullInt64
	if err = s.raw().QueryRow("SELECT COALESCE(SUM(files), 0), MAX(CASE WHEN path = '/' THEN at END) FROM folders WHERE drive = ?", id).Scan(&x.Files, &when); err != nil {
		return x, err
	}
	x.At = at(when.Int64)
	err = s.each("SELECT path || ': ' || unread FROM folders WHERE drive = ? AND unread <> '' ORDER BY path LIMIT 50", []any{id}, func(scan scan) error {
		var u string
		if err := scan(&u); err != nil {
			return err
		}
		x.Unread = append(x.Unread, u)
		return nil
	})
	return x, err
}

// Leaning is a project that uses files of a drive.
type Leaning struct {
	Project int64
	Files   int
	Writes  int // write points that lead there
}

// Leaning are the projects that lean on a drive, the most first.
func (s *Store) Leaning(id string) (list []Leaning, err error) {
	err = s.each(`SELECT project_id, COUNT(DISTINCT CASE WHEN role = 'read' THEN path END), SUM(role = 'write') FROM uses
		WHERE drive = ? AND project_id IS NOT NULL GROUP BY project_id ORDER BY 2 DESC, 1`, []any{id}, func(scan scan) error {
		var l Leaning
		if err := scan(&l.Project, &l.Files, &l.Writes); err != nil {
			return err
		}
		list = append(list, l)
		return nil
	})
	return list, err
}

// Writers are the write points of all projects but one, as the drives are now.
func (s *Store) Writers(except int64, drives []drive.Drive) (list []origin.Writer, err error) {
	err = s.each(`SELECT DISTINCT COALESCE(p.name, ''), u.doc_drive, u.doc_path, u.drive, u.path FROM uses u LEFT JOIN projects p ON p.id = u.project_id
		WHERE u.role = 'write' AND (u.project_id IS NULL OR u.project_id <> ?) AND NOT EXISTS (SELECT 1 FROM uses o WHERE o.project_id = ? AND o.doc_drive = u.doc_drive AND o.doc_path = u.doc_path)`, []any{except, except}, func(scan scan) error {
		var w origin.Writer
		var doc, folder drive.Path
		if err := scan(&w.Project, &doc.Drive, &doc.Path, &folder.Drive, &folder.Path); err != nil {
			return err
		}
		var ok, ok2 bool
		w.Document, ok = drive.Abs(drives, doc)
		w.Folder, ok2 = drive.Abs(drives, folder)
		if ok && ok2 {
			list = append(list, w)
		}
		return nil
	})
	return list, err
}

// Alike tells whether two documents use mostly the same files: half of those of
// the one that uses fewer.
func (s *Store) Alike(a, b string, drives []drive.Drive) bool {
	x, y := drive.At(drives, a), drive.At(drives, b)
	const of = "SELECT DISTINCT drive, path FROM uses WHERE doc_drive = ? AND doc_path = ? AND role = 'read'"
	var both, one, two int
	err := s.raw().QueryRow("SELECT (SELECT COUNT(*) FROM ("+of+" INTERSECT "+of+")), (SELECT COUNT(*) FROM ("+of+")), (SELECT COUNT(*) FROM ("+of+"))",
		x.Drive, x.Path, y.Drive, y.Path, x.Drive, x.Path, y.Drive, y.Path).Scan(&both, &one, &two)
	return err == nil && both > 0 && 2*both >= min(one, two)
}

// Health is what was last known of a project, or of a document that no project has.
type Health struct {
	Project  int64 // 0: none
	Document string
	Says     survey.Health
	At       time.Time
}

// KeepHealth keeps it; of a project the document is left empty.
func (s *Store) KeepHealth(project int64, document drive.Path, h survey.Health, now time.Time) error {
	says, err := json.Marshal(h)
	if err != nil {
		return err
	}
	if project != 0 {
		document = drive.Path{}
	}
	return s.db.Exec("INSERT INTO health (project_id, drive, path, says, at) VALUES (?,?,?,?,?) ON CONFLICT DO UPDATE SET says = excluded.says, at = excluded.at", OfProject(project), document.Drive, document.Path, string(says), nanos(now)).Error
}

// DropHealth forgets documents without a project that were not looked at since.
func (s *Store) DropHealth(before time.Time) error {
	return s.db.Exec("DELETE FROM health WHERE project_id IS NULL AND at < ?", nanos(before)).Error
}

// Healths are all that are kept, as the drives are now.
func (s *Store) Healths(drives []drive.Drive) (list []Health, err error) {
	err = s.each("SELECT COALESCE(project_id, 0), drive, path, says, at FROM health", nil, func(scan scan) error {
		var h Health
		var p drive.Path
		var says string
		var when int64
		if err := scan(&h.Project, &p.Drive, &p.Path, &says, &when); err != nil {
			return err
		}
		if err := json.Unmarshal([]byte(says), &h.Says); err != nil {
			return err
		}
		h.At = at(when)
		if h.Project == 0 {
			var ok bool
			if h.Document, ok = drive.Abs(drives, p); !ok {
				return nil
			}
		}
		list = append(list, h)
		return nil
	})
	return list, err
}

// ProjectsOf are the documents that projects reach, with the one opened last of
// those that reach each.
func (s *Store) ProjectsOf(drives []drive.Drive) (map[string]int64, error) {
	out := map[string]int64{}
	projects, err := s.Projects()
	if err != nil {
		return nil, err
	}
	for _, p := range projects { // those that were never traced have their own documents
		for _, d := range p.Documents {
			out[d] = p.ID
		}
	}
	err = s.each("SELECT DISTINCT u.doc_drive, u.doc_path, u.project_id, p.opened_at FROM uses u JOIN projects p ON p.id = u.project_id ORDER BY p.opened_at", nil, func(scan scan) error {
		var p drive.Path
		var id, opened int64
		if err := scan(&p.Drive, &p.Path, &id, &opened); err != nil {
			return err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			out[abs] = id
		}
		return nil
	})
	return out, err
}

// Nested are the documents that other documents name.
func (s *Store) Nested(drives []drive.Drive) (map[string]bool, error) {
	out := map[string]bool{}
	err := s.each(`SELECT DISTINCT u.drive, u.path FROM uses u JOIN traced t ON t.drive = u.drive AND t.path = u.path
		WHERE u.role = 'read' AND NOT (u.drive = u.doc_drive AND u.path = u.doc_path)`, nil, func(scan scan) error {
		var p drive.Path
		if err := scan(&p.Drive, &p.Path); err != nil {
			return err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			out[abs] = true
		}
		return nil
	})
	return out, err
}

// Held is a folder that waits in a holding folder.
type Held struct {
	ID      int64
	Was     drive.Path // where it stood
	At      string     // where it waits, absolute
	Files   int
	Bytes   int64
	Since   time.Time
	Until   time.Time
	Reasons string // JSON of what was said against those who still need it
}

// Hold keeps that a folder was taken, once for each place: the drive tells of it too, to
// whoever looks at that moment. Dropped takes that back.
func (s *Store) Hold(h Held) error {
	return s.db.Exec("INSERT INTO held (drive, path, held, files, bytes, at, until, reasons) SELECT ?,?,?,?,?,?,?,? WHERE NOT EXISTS (SELECT 1 FROM held WHERE held = ?)",
		h.Was.Drive, h.Was.Path, h.At, h.Files, h.Bytes, nanos(h.Since), nanos(h.Until), h.Reasons, h.At).Error
}

// Dropped forgets a folder that came back, was erased, or was never taken.
func (s *Store) Dropped(id int64) error {
	return s.db.Exec("DELETE FROM held WHERE id = ?", id).Error
}

// HeldFolders are all that wait, the latest first.
func (s *Store) HeldFolders() (list []Held, err error) {
	err = s.each("SELECT id, drive, path, held, files, bytes, at, until, reasons FROM held ORDER BY at DESC", nil, func(scan scan) error {
		var h Held
		var since, until int64
		if err := scan(&h.ID, &h.Was.Drive, &h.Was.Path, &h.At, &h.Files, &h.Bytes, &since, &until, &h.Reasons); err != nil {
			return err
		}
		h.Since, h.Until = at(since), at(until)
		list = append(list, h)
		return nil
	})
	return list, err
}

// KeepBeside keeps which companions stood beside their files.
func (s *Store) KeepBeside(list []string, drives []drive.Drive) error {
	return s.many(nil, "INSERT INTO beside (drive, path) VALUES (?,?) ON CONFLICT DO NOTHING", len(list), func(i int) []any {
		p := drive.At(drives, list[i])
		return []any{p.Drive, p.Path}
	})
}

// Besides are the companions that were there when they were last looked at.
func (s *Store) Besides(drives []drive.Drive) (map[string]bool, error) {
	out := map[string]bool{}
	err := s.each("SELECT drive, path FROM beside", nil, func(scan scan) error {
		var p drive.Path
		if err := scan(&p.Drive, &p.Path); err != nil {
			return err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			out[abs] = true
		}
		return nil
	})
	return out, err
}
