package index

import (
	"context"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/names"
)

// Memory is an index in memory: about 100 bytes a file.
type Memory struct {
	folders []folder // in order of paths
	files   []file   // those of a folder together
	unread  []drive.Unread
	sized   bool

	name, stem, size lookup

	mu     sync.Mutex
	hashed map[string][]int64
}

type folder struct {
	path        string
	first, last int
}

type file struct {
	drive.Entry
	folder int32
}

// Options is what to index.
type Options struct {
	Reach drive.Reach
	Dirs  []string // absolute
	Names bool     // names alone: sizes are not known, and it is much faster
	Skip  func(dir string) bool
	// Progress is told how many files were met and the folder they are in.
	Progress func(files int, dir string)
}

// Build walks the folders. With an error it is what was met so far.
func Build(ctx context.Context, o Options) (*Memory, error) {
	var met []drive.Folder
	n := 0
	unread, err := drive.Walk{Reach: o.Reach, Dirs: o.Dirs, Names: o.Names, Skip: o.Skip, Each: func(f drive.Folder) error {
		met = append(met, f)
		n += len(f.Files)
		if o.Progress != nil {
			o.Progress(n, f.Path)
		}
		return nil
	}}.Run(ctx)
	return New(met, !o.Names, unread), err
}

// New is an index of folders that were walked, their files in order of names.
func New(met []drive.Folder, sized bool, unread []drive.Unread) *Memory {
	slices.SortFunc(met, func(a, b drive.Folder) int { return strings.Compare(a.Path, b.Path) })
	n := 0
	for _, f := range met {
		n += len(f.Files)
	}
	x := &Memory{files: make([]file, 0, n), folders: make([]folder, 0, len(met)), unread: unread, sized: sized, hashed: map[string][]int64{}}
	for i, f := range met {
		first := len(x.files)
		for _, e := range f.Files {
			x.files = append(x.files, file{e, int32(i)})
		}
		x.folders = append(x.folders, folder{f.Path, first, len(x.files)})
	}
	x.name = lookup{key: func(f *file) uint64 { return xxh3.HashString(names.Fold(f.Name)) }}
	x.stem = lookup{key: func(f *file) uint64 { stem, _ := names.Split(f.Name); return xxh3.HashString(names.Loose(stem)) }}
	x.size = lookup{key: func(f *file) uint64 { return spread(f.Size) }}
	return x
}

// spread mixes a size so that near ones fall apart.
func spread(n int64) uint64 { return uint64(n) * 0x9E3779B97F4A7C15 }

// lookup finds files by a hash: chains of those that share a slot. It is made
// when it is first asked.
type lookup struct {
	once sync.Once
	key  func(*file) uint64
	hash []uint64
	head []int32 // slot → file + 1
	next []int32 // file → next file of the slot + 1
}

func (l *lookup) build(files []file) {
	n := 64
	for n < 2*len(files) {
		n *= 2
	}
	l.hash, l.head, l.next = make([]uint64, len(files)), make([]int32, n), make([]int32, len(files))
	var wg sync.WaitGroup
	part := (len(files) + runtime.NumCPU() - 1) / runtime.NumCPU()
	for from := 0; from < len(files); from += part {
		wg.Go(func() {
			for i := from; i < min(from+part, len(files)); i++ {
				l.hash[i] = l.key(&files[i])
			}
		})
	}
	wg.Wait()
	for i := len(files) - 1; i >= 0; i-- { // so that a chain rises
		slot := l.hash[i] & uint64(n-1)
		l.next[i] = l.head[slot]
		l.head[slot] = int32(i + 1)
	}
}

func (x *Memory) find(l *lookup, hash uint64, same func(*file) bool) ([]Entry, error) {
	l.once.Do(func() { l.build(x.files) })
	var list []Entry
	for i := l.head[hash&uint64(len(l.head)-1)]; i > 0; i = l.next[i-1] {
		if f := &x.files[i-1]; l.hash[i-1] == hash && same(f) {
			list = append(list, x.entry(int(i-1)))
		}
	}
	return list, nil
}

func (x *Memory) entry(i int) Entry {
	f := &x.files[i]
	size := f.Size
	if !x.sized {
		size = Unknown
	}
	dir := x.folders[f.folder].path
	if !os.IsPathSeparator(dir[len(dir)-1]) {
		dir += string(filepath.Separator) // it is clean already
	}
	return Entry{dir + f.Name, size, f.Mod, f.Node}
}

// Len implements Index.
func (x *Memory) Len() int { return len(x.files) }

// Unread implements Index.
func (x *Memory) Unread() []drive.Unread { return x.unread }

// Named implements Index.
func (x *Memory) Named(name string) ([]Entry, error) {
	key := names.Fold(name)
	return x.find(&x.name, xxh3.HashString(key), func(f *file) bool { return names.Fold(f.Name) == key })
}

// Stemmed implements Index.
func (x *Memory) Stemmed(stem string) ([]Entry, error) {
	key := names.Loose(stem)
	return x.find(&x.stem, xxh3.HashString(key), func(f *file) bool { s, _ := names.Split(f.Name); return names.Loose(s) == key })
}

// Sized implements Index; with names alone there are none.
func (x *Memory) Sized(bytes int64) ([]Entry, error) {
	if !x.sized {
		return nil, nil
	}
	return x.find(&x.size, spread(bytes), func(f *file) bool { return f.Size == bytes })
}

// Learn tells the content of a file, by its SHA-256 in hex, as long as the file is
// the one that was read.
func (x *Memory) Learn(e Entry, sha256 string) {
	dir, name := filepath.Split(e.Path)
	i, ok := slices.BinarySearchFunc(x.folders, filepath.Clean(dir), func(f folder, dir string) int { return strings.Compare(f.path, dir) })
	if !ok {
		return
	}
	files := x.files[x.folders[i].first:x.folders[i].last]
	k, ok := slices.BinarySearchFunc(files, name, func(f file, name string) int { return strings.Compare(f.Name, name) })
	if !ok || files[k].Size != e.Size || files[k].Mod != e.Mod || files[k].Node != e.Node {
		return
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	id := int64(x.folders[i].first + k)
	if at, met := slices.BinarySearch(x.hashed[sha256], id); !met {
		x.hashed[sha256] = slices.Insert(x.hashed[sha256], at, id)
	}
}

// Folders are the folders of a name.
func (x *Memory) Folders(name string) (list []string) {
	for i := range x.folders {
		if filepath.Base(x.folders[i].path) == name {
			list = append(list, x.folders[i].path)
		}
	}
	return list
}

// Hashed implements Index.
func (x *Memory) Hashed(sha256 string) ([]Entry, error) {
	x.mu.Lock()
	defer x.mu.Unlock()
	var list []Entry
	for _, i := range x.hashed[sha256] {
		list = append(list, x.entry(int(i)))
	}
	return list, nil
}

// Below implements Index.
func (x *Memory) Below(dir string, each func(Entry) error) error {
	for i := range x.folders {
		if !drive.Within(dir, x.folders[i].path) {
			continue
		}
		for k := x.folders[i].first; k < x.folders[i].last; k++ {
			if err := each(x.entry(k)); err != nil {
				return err
			}
		}
	}
	return nil
}

// Each implements Index.
func (x *Memory) Each(each func(int64, string) error) error {
	for i := range x.files {
		if err := each(int64(i), x.files[i].Name); err != nil {
			return err
		}
	}
	return nil
}

// Entry implements Index.
func (x *Memory) Entry(id int64) (Entry, error) { return x.entry(int(id)), nil }

// Entries implements Index.
func (x *Memory) Entries(ids []int64, each func(int64, Entry) error) error {
	for _, id := range ids {
		if err := each(id, x.entry(int(id))); err != nil {
			return err
		}
	}
	return nil
}
