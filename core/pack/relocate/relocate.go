// Package relocate makes documents of a crate name its files where these are to lie, and holds what they lead to
// then against what they led to in the crate, reference by reference.
package relocate

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
)

// Move is documents and files on their way from a crate to other places.
type Move struct {
	Was   *graph.Graph                     // the documents as they were traced in the crate
	Trace trace.Options                    // how to trace them where they will lie; Reach and Repairs are made here
	Place func(path string) (string, bool) // the place below data/ of a path of that graph
	Goal  func(place string) string        // where a file will lie, absolute; "": nowhere
	Lies  map[string]File                  // where the bytes lie until then, by place
	Under drive.Reach                      // what lies there already; nil: nothing
}

// Unsaid is a file that a document cannot be made to name where it will lie.
type Unsaid struct {
	Document string // where it will lie
	Places   []string
}

// key is a reference, whatever it says.
type key struct {
	document string // where it will lie
	mention  int32
}

// target is what a reference must lead to.
type target struct {
	path   string // of a sequence its pattern
	places []string
	gaps   int
}

// Documents are those that were given, where they will lie.
func (m *Move) Documents() (list []string) {
	for _, id := range m.Was.Roots {
		if at := m.goal(m.Was.Documents[id].Path); at != "" {
			list = append(list, at)
		}
	}
	return list
}

// goal is where what stands at a path of the crate's graph will lie.
func (m *Move) goal(path string) string {
	if at, ok := m.Place(path); ok {
		return m.Goal(at)
	}
	return ""
}

// targets are what the references must lead to. Of what was not in the crate nothing is asked.
func (m *Move) targets() map[key]target {
	out := map[key]target{}
	for i := range m.Was.References {
		r := &m.Was.References[i]
		if r.File == graph.None || !m.Was.Files[r.File].Carried {
			continue
		}
		f := &m.Was.Files[r.File]
		t := target{gaps: len(r.Gaps)}
		paths := []string{f.Path}
		if f.Frames != nil {
			paths = f.Frames.Files
		}
		for _, p := range paths {
			if at, ok := m.Place(p); ok {
				t.places = append(t.places, at)
			}
		}
		if len(t.places) == 0 || len(t.places) < len(paths) {
			continue
		}
		t.path = m.Goal(t.places[0])
		if f.Frames != nil && t.path != "" {
			pat := f.Frames.Pattern
			pat.Dir = filepath.Dir(t.path)
			t.path = pat.String()
		}
		if at := m.goal(m.Was.Documents[r.Doc].Path); at != "" && t.path != "" {
			out[key{at, r.Mention}] = t
		}
	}
	return out
}

// laid are the files where they will be, and for each frame that a sequence lacks another of its frames: only
// for the moment in which documents are made to name it, which they are of what is there.
func (m *Move) laid() map[string]File {
	files := map[string]File{}
	for place, is := range m.Lies {
		if at := m.Goal(place); at != "" {
			files[at] = is
		}
	}
	for i := range m.Was.References {
		r := &m.Was.References[i]
		if r.File == graph.None || len(r.Gaps) == 0 || m.Was.Files[r.File].Frames == nil || len(m.Was.Files[r.File].Frames.Files) == 0 {
			continue
		}
		frames := m.Was.Files[r.File].Frames
		first := m.goal(frames.Files[0])
		if first == "" {
			continue
		}
		pat := frames.Pattern
		pat.Dir = filepath.Dir(first)
		for _, gap := range r.Gaps {
			for n := gap.First; n <= gap.Last; n += max(1, gap.Step) {
				if name := filepath.Join(pat.Dir, pat.Name(n)); files[name].Path == "" {
					files[name] = files[first]
				}
			}
		}
	}
	return files
}

// maxRounds bounds how deep documents within documents are followed to their new places.
const maxRounds = 16

// Plan tells what must be written into the documents, and what cannot be.
func (m *Move) Plan(ctx context.Context) ([]writing.Change, []Unsaid, error) {
	want, docs := m.targets(), m.Documents()
	if len(docs) == 0 {
		return nil, nil, nil
	}
	o := m.Trace
	o.Repairs, o.Reach = nil, Lay(m.laid(), m.Under)
	met := map[string]bool{}
	g, err := trace.Run(ctx, o, docs...)
	for range maxRounds {
		if err != nil {
			return nil, nil, err
		}
		more := false
		for i := range g.References {
			r := &g.References[i]
			t := want[keyOf(g, r)]
			if t.path == "" || t.path == leads(g, r) || r.Expected == "" || met[r.Expected] {
				continue
			}
			met[r.Expected], more = true, true
			o.Repairs = append(o.Repairs, resolve.Repair{From: r.Expected, To: t.path})
		}
		if !more {
			break
		}
		g, err = trace.Run(ctx, o, docs...)
	}
	if err != nil {
		return nil, nil, err
	}
	changes, out, err := writing.Changes(g, o, nil)
	if err != nil {
		return nil, nil, err
	}
	var unsaid []Unsaid
	for i := range g.References {
		r := &g.References[i]
		if t := want[keyOf(g, r)]; t.path != "" && slices.Contains(out.Keep, r.Expected) {
			unsaid = append(unsaid, Unsaid{g.Documents[r.Doc].Path, t.places})
		}
	}
	return changes, unsaid, nil
}

func keyOf(g *graph.Graph, r *graph.Reference) key { return key{g.Documents[r.Doc].Path, r.Mention} }

// leads is the path of what a reference leads to.
func leads(g *graph.Graph, r *graph.Reference) string {
	if r.File == graph.None || !r.IsCarried() {
		return ""
	}
	return g.Files[r.File].Path
}

// Failing traces the documents once they were written and tells those, by where they lie, that do not lead to the
// very files they led to in the crate.
func (m *Move) Failing(ctx context.Context, files map[string]File) (map[string]bool, error) {
	bad := map[string]bool{}
	docs := m.Documents()
	if len(docs) == 0 {
		return bad, nil
	}
	o := m.Trace
	o.Repairs, o.Reach = nil, Lay(files, m.Under)
	g, err := trace.Run(ctx, o, docs...)
	if err != nil {
		return nil, err
	}
	now, counts := map[key]*graph.Reference{}, map[string]int{}
	for i := range g.References {
		k := keyOf(g, &g.References[i])
		now[k] = &g.References[i]
		counts[k.document]++
	}
	want := m.targets()
	for i := range m.Was.References {
		was := &m.Was.References[i]
		at := m.goal(m.Was.Documents[was.Doc].Path)
		if at == "" {
			continue
		}
		counts[at]--
		k := key{at, was.Mention}
		is, t := now[k], want[k]
		switch {
		case is == nil || is.Owner != was.Owner:
			bad[at] = true
		case t.path == "" && m.Under == nil && is.State.Found() != was.State.Found():
			bad[at] = true
		case t.path != "" && (leads(g, is) != t.path || len(is.Gaps) != t.gaps):
			bad[at] = true
		}
	}
	for at, n := range counts {
		if n != 0 {
			bad[at] = true
		}
	}
	return bad, nil
}
