package backup

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/text/bag"
)

// Verified is what reading a generation again told. Paths are absolute.
type Verified struct {
	Path    string    `json:"path"`
	At      time.Time `json:"verified"`
	Damaged []string  `json:"damaged"` // other bytes than the manifests tell, or a manifest that cannot be read
	Missing []string  `json:"missing"`
	Extra   []string  `json:"extra"` // files that nobody sealed
}

// Well tells that everything is as it was sealed.
func (v *Verified) Well() bool { return len(v.Damaged)+len(v.Missing) == 0 }

// manifests are what a generation's manifests tell.
type manifests struct {
	sums map[string]string // by path with slashes
	bad  []string          // manifests that cannot be read
}

// readManifests reads what is listed; an error tells that nothing is.
func readManifests(at string) (*manifests, error) {
	m := &manifests{sums: map[string]string{}}
	for _, name := range []string{bag.TagManifest("sha256"), bag.Manifest("sha256")} {
		f, err := os.Open(filepath.Join(at, name))
		if errors.Is(err, fs.ErrNotExist) {
			m.sums[name] = "missing"
			continue
		}
		if err != nil {
			return nil, err
		}
		sums, bad, err := bag.ReadManifest(f)
		f.Close()
		if err != nil || len(bad) > 0 || len(sums) == 0 && name == bag.TagManifest("sha256") {
			m.bad = append(m.bad, name)
		}
		for p, sum := range sums {
			m.sums[p] = sum
		}
	}
	return m, nil
}

// Progress is told how many bytes were read so far.
type Progress func(read int64)

// Verify reads every generation below a folder, the oldest first: a backup's target, a project's folder in it, or
// one generation. A file that several share is read once. It writes nothing.
func Verify(ctx context.Context, dir string, progress Progress) ([]Verified, error) {
	list, err := Below(dir)
	if err != nil {
		return nil, err
	}
	r := &reader{met: map[drive.Node]*once{}, progress: progress}
	out := []Verified{}
	for _, at := range list {
		v, err := r.verify(ctx, at)
		if err != nil {
			return out, err
		}
		out = append(out, *v)
	}
	return out, nil
}

// Below are the generations in and below a folder.
func Below(dir string) (list []string, err error) {
	if isGeneration(dir) {
		return []string{dir}, nil
	}
	for _, pattern := range []string{"*", "*/*"} {
		at, err := filepath.Glob(filepath.Join(escape(dir), pattern))
		if err != nil {
			return nil, err
		}
		for _, p := range at {
			if isGeneration(p) {
				list = append(list, p)
			}
		}
	}
	slices.Sort(list)
	if len(list) == 0 {
		if _, err := os.ReadDir(dir); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// escape is a path of which a pattern says nothing else.
func escape(p string) string {
	var b []byte
	for i := range len(p) {
		if p[i] == '*' || p[i] == '?' || p[i] == '[' || p[i] == '\\' && filepath.Separator != '\\' {
			b = append(b, '\\')
		}
		b = append(b, p[i])
	}
	return string(b)
}

// isGeneration tells folders that are one, by their name or by what is in them: one whose declaration is gone is
// damaged, and not none.
func isGeneration(p string) bool {
	info, err := os.Lstat(p)
	if err != nil || !info.IsDir() {
		return false
	}
	if stamped.MatchString(filepath.Base(p)) {
		return true
	}
	_, err = os.Lstat(filepath.Join(p, bag.Declaration))
	return err == nil && filepath.Ext(p) != ".partial"
}

// reader reads files once, under however many names.
type reader struct {
	mu       sync.Mutex
	met      map[drive.Node]*once
	read     int64
	progress Progress
}

type once struct {
	sync.Once
	sum string
	err error
}

// sum is the SHA-256 of a file.
func (r *reader) sum(ctx context.Context, p string) (string, error) {
	fi, err := os.Lstat(p)
	if err == nil && !fi.Mode().IsRegular() {
		err = drive.ErrNotRegular
	}
	if err != nil {
		return "", err
	}
	node := drive.NodeOf(fi)
	if node == (drive.Node{}) {
		return r.readFile(ctx, p)
	}
	r.mu.Lock()
	o := r.met[node]
	if o == nil {
		o = &once{}
		r.met[node] = o
	}
	r.mu.Unlock()
	o.Do(func() { o.sum, o.err = r.readFile(ctx, p) })
	return o.sum, o.err
}

// readFile reads a file from its drive, not from what the system remembers of it.
func (r *reader) readFile(ctx context.Context, p string) (string, error) {
	f, err := os.Open(p)
	if err != nil {
		return "", err
	}
	defer f.Close()
	drive.Forget(f)
	h := bag.New("sha256")
	_, err = io.CopyBuffer(struct{ io.Writer }{h}, tallying{ctx, f, r}, make([]byte, 1<<18))
	return hex.EncodeToString(h.Sum(nil)), err
}

// tallying counts what is read, and ends with the context.
type tallying struct {
	ctx context.Context
	f   io.Reader
	r   *reader
}

func (t tallying) Read(b []byte) (int, error) {
	if err := t.ctx.Err(); err != nil {
		return 0, err
	}
	n, err := t.f.Read(b)
	if t.r.progress != nil && n > 0 {
		t.r.mu.Lock()
		t.r.read += int64(n)
		t.r.progress(t.r.read)
		t.r.mu.Unlock()
	}
	return n, err
}

func (r *reader) verify(ctx context.Context, at string) (*Verified, error) {
	v := &Verified{Path: at, Damaged: []string{}, Missing: []string{}, Extra: []string{}}
	m, err := readManifests(at)
	if err != nil {
		return nil, err
	}
	for _, name := range m.bad {
		v.Damaged = append(v.Damaged, filepath.Join(at, name))
	}
	var mu sync.Mutex
	group, gctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for _, rel := range sortedPaths(m.sums) {
		p := filepath.Join(at, filepath.FromSlash(rel))
		if !filepath.IsLocal(filepath.FromSlash(rel)) {
			v.Damaged = append(v.Damaged, filepath.Join(at, bag.Manifest("sha256")))
			continue
		}
		group.Go(func() error {
			sum, err := r.sum(gctx, p)
			mu.Lock()
			defer mu.Unlock()
			switch {
			case gctx.Err() != nil:
				return gctx.Err()
			case errors.Is(err, fs.ErrNotExist):
				v.Missing = append(v.Missing, p)
			case err != nil || sum != m.sums[rel]:
				v.Damaged = append(v.Damaged, p)
			}
			return nil
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	err = filepath.WalkDir(at, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		rel, err := filepath.Rel(at, p)
		if err == nil && m.sums[filepath.ToSlash(rel)] == "" && rel != bag.TagManifest("sha256") && rel != bag.TagManifest("sha512") {
			v.Extra = append(v.Extra, p)
		}
		return err
	})
	slices.Sort(v.Damaged)
	v.Damaged = slices.Compact(v.Damaged)
	slices.Sort(v.Missing)
	v.At = time.Now()
	return v, err
}

// verifiedName is the file beside a project's generations that tells which were verified.
const verifiedName = ".boundcrate-verified.json"

// Note keeps which generations were verified and found well, beside them. A drive that cannot be written to is an
// error, which changes nothing of what was found.
func Note(list []Verified) error {
	byFolder := map[string][]Verified{}
	for _, v := range list {
		if !v.Well() {
			forget(filepath.Dir(v.Path))
		} else {
			byFolder[filepath.Dir(v.Path)] = append(byFolder[filepath.Dir(v.Path)], v)
		}
	}
	var err error
	for folder, list := range byFolder {
		known := noted(folder)
		for _, v := range list {
			known[filepath.Base(v.Path)] = v.At
		}
		err = errors.Join(err, fileset.Replace(filepath.Join(folder, verifiedName), 0o644, func(w io.Writer) error { return json.NewEncoder(w).Encode(known) }))
	}
	return err
}

// noted are the generations of a folder that were verified and found well, and when.
func noted(folder string) map[string]time.Time {
	known := map[string]time.Time{}
	if b, err := os.ReadFile(filepath.Join(folder, verifiedName)); err != nil || json.Unmarshal(b, &known) != nil {
		return map[string]time.Time{}
	}
	return known
}

// VerifiedAt is when a generation was last verified and found well; zero: never, as far as is known beside it.
func VerifiedAt(generation string) time.Time {
	return noted(filepath.Dir(generation))[filepath.Base(generation)]
}

// LastVerified is the generation of a folder that was verified last; "" for none.
func LastVerified(folder string) string {
	var best string
	var when time.Time
	for name, at := range noted(folder) {
		p := filepath.Join(folder, name)
		if _, err := os.Stat(p); err == nil && (at.After(when) || at.Equal(when) && p > best) {
			best, when = p, at
		}
	}
	return best
}
