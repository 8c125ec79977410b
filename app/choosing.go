package app

import (
	"context"
	"encoding/json"
	"errors"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/decide"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

func repairOf(drives []drive.Drive, from string, c mend.Candidate) decide.Decision {
	reasons, _ := json.Marshal(c.For)
	return decide.Decision{Kind: decide.Mend, From: drive.At(drives, from), To: drive.At(drives, c.Path), Certainty: string(c.Certainty), Reasons: reasons, At: time.Now()}
}

// repair keeps the repairs of one act. Two people may be at it: what somebody mended
// since the snapshot that an act looks at is not mended over.
func (a *App) repair(p store.Project, w *openProject, s *snapshot, list ...decide.Decision) error {
	w.repairing.Lock()
	defer w.repairing.Unlock()
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return err
	}
	seen := map[int64]bool{}
	for i := range s.log {
		seen[s.log[i].ID] = true
	}
	since := map[drive.Path]bool{}
	for i := range log {
		if d := &log[i]; d.Kind == decide.Mend && !d.Undone && !seen[d.ID] {
			since[d.From] = true
		}
	}
	list = slices.DeleteFunc(list, func(d decide.Decision) bool { return since[d.From] })
	if len(list) == 0 {
		return fault.Say(fault.Conflict, "Already relinked", "This file was relinked in the meantime. The page shows the present state.")
	}
	return a.store.Decide(p.ID, list...)
}

// Choose applies a candidate, or a file chosen by hand. One repair heals every
// document of the project that names the file; no document is touched.
func (a *App) Choose(ctx context.Context, project int64, in mending.Choose) (mending.Chosen, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return mending.Chosen{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.Chosen{}, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return mending.Chosen{}, err
	}
	defer memory.Close()
	wanted, ok := s.missing(in.Expected, memory.Of)
	if !ok {
		wanted, ok = s.outside(in.Expected, memory.Of)
	}
	if !ok {
		return mending.Chosen{}, fault.Say(fault.Conflict, "Not missing", "This file is no longer missing.")
	}
	var chosen *mend.Candidate
	known := s.offered(w.found.Load(), wanted.File, wanted.Expected)
	rd := reading(reach, memory, s.graph)
	for _, k := range known {
		if k.Path == in.Path {
			k.Against = slices.Clone(k.Against)
			rd.Examine(&k, &wanted)
			chosen = &k
		}
	}
	if chosen == nil {
		got, err := wanted.Check(ctx, filepath.Clean(in.Path), rd)
		if errors.Is(err, mend.ErrNoFrame) {
			return mending.Chosen{}, fault.Say(fault.Unfit, "Not a frame of it", "‘"+filepath.Base(in.Path)+"’ is not a frame of this sequence. Its number or extension does not fit.")
		}
		if err != nil {
			return mending.Chosen{}, err
		}
		chosen = &got
	}
	out := mending.Chosen{Candidate: candidateView(reach, *chosen)}
	// What speaks against a file is said before it is taken.
	if in.Try || chosen.Doubtful() && !in.Despite {
		return out, nil
	}
	if err := a.repair(p, w, s, repairOf(s.drives, wanted.Expected, *chosen)); err != nil {
		return out, err
	}
	out.Applied = true
	w.follow(mend.Follow(wanted, chosen.Path, mend.Missing(s.graph, s.judged, memory.Of), rd, func(at string) bool { return exists(reach, at) }))
	_, err = a.startTrace(p.ID)
	return out, err
}

// maxLacking is how many names are told of files that a folder lacks.
const maxLacking = 5

// CountMove tells what Move would find.
func (a *App) CountMove(_ context.Context, project int64, q api.AskMove) (mending.MoveCount, error) {
	out := mending.MoveCount{Lacking: []string{}}
	_, _, s, err := a.traced(project)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	from, to := strings.TrimSuffix(q.From, "/"), filepath.Clean(q.To)
	for _, w := range s.wantedFiles(mend.Nothing) {
		rest, below := strings.CutPrefix(w.Expected, from+"/")
		if !below || len(w.Suspect) > 0 || len(w.Gaps) > 0 { // those are there
			continue
		}
		if out.Of++; exists(reach, filepath.Join(to, rest)) {
			out.There++
		} else if len(out.Lacking) < maxLacking {
			out.Lacking = append(out.Lacking, rest)
		}
	}
	return out, nil
}

// Move applies "everything under From is now under To".
func (a *App) Move(ctx context.Context, project int64, in mending.MoveFolder) (api.Started, error) {
	p, _, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	from, to := strings.TrimSuffix(in.From, "/"), filepath.Clean(in.To)
	if from == "" || from == to {
		return api.Started{}, fault.Say(fault.Wrong, "Folder missing", "Give the folder that moved and its new place.")
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	if _, err := reach.Stat(to); err != nil {
		return api.Started{}, err
	}
	d := decide.Decision{Kind: decide.Move, From: drive.At(s.drives, from), To: drive.At(s.drives, to), Certainty: string(mend.Likely), At: time.Now()}
	if err := a.store.Decide(p.ID, d); err != nil {
		return api.Started{}, err
	}
	return a.startTrace(p.ID)
}

// UndoRepair takes one repair back, or all of its act.
func (a *App) UndoRepair(ctx context.Context, project int64, q api.AskRepair) error {
	p, _, err := a.open(project)
	if err != nil {
		return err
	}
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return err
	}
	ids := []int64{q.Repair}
	batch := log.Batch(q.Repair)
	if len(batch) == 0 {
		return store.ErrNotFound
	}
	if q.Batch {
		ids = batch
	}
	return a.decided(p.ID, a.store.SetUndone(p.ID, ids, true))
}

// decided follows a change of the decisions: what leans on them is made anew.
func (a *App) decided(project int64, err error) error {
	if err != nil {
		return err
	}
	a.openProject(project).choices.Add(1)
	_, err = a.startTrace(project)
	return err
}

// maxLines is how many changed lines are shown before they are written.
const maxLines = 300

// Write puts the repairs into the documents, each kept as an edition first.
func (a *App) Write(ctx context.Context, project int64, in mending.WriteRepairs) (mending.WriteResult, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return mending.WriteResult{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return mending.WriteResult{}, err
	}
	if err := within(reach, s.graph, writing.Writable(s.graph)); err != nil {
		return mending.WriteResult{}, err
	}
	if in.Try {
		return tried(ctx, a, "Previewing changes to "+p.Name, p.ID, p.Documents[0], func(ctx context.Context) (mending.WriteResult, error) {
			return a.write(ctx, p, w, s, true)
		})
	}
	return jobs.Soon(ctx, a.jobs, jobs.Spec{Kind: api.JobWrite, Project: p.ID, Title: "Writing to " + p.Name}, func(ctx context.Context, _ *jobs.Task) (mending.WriteResult, error) {
		return a.write(ctx, p, w, s, false)
	})
}

// write makes documents name what was found, or with try tells which lines would change.
func (a *App) write(ctx context.Context, p store.Project, w *openProject, s *snapshot, try bool) (mending.WriteResult, error) {
	o, done, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return mending.WriteResult{}, err
	}
	defer done()
	var lines []writing.Line
	var wrote *writing.Outcome
	if try {
		lines, wrote, err = writing.Lines(s.graph, o)
	} else if err = a.keepBefore(ctx, p, w); err == nil {
		wrote, err = writing.Repairs(s.graph, o, a.editions(p), a.store.Journals())
	}
	if err != nil {
		return mending.WriteResult{}, fault.Say(fault.Conflict, "Not written", words.Error(err))
	}
	shown := lines[:min(len(lines), maxLines)]
	out := mending.WriteResult{Snapshot: s.id, Lines: linesView(s.drives, shown), More: len(lines) - len(shown), Written: append([]writing.Written{}, wrote.Written...), Problems: words.Problems(wrote.Problems)}
	if try {
		return out, nil
	}
	// What now stands in the documents needs no rule any more; repairs that
	// nothing leans on (to a drive that is out) stay, and those of names that could
	// not be written.
	var ids []int64
	kept, _ := s.repairs(s.log, s.leaning(), len(s.log))
	for _, r := range kept {
		needed := slices.ContainsFunc(wrote.Keep, func(at string) bool {
			return at == r.From || r.Prefix && drive.Within(r.From, at)
		})
		if r.Live && !needed {
			ids = append(ids, r.ID)
		}
	}
	if err := a.wrote(p, store.WroteRepairs, wrote.Written, ids); err != nil {
		return out, err
	}
	_, err = a.startTrace(p.ID)
	return out, err
}
