package app

import (
	"io/fs"
	"slices"

	"boundcrate/app/api/mending"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/store"
)

// elsewhere is what the repairs of other projects tell of one snapshot's missing
// files.
type elsewhere struct {
	snapshot int
	repairs  []mend.Foreign
	groups   []mend.Group
}

// elsewhere asks the other projects, if anything changed since they were asked.
func (a *App) elsewhere(p store.Project, w *openProject, s *snapshot, reach drive.Set) (*elsewhere, error) {
	repairs, err := a.store.Foreign(p.ID, reach.Drives)
	if err != nil {
		return nil, err
	}
	if have := w.elsewhere.Load(); have != nil && have.snapshot == s.number && slices.Equal(have.repairs, repairs) {
		return have, nil
	}
	e := &elsewhere{snapshot: s.number, repairs: repairs}
	if len(repairs) > 0 {
		memory, err := a.store.Memory(nil)
		if err != nil {
			return nil, err
		}
		defer memory.Close()
		e.groups = mend.Elsewhere(mend.Missing(s.graph, s.judged, memory.Of), repairs, reading(reach, memory, s.graph), func(at string) bool { return exists(reach, at) })
	}
	w.elsewhere.Store(e)
	return e, nil
}

// offers are the groups to mend: those of the last search, then what other projects
// tell of the rest.
func (a *App) offers(p store.Project, w *openProject, s *snapshot, reach drive.Set) ([]mend.Group, error) {
	e, err := a.elsewhere(p, w, s, reach)
	if err != nil {
		return nil, err
	}
	var f finds
	if found := w.found.Load(); found != nil {
		f.groups = found.groups
	}
	f.groups = slices.Concat(f.groups, e.groups)
	return s.groups(&f), nil
}

// exists tells whether there is a file, or any of a sequence.
func exists(reach drive.Set, at string) bool {
	if pat, ok := graph.ParsePattern(at); ok {
		entries, err := reach.ReadDir(pat.Dir)
		return err == nil && slices.ContainsFunc(entries, func(e fs.DirEntry) bool { _, ok := pat.Number(e.Name()); return ok })
	}
	info, err := reach.Stat(at)
	return err == nil && info.Mode.IsRegular()
}

// maxAsked bounds how many of a project's repairs other projects are asked of.
const maxAsked = 2000

// alsoMissingIn are the projects that miss what this one mended, those that miss the most
// first.
func (a *App) alsoMissingIn(repairs []mending.Repair, names *store.Namer, reach drive.Set) ([]mending.OtherProject, error) {
	missing := map[int64]int{}
	for _, r := range repairs {
		by, err := names.By(r.From, r.Prefix)
		if err != nil {
			return nil, err
		}
		if len(by) == 0 || exists(reach, r.From) {
			continue
		}
		if _, err := reach.Stat(r.From); err == nil {
			continue // the folder is still there, and they read from it
		}
		for id, n := range by {
			missing[id] += n
		}
	}
	list := []mending.OtherProject{}
	for id, n := range missing {
		p, err := a.store.Project(id)
		if err != nil {
			continue // forgotten since
		}
		list = append(list, mending.OtherProject{ID: id, Name: p.Name, Missing: n})
	}
	slices.SortFunc(list, func(x, y mending.OtherProject) int {
		if x.Missing != y.Missing {
			return y.Missing - x.Missing
		}
		return int(x.ID - y.ID)
	})
	return list, nil
}
