// Package survey looks over everything on the drives at once: which documents
// there are, what any of them needs of a file or folder, and whether a folder may
// go.
package survey

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/may"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/mention"
)

// Use is one place in a document that names, needs or writes a file.
type Use struct {
	Document string // absolute
	Project  string // its name; "" where no project has the document
	Path     string // the file, or the folder that is written into
	Owner    string
	Use      mention.Use
	Role     may.Role
	At       time.Time // when the document was traced
}

// Ledger keeps what documents use from one look to the next.
type Ledger interface {
	// Fresh tells that a document is as it was when what it uses was kept.
	Fresh(document string, s drive.Stamp) bool
	// Learn keeps what a trace found.
	Learn(g *graph.Graph, reach drive.Reach) error
	// Heads are the files whose beginnings were looked at, by their paths, as they stood.
	Heads() (map[string]Head, error)
	// KeepHeads keeps those that are new, and forgets those that are gone.
	KeepHeads(heads map[string]Head, gone []string) error
	// Into are the uses of a file, or of all files in and below a folder, and of
	// folders that hold it.
	Into(path string) ([]Use, error)
	// Known are all documents of which uses are kept.
	Known() ([]string, error)
}

// Options is what to look through, and with what.
type Options struct {
	Trace  trace.Options
	Index  index.Index // of all drives; its names are fresh
	Ledger Ledger
	Hash   mend.Hash // of contents; it may remember
	// Aliases are further paths of a folder; nil: as drive.Aliases tells them.
	Aliases func(folder string) []string
	// Progress is told how many documents of all were read.
	Progress func(done, of int)
}

// Refresh brings what documents use up to date: those that changed since they were
// traced are traced again. The coverage tells what was read, and what could not be.
func Refresh(ctx context.Context, o Options) (c Coverage, err error) {
	docs, c, err := Documents(ctx, o)
	if err != nil {
		return c, err
	}
	known, err := o.Ledger.Known()
	if err != nil {
		return c, err
	}
	more, unreached := elsewhere(docs, known, o.Trace.Reach)
	docs, c.Unread = append(docs, more...), append(c.Unread, unreached...)
	for i, e := range docs {
		if err := ctx.Err(); err != nil {
			return c, err
		}
		if o.Progress != nil {
			o.Progress(i, len(docs))
		}
		c.Documents++
		if o.Ledger.Fresh(e.Path, drive.Stamp{Size: e.Size, Mod: e.Mod, Node: e.Node}) {
			continue
		}
		t := o.Trace
		t.Root, t.Readings = "", nil
		g, err := trace.Run(ctx, t, e.Path)
		var bad *trace.Error
		switch {
		case errors.As(err, &bad):
			c.Unread = append(c.Unread, drive.Unread{Path: e.Path, Err: bad.Err})
			continue
		case err != nil:
			return c, err
		}
		c.Unread = append(c.Unread, Unread(g)...)
		if err := o.Ledger.Learn(g, o.Trace.Reach); err != nil {
			return c, err
		}
	}
	return c, nil
}

// Unread is what a trace could not read and what may therefore name anything: nested
// documents that make no sense, files that may be documents and cannot be opened, folders
// that a name could not be looked for in.
func Unread(g *graph.Graph) (list []drive.Unread) {
	for _, p := range g.Problems {
		if !p.Harmless() { // all that it names was read
			list = append(list, drive.Unread{Path: cmp.Or(p.Path, g.Documents[0].Path), Err: p})
		}
	}
	for i := range g.References {
		r := &g.References[i]
		if r.State == graph.Unreadable && (r.Why == graph.Denied || r.Why == graph.Failed) && r.Path != "" {
			list = append(list, drive.Unread{Path: r.Path, Err: fs.ErrPermission})
		}
	}
	return append(list, g.Unread...)
}

// elsewhere are the documents that were traced before and are not among those of
// the index: outside the drives, or of no known format. One that is gone needs
// nothing; of one on a drive that is out, what it needed then holds; one that
// cannot be reached otherwise may need anything now.
func elsewhere(docs []index.Entry, known []string, reach drive.Reach) (list []index.Entry, unread []drive.Unread) {
	met := map[string]bool{}
	for _, e := range docs {
		met[e.Path] = true
	}
	for _, p := range known {
		if met[p] {
			continue
		}
		info, err := reach.Stat(p)
		switch {
		case err == nil && info.Mode.IsRegular():
			list = append(list, index.Entry{Path: p, Size: info.Size, Mod: info.ModTime.UnixNano(), Node: info.Node})
		case err != nil && !errors.Is(err, drive.ErrUnplugged) && !isGone(p, err):
			unread = append(unread, drive.Unread{Path: p, Err: err})
		}
	}
	return list, unread
}

// isGone tells that a file is not there any more, also where only the drives may be
// read: that much may be asked of the system.
func isGone(p string, err error) bool {
	if errors.Is(err, drive.ErrOutside) {
		_, err = os.Lstat(p)
	}
	return errors.Is(err, fs.ErrNotExist)
}

// Reader is a document outside a folder that reads a file in it.
type Reader struct {
	Use
	Elsewhere []string // files outside the folder with the same content
}

// Clearout tells whether a folder may go.
type Clearout struct {
	Folder     string
	Safe       bool
	ReadBy     []Reader
	WrittenBy  []Use
	OnlyCopies []string // files that are read from outside and whose content is nowhere else
	Documents  []string // documents that lie in the folder
	Coverage            // how far it was looked
}

// Check tells who outside a folder still needs it. It is safe only when nobody
// does and everything that could say so was read: a drive that is not connected,
// a folder or a document that cannot be read leave it unsafe.
func Check(ctx context.Context, folder string, o Options) (*Clearout, error) {
	c := &Clearout{Folder: folder}
	coverage, err := Refresh(ctx, o)
	if err != nil {
		return nil, err
	}
	c.Coverage = coverage
	c.Unread = append(c.Unread, o.Index.Unread()...)
	for _, d := range o.Trace.Drives {
		if !d.Connected() {
			c.Unread = append(c.Unread, drive.Unread{Path: cmp.Or(d.Name, d.Dir), Err: drive.ErrUnplugged})
		}
	}
	uses, err := o.Ledger.Into(folder)
	if err != nil {
		return nil, err
	}
	aliases := o.Aliases
	if aliases == nil {
		aliases = drive.Aliases
	}
	places := append([]string{folder}, aliases(folder)...)
	for _, other := range places[1:] { // the same folder, mounted elsewhere too
		more, err := o.Ledger.Into(other)
		if err != nil {
			return nil, err
		}
		uses = append(uses, more...)
	}
	within := func(p string) bool {
		return slices.ContainsFunc(places, func(at string) bool { return drive.Within(at, p) })
	}
	elsewhere := map[string][]string{}
	for _, u := range uses {
		if within(u.Document) || u.Role == may.Read && slices.Contains(places, u.Path) {
			continue
		}
		if _, err := o.Trace.Reach.Stat(u.Document); err != nil && isGone(u.Document, err) {
			continue // and needs nothing any more; one that cannot be asked said so when it could
		}
		if u.Role == may.Write {
			c.WrittenBy = append(c.WrittenBy, u)
			continue
		}
		info, err := o.Trace.Reach.Stat(u.Path)
		if err != nil {
			continue // it is not there to be lost
		}
		if _, known := elsewhere[u.Path]; !known {
			if elsewhere[u.Path], err = copies(ctx, within, u.Path, info.Size, o); err != nil {
				return nil, err
			}
			if len(elsewhere[u.Path]) == 0 {
				c.OnlyCopies = append(c.OnlyCopies, u.Path)
			}
		}
		c.ReadBy = append(c.ReadBy, Reader{u, elsewhere[u.Path]})
	}
	known, err := o.Ledger.Known()
	if err != nil {
		return nil, err
	}
	for _, d := range known {
		if _, err := o.Trace.Reach.Stat(d); err == nil && drive.Within(folder, d) {
			c.Documents = append(c.Documents, d)
		}
	}
	slices.Sort(c.Documents)
	slices.Sort(c.OnlyCopies)
	slices.SortFunc(c.Unread, func(a, b drive.Unread) int { return cmp.Compare(a.Path, b.Path) })
	c.Unread = slices.CompactFunc(c.Unread, func(a, b drive.Unread) bool { return a.Path == b.Path })
	c.Safe = len(c.ReadBy)+len(c.WrittenBy) == 0 && c.Whole()
	return c, nil
}

// maxAlike is how many files of one size and other names are read to find a copy:
// the pictures of a studio may all be of one size. maxCopies is how many copies are
// told.
const (
	maxAlike  = 64
	maxCopies = 8
)

// copies are files outside a folder that have a file's content, those of its name
// first. That there is none means that none was found, which is the safer error.
func copies(ctx context.Context, within func(string) bool, path string, size int64, o Options) (list []string, err error) {
	list = []string{}
	same, err := o.Index.Sized(size)
	if err != nil || size == 0 {
		return list, err // of nothing there are copies everywhere
	}
	name := filepath.Base(path)
	slices.SortStableFunc(same, func(a, b index.Entry) int {
		switch x, y := filepath.Base(a.Path) == name, filepath.Base(b.Path) == name; {
		case x == y:
			return 0
		case x:
			return -1
		}
		return 1
	})
	want, others := "", 0
	for _, e := range same {
		if e.Path == path || within(e.Path) {
			continue
		}
		if filepath.Base(e.Path) != name {
			others++
		}
		if others > maxAlike || len(list) == maxCopies {
			break
		}
		if want == "" {
			if want, err = o.Hash(ctx, path); err != nil {
				return list, ctx.Err() // unreadable: no copy of it is known
			}
		}
		if sum, err := o.Hash(ctx, e.Path); err == nil && sum == want {
			list = append(list, e.Path)
		}
		if ctx.Err() != nil {
			return list, ctx.Err()
		}
	}
	return list, nil
}
