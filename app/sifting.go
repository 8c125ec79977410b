package app

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/jobs"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// twins are the contents that a snapshot holds more than once, as far as they were
// looked for.
type twins struct {
	snapshot int
	list     []sift.Duplicate
	groups   [][]graph.FileID
}

// weigh looks for duplicates, which may read much: it is a job of its own, and what was
// read is remembered.
func (a *App) weigh(p store.Project, w *openProject, s *snapshot) {
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		return
	}
	if n, _ := sift.Alike(s.graph); n == 0 {
		w.twins.Store(&twins{s.number, nil, sift.Groups(s.graph, nil)})
		return
	}
	// One is under way already, or the page is told by the next ask.
	_, _ = jobs.Run(a.jobs, jobs.Spec{Kind: api.JobWeigh, Project: p.ID, Title: "Comparing files of equal size", Unit: "bytes", Quiet: true}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		t, err := a.compare(ctx, w, s, j)
		if err != nil {
			return api.Nothing{}, "", err
		}
		a.replan(ctx, p.ID, w)
		if len(t.list) == 0 {
			return api.Nothing{}, "no duplicates", nil
		}
		return api.Nothing{}, phrase.Plural(len(t.list), "duplicate") + " found", nil
	})
}

// compare looks for duplicates, unless that was done.
func (a *App) compare(ctx context.Context, w *openProject, s *snapshot, j *jobs.Task) (*twins, error) {
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		return t, nil
	}
	reach, err := a.reach()
	if err != nil {
		return nil, err
	}
	_, total := sift.Alike(s.graph)
	memory, err := a.store.Memory(nil)
	if err != nil {
		return nil, err
	}
	defer memory.Close()
	hash, done := memory.Hasher(reach), int64(0)
	dups, err := sift.Duplicates(ctx, s.graph, reach, func(ctx context.Context, p string) (string, error) {
		if info, err := reach.Stat(p); err == nil {
			done += info.Size
		}
		j.Step("comparing files of equal size", done, total)
		return hash(ctx, p)
	})
	if err != nil {
		return nil, err
	}
	t := &twins{s.number, dups, sift.Groups(s.graph, dups)}
	w.twins.Store(t)
	return t, nil
}

// maxDocuments is how many nested documents have a switch of their own.
const maxDocuments = 200

// switches are the nested documents with what they alone name, the heaviest first.
func switches(g *graph.Graph, s sift.Selection, left []string, drives []drive.Drive) []packing.DocSwitch {
	list := []packing.DocSwitch{}
	at := map[graph.DocID]int{}
	for i := range g.Documents {
		d := &g.Documents[i]
		if g.IsRoot(graph.DocID(i)) || d.File == graph.None || !g.Files[d.File].Carried {
			continue
		}
		at[graph.DocID(i)] = len(list)
		full := drive.Label(drives, d.Path)
		list = append(list, packing.DocSwitch{Path: d.Path, Name: filepath.Base(full), Label: filepath.Dir(full), Files: 1, Bytes: g.Files[d.File].Size, Stays: slices.Contains(left, d.Path)})
	}
	for i := range g.Files {
		f := &g.Files[i]
		if !f.Carried || len(f.Refs) == 0 || f.Doc != graph.None {
			continue
		}
		doc := g.References[f.Refs[0]].Doc
		if slices.ContainsFunc(f.Refs, func(r graph.RefID) bool { return g.References[r].Doc != doc }) {
			continue
		}
		if k, ok := at[doc]; ok {
			list[k].Files += sift.Files(f)
			list[k].Bytes += f.Size
		}
	}
	slices.SortStableFunc(list, func(a, b packing.DocSwitch) int { return int(min(1, max(-1, b.Bytes-a.Bytes))) })
	return list[:min(len(list), maxDocuments)]
}

// sifted puts what Sift shows beside the plan.
func (a *App) sifted(out *packing.Stow, pl *planned, w *openProject, s *snapshot) {
	g, sel := pl.plan.Graph, pl.plan.Selection
	found := pl.loose
	if out.Seeking = found == unsought; out.Seeking {
		found = nil
	}
	given := sift.GivesUp(g, sel, found, pl.plan.Along())
	cut := sift.GivenUp{What: sift.UnusedParts}
	for i := range pl.plan.Berths {
		if b := &pl.plan.Berths[i]; b.Cut != nil && !b.Absent && !b.Apart() {
			cut.Files++
			if b.IsSequence() {
				cut.Bytes += b.Raw - b.Size
			} else {
				cut.Bytes += int64(float64(b.Raw) * (1 - float64(b.Cut.Frames)/float64(b.Long)))
			}
		}
	}
	if cut.Files > 0 {
		given = append([]sift.GivenUp{cut}, given...)
	}
	for _, x := range given {
		out.GivesUp = append(out.GivesUp, packing.GivenUp{GivenUp: x, Text: words.GivesUp(x)})
	}
	out.ForArchive = sift.ForArchive(given, sel) && s.tally.Pending == 0
	for i, k := range sift.KeptBy(g, sel) {
		if i == maxKept {
			break
		}
		out.Kept = append(out.Kept, words.Kept(filepath.Base(g.Documents[k.Doc].Path), k.Kind, k.Files))
	}
	if l := w.loose.Load(); l != nil && l.drawn.Parts > 0 {
		out.Drawn = words.Drawn(l.drawn)
	}
	globs := slices.Concat(pl.recipe.Also, pl.options.Leave.Drop, pl.options.Leave.Keep)
	out.Unmatched = append([]string{}, sift.Unmatched(globs, g, pl.loose)...)
	out.Documents = switches(g, sel, pl.options.Leave.Docs, s.drives)
	sums := map[sift.Along]*packing.AlongSum{}
	for _, what := range sift.Alongs {
		sums[what] = &packing.AlongSum{What: what, Word: words.Along(what), Travels: slices.Contains(pl.recipe.Also, string(what))}
	}
	chosen := map[string]bool{}
	for _, e := range pl.options.Also {
		chosen[e.Path] = true
	}
	for _, e := range pl.loose.Extras {
		sum := sums[e.What]
		sum.Files++
		sum.Bytes += e.Size
		if chosen[e.Path] {
			sum.GoFiles++
			sum.GoBytes += e.Size
		}
	}
	for _, e := range pl.plan.Along() { // what those need themselves
		if s := sums[e.What]; s != nil && !chosen[e.Path] {
			s.NeedFiles++
			s.NeedBytes += e.Size
		}
	}
	for _, what := range sift.Alongs {
		out.Along = append(out.Along, *sums[what])
	}
	for i := range pl.plan.Berths {
		if b := &pl.plan.Berths[i]; b.Along != "" {
			out.AlongBytes += b.Size
		}
	}
	if t := w.twins.Load(); t != nil && t.snapshot == s.number {
		out.Twins.Known = true
		for _, group := range t.groups {
			n := int64(len(group) - 1)
			out.Twins.Files += int(n)
			out.Twins.Bytes += n * g.Files[group[0]].Size
		}
	} else {
		out.Twins.Files, out.Twins.Bytes = sift.Alike(g)
	}
}

// maxKept is how many lines tell what is still needed.
const maxKept = 20

// alongside is the key of the group of what no document names.
const alongside = "\x00"

// siftGroup parts berths by something of their files.
func siftGroup(s *snapshot, id string, key func(graph.FileID) string, title func(string) string) table.Group[berthRow] {
	return table.Group[berthRow]{
		ID: id,
		Key: func(r *berthRow) string {
			if r.b().File == graph.None {
				return alongside
			}
			return key(r.b().File)
		},
		Title: func(k string) string {
			if k == alongside {
				return "Optional; not referenced by any document"
			}
			return title(k)
		},
	}
}

// weighed says what a group of berths weighs.
func weighed(rows []*berthRow) string {
	var travels, stays int64
	for _, r := range rows {
		switch b := r.b(); {
		case !b.Absent:
			travels += b.Size
		case b.File != graph.None && r.stays():
			stays += b.Size
		}
	}
	switch {
	case stays == 0:
		return phrase.Size(travels)
	case travels == 0:
		return phrase.Size(stays) + " stay"
	}
	return phrase.Size(travels) + " travel, " + phrase.Size(stays) + " stay"
}

// stays tells a file that is there, or was, and stays by a choice.
func (r *berthRow) stays() bool {
	_, stays := r.plan.plan.Selection.Stays[r.b().File]
	return stays
}

// hasOwnName tells that a person decided something of the file by itself.
func (r *berthRow) hasOwnName() bool {
	h := r.plan.options.ByHand[r.b().File]
	if r.b().File == graph.None {
		h = r.plan.options.Hand[r.b().Source]
	}
	return h.Stays || h.Travels || h.Folder != nil || h.Name != nil
}

// siftFacets are how the ledger of what travels is narrowed to what a line, or a part of
// the gauge, counts.
func siftFacets(g *graph.Graph, judged *origin.Judged) map[string]func(*berthRow, string) bool {
	file := func(r *berthRow) *graph.File {
		if r.b().File == graph.None {
			return nil
		}
		return &g.Files[r.b().File]
	}
	return map[string]func(*berthRow, string) bool{
		"use": func(r *berthRow, v string) bool { f := file(r); return f != nil && f.Use.String() == v },
		"class": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && string(judged.File(g, r.b().File).Class) == v
		},
		"origin": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && string(judged.File(g, r.b().File).Origin) == v
		},
		"why":   func(r *berthRow, v string) bool { return r.b().Absent && string(r.b().Why) == v },
		"along": func(r *berthRow, v string) bool { return string(r.b().Along) == v || v == "all" && r.b().Along != "" },
		"doc": func(r *berthRow, v string) bool {
			f := file(r)
			return f != nil && (f.Path == v || slices.ContainsFunc(f.Refs, func(id graph.RefID) bool { return g.Documents[g.References[id].Doc].Path == v }))
		},
	}
}
