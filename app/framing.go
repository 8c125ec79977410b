package app

import (
	"context"
	"errors"
	"io/fs"
	"path/filepath"
	"slices"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/bring/home"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/say/words/phrase"
)

// CopyFrames copies the frames that a sequence lacks from a candidate's folder into the
// sequence's own folder, as a job. Nothing is overwritten and no document changes.
func (a *App) CopyFrames(ctx context.Context, project int64, in mending.CopyFrames) (api.Started, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return api.Started{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return api.Started{}, err
	}
	defer memory.Close()
	wanted, ok := s.missing(in.Expected, memory.Of)
	if !ok || len(wanted.Gaps) == 0 {
		return api.Started{}, fault.Say(fault.Conflict, "Nothing to copy", "This sequence has no missing frames.")
	}
	if offered := s.offered(w.found.Load(), wanted.File, wanted.Expected); !slices.ContainsFunc(offered, func(c mend.Candidate) bool { return c.Path == in.Path }) {
		return api.Started{}, fault.Say(fault.Unfit, "Not a candidate", "‘"+filepath.Base(in.Path)+"’ is not among the candidates of this sequence. Search again.")
	}
	frames, err := wanted.Filling(in.Path, reach)
	if err != nil {
		return api.Started{}, err
	}
	if len(frames) == 0 {
		return api.Started{}, fault.Say(fault.Conflict, "Nothing to copy", "The folder no longer holds any of the missing frames.")
	}
	total := int64(0)
	for _, f := range frames {
		total += f.Size
	}
	to := drive.Label(reach.Drives, filepath.Dir(frames[0].To))
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobHome, Project: p.ID, Title: "Copying frames to " + to, Unit: "bytes"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		done := int64(0)
		err := home.Copy(ctx, frames, reach, a.store.Journals(), s.graph.Documents[s.graph.Roots[0]].Path, func(bytes int64) {
			done += bytes
			j.Step("", done, total)
		})
		if errors.Is(err, fs.ErrExist) {
			err = fault.Say(fault.Conflict, "File exists", "One of these frames was added to "+to+" in the meantime. Nothing was copied.")
		}
		if err != nil {
			return api.Nothing{}, "", err
		}
		_, err = a.startTrace(p.ID)
		return api.Nothing{}, phrase.Plural(len(frames), "frame") + " copied to " + to, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}
