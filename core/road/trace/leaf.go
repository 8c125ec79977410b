package trace

import (
	"archive/zip"
	"errors"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// leaf is what was found out about a file once.
type leaf struct {
	kind  facts.Kind
	look  *graph.Look // nil: a document, or what cannot be read
	child graph.DocID
	err   error // why it cannot be read
}

// place is one that several references share, as they look at it.
type place struct {
	*graph.Place
	byBytes bool
}

// looked is what describe found of a place that several references share.
type looked struct {
	place   *graph.Place
	kind    facts.Kind
	size    int64
	child   graph.DocID
	damaged bool
}

func (t *tracer) describe(f *found, doc string, byBytes bool) {
	shared := f.s.kind == "" && f.s.member == "" && f.s.sequence == nil && f.State != graph.Inside
	was := place{f.Place, byBytes}
	if l, ok := t.looked[was]; ok && shared {
		f.Place, f.Kind, f.Size, f.Child, f.Damaged = l.place, l.kind, l.size, l.child, l.damaged
		return
	}
	t.inspect(f, doc, byBytes)
	if shared {
		t.looked[was] = looked{f.Place, f.Kind, f.Size, f.Child, f.Damaged}
	}
}

func (t *tracer) inspect(f *found, doc string, byBytes bool) {
	s := f.s
	switch {
	case s.sequence != nil:
		f.Kind = facts.Sequence
		if f.State == graph.Inside {
			f.Size = s.data.Size
		}
		for _, n := range f.Sizes {
			f.Size += n
		}
		return
	case f.State == graph.Inside:
		f.Kind, f.Size = s.inside, s.data.Size
		return
	case !f.State.Found():
		f.Kind = t.expectedKind(f)
		return
	}
	f.Size = f.Info.Size
	l, known := t.leaves[f.Info.Real]
	if byBytes && (!known || l.look == nil) {
		if l, known = t.bytes[f.Info.Real]; !known {
			l = t.plainly(f.Path)
			t.bytes[f.Info.Real] = l
		}
	}
	if !known && !byBytes {
		before := len(t.graph.Documents)
		l = t.leaf(f.Path, f.Info, doc)
		if f.Repaired && len(t.graph.Documents) > before {
			t.graph.Documents[before].Was = f.Expected
		}
		t.leaves[f.Info.Real] = l
	}
	f.Kind, f.Child = l.kind, l.child
	if f.Kind == facts.Other {
		f.Kind = declaredKind(s.kind)
	}
	if s.member != "" {
		t.member(f, s.member)
	}
	if l.err != nil {
		f.unreadable(l.err)
	}
}

// unreadable gives a reference a place of its own that says why.
func (f *found) unreadable(err error) {
	p := *f.Place
	p.State, p.Why = graph.Unreadable, graph.Failed
	if errors.Is(err, format.ErrMalformed) {
		f.Damaged, p.Why = true, graph.Damaged
	} else if errors.Is(err, errDenied) {
		p.Why = graph.Denied
	}
	f.Place = &p
}

// expectedKind is the kind of what is not there, by its name.
func (t *tracer) expectedKind(f *found) facts.Kind {
	name := f.Expected
	if name == "" {
		name = f.Written
	}
	if len(f.Files) > 0 { // twins: whichever is meant is of the kind they share
		name = f.Files[0]
		for _, other := range f.Files[1:] {
			if facts.KindOfName(other) != facts.KindOfName(name) {
				name = f.Written
				break
			}
		}
	}
	if strings.Contains(name, "://") {
		name, _, _ = strings.Cut(name, "#")
		name, _, _ = strings.Cut(name, "?")
	}
	if k := facts.KindOfName(strings.TrimSuffix(name, "/")); k != facts.Other {
		return k
	}
	return declaredKind(f.s.kind)
}

// declaredKind is the kind a document gives a file, Other for none.
func declaredKind(kind string) facts.Kind {
	if k := facts.Kind(kind); slices.Contains(facts.Kinds, k) {
		return k
	}
	return facts.Other
}

// member looks for a part within the package a reference leads to. Another
// part than the package's own document leads to no document.
func (t *tracer) member(f *found, name string) {
	names, known := t.members[f.Info.Real]
	if !known {
		if src, err := t.Reach.Open(f.Path); err == nil {
			if zr, err := zip.NewReader(src, src.Size()); err == nil {
				names = map[string]bool{}
				for _, m := range zr.File {
					names[m.Name] = true
				}
			}
			src.Close()
		}
		t.members[f.Info.Real] = names
	}
	if names != nil && !names[name] {
		p := *f.Place
		p.State, p.Why = graph.Missing, graph.LacksMember
		f.Place, f.Child = &p, graph.None
		f.Damaged = true // the package itself can still be carried
		return
	}
	if f.Child >= 0 && t.readings[f.Child].texts[0].name != name {
		f.Child = graph.None
	}
}

// embeddedKind goes by the bytes themselves, else by the name they have.
func embeddedKind(m *mention.Mention, written string) facts.Kind {
	r := m.Data.Open()
	defer r.Close()
	head := make([]byte, 64)
	n, _ := io.ReadFull(r, head)
	if k := facts.KindOf("", head[:n]); k != facts.Other {
		return k
	}
	if k := facts.KindOfName(written); k != facts.Other && !strings.HasPrefix(written, "data:") {
		return k
	}
	if k := declaredKind(m.Kind); k != facts.Other {
		return k
	}
	return facts.Data
}

// leaf looks at a file's beginning and, where a format claims it, opens it as
// a nested document.
func (t *tracer) leaf(path string, info drive.Info, doc string) leaf {
	if i, ok := t.seen[info.Real]; ok {
		return leaf{kind: kindOfFormat(t.readings[i].format, path), child: i}
	}
	if look, ok := t.known(path, info); ok {
		t.plain[info.Real] = plain{info.Stamp(), look}
		return leaf{kind: look.Kind, look: look, child: graph.None}
	}
	l, f, head := t.begin(path)
	if l.err != nil {
		return l
	}
	defer f.Close()
	var claim format.Format
	if !hasLook(l.kind) {
		claim = t.Formats.Nested(filepath.Base(path), head)
	}
	if claim == nil {
		l.look = t.inspectHead(path, f, head, l.kind)
		t.plain[info.Real] = plain{info.Stamp(), l.look}
		return l
	}
	l.kind = kindOfFormat(claim, path)
	if facts.IsPointer(head) {
		l.err = errPointer
		t.graph.Problems = append(t.graph.Problems, problem.Problem{Kind: problem.Pointer, Path: path, Document: doc})
		return l
	}
	child, err := t.open(path, info)
	if opaque(err) {
		return l
	}
	if err != nil {
		l.err = err
		p := problem.Problem{Kind: problem.NotReadable, Path: path, Document: doc, Args: []string{err.Error()}}
		var mal *format.MalformedError
		if errors.As(err, &mal) {
			p.Line = mal.Line
			p.Args = []string{(&format.MalformedError{Format: mal.Format, Msg: mal.Msg}).Error()}
		} else if errors.Is(err, errDenied) {
			p.Kind, p.Args = problem.Denied, nil
		}
		t.graph.Problems = append(t.graph.Problems, p)
		return l
	}
	l.child = child
	return l
}

// plainly looks at a file's beginning and takes it for no document, whatever it holds.
func (t *tracer) plainly(path string) leaf {
	l, f, head := t.begin(path)
	if l.err != nil {
		return l
	}
	defer f.Close()
	l.look = t.inspectHead(path, f, head, l.kind)
	return l
}

// begin opens a file, reads its beginning and tells its kind from both. The caller closes
// the file, where the leaf holds no error.
func (t *tracer) begin(path string) (leaf, drive.File, []byte) {
	l := leaf{child: graph.None, kind: facts.KindOfName(path)}
	f, err := t.Reach.Open(path)
	if err != nil {
		l.err = err
		return l, nil, nil
	}
	head := make([]byte, min(format.HeadSize, f.Size()))
	n, err := f.ReadAt(head, 0)
	if err != nil && err != io.EOF {
		f.Close()
		l.err = err
		return l, nil, nil
	}
	l.kind = facts.KindOf(path, head[:n])
	return l, f, head[:n]
}

// hasLook says whether files of the kind tell facts of themselves in their headers.
func hasLook(kind facts.Kind) bool {
	return kind == facts.Audio || kind == facts.Video || kind == facts.Image
}

// inspectHead reads what the file tells of itself, unless the caller wants names alone.
func (t *tracer) inspectHead(path string, f drive.File, head []byte, kind facts.Kind) *graph.Look {
	look := &graph.Look{Kind: kind}
	if t.Unlooked {
		return look
	}
	r := begun{f, head}
	var err error
	if hasLook(kind) {
		look.Facts, err = facts.Read(r, f.Size())
	}
	look.Facts.Hollow = facts.HollowOf(path, r, f.Size(), head, look.Facts, err)
	return look
}

// known is what a file was when it was opened before, by this program or by an earlier
// run of it.
func (t *tracer) known(path string, info drive.Info) (*graph.Look, bool) {
	if look, ok := t.Readings.lookOf(info.Real, info.Stamp(), t.formats); ok {
		return look, true
	}
	if t.Known == nil {
		return nil, false
	}
	look, ok := t.Known(path, info.Stamp(), t.formats)
	return &look, ok
}

// begun is a file of which the beginning was read already.
type begun struct {
	io.ReaderAt
	head []byte
}

func (b begun) ReadAt(p []byte, at int64) (int, error) {
	if at >= 0 && at+int64(len(p)) <= int64(len(b.head)) {
		return copy(p, b.head[at:]), nil
	}
	return b.ReaderAt.ReadAt(p, at)
}

// kindOfFormat is the kind of the format's usual extension.
func kindOfFormat(f format.Format, path string) facts.Kind {
	if k := facts.KindOfName("x." + f.About().Extensions[0]); k != facts.Other {
		return k
	}
	return facts.KindOfName(path)
}
