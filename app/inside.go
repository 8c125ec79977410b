package app

import (
	"context"
	"errors"
	"io/fs"
	"path/filepath"
	"strings"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/bring/inside"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/store"
)

// maxNoFile is how many things without a file one answer lists.
const maxNoFile = 2000

// NoFiles lists what has no file yet: what stands inside documents and what was
// never saved.
func (a *App) NoFiles(ctx context.Context, project int64) (places.NoFiles, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return places.NoFiles{}, err
	}
	o, done, err := a.tracing(ctx, p, w, s)
	if err != nil {
		return places.NoFiles{}, err
	}
	defer done()
	out := places.NoFiles{Snapshot: s.id, List: []places.NoFileRow{}}
	for _, d := range inside.List(s.graph, o) {
		if len(out.List) == maxNoFile {
			out.More++
			continue
		}
		r := &s.graph.References[d.Ref]
		out.List = append(out.List, places.NoFileRow{
			Ref: int(d.Ref), Document: drive.Label(s.drives, s.graph.Where(r.Doc, r.Text)), Owner: r.Owner, State: r.State, Use: r.Use, Kind: d.Kind, Word: words.Kind(d.Kind), Type: d.Type,
			Size: d.Size, Name: d.Name, Folder: d.Folder, Label: drive.Label(s.drives, d.Folder), Why: d.Why, Says: words.NoFile(d.Why),
		})
	}
	return out, nil
}

// plain tells what can be the name of one new file or folder.
func plain(name string) bool {
	return name != "" && name == filepath.Base(name) && !strings.HasPrefix(name, ".") && !strings.ContainsAny(name, "\\\x00")
}

// checkFolder asks the nearest folder that is there, on the way up, whether it lies
// within the drives, its links undone.
func checkFolder(reach drive.Set, dir string) error {
	for {
		info, err := reach.Stat(dir)
		up := filepath.Dir(dir)
		switch {
		case err == nil && !info.Mode.IsDir():
			return fault.Say(fault.Wrong, "Not a folder", "‘"+drive.Label(reach.Drives, dir)+"’ is a file.")
		case err == nil || !errors.Is(err, fs.ErrNotExist) || up == dir:
			return err
		}
		dir = up
	}
}

// WriteOut writes data that stands inside out to files that the documents then
// name, as a job.
func (a *App) WriteOut(ctx context.Context, project int64, in places.WriteOut) (api.Started, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	to := map[graph.RefID]string{}
	taken := map[string]bool{}
	var docs []string
	for _, f := range in.Files {
		if f.Ref < 0 || f.Ref >= len(s.graph.References) {
			return api.Started{}, store.ErrNotFound
		}
		name := strings.TrimSpace(f.Name)
		if !plain(name) {
			return api.Started{}, fault.Say(fault.Wrong, "Not a name", "‘"+f.Name+"’ cannot be the name of a file.")
		}
		at := filepath.Join(filepath.Clean(f.Folder), name)
		if err := checkFolder(reach, filepath.Dir(at)); err != nil {
			return api.Started{}, err
		}
		if _, err := reach.Lstat(at); err == nil || taken[at] {
			return api.Started{}, fault.Say(fault.Conflict, "That name is taken", "‘"+drive.Label(reach.Drives, at)+"’ already exists. Nothing was overwritten. Choose another name.")
		}
		taken[at] = true
		to[graph.RefID(f.Ref)] = at
		docs = append(docs, s.graph.Documents[s.graph.References[f.Ref].Doc].Path)
	}
	if len(to) == 0 {
		return api.Started{}, fault.Say(fault.Wrong, "Nothing selected", "Select at least one item to save.")
	}
	if err := within(reach, s.graph, docs); err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobInside, Project: p.ID, Title: "Saving files from " + p.Name, Unit: "files"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		o, end, err := a.tracing(ctx, p, w, s)
		if err != nil {
			return api.Nothing{}, "", err
		}
		defer end()
		if err := a.keepBefore(ctx, p, w); err != nil {
			return api.Nothing{}, "", err
		}
		done := int64(0)
		written, err := inside.Write(ctx, s.graph, o, to, a.editions(p), a.store.Journals(), func(at string) {
			j.Step(drive.Label(s.drives, at), done, int64(len(to)))
			done++
		})
		if err != nil {
			return api.Nothing{}, "", err
		}
		if err := a.wrote(p, store.WroteInside, written, nil); err != nil {
			return api.Nothing{}, "", err
		}
		_, err = a.startTrace(p.ID)
		return api.Nothing{}, phrase.Plural(len(to), "file") + " saved, " + phrase.Plural(len(written), "document") + " changed", err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}
