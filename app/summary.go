package app

import (
	"cmp"
	"context"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/places"
	"boundcrate/app/api/tracing"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/say/words"
)

// Summary is a project at a glance; of one that was not traced yet the trace begins.
func (a *App) Summary(ctx context.Context, project int64) (tracing.Summary, error) {
	p, w, err := a.open(project)
	if err != nil {
		return tracing.Summary{}, err
	}
	drives, err := a.drives()
	if err != nil {
		return tracing.Summary{}, err
	}
	s := w.now.Load()
	if s == nil {
		if _, err := a.traceJob(p.ID, jobs.Join, false); err != nil {
			return tracing.Summary{}, err
		}
		if err := a.store.SetOpened(p.ID, time.Now()); err != nil {
			return tracing.Summary{}, err
		}
		s = &snapshot{}
	}
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return tracing.Summary{}, err
	}
	out := tracing.Summary{
		Project: projectView(p, drives), Snapshot: s.id, Error: s.err, Repairs: len(log.Repairs(drives)), CanUndo: len(log.Undo()) > 0, CanRedo: len(log.Redo()) > 0,
		States: []tracing.StateCount{}, Lost: []api.KindCount{}, Places: []tracing.Place{}, WritePoints: []tracing.WritePoint{}, Moved: []origin.Move{}, Warnings: []tracing.Warning{}, Apart: []api.Apart{}, CameOutside: []string{}, Search: []mending.SearchFolder{}, Siblings: []places.Sibling{}, ProblemList: words.Problems(nil),
	}
	if out.LastAct, err = a.lastAct(p, drives); err != nil {
		return out, err
	}
	sealed, err := sealedReport(p)
	if err == nil && sealed.Report != nil {
		out.Sealed, out.Complete = true, sealed.Report.Complete && len(sealed.Report.Problems) == 0
	}
	out.Search = searchOf(p, drives)
	out.AskHome, out.CameOutside = p.AskHome, []string{}
	if came := w.came.Load(); came != nil && p.AskHome {
		out.CameOutside = append(out.CameOutside, *came...)
	}
	out.Siblings = a.siblings(p)
	if s.graph == nil {
		return out, nil
	}
	if out.Sealed {
		reach, err := a.reach()
		if err != nil {
			return out, err
		}
		_, err = reach.Stat(sealed.at(reach.Drives))
		out.SealedGone = err != nil
		out.SealedStale = len(s.changedSince(p.LastSealed(), sealed.Along, reach))
	}
	looked := time.Unix(0, w.looked.Load())
	out.Traced, out.Polled = &looked, a.live.Polled(p.ID)
	s.summarize(&out)
	s.places(&out)
	s.counts(&out)
	pl, err := a.plannedAlready(p, w, s)
	if pl != nil {
		out.Clashes = &pl.plan.Clashes
	}
	return out, err
}

// summarize is what a snapshot tells of itself.
func (s *snapshot) summarize(out *tracing.Summary) {
	g := s.graph
	out.Apart = []api.Apart{}
	for _, c := range s.judged.Companions {
		if c.State != graph.Here {
			out.Apart = append(out.Apart, s.companion(c))
		}
	}
	out.ProblemList, out.CanStay = words.Problems(g.Problems[:min(shownProblems, len(g.Problems))]), sift.CanStay(g)
	out.Tally, out.AllHere = s.tally, s.tally.AllHere()
	out.Moved = append(out.Moved, s.judged.Moved...)
	for _, x := range s.judged.Warnings {
		out.Unknown = out.Unknown || x.Code == origin.NothingRecognised
		for i, p := range x.Paths {
			if i == 0 {
				x.Paths = slices.Clone(x.Paths)
			}
			x.Paths[i] = drive.Label(s.drives, p)
		}
		out.Warnings = append(out.Warnings, tracing.Warning{Code: x.Code, Message: words.Warning(x), Paths: x.Paths, Place: x.Place})
	}
	for i := range g.WritePoints {
		x := &g.WritePoints[i]
		if tally.PointsOut(s.judged.FlagsOf(i)) {
			out.WritePoints = append(out.WritePoints, tracing.WritePoint{Document: drive.Label(s.drives, g.Where(x.Doc, x.Text)), Owner: x.Owner, Label: drive.Label(s.drives, x.Path), Path: x.Path, Flags: s.judged.FlagsOf(i)})
		}
	}
	found := map[string]int{}
	for i := range g.References {
		if dir := g.References[i].Search; dir != "" {
			found[dir]++
		}
	}
	for i := range out.Search {
		out.Search[i].Found = found[out.Search[i].Path]
	}
}

func (s *snapshot) places(out *tracing.Summary) {
	for _, p := range s.judged.Places {
		v := tracing.Place{Drive: p.Drive.Name, Path: p.Path, Kind: p.Kind, Files: p.Files, Bytes: p.Bytes, Connected: p.Drive.Name == "" || p.Drive.Connected(), Folder: drive.Label(s.drives, p.Path)}
		if p.Drive.Name != "" {
			v.Folder = drive.Label([]drive.Drive{{Dir: p.Drive.Dir}}, p.Path)
			if v.Folder = trimSlash(v.Folder); v.Folder == "" {
				v.Folder = "top folder"
			}
		}
		out.Places = append(out.Places, v)
	}
}

func trimSlash(s string) string {
	for len(s) > 0 && s[0] == '/' {
		s = s[1:]
	}
	return s
}

// counts sums the rows of the ledger by state, and what is missing by kind.
func (s *snapshot) counts(out *tracing.Summary) {
	states := map[graph.State]*tracing.StateCount{}
	lost := map[facts.Kind]*api.KindCount{}
	for i := range s.files.All() {
		r := &s.files.All()[i]
		if r.point != graph.None {
			continue
		}
		state, size := s.state(r), s.size(r)
		n := states[state]
		if n == nil {
			n = &tracing.StateCount{State: state}
			states[state] = n
		}
		n.References += s.uses(r)
		n.Files++
		n.Bytes += size
		if state == graph.Missing && r.file != graph.None && !s.judged.Rebuildable(r.file) {
			k := lost[s.kind(r)]
			if k == nil {
				k = &api.KindCount{Kind: s.kind(r)}
				lost[s.kind(r)] = k
			}
			k.Files++
		}
	}
	for _, n := range states {
		out.States = append(out.States, *n)
	}
	slices.SortFunc(out.States, func(a, b tracing.StateCount) int {
		return cmp.Or(b.Files-a.Files, cmp.Compare(a.State, b.State))
	})
	for _, k := range lost {
		k.Word = words.Kinds(k.Files, k.Kind)
		out.Lost = append(out.Lost, *k)
	}
	slices.SortFunc(out.Lost, func(a, b api.KindCount) int {
		return cmp.Or(b.Files-a.Files, cmp.Compare(a.Kind, b.Kind))
	})
}

func (s *snapshot) companion(c origin.Companion) api.Apart {
	v := api.Apart{Of: drive.Label(s.drives, c.Of), Name: filepath.Base(c.Path), Gone: c.State == graph.Missing}
	if c.Found != "" {
		v.Found = drive.Label(s.drives, c.Found)
	}
	return v
}

// beside are the companions of a file.
func (s *snapshot) beside(path string) []api.Apart {
	list := []api.Apart{}
	for _, c := range s.judged.Companions {
		if c.Of == path {
			list = append(list, s.companion(c))
		}
	}
	return list
}
