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

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
)

// vault is the reach over an archive that was streamed once: names, sizes and
// beginnings of all members; of those that may be documents or texts another
// one includes, the whole, spooled to temporary files.
type vault struct {
	root    string
	formats format.Set
	files   map[string]*vaultFile
	dirs    map[string][]fs.DirEntry
	spooled int64
}

type vaultFile struct {
	name string
	size int64
	head []byte
	tmp  *os.File
}

// maxSpool bounds what documents of one archive may unpack to on disk.
const maxSpool = 1 << 30

func newVault(root string, formats format.Set) *vault {
	return &vault{root: root, formats: formats, files: map[string]*vaultFile{}, dirs: map[string][]fs.DirEntry{}}
}

// take reads a member to its end.
func (v *vault) take(name string, r io.Reader) error {
	head := make([]byte, format.HeadSize)
	n, err := io.ReadFull(r, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return err
	}
	err = nil // a short member is no error
	f := &vaultFile{name: path.Base(name), size: int64(n), head: head[:n]}
	kind := facts.KindOf(name, f.head)
	plain := kind != facts.Audio && kind != facts.Video && kind != facts.Image
	if plain && n == len(head) && v.spooled+int64(n) < maxSpool && (v.formats.Nested(f.name, f.head) != nil || !bytes.ContainsRune(head, 0)) {
		if f.tmp, err = os.CreateTemp("", "boundcrate-proof-*"); err != nil {
			return err
		}
		os.Remove(f.tmp.Name()) // gone with the handle
		if _, err := f.tmp.Write(f.head); err != nil {
			return err
		}
	}
	buf := make([]byte, 1<<18)
	copied := func(w io.Writer, r io.Reader) error {
		more, err := io.CopyBuffer(struct{ io.Writer }{w}, struct{ io.Reader }{r}, buf)
		f.size += more
		return err
	}
	if f.tmp != nil {
		// What claims to be a document is none beyond the room there is for them.
		room := maxSpool - v.spooled
		err = copied(f.tmp, io.LimitReader(r, room-int64(n)))
		if v.spooled += f.size; err == nil && v.spooled >= maxSpool {
			f.tmp.Close()
			f.tmp = nil
			v.spooled -= f.size
		}
	}
	if err == nil {
		err = copied(io.Discard, r)
	}
	if err != nil {
		return err
	}
	full := path.Join(v.root, name)
	v.files[full] = f
	for dir, e := path.Dir(full), fs.DirEntry(f); ; dir, e = path.Dir(dir), vaultDir(path.Base(dir)) {
		known := v.dirs[dir]
		v.dirs[dir] = append(known, e)
		if len(known) > 0 || dir == v.root || dir == "/" {
			return nil
		}
	}
}

func (v *vault) close() {
	for _, f := range v.files {
		if f.tmp != nil {
			f.tmp.Close()
		}
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
	if f.tmp != nil {
		return vaultHandle{io.NewSectionReader(f.tmp, 0, f.size)}, nil
	}
	return vaultHandle{io.NewSectionReader(strings.NewReader(string(f.head)), 0, int64(len(f.head)))}, nil
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

type vaultHandle struct{ *io.SectionReader }

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
