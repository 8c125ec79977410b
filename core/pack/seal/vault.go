package seal

import (
	"bytes"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/format"
)

// vault is the reach over an archive that was streamed once: names, sizes and
// beginnings of all members; of those that may be documents or texts another
// one includes, the whole, spooled to temporary files.
type vault struct {
	root    string
	formats format.Set
	files   map[string]*vaultFile
	dirs    map[string][]fs.DirEntry
	spool   *os.File // holds the documents, one after another; it has no name
	spooled int64    // bytes in it
	held    int64    // bytes of documents that are held in memory, where there is no room for them
	short   bool     // there was none for some
}

type vaultFile struct {
	name  string
	size  int64
	head  []byte
	whole io.ReaderAt // of a document; nil: its beginning alone is kept
}

// maxSpool bounds what documents of one archive may unpack to on disk, maxHeld what of them
// is held in memory where the disk for what is temporary has no room.
const (
	maxSpool = 1 << 30
	maxHeld  = 256 << 20
)

func newVault(root string, formats format.Set) *vault {
	return &vault{root: root, formats: formats, files: map[string]*vaultFile{}, dirs: map[string][]fs.DirEntry{}}
}

// take reads a member to its end, and puts it where its name says.
func (v *vault) take(name string, r io.Reader) error {
	f, err := v.read(name, r)
	if err == nil {
		v.put(name, f)
	}
	return err
}

// read reads a member to its end.
func (v *vault) read(name string, r io.Reader) (*vaultFile, error) {
	head := make([]byte, format.HeadSize)
	n, err := io.ReadFull(r, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, err
	}
	err = nil // a short member is no error
	f := &vaultFile{name: path.Base(name), size: int64(n), head: head[:n]}
	kind := facts.KindOf(name, f.head)
	plain := kind != facts.Audio && kind != facts.Video && kind != facts.Image
	if plain && n == len(head) && v.spooled+int64(n) < maxSpool && (v.formats.Nested(f.name, f.head) != nil || !bytes.ContainsRune(head, 0)) {
		// What claims to be a document is none beyond the room there is for them.
		limited := io.LimitReader(r, maxSpool-v.spooled-int64(n))
		if f.whole, f.size, err = v.keep(f.head, limited); err != nil {
			return nil, err
		}
	}
	more, err := io.CopyBuffer(struct{ io.Writer }{io.Discard}, struct{ io.Reader }{r}, make([]byte, 1<<18))
	if f.size += more; err != nil {
		return nil, err
	}
	if more > 0 {
		f.whole = nil
	}
	return f, nil
}

// put gives a member its place.
func (v *vault) put(name string, f *vaultFile) {
	full := path.Join(v.root, name)
	f.name = path.Base(full)
	v.files[full] = f
	for dir, e := path.Dir(full), fs.DirEntry(f); ; dir, e = path.Dir(dir), vaultDir(path.Base(dir)) {
		known := v.dirs[dir]
		v.dirs[dir] = append(known, e)
		if len(known) > 0 || dir == v.root || dir == "/" {
			return
		}
	}
}

// keep holds a member on the disk for what is temporary, all in one file; where that has no
// room, in memory. It is never the crate's fault.
func (v *vault) keep(head []byte, r io.Reader) (whole io.ReaderAt, size int64, err error) {
	all := io.MultiReader(bytes.NewReader(head), r)
	at := v.spooled
	if v.spool == nil && !v.short {
		f, err := os.CreateTemp("", "boundcrate-proof-*")
		if err == nil {
			os.Remove(f.Name()) // gone with the handle
			v.spool = f
		}
	}
	var rest bytes.Buffer
	for v.spool != nil {
		buf := make([]byte, 1<<18)
		n, rerr := io.ReadFull(all, buf)
		if n > 0 {
			if _, werr := v.spool.WriteAt(buf[:n], at+size); werr != nil {
				rest.Write(buf[:n]) // there is no room; the rest of this one is held in memory
				break
			}
			size += int64(n)
		}
		switch rerr {
		case nil:
			continue
		case io.EOF, io.ErrUnexpectedEOF:
			v.spooled += size
			return io.NewSectionReader(v.spool, at, size), size, nil
		}
		return nil, size, rerr
	}
	if _, err := rest.ReadFrom(io.LimitReader(all, max(0, maxHeld-v.held))); err != nil {
		return nil, size, err
	}
	if v.held += int64(rest.Len()); v.held >= maxHeld {
		v.short = true
		return nil, size + int64(rest.Len()), nil
	}
	v.spooled += size // what of it was written stays where it is
	total := size + int64(rest.Len())
	if size == 0 {
		return bytes.NewReader(rest.Bytes()), total, nil
	}
	return joined{io.NewSectionReader(v.spool, at, size), rest.Bytes()}, total, nil
}

// joined is a member of which the beginning lies on the disk and the rest in memory.
type joined struct {
	first *io.SectionReader
	rest  []byte
}

// ReadAt implements io.ReaderAt.
func (j joined) ReadAt(b []byte, off int64) (n int, err error) {
	if off < j.first.Size() {
		n, err = j.first.ReadAt(b, off)
		if err != nil && err != io.EOF || n == len(b) {
			return n, err
		}
	}
	m, err := bytes.NewReader(j.rest).ReadAt(b[n:], off+int64(n)-j.first.Size())
	return n + m, err
}

func (v *vault) close() {
	if v.spool != nil {
		v.spool.Close()
	}
}

func notThere(p string) error { return &fs.PathError{Op: "open", Path: p, Err: fs.ErrNotExist} }

// Lstat implements drive.Reach: a carrier holds no links.
func (v *vault) Lstat(p string) (drive.Info, error) {
	info, err := v.Stat(p)
	info.Real = ""
	return info, err
}

// Stat implements drive.Reach.
func (v *vault) Stat(p string) (drive.Info, error) {
	if f, ok := v.files[p]; ok {
		return drive.Info{Mode: 0o644, Size: f.size, Real: p}, nil
	}
	if _, ok := v.dirs[p]; ok {
		return drive.Info{Mode: fs.ModeDir | 0o755, Real: p}, nil
	}
	return drive.Info{}, notThere(p)
}

// Open implements drive.Reach. Of a leaf only its beginning can be read, which
// is all a trace asks for.
func (v *vault) Open(p string) (drive.File, error) {
	f, ok := v.files[p]
	if !ok {
		if _, folder := v.dirs[p]; folder {
			return nil, &fs.PathError{Op: "open", Path: p, Err: drive.ErrNotRegular}
		}
		return nil, notThere(p)
	}
	if f.whole != nil {
		return vaultHandle{io.NewSectionReader(f.whole, 0, f.size), f.size}, nil
	}
	return vaultHandle{io.NewSectionReader(strings.NewReader(string(f.head)), 0, int64(len(f.head))), f.size}, nil
}

// ReadDir implements drive.Reach.
func (v *vault) ReadDir(p string) ([]fs.DirEntry, error) {
	es, ok := v.dirs[p]
	if !ok {
		return nil, notThere(p)
	}
	es = slices.Clone(es)
	slices.SortFunc(es, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return es, nil
}

type vaultHandle struct {
	*io.SectionReader
	size int64
}

func (v vaultHandle) Size() int64 { return v.size }

func (vaultHandle) Close() error { return nil }

func (f *vaultFile) Name() string               { return f.name }
func (f *vaultFile) IsDir() bool                { return false }
func (f *vaultFile) Type() fs.FileMode          { return 0 }
func (f *vaultFile) Info() (fs.FileInfo, error) { return vaultInfo{f}, nil }

type vaultInfo struct{ f *vaultFile }

func (i vaultInfo) Name() string       { return i.f.name }
func (i vaultInfo) Size() int64        { return i.f.size }
func (i vaultInfo) Mode() fs.FileMode  { return 0o644 }
func (i vaultInfo) ModTime() time.Time { return time.Time{} }
func (i vaultInfo) IsDir() bool        { return false }
func (i vaultInfo) Sys() any           { return nil }

type vaultDir string

func (d vaultDir) Name() string               { return string(d) }
func (d vaultDir) IsDir() bool                { return true }
func (d vaultDir) Type() fs.FileMode          { return fs.ModeDir }
func (d vaultDir) Info() (fs.FileInfo, error) { return nil, fs.ErrNotExist }
