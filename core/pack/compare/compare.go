// Package compare tells what came, went and changed between two states of a project: documents, or
// crates.
package compare

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
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
	// Unsure counts files of the same length of which nobody knows whether their bytes are the same: an
	// edition knows the digests of what had been read.
	Unsure int `json:"unsure"`
}

// Equal tells that nothing differs.
func (r *Comparison) Equal() bool {
	return len(r.Came)+len(r.Went)+len(r.Changed) == 0 && !slices.ContainsFunc(r.Documents, func(d ComparedDocument) bool { return d.Changed })
}

// Side is one of two states: traced, or as it was kept.
type Side struct {
	Graph *graph.Graph
	Reach drive.Reach
	Live  bool   // its paths are those of this system, as it stands now
	Root  string // paths are told from here
	// Sum is the SHA-256 of a file, in hexadecimal; "" where it cannot be told.
	Sum func(ctx context.Context, path string) (string, error)
	// Kept, where it is not nil, is the state, and nothing is read.
	Kept *State
}

// Trace makes a side of documents.
func Trace(ctx context.Context, o trace.Options, sum func(context.Context, string) (string, error), documents ...string) (Side, error) {
	g, err := trace.Run(ctx, o, documents...)
	if err != nil {
		return Side{}, err
	}
	return Side{Graph: g, Reach: o.Reach, Root: g.Root, Sum: sum}, nil
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
		other, unsure, err := otherContent(ctx, before, now)
		if err != nil {
			return nil, err
		}
		if unsure {
			out.Unsure++
		}
		out.pair(before, now, other, false)
	}
	return out, out.moved(ctx, was, came)
}

// moved pairs what went with what came, by content, and tells the rest.
func (r *Comparison) moved(ctx context.Context, was map[string]*item, came []*item) error {
	bySize := map[int64][]*item{}
	for _, path := range sortedKeys(was) {
		bySize[was[path].Bytes] = append(bySize[was[path].Bytes], was[path])
	}
	for _, now := range came {
		var from *item
		for _, before := range bySize[now.Bytes] {
			if was[before.Path] == nil || before.Kind != now.Kind || !before.Found || !now.Found {
				continue
			}
			other, unsure, err := otherContent(ctx, before, now)
			if err != nil {
				return err
			}
			if !other && !unsure {
				from = before
				break
			}
		}
		if from == nil {
			r.Came = append(r.Came, now.told())
			continue
		}
		delete(was, from.Path)
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
	return ComparedFile{i.Path, i.Kind, i.Bytes, !i.Carried && !i.Found}
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
	if before.Use != now.Use {
		what = append(what, Use)
	}
	if before.Ranges != now.Ranges {
		what = append(what, Range)
	}
	if len(what) == 0 {
		r.Same++
		return
	}
	r.Changed = append(r.Changed, ChangedFile{now.Path, before.Path, now.Kind, what})
}

// otherContent tells that two files have other bytes; unsure that it cannot be told, because what stood
// there before was never read. One that is not there is like another that is not.
func otherContent(ctx context.Context, a, b *item) (other, unsure bool, err error) {
	switch {
	case a.Found != b.Found:
		return true, false, nil
	case !b.Found:
		return false, false, nil
	case a.Bytes != b.Bytes:
		return true, false, nil
	case a.side.Live && b.side.Live && a.at == b.at:
		return false, false, nil // it is the same file
	}
	if a.side.Kept != nil && a.SHA256 == "" || b.side.Kept != nil && b.SHA256 == "" {
		return false, a.Path != b.Path || a.Modified != b.Modified, nil
	}
	x, err := a.sum(ctx)
	if err != nil {
		return false, false, err
	}
	y, err := b.sum(ctx)
	return x != y, false, err
}

// documents compares those of both: roots with roots, in their order, where there are as many; the
// others by their paths.
func (r *Comparison) documents(ctx context.Context, a, b *Side) error {
	was, is := a.documents(), b.documents()
	roots := func(list []*item) (n int) {
		for _, d := range list {
			if d.Root {
				n++
			}
		}
		return n
	}
	pairs := roots(was) == roots(is)
	byPath := map[string]*item{}
	var firsts []*item
	for _, d := range was {
		if pairs && d.Root {
			firsts = append(firsts, d)
		} else {
			byPath[d.Path] = d
		}
	}
	for _, d := range is {
		from := byPath[d.Path]
		if pairs && d.Root {
			from, firsts = firsts[0], firsts[1:]
		} else if from == nil {
			r.Came = append(r.Came, ComparedFile{Path: d.Path, Kind: facts.Document, Bytes: d.Bytes})
			continue
		} else {
			delete(byPath, d.Path)
		}
		other, _, err := otherContent(ctx, from, d)
		if err != nil {
			return err
		}
		r.Documents = append(r.Documents, ComparedDocument{d.Path, other})
	}
	for _, path := range sortedKeys(byPath) {
		r.Went = append(r.Went, ComparedFile{Path: path, Kind: facts.Document, Bytes: byPath[path].Bytes})
	}
	return nil
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, cmp.Compare)
	return keys
}
