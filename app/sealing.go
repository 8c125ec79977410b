package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/keep/line"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/say/words/sheet"
	"boundcrate/store"
)

// place makes sure that a crate is written within the drives, also when links
// are followed.
func (a *App) place(out string) (string, drive.Set, error) {
	reach, err := a.reach()
	if err != nil {
		return "", reach, err
	}
	out = filepath.Clean(out)
	if !filepath.IsAbs(out) {
		return "", reach, fault.Say(fault.Wrong, "No destination", "Choose a folder on one of your drives and a name for the crate.")
	}
	real := out
	for dir, rest := filepath.Dir(out), filepath.Base(out); ; dir, rest = filepath.Dir(dir), filepath.Join(filepath.Base(dir), rest) {
		if r, err := filepath.EvalSymlinks(dir); err == nil {
			real = filepath.Join(r, rest)
			break
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	for _, p := range []string{out, real} {
		d, ok := drive.Find(realDrives(reach.Drives), p)
		if !ok || d.Dir == p {
			return "", reach, &os.PathError{Op: "seal", Path: out, Err: drive.ErrOutside}
		}
		if !d.Connected() {
			return "", reach, &os.PathError{Op: "seal", Path: out, Err: drive.ErrUnplugged}
		}
	}
	return out, reach, nil
}

// realDrives are drives by both names of their folders: as they were given, and
// with links undone.
func realDrives(drives []drive.Drive) []drive.Drive {
	list := slices.Clone(drives)
	for _, d := range drives {
		if real, err := filepath.EvalSymlinks(d.Dir); err == nil && real != d.Dir {
			d.Dir = real
			list = append(list, d)
		}
	}
	return list
}

// Destination tells what is at a place where a crate would go, and whether it fits there.
func (a *App) Destination(ctx context.Context, project int64, q api.AskDestination) (packing.Destination, error) {
	p, w, s, err := a.traced(project)
	if err != nil {
		return packing.Destination{}, err
	}
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return packing.Destination{}, err
	}
	out := packing.Destination{Out: q.Out}
	at, reach, err := a.place(out.Out)
	if err != nil {
		out.Why = fault.Explain(err).Detail
		return out, nil
	}
	out.Out, out.Label = at, drive.Label(reach.Drives, at)
	_, out.Needs = pl.texts().Totals()
	out.Needs += pl.texts().Margin()
	if d, ok := drive.Find(reach.Drives, at); ok {
		if u, err := disk.Usage(d.Dir); err == nil {
			out.Free = int64(u.Free)
		}
	}
	if err := seal.Refuse(pl.plan, at, reach.Drives); err != nil {
		var r *seal.Refusal
		if out.Why = words.Error(err); errors.As(err, &r) {
			out.Why = phrase.Sentence(words.Refusal(r))
		}
		return out, nil
	}
	if seal.PackageOf(at) != "" {
		o, done, err := a.tracing(ctx, p, w, s)
		if err != nil {
			return out, err
		}
		defer done()
		plan, _, err := a.packagePlan(ctx, w, s, o, pl, at)
		if err == nil {
			err = seal.Packable(plan, at)
		}
		if err != nil {
			var r *seal.Refusal
			if out.Why = words.Error(err); errors.As(err, &r) {
				out.Why = phrase.Sentence(words.Refusal(r))
			}
			return out, nil
		}
	}
	if out.Free > 0 && out.Free < out.Needs {
		out.Why = "It needs " + phrase.Size(out.Needs) + " but only " + phrase.Size(out.Free) + " are free there."
		return out, nil
	}
	out.Same = sift.Keeps(pl.recipe.Also) && seal.SameDrive(reach, s.graph.Root, at)
	if es, err := reach.Stat(at); err == nil && (es.Mode.IsRegular() || !empty(at)) {
		out.Again = true
		if es.Mode.IsDir() {
			out.Unshared = !fileset.Shares(filepath.Dir(at))
			out.Stands, out.Copies = forecast(at, copiesOf(pl, reach), !out.Unshared)
			out.Seconds = a.lasts(reach, at, 2*out.Copies.Bytes+out.Stands.Bytes)
		}
	}
	out.OK = true
	return out, nil
}

// copiesOf are the files that a plan copies as they are, as they stand now.
func copiesOf(pl *planned, reach drive.Set) (list []travelling) {
	for _, c := range pl.texts().Copies() {
		x := travelling{to: c.To, size: c.Size, doc: c.Doc != graph.None}
		if info, err := reach.Stat(c.Source); err == nil {
			x.mod = info.ModTime
		}
		list = append(list, x)
	}
	return list
}

func empty(dir string) bool {
	es, err := os.ReadDir(dir)
	return err == nil && len(es) == 0
}

// sealedRow is what the store keeps of a seal.
type sealedRow struct {
	Report *report.Seal
	Proof  []packing.ProofLine
	// Along are the files that travelled though no document that was asked for names
	// them, as they were: companions, strays, earlier documents.
	Along []travelled `json:",omitempty"`
	// Crate is where it was sealed to. What was kept before this was tells only the report's path.
	Crate drive.Path
}

// at is where the crate stands, as the drives are mounted now.
func (r *sealedRow) at(drives []drive.Drive) string {
	if at, ok := drive.Abs(drives, r.Crate); ok && r.Crate.Path != "" {
		return at
	}
	return r.Report.Crate
}

type travelled struct {
	At drive.Path
	Is drive.Stamp
}

// along are the files of a plan that the graph does not hold, as they are now.
func along(texts *stow.Texts, g *graph.Graph, reach drive.Set) (list []travelled) {
	known := map[string]bool{}
	for _, p := range g.Leaves() {
		known[p] = true
	}
	for _, c := range texts.Copies() {
		for _, p := range append([]string{c.Source}, c.With...) {
			if info, err := reach.Stat(p); err == nil && !known[p] {
				known[p] = true
				list = append(list, travelled{drive.At(reach.Drives, p), info.Stamp()})
			}
		}
	}
	return list
}

func sealedReport(p store.Project) (sealedRow, error) {
	var r sealedRow
	if p.Sealed == "" {
		return r, nil
	}
	err := json.Unmarshal([]byte(p.Sealed), &r)
	return r, err
}

// Sealed is what came of the last sealing, and whether it still holds.
func (a *App) Sealed(ctx context.Context, project int64) (packing.Sealed, error) {
	p, w, err := a.open(project)
	if err != nil {
		return packing.Sealed{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return packing.Sealed{}, err
	}
	row, err := sealedReport(p)
	if err != nil {
		return packing.Sealed{}, err
	}
	out := packing.Sealed{Report: row.Report, Proof: append([]packing.ProofLine{}, row.Proof...), Note: p.Note, Stale: []string{}}
	if row.Report == nil {
		return out, nil
	}
	rep := *row.Report
	out.All = packing.Totals{Left: len(rep.Left), Problems: len(rep.Problems), Renamed: len(rep.Renamed)}
	rep.Left, rep.Problems, rep.Renamed = first(rep.Left), first(rep.Problems), first(rep.Renamed)
	out.Report = &rep
	when := p.LastSealed()
	out.At, out.Well = &when, row.Report.Complete && len(row.Report.Problems) == 0
	for _, p := range row.Report.Problems {
		if p.Code == string(proof.LeftOut) {
			out.Omitted++
		}
	}
	out.Label = drive.Label(reach.Drives, row.at(reach.Drives))
	_, err = reach.Stat(row.at(reach.Drives))
	out.There = err == nil
	_, err = a.SealedSheet(p.ID)
	out.Sheet = err == nil
	if s := w.now.Load(); s != nil && s.graph != nil {
		out.Stale = s.changedSince(when, row.Along, reach)
	}
	return out, nil
}

// maxStale bounds how many changed sources of a seal are listed.
const maxStale = 20

// since is what a snapshot knows to have changed after a time.
type since struct {
	when, asked time.Time
	list        []string
}

// askAgain is how long the disk's answer about what a snapshot does not hold is good for.
const askAgain = 2 * time.Second

// clockLag is how far a file system's clock may be behind ours: kernels stamp
// files with the time of their last tick.
const clockLag = 20 * time.Millisecond

// changed tells whether a file changed after a time. Where its inode says when, that counts alone:
// a recorder whose clock is wrong gives its files times to come.
func changed(f drive.Info, then time.Time) bool {
	if f.Node.Changed != 0 {
		return f.Node.Changed > then.UnixNano()
	}
	return f.ModTime.After(then)
}

// changedSince are the files that changed after a time, or are gone, by their
// drives' names: those of the snapshot, and those that went along. A file put in
// another's place may be older than it; when its inode changed tells.
func (s *snapshot) changedSince(when time.Time, along []travelled, reach drive.Set) []string {
	if c := s.since.Load(); c != nil && c.when.Equal(when) && time.Since(c.asked) < askAgain {
		return c.list
	}
	list, then := []string{}, when.Add(-clockLag)
	for _, p := range s.graph.Leaves() {
		info, err := reach.Stat(p)
		if err == nil && !changed(info, then) {
			continue
		}
		if list = append(list, drive.Label(s.drives, p)); len(list) == maxStale {
			break
		}
	}
	for _, a := range along {
		p, ok := drive.Abs(reach.Drives, a.At)
		if len(list) == maxStale {
			break
		}
		if info, err := reach.Stat(p); !ok || err != nil || info.Stamp() != a.Is {
			list = append(list, drive.Label(s.drives, p))
		}
	}
	s.since.Store(&since{when, time.Now(), list})
	return list
}

// Seal makes the crate and proves it, as a job.
func (a *App) Seal(ctx context.Context, project int64, in packing.SealRequest) (api.Started, error) {
	p, w, s, err := a.on(project, in.Snapshot)
	if err != nil {
		return api.Started{}, err
	}
	pl, err := a.planned(ctx, p, w, s)
	if err != nil {
		return api.Started{}, err
	}
	out, reach, err := a.place(in.Out)
	if err != nil {
		return api.Started{}, err
	}
	if err := seal.Refuse(pl.plan, out, reach.Drives); err != nil {
		return api.Started{}, err
	}
	if !in.Despite && sift.Keeps(pl.recipe.Also) && seal.SameDrive(reach, s.graph.Root, out) {
		return api.Started{}, fault.Say(fault.Conflict, "On the same drive", "This archive would be on the project's own drive and be lost with it. Choose another drive, or confirm.")
	}
	if err := a.store.SetOut(p.ID, out, in.Note); err != nil {
		return api.Started{}, err
	}
	j, err := jobs.Run(a.jobs, jobs.Spec{Kind: api.JobSeal, Project: p.ID, Title: "Sealing " + filepath.Base(out), Unit: "bytes"}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		message, err := a.carryOut(ctx, p, w, s, sealTo{out, in.Note, in.Since}, j)
		return api.Nothing{}, message, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

// nameOf is the last part of a path; "" of none.
func nameOf(p string) string {
	if p == "" {
		return ""
	}
	return filepath.Base(p)
}

// sealTo is where a crate goes, and how.
type sealTo struct{ out, note, since string }

func (a *App) carryOut(ctx context.Context, p store.Project, w *openProject, s *snapshot, to sealTo, j *jobs.Task) (string, error) {
	if o, err := chosen(p); err == nil && o.Leave.Twice { // what is there twice is to be known
		if _, err := a.compare(ctx, w, s, j); err != nil {
			return "", err
		}
	}
	if _, err := a.looseWithin(ctx, time.Hour, p, w, s); err != nil { // what goes along is to be known
		return "", err
	}
	if err := a.listenToAll(ctx, p, w, s, j); err != nil {
		return "", err
	}
	pl, err := a.withTexts(ctx, p, w, s)
	if err != nil {
		return "", err
	}
	if pl.loose == unsought {
		return "", fault.Say(fault.Conflict, "Changed in the meantime", "The project changed while optional files were searched. Nothing was sealed. Seal again.")
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return "", err
	}
	defer memory.Close()
	o, reach, err := a.traceOptions(ctx, p, w, s.log, memory)
	if err != nil {
		return "", err
	}
	files, bytes := pl.texts().Totals()
	went := along(pl.texts(), s.graph, reach)
	kept, err := a.keepEdition(ctx, p, w, line.Request{By: line.Sealing}, false)
	if err != nil {
		return "", err
	}
	began := time.Now()
	plan, texts, rec := pl.plan, pl.said.Load(), pl.recipe
	if seal.PackageOf(to.out) != "" {
		texts = nil
		if plan, rec, err = a.packagePlan(ctx, w, s, o, pl, to.out); err != nil {
			return "", err
		}
	}
	rep, err := desk.Seal(ctx, desk.Sealing{
		Plan: plan, Texts: texts, Recipe: rec, Out: to.out, Note: to.note, Since: to.since, Beside: true, Trace: o, Digest: memory.Hasher(reach),
		Progress: func(g seal.Progress) {
			at := jobs.Pace{Done: g.Done, Total: g.Total, Files: g.Copied, Of: g.Of, Handled: g.Copied + g.Files, Handle: 2 * g.Of}
			if g.Step != seal.Copying {
				at.Files = g.Files
			}
			j.Advance(string(g.Step), at)
		},
	})
	if err != nil {
		return "", err
	}
	now := time.Now()
	said := report.OfSeal(rep)
	row := sealedRow{&said, sealProof(rep, pl.texts(), files, bytes, pl.recipe.SHA512, now.Sub(began)), went, drive.At(reach.Drives, rep.Crate)}
	crate := store.Crate{Project: p.ID, At: now, Where: drive.At(reach.Drives, rep.Crate), Recipient: pl.recipe.For, Since: nameOf(to.since), Complete: rep.Complete, Files: rep.Files, Bytes: rep.Bytes}
	if err := a.noteSealed(ctx, row, crate, kept, rep.Crate); err != nil {
		return "", err
	}
	if err := a.keepSheet(sheetOf(p.ID), sheet.Page(rep.Sheet, rep)); err != nil {
		a.log.Warn("the handoff sheet is in the crate alone", "error", err)
	}
	a.hub.Send(api.Event{Type: api.EventProject, Project: p.ID})
	if err := errors.Join(memory.Made(rep.Archives), memory.Remember(ctx, s.graph, reach, rep.Sums, now, nil)); err != nil {
		return "", err
	}
	if rep.Well() {
		return "Sealed and complete", nil
	}
	return "Sealed, not complete", nil
}

// sealProof says each check of a seal as a line with its figure.
func sealProof(rep *seal.Report, plan *stow.Texts, files int, bytes int64, sha512 bool, took time.Duration) []packing.ProofLine {
	docs := 0
	for _, cp := range plan.Copies() {
		if cp.Doc != graph.None {
			docs++
		}
	}
	pace := phrase.Size(int64(float64(rep.Bytes) / max(took.Seconds(), 0.001)))
	manifests := "SHA-256 of every file in the manifest"
	if sha512 {
		manifests = "SHA-256 and SHA-512 of every file in the manifests"
	}
	lines := []packing.ProofLine{
		{Code: packing.ProofCopied, OK: rep.Files+rep.Fetched.Files == files+rep.Lists, What: "Every file copied", Figure: fmt.Sprintf("%d of %d", rep.Files-rep.Lists, files-rep.Fetched.Files), Note: spared(rep)},
		{Code: packing.ProofReadBack, OK: rep.ReadBack == rep.Bytes, What: "Every byte read back and compared", Figure: phrase.Size(rep.ReadBack), Note: fmt.Sprintf("in %.1f s, %s per second", took.Seconds(), pace)},
		{Code: packing.ProofManifest, OK: rep.Listed == rep.Files+rep.Fetched.Files, What: manifests, Figure: phrase.Plural(rep.Listed, "line")},
		{Code: packing.ProofRelative, OK: len(plan.Problems()) == 0, What: "Documents use relative paths", Figure: phrase.Plural(docs, "document")},
		provedLine(rep),
	}
	if rep.SHA256 != "" {
		lines[2] = packing.ProofLine{Code: packing.ProofManifest, OK: true, What: "SHA-256 of the file", Figure: rep.SHA256[:12] + "…", Note: "A format's own package has no manifest"}
	}
	if len(rep.Parts) > 0 {
		lines = append(lines, packing.ProofLine{Code: packing.ProofParts, OK: true, What: "Every part is a valid bag within the size limit", Figure: phrase.Plural(len(rep.Parts), "part")})
	}
	return lines
}

// spared tells what was not copied, because it was there or the receiver has it.
func spared(rep *seal.Report) string {
	switch {
	case rep.Since != "":
		return fmt.Sprintf("%s, %s, are in “%s” and only listed", phrase.Plural(rep.Fetched.Files, "file"), phrase.Size(rep.Fetched.Bytes), filepath.Base(rep.Since))
	case rep.Stood.Files > 0:
		return fmt.Sprintf("%s, %s, stood there already; %s copied", phrase.Plural(rep.Stood.Files, "file"), phrase.Size(rep.Stood.Bytes), phrase.Plural(rep.Copied.Files, "file"))
	}
	return ""
}

func provedLine(rep *seal.Report) packing.ProofLine {
	l := packing.ProofLine{Code: packing.ProofTraced, OK: rep.Complete, What: "Every reference leads to its sealed file, with nothing else reachable", Figure: "complete"}
	l.Note = sheet.Verdict(rep)
	switch {
	case len(rep.Lacks) > 0:
		l.Figure = "not checked"
	case !rep.Complete:
		omitted := omitted(rep)
		l.Figure = phrase.Plural(len(words.SealProblems(rep))-rep.Harm()-omitted, "problem")
		if omitted > 0 {
			l.Figure += fmt.Sprintf(", %d left out", omitted)
		}
	}
	return l
}

// omitted counts the references whose files were left out on purpose.
func omitted(rep *seal.Report) (n int) {
	for _, o := range rep.Proof.Open {
		if o.Code == proof.LeftOut {
			n++
		}
	}
	return n
}
