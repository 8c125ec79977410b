package line

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/compare"
	"boundcrate/core/road/graph"
)

// Present is what stands on the disk now.
type Present struct {
	Reach  drive.Reach
	Drives []drive.Drive
	Root   string   // the project's folder
	Given  []string // the documents that were given, absolute
	Own    []string // documents within the root, absolute
	Beyond []string // outside of it
	// Material is what they name; nil where they cannot be traced.
	Material *compare.State
}

// Of is what a trace found. known tells the digests of files as far as somebody read them.
func Of(g *graph.Graph, reach drive.Reach, drives []drive.Drive, known func(path string, is drive.Stamp) string) Present {
	p := Present{Reach: reach, Drives: drives, Root: g.Root, Given: g.Given()}
	for i := range g.Documents {
		d := &g.Documents[i]
		if g.Owns(d) {
			p.Own = append(p.Own, d.Path)
		} else {
			p.Beyond = append(p.Beyond, d.Path)
		}
	}
	side := compare.Side{Graph: g, Root: g.Root}
	p.Material = side.Keep(known)
	return p
}

// Request is how a state is to be kept.
type Request struct {
	By          By
	Note        string
	Alternative bool // beside the line it came from
	Now         time.Time
	onNew       bool // the note is for a new edition alone
}

// Kept is what came of keeping.
type Kept struct {
	Edition   Edition
	Line      *Line
	Unchanged bool // the state stood already
}

// Keep keeps the present state. One that is the current edition's is that edition: a note is added to it.
// Nothing is kept where a document changes while it is read: it is errChanged.
func (s *Store) Keep(ctx context.Context, p Present, r Request) (*Kept, error) {
	release, err := s.hold(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	return s.keep(ctx, p, r)
}

// errChanged: a document changed while it was read.
var errChanged = errors.New("it changed while it was read")

// ChangedError names the document that changed while it was read.
type ChangedError struct{ Path string }

func (e *ChangedError) Error() string { return "‘" + e.Path + "’ " + errChanged.Error() }

// tries is how often a state is read anew in which a document changed meanwhile.
const tries = 3

func (s *Store) keep(ctx context.Context, p Present, r Request) (kept *Kept, err error) {
	l, err := s.Find(p.Given, p.Drives)
	if errors.Is(err, ErrNone) {
		if l = s.grown(p.Given, p.Drives); l == nil {
			l = &Line{key: newKey(p.Given)}
		}
	} else if err != nil {
		return nil, err
	}
	for range tries {
		var changed *ChangedError
		if kept, err = s.keepIn(ctx, l, p, r); !errors.As(err, &changed) {
			break
		}
	}
	return kept, err
}

func (s *Store) keepIn(ctx context.Context, l *Line, p Present, r Request) (*Kept, error) {
	e := Edition{By: r.By, Note: r.Note, At: r.Now, Root: p.Root, Given: p.Given}
	for _, d := range p.Given {
		e.Places = append(e.Places, drive.At(p.Drives, d).String())
	}
	if last := l.Last(); last != nil && len(last.Given) > len(p.Given) {
		_, e.Given = last.Stands(p.Given[0], p.Drives) // any of them names it
		e.Places = last.Places
	}
	var err error
	if e.Documents, err = digests(ctx, p, p.Own, true); err != nil {
		return nil, err
	}
	if e.Outside, err = digests(ctx, p, p.Beyond, false); err != nil {
		return nil, err
	}
	if same := l.standing(e.Documents); same != nil && !r.Alternative {
		if l.Current != same.ID {
			if err := s.add(l.key, moved{same.ID, r.Now}); err != nil {
				return nil, err
			}
			l.Current = same.ID
		}
		if r.Note != "" && !r.onNew && r.Note != same.Note {
			same.Note = joined(same.Note, r.Note)
			if err := s.add(l.key, noted{same.ID, same.Note}); err != nil {
				return nil, err
			}
		}
		return &Kept{*same, l, true}, nil
	}
	if err := s.putAll(ctx, &e, p); err != nil {
		return nil, err
	}
	e.ID, e.From, e.Line = l.spent+1, l.Current, l.next(r.Alternative)
	if from, ok := l.Edition(e.From); ok {
		e.Since = s.since(ctx, from, &e)
	}
	if err := s.add(l.key, e); err != nil {
		return nil, err
	}
	l.Editions, l.Current, l.spent = append(l.Editions, e), e.ID, e.ID
	return &Kept{e, l, false}, nil
}

func joined(a, b string) string {
	if a == "" {
		return b
	}
	return a + "\n" + b
}

// standing is the edition whose documents are these: the current one, else the youngest.
func (l *Line) standing(docs []Document) *Edition {
	if e, ok := l.Edition(l.Current); ok && alike(e.Documents, docs) {
		return e
	}
	for i := range slices.Backward(l.Editions) {
		if alike(l.Editions[i].Documents, docs) {
			return &l.Editions[i]
		}
	}
	return nil
}

func alike(a, b []Document) bool {
	return slices.EqualFunc(a, b, func(x, y Document) bool { return x.Path == y.Path && x.SHA256 == y.SHA256 })
}

// next is the line on which the next edition stands: that of the current one, where it goes on from its end;
// else a new one.
func (l *Line) next(alternative bool) string {
	from, ok := l.Edition(l.Current)
	if !ok {
		return "1"
	}
	for i := range l.Editions {
		e := &l.Editions[i]
		if e.Line == from.Line && e.ID > from.ID {
			alternative = true // it went on from there already
		}
	}
	if alternative {
		return strconv.Itoa(l.highest() + 1)
	}
	return from.Line
}

// digests reads documents. One that is gone is left out.
func digests(ctx context.Context, p Present, docs []string, own bool) ([]Document, error) {
	list := make([]Document, len(docs))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(4)
	for i, doc := range docs {
		group.Go(func() error {
			info, err := p.Reach.Stat(doc)
			if errors.Is(err, fs.ErrNotExist) {
				return nil
			}
			if err != nil {
				return err
			}
			sum, err := drive.Fingerprint(ctx, p.Reach, doc, nil)
			if err != nil {
				return err
			}
			if after, err := p.Reach.Stat(doc); err != nil || !after.Same(info) {
				return &ChangedError{doc}
			}
			list[i] = Document{Path: doc, SHA256: sum, Bytes: info.Size, Mode: uint32(info.Mode.Perm()), Modified: info.ModTime}
			if rel, err := filepath.Rel(p.Root, doc); own && err == nil {
				list[i].Path = filepath.ToSlash(rel)
			}
			return nil
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	list = slices.DeleteFunc(list, func(d Document) bool { return d.SHA256 == "" })
	slices.SortFunc(list, func(a, b Document) int { return strings.Compare(a.Path, b.Path) })
	return list, nil
}

// putAll keeps the bytes of an edition's documents and the list of its material.
func (s *Store) putAll(ctx context.Context, e *Edition, p Present) error {
	group, gctx := errgroup.WithContext(ctx)
	group.SetLimit(4)
	met := map[string]bool{}
	for _, d := range e.Documents {
		if met[d.SHA256] {
			continue
		}
		met[d.SHA256] = true
		at := filepath.Join(p.Root, filepath.FromSlash(d.Path))
		group.Go(func() error {
			err := s.put(gctx, d.SHA256, func() (io.ReadCloser, error) { return p.Reach.Open(at) })
			if errors.Is(err, errBytes) {
				return &ChangedError{at}
			}
			return err
		})
	}
	if err := group.Wait(); err != nil || p.Material == nil {
		return err
	}
	state := *p.Material
	for i := range state.Documents {
		d := &state.Documents[i]
		for _, of := range [][]Document{e.Documents, e.Outside} {
			for _, x := range of {
				if x.Path == d.Path {
					d.SHA256 = x.SHA256
				}
			}
		}
	}
	return s.putMaterial(ctx, e, &state)
}

// putMaterial keeps the list of what an edition's documents name.
func (s *Store) putMaterial(ctx context.Context, e *Edition, state *compare.State) error {
	for _, f := range state.Files {
		if f.Found {
			e.Material.Files++
			e.Material.Bytes += f.Bytes
		}
	}
	text, err := state.Text()
	if err != nil {
		return err
	}
	sum := sha256.Sum256(text)
	e.Material.SHA256 = hex.EncodeToString(sum[:])
	return s.put(ctx, e.Material.SHA256, func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(text)), nil })
}

// since counts what is another since an edition; nil where that cannot be told.
func (s *Store) since(ctx context.Context, from, e *Edition) *Since {
	c, err := s.Compare(ctx, from, e)
	if err != nil {
		return nil
	}
	out := &Since{Came: len(c.Came), Went: len(c.Went), Changed: len(c.Changed)}
	for _, d := range c.Documents {
		if d.Changed {
			out.Documents++
		}
	}
	return out
}

// Compare tells what came, went and changed between two editions.
func (s *Store) Compare(ctx context.Context, a, b *Edition) (*compare.Comparison, error) {
	var texts [2][]byte
	group, gctx := errgroup.WithContext(ctx)
	for i, e := range []*Edition{a, b} {
		group.Go(func() (err error) {
			texts[i], err = s.material(gctx, e)
			return err
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	was, is, same, err := compare.Apart(texts[0], texts[1])
	if err != nil {
		return nil, err
	}
	out, err := compare.Of(ctx, compare.Side{Kept: was}, compare.Side{Kept: is})
	if err == nil {
		out.Same += same
	}
	return out, err
}

// material is the list of what an edition's documents named, as it is kept; ErrNone where they could not be traced.
func (s *Store) material(ctx context.Context, e *Edition) ([]byte, error) {
	if e.Material.SHA256 == "" {
		return nil, ErrNone
	}
	var b bytes.Buffer
	err := s.Copy(ctx, e.Material.SHA256, &b)
	return b.Bytes(), err
}

// State is what an edition's documents named when it was kept, to be compared; ErrNone where they could not
// be traced.
func (s *Store) State(ctx context.Context, e *Edition) (*compare.State, error) {
	text, err := s.material(ctx, e)
	if err != nil {
		return nil, err
	}
	state := &compare.State{}
	return state, json.Unmarshal(text, state)
}
