package drive

import (
	"context"
	"errors"
	"io/fs"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"
)

func sortByName(es []fs.DirEntry) {
	slices.SortFunc(es, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
}

// Entry is a regular file met by a walk.
type Entry struct {
	Name string
	Size int64
	Mod  int64 // nanoseconds since 1970
	Node Node
}

// Folder is one folder with its regular files in order of names.
type Folder struct {
	Path    string
	Files   []Entry
	Folders []string // names
	// Stamp is that of the folder itself when it was listed. While it is the same no
	// name came or went in it. Zero: the system does not tell that for sure.
	Stamp Stamp
	Known bool // it was not listed anew
}

// Unread is a folder that could not be listed, or a file in it that could not
// be looked at.
type Unread struct {
	Path string
	Err  error
}

// Holding is the folder on a drive that holds what was taken out of the way. No walk
// enters it.
const Holding = ".boundcrate-holding"

// Walk is how to go through folders.
type Walk struct {
	Reach Reach
	Dirs  []string // absolute; one may lie in another, each folder is met once
	// Names asks for names alone: sizes, times and nodes stay zero, which is much
	// faster.
	Names bool
	// Each is told each folder once, from one goroutine at a time, in no order. A
	// folder's files are its own: they may be kept.
	Each func(Folder) error
	// Skip leaves a folder out, with all below it. Nil leaves nothing out.
	Skip func(dir string) bool
	// Known is how a folder was when it was last listed. One whose stamp is the same
	// is told as it was: its names are those, sizes and times of its files may not be.
	// Nil lists every folder.
	Known func(dir string) (Folder, bool)
}

// settled is how old a folder's last change must be for its stamp to count: a change
// right after a listing could bear the same time.
const settled = 2 * time.Second

// lister is a reach that lists a folder faster than by ReadDir and Info.
type lister interface {
	list(dir string, w *Walk) (Folder, []Unread, error)
}

// Run meets every folder, on all cores. Links are not followed, so that no
// cycle can hold it. What could not be read is returned: a walk that says
// nothing of it would let a missing drive pass for an empty one. It stops when
// ctx ends or Each fails.
func (w Walk) Run(ctx context.Context) ([]Unread, error) {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	var (
		mu     sync.Mutex // guards everything below, and Each
		wake   = sync.NewCond(&mu)
		queue  []string
		met    = map[string]bool{}
		active int
		unread []Unread
		wg     sync.WaitGroup
	)
	for _, d := range w.Dirs {
		if d = filepath.Clean(d); !met[d] {
			met[d] = true
			queue = append(queue, d)
		}
	}
	given := len(met)
	unlock := context.AfterFunc(ctx, func() { mu.Lock(); wake.Broadcast(); mu.Unlock() })
	defer unlock()
	for range max(2, runtime.NumCPU()) {
		wg.Go(func() {
			mu.Lock()
			defer mu.Unlock()
			for {
				for len(queue) == 0 && active > 0 && ctx.Err() == nil {
					wake.Wait()
				}
				if len(queue) == 0 || ctx.Err() != nil {
					return
				}
				dir := queue[len(queue)-1]
				queue = queue[:len(queue)-1]
				active++
				mu.Unlock()
				folder, lost, err := w.list(dir)
				slices.SortFunc(folder.Files, func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
				mu.Lock()
				active--
				unread = append(unread, lost...)
				if err != nil {
					unread = append(unread, Unread{dir, err})
				} else if err := w.Each(folder); err != nil {
					stop(err)
				}
				for _, name := range folder.Folders {
					sub := filepath.Join(dir, name)
					if name == Holding || w.Skip != nil && w.Skip(sub) {
						continue
					}
					if given > 1 { // only a given folder can be met twice
						if met[sub] {
							continue
						}
						met[sub] = true
					}
					queue = append(queue, sub)
				}
				wake.Broadcast()
			}
		})
	}
	wg.Wait()
	slices.SortFunc(unread, func(a, b Unread) int { return strings.Compare(a.Path, b.Path) })
	return unread, context.Cause(ctx)
}

func (w Walk) list(dir string) (Folder, []Unread, error) {
	if l, ok := w.Reach.(lister); ok {
		return l.list(dir, &w)
	}
	es, err := w.Reach.ReadDir(dir)
	if err != nil {
		return Folder{}, nil, err
	}
	return listed(dir, es, w.Names)
}

func listed(dir string, es []fs.DirEntry, names bool) (Folder, []Unread, error) {
	f := Folder{Path: dir, Files: make([]Entry, 0, len(es))}
	var unread []Unread
	for _, e := range es {
		switch {
		case e.IsDir():
			f.Folders = append(f.Folders, e.Name())
		case e.Type().IsRegular():
			if names {
				f.Files = append(f.Files, Entry{Name: e.Name()})
				continue
			}
			fi, err := e.Info()
			if err == nil {
				f.Files = append(f.Files, entryOf(fi))
			} else if !errors.Is(err, fs.ErrNotExist) { // gone in between is nobody's loss
				unread = append(unread, Unread{filepath.Join(dir, e.Name()), err})
			}
		}
	}
	return f, unread, nil
}

func entryOf(fi fs.FileInfo) Entry {
	return Entry{fi.Name(), fi.Size(), fi.ModTime().UnixNano(), NodeOf(fi)}
}

// ModTime is the entry's time.
func (e Entry) ModTime() time.Time { return time.Unix(0, e.Mod) }

// Files calls each for every regular file below dir, in order of paths; what
// could not be read is returned.
func Files(ctx context.Context, r Reach, dir string, each func(path string, e Entry) error) ([]Unread, error) {
	var all []Folder
	unread, err := Walk{Reach: r, Dirs: []string{dir}, Each: func(f Folder) error { all = append(all, f); return nil }}.Run(ctx)
	if err != nil {
		return unread, err
	}
	slices.SortFunc(all, func(a, b Folder) int { return strings.Compare(a.Path, b.Path) })
	for _, f := range all {
		for _, e := range f.Files {
			if err := each(filepath.Join(f.Path, e.Name), e); err != nil {
				return unread, err
			}
		}
	}
	return unread, nil
}
