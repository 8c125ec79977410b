package store

import (
	"database/sql"
	"strings"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/decide"
	"boundcrate/core/drive"
	"boundcrate/core/format"
	"boundcrate/core/graph"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/survey"
	"boundcrate/core/trace"
)

// KeepUses replaces what a project's documents use by what a trace with some
// formats found. A file that is reached through a link is kept under both paths.
// Only the configured drives give an identity: one that a single command was told
// of is a plain folder for the next.
func (s *Store) KeepUses(project int64, g *graph.Graph, formats format.Set, now time.Time) error {
	drives, err := s.CoreDrives()
	if err != nil {
		return err
	}
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
		f := &g.Files[r.File]
		rows = append(rows, row{drive.At(drives, f.Path), docs[r.Doc], r.Owner, r.Use.String(), string(survey.Read)})
		if f.Real != "" && f.Real != f.Path {
			rows = append(rows, row{drive.At(drives, f.Real), docs[r.Doc], r.Owner, r.Use.String(), string(survey.Read)})
		}
		if f.Frames != nil && len(f.Frames.Files) > 0 { // who looks for one frame finds it
			for _, p := range f.Frames.Files {
				rows = append(rows, row{drive.At(drives, p), docs[r.Doc], r.Owner, r.Use.String(), string(survey.Read)})
			}
		}
	}
	for i := range g.WritePoints {
		w := &g.WritePoints[i]
		rows = append(rows, row{drive.At(drives, w.Path), docs[w.Doc], w.Owner, w.Use.String(), string(survey.Write)})
	}
	by := int64(xxh3.HashString(trace.Signature(formats)))
	loose := unsteady(g)
	err = s.many(nil, `INSERT INTO traced (drive, path, size, mod, dev, ino, changed, steady, formats, at) VALUES (?,?,?,?,?,?,?,?,?,?)
		ON CONFLICT (drive, path) DO UPDATE SET size=excluded.size, mod=excluded.mod, dev=excluded.dev, ino=excluded.ino, changed=excluded.changed, steady=excluded.steady, formats=excluded.formats, at=excluded.at`, len(docs), func(i int) []any {
		st := g.Documents[i].Info.Stamp()
		return []any{docs[i].Drive, docs[i].Path, st.Size, st.Mod, int64(st.Node.Dev), int64(st.Node.Ino), st.Node.Changed, !loose[graph.DocID(i)], by, nanos(now)}
	})
	if err != nil {
		return err
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

// unsteady are the documents whose names may lead elsewhere while they do not
// change: one without a folder may be looked for, one loosely spelled or guessed
// may be found otherwise, and a choice of twins may fall.
func unsteady(g *graph.Graph) map[graph.DocID]bool {
	loose := map[graph.DocID]bool{}
	for i := range g.References {
		r := &g.References[i]
		if r.Guessed || r.Loose || r.State == graph.Twins || !strings.ContainsAny(r.Written, `/\`) {
			loose[r.Doc] = true
		}
	}
	for i := range g.Documents {
		if d := &g.Documents[i]; d.Guessed || d.Host != graph.DocID(i) {
			loose[graph.DocID(i)] = true
		}
	}
	return loose
}

// Ledger is a survey.Ledger of what was ever traced, as the drives are now.
type Ledger struct {
	s       *Store
	drives  []drive.Drive
	formats format.Set
	by      int64
	names   map[int64]string // of projects
}

// Ledger answers for documents read with some formats.
func (s *Store) Ledger(formats format.Set) (*Ledger, error) {
	drives, err := s.CoreDrives()
	if err != nil {
		return nil, err
	}
	projects, err := s.Projects()
	if err != nil {
		return nil, err
	}
	l := &Ledger{s, drives, formats, int64(xxh3.HashString(trace.Signature(formats))), map[int64]string{}}
	for _, p := range projects {
		l.names[p.ID] = p.Name
	}
	return l, nil
}

// Fresh implements survey.Ledger.
func (l *Ledger) Fresh(document string, is drive.Stamp) bool {
	p := drive.At(l.drives, document)
	var was drive.Stamp
	var by int64
	err := l.s.raw().QueryRow("SELECT size, mod, dev, ino, changed, formats FROM traced WHERE steady AND drive = ? AND path = ?", p.Drive, p.Path).Scan(
		&was.Size, &was.Mod, (*signed)(&was.Node.Dev), (*signed)(&was.Node.Ino), &was.Node.Changed, &by)
	return err == nil && was == is && by == l.by
}

// Learn implements survey.Ledger.
func (l *Ledger) Learn(g *graph.Graph) error {
	return l.s.KeepUses(0, g, l.formats, time.Now())
}

// Known implements survey.Ledger.
func (l *Ledger) Known() ([]string, error) {
	rows, err := l.s.raw().Query("SELECT drive, path FROM traced ORDER BY drive, path")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []string
	for rows.Next() {
		var p drive.Path
		if err := rows.Scan(&p.Drive, &p.Path); err != nil {
			return nil, err
		}
		if abs, ok := drive.Abs(l.drives, p); ok {
			list = append(list, abs)
		}
	}
	return list, rows.Err()
}

// Into implements survey.Ledger. One document that is known by a project and by
// itself is one.
func (l *Ledger) Into(path string) ([]survey.Use, error) {
	p := drive.At(l.drives, path)
	condition, args := "drive = ? AND (path = ? OR path > ? AND path < ?)", []any{p.Drive, p.Path, p.Path + "/", p.Path + "0"} // "0" follows "/"
	if p.Path == "/" {
		condition, args = "drive = ?", []any{p.Drive}
	}
	rows, err := l.s.raw().Query("SELECT project_id, drive, path, doc_drive, doc_path, owner, use, role, at FROM uses WHERE "+condition+" ORDER BY path, doc_path, project_id DESC", args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	type key struct {
		doc, path string
		role      survey.Role
		owner     string // of write points: each has to be set
	}
	met := map[key]bool{}
	var list []survey.Use
	for rows.Next() {
		var project, when int64
		var file, doc drive.Path
		var u survey.Use
		var use string
		if err := rows.Scan(&project, &file.Drive, &file.Path, &doc.Drive, &doc.Path, &u.Owner, &use, &u.Role, &when); err != nil {
			return nil, err
		}
		u.Use, _ = mention.ParseUse(use)
		u.At, u.Project = at(when), l.names[project]
		var here bool
		if u.Path, here = drive.Abs(l.drives, file); !here {
			continue
		}
		if u.Document, here = drive.Abs(l.drives, doc); !here {
			u.Document = doc.String() // a drive that is not known any more
		}
		k := key{doc: u.Document, path: u.Path, role: u.Role}
		if u.Role == survey.Write {
			k.owner = u.Owner
		}
		if !met[k] {
			met[k] = true
			list = append(list, u)
		}
	}
	return list, rows.Err()
}

// Foreign are the repairs that projects other than one keep, also those that were
// written into their documents, the newest first, as paths of the system now.
func (s *Store) Foreign(project int64, drives []drive.Drive) ([]mend.Foreign, error) {
	rows, err := s.raw().Query(`SELECT p.name, d.kind, d.from_drive, d.from_path, d.to_drive, d.to_path FROM decisions d JOIN projects p ON p.id = d.project_id
		WHERE d.project_id != ? AND d.kind IN (?, ?) AND NOT d.undone ORDER BY d.id DESC`, project, decide.Mend, decide.Move)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []mend.Foreign
	for rows.Next() {
		var f mend.Foreign
		var kind decide.Kind
		var from, to drive.Path
		if err := rows.Scan(&f.Project, &kind, &from.Drive, &from.Path, &to.Drive, &to.Path); err != nil {
			return nil, err
		}
		var here, there bool
		f.From, here = drive.Abs(drives, from)
		f.To, there = drive.Abs(drives, to)
		if f.Prefix = kind == decide.Move; here && there {
			list = append(list, f)
		}
	}
	return list, rows.Err()
}

// Namer tells, of a file, which projects other than one name it, by what was last
// traced of them. It is to be closed.
type Namer struct {
	exact, below *sql.Stmt
	drives       []drive.Drive
	project      int64
}

// Namer answers for one project.
func (s *Store) Namer(project int64, drives []drive.Drive) (*Namer, error) {
	const ask = "SELECT project_id, COUNT(DISTINCT path) FROM uses WHERE drive = ? AND role = 'read' AND project_id NOT IN (0, ?) AND "
	exact, err := s.raw().Prepare(ask + "path = ? GROUP BY project_id")
	if err != nil {
		return nil, err
	}
	below, err := s.raw().Prepare(ask + "path > ? AND path < ? GROUP BY project_id")
	if err != nil {
		exact.Close()
		return nil, err
	}
	return &Namer{exact, below, drives, project}, nil
}

// Close ends the asking.
func (n *Namer) Close() { n.exact.Close(); n.below.Close() }

// By counts, by the projects, the names that lead to a file, or with below into a
// folder.
func (n *Namer) By(path string, below bool) (map[int64]int, error) {
	p := drive.At(n.drives, path)
	ask, args := n.exact, []any{p.Drive, n.project, p.Path}
	if below {
		ask, args = n.below, []any{p.Drive, n.project, p.Path + "/", p.Path + "0"} // "0" follows "/"
	}
	rows, err := ask.Query(args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var by map[int64]int
	for rows.Next() {
		var id int64
		var count int
		if err := rows.Scan(&id, &count); err != nil {
			return nil, err
		}
		if by == nil {
			by = map[int64]int{}
		}
		by[id] = count
	}
	return by, rows.Err()
}
