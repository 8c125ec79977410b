package trace

import (
	"fmt"
	"io/fs"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

var errDenied = fs.ErrPermission

// errPointer: a document is only a pointer of a large-file store in git.
var errPointer = fmt.Errorf("it is a pointer of a large-file store in git: %w", format.ErrMalformed)

// fileOf is the file a reference needs, made when it is first needed: the real
// file, the pattern of a sequence, or the place that is expected.
func (t *tracer) fileOf(f *found) graph.FileID {
	p := f.Place
	switch {
	case p.State == graph.Inside, p.State == graph.Unsaved, p.Network():
		return graph.None
	case f.s.sequence != nil:
		return t.sequence(f)
	}
	if id, ok := t.at[p]; ok {
		return id
	}
	key, path := p.Target(), p.Target()
	if f.IsCarried() && p.Info.Real != "" {
		key = t.one(f, identity(p.Info, f.Child != graph.None))
	}
	if key == "" {
		return graph.None
	}
	id, ok := t.files[key]
	if !ok {
		id = t.addFile(key, graph.File{Path: path, State: p.State, Kind: f.Kind, Size: f.Size, Doc: f.Child, Carried: f.IsCarried(), Repaired: p.Repaired})
		file := &t.graph.Files[id]
		if f.IsCarried() {
			file.Real, file.Stamp, file.Look = p.Info.Real, p.Info.Stamp(), t.leaves[p.Info.Real].look
			if l, plain := t.bytes[p.Info.Real]; plain && file.Look == nil && f.Child == graph.None {
				file.Look = l.look
			}
		}
	} else if file := &t.graph.Files[id]; path != file.Path && !slices.Contains(file.Also, path) {
		if p.State == graph.Here && file.State == graph.Away { // what lies in the project is the project's own
			path, file.Path, file.State, file.Real, file.At = file.Path, path, p.State, p.Info.Real, drive.At(t.Drives, path)
		}
		file.Also = append(file.Also, path)
	}
	t.at[p] = id
	return id
}

// one makes a document one file with what a list names by its bytes alone, whichever of the
// two was met first.
func (t *tracer) one(f *found, key string) string {
	real := f.Place.Info.Real
	if _, listed := t.bytes[real]; !listed || real == key {
		if id, plain := t.files[identity(f.Place.Info, false)]; listed && plain && f.Child != graph.None {
			if _, known := t.files[real]; !known {
				t.files[real] = id
				t.graph.Files[id].Doc, t.graph.Files[id].Kind = f.Child, f.Kind
			}
		}
		return key
	}
	if _, document := t.files[real]; document {
		return real
	}
	return key
}

// identity is what makes two paths one file: where all links lead, and of a file that
// is no document its place on the disk, which hard links share. A document is read
// against the folder it lies in, so that two names of it are two documents.
func identity(info drive.Info, document bool) string {
	if n := info.Node; !document && n.Ino != 0 {
		return fmt.Sprintf("\x00%x.%x.%x.%x", n.Dev, n.Ino, info.Size, info.ModTime.UnixNano())
	}
	return info.Real
}

func (t *tracer) addFile(key string, f graph.File) graph.FileID {
	f.At, f.Use = drive.At(t.Drives, f.Path), mention.Bystander
	id := graph.FileID(len(t.graph.Files))
	t.graph.Files, t.files[key] = append(t.graph.Files, f), id
	return id
}

// sequence joins the files of all references to one pattern: several may name
// different parts of it.
func (t *tracer) sequence(f *found) graph.FileID {
	key := f.Expected
	if key == "" {
		return graph.None
	}
	id, ok := t.files[key]
	if !ok {
		pat := patternOf(f)
		id = t.addFile(key, graph.File{Path: pat.String(), State: f.State, Kind: facts.Sequence, Doc: graph.None, Carried: f.State.Found(), Repaired: f.Repaired,
			Frames: &graph.Frames{Pattern: pat, Said: *f.s.sequence}})
	}
	file := &t.graph.Files[id]
	fr := file.Frames
	have := make(map[string]bool, len(fr.Files))
	for _, p := range fr.Files {
		have[p] = true
	}
	for i, p := range f.Files {
		if !have[p] {
			have[p] = true
			fr.Files, fr.Sizes = append(fr.Files, p), append(fr.Sizes, f.Sizes[i])
			file.Size += f.Sizes[i]
		}
	}
	if f.Lacks() > (&graph.Place{Gaps: fr.Gaps}).Lacks() {
		fr.Gaps = f.Gaps
	}
	fr.Count = max(fr.Count, f.s.sequence.Count)
	return id
}

// patternOf is where the files of a sequence stand, or are expected.
func patternOf(f *found) graph.Pattern {
	pat, _ := graph.ParsePattern(f.Expected)
	if len(f.Files) == 0 {
		return pat
	}
	base := filepath.Base(f.Files[0])
	pat.Dir = filepath.Dir(f.Files[0])
	if _, ok := pat.Number(base); !ok {
		if head, ok := pat.HeadOf(base); ok {
			pat.Head = head
		}
	}
	return pat
}

// settleFiles gives documents their files, and files their references and the
// liveliest use of them.
func (t *tracer) settleFiles() {
	g := t.graph
	for i := range g.Documents {
		d := &g.Documents[i]
		id, ok := t.files[d.Info.Real]
		if _, listed := t.bytes[d.Info.Real]; listed && !ok {
			if id, ok = t.files[identity(d.Info, false)]; ok {
				t.files[d.Info.Real] = id
				t.graph.Files[id].Doc = graph.DocID(i)
			}
		}
		if !ok {
			state := t.resolver.Locate(d.Path)
			kind := kindOfFormat(t.readings[i].format, d.Path)
			if d.Host != graph.DocID(i) {
				kind = facts.KindOfName(d.Path)
			}
			id = t.addFile(d.Info.Real, graph.File{Path: d.Path, Real: d.Info.Real, State: state, Kind: kind, Size: d.Info.Size, Stamp: d.Info.Stamp(), Doc: graph.DocID(i), Carried: true})
		}
		d.File = id
		f := &g.Files[id]
		f.Doc, f.Use = graph.DocID(i), max(f.Use, d.Use)
	}
	root := map[graph.DocID]bool{}
	for _, d := range g.Roots {
		root[d] = true
	}
	counts := make([]int, len(g.Files))
	for k := range g.References {
		r := &g.References[k]
		if r.Child >= 0 && g.Documents[r.Child].By == graph.None && !root[r.Child] {
			g.Documents[r.Child].By, g.Documents[r.Child].Depth = graph.RefID(k), g.Documents[r.Doc].Depth+1
		}
		if r.File != graph.None {
			counts[r.File]++
		}
	}
	all := make([]graph.RefID, 0, len(g.References))
	for i := range g.Files {
		n := len(all)
		all = all[:n+counts[i]]
		g.Files[i].Refs = all[n : n : n+counts[i]]
	}
	for k := range g.References {
		if r := &g.References[k]; r.File != graph.None {
			f := &g.Files[r.File]
			f.Refs, f.Use = append(f.Refs, graph.RefID(k)), max(f.Use, r.Use)
		}
	}
}
