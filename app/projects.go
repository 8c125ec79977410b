package app

import (
	"context"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/store"
)

// AddProject opens documents together, or the project that has just these already.
func (a *App) AddProject(ctx context.Context, in api.NewProject) (api.Project, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Project{}, err
	}
	if len(in.Documents) == 0 {
		return api.Project{}, fault.Say(fault.Wrong, "No document", "Choose at least one document.")
	}
	var docs []string
	for _, d := range in.Documents {
		doc := filepath.Clean(d)
		info, err := reach.Stat(doc)
		if err != nil {
			return api.Project{}, err
		}
		if !info.Mode.IsRegular() {
			return api.Project{}, fault.Say(fault.Wrong, "Not a document", "‘"+doc+"’ is not a file.")
		}
		if !slices.Contains(docs, doc) {
			docs = append(docs, doc)
		}
	}
	root := filepath.Clean(in.Root)
	if in.Root == "" {
		root = graph.CommonFolder(docs)
	}
	if info, err := reach.Stat(root); err != nil {
		return api.Project{}, err
	} else if !info.Mode.IsDir() {
		return api.Project{}, fault.Say(fault.Wrong, "Not a folder", "‘"+root+"’ is not a folder.")
	}
	name := in.Name
	if name == "" {
		name = filepath.Base(root)
	}
	p, err := a.store.AddProject(name, docs, root, time.Now())
	if err != nil {
		return api.Project{}, err
	}
	if err := a.adoptOmitted(p, reach); err != nil {
		return api.Project{}, err
	}
	_, err = a.startTrace(p.ID)
	return projectView(p, reach.Drives), err
}

// maxRecord bounds the record of a crate that is read for what was left out, in bytes.
const maxRecord = 64 << 20

// adoptOmitted sets aside, for documents of a received crate, what its sender left out on purpose.
func (a *App) adoptOmitted(p store.Project, reach drive.Set) error {
	dir := filepath.Dir(p.Documents[0])
	for {
		if info, err := reach.Stat(filepath.Join(dir, "bagit.txt")); err == nil && info.Mode.IsRegular() {
			break
		}
		above := filepath.Dir(dir)
		if _, err := reach.Stat(above); err != nil || above == dir {
			return nil // not in a crate
		}
		dir = above
	}
	if log, err := a.store.Decisions(p.ID); err != nil || len(log) > 0 {
		return err // an open project, of which a person has decided already
	}
	f, err := reach.Open(filepath.Join(dir, seal.RecordName))
	if err != nil || f.Size() > maxRecord {
		return nil // a bag of another maker, or not readable: what it lacks is missing
	}
	defer f.Close()
	record, err := io.ReadAll(io.NewSectionReader(f, 0, f.Size()))
	if err != nil {
		return err
	}
	var list []decide.Decision
	omitted := seal.Omitted(record)
	for _, place := range slices.Sorted(maps.Keys(omitted)) {
		why := string(omitted[place])
		list = append(list, decide.Decision{Kind: decide.Aside, From: drive.At(reach.Drives, filepath.Join(dir, filepath.FromSlash(place))), Name: &why, At: time.Now()})
	}
	if len(list) == 0 {
		return nil
	}
	return a.store.Decide(p.ID, list...)
}

// DropProject forgets a project. Its files stay as they are.
func (a *App) DropProject(_ context.Context, project int64) error {
	if err := a.store.DeleteProject(project); err != nil {
		return err
	}
	// What is known of it here goes; its editions and backups stay where they are.
	for _, name := range []string{keepSetting(project), backupSetting(project), offersKept} {
		if err := a.store.SetSetting(name, ""); err != nil {
			return err
		}
	}
	a.jobs.End(project)
	a.mu.Lock()
	delete(a.openProjects, project)
	a.mu.Unlock()
	a.live.Follow(project, nil, nil)
	return nil
}

func projectView(p store.Project, drives []drive.Drive) api.Project {
	v := api.Project{ID: p.ID, Name: p.Name, Documents: append([]string{}, p.Documents...), Labels: []string{}, Root: p.Root, RootName: drive.Label(drives, p.Root), Opened: p.Opened()}
	for _, d := range p.Documents {
		v.Labels = append(v.Labels, drive.Label(drives, d))
	}
	return v
}
