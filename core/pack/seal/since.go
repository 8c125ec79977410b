package seal

import (
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/content"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// errNoSHA256: a crate that tells no SHA-256 of its files.
var errNoSHA256 = errors.New("it has no manifest-sha256.txt")

// payloadSums are the SHA-256 of what a crate holds, by its manifest: a folder, an archive, or the
// manifest itself. Its files are not read: what the receiver has is his to check.
func payloadSums(ctx context.Context, crate string) (map[string]bool, error) {
	name := bag.Manifest("sha256")
	var texts [][]byte
	fi, err := os.Stat(crate)
	switch {
	case err != nil:
		return nil, &NoCrate{crate, err}
	case fi.Mode().IsRegular() && filepath.Base(crate) == name:
		b, err := readBounded(crate)
		if err != nil {
			return nil, &NoCrate{crate, err}
		}
		texts = append(texts, b)
	case fi.IsDir():
		b, err := readBounded(filepath.Join(crate, name))
		if errors.Is(err, fs.ErrNotExist) {
			err = errNoSHA256
		}
		if err != nil {
			return nil, &NoCrate{crate, err}
		}
		texts = append(texts, b)
	default:
		if texts, err = manifestsOf(ctx, crate, name); err != nil {
			return nil, err
		}
	}
	sums := map[string]bool{}
	for _, t := range texts {
		list, bad, err := bag.ReadManifest(bytes.NewReader(t))
		if err == nil && len(bad) > 0 {
			err = errNoSHA256
		}
		if err != nil {
			return nil, &NoCrate{crate, err}
		}
		for _, sum := range list {
			sums[sum] = true
		}
	}
	return sums, nil
}

func readBounded(p string) ([]byte, error) {
	f, err := os.Open(p)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxTags+1))
	if err == nil && len(b) > maxTags {
		err = errTags
	}
	return b, err
}

// manifestsOf are the manifests of an archive, and of the other parts of it that lie beside it.
func manifestsOf(ctx context.Context, crate, name string) (texts [][]byte, err error) {
	all := []string{crate}
	if _, base := carrier.KindOf(crate); partOf.MatchString(base) {
		of, _ := strconv.Atoi(partOf.FindStringSubmatch(base)[3])
		if list, ok := siblings(crate, of); ok {
			all = list
		}
	}
	for _, p := range all {
		found := false
		err := carrier.Read(ctx, p, func(m carrier.Member, r io.Reader) error {
			if r == nil || strings.Count(m.Name, "/") > 1 || path.Base(m.Name) != name {
				return nil
			}
			b, err := io.ReadAll(io.LimitReader(r, maxTags))
			texts, found = append(texts, b), true
			return err
		})
		if err == nil && !found {
			err = errNoSHA256
		}
		if err != nil {
			return nil, &NoCrate{p, err}
		}
	}
	return texts, nil
}

// leaveOut takes out of the items what the receiver has by the crate Since; documents always go.
func (s *sealer) leaveOut(ctx context.Context, items []item) (rest []item, err error) {
	has, err := payloadSums(ctx, s.Since)
	if err != nil {
		return nil, err
	}
	s.fetched = map[string]digest{}
	sources := map[string]item{}
	var mu sync.Mutex
	stays := make(map[string]bool, len(items))
	err = each(ctx, items, func(ctx context.Context, it item) error {
		if it.doc {
			return nil
		}
		d, err := s.digestOf(ctx, it)
		if err != nil || !has[d.sum] {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		s.fetched[it.to], sources[it.to], stays[it.to] = d, it, true
		if s.Progress != nil {
			s.Progress(Progress{Step: Comparing, Files: len(stays), Of: len(items), File: it.from})
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for _, it := range items {
		if !stays[it.to] {
			rest = append(rest, it)
			continue
		}
		s.total, s.of = s.total-2*it.size, s.of-1
	}
	s.without = sources
	return rest, nil
}

// lend puts what the receiver has into the reach that the crate is proved by, at its places below
// base: the crate is proved as it will be once it is filled.
func (s *sealer) lend(v *vault, base string) error {
	for _, to := range slices.Sorted(maps.Keys(s.without)) {
		it := s.without[to]
		f := &vaultFile{size: it.size}
		if is, ok := it.content.(content.AsIs); ok {
			src, err := is.Reach.Open(is.Path)
			if err != nil {
				return &content.ReadError{Path: is.Path, Err: err}
			}
			f.head = make([]byte, min(format.HeadSize, src.Size()))
			n, err := src.ReadAt(f.head, 0)
			src.Close()
			if err != nil && err != io.EOF {
				return &content.ReadError{Path: is.Path, Err: err}
			}
			f.head = f.head[:n]
		}
		v.put(path.Join(base, to), f)
	}
	return nil
}

// fetchList is fetch.txt: what is not carried, by its name of RFC 6920.
func (s *sealer) fetchList() item {
	var list []bag.Fetch
	for to, d := range s.fetched {
		list = append(list, bag.Fetch{URI: bag.NI(d.sum), Length: d.size, Path: to})
	}
	var b bytes.Buffer
	_ = bag.WriteFetch(&b, list) // a buffer takes everything
	return generated(bag.FetchName, b.Bytes())
}

// sameFile tells that a path, or the manifest in it, is another.
func sameFile(since, out string) bool {
	if filepath.Base(since) == bag.Manifest("sha256") {
		since = filepath.Dir(since)
	}
	a, err1 := os.Stat(since)
	b, err2 := os.Stat(out)
	return err1 == nil && err2 == nil && os.SameFile(a, b)
}

// lent is how much that is.
func (s *sealer) lent() (a Amount) {
	for _, d := range s.fetched {
		a.add(d.size)
	}
	return a
}

// over is a reach over another: what the first has not is looked for in the second.
type over struct{ first, second drive.Reach }

// Lstat implements drive.Reach.
func (o over) Lstat(p string) (drive.Info, error) {
	info, err := o.first.Lstat(p)
	if errors.Is(err, fs.ErrNotExist) {
		return o.second.Lstat(p)
	}
	return info, err
}

// Stat implements drive.Reach.
func (o over) Stat(p string) (drive.Info, error) {
	info, err := o.first.Stat(p)
	if errors.Is(err, fs.ErrNotExist) {
		return o.second.Stat(p)
	}
	return info, err
}

// Open implements drive.Reach.
func (o over) Open(p string) (drive.File, error) {
	f, err := o.first.Open(p)
	if errors.Is(err, fs.ErrNotExist) {
		return o.second.Open(p)
	}
	return f, err
}

// ReadDir implements drive.Reach.
func (o over) ReadDir(p string) ([]fs.DirEntry, error) {
	list, err := o.first.ReadDir(p)
	more, err2 := o.second.ReadDir(p)
	if err != nil && err2 != nil {
		return nil, err
	}
	met := map[string]bool{}
	for _, e := range list {
		met[e.Name()] = true
	}
	for _, e := range more {
		if !met[e.Name()] {
			list = append(list, e)
		}
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list, nil
}
