package store

import (
	"database/sql"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/may"
	"boundcrate/core/road/trace"
	"boundcrate/core/survey/survey"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// KeepUses replaces what a project's documents use by what traces with some formats
// found: one as a person's repairs have it, and where these are not written yet one as the
// documents say on disk. Only the configured drives give an identity: one that a single
// command was told of is a plain folder for the next.
func (s *Store) KeepUses(project int64, reach drive.Reach, formats format.Set, now time.Time, graphs ...*graph.Graph) error {
	drives, err := s.CoreDrives()
	if err != nil {
		return err
	}
	u := &uses{s: s, project: project, drives: drives, reach: reach, several: len(graphs) > 1, earlier: map[drive.Path]map[drive.Path]stamp{}, docs: map[drive.Path]*document{}, met: map[use]bool{}}
	for n, g := range graphs {
		if err := u.add(g, n > 0); err != nil {
			return err
		}
	}
	rows, docs, order := u.rows, u.docs, u.order
	by := signature(trace.Signature(formats))
	err = s.many(nil, `INSERT INTO traced (drive, path, size, mod, dev, ino, changed, steady, formats, at) VALUES (?,?,?,?,?,?,?,?,?,?)
		ON CONFLICT (drive, path) DO UPDATE SET size=excluded.size, mod=excluded.mod, dev=excluded.dev, ino=excluded.ino, changed=excluded.changed, steady=excluded.steady, formats=excluded.formats, at=excluded.at`, len(order), func(i int) []any {
		p, d := order[i], docs[order[i]]
		return []any{p.Drive, p.Path, d.stamp.Size, d.stamp.Mod, int64(d.stamp.Node.Dev), int64(d.stamp.Node.Ino), d.stamp.Node.Changed, d.steady, by, nanos(now)}
	})
	if err != nil {
		return err
	}
	came, went, err := u.differences()
	if err != nil {
		return err
	}
	return s.many(func(tx *sql.Tx) error {
		if len(went) == 0 {
			return nil
		}
		st, err := tx.Prepare("DELETE FROM uses WHERE rowid = ?")
		if err != nil {
			return err
		}
		defer st.Close()
		for _, id := range went {
			if _, err := st.Exec(id); err != nil {
				return err
			}
		}
		return nil
	}, `INSERT INTO uses (project_id, drive, path, doc_drive, doc_path, owner, use, role, at, size, mod) VALUES (?,?,?,?,?,?,?,?,?,?,?)`, len(came), func(i int) []any {
		r := &rows[came[i]]
		var size, mod any
		if w := u.was[came[i]]; w != untold {
			size, mod = w.size, w.mod
		}
		return []any{OfProject(project), r.file.Drive, r.file.Path, r.doc.Drive, r.doc.Path, r.owner, r.use, r.role, nanos(now), size, mod}
	})
}

// differences are the rows that are to be written, by their place in rows, and those of the table
// that are to go: of 50,000 uses of which one changed, two.
func (u *uses) differences() (came []int, went []int64, err error) {
	type kept struct {
		use
		was stamp
	}
	want := make(map[kept]int, len(u.rows))
	for i, r := range u.rows {
		want[kept{r, u.was[i]}] = i
	}
	stands := make([]bool, len(u.rows))
	look := func(condition string, args ...any) error {
		err := u.s.each("SELECT rowid, drive, path, doc_drive, doc_path, owner, use, role, size, mod FROM uses WHERE "+condition, args, func(scan scan) error {
			var id int64
			var size, mod sql.NullInt64
			k := kept{was: untold}
			if err := scan(&id, &k.file.Drive, &k.file.Path, &k.doc.Drive, &k.doc.Path, &k.owner, &k.use.use, &k.role, &size, &mod); err != nil {
				return err
			}
			if size.Valid {
				k.was = stamp{size.Int64, mod.Int64}
			}
			if i, ok := want[k]; ok && !stands[i] {
				stands[i] = true
			} else {
				went = append(went, id)
			}
			return nil
		})
		return err
	}
	if u.project != 0 {
		err = look("project_id = ?", u.project)
	} else {
		for _, d := range u.order {
			err = errors.Join(err, look("project_id IS NULL AND doc_drive = ? AND doc_path = ?", d.Drive, d.Path))
		}
	}
	for i := range stands {
		if !stands[i] {
			came = append(came, i)
		}
	}
	return came, went, err
}

// onDisk is the role of what a document names only as it stands on disk, where a repair that
// is not written leads elsewhere.
const onDisk = "on-disk"

// document is one that was traced.
type document struct {
	stamp  drive.Stamp
	steady bool
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
	unread := len(survey.Unread(g)) > 0 // whatever could not be read may name anything once it can
	for i := range g.Documents {
		if d := &g.Documents[i]; unread || d.Guessed || d.Host != graph.DocID(i) {
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
	l := &Ledger{s, drives, formats, signature(trace.Signature(formats)), map[int64]string{}}
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
func (l *Ledger) Learn(g *graph.Graph, reach drive.Reach) error {
	return l.s.KeepUses(0, reach, l.formats, time.Now(), g)
}

// Heads implements survey.Ledger.
func (l *Ledger) Heads() (map[string]survey.Head, error) {
	heads := map[string]survey.Head{}
	err := l.s.each("SELECT drive, path, size, mod, dev, ino, changed, document FROM heads WHERE formats = ?", []any{l.by}, func(scan scan) error {
		var p drive.Path
		var h survey.Head
		if err := scan(&p.Drive, &p.Path, &h.Stamp.Size, &h.Stamp.Mod, (*signed)(&h.Stamp.Node.Dev), (*signed)(&h.Stamp.Node.Ino), &h.Stamp.Node.Changed, &h.Document); err != nil {
			return err
		}
		if abs, ok := drive.Abs(l.drives, p); ok {
			heads[abs] = h
		}
		return nil
	})
	return heads, err
}

// KeepHeads implements survey.Ledger.
func (l *Ledger) KeepHeads(heads map[string]survey.Head, gone []string) error {
	paths := slices.Sorted(maps.Keys(heads))
	return l.s.many(func(tx *sql.Tx) error {
		for _, g := range gone {
			p := drive.At(l.drives, g)
			if _, err := tx.Exec("DELETE FROM heads WHERE drive = ? AND path = ?", p.Drive, p.Path); err != nil {
				return err
			}
		}
		return nil
	}, "INSERT OR REPLACE INTO heads (drive, path, size, mod, dev, ino, changed, formats, document) VALUES (?,?,?,?,?,?,?,?,?)", len(paths), func(i int) []any {
		p, h := drive.At(l.drives, paths[i]), heads[paths[i]]
		return []any{p.Drive, p.Path, h.Stamp.Size, h.Stamp.Mod, int64(h.Stamp.Node.Dev), int64(h.Stamp.Node.Ino), h.Stamp.Node.Changed, l.by, h.Document}
	})
}

// Known implements survey.Ledger.
func (l *Ledger) Known() ([]string, error) {
	var list []string
	err := l.s.each("SELECT drive, path FROM traced ORDER BY drive, path", nil, func(scan scan) error {
		var p drive.Path
		if err := scan(&p.Drive, &p.Path); err != nil {
			return err
		}
		if abs, ok := drive.Abs(l.drives, p); ok {
			list = append(list, abs)
		}
		return nil
	})
	return list, err
}

// Into implements survey.Ledger. One document that is known by a project and by
// itself is one.
func (l *Ledger) Into(path string) ([]survey.Use, error) {
	p := drive.At(l.drives, path)
	condition, args := "drive = ? AND (path = ? OR path > ? AND path < ?)", []any{p.Drive, p.Path, p.Path + "/", p.Path + "0"} // "0" follows "/"
	if p.Path == "/" {
		condition, args = "drive = ?", []any{p.Drive}
	}
	type key struct {
		doc, path string
		role      may.Role
		owner     string // of write points: each has to be set
	}
	met := map[key]bool{}
	var list []survey.Use
	err := l.s.each("SELECT COALESCE(project_id, 0), drive, path, doc_drive, doc_path, owner, use, role, COALESCE((SELECT t.at FROM traced t WHERE t.drive = doc_drive AND t.path = doc_path), at) FROM uses WHERE "+condition+" ORDER BY path, doc_path, project_id DESC", args, func(scan scan) error {
		var project, when int64
		var file, doc drive.Path
		var u survey.Use
		var use string
		if err := scan(&project, &file.Drive, &file.Path, &doc.Drive, &doc.Path, &u.Owner, &use, &u.Role, &when); err != nil {
			return err
		}
		if u.Role == onDisk {
			u.Role = may.Read
		}
		u.Use, _ = mention.ParseUse(use)
		u.At, u.Project = at(when), l.names[project]
		var here bool
		if u.Path, here = drive.Abs(l.drives, file); !here {
			return nil
		}
		if u.Document, here = drive.Abs(l.drives, doc); !here {
			u.Document = doc.String() // a drive that is not known any more
		}
		k := key{doc: u.Document, path: u.Path, role: u.Role}
		if u.Role == may.Write {
			k.owner = u.Owner
		}
		if !met[k] {
			met[k] = true
			list = append(list, u)
		}
		return nil
	})
	return list, err
}

// Foreign are the repairs that projects other than one keep, also those that were
// written into their documents, the newest first, as paths of the system now.
func (s *Store) Foreign(project int64, drives []drive.Drive) ([]mend.Foreign, error) {
	var list []mend.Foreign
	err := s.each(`SELECT p.name, d.kind, d.from_drive, d.from_path, d.to_drive, d.to_path FROM decisions d JOIN projects p ON p.id = d.project_id
		WHERE d.project_id != ? AND d.kind IN (?, ?) AND NOT d.undone ORDER BY d.id DESC`, []any{project, decide.Mend, decide.Move}, func(scan scan) error {
		var f mend.Foreign
		var kind decide.Kind
		var from, to drive.Path
		if err := scan(&f.Project, &kind, &from.Drive, &from.Path, &to.Drive, &to.Path); err != nil {
			return err
		}
		var here, there bool
		f.From, here = drive.Abs(drives, from)
		f.To, there = drive.Abs(drives, to)
		if f.Prefix = kind == decide.Move; here && there {
			list = append(list, f)
		}
		return nil
	})
	return list, err
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
	const ask = "SELECT project_id, COUNT(DISTINCT path) FROM uses WHERE drive = ? AND role = 'read' AND project_id <> ? AND "
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
	var by map[int64]int
	err := every(ask, args, func(scan scan) error {
		var id int64
		var count int
		if err := scan(&id, &count); err != nil {
			return err
		}
		if by == nil {
			by = map[int64]int{}
		}
		by[id] = count
		return nil
	})
	return by, err
}
