package app

import (
	"context"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
)

// follow puts a group that follows from a repair by hand before those of the last
// search, if there is anything in it.
func (w *openProject) follow(g mend.Group) {
	if g.Files() == 0 {
		return
	}
	for {
		was := w.found.Load()
		next := finds{offered: map[string][]mend.Candidate{}}
		if was != nil {
			next = *was
		}
		next.groups = slices.Concat([]mend.Group{g}, next.groups)
		if w.found.CompareAndSwap(was, &next) {
			return
		}
	}
}

// groups are those of a search of which something is still missing, without what was
// mended since; each file in the first that has it.
func (s *snapshot) groups(f *finds) (list []mend.Group) {
	missing := map[string]bool{}
	for _, m := range mend.Missing(s.graph, s.judged, mend.Nothing) {
		missing[m.Expected] = true
	}
	for _, g := range f.groups {
		var left []mend.Member
		g.Certainty, g.Doubts = mend.Certain, 0
		for _, m := range g.Members {
			if !missing[m.Expected] {
				continue
			}
			missing[m.Expected] = false
			left = append(left, m)
			g.Take(&m)
		}
		if g.Members = left; len(left) > 0 {
			list = append(list, g)
		}
	}
	return list
}

// keyOf tells a group from the others that are offered.
func keyOf(g *mend.Group) string {
	key := g.From + "\n" + g.To + "\n" + words.Renamed(g.How)
	if g.Members[0].Best.HasCode(mend.MendedElsewhere) {
		key += "\n" + string(mend.MendedElsewhere)
	}
	return key
}

func (s *snapshot) groupView(g *mend.Group) mending.Group {
	said := report.OfGroup(g)
	return mending.Group{
		From: g.From, To: g.To, FromLabel: drive.Label(s.drives, g.From), ToLabel: drive.Label(s.drives, g.To), Files: g.Files(), Of: g.Of,
		Renamed: said.Renamed, Certainty: g.Certainty, Doubts: g.Doubts, Reasons: said.Reasons, Key: keyOf(g),
	}
}

// grouped is a group by its key.
func grouped(offers []mend.Group, key string) (mend.Group, error) {
	for _, g := range offers {
		if keyOf(&g) == key {
			return g, nil
		}
	}
	return mend.Group{}, fault.Say(fault.Conflict, "Already relinked", "No files of this folder are missing any more.")
}

// Group lists the files of one.
func (a *App) Group(ctx context.Context, project int64, q api.AskKey) (mending.GroupFiles, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return mending.GroupFiles{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.GroupFiles{}, err
	}
	offers, err := a.offers(p, w, s, reach)
	if err != nil {
		return mending.GroupFiles{}, err
	}
	g, err := grouped(offers, q.Key)
	if err != nil {
		return mending.GroupFiles{}, err
	}
	out := mending.GroupFiles{Group: s.groupView(&g), List: []mending.GroupedRow{}}
	for i := range g.Members {
		m := &g.Members[i]
		out.List = append(out.List, s.groupedRow(m.Expected, &m.Best))
	}
	// What is doubtful first: it is what somebody has to look at.
	slices.SortStableFunc(out.List, func(x, y mending.GroupedRow) int { return doubts(y) - doubts(x) })
	return out, nil
}

func doubts(r mending.GroupedRow) int {
	if r.Doubtful {
		return 1
	}
	return 0
}

// MendGroup applies what a group offers, as one act. Each file is looked at again at
// the moment it is taken.
func (a *App) MendGroup(ctx context.Context, project int64, in mending.MendGroup) (api.Started, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	offers, err := a.offers(p, w, s, reach)
	if err != nil {
		return api.Started{}, err
	}
	g, err := grouped(offers, in.Key)
	if err != nil {
		return api.Started{}, err
	}
	var list []decide.Decision
	for _, m := range g.Members {
		if slices.Contains(in.Without, m.Expected) || m.Best.Doubtful() && !in.Despite {
			continue
		}
		if !m.Best.Sequence {
			info, err := reach.Stat(m.Best.Path)
			if err != nil {
				return api.Started{}, err
			}
			if !info.Mode.IsRegular() {
				return api.Started{}, fault.Say(fault.Conflict, "No file", "‘"+drive.Label(s.drives, graph.Shown(m.Best.Path))+"’ is no longer a regular file.")
			}
		}
		list = append(list, repairOf(s.drives, m.Expected, m.Best))
	}
	if len(list) == 0 {
		return api.Started{}, fault.Say(fault.Wrong, "Nothing selected", "None of the selected files is still missing.")
	}
	if err := a.repair(p, w, s, list...); err != nil {
		return api.Started{}, err
	}
	return a.startTrace(p.ID)
}
