// Package compare tells what came, went and changed between two states of a project: documents, or
// crates.
package compare

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/mention"
)

// What is how a file changed.
type What string

// The changes.
const (
	Content What = "content" // other bytes at the same path
	Path    What = "path"    // the same bytes elsewhere
	Use     What = "use"     // used, dormant or listed otherwise
	Range   What = "range"   // other parts of it are placed
)

// ComparedFile is a file that came or went.
type ComparedFile struct {
	Path  string     `json:"path"` // from the project's or the crate's folder, with slashes; absolute of what lies outside
	Kind  facts.Kind `json:"kind"`
	Bytes int64      `json:"bytes"`
	// Missing tells a file that is named and not there.
	Missing bool `json:"missing,omitempty"`
}

// ChangedFile is a file of both that is not the same in both.
type ChangedFile struct {
	Path string     `json:"path"` // in the second
	Was  string     `json:"was"`  // in the first
	Kind facts.Kind `json:"kind"`
	What []What     `json:"what"`
}

// ComparedDocument is a document of both.
type ComparedDocument struct {
	Path    string `json:"path"` // in the second
	Changed bool   `json:"changed"`
}

// Comparison is what two states differ in, as the command line prints it.
type Comparison struct {
	A         string             `json:"a"` // what was compared, as whoever asked calls it
	B         string             `json:"b"`
	Same      int                `json:"same"` // files that are the same in all
	Came      []ComparedFile     `json:"came"`
	Went      []ComparedFile     `json:"went"`
	Changed   []ChangedFile      `json:"changed"`
	Documents []ComparedDocument `json:"documents"`
}

// Equal tells that nothing differs.
func (r *Comparison) Equal() bool {
	return len(r.Came)+len(r.Went)+len(r.Changed) == 0 && !slices.ContainsFunc(r.Documents, func(d ComparedDocument) bool { return d.Changed })
}

// Side is one of two states.
type Side struct {
	Graph *graph.Graph
	Reach drive.Reach
	Live  bool   // its paths are those of this system, as it stands now
	Root  string // paths are told from here
	// Sum is the SHA-256 of a file, in hexadecimal; "" where it cannot be told.
	Sum func(ctx context.Context, path string) (string, error)
}

// Trace makes a side of documents.
func Trace(ctx context.Context, o trace.Options, sum func(context.Context, string) (string, error), documents ...string) (Side, error) {
	g, err := trace.Run(ctx, o, documents...)
	if err != nil {
		return Side{}, err
	}
	return Side{Graph: g, Reach: o.Reach, Root: g.Root, Sum: sum}, nil
}

// item is a file of a side, all that names it together.
type item struct {
	path   string
	file   *graph.File
	use    mention.Use
	ranges string
	digest string
	side   *Side
}

// Of compares the second state with the first. Contents are read only where neither path nor size
// tells: of files of one size that stand at different places.
func Of(ctx context.Context, a, b Side) (*Comparison, error) {
	was, is := a.items(), b.items()
	out := &Comparison{Came: []ComparedFile{}, Went: []ComparedFile{}, Changed: []ChangedFile{}, Documents: []ComparedDocument{}}
	if err := out.documents(ctx, &a, &b); err != nil {
		return nil, err
	}
	var came []*item
	for _, path := range sortedKeys(is) {
		now, before := is[path], was[path]
		if before == nil {
			came = append(came, now)
			continue
		}
		delete(was, path)
		other, err := otherContent(ctx, before, now)
		if err != nil {
			return nil, err
		}
		out.pair(before, now, other, false)
	}
	return out, out.moved(ctx, was, came)
}

// moved pairs what went with what came, by content, and tells the rest.
func (r *Comparison) moved(ctx context.Context, was map[string]*item, came []*item) error {
	bySize := map[int64][]*item{}
	for _, path := range sortedKeys(was) {
		bySize[was[path].file.Size] = append(bySize[was[path].file.Size], was[path])
	}
	for _, now := range came {
		var from *item
		for _, before := range bySize[now.file.Size] {
			if was[before.path] == nil || before.file.Kind != now.file.Kind || before.file.State != now.file.State && !before.file.State.Found() {
				continue
			}
			other, err := otherContent(ctx, before, now)
			if err != nil {
				return err
			}
			if !other && now.file.State.Found() {
				from = before
				break
			}
		}
		if from == nil {
			r.Came = append(r.Came, now.told())
			continue
		}
		delete(was, from.path)
		r.pair(from, now, false, true)
	}
	for _, path := range sortedKeys(was) {
		r.Went = append(r.Went, was[path].told())
	}
	slices.SortFunc(r.Changed, func(x, y ChangedFile) int { return strings.Compare(x.Path, y.Path) })
	return nil
}

// told is a file that came or went.
func (i *item) told() ComparedFile {
	return ComparedFile{i.path, i.file.Kind, i.file.Size, !i.file.Carried && !i.file.State.Found()}
}

// pair tells how a file changed.
func (r *Comparison) pair(before, now *item, content, moved bool) {
	var what []What
	if content {
		what = append(what, Content)
	}
	if moved {
		what = append(what, Path)
	}
	if before.use != now.use {
		what = append(what, Use)
	}
	if before.ranges != now.ranges {
		what = append(what, Range)
	}
	if len(what) == 0 {
		r.Same++
		return
	}
	r.Changed = append(r.Changed, ChangedFile{now.path, before.path, now.file.Kind, what})
}

// otherContent tells that two files have other bytes. One that is not there is like another that is not.
func otherContent(ctx context.Context, a, b *item) (bool, error) {
	if a.file.State.Found() != b.file.State.Found() {
		return true, nil
	}
	if !b.file.State.Found() {
		return false, nil
	}
	if a.file.Size != b.file.Size {
		return true, nil
	}
	if a.side.Live && b.side.Live && a.file.Path == b.file.Path {
		return false, nil // it is the same file
	}
	x, err := a.sum(ctx)
	if err != nil {
		return false, err
	}
	y, err := b.sum(ctx)
	return x != y, err
}

// sum is the digest of a file, of a sequence that of its frames' digests.
func (i *item) sum(ctx context.Context) (string, error) {
	if i.digest != "" {
		return i.digest, nil
	}
	paths := []string{i.file.Path}
	if i.file.Frames != nil {
		paths = i.file.Frames.Files
	}
	h := sha256.New()
	for _, p := range paths {
		sum, err := i.side.Sum(ctx, p)
		if err != nil {
			return "", err
		}
		fmt.Fprintln(h, sum)
	}
	i.digest = hex.EncodeToString(h.Sum(nil))
	return i.digest, nil
}

// items are the files of a side that are no documents, by their paths as they are told.
func (s *Side) items() map[string]*item {
	g := s.Graph
	list := map[string]*item{}
	for i := range g.Files {
		f := &g.Files[i]
		if f.Doc != graph.None {
			continue
		}
		it := &item{path: s.label(f.Shown()), file: f, use: f.Use, side: s}
		var ranges []string
		for _, n := range f.Refs {
			if r := g.References[n].Range; r != nil {
				ranges = append(ranges, fmt.Sprintf("%.6f+%.6f", r.Start, r.Duration))
			}
		}
		slices.Sort(ranges)
		it.ranges = strings.Join(ranges, " ")
		list[it.path] = it
	}
	return list
}

// label is a path as it is told.
func (s *Side) label(p string) string {
	if rel, err := filepath.Rel(s.Root, p); err == nil && filepath.IsLocal(rel) {
		return filepath.ToSlash(rel)
	}
	return p
}

// documents compares those of both: roots with roots, in their order, where there are as many; the
// others by their paths.
func (r *Comparison) documents(ctx context.Context, a, b *Side) error {
	was := map[string]string{} // what a document of the first is called → its path
	first := map[graph.DocID]bool{}
	pairs := len(a.Graph.Roots) == len(b.Graph.Roots)
	for n, id := range b.Graph.Roots {
		if !pairs {
			break
		}
		from := a.Graph.Roots[n]
		first[id] = true
		other, err := otherBytes(ctx, a, a.Graph.Documents[from].Path, b, b.Graph.Documents[id].Path)
		if err != nil {
			return err
		}
		r.Documents = append(r.Documents, ComparedDocument{b.label(b.Graph.Documents[id].Path), other})
	}
	for i := range a.Graph.Documents {
		if !pairs || !slices.Contains(a.Graph.Roots, graph.DocID(i)) {
			was[a.label(a.Graph.Documents[i].Path)] = a.Graph.Documents[i].Path
		}
	}
	for i := range b.Graph.Documents {
		d := &b.Graph.Documents[i]
		if first[graph.DocID(i)] {
			continue
		}
		path := b.label(d.Path)
		from, known := was[path]
		if !known {
			r.Came = append(r.Came, ComparedFile{Path: path, Kind: facts.Document, Bytes: d.Info.Size})
			continue
		}
		delete(was, path)
		other, err := otherBytes(ctx, a, from, b, d.Path)
		if err != nil {
			return err
		}
		r.Documents = append(r.Documents, ComparedDocument{path, other})
	}
	for _, path := range sortedKeys(was) {
		size := int64(0)
		if info, err := a.Reach.Stat(was[path]); err == nil {
			size = info.Size
		}
		r.Went = append(r.Went, ComparedFile{Path: path, Kind: facts.Document, Bytes: size})
	}
	return nil
}

func otherBytes(ctx context.Context, a *Side, from string, b *Side, to string) (bool, error) {
	if a.Live && b.Live && from == to {
		return false, nil
	}
	x, err := a.Sum(ctx, from)
	if err != nil {
		return false, err
	}
	y, err := b.Sum(ctx, to)
	return x != y, err
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, cmp.Compare)
	return keys
}
