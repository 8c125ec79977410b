package app

import (
	"context"
	"encoding/json"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
)

// SetAside takes files out of the count of what is to find, with a reason.
func (a *App) SetAside(ctx context.Context, project int64, in mending.SetAside) (api.Started, error) {
	p, _, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	if !slices.Contains(decide.Whys, in.Why) {
		return api.Started{}, fault.Say(fault.Wrong, "Reason", "‘"+string(in.Why)+"’ is not a valid reason to set a file aside.")
	}
	wanted := map[string]bool{}
	for _, w := range mend.Missing(s.graph, s.judged, mend.Nothing) {
		wanted[w.Expected] = true
	}
	var list []decide.Decision
	for _, at := range in.Expected {
		if !wanted[at] {
			return api.Started{}, fault.Say(fault.Conflict, "Not missing", "‘"+label(s.drives, at)+"’ is no longer missing.")
		}
		why := string(in.Why)
		list = append(list, decide.Decision{Kind: decide.Aside, From: drive.At(s.drives, at), Name: &why, At: time.Now()})
	}
	if len(list) == 0 {
		return api.Started{}, fault.Say(fault.Wrong, "No file", "Choose a file to set aside.")
	}
	return a.startTraceAfter(p.ID, a.store.Decide(p.ID, list...))
}

// SayMeant ends the suspicion against a file until it changes again.
func (a *App) SayMeant(ctx context.Context, project int64, in mending.SayMeant) (api.Started, error) {
	p, _, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	for i := range s.graph.Files {
		f := &s.graph.Files[i]
		if len(s.judged.Suspicions(graph.FileID(i))) == 0 || s.graph.References[f.Refs[0]].Expected != in.Expected {
			continue
		}
		is, _ := json.Marshal(decide.StateOf(f))
		d := decide.Decision{Kind: decide.Meant, Reasons: is, At: time.Now()}
		d.File, d.By = decide.On(s.graph, graph.FileID(i), s.drives)
		return a.startTraceAfter(p.ID, a.store.Decide(p.ID, d))
	}
	return api.Started{}, fault.Say(fault.Conflict, "Not suspect", "This file has no warnings any more.")
}

func (a *App) startTraceAfter(project int64, err error) (api.Started, error) {
	if err != nil {
		return api.Started{}, err
	}
	return a.startTrace(project)
}

// asides are the files that are set aside and would count otherwise.
func (s *snapshot) asides() []mending.Aside {
	list := []mending.Aside{}
	for i := range s.graph.Files {
		f := &s.graph.Files[i]
		if len(f.Refs) == 0 || !s.setAside(graph.FileID(i)) {
			continue
		}
		at := s.graph.References[f.Refs[0]].Expected
		set := s.aside[at]
		list = append(list, mending.Aside{ID: set.ID, Label: label(s.drives, at), Why: set.Why, Says: words.Aside(set.Why)})
	}
	return list
}

// wantedFiles are the wanted files that are not set aside.
func (s *snapshot) wantedFiles(memory mend.Memory) (list []mend.Wanted) {
	for _, w := range mend.Missing(s.graph, s.judged, memory) {
		if _, aside := s.aside[w.Expected]; !aside {
			list = append(list, w)
		}
	}
	return list
}

// loosely are the references to files that documents spell otherwise than they are
// called, one for each file.
func (s *snapshot) loosely() (list []*graph.Reference) {
	met := map[string]bool{}
	for i := range s.graph.References {
		r := &s.graph.References[i]
		if r.Loose && !r.Repaired && r.Path != "" && r.State.Found() && r.Expected != r.Path && !met[r.Expected] {
			met[r.Expected] = true
			list = append(list, r)
		}
	}
	return list
}

func (s *snapshot) loose() []mending.Respell {
	list := []mending.Respell{}
	for _, r := range s.loosely() {
		list = append(list, mending.Respell{Expected: r.Expected, Label: label(s.drives, r.Expected), Is: filepath.Base(label(s.drives, r.Path))})
	}
	return list
}

// Spell makes repairs of all loose spellings as one act; written into the documents they
// name their files exactly.
func (a *App) Spell(ctx context.Context, project int64) (api.Started, error) {
	p, _, s, err := a.traced(project)
	if err != nil {
		return api.Started{}, err
	}
	var list []decide.Decision
	for _, r := range s.loosely() {
		list = append(list, repairOf(s.drives, r.Expected, mend.Candidate{Path: r.Path, Certainty: mend.Certain, For: []mend.Evidence{{Code: mend.NameLoose}}}))
	}
	if len(list) == 0 {
		return api.Started{}, fault.Say(fault.Conflict, "Spelled exactly", "All names are spelled as in the documents.")
	}
	return a.startTraceAfter(p.ID, a.store.Decide(p.ID, list...))
}
