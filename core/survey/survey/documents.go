package survey

import (
	"cmp"
	"context"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/text/format"
)

// Coverage is how far it was looked. What is called safe, or named by nothing, is so only
// where the coverage is whole.
type Coverage struct {
	Documents int            // that are known now
	Looked    int            // files whose beginnings are known
	Skipped   int            // files that are sounds, moving pictures or images by their names, and were not opened
	Unread    []drive.Unread // folders, files and documents that could not be read
	Truncated bool           // it was stopped before its end
}

// Whole tells that everything that could name a file was read.
func (c Coverage) Whole() bool { return len(c.Unread) == 0 && !c.Truncated }

// Head is what the beginning of a file told, as it stood.
type Head struct {
	Stamp    drive.Stamp
	Document bool // of a known format, whatever it is called
}

// candidate is a file that may be a document.
type candidate struct {
	index.Entry
	document, known bool
	err             error
}

// Documents are the files of an index that are documents of a known format: by their
// beginnings, whatever their names are, hidden ones and copies too. Only sounds, moving
// pictures and images are not opened. A file that was looked at before is not opened
// again while it is the same.
func Documents(ctx context.Context, o Options) (list []index.Entry, c Coverage, err error) {
	heads, err := o.Ledger.Heads()
	if err != nil {
		return nil, c, err
	}
	var all []candidate
	err = o.Index.Each(func(id int64, name string) error {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		switch facts.KindOfName(name) {
		case facts.Audio, facts.Video, facts.Image:
			c.Skipped++
			return nil
		}
		e, err := o.Index.Entry(id)
		if err == nil {
			all = append(all, candidate{Entry: e})
		}
		return err
	})
	if err != nil {
		return nil, c, err
	}
	readHeads(ctx, o, all, heads)
	if ctx.Err() != nil {
		return nil, c, ctx.Err()
	}
	fresh, met := map[string]Head{}, make(map[string]bool, len(all))
	for i := range all {
		f := &all[i]
		met[f.Path] = true
		if f.err != nil {
			c.Unread = append(c.Unread, drive.Unread{Path: f.Path, Err: f.err})
			continue
		}
		c.Looked++
		if !f.known {
			fresh[f.Path] = Head{drive.Stamp{Size: f.Size, Mod: f.Mod, Node: f.Node}, f.document}
		}
		if f.document {
			list = append(list, f.Entry)
		}
	}
	var gone []string
	for p := range heads {
		if !met[p] && below(o.Trace.Drives, p) {
			gone = append(gone, p)
		}
	}
	slices.SortFunc(list, func(a, b index.Entry) int { return cmp.Compare(a.Path, b.Path) })
	if len(fresh)+len(gone) > 0 {
		err = o.Ledger.KeepHeads(fresh, gone)
	}
	return list, c, err
}

// below tells paths on drives that are connected: what is not met there is gone.
func below(drives []drive.Drive, p string) bool {
	d, ok := drive.Find(drives, p)
	return ok && d.Connected()
}

// readHeads asks every file how it stands now, since the index may hold a state of before, and
// opens those that are new.
func readHeads(ctx context.Context, o Options, all []candidate, heads map[string]Head) {
	var next atomic.Int64
	var wg sync.WaitGroup
	for range max(2, runtime.NumCPU()) {
		wg.Go(func() {
			buf := make([]byte, format.HeadSize)
			for ctx.Err() == nil {
				i := int(next.Add(1)) - 1
				if i >= len(all) {
					return
				}
				all[i].readHead(o, heads, buf)
			}
		})
	}
	wg.Wait()
}

func (f *candidate) readHead(o Options, heads map[string]Head, buf []byte) {
	info, err := o.Trace.Reach.Lstat(f.Path)
	if err != nil {
		f.err = err
		return
	}
	f.Size, f.Mod, f.Node = info.Size, info.ModTime.UnixNano(), info.Node
	if h, ok := heads[f.Path]; ok && h.Stamp == info.Stamp() {
		f.document, f.known = h.Document, true
		return
	}
	if f.Size == 0 { // of a known name it may be a document that is about to be written; it names nothing
		return
	}
	file, err := o.Trace.Reach.Open(f.Path)
	if err != nil {
		f.err = err
		return
	}
	defer file.Close()
	n, _ := file.ReadAt(buf[:min(int64(len(buf)), f.Size)], 0) // what cannot be read is no known format's beginning
	f.document = o.Trace.Formats.Nested(plainName(filepath.Base(f.Path)), buf[:n]) != nil
}

// plainName is a name without what is put to copies: a dot before, ".bak", ".old" or "~"
// behind. Formats that go by the extension know a copy by it.
func plainName(name string) string {
	name = strings.TrimPrefix(name, ".")
	for _, end := range []string{"~", ".bak", ".old", ".orig", ".copy"} {
		if s, ok := strings.CutSuffix(strings.ToLower(name), end); ok && strings.Contains(s, ".") {
			return name[:len(s)]
		}
	}
	return name
}
