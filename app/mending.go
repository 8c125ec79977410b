package app

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/look"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/text/mention"
	"boundcrate/store"
)

// reading is what candidates are compared by.
func reading(reach drive.Reach, memory *store.Memory, g *graph.Graph) mend.Reading {
	return mend.Reading{Reach: reach, Memory: memory.Of, Heard: memory.Sound, Hash: memory.Hasher(reach), Used: mend.Used(g), Claimed: memory.Claimed(g), Others: memory.NamedBelow(g)}
}

// repairs are the last of those that hold by a log, at most so many, and how many hold. live
// tells the expected places that something leans on; of what was decided since the snapshot that
// is not known yet, and it counts as such.
func (s *snapshot) repairs(log decide.Log, live map[string]bool, most int) (list []mending.Repair, all int) {
	var hold []*decide.Decision
	for i := range log {
		if d := &log[i]; !d.Undone && (d.Kind == decide.Mend || d.Kind == decide.Move) {
			hold = append(hold, d)
		}
	}
	traced := int64(0)
	for i := range s.log {
		traced = max(traced, s.log[i].ID)
	}
	list = []mending.Repair{}
	for _, d := range hold[max(0, len(hold)-most):] {
		from, _ := drive.Abs(s.drives, d.From)
		to, _ := drive.Abs(s.drives, d.To)
		v := mending.Repair{ID: d.ID, Batch: d.Batch, From: from, To: to, FromLabel: label(s.drives, from), ToLabel: label(s.drives, to), Prefix: d.Kind == decide.Move, Certainty: mend.Certainty(d.Certainty), Live: live[from] || d.ID > traced, Reasons: reasonsOf(d)}
		if v.Prefix {
			for at := range live {
				v.Live = v.Live || drive.Within(from, at)
			}
		}
		list = append(list, v)
	}
	return list, len(hold)
}

// maxRepairs is how many of them, the last, are told.
const maxRepairs = 200

// reasonsOf says the evidence a repair was applied on.
func reasonsOf(d *decide.Decision) []string {
	var list []mend.Evidence
	if json.Unmarshal(d.Reasons, &list) != nil { // without reasons it still is a repair
		return []string{}
	}
	return words.AllEvidence(list)
}

// label shows a path or a sequence's pattern by its drive's name.
func label(drives []drive.Drive, p string) string { return drive.Label(drives, graph.Shown(p)) }

func (s *snapshot) leaning() map[string]bool {
	live := map[string]bool{}
	for i := range s.graph.References {
		if r := &s.graph.References[i]; r.Repaired {
			live[r.Expected] = true
		}
	}
	return live
}

// Mend is what is missing, what was found for it, and the repairs that hold.
func (a *App) Mend(ctx context.Context, project int64) (mending.Mend, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return mending.Mend{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.Mend{}, err
	}
	out := mending.Mend{Snapshot: s.id, Missing: s.tally.ToFind, Folders: []string{}, Groups: []mending.Group{}, Writable: append([]string{}, writing.Writable(s.graph)...), Suggest: []mending.Suggest{}, Aside: s.asides(), Loose: s.loose()}
	slices.Sort(out.Writable)
	log, err := a.store.Decisions(p.ID) // what was just decided shows before it is traced
	if err != nil {
		return mending.Mend{}, err
	}
	var lately []mending.Repair
	lately, out.AllRepairs = s.repairs(log, s.leaning(), maxAsked)
	out.Repairs = lately[max(0, len(lately)-maxRepairs):]
	if f := w.found.Load(); f != nil {
		out.Searched, out.Found, out.Looked = f.searched, f.applied, f.looked
		out.Folders = append(out.Folders, f.folders...)
	}
	offers, err := a.offers(p, w, s, reach)
	if err != nil {
		return out, err
	}
	for i := range offers {
		out.Groups = append(out.Groups, s.groupView(&offers[i]))
	}
	names, err := a.store.Namer(p.ID, reach.Drives)
	if err != nil {
		return out, err
	}
	defer names.Close()
	if out.Others, err = a.alsoMissingIn(lately, names, reach); err != nil {
		return out, err
	}
	known, err := a.store.Catalogue(reach.Drives)
	if err != nil {
		return out, err
	}
	var told []string
	for _, g := range w.elsewhere.Load().groups {
		for _, m := range g.Members {
			told = append(told, m.Best.Path)
		}
	}
	suggested := mend.Suggest(s.graph, reach, mend.Known{Repairs: s.log.Repairs(s.drives), Told: told, Index: known, Drives: reach.Drives, Named: func(at string) bool {
		by, err := names.By(at, false)
		return err == nil && len(by) > 0
	}})
	for _, x := range suggested {
		// A whole drive is looked through unasked only where nothing nearer is known.
		whole := slices.ContainsFunc(reach.Drives, func(d drive.Drive) bool { return d.Dir == x.Path }) && suggested[0].N > 0
		out.Suggest = append(out.Suggest, mending.Suggest{Path: x.Path, Label: drive.Label(reach.Drives, x.Path), Why: words.Suggestion(x), Best: !whole && (x.Why == mend.Told || x.Why == mend.Theirs || x.Why == mend.Named || x.Why == mend.Root || x.Why == mend.Above), Known: x.N > 0})
	}
	return out, nil
}

// wantedRow is one line of the ledger of wanted files.
type wantedRow struct {
	file       graph.FileID
	expected   string
	candidates []mend.Candidate
	looked     bool
}

func wantedRows(s *snapshot, f *finds) []wantedRow {
	wanted := s.wantedFiles(mend.Nothing)
	rows := make([]wantedRow, len(wanted))
	for i, w := range wanted {
		rows[i] = wantedRow{w.File, w.Expected, s.offered(f, w.File, w.Expected), f.searchedFor(w.Expected)}
	}
	return rows
}

// offered are the candidates for a file: what a search found, else its twins.
func (s *snapshot) offered(f *finds, id graph.FileID, expected string) []mend.Candidate {
	if f != nil {
		if cs, ok := f.offered[expected]; ok {
			return cs
		}
	}
	file := &s.graph.Files[id]
	if file.State != graph.Twins {
		return nil
	}
	var cs []mend.Candidate
	for _, p := range s.graph.References[file.Refs[0]].Files {
		cs = append(cs, mend.Candidate{Path: p, Certainty: mend.Possible, Score: 0.5, For: []mend.Evidence{{Code: mend.OneOfTwins}}, Files: 1})
	}
	return cs
}

// searchedFor tells that a file was among those that the last search was for.
func (f *finds) searchedFor(expected string) bool {
	if f == nil {
		return false
	}
	_, ok := f.offered[expected]
	return ok
}

func (s *snapshot) wantedView(r *wantedRow) mending.WantedRow {
	f := &s.graph.Files[r.file]
	full := label(s.drives, r.expected)
	v := mending.WantedRow{Key: r.expected, Name: filepath.Base(full), Label: filepath.Dir(full), Kind: f.Kind, Word: words.Kind(f.Kind), State: f.State, Use: f.Use, Uses: len(f.Refs), Candidates: len(r.candidates), Looked: r.looked}
	v.Suspect = []string{}
	for _, x := range s.judged.Suspicions(r.file) {
		v.Suspect = append(v.Suspect, words.Suspicion(x))
	}
	if f.State.Found() && f.Frames != nil {
		v.Gaps = gapWords(f.Frames.Gaps, 8)
	}
	if len(r.candidates) > 0 {
		best := &r.candidates[0]
		at := label(s.drives, best.Path)
		v.Best, v.BestLabel, v.Certainty, v.Doubtful = filepath.Base(at), filepath.Dir(at), best.Certainty, best.Doubtful()
	}
	return v
}

// wantedTable is the ledger of wanted files under what a search found.
type wantedTable struct {
	finds *finds
	ledger
}

// wantedLedger keeps the ledger made last: its order is asked for page by page.
func wantedLedger(s *snapshot, f *finds) ledger {
	if have := s.wanted.Load(); have != nil && have.finds == f {
		return have.ledger
	}
	l := newWantedLedger(s, f)
	s.wanted.Store(&wantedTable{f, l})
	return l
}

func newWantedLedger(s *snapshot, f *finds) ledger {
	rank := map[mend.Certainty]int{mend.Certain: 0, mend.Likely: 1, mend.Possible: 2, "": 3}
	certainty := func(r *wantedRow) mend.Certainty {
		if len(r.candidates) == 0 {
			return ""
		}
		return r.candidates[0].Certainty
	}
	view := s.wantedView
	spec := table.Spec[wantedRow]{
		Name: "wanted", Key: func(r *wantedRow) string { return r.expected }, Sum: func(r *wantedRow) table.Sum { return table.Sum{Files: 1, Uses: len(s.graph.Files[r.file].Refs)} },
		Columns: []table.Column[wantedRow]{
			{ID: "name", Title: "file", Text: func(r *wantedRow) string { return view(r).Name }},
			{ID: "place", Title: "expected in", Text: func(r *wantedRow) string { return view(r).Label }},
			{ID: "kind", Title: "kind", Text: func(r *wantedRow) string { return view(r).Word }},
			{ID: "use", Title: "use", Text: func(r *wantedRow) string { return s.graph.Files[r.file].Use.String() }},
			{ID: "uses", Title: "uses", Number: func(r *wantedRow) int64 { return int64(len(s.graph.Files[r.file].Refs)) }},
			{ID: "best", Title: "best candidate", Text: func(r *wantedRow) string {
				if len(r.candidates) == 0 {
					return ""
				}
				return r.candidates[0].Path
			}},
			{ID: "certainty", Title: "certainty", Text: func(r *wantedRow) string { return string(certainty(r)) }},
		},
		Groups: []table.Group[wantedRow]{
			{ID: "place", Key: func(r *wantedRow) string { return view(r).Label }, Title: nameOrNowhere},
			{ID: "certainty", Key: func(r *wantedRow) string { return string(certainty(r)) }, Rank: func(k string) int { return rank[mend.Certainty(k)] },
				Title: func(k string) string {
					if k == "" {
						return "No candidates found"
					}
					return capital(k)
				}},
			{ID: "kind", Key: func(r *wantedRow) string { return string(s.graph.Files[r.file].Kind) }, Title: func(k string) string { return capital(words.Kind(facts.Kind(k))) }},
		},
	}
	return listed[wantedRow, mending.WantedLine]{
		table.New(spec, wantedRows(s, f)), func(h api.Heading) mending.WantedLine { return mending.WantedLine{Heading: &h} },
		func(r *wantedRow) mending.WantedLine { v := view(r); return mending.WantedLine{Row: &v} },
		func(w api.Window, lines []mending.WantedLine) any { return mending.WantedList{Window: w, Lines: lines} },
	}
}

func candidateView(reach drive.Set, c mend.Candidate) mending.Candidate {
	v := mending.Candidate{Candidate: report.OfCandidates([]mend.Candidate{c})[0], Sample: c.Path, UsedBy: []string{}, Fills: c.HasCode(mend.Fills), Content: sameness(&c), Doubtful: c.Doubtful()}
	p := c.Path
	kind := facts.KindOfName(c.Path)
	if pat, ok := graph.ParsePattern(c.Path); ok && c.Sequence {
		p = filepath.Join(pat.Dir, pat.Shown())
		v.Sample = ""
		if entries, err := reach.ReadDir(pat.Dir); err == nil {
			for _, e := range entries {
				if _, ok := pat.Number(e.Name()); ok {
					v.Sample = filepath.Join(pat.Dir, e.Name())
					break
				}
			}
		}
	}
	v.Name, v.Label = filepath.Base(p), drive.Label(reach.Drives, filepath.Dir(p))
	if v.Sample != "" {
		v.Preview = preview(kind, v.Sample)
		v.Facts, _ = headerOf(reach, v.Sample) // harm is among the candidate's warnings
	}
	return v
}

// sameness tells what is known of a candidate's bytes: as they were last seen, others, or nothing.
func sameness(c *mend.Candidate) mending.Sameness {
	switch {
	case c.HasCode(mend.Content), c.HasCode(mend.LentContent), c.HasCode(mend.SameFile):
		return mending.Same
	case c.Warns(mend.OtherContent), c.Warns(mend.OtherSize):
		return mending.Other
	}
	return mending.Unread
}

// Wanted is one file to find again, with its candidates.
func (a *App) Wanted(ctx context.Context, project int64, q api.AskKey) (mending.Wanted, error) {
	_, w, s, err := a.traced(project)
	if err != nil {
		return mending.Wanted{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.Wanted{}, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return mending.Wanted{}, err
	}
	defer memory.Close()
	m, ok := s.missing(q.Key, memory.Of)
	if !ok {
		return mending.Wanted{Candidates: []mending.Candidate{}, Ranges: []mention.Range{}}, nil // found since
	}
	found := w.found.Load()
	row := wantedRow{m.File, m.Expected, s.offered(found, m.File, m.Expected), found.searchedFor(m.Expected)}
	view := s.wantedView(&row)
	out := mending.Wanted{Row: &view, Candidates: []mending.Candidate{}, Ranges: append([]mention.Range{}, m.Ranges...)}
	if m.Told != nil {
		out.Told = &mending.Told{Size: max(0, m.Told.Size), Seconds: max(0, m.Told.Seconds), Rate: max(0, m.Told.Rate)}
	}
	if m.Last != nil {
		out.Last = lastSeen(*m.Last)
		seen, err := memory.Look(m.Expected)
		_, none := look.Text(seen)
		out.Text = err == nil && none == nil
		out.Looks = err == nil && !out.Text
	}
	rd := reading(reach, memory, s.graph)
	for _, cand := range row.candidates {
		cand.Against = slices.Clone(cand.Against)
		rd.Examine(&cand, &m)
		out.Candidates = append(out.Candidates, candidateView(reach, cand))
	}
	return out, a.tellOwners(project, reach, out.Candidates)
}

// tellOwners names the other projects that use each candidate, as they were last traced.
func (a *App) tellOwners(project int64, reach drive.Set, list []mending.Candidate) error {
	if len(list) == 0 {
		return nil
	}
	names, err := a.store.Namer(project, reach.Drives)
	if err != nil {
		return err
	}
	defer names.Close()
	for i := range list {
		by, err := names.By(list[i].Sample, false)
		if err != nil {
			return err
		}
		for _, id := range slices.Sorted(maps.Keys(by)) {
			if p, err := a.store.Project(id); err == nil {
				list[i].UsedBy = append(list[i].UsedBy, p.Name)
			}
		}
	}
	return nil
}

// missing is the wanted file that is expected at a place, or has an identity.
func (s *snapshot) missing(expected string, memory mend.Memory) (mend.Wanted, bool) {
	for _, m := range mend.Missing(s.graph, s.judged, mend.Nothing) {
		if m.Expected == expected || s.graph.Files[m.File].At.String() == expected {
			return mend.WantedAt(s.graph, s.judged, m.File, memory)
		}
	}
	return mend.Wanted{}, false
}

// outside is a file that is there, outside the project, and that somebody wants another for;
// what was mended already is given back first.
func (s *snapshot) outside(expected string, memory mend.Memory) (mend.Wanted, bool) {
	for i := range s.graph.Files {
		f := &s.graph.Files[i]
		if f.State != graph.Away || len(f.Refs) == 0 {
			continue
		}
		if r := &s.graph.References[f.Refs[0]]; !r.Repaired && (r.Expected == expected || f.At.String() == expected) {
			return mend.NamedAt(s.graph, graph.FileID(i), memory)
		}
	}
	return mend.Wanted{}, false
}

// Search looks for what is missing in the folders it is told, applies what is
// certain and alone, and keeps the candidates for the rest.
func (a *App) Search(ctx context.Context, project int64, in mending.Search) (api.Started, error) {
	p, w, _, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	if len(in.Folders) == 0 {
		return api.Started{}, fault.Say(fault.Wrong, "No folder", "Choose at least one folder to search.")
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	for i, f := range in.Folders {
		in.Folders[i] = filepath.Clean(f)
		info, err := reach.Stat(in.Folders[i])
		if err != nil {
			return api.Started{}, err
		}
		if !info.Mode.IsDir() {
			return api.Started{}, fault.Say(fault.Wrong, "Not a folder", "‘"+f+"’ is not a folder.")
		}
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSearch, Project: p.ID, Title: "Searching " + drive.Label(reach.Drives, in.Folders[0]), Unit: "files"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		message, err := a.searchFolders(ctx, p, w, reach, in.Folders, j)
		return api.Nothing{}, message, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) searchFolders(ctx context.Context, p store.Project, w *openProject, reach drive.Set, folders []string, j *jobs.Task) (string, error) {
	walked, err := a.store.IndexShallow(ctx, reach, reach.Drives, folders, func(files int, folder string) {
		j.Step("in "+drive.Label(reach.Drives, folder), int64(files), 0)
	})
	if err != nil {
		return "Stopped. Nothing was changed.", err
	}
	// What was met is asked at once, and kept beside that.
	x := walked.Index()
	kept := make(chan error, 1)
	go func() { kept <- a.store.Keep(ctx, reach.Drives, walked, time.Now()) }()
	message, err := a.find(ctx, p, w, reach, folders, x, j)
	if kerr := <-kept; err == nil && kerr != nil && ctx.Err() == nil {
		err = kerr
	}
	return message, err
}

// find looks for what is missing in an index, applies what is certain and
// alone, and keeps the candidates for the rest.
func (a *App) find(ctx context.Context, p store.Project, w *openProject, reach drive.Set, folders []string, x index.Index, j *jobs.Task) (string, error) {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return "", err
	}
	defer memory.Close()
	s := w.now.Load()
	f := &finds{folders: folders, searched: x.Len(), offered: map[string][]mend.Candidate{}}
	rd := reading(reach, memory, s.graph)
	why := map[string]mend.Candidate{}
	err = mend.Until(ctx, s.graph, s.judged, memory.Of, false, func(_ *graph.Graph, wanted []mend.Wanted) ([][]mend.Candidate, error) {
		f.looked += len(wanted)
		offered, err := mend.Find(ctx, x, wanted, rd, func(done int) { j.Step("comparing", int64(done), int64(len(wanted))) })
		if err != nil {
			return nil, err
		}
		for i, m := range wanted {
			f.offered[m.Expected] = offered[i]
			if best, ok := mend.Sure(offered[i]); ok {
				why[m.Expected] = best
			}
		}
		f.groups = append(f.groups, mend.Groups(wanted, offered)...)
		return offered, nil
	}, func(sure []resolve.Repair) (*graph.Graph, *origin.Judged, error) {
		list := make([]decide.Decision, len(sure))
		for i, r := range sure {
			list[i] = repairOf(s.drives, r.From, why[r.From])
		}
		if err := a.store.Decide(p.ID, list...); err != nil {
			return nil, nil, err
		}
		f.applied += len(sure)
		next, _, err := a.trace(ctx, p, w, w.asked.Add(1), j)
		if err != nil {
			return nil, nil, err
		}
		return next.graph, next.judged, nil
	})
	if err != nil && ctx.Err() == nil {
		return "", err
	}
	w.found.Store(f)
	a.hub.Send(api.Event{Type: api.EventProject, Project: p.ID})
	return fmt.Sprintf("%d searched for, %d found", f.looked, f.applied), err
}
