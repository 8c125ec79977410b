package app

import (
	"context"
	"errors"
	"io/fs"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/fault"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/loose"
	"boundcrate/core/road/graph"
	"boundcrate/store"
)

// setOf is where a project's loose set is kept; store.ErrNotFound of one that has documents.
func setOf(p store.Project) (string, error) {
	if len(p.Documents) != 1 || filepath.Base(p.Documents[0]) != loose.Name {
		return "", store.ErrNotFound
	}
	return p.Documents[0], nil
}

// LooseSet is the loose set of a project, with the new files of its patterns.
func (a *App) LooseSet(ctx context.Context, project int64) (keeping.LooseSet, error) {
	out := keeping.LooseSet{Groups: []keeping.LooseGroup{}}
	p, err := a.store.Project(project)
	if err != nil {
		return out, err
	}
	at, err := setOf(p)
	if err != nil {
		return out, err
	}
	reach, err := a.reach()
	if err != nil {
		return out, err
	}
	if _, err := reach.Stat(at); err != nil {
		return out, err
	}
	s, err := loose.Read(at)
	if errors.Is(err, loose.ErrNotOurs) {
		return out, store.ErrNotFound
	}
	if err != nil {
		return out, err
	}
	if out.Is, err = drive.Fingerprint(ctx, reach, at, nil); err != nil {
		return out, err
	}
	out.Title, out.Author, out.Note = s.Title, s.Author, s.Note
	dir := filepath.Dir(at)
	fresh, err := s.New(dir)
	if err != nil {
		return out, err
	}
	list := func(paths []string) []keeping.LooseFile {
		files := []keeping.LooseFile{}
		for _, p := range paths {
			f := keeping.LooseFile{Path: p, Name: shown(dir, p)}
			if info, err := reach.Stat(p); err == nil {
				f.Bytes, f.There = info.Size, true
			}
			files = append(files, f)
		}
		return files
	}
	for _, g := range append(s.Groups, loose.Group{Patterns: s.Patterns, Files: s.Files}) {
		out.Groups = append(out.Groups, keeping.LooseGroup{Name: g.Name, Patterns: append([]string{}, g.Patterns...), Files: list(g.Files), New: list(fresh[g.Name])})
	}
	return out, nil
}

// SetLoose writes a loose set anew. An edition is kept first.
func (a *App) SetLoose(ctx context.Context, project int64, in keeping.SetLoose) (keeping.LooseSet, error) {
	p, w, err := a.open(project)
	if err != nil {
		return keeping.LooseSet{}, err
	}
	at, err := setOf(p)
	if err != nil {
		return keeping.LooseSet{}, err
	}
	if _, _, err := a.place(at); err != nil {
		return keeping.LooseSet{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return keeping.LooseSet{}, err
	}
	s := loose.Set{Title: strings.TrimSpace(in.Title), Author: in.Author, Note: in.Note, Made: time.Now()}
	for _, g := range in.Groups {
		for _, f := range g.Files {
			if _, ok := drive.Find(reach.Drives, f); !ok {
				return keeping.LooseSet{}, fault.Say(fault.Wrong, "Outside your drives", "‘"+f+"’ is outside your drives.")
			}
		}
		if g.Name == "" {
			s.Files, s.Patterns = g.Files, g.Patterns
		} else {
			s.Groups = append(s.Groups, loose.Group{Name: g.Name, Patterns: g.Patterns, Files: g.Files})
		}
	}
	if s.Title == "" {
		return keeping.LooseSet{}, fault.Say(fault.Wrong, "No title", "Give the set a title.")
	}
	if is, err := drive.Fingerprint(ctx, reach, at, nil); err != nil || is != in.Is {
		return keeping.LooseSet{}, fault.Say(fault.Conflict, "Changed in the meantime", "The set was changed elsewhere. Look at it again.")
	}
	if err := a.keepBefore(ctx, p, w); err != nil {
		return keeping.LooseSet{}, err
	}
	if err := loose.Write(at, s); err != nil {
		return keeping.LooseSet{}, err
	}
	if _, err := a.startTrace(project); err != nil {
		return keeping.LooseSet{}, err
	}
	return a.LooseSet(ctx, project)
}

// Gather begins a loose set of files, those that are told and those that patterns match in its folder, and opens it
// as a project. Without a folder it is the one that holds all files.
func (a *App) Gather(ctx context.Context, in keeping.NewLoose) (api.Project, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Project{}, err
	}
	for _, f := range in.Files {
		if _, err := reach.Stat(f); err != nil {
			return api.Project{}, err
		}
	}
	if in.Folder == "" && len(in.Files) > 0 {
		in.Folder = graph.CommonFolder(in.Files)
	}
	at := filepath.Join(filepath.Clean(in.Folder), loose.Name)
	if _, _, err := a.place(at); err != nil {
		return api.Project{}, err
	}
	if _, err := loose.Read(at); err == nil {
		return api.Project{}, fault.Say(fault.Conflict, "A set is there", "The folder has a loose set already. Open it, and add the files there. It was not changed.")
	}
	s := loose.Set{Title: strings.TrimSpace(in.Title), Author: in.Author, Note: in.Note, Made: time.Now()}
	if s.Title == "" {
		return api.Project{}, fault.Say(fault.Wrong, "No title", "Give the set a title.")
	}
	have := map[string]bool{}
	for _, f := range in.Files {
		if !have[f] {
			have[f] = true
			s.Files = append(s.Files, f)
		}
	}
	for _, pattern := range in.Patterns {
		if pattern = strings.TrimSpace(pattern); pattern == "" {
			continue
		}
		if filepath.IsAbs(pattern) || !filepath.IsLocal(filepath.FromSlash(pattern)) {
			return api.Project{}, fault.Say(fault.Wrong, "Outside the folder", "‘"+pattern+"’ must name files below the folder of the set.")
		}
		list, err := loose.Find(in.Folder, pattern)
		if err != nil && !errors.Is(err, fs.ErrInvalid) {
			return api.Project{}, err
		}
		for _, f := range list {
			if !have[f] {
				have[f] = true
				s.Files = append(s.Files, f)
			}
		}
		s.Patterns = append(s.Patterns, pattern)
	}
	if len(s.Files) == 0 {
		return api.Project{}, fault.Say(fault.Wrong, "No file matches", "No file in the folder matches. Patterns are names with * and ?, as *.png; **/*.png also looks into folders.")
	}
	if err := loose.Write(at, s); err != nil {
		if errors.Is(err, loose.ErrNotOurs) {
			return api.Project{}, fault.Say(fault.Conflict, "Another list is there", "‘"+loose.Name+"’ in this folder was not made by Bound Crate. It was not changed.")
		}
		return api.Project{}, err
	}
	return a.AddProject(ctx, api.NewProject{Documents: []string{at}, Name: s.Title})
}
