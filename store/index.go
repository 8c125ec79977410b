package store

import (
	"context"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/zeebo/xxh3"

	"boundcrate/core/drive"
	"boundcrate/core/index"
	"boundcrate/core/names"
)

// Index is the drive index: which files the folders held that were looked
// through, by drive and path. It is an index.Index of the folders it was asked
// for.
type Index struct {
	s      *Store
	drives []drive.Drive
	within []drive.Path
	n      int
	unread []drive.Unread
	where  string // the condition that keeps to the folders
	args   []any
}

func nameKey(name string) int64 { return int64(xxh3.HashString(names.Fold(name))) }

func stemKey(stem string) int64 { return int64(xxh3.HashString(names.Loose(stem))) }

// Index is what is known of folders, as of the last Refresh of each.
func (s *Store) Index(drives []drive.Drive, folders ...string) (*Index, error) {
	x := &Index{s: s, drives: drives}
	var parts []string
	for _, f := range folders {
		p := drive.At(drives, filepath.Clean(f))
		x.within = append(x.within, p)
		if p.Path == "/" {
			parts = append(parts, "d.drive = ?")
			x.args = append(x.args, p.Drive)
			continue
		}
		parts = append(parts, "(d.drive = ? AND (d.path = ? OR d.path >= ? AND d.path < ?))")
		x.args = append(x.args, p.Drive, p.Path, p.Path+"/", p.Path+"0") // "0" follows "/"
	}
	x.where = "(" + strings.Join(parts, " OR ") + ")"
	if len(parts) == 0 {
		x.where = "FALSE"
	}
	if err := s.raw().QueryRow("SELECT COUNT(*) FROM files f JOIN folders d ON d.id = f.folder_id WHERE "+x.where, x.args...).Scan(&x.n); err != nil {
		return nil, err
	}
	rows, err := s.raw().Query("SELECT d.drive, d.path, d.unread FROM folders d WHERE d.unread <> '' AND "+x.where+" ORDER BY d.path", x.args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var p drive.Path
		var why string
		if err := rows.Scan(&p.Drive, &p.Path, &why); err != nil {
			return nil, err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			x.unread = append(x.unread, drive.Unread{Path: abs, Err: errors.New(why)})
		}
	}
	return x, rows.Err()
}

const entryColumns = "d.drive, d.path, f.name, f.size, f.mod, f.dev, f.ino, f.changed"

func (x *Index) entry(rows interface{ Scan(...any) error }) (index.Entry, error) {
	var p drive.Path
	var name string
	var e index.Entry
	if err := rows.Scan(&p.Drive, &p.Path, &name, &e.Size, &e.Mod, (*signed)(&e.Node.Dev), (*signed)(&e.Node.Ino), &e.Node.Changed); err != nil {
		return e, err
	}
	abs, ok := drive.Abs(x.drives, p)
	if !ok {
		abs = p.String()
	}
	e.Path = filepath.Join(abs, name)
	return e, nil
}

func (x *Index) find(join, condition string, args []any, same func(index.Entry) bool) ([]index.Entry, error) {
	rows, err := x.s.raw().Query("SELECT "+entryColumns+" FROM files f JOIN folders d ON d.id = f.folder_id "+join+" WHERE "+condition+" AND "+x.where, append(slices.Clone(args), x.args...)...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []index.Entry
	for rows.Next() {
		e, err := x.entry(rows)
		if err != nil {
			return nil, err
		}
		if same == nil || same(e) {
			list = append(list, e)
		}
	}
	slices.SortFunc(list, func(a, b index.Entry) int {
		if c := strings.Compare(filepath.Dir(a.Path), filepath.Dir(b.Path)); c != 0 {
			return c
		}
		return strings.Compare(a.Path, b.Path)
	})
	return list, rows.Err()
}

// Len implements index.Index.
func (x *Index) Len() int { return x.n }

// Unread implements index.Index.
func (x *Index) Unread() []drive.Unread { return x.unread }

// Named implements index.Index.
func (x *Index) Named(name string) ([]index.Entry, error) {
	key := names.Fold(name)
	return x.find("", "f.name_key = ?", []any{nameKey(name)}, func(e index.Entry) bool { return names.Fold(filepath.Base(e.Path)) == key })
}

// Stemmed implements index.Index.
func (x *Index) Stemmed(stem string) ([]index.Entry, error) {
	key := names.Loose(stem)
	return x.find("", "f.stem_key = ?", []any{stemKey(stem)}, func(e index.Entry) bool {
		s, _ := names.Split(filepath.Base(e.Path))
		return names.Loose(s) == key
	})
}

// Sized implements index.Index.
func (x *Index) Sized(bytes int64) ([]index.Entry, error) {
	return x.find("", "f.size = ?", []any{bytes}, nil)
}

// Hashed implements index.Index: what was seen of a file counts while the file is
// the one that was seen.
func (x *Index) Hashed(sha256 string) ([]index.Entry, error) {
	return x.find("JOIN seen s ON s.drive = d.drive AND s.path = CASE WHEN d.path = '/' THEN '/' || f.name ELSE d.path || '/' || f.name END AND s.size = f.size AND s.mod = f.mod AND s.ino = f.ino", "s.sha256 = ?", []any{sha256}, nil)
}

// Below implements index.Index.
func (x *Index) Below(dir string, each func(index.Entry) error) error {
	rows, err := x.s.raw().Query("SELECT "+entryColumns+" FROM folders d JOIN files f ON d.id = f.folder_id WHERE "+x.where+" ORDER BY d.drive, d.path, f.name", x.args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		e, err := x.entry(rows)
		if err != nil {
			return err
		}
		if drive.Within(dir, e.Path) {
			if err := each(e); err != nil {
				return err
			}
		}
	}
	return rows.Err()
}

// Each implements index.Index.
func (x *Index) Each(each func(int64, string) error) error {
	rows, err := x.s.raw().Query("SELECT f.id, f.name FROM files f JOIN folders d ON d.id = f.folder_id WHERE "+x.where, x.args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	var id int64
	var name string
	for rows.Next() {
		if err := rows.Scan(&id, &name); err != nil {
			return err
		}
		if err := each(id, name); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Entry implements index.Index.
func (x *Index) Entry(id int64) (index.Entry, error) {
	return x.entry(x.s.raw().QueryRow("SELECT "+entryColumns+" FROM files f JOIN folders d ON d.id = f.folder_id WHERE f.id = ?", id))
}

// Entries implements index.Index.
func (x *Index) Entries(ids []int64, each func(int64, index.Entry) error) error {
	for chunk := range slices.Chunk(ids, 1000) {
		list := make([]byte, 0, 8*len(chunk))
		for i, id := range chunk {
			if i > 0 {
				list = append(list, ',')
			}
			list = strconv.AppendInt(list, id, 10)
		}
		if err := x.entries(string(list), each); err != nil {
			return err
		}
	}
	return nil
}

func (x *Index) entries(list string, each func(int64, index.Entry) error) error {
	rows, err := x.s.raw().Query("SELECT f.id, " + entryColumns + " FROM files f JOIN folders d ON d.id = f.folder_id WHERE f.id IN (" + list + ") ORDER BY f.id")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var id int64
		e, err := x.entry(withID{rows, &id})
		if err != nil {
			return err
		}
		if err := each(id, e); err != nil {
			return err
		}
	}
	return rows.Err()
}

// withID reads a file's number before the columns of its entry.
type withID struct {
	rows *sql.Rows
	id   *int64
}

func (w withID) Scan(to ...any) error { return w.rows.Scan(append([]any{w.id}, to...)...) }

// Walked is what a walk through folders met.
type Walked struct {
	folders []string
	met     []drive.Folder
	unread  []drive.Unread
}

// Look walks through folders. progress, which may be nil, is told how many files
// were met and in which folder.
func Look(ctx context.Context, reach drive.Reach, folders []string, progress func(files int, dir string)) (*Walked, error) {
	w := &Walked{folders: folders}
	n := 0
	var err error
	w.unread, err = drive.Walk{Reach: reach, Dirs: folders, Each: func(f drive.Folder) error {
		w.met = append(w.met, f)
		if n += len(f.Files); progress != nil {
			progress(n, f.Path)
		}
		return nil
	}}.Run(ctx)
	return w, err
}

// Index is what was met, to be asked while it is being kept. It puts what was
// met in order: it is called before Keep.
func (w *Walked) Index() *index.Memory { return index.New(w.met, true, w.unread) }

// Refresh looks through folders and keeps what it met.
func (s *Store) Refresh(ctx context.Context, reach drive.Reach, drives []drive.Drive, folders []string, now time.Time, progress func(files int, dir string)) error {
	w, err := Look(ctx, reach, folders, progress)
	if err != nil {
		return err
	}
	return s.Keep(ctx, drives, w, now)
}

// Keep brings the index up to date with what was met: only what came, went or
// changed is written. On error or at the end of ctx the index stays as it was.
func (s *Store) Keep(ctx context.Context, drives []drive.Drive, walked *Walked, now time.Time) error {
	folders, met, unread := walked.folders, walked.met, walked.unread
	x, err := s.Index(drives, folders...)
	if err != nil {
		return err
	}
	known, err := x.known()
	if err != nil {
		return err
	}
	tx, err := s.writer().BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	w := indexWriter{tx: tx, known: known, now: nanos(now)}
	first, err := w.first()
	if err != nil {
		return err
	}
	if err := w.prepare(); err != nil {
		return err
	}
	defer w.close()
	for i := range met {
		if err := w.folder(drive.At(drives, met[i].Path), met[i].Files, ""); err != nil {
			return err
		}
	}
	for _, u := range unread {
		if err := w.folder(drive.At(drives, u.Path), nil, u.Err.Error()); err != nil {
			return err
		}
	}
	if err := w.flush(); err != nil {
		return err
	}
	if first {
		if err := w.order(); err != nil {
			return err
		}
	}
	for p := range w.known { // what was not met is gone
		if _, err := tx.Exec("DELETE FROM folders WHERE id = ?", w.known[p].id); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// kept is a folder as the index has it.
type kept struct {
	id     int64
	unread string
	digest int64
}

type keptFile struct {
	id        int64
	size, mod int64
	ino       uint64
	changed   int64
}

// digestOf tells one state of a folder's files from any other, in whatever
// order they were met.
func digestOf(files []drive.Entry) int64 {
	sum := uint64(len(files))
	var b []byte
	for i := range files {
		e := &files[i]
		b = append(b[:0], e.Name...)
		for _, n := range []uint64{uint64(e.Size), uint64(e.Mod), e.Node.Dev, e.Node.Ino, uint64(e.Node.Changed)} {
			b = binary.LittleEndian.AppendUint64(b, n)
		}
		sum += xxh3.Hash(b)
	}
	return int64(sum)
}

func (x *Index) known() (map[drive.Path]*kept, error) {
	out := map[drive.Path]*kept{}
	rows, err := x.s.raw().Query("SELECT d.id, d.drive, d.path, d.unread, d.digest FROM folders d WHERE "+x.where, x.args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var p drive.Path
		k := &kept{}
		if err := rows.Scan(&k.id, &p.Drive, &p.Path, &k.unread, &k.digest); err != nil {
			return nil, err
		}
		out[p] = k
	}
	return out, rows.Err()
}

// indexWriter writes what differs from what is known, and takes what it met off
// the known.
type indexWriter struct {
	tx                     *sql.Tx
	known                  map[drive.Path]*kept
	now                    int64
	newFolder, put, update *sql.Stmt
	several                *sql.Stmt // puts as many as are put together
	rows                   []any     // of files that wait to be put
}

// fileColumns is how many there are, atOnce how many rows one statement puts.
const (
	fileColumns = 9
	atOnce      = 250
)

// inOrder are the orders that are made once all rows of a first index are there,
// which is much faster than keeping them all the while.
var inOrder = map[string]string{"files_name": "name_key", "files_stem": "stem_key", "files_size": "size"}

// first tells that nothing is indexed yet, and takes the orders away.
func (w *indexWriter) first() (bool, error) {
	var one int
	switch err := w.tx.QueryRow("SELECT 1 FROM files LIMIT 1").Scan(&one); {
	case err == nil:
		return false, nil
	case !errors.Is(err, sql.ErrNoRows):
		return false, err
	}
	for name := range inOrder {
		if _, err := w.tx.Exec("DROP INDEX IF EXISTS " + name); err != nil {
			return false, err
		}
	}
	return true, nil
}

// order makes the orders again.
func (w *indexWriter) order() error {
	for name, column := range inOrder {
		if _, err := w.tx.Exec("CREATE INDEX " + name + " ON files (" + column + ")"); err != nil {
			return err
		}
	}
	return nil
}

// add puts a file, together with others.
func (w *indexWriter) add(row ...any) error {
	if w.rows = append(w.rows, row...); len(w.rows) < fileColumns*atOnce {
		return nil
	}
	_, err := w.several.Exec(w.rows...)
	w.rows = w.rows[:0]
	return err
}

// flush puts those that wait.
func (w *indexWriter) flush() error {
	for i := 0; i < len(w.rows); i += fileColumns {
		if _, err := w.put.Exec(w.rows[i : i+fileColumns]...); err != nil {
			return err
		}
	}
	w.rows = w.rows[:0]
	return nil
}

const putFile = "INSERT INTO files (folder_id, name, name_key, stem_key, size, mod, dev, ino, changed) VALUES (?,?,?,?,?,?,?,?,?)"

func (w *indexWriter) prepare() (err error) {
	for _, p := range []struct {
		to   **sql.Stmt
		text string
	}{
		{&w.newFolder, "INSERT INTO folders (drive, path, unread, at, digest) VALUES (?,?,?,?,?) ON CONFLICT (drive, path) DO UPDATE SET unread = excluded.unread, at = excluded.at, digest = excluded.digest RETURNING id"},
		{&w.put, putFile},
		{&w.several, putFile + strings.Repeat(",(?,?,?,?,?,?,?,?,?)", atOnce-1)},
		{&w.update, "UPDATE files SET size = ?, mod = ?, dev = ?, ino = ?, changed = ? WHERE id = ?"},
	} {
		if *p.to, err = w.tx.Prepare(p.text); err != nil {
			return fmt.Errorf("index: %w", err)
		}
	}
	return nil
}

func (w *indexWriter) close() {
	for _, st := range []*sql.Stmt{w.newFolder, w.put, w.several, w.update} {
		st.Close()
	}
}

func (w *indexWriter) files(folder int64) (map[string]keptFile, error) {
	rows, err := w.tx.Query("SELECT id, name, size, mod, ino, changed FROM files WHERE folder_id = ?", folder)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]keptFile{}
	for rows.Next() {
		var name string
		var f keptFile
		if err := rows.Scan(&f.id, &name, &f.size, &f.mod, (*signed)(&f.ino), &f.changed); err != nil {
			return nil, err
		}
		out[name] = f
	}
	return out, rows.Err()
}

func (w *indexWriter) folder(p drive.Path, files []drive.Entry, unread string) error {
	k, digest := w.known[p], digestOf(files)
	delete(w.known, p)
	if k != nil && k.unread == unread && k.digest == digest {
		return nil
	}
	var id int64
	if err := w.newFolder.QueryRow(p.Drive, p.Path, unread, w.now, digest).Scan(&id); err != nil {
		return err
	}
	known := map[string]keptFile{}
	if k != nil {
		var err error
		if known, err = w.files(id); err != nil {
			return err
		}
	}
	for i := range files {
		e := &files[i]
		old, ok := known[e.Name]
		delete(known, e.Name)
		switch {
		case !ok:
			stem, _ := names.Split(e.Name)
			if err := w.add(id, e.Name, nameKey(e.Name), stemKey(stem), e.Size, e.Mod, int64(e.Node.Dev), int64(e.Node.Ino), e.Node.Changed); err != nil {
				return err
			}
		case old.size != e.Size || old.mod != e.Mod || old.ino != e.Node.Ino || old.changed != e.Node.Changed:
			if _, err := w.update.Exec(e.Size, e.Mod, int64(e.Node.Dev), int64(e.Node.Ino), e.Node.Changed, old.id); err != nil {
				return err
			}
		}
	}
	for _, gone := range known {
		if _, err := w.tx.Exec("DELETE FROM files WHERE id = ?", gone.id); err != nil {
			return err
		}
	}
	return nil
}
