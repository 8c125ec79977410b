// Package connect makes documents that lie elsewhere name files that came apart from them: a crate that
// arrived without its document, any folder that somebody sent. Only what is certain is written.
package connect

import (
	"context"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/problem"
)

// Options is what to connect, with what.
type Options struct {
	Documents []string // absolute
	Folders   []string // where the files came to
	Trace     trace.Options
	Judge     func(*graph.Graph) *origin.Judged
	Reading   func(*graph.Graph) mend.Reading
	// Meant is what the sender's crate records, At where a member of it lies now.
	Meant    []seal.Meant
	At       func(place string) string
	Keep     edition.Keeper
	Journals string
}

// Why is why a reference was not connected.
type Why string

// The reasons.
const (
	NotFound   Why = "not-found"
	NotCertain Why = "not-certain" // candidates there are, and none that is certain
	CannotSay  Why = "cannot-say"  // the document cannot be made to say it
	NotOurs    Why = "not-ours"    // a document of another project names it
)

// Left is a reference that leads nowhere still.
type Left struct {
	Document, Written string
	Why               Why
}

// Connected is a document that was written.
type Connected struct {
	Document   string
	References int
	Edition    string
}

// Rates are the received sounds of another rate than the project's own.
func (d *Done) Rates(r *receive.Report, folders []string) []receive.Misfit {
	return receive.OtherRates(r, d.Graph, func(p string) bool {
		return !slices.ContainsFunc(folders, func(dir string) bool { return drive.Within(dir, p) })
	})
}

// Done is what came of it.
type Done struct {
	Connected []Connected
	Left      []Left
	Written   []writing.Written
	Problems  []problem.Problem
	Graph     *graph.Graph // of the documents as they are now
}

// Run looks for everything the documents lack, by what the sender's crate records, by digests and by
// whatever else makes a candidate certain, and writes that into them: all or none, an edition of each
// kept first.
func Run(ctx context.Context, o Options) (*Done, error) {
	r := &runner{Options: o, offered: map[string]bool{}}
	g, err := trace.Run(ctx, r.Trace, o.Documents...)
	if err != nil {
		return nil, err
	}
	r.Trace.Root = g.Root
	missing := lacking(g)
	if g, err = r.byRecord(ctx, g); err != nil {
		return nil, err
	}
	if g, err = r.byEvidence(ctx, g); err != nil {
		return nil, err
	}
	done := &Done{Graph: g}
	unsaid := map[string]bool{}
	if len(r.Trace.Repairs) > 0 {
		wrote, err := writing.Repairs(g, r.Trace, o.Keep, o.Journals)
		if err != nil {
			return nil, err
		}
		done.Written, done.Problems = wrote.Written, wrote.Problems
		for _, k := range wrote.Keep {
			unsaid[k] = true
		}
		plain := r.Trace
		plain.Repairs = nil
		if done.Graph, err = trace.Run(ctx, plain, o.Documents...); err != nil {
			return nil, err
		}
	}
	left := lacking(done.Graph)
	for _, w := range done.Written {
		n := 0
		for k := range missing {
			if k.document == w.Document && !left[k] {
				n++
			}
		}
		done.Connected = append(done.Connected, Connected{w.Document, max(n, w.Mentions), w.Edition})
	}
	for i := range done.Graph.References {
		ref := &done.Graph.References[i]
		k := keyOf(done.Graph, ref)
		if !left[k] {
			continue
		}
		why := NotFound
		switch {
		case unsaid[ref.Expected] && !done.Graph.Owns(&done.Graph.Documents[ref.Doc]):
			why = NotOurs
		case unsaid[ref.Expected]:
			why = CannotSay
		case r.offered[ref.Expected]:
			why = NotCertain
		}
		done.Left = append(done.Left, Left{k.document, ref.Written, why})
	}
	return done, nil
}

type runner struct {
	Options
	offered map[string]bool // places for which there were candidates
}

// key is a reference, whatever it says.
type key struct {
	document string
	mention  int32
}

func keyOf(g *graph.Graph, r *graph.Reference) key {
	return key{g.Documents[r.Doc].Path, r.Mention}
}

// lacking are the references that lead nowhere and should.
func lacking(g *graph.Graph) map[key]bool {
	list := map[key]bool{}
	for i := range g.References {
		r := &g.References[i]
		if r.State == graph.Missing || r.State == graph.Twins || r.State == graph.Unplugged || len(r.Gaps) > 0 {
			list[keyOf(g, r)] = true
		}
	}
	return list
}

// byRecord repairs what the sender's crate records: a document of the same name whose reference stands
// at the same place, of the same owner, and names a file that was called so.
func (r *runner) byRecord(ctx context.Context, g *graph.Graph) (*graph.Graph, error) {
	type at struct {
		document, owner string
		mention         int
	}
	meant := map[at]*seal.Meant{}
	for i := range r.Meant {
		m := &r.Meant[i]
		k := at{m.Document, m.Owner, m.Mention}
		if meant[k] != nil && !slices.Equal(meant[k].Places, m.Places) {
			meant[k] = &seal.Meant{} // two documents of one name: neither is believed
			continue
		}
		meant[k] = m
	}
	missing, met := lacking(g), map[string]bool{}
	for i := range g.References {
		ref := &g.References[i]
		m := meant[at{filepath.Base(g.Documents[ref.Doc].Path), ref.Owner, int(ref.Mention)}]
		if m == nil || len(m.Places) == 0 || !missing[keyOf(g, ref)] || met[ref.Expected] || ref.Expected == "" {
			continue
		}
		to, ok := r.place(ref, m)
		if !ok {
			continue
		}
		met[ref.Expected] = true
		r.Trace.Repairs = append(r.Trace.Repairs, resolve.Repair{From: ref.Expected, To: to})
	}
	if len(met) == 0 {
		return g, nil
	}
	return trace.Run(ctx, r.Trace, r.Documents...)
}

// place is where what is meant lies now; not ok where the reference names something of another name, or
// it is not there. Frames of a sequence keep their names, or are not found by this.
func (r *runner) place(ref *graph.Reference, m *seal.Meant) (to string, ok bool) {
	name := path.Base(strings.ReplaceAll(ref.Expected, `\`, "/"))
	if len(m.Places) == 1 && strings.EqualFold(name, m.Names[0]) {
		to = r.At(m.Places[0])
		info, err := r.Trace.Reach.Stat(to)
		return to, err == nil && info.Mode.IsRegular()
	}
	dir := filepath.Dir(r.At(m.Places[0]))
	for k, p := range m.Places {
		if at := r.At(p); path.Base(p) != m.Names[k] || filepath.Dir(at) != dir {
			return "", false
		}
	}
	return filepath.Join(dir, name), len(m.Places) > 1
}

// byEvidence repairs what a search of the folders finds certain.
func (r *runner) byEvidence(ctx context.Context, g *graph.Graph) (*graph.Graph, error) {
	judged, rd := r.Judge(g), r.Reading(g)
	rd.First = r.Folders
	x, err := index.Build(ctx, index.Options{Reach: r.Trace.Reach, Dirs: r.Folders, Names: !mend.Measured(mend.Missing(g, judged, rd.Memory))})
	if err != nil {
		return nil, err
	}
	err = mend.Until(ctx, g, judged, rd.Memory, false, func(_ *graph.Graph, wanted []mend.Wanted) ([][]mend.Candidate, error) {
		offered, err := mend.Find(ctx, x, wanted, rd, nil)
		for i := range offered {
			if len(offered[i]) > 0 {
				r.offered[wanted[i].Expected] = true
			}
		}
		return offered, err
	}, func(repairs []resolve.Repair) (*graph.Graph, *origin.Judged, error) {
		r.Trace.Repairs = append(r.Trace.Repairs, repairs...)
		var err error
		if g, err = trace.Run(ctx, r.Trace, r.Documents...); err != nil {
			return nil, nil, err
		}
		return g, r.Judge(g), nil
	})
	return g, err
}
