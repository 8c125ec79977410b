package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/bring/connect"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/say/words/sheet"
	"boundcrate/store"
)

// Receive checks a crate and, when told where, unpacks it: as it is, or as a project with its material
// apart. Documents that lie elsewhere are connected to it.
func (a *App) Receive(ctx context.Context, in packing.ReceiveRequest) (api.Started, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	o := receive.Options{Crate: filepath.Clean(in.Crate), Into: in.Into, Material: in.Material, Formats: a.formats()}
	for _, p := range append([]string{o.Crate}, append(in.Bases, in.For...)...) {
		if err := a.readable(reach, p); err != nil {
			return api.Started{}, err
		}
	}
	o.Bases = in.Bases
	spec := jobs.Spec{Kind: api.JobCheck, Slot: o.Crate, Title: "Checking " + filepath.Base(o.Crate), Unit: "bytes"}
	for _, dir := range []string{in.Into, in.Material} {
		if dir == "" {
			continue
		}
		if _, _, err := a.place(filepath.Join(dir, "x")); err != nil {
			return api.Started{}, err
		}
		spec.Kind, spec.Title = api.JobReceive, "Receiving "+filepath.Base(o.Crate)
	}
	if in.Into == "" && (in.Material != "" || len(in.For) > 0) {
		return api.Started{}, fault.Say(fault.Wrong, "No folder", "Choose a folder to unpack into.")
	}
	j, err := jobs.Run(a.jobs, spec, func(ctx context.Context, j *jobs.Task) (packing.Received, string, error) {
		j.Step("checking every byte", 0, 0)
		o.Progress = func(_ receive.Step, done int64) { j.Step("unpacking", done, 0) }
		return a.received(ctx, reach, o, in.For, j.View().Job.ID)
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// received does it, and tells what came of it.
func (a *App) received(ctx context.Context, reach drive.Set, o receive.Options, docs []string, job string) (packing.Received, string, error) {
	out := packing.Received{Label: drive.Label(reach.Drives, o.Crate), Crate: o.Crate, Here: []packing.AlreadyHere{}}
	rep := &receive.Report{}
	plain := o.Into != "" && len(docs) > 0 && !seal.IsBag(o.Crate)
	switch {
	case plain:
		at, err := receive.Plain(ctx, o.Crate, o.Into)
		if err != nil {
			return out, "", err
		}
		rep.Into, rep.Crate, rep.Complete = at, o.Crate, true
	case o.Into == "":
		checked, err := seal.Inspect(ctx, o.Crate, o.Formats, o.Bases...)
		if err != nil {
			return out, "", err
		}
		rep.Report = *checked.Report
	default:
		var err error
		if rep, err = receive.Run(ctx, o); err != nil {
			return out, "", err
		}
	}
	var done *connect.Done
	if rep.Into != "" {
		out.Into = drive.Label(reach.Drives, rep.Into)
		if rep.Material != "" {
			out.Apart = drive.Label(reach.Drives, rep.Material)
		}
		if len(docs) > 0 {
			var err error
			if done, err = a.connect(ctx, reach, rep, docs); err != nil {
				return out, "", err
			}
		}
	}
	out.Report = report.OfReceive(rep)
	if done != nil {
		out.Report.Connect(done)
	}
	out.ToFetch = len(rep.ToFetch)
	out.Harm, out.Well = rep.Harm(), rep.Well()
	out.Omitted, out.Note, out.From, out.For = omitted(&rep.Report), rep.Note, rep.From, rep.For
	if err := a.alreadyHere(&out, rep); err != nil {
		return out, "", err
	}
	if plain {
		return out, "Unpacked. Nobody sealed it, so nothing could be checked", nil
	}
	out.Sheet = a.keepSheet(receivedSheet(job), sheet.Page(rep.Sheet, &rep.Report)) == nil
	out.Proof = []packing.ProofLine{{Code: packing.ProofBytes, OK: out.Harm == 0, What: "Every byte is as sealed", Figure: phrase.Plural(rep.Files, "file") + ", " + phrase.Size(rep.Bytes)}}
	if n := len(rep.Parts) + len(rep.Lacks); n > 0 {
		out.Proof = append(out.Proof, packing.ProofLine{Code: packing.ProofParts, OK: len(rep.Lacks) == 0, What: "All parts are present", Figure: fmt.Sprintf("%d of %d", len(rep.Parts), n)})
	}
	out.Proof = append(out.Proof, provedLine(&rep.Report))
	switch {
	case out.Harm > 0:
		return out, "Damaged. Nothing was unpacked", nil
	case len(rep.ToFetch) > 0:
		return out, "A difference crate; the crate it builds on is needed", nil
	case rep.Into != "":
		return out, "Unpacked", nil
	case o.Into != "":
		return out, "It does not fit. Nothing was unpacked", nil
	}
	return out, "Undamaged", nil
}

// alreadyHere tells the projects that have a document of the same name as one of the crate.
func (a *App) alreadyHere(out *packing.Received, rep *receive.Report) error {
	projects, err := a.store.Projects()
	if err != nil {
		return err
	}
	for _, p := range projects {
		for _, own := range p.Documents {
			if slices.ContainsFunc(rep.Sheet.Documents, func(d string) bool { return path.Base(d) == filepath.Base(own) }) && !slices.Contains(rep.Documents, own) {
				out.Here = append(out.Here, packing.AlreadyHere{Project: p.ID, Name: p.Name, Document: own})
				break
			}
		}
	}
	return nil
}

// connect makes documents that lie elsewhere name what was received.
func (a *App) connect(ctx context.Context, reach drive.Set, rep *receive.Report, docs []string) (*connect.Done, error) {
	memory, err := a.store.Memory(nil)
	if err != nil {
		return nil, err
	}
	defer memory.Close()
	folders := []string{rep.Into}
	if rep.Material != "" {
		folders = append(folders, rep.Material)
	}
	done, err := connect.Run(ctx, connect.Options{
		Documents: docs, Folders: folders, Meant: rep.Meant, At: rep.At,
		Trace: trace.Options{Formats: a.formats(), Reach: reach, Drives: reach.Drives, Doubt: memory.Doubt(ctx, reach), Known: memory.Known},
		Judge: func(g *graph.Graph) *origin.Judged {
			return desk.Judge(ctx, g, origin.Options{Reach: reach, Drives: reach.Drives}, memory, nil)
		},
		Reading: func(g *graph.Graph) mend.Reading { return reading(reach, memory, g) },
		Keep:    edition.Keeper{Dir: filepath.Join(a.editionsDir, "received")}, Journals: a.store.Journals(),
	})
	if err == nil {
		rep.DoesNotFit = append(rep.DoesNotFit, done.Rates(rep, folders)...)
	}
	return done, err
}

// Received is what came of checking or unpacking a crate.
func (a *App) Received(ctx context.Context, job string) (packing.Received, error) {
	return jobs.ResultOf[packing.Received](a.jobs, job)
}

// sheetFile is where the handoff sheet of a sealing, or of a receiving, is kept: by the project's number
// or the job's.
func (a *App) sheetFile(of string) string {
	return filepath.Join(a.store.Dir(), "sheets", filepath.Base(of)+".html")
}

// sheetKept is how long the sheet of what was received is kept; the crate has it too.
const sheetKept = 30 * 24 * time.Hour

// keepSheet keeps a sheet to be looked at. It is made anew by sealing or checking again.
func (a *App) keepSheet(of string, page []byte) error {
	at := a.sheetFile(of)
	forgetOld(filepath.Dir(at), "received-", sheetKept)
	if err := os.MkdirAll(filepath.Dir(at), 0o700); err != nil {
		return err
	}
	return fileset.Replace(at, 0o600, func(w io.Writer) error { _, err := w.Write(page); return err })
}

// SheetStyle is the style of handoff sheets, for whoever lets only known styles in.
const SheetStyle = sheet.PageStyle

// SealedSheet is the handoff sheet of a project's last sealing.
func (a *App) SealedSheet(project int64) ([]byte, error) { return a.sheet(sheetOf(project)) }

// ReceivedSheet is the handoff sheet of what a job received.
func (a *App) ReceivedSheet(job string) ([]byte, error) { return a.sheet(receivedSheet(job)) }

func receivedSheet(job string) string { return "received-" + job }

func (a *App) sheet(of string) ([]byte, error) {
	b, err := os.ReadFile(a.sheetFile(of))
	if errors.Is(err, os.ErrNotExist) {
		return nil, store.ErrNotFound
	}
	return b, err
}
