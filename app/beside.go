package app

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/places"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// searchOf are the folders a project looks in.
func searchOf(p store.Project, drives []drive.Drive) []mending.SearchFolder {
	list := []mending.SearchFolder{}
	for _, f := range p.Search {
		if abs, ok := drive.Abs(drives, f); ok {
			list = append(list, mending.SearchFolder{Path: abs, Label: drive.Label(drives, abs)})
		}
	}
	return list
}

// SetSearch sets the folders a project looks in for what is not where its name
// leads.
func (a *App) SetSearch(ctx context.Context, project int64, in mending.SetSearch) (api.Started, error) {
	p, _, err := a.open(project)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	var list []drive.Path
	for _, f := range in.Folders {
		f = filepath.Clean(f)
		at := drive.At(reach.Drives, f)
		if slices.Contains(list, at) {
			continue
		}
		if !slices.Contains(p.Search, at) { // one that was there may be on a drive that is out
			info, err := reach.Stat(f)
			if err != nil {
				return api.Started{}, err
			}
			if !info.Mode.IsDir() {
				return api.Started{}, fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(reach.Drives, f)+"’ is a file.")
			}
		}
		list = append(list, at)
	}
	if err := a.store.SetSearch(p.ID, list); err != nil {
		return api.Started{}, err
	}
	return a.startTrace(p.ID)
}

// maxSiblings bounds how many states of a document are shown.
const maxSiblings = 30

// siblings are the states of a project's first document, the latest first.
func (a *App) siblings(p store.Project) []places.Sibling {
	list := []places.Sibling{}
	reach, err := a.reach()
	if err != nil {
		return list
	}
	found := origin.Siblings(reach, p.Documents[0])
	for _, s := range found[:min(len(found), maxSiblings)] {
		list = append(list, places.Sibling{Path: s.Path, Name: filepath.Base(s.Path), Modified: s.Modified, Size: s.Size, Newest: s.Newest, Own: s.Path == p.Documents[0]})
	}
	return list
}

// maxDiffering bounds how many files a comparison lists on each side.
const maxDiffering = 200

// Sibling tells how another state of a project's document differs from it.
func (a *App) Sibling(ctx context.Context, project int64, q api.AskPath) (places.Compared, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return places.Compared{}, err
	}
	path := filepath.Clean(q.Path)
	if !slices.ContainsFunc(a.siblings(p), func(x places.Sibling) bool { return x.Path == path }) {
		return places.Compared{}, store.ErrNotFound
	}
	return tried(ctx, a, "Comparing "+filepath.Base(path), p.ID, path, func(ctx context.Context) (places.Compared, error) {
		return a.compared(ctx, p, w, s, path)
	})
}

// compared tells how a document differs from a project's own.
func (a *App) compared(ctx context.Context, p store.Project, w *openProject, s *snapshot, path string) (places.Compared, error) {
	o, done, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return places.Compared{}, err
	}
	defer done()
	o.Readings = nil // it is no document of the project
	g, err := trace.Run(ctx, o, path)
	if err != nil {
		return places.Compared{}, fault.Say(fault.Unfit, "Could not be read", words.Error(err))
	}
	out := places.Compared{References: len(g.References), Came: []string{}, Went: []string{}}
	named := func(g *graph.Graph) map[string]string {
		list := map[string]string{}
		for i := range g.Files {
			if f := &g.Files[i]; len(f.Refs) > 0 {
				list[f.At.String()] = f.Shown()
			}
		}
		return list
	}
	for i := range g.Files {
		if f := &g.Files[i]; len(f.Refs) > 0 && f.State == graph.Missing {
			out.Missing++
		}
	}
	own := s.graph
	if len(p.Documents) > 1 { // only what the document it is a state of names counts
		if own, err = trace.Run(ctx, o, p.Documents[0]); err != nil {
			return places.Compared{}, fault.Say(fault.Unfit, "Could not be read", words.Error(err))
		}
	}
	ours, theirs := named(own), named(g)
	for k, shown := range theirs {
		if _, both := ours[k]; both {
			out.Same++
		} else {
			out.Came = append(out.Came, drive.Label(s.drives, shown))
		}
	}
	for k, shown := range ours {
		if _, both := theirs[k]; !both {
			out.Went = append(out.Went, drive.Label(s.drives, shown))
		}
	}
	slices.Sort(out.Came)
	slices.Sort(out.Went)
	out.Came, out.Went = out.Came[:min(len(out.Came), maxDiffering)], out.Went[:min(len(out.Went), maxDiffering)]
	return out, nil
}
