package seal

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"strings"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
)

// proof is the trace of a crate with nothing else reachable.
type proof struct {
	complete bool
	problems []mention.Problem
	left     []stow.Left
	graph    *trace.Graph
}

// prove traces the documents of a crate. What keeps it from being complete is
// told as problems; network assets and things never saved are only listed.
func prove(ctx context.Context, formats format.Set, reach drive.Reach, root string, docs []string) (*proof, error) {
	p := &proof{complete: true}
	if len(docs) == 0 {
		return p, nil
	}
	g, err := trace.Run(ctx, trace.Options{Formats: formats, Reach: reach, Root: root}, docs...)
	var bad *trace.Error
	if errors.As(err, &bad) {
		p.complete = false
		p.problems = append(p.problems, mention.Problem{Code: "malformed", Path: bad.Path, Document: bad.Path, Message: bad.Error()})
		return p, nil
	}
	if err != nil {
		return nil, err
	}
	p.graph = g
	for i := range g.References {
		r := &g.References[i]
		doc := g.Documents[r.Doc].Path
		at := resolve.Shown(r.Expected)
		if at == "" {
			at = doc
		}
		switch {
		case r.Write:
			continue
		case r.Network:
			p.left = append(p.left, stow.Left{Path: r.Written, Why: r.Why})
			continue
		case r.State == resolve.Away:
			p.complete = false
			p.problems = append(p.problems, mention.Problem{Code: "leaves", Path: r.Path, Document: doc, Message: fmt.Sprintf("“%s” leads outside the crate", r.Written)})
			continue
		case !r.State.Found() && r.State != resolve.Inside:
			p.left = append(p.left, stow.Left{Path: at, Why: string(r.State)})
		}
		if r.Pending() {
			p.complete = false
			what := "is " + string(r.State)
			if len(r.Gaps) > 0 {
				n := 0
				for _, g := range r.Gaps {
					n += g.Len()
				}
				what = fmt.Sprintf("lacks %d of its files", n)
			}
			p.problems = append(p.problems, mention.Problem{
				Code: "incomplete", Path: at, Document: doc,
				Message: fmt.Sprintf("“%s” %s in the crate (%s)", r.Written, what, r.Owner),
			})
		}
	}
	for _, problem := range g.Problems {
		if problem.Code != format.Mislabelled { // all that it names was read
			p.complete = false
		}
	}
	p.problems = append(p.problems, g.Problems...)
	return p, nil
}

// vault is the reach over an archive that was streamed once: names, sizes and
// beginnings of all members, and the whole of those a format claims, spooled to
// temporary files.
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

// maxSpool bounds what documents of one archive may unpack to.
const maxSpool = 4 << 30

func newVault(root string, formats format.Set) *vault {
	return &vault{root: root, formats: formats, files: map[string]*vaultFile{}, dirs: map[string][]fs.DirEntry{}}
}

// take reads a member to its end.
func (v *vault) take(name string, size int64, r io.Reader) error {
	head := make([]byte, format.HeadSize)
	n, err := io.ReadFull(r, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return err
	}
	f := &vaultFile{name: path.Base(name), size: int64(n), head: head[:n]}
	rest := io.Discard
	kind := facts.KindOf(name, f.head)
	if kind != facts.Audio && kind != facts.Video && kind != facts.Image && v.formats.Nested(f.name, f.head) != nil && v.spooled < maxSpool {
		if f.tmp, err = os.CreateTemp("", "boundcrate-proof-*"); err != nil {
			return err
		}
		os.Remove(f.tmp.Name()) // gone with the handle
		if _, err := f.tmp.Write(f.head); err != nil {
			return err
		}
		rest = f.tmp
	}
	more, err := io.CopyBuffer(struct{ io.Writer }{rest}, struct{ io.Reader }{r}, make([]byte, 1<<18))
	f.size += more
	if f.tmp != nil {
		v.spooled += f.size
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
