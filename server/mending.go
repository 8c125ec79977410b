package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"sort"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/mention"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
	"boundcrate/server/api"
	"boundcrate/store"
)

func (a *App) evidence(reach drive.Reach) mend.Evidence {
	return mend.Evidence{
		Reach: reach, Memory: a.store.Last,
		Hash: func(ctx context.Context, p string) (string, error) { return a.store.Hash(ctx, reach, p) },
	}
}

func repairView(r store.Repair, drives []drive.Drive, live bool) api.Repair {
	v := api.Repair{ID: r.ID, Batch: r.Batch, From: r.From, To: r.To, FromLabel: label(drives, r.From), ToLabel: label(drives, r.To), Certainty: r.Certainty, Live: live, Reasons: []string{}}
	_ = json.Unmarshal([]byte(r.Reasons), &v.Reasons) // without reasons it still is a repair
	return v
}

// label shows a path or a sequence's pattern by its drive's name.
func label(drives []drive.Drive, p string) string { return drive.Label(drives, resolve.Shown(p)) }

func (a *App) candidateView(reach drive.Set, c mend.Candidate) api.Candidate {
	v := api.Candidate{Candidate: c, Sample: c.Path}
	p := c.Path
	kind := facts.KindOfName(c.Path)
	if pat, ok := resolve.ParsePattern(c.Path); ok && c.Files != 1 || ok && filepath.Ext(c.Path) != "" && pat.Digits != 0 {
		p = filepath.Join(pat.Dir, pat.Shown())
		v.Sample = ""
		if names, err := reach.ReadDir(pat.Dir); err == nil {
			for _, e := range names {
				if len(e.Name()) > len(pat.Head) && e.Name()[:len(pat.Head)] == pat.Head && filepath.Ext(e.Name()) == filepath.Ext(pat.Tail) {
					v.Sample = filepath.Join(pat.Dir, e.Name())
					break
				}
			}
		}
	}
	v.Name, v.Label = filepath.Base(p), drive.Label(reach.Drives, filepath.Dir(p))
	if v.Sample != "" {
		v.Preview = preview(kind, v.Sample)
		v.Facts, _ = a.facts(reach, v.Sample) // harm is among the candidate's warnings
	}
	if v.Warnings == nil {
		v.Warnings = []string{}
	}
	return v
}

func (a *App) mend(c *echo.Context) (api.Mend, error) {
	p, w, g, err := a.traced(c)
	if err != nil {
		return api.Mend{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Mend{}, err
	}
	repairs, err := a.store.Repairs(p.ID)
	if err != nil {
		return api.Mend{}, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	out := api.Mend{Snapshot: w.snapshot, Folders: append([]string{}, w.folders...), Found: w.found, Looked: w.looked,
		Wanted: []api.Wanted{}, Repairs: []api.Repair{}, Writable: []string{}, Suggest: []api.Suggest{}}
	if w.index != nil {
		out.Searched = w.index.Files()
	}
	for _, m := range mend.Missing(g, a.store.Last) {
		r := &g.References[m.References[0]]
		v := api.Wanted{Expected: m.Expected, Kind: kindWords[m.Kind], State: string(r.State), Uses: len(m.References), Candidates: []api.Candidate{}}
		use := mention.Listed
		for _, i := range m.References {
			use = max(use, g.References[i].Use)
		}
		v.Use = use.String()
		full := label(w.drives, m.Expected)
		v.Name, v.Label = filepath.Base(full), filepath.Dir(full)
		v.Gaps = gapWords(m.Gaps, 8)
		if m.Last != nil {
			v.Last = lastSeen(*m.Last)
		}
		cs := w.candidates[m.Expected]
		if cs == nil && r.State == resolve.Twins {
			for _, f := range r.Files {
				cs = append(cs, mend.Candidate{Path: f, Certainty: mend.Possible, Score: 0.5, Reasons: []string{"one of the twins"}, Files: 1})
			}
		}
		for _, cand := range cs {
			v.Candidates = append(v.Candidates, a.candidateView(reach, cand))
		}
		out.Wanted = append(out.Wanted, v)
	}
	live := map[string]bool{}
	docs := map[string]bool{}
	for i := range g.References {
		if r := &g.References[i]; r.Repaired {
			live[r.Expected] = true
			if d := g.Documents[r.Doc].Path; drive.Within(g.Root, d) {
				docs[d] = true
			}
		}
	}
	for d := range docs {
		out.Writable = append(out.Writable, d)
	}
	sort.Strings(out.Writable)
	for _, r := range repairs {
		out.Repairs = append(out.Repairs, repairView(r, w.drives, live[r.From]))
	}
	out.Suggest = suggest(g, w.drives, reach)
	return out, nil
}

// suggest lists folders worth looking in, nearest first: the project's own,
// the one above it, the drives. Nothing is searched unasked.
func suggest(g *trace.Graph, drives []drive.Drive, reach drive.Set) []api.Suggest {
	out := []api.Suggest{}
	add := func(p string) {
		if _, err := reach.Stat(p); err != nil {
			return
		}
		for _, s := range out {
			if s.Path == p {
				return
			}
		}
		out = append(out, api.Suggest{Path: p, Label: drive.Label(drives, p)})
	}
	add(g.Root)
	add(filepath.Dir(g.Root))
	for _, d := range drives {
		add(d.Dir)
	}
	return out
}

// search looks for what is missing in the folders it is told, applies what is
// certain and alone, and keeps the candidates for the rest.
func (a *App) search(c *echo.Context, in api.Search) (api.Started, error) {
	p, w, _, err := a.traced(c)
	if err != nil {
		return api.Started{}, err
	}
	if len(in.Folders) == 0 {
		return api.Started{}, say(http.StatusBadRequest, "Where?", "Choose at least one folder to look in.")
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
			return api.Started{}, say(http.StatusBadRequest, "Not a folder", "‘"+f+"’ is not a folder.")
		}
	}
	j := a.jobs.start(api.JobSearch, p.ID, "Looking through "+drive.Label(reach.Drives, in.Folders[0]), "files", true, func(ctx context.Context, j *job) (string, error) {
		return a.look(ctx, p, w, reach, in.Folders, j)
	})
	return j.view(), nil
}

func (a *App) look(ctx context.Context, p store.Project, w *work, reach drive.Set, folders []string, j *job) (string, error) {
	x, err := mend.Search(ctx, reach, folders, func(files int, folder string) {
		j.step("in "+drive.Label(reach.Drives, folder), int64(files), 0)
	})
	if err != nil {
		return "Stopped; nothing was changed.", err
	}
	w.mu.Lock()
	g := w.graph
	w.index, w.folders, w.candidates, w.looked, w.found = x, folders, map[string][]mend.Candidate{}, 0, 0
	w.mu.Unlock()
	ev := a.evidence(reach)
	batch := time.Now().UnixNano()
	why := map[string]mend.Candidate{}
	looked, found := 0, 0
	err = mend.Until(ctx, g, a.store.Last, func(m mend.Wanted) ([]mend.Candidate, error) {
		looked++
		j.step("comparing", int64(looked), int64(len(mend.Missing(g, a.store.Last))))
		cs, err := x.Candidates(ctx, m, ev)
		if err != nil {
			return nil, err
		}
		w.mu.Lock()
		w.candidates[m.Expected] = cs
		w.mu.Unlock()
		if best, ok := mend.Sure(cs); ok {
			why[m.Expected] = best
		}
		return cs, nil
	}, func(sure []resolve.Repair) (*trace.Graph, error) {
		rows := make([]store.Repair, len(sure))
		for i, r := range sure {
			rows[i] = newRepair(p.ID, batch, r, why[r.From])
		}
		if err := a.store.AddRepairs(rows); err != nil {
			return nil, err
		}
		found += len(sure)
		var err error
		g, _, err = a.trace(ctx, p, j)
		return g, err
	})
	w.mu.Lock()
	w.looked, w.found = looked, found
	w.mu.Unlock()
	a.hub.send(api.Event{Type: api.EventProject, Project: p.ID})
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%d looked for, %d found", looked, found), nil
}

func newRepair(project, batch int64, r resolve.Repair, c mend.Candidate) store.Repair {
	reasons, _ := json.Marshal(c.Reasons)
	return store.Repair{ProjectID: project, From: r.From, To: r.To, Batch: batch, Certainty: string(c.Certainty), Reasons: string(reasons)}
}

// choose applies a candidate, or a file chosen by hand. One repair heals every
// document of the project that names the file; no document is touched.
func (a *App) choose(c *echo.Context, in api.Choose) (api.Chosen, error) {
	p, w, g, err := a.traced(c)
	if err != nil {
		return api.Chosen{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Chosen{}, err
	}
	w.mu.Lock()
	known := w.candidates[in.Expected]
	w.mu.Unlock()
	var wanted *mend.Wanted
	for _, m := range mend.Missing(g, a.store.Last) {
		if m.Expected == in.Expected {
			wanted = &m
		}
	}
	if wanted == nil {
		return api.Chosen{}, say(http.StatusConflict, "Not missing", "That file is not missing any more.")
	}
	var chosen *mend.Candidate
	for i := range known {
		if known[i].Path == in.Path {
			chosen = &known[i]
		}
	}
	if chosen == nil {
		got, err := wanted.Check(c.Request().Context(), filepath.Clean(in.Path), a.evidence(reach))
		if err != nil {
			return api.Chosen{}, err
		}
		chosen = &got
	}
	out := api.Chosen{Candidate: a.candidateView(reach, *chosen)}
	if in.Try {
		return out, nil
	}
	if err := a.store.AddRepairs([]store.Repair{newRepair(p.ID, time.Now().UnixNano(), wanted.Repair(*chosen), *chosen)}); err != nil {
		return out, err
	}
	out.Applied = true
	_, err = a.startTrace(p.ID)
	return out, err
}

func (a *App) undo(c *echo.Context) (nothing, error) {
	p, _, err := a.open(c)
	if err != nil {
		return nothing{}, err
	}
	id, err := strconv.ParseInt(c.Param("repair"), 10, 64)
	if err != nil {
		return nothing{}, store.ErrNotFound
	}
	if err := a.store.DropRepair(p.ID, id, c.QueryParam("batch") == "1"); err != nil {
		return nothing{}, err
	}
	_, err = a.startTrace(p.ID)
	return nothing{}, err
}

// write puts the repairs into the documents, each kept as an edition first.
func (a *App) write(c *echo.Context, _ nothing) (api.WriteResult, error) {
	p, w, g, err := a.traced(c)
	if err != nil {
		return api.WriteResult{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.WriteResult{}, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	for i := range g.Documents {
		// The write goes to the real file, which must lie within the drives.
		if d := &g.Documents[i]; len(mend.Wants(g, d.Host)) > 0 {
			if _, ok := drive.Find(reach.Drives, d.Info.Real); !ok {
				return api.WriteResult{}, &os.PathError{Op: "write", Path: d.Info.Real, Err: drive.ErrOutside}
			}
		}
	}
	keep := edition.Keeper{Dir: filepath.Join(a.store.Dir(), "editions", strconv.FormatInt(p.ID, 10))}
	done, problems, err := mend.Write(g, reach, keep)
	if err != nil {
		return api.WriteResult{}, say(http.StatusConflict, "Not written", err.Error()+".")
	}
	out := api.WriteResult{Written: append([]mend.Written{}, done...), Problems: append([]mention.Problem{}, problems...)}
	if len(problems) == 0 {
		// What now stands in the documents needs no rule any more.
		repairs, err := a.store.Repairs(p.ID)
		if err != nil {
			return out, err
		}
		var ids []int64
		for _, r := range repairs {
			ids = append(ids, r.ID)
		}
		if err := a.store.DropRepairs(p.ID, ids); err != nil {
			return out, err
		}
	}
	_, err = a.startTrace(p.ID)
	return out, err
}
