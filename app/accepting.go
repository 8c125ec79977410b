package app

import (
	"context"
	"path/filepath"
	"slices"

	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/say/words"
)

// Accept applies the first candidate of each chosen missing file, as one act, or with Try only
// tells what it would do. A file that has no candidate is left out, and so is a doubtful one
// unless Despite is set.
func (a *App) Accept(ctx context.Context, project int64, in mending.Accept) (mending.Accepted, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return mending.Accepted{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.Accepted{}, err
	}
	found := w.found.Load()
	keys, err := rowsChosen(wantedLedger(s, found), s, in.Keys, in.Rows)
	if err != nil {
		return mending.Accepted{}, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return mending.Accepted{}, err
	}
	defer memory.Close()
	missing := map[string]mend.Wanted{}
	for _, m := range mend.Missing(s.graph, s.judged, memory.Of) {
		missing[m.Expected] = m
	}
	out := mending.Accepted{List: []mending.GroupedRow{}}
	var repairs []decide.Decision
	for _, key := range keys {
		m, ok := missing[key]
		if !ok {
			continue // relinked meanwhile
		}
		offered := s.offered(found, m.File, m.Expected)
		if len(offered) == 0 {
			out.None++
			continue
		}
		row := s.groupedRow(m.Expected, &offered[0])
		out.List = append(out.List, row)
		if row.Doubtful {
			out.Doubts++
		}
		if row.Doubtful && !in.Despite || slices.Contains(in.Without, m.Expected) {
			continue
		}
		if !offered[0].Sequence && !exists(reach, offered[0].Path) {
			return mending.Accepted{}, fault.Say(fault.Conflict, "No file", "‘"+label(s.drives, offered[0].Path)+"’ is no longer a regular file. Nothing was relinked.")
		}
		repairs = append(repairs, repairOf(s.drives, m.Expected, offered[0]))
	}
	out.Files = len(repairs)
	slices.SortStableFunc(out.List, func(x, y mending.GroupedRow) int { return doubts(y) - doubts(x) })
	out.More = max(0, len(out.List)-maxAccepted)
	out.List = out.List[:min(len(out.List), maxAccepted)]
	if in.Try {
		return out, nil
	}
	if len(repairs) == 0 {
		return mending.Accepted{}, fault.Say(fault.Wrong, "Nothing selected", "None of the selected files has a candidate that can be used.")
	}
	if err := a.repair(p, w, s, repairs...); err != nil {
		return mending.Accepted{}, err
	}
	out.Applied = true
	_, err = a.startTrace(p.ID)
	return out, err
}

// maxAccepted bounds the rows that are told of an act.
const maxAccepted = 400

// groupedRow is a missing file beside the candidate that would stand for it.
func (s *snapshot) groupedRow(expected string, best *mend.Candidate) mending.GroupedRow {
	wanted, found := label(s.drives, expected), label(s.drives, best.Path)
	return mending.GroupedRow{
		Expected: expected, Name: filepath.Base(wanted), Label: filepath.Dir(wanted), Path: best.Path, Found: filepath.Base(found), FoundIn: filepath.Dir(found),
		Certainty: best.Certainty, Warnings: words.AllEvidence(best.Against), Doubtful: best.Doubtful(),
	}
}
