package store

import (
	"database/sql"
	"path/filepath"
	"strings"

	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/may"
)

// stamp is what a file was when a document found it; a size below 0: it never did.
type stamp struct{ size, mod int64 }

// there is what a graph found, by paths.
type there struct {
	at    map[string]*graph.File
	frame map[string]bool // files of sequences
}

func found(g *graph.Graph) there {
	t := there{map[string]*graph.File{}, map[string]bool{}}
	for i := range g.Files {
		f := &g.Files[i]
		if f.Frames != nil {
			for _, p := range f.Frames.Files {
				t.frame[p] = true
			}
			continue
		}
		if !f.State.Found() {
			continue
		}
		for _, p := range append([]string{f.Path, f.Real}, f.Also...) {
			t.at[p] = f
		}
	}
	return t
}

func (t there) of(path string) (size, mod int64, ok bool) {
	if f := t.at[path]; f != nil {
		return f.Stamp.Size, f.Stamp.Mod, true
	}
	return 0, 0, false
}

// foundBefore are the files that a document found when it was last traced, or before.
func (s *Store) foundBefore(project int64, doc drive.Path) (map[drive.Path]stamp, error) {
	list := map[drive.Path]stamp{}
	err := s.each("SELECT drive, path, size, mod FROM uses WHERE (project_id IS NULL OR project_id = ?) AND doc_drive = ? AND doc_path = ? AND size >= 0", []any{project, doc.Drive, doc.Path}, func(scan scan) error {
		var p drive.Path
		var w stamp
		if err := scan(&p.Drive, &p.Path, &w.size, &w.mod); err != nil {
			return err
		}
		list[p] = w
		return nil
	})
	return list, err
}

// goneFrames are files of a sequence that a document found when it was last traced, and that
// are not there now: it names them still.
func (s *Store) goneFrames(r *graph.Reference, drives []drive.Drive, doc drive.Path, there map[string]bool) (list []drive.Path, err error) {
	pat, ok := graph.ParsePattern(r.Expected)
	if !ok || len(r.Gaps) == 0 && r.State.Found() {
		return nil, nil
	}
	dir := drive.At(drives, pat.Dir)
	err = s.each("SELECT DISTINCT path FROM uses WHERE drive = ? AND path > ? AND path < ? AND doc_drive = ? AND doc_path = ? AND size IS NULL", []any{dir.Drive, dir.Path + "/", dir.Path + "0", doc.Drive, doc.Path}, func(scan scan) error { // "0" follows "/"
		p := drive.Path{Drive: dir.Drive}
		if err := scan(&p.Path); err != nil {
			return err
		}
		name := p.Path[strings.LastIndexByte(p.Path, '/')+1:]
		if _, frame := pat.Number(name); frame && p.Path == dir.Path+"/"+name && !there[filepath.Join(pat.Dir, name)] {
			list = append(list, p)
		}
		return nil
	})
	return list, err
}

// Of is what was last seen at a path where a document names it: lent, where others saw it
// and that document never did. It is a mend.Memory.
func (m *Memory) Of(document, path string) (mend.Seen, bool) {
	last, ok := m.Last(path)
	if !ok && document != "" && !filepath.IsAbs(path) {
		return m.byTail(document, path)
	}
	if !ok || document == "" {
		return last, ok
	}
	stamps, err := m.foundBy(drive.At(m.drives, document))
	if err != nil {
		return last, ok
	}
	last.Lent = !slices.ContainsFunc(stamps[drive.At(m.drives, path)], func(w stamp) bool {
		return w == untold || w.size == last.Size && w.mod == nanos(last.ModTime)
	})
	return last, ok
}

// byTail is what was last seen of a file that a document names by a path of another machine:
// of those it found here before, the one whose path ends in the same way, folder and name at
// the least. It is lent: two may end alike.
func (m *Memory) byTail(document, path string) (mend.Seen, bool) {
	stamps, err := m.foundBy(drive.At(m.drives, document))
	if err != nil {
		return mend.Seen{}, false
	}
	var best drive.Path
	most, several := leastTail-1, false
	for p := range stamps {
		switch n := tail(p.Path, path); {
		case n > most:
			best, most, several = p, n, false
		case n == most:
			several = true
		}
	}
	at, ok := drive.Abs(m.drives, best)
	if !ok || most < leastTail || several {
		return mend.Seen{}, false
	}
	last, ok := m.Last(at)
	last.Lent = true
	return last, ok
}

// leastTail is how many parts of two paths must be the same from their ends.
const leastTail = 2

// tail counts them.
func tail(a, b string) (n int) {
	x, y := strings.Split(a, "/"), strings.Split(b, "/")
	for n < len(x) && n < len(y) && x[len(x)-1-n] == y[len(y)-1-n] {
		n++
	}
	return n
}

// foundBy is what the files that a document names were when it found them, by any project that
// has it; asked for once, since whoever mends one of its files mends them all.
func (m *Memory) foundBy(d drive.Path) (map[drive.Path][]stamp, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if list, known := m.byDoc[d]; known {
		return list, nil
	}
	list := map[drive.Path][]stamp{}
	err := every(m.found, []any{d.Drive, d.Path}, func(scan scan) error {
		var p drive.Path
		var size, mod sql.NullInt64
		if err := scan(&p.Drive, &p.Path, &size, &mod); err != nil {
			return err
		}
		w := untold
		if size.Valid {
			w = stamp{size.Int64, mod.Int64}
		}
		if !slices.Contains(list[p], w) {
			list[p] = append(list[p], w)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if m.byDoc == nil || len(m.byDoc) > maxDocs {
		m.byDoc = map[drive.Path]map[drive.Path][]stamp{}
	}
	m.byDoc[d] = list
	return list, nil
}

// maxDocs is of how many documents that is held at a time.
const maxDocs = 64

// Claimed tells files that documents other than those of a graph name, where they found
// them.
func (m *Memory) Claimed(g *graph.Graph) func(path string) bool {
	own := m.own(g)
	return func(path string) bool {
		p := drive.At(m.drives, path)
		claimed := false
		err := every(m.users, []any{p.Drive, p.Path}, func(scan scan) error {
			var d drive.Path
			err := scan(&d.Drive, &d.Path)
			claimed = claimed || !own[d]
			return err
		})
		return claimed || err != nil // where nobody can tell, it is
	}
}

// maxBelow is how many rows of files in a folder and below it are looked at.
const maxBelow = 4000

// NamedBelow tells the files that documents other than those of a graph read in a folder or
// below it, the first of them where they are many. It is what mend.Reading asks for as Others.
func (m *Memory) NamedBelow(g *graph.Graph) func(dir string) []string {
	own := m.own(g)
	return func(dir string) (list []string) {
		at := drive.At(m.drives, dir)
		from, to := at.Path+"/", at.Path+"0" // "0" follows "/"
		if at.Path == "" || at.Path == "." {
			from, to = "", "\U0010ffff"
		}
		met := map[string]bool{}
		err := m.s.each("SELECT path, doc_drive, doc_path FROM uses WHERE drive = ? AND path > ? AND path < ? AND role != 'write' ORDER BY path LIMIT ?", []any{at.Drive, from, to, maxBelow}, func(scan scan) error {
			p := drive.Path{Drive: at.Drive}
			var d drive.Path
			if err := scan(&p.Path, &d.Drive, &d.Path); err != nil {
				return err
			}
			if abs, ok := drive.Abs(m.drives, p); ok && !own[d] && !met[abs] {
				met[abs] = true
				list = append(list, abs)
			}
			return nil
		})
		if err != nil {
			return nil // nobody votes then
		}
		return list
	}
}

// own are the documents of a graph.
func (m *Memory) own(g *graph.Graph) map[drive.Path]bool {
	own := map[drive.Path]bool{}
	for i := range g.Documents {
		own[drive.At(m.drives, g.Documents[i].Path)] = true
	}
	return own
}

// use is one row of what a document names.
type use struct {
	file, doc        drive.Path
	owner, use, role string
}

// untold is the stamp of what nobody keeps: frames of sequences, folders that are written to.
var untold = stamp{size: -2}

// uses gathers the rows of what documents name.
type uses struct {
	s       *Store
	project int64
	drives  []drive.Drive
	reach   drive.Reach
	several bool // graphs
	rows    []use
	was     []stamp // of the rows: what each file was when its document last found it
	earlier map[drive.Path]map[drive.Path]stamp
	docs    map[drive.Path]*document
	order   []drive.Path
	met     map[use]bool
}

// add takes in a graph; onDisk tells one of what the documents say on disk, where repairs are
// not written yet.
func (u *uses) add(g *graph.Graph, disk bool) error {
	at := make([]drive.Path, len(g.Documents))
	loose := unsteady(g)
	for i := range g.Documents {
		at[i] = drive.At(u.drives, g.Documents[i].Path)
		d := u.docs[at[i]]
		if d == nil {
			d = &document{stamp: g.Documents[i].Info.Stamp(), steady: true}
			u.docs[at[i]] = d
			u.order = append(u.order, at[i])
		}
		d.steady = d.steady && !loose[graph.DocID(i)]
	}
	there := found(g)
	for _, n := range may.Names(g, u.reach) {
		r := use{drive.At(u.drives, n.Path), at[n.Doc], n.Owner, n.Use.String(), string(n.Role)}
		if n.Role == may.Read && (disk || n.OnDisk) {
			r.role = onDisk
		}
		if u.several {
			if u.met[r] {
				continue
			}
			u.met[r] = true
		}
		w := untold
		if size, mod, told := there.of(n.Path); told {
			w = stamp{size, mod}
		} else if n.Role == may.Read && !there.frame[n.Path] {
			var err error
			if w, err = u.before(r); err != nil {
				return err
			}
		}
		u.rows, u.was = append(u.rows, r), append(u.was, w)
	}
	for i := range g.References {
		r := &g.References[i]
		gone, err := u.s.goneFrames(r, u.drives, at[r.Doc], there.frame)
		if err != nil {
			return err
		}
		for _, p := range gone {
			if k := (use{p, at[r.Doc], r.Owner, r.Use.String(), string(may.Read)}); !u.met[k] {
				u.met[k] = true
				u.rows, u.was = append(u.rows, k), append(u.was, untold)
			}
		}
	}
	return nil
}

// before is what a file that is not there was when its document last found it.
func (u *uses) before(r use) (stamp, error) {
	if u.earlier[r.doc] == nil {
		var err error
		if u.earlier[r.doc], err = u.s.foundBefore(u.project, r.doc); err != nil {
			return stamp{}, err
		}
	}
	if w, found := u.earlier[r.doc][r.file]; found {
		return w, nil
	}
	return stamp{size: -1}, nil
}
