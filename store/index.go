package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/zeebo/xxh3"
	"golang.org/x/sync/singleflight"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
)

// The drive index is what was met when drives were last looked through: a row a
// folder, by drive and path. Whoever asks it gets it in memory.

// within is the condition that keeps to folders, and what it is asked with.
func within(drives []drive.Drive, folders []string) (condition string, args []any) {
	var parts []string
	for _, f := range folders {
		p := drive.At(drives, filepath.Clean(f))
		if p.Path == "/" {
			parts = append(parts, "drive = ?")
			args = append(args, p.Drive)
			continue
		}
		parts = append(parts, "(drive = ? AND (path = ? OR path >= ? AND path < ?))")
		args = append(args, p.Drive, p.Path, p.Path+"/", p.Path+"0") // "0" follows "/"
	}
	if len(parts) == 0 {
		return "FALSE", nil
	}
	return strings.Join(parts, " OR "), args
}

// Index is what is known of folders and what lies below them, as of the last
// Refresh of each. Contents are those of the memory, of files that did not change
// since.
func (s *Store) Index(drives []drive.Drive, folders ...string) (*index.Memory, error) {
	known, unread, err := s.listings(drives, folders)
	if err != nil {
		return nil, err
	}
	met := make([]drive.Folder, 0, len(known))
	for _, f := range known {
		met = append(met, f)
	}
	x := index.New(met, true, unread)
	return x, s.learned(x, drives, folders)
}

// listings are the folders that are known, by their paths, and those that could not
// be read.
func (s *Store) listings(drives []drive.Drive, folders []string) (known map[string]drive.Folder, unread []drive.Unread, err error) {
	condition, args := within(drives, folders)
	known = map[string]drive.Folder{}
	err = s.each("SELECT drive, path, unread, listing FROM folders JOIN listings ON folder_id = id WHERE "+condition, args, func(scan scan) error {
		var p drive.Path
		var why string
		var listing sql.RawBytes
		if err := scan(&p.Drive, &p.Path, &why, &listing); err != nil {
			return err
		}
		abs, ok := drive.Abs(drives, p)
		if !ok {
			return nil // of a drive that is not known any more
		}
		if why != "" {
			unread = append(unread, drive.Unread{Path: abs, Err: errors.New(why)})
			return nil
		}
		f, err := index.Unpack(listing)
		if err != nil {
			return fmt.Errorf("‘%s’: %w", abs, err)
		}
		f.Path = abs
		known[abs] = f
		return nil
	})
	return known, unread, err
}

// learned tells an index what was seen of its files.
func (s *Store) learned(x *index.Memory, drives []drive.Drive, folders []string) error {
	condition, args := within(drives, folders)
	return s.each("SELECT drive, path, size, mod, dev, ino, changed, sha256 FROM seen WHERE sha256 <> '' AND ("+condition+")", args, func(scan scan) error {
		var p drive.Path
		var sum string
		var e drive.Entry
		if err := scan(&p.Drive, &p.Path, &e.Size, &e.Mod, (*signed)(&e.Node.Dev), (*signed)(&e.Node.Ino), &e.Node.Changed, &sum); err != nil {
			return err
		}
		if abs, ok := drive.Abs(drives, p); ok {
			x.Learn(index.Entry{Path: abs, Size: e.Size, Mod: e.Mod, Node: e.Node}, sum)
		}
		return nil
	})
}

// Walked is what a walk through folders met.
type Walked struct {
	folders []string
	met     []drive.Folder
	unread  []drive.Unread
}

// Look walks through folders. progress, which may be nil, is told how many files
// were met and in which folder.
func Look(ctx context.Context, reach drive.Reach, folders []string, progress func(files int, dir string)) (*Walked, error) {
	return walk(ctx, drive.Walk{Reach: reach, Dirs: folders}, progress)
}

// IndexShallow looks through folders, but for those in which no name came or went since
// they were last looked through: they are taken from the index. Sizes and times of
// files may be those of then.
func (s *Store) IndexShallow(ctx context.Context, reach drive.Reach, drives []drive.Drive, folders []string, progress func(files int, dir string)) (*Walked, error) {
	known, _, err := s.listings(drives, folders)
	if err != nil {
		return nil, err
	}
	return walk(ctx, drive.Walk{Reach: reach, Dirs: folders, Known: func(dir string) (drive.Folder, bool) { f, ok := known[dir]; return f, ok }}, progress)
}

func walk(ctx context.Context, how drive.Walk, progress func(files int, dir string)) (*Walked, error) {
	w := &Walked{folders: how.Dirs}
	n := 0
	how.Each = func(f drive.Folder) error {
		w.met = append(w.met, f)
		if n += len(f.Files); progress != nil {
			progress(n, f.Path)
		}
		return nil
	}
	var err error
	w.unread, err = how.Run(ctx)
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

// Keep brings the index up to date with what was met: only folders that came,
// went or changed are written. On error or at the end of ctx the index stays as it
// was.
func (s *Store) Keep(ctx context.Context, drives []drive.Drive, walked *Walked, now time.Time) error {
	known, err := s.kept(drives, walked.folders)
	if err != nil {
		return err
	}
	tx, err := s.writer().BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	put, err := tx.Prepare(`INSERT INTO folders (drive, path, unread, at, files, digest) VALUES (?,?,?,?,?,?)
		ON CONFLICT (drive, path) DO UPDATE SET unread = excluded.unread, at = excluded.at, files = excluded.files, digest = excluded.digest RETURNING id`)
	if err != nil {
		return err
	}
	defer put.Close()
	pack, err := tx.Prepare("INSERT OR REPLACE INTO listings (folder_id, listing) VALUES (?,?)")
	if err != nil {
		return err
	}
	defer pack.Close()
	given := map[string]bool{} // when those were looked through is told by their rows
	for _, f := range walked.folders {
		given[filepath.Clean(f)] = true
	}
	var listing []byte
	one := func(f drive.Folder, unread string) error {
		p := drive.At(drives, f.Path)
		if _, ok := known[p]; ok && f.Known && !given[f.Path] {
			delete(known, p)
			return nil
		}
		listing = index.Pack(listing[:0], f)
		is := kept{unread: unread, digest: int64(xxh3.Hash(listing))}
		was, ok := known[p]
		delete(known, p)
		if ok && !given[f.Path] && was.unread == is.unread && was.digest == is.digest {
			return nil
		}
		var id int64
		if err := put.QueryRow(p.Drive, p.Path, unread, nanos(now), len(f.Files), is.digest).Scan(&id); err != nil {
			return err
		}
		if ok && was.digest == is.digest {
			return nil
		}
		_, err := pack.Exec(id, listing)
		return err
	}
	for i := range walked.met {
		if err := one(walked.met[i], ""); err != nil {
			return err
		}
	}
	for _, u := range walked.unread {
		if err := one(drive.Folder{Path: u.Path}, u.Err.Error()); err != nil {
			return err
		}
	}
	for _, gone := range known { // what was not met
		if _, err := tx.Exec("DELETE FROM folders WHERE id = ?", gone.id); err != nil {
			return err
		}
	}
	defer s.catalogue.forget()
	return tx.Commit()
}

// catalogue is the index of all drives in memory, until something else is kept.
type catalogue struct {
	mu     sync.Mutex
	drives string // those it was made for
	x      *index.Memory
	made   int // how often it was forgotten: what was read before is not kept
	making singleflight.Group
}

func (c *catalogue) forget() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.x = nil
	c.made++
}

// of is the one that was made for some drives, and when it has to be made by.
func (c *catalogue) of(drives string) (x *index.Memory, made int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.drives != drives {
		return nil, c.made
	}
	return c.x, c.made
}

func (c *catalogue) keep(drives string, x *index.Memory, made int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.made == made {
		c.drives, c.x = drives, x
	}
}

// Catalogue is the index of all drives, made once and kept in memory until the
// index changes.
func (s *Store) Catalogue(drives []drive.Drive) (*index.Memory, error) {
	var dirs []string
	for _, d := range drives {
		dirs = append(dirs, d.Dir)
	}
	key := fmt.Sprintf("%q", dirs)
	x, made := s.catalogue.of(key)
	if x != nil {
		return x, nil
	}
	// Many who ask wait for one; no lock is held meanwhile.
	got, err, _ := s.catalogue.making.Do(fmt.Sprint(key, made), func() (any, error) {
		x, err := s.Index(drives, dirs...)
		if err == nil {
			s.catalogue.keep(key, x, made)
		}
		return x, err
	})
	if err != nil {
		return nil, err
	}
	return got.(*index.Memory), nil
}

// kept is a folder as the index has it.
type kept struct {
	id     int64
	unread string
	digest int64
}

func (s *Store) kept(drives []drive.Drive, folders []string) (map[drive.Path]kept, error) {
	condition, args := within(drives, folders)
	out := map[drive.Path]kept{}
	err := s.each("SELECT id, drive, path, unread, digest FROM folders WHERE "+condition, args, func(scan scan) error {
		var p drive.Path
		var k kept
		if err := scan(&k.id, &p.Drive, &p.Path, &k.unread, &k.digest); err != nil {
			return err
		}
		out[p] = k
		return nil
	})
	return out, err
}
