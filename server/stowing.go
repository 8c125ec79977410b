package server

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/carrier"
	"boundcrate/core/drive"
	"boundcrate/core/export"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/pcm"
	"boundcrate/core/receive"
	"boundcrate/core/recipe"
	"boundcrate/core/report"
	"boundcrate/core/seal"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
	"boundcrate/core/words"
	"boundcrate/server/api"
	"boundcrate/server/table"
	"boundcrate/store"
)

func nowFunc() time.Time { return time.Now() }

// chosen are a project's choices as they are kept.
func chosen(p store.Project) (api.StowOptions, error) {
	o := api.StowOptions{Layout: string(stow.ByKind)}
	if p.Options == "" {
		return o, nil
	}
	err := json.Unmarshal([]byte(p.Options), &o)
	return o, err
}

// recipeOf are choices as a recipe.
func recipeOf(o api.StowOptions) recipe.Recipe {
	return recipe.Recipe{Also: o.Also, SHA512: o.SHA512, Parts: o.Parts, For: o.For, From: o.From, Stow: stow.Options{Layout: stow.Layout(o.Layout), Leave: o.Leave, AnyNames: o.AnyNames, Prefix: o.Prefix, Suffix: o.Suffix, Sound: o.Sound, Trim: o.Trim, Interchange: o.Interchange}}
}

// optionsOf are a recipe's choices.
func optionsOf(name string, r recipe.Recipe) api.StowOptions {
	o := r.Stow
	return api.StowOptions{Layout: string(o.Layout), Leave: o.Leave, AnyNames: o.AnyNames, Prefix: o.Prefix, Suffix: o.Suffix, Also: append([]string{}, r.Also...), Sound: o.Sound, Trim: o.Trim, Interchange: append([]export.Form{}, o.Interchange...), SHA512: r.SHA512, Parts: r.Parts, For: r.For, From: r.From, Recipe: name}
}

// berthRow is one line of the stow table.
type berthRow struct {
	berth int32
	plan  *planned
}

func (r *berthRow) b() *stow.Berth { return &r.plan.plan.Berths[r.berth] }

func berthRows(pl *planned) []berthRow {
	rows := make([]berthRow, len(pl.plan.Berths))
	for i := range rows {
		rows[i] = berthRow{int32(i), pl}
	}
	slices.SortStableFunc(rows, func(x, y berthRow) int {
		return cmp.Or(strings.Compare(x.b().Folder, y.b().Folder), strings.Compare(strings.ToLower(x.b().Name), strings.ToLower(y.b().Name)))
	})
	return rows
}

func berthSpec(s *snapshot) table.Spec[berthRow] {
	spec := table.Spec[berthRow]{
		Name: "berths", Key: func(r *berthRow) string { return r.b().Key },
		Sum: func(r *berthRow) table.Sum {
			if r.b().Absent {
				return table.Sum{Uses: r.b().Uses}
			}
			return table.Sum{Files: r.b().Files(), Uses: r.b().Uses, Bytes: r.b().Size}
		},
		Columns: []table.Column[berthRow]{
			{ID: "was", Title: "present name", Text: func(r *berthRow) string { return r.b().Was }},
			{ID: "from", Title: "present folder", Text: func(r *berthRow) string { return drive.Label(s.drives, r.b().From) }},
			{ID: "folder", Title: "new folder", Text: func(r *berthRow) string { return r.b().Folder }},
			{ID: "name", Title: "new name", Text: func(r *berthRow) string { return r.b().Name }},
			{ID: "kind", Title: "kind", Text: func(r *berthRow) string { return words.Kind(r.b().Kind) }},
			{ID: "use", Title: "use", Text: func(r *berthRow) string { return r.b().Use.String() }},
			{ID: "size", Title: "bytes", Number: func(r *berthRow) int64 { return r.b().Size }},
			{ID: "uses", Title: "used by", Number: func(r *berthRow) int64 { return int64(r.b().Uses) }},
			{ID: "remark", Title: "remark", Text: func(r *berthRow) string {
				if r.b().Absent {
					return words.Absence(r.b().Why, "")
				}
				return words.Renaming(r.b().Renamed)
			}},
		},
		Groups: []table.Group[berthRow]{
			{ID: "folder", Key: func(r *berthRow) string { return r.b().Folder }, Title: func(k string) string { return "data/" + k }},
			{ID: "from", Key: func(r *berthRow) string { return drive.Label(s.drives, r.b().From) }, Title: orNowhere},
			{ID: "why", Key: func(r *berthRow) string {
				if !r.b().Absent {
					return ""
				}
				return words.Absence(r.b().Why, "")
			}, Title: func(k string) string {
				if k == "" {
					return "Travels"
				}
				return capital(k)
			}},
			{ID: "kind", Key: func(r *berthRow) string { return string(r.b().Kind) }, Title: func(k string) string { return capital(words.Kind(facts.Kind(k))) }},
			siftGroup(s, "use", func(id graph.FileID) string { return s.graph.Files[id].Use.String() }, capital),
			siftGroup(s, "class", func(id graph.FileID) string { return string(s.judged.File(s.graph, id).Class) }, capital),
			siftGroup(s, "whose", func(id graph.FileID) string { return string(s.judged.File(s.graph, id).Origin) }, func(k string) string { return capital(words.Whose(graph.Origin(k))) }),
			siftGroup(s, "document", func(id graph.FileID) string {
				f := &s.graph.Files[id]
				if len(f.Refs) == 0 {
					return f.Path
				}
				return s.graph.Documents[s.graph.References[f.Refs[0]].Doc].Path
			}, func(k string) string { return drive.Label(s.drives, k) }),
		},
		Facets: map[string]func(*berthRow, string) bool{
			"only": func(r *berthRow, v string) bool {
				b := r.b()
				switch v {
				case "clash":
					return b.Clashed
				case "renamed":
					return b.Renamed != stow.AsItWas
				case "absent":
					return b.Absent
				case "travels":
					return !b.Absent
				case "stays":
					return r.stays()
				}
				return true
			},
			"kind": func(r *berthRow, v string) bool { return string(r.b().Kind) == v },
		},
	}
	for i := range spec.Groups {
		spec.Groups[i].Note = weighed
	}
	maps.Copy(spec.Facets, siftFacets(s.graph, s.judged))
	return spec
}

func (r *berthRow) view(drives []drive.Drive) api.Berth {
	b := r.b()
	return api.Berth{
		Key: b.Key, From: drive.Label(drives, b.From), Was: b.Was, Folder: b.Folder, Name: b.Name, Kind: b.Kind, Word: words.Kind(b.Kind), Use: b.Use, Size: b.Size, Files: b.Files(), Uses: b.Uses,
		Absent: b.Absent, Why: b.Why, WhyWord: words.Absence(b.Why, ""), Renamed: b.Renamed, Clashed: b.Clashed, Wished: b.Wished, Stays: r.stays(), Sequence: b.IsSequence(), Along: b.Along, Sound: words.Becomes(b),
	}
}

func berthsLedger(pl *planned) ledger {
	return listed[berthRow, api.BerthLine]{
		pl.berths, func(h api.Heading) api.BerthLine { return api.BerthLine{Heading: &h} },
		func(r *berthRow) api.BerthLine { v := r.view(pl.options.Drives); return api.BerthLine{Row: &v} },
		func(w api.Window, lines []api.BerthLine) any { return api.Berths{Window: w, Lines: lines} },
	}
}

func (a *App) stow(c *echo.Context) (api.Stow, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Stow{}, err
	}
	pl, err := a.said(c.Request().Context(), p, w, s)
	if err != nil {
		return api.Stow{}, err
	}
	plan := pl.texts()
	if p, err = a.store.Project(p.ID); err != nil {
		return api.Stow{}, err
	}
	out := api.Stow{
		Snapshot: s.number, Options: optionsOf(pl.name, pl.recipe), Clashes: plan.Clashes, Note: p.Note, Out: p.Out,
		Left: report.OfLeft(plan.LeftOut()), Problems: words.Problems(plan.Problems()), Weighed: []api.Weighed{}, Limits: []api.Limit{},
		GivesUp: []api.GivenUp{}, Losses: []api.Losses{}, Repoint: []report.Repoint{}, Kept: []string{}, Along: []api.AlongSum{}, Passes: plan.Selection.Passes, Kinds: []api.KindCount{}, Folders: []api.FolderCount{},
	}
	out.Files, out.Bytes = plan.Totals()
	out.About = plan.Margin() > 0
	for _, l := range sift.Weigh(plan.Graph, plan.Judged, plan.Selection) {
		out.Weighed = append(out.Weighed, api.Weighed{Line: l, Word: words.Kind(l.Kind), From: words.Whose(l.Origin)})
	}
	kinds, folders := map[facts.Kind]*api.KindCount{}, map[string]*api.FolderCount{}
	for i := range plan.Berths {
		b := &plan.Berths[i]
		if b.Absent {
			out.Absent++
			continue
		}
		if b.Renamed != stow.AsItWas {
			out.Renamed++
		}
		k, f := kinds[b.Kind], folders[b.Folder]
		if k == nil {
			k = &api.KindCount{Kind: b.Kind}
			kinds[b.Kind] = k
		}
		if f == nil {
			f = &api.FolderCount{Folder: b.Folder}
			folders[b.Folder] = f
		}
		k.Files, k.Bytes = k.Files+b.Files(), k.Bytes+plan.Size(i)
		f.Files, f.Bytes = f.Files+b.Files(), f.Bytes+plan.Size(i)
	}
	for _, k := range kinds {
		k.Word = words.Kind(k.Kind)
		out.Kinds = append(out.Kinds, *k)
	}
	for _, f := range folders {
		out.Folders = append(out.Folders, *f)
	}
	slices.SortFunc(out.Kinds, func(a, b api.KindCount) int { return cmp.Or(b.Files-a.Files, cmp.Compare(a.Kind, b.Kind)) })
	slices.SortFunc(out.Folders, func(a, b api.FolderCount) int { return strings.Compare(a.Folder, b.Folder) })
	sizes := plan.Sizes()
	for _, l := range carrier.Limits {
		fits, parts := l.Fits(sizes)
		out.Limits = append(out.Limits, api.Limit{Name: l.Name, Bytes: l.Bytes, File: l.Each, Fits: fits, Parts: parts})
	}
	for _, r := range plan.Repoints() {
		out.Repoint = append(out.Repoint, report.Repoint(r))
	}
	for _, m := range plan.Made() {
		if m.Form == "" {
			continue
		}
		l := api.Losses{Form: m.Form, Word: words.Form(m.Form), To: m.To, Losses: []string{}}
		for _, x := range m.Losses {
			l.Losses = append(l.Losses, words.Loss(x))
		}
		out.Losses = append(out.Losses, l)
	}
	a.weigh(p, w, s)
	a.sifted(&out, pl, w, s)
	return out, nil
}

func (a *App) setStow(c *echo.Context, in api.StowOptions) (api.Stow, error) {
	p, _, err := a.open(c)
	if err != nil {
		return api.Stow{}, err
	}
	var bad *stow.PatternError
	layout := stow.Layout(in.Layout)
	switch err := stow.CheckLayout(layout); {
	case layout.IsPattern() && !strings.Contains(in.Layout, "{"):
		return api.Stow{}, say(http.StatusBadRequest, "No such layout", "There is no layout called “"+in.Layout+"”.")
	case errors.As(err, &bad):
		return api.Stow{}, say(http.StatusUnprocessableEntity, "No such layout", words.Sentence(words.BadPattern(bad)))
	}
	if !soundFits(in.Sound) {
		return api.Stow{}, say(http.StatusUnprocessableEntity, "No such sound", "A sound is WAV, AIFF or FLAC, of 16, 24 or 32 bits, at a rate of the trade.")
	}
	if in.Parts != 0 && in.Parts < recipe.LeastPart {
		return api.Stow{}, say(http.StatusUnprocessableEntity, "Too small", "A part has at least 1 MB.")
	}
	if in.Trim != nil && sift.Keeps(in.Also) {
		return api.Stow{}, say(http.StatusUnprocessableEntity, "Not for an archive", "A crate that keeps everything keeps its sounds whole. Let something else stay first, or do not cut sounds.")
	}
	for _, f := range in.Interchange {
		if !slices.Contains(export.Forms, f) {
			return api.Stow{}, say(http.StatusUnprocessableEntity, "No such form", "There is no form called “"+string(f)+"”.")
		}
	}
	for _, glob := range slices.Concat(in.Also, in.Leave.Drop, in.Leave.Keep) {
		if !sift.Readable(glob) {
			return api.Stow{}, say(http.StatusUnprocessableEntity, "Not readable", "“"+glob+"” is no pattern that can be read.")
		}
	}
	if err := a.keepOptions(p.ID, in); err != nil {
		return api.Stow{}, err
	}
	return a.stow(c)
}

// keepOptions keeps a project's choices, and what leans on them is planned anew.
func (a *App) keepOptions(project int64, o api.StowOptions) error {
	b, err := json.Marshal(o)
	if err != nil {
		return err
	}
	if err := a.store.SetOptions(project, string(b)); err != nil {
		return err
	}
	a.replan(project, a.work(project))
	return nil
}

func (a *App) replan(id int64, w *work) {
	w.choices.Add(1)
	a.hub.send(api.Event{Type: api.EventProject, Project: id})
}

// place makes sure that a crate is written within the drives, also when links
// are followed.
func (a *App) place(out string) (string, drive.Set, error) {
	reach, err := a.reach()
	if err != nil {
		return "", reach, err
	}
	out = filepath.Clean(out)
	if !filepath.IsAbs(out) {
		return "", reach, say(http.StatusBadRequest, "No place", "Choose a folder on one of your drives and a name for the crate.")
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

func (a *App) destination(c *echo.Context) (api.Destination, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Destination{}, err
	}
	pl, err := a.planned(c.Request().Context(), p, w, s)
	if err != nil {
		return api.Destination{}, err
	}
	out := api.Destination{Out: c.QueryParam("out")}
	at, reach, err := a.place(out.Out)
	if err != nil {
		out.Why = explain(err).Detail
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
			out.Why = words.Sentence(words.Refusal(r))
		}
		return out, nil
	}
	if out.Free > 0 && out.Free < out.Needs {
		out.Why = "It needs " + words.Size(out.Needs) + " and only " + words.Size(out.Free) + " are free there."
		return out, nil
	}
	out.Same = sift.Keeps(pl.recipe.Also) && seal.SameDrive(reach, s.graph.Root, at)
	if es, err := reach.Stat(at); err == nil && (es.Mode.IsRegular() || !empty(at)) {
		out.Again = true
	}
	out.OK = true
	return out, nil
}

func empty(dir string) bool {
	es, err := os.ReadDir(dir)
	return err == nil && len(es) == 0
}

// sealedRow is what the store keeps of a seal.
type sealedRow struct {
	Report *report.Seal
	Proof  []api.ProofLine
	// Along are the files that travelled though no document that was asked for names
	// them, as they were: companions, strays, earlier documents.
	Along []travelled `json:",omitempty"`
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

func (a *App) sealed(c *echo.Context) (api.Sealed, error) {
	p, w, err := a.open(c)
	if err != nil {
		return api.Sealed{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Sealed{}, err
	}
	row, err := sealedReport(p)
	if err != nil {
		return api.Sealed{}, err
	}
	out := api.Sealed{Report: row.Report, Proof: append([]api.ProofLine{}, row.Proof...), Note: p.Note, Stale: []string{}}
	if row.Report == nil {
		return out, nil
	}
	when := p.LastSealed()
	out.At, out.Well = &when, row.Report.Complete && len(row.Report.Problems) == 0
	out.Label = drive.Label(reach.Drives, row.Report.Crate)
	_, err = reach.Stat(row.Report.Crate)
	out.There = err == nil
	if s := w.now.Load(); s != nil && s.graph != nil {
		out.Stale = s.changedSince(when, row.Along, reach)
	}
	return out, nil
}

// mostStale bounds how many changed sources of a seal are listed.
const mostStale = 20

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
		if err == nil && !info.ModTime.After(then) && info.Node.Changed <= then.UnixNano() {
			continue
		}
		if list = append(list, drive.Label(s.drives, p)); len(list) == mostStale {
			break
		}
	}
	for _, a := range along {
		p, ok := drive.Abs(reach.Drives, a.At)
		if len(list) == mostStale {
			break
		}
		if info, err := reach.Stat(p); !ok || err != nil || info.Stamp() != a.Is {
			list = append(list, drive.Label(s.drives, p))
		}
	}
	s.since.Store(&since{when, time.Now(), list})
	return list
}

func (a *App) seal(c *echo.Context, in api.SealRequest) (api.Started, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Started{}, err
	}
	pl, err := a.planned(c.Request().Context(), p, w, s)
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
		return api.Started{}, say(http.StatusConflict, "On the same drive", "An archive on the project's own drive goes when the drive goes. Choose another drive, or say that it shall lie there all the same.")
	}
	if err := a.store.SetOut(p.ID, out, in.Note); err != nil {
		return api.Started{}, err
	}
	j, err := run(a.jobs, job{Kind: api.JobSeal, Project: p.ID, Title: "Sealing " + filepath.Base(out), Unit: "bytes"}, func(ctx context.Context, j *task) (nothing, string, error) {
		message, err := a.carryOut(ctx, p, w, s, out, in.Note, j)
		return nothing{}, message, err
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.view(), nil
}

func (a *App) carryOut(ctx context.Context, p store.Project, w *work, s *snapshot, out, note string, j *task) (string, error) {
	if o, err := chosen(p); err == nil && o.Leave.Twice { // what is there twice is to be known
		if _, err := a.compare(ctx, w, s, j); err != nil {
			return "", err
		}
	}
	if _, err := a.looseWithin(ctx, time.Hour, p, w, s); err != nil { // what goes along is to be known
		return "", err
	}
	pl, err := a.said(ctx, p, w, s)
	if err != nil {
		return "", err
	}
	if pl.loose == unsought {
		return "", say(http.StatusConflict, "It changed meanwhile", "The project changed while what goes along was looked for. Nothing was sealed; seal it again.")
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
	began := time.Now()
	rep, err := seal.Run(ctx, seal.Options{
		Plan: pl.plan, Texts: pl.said.Load(), Out: out, Keeps: sift.Keeps(pl.recipe.Also), Beside: true, Trace: o, Note: note, For: pl.recipe.For, From: pl.recipe.From, SHA512: pl.recipe.SHA512, Parts: pl.recipe.PartsOf(out), Now: began, Readme: words.Readme, PartNote: words.PartNote,
		Progress: func(g seal.Progress) { j.step(string(g.Step), g.Done, g.Total) },
	})
	if err != nil {
		return "", err
	}
	now := time.Now()
	said := report.OfSeal(rep)
	b, err := json.Marshal(sealedRow{&said, sealProof(rep, pl.texts(), files, bytes, pl.recipe.SHA512, now.Sub(began)), went})
	if err != nil {
		return "", err
	}
	if err := a.store.SetSealed(p.ID, string(b), now); err != nil {
		return "", err
	}
	a.hub.send(api.Event{Type: api.EventProject, Project: p.ID})
	if err := memory.Remember(ctx, s.graph, reach, rep.Sums, now, nil); err != nil {
		return "", err
	}
	if rep.Well() {
		return "Sealed and complete", nil
	}
	return "Sealed, not complete", nil
}

// sealProof says each check of a seal as a line with its figure.
func sealProof(rep *seal.Report, plan *stow.Texts, files int, bytes int64, sha512 bool, took time.Duration) []api.ProofLine {
	docs := 0
	for _, cp := range plan.Copies() {
		if cp.Doc != graph.None {
			docs++
		}
	}
	pace := words.Size(int64(float64(rep.Bytes) / max(took.Seconds(), 0.001)))
	manifests := "SHA-256 of every file in the manifest"
	if sha512 {
		manifests = "SHA-256 and SHA-512 of every file in the manifests"
	}
	lines := []api.ProofLine{
		{Code: api.ProofCopied, OK: rep.Files == files, What: "Every file copied", Figure: fmt.Sprintf("%d of %d", rep.Files, files)},
		{Code: api.ProofReadBack, OK: rep.ReadBack == rep.Bytes, What: "Every byte read back and compared", Figure: words.Size(rep.ReadBack), Note: fmt.Sprintf("in %.1f s, %s a second", took.Seconds(), pace)},
		{Code: api.ProofManifest, OK: rep.Listed == rep.Files, What: manifests, Figure: words.Plural(rep.Listed, "line")},
		{Code: api.ProofRelative, OK: len(plan.Problems()) == 0, What: "Documents name their files relative to themselves", Figure: words.Plural(docs, "document")},
		provedLine(rep),
	}
	if len(rep.Parts) > 0 {
		lines = append(lines, api.ProofLine{Code: api.ProofParts, OK: true, What: "Every part is a bag of its own, none larger than it may be", Figure: words.Plural(len(rep.Parts), "part")})
	}
	return lines
}

func provedLine(rep *seal.Report) api.ProofLine {
	l := api.ProofLine{Code: api.ProofTraced, OK: rep.Complete, What: "Every reference leads to its sealed file, with nothing else reachable", Figure: "complete"}
	l.Note = words.Verdict(rep)
	switch {
	case len(rep.Lacks) > 0:
		l.Figure = "not asked"
	case !rep.Complete:
		l.Figure = fmt.Sprintf("%d open", len(words.SealProblems(rep))-rep.Harm())
	}
	return l
}

// receive checks a crate and, when told where, unpacks it.
func (a *App) receive(_ *echo.Context, in api.Receive) (api.Started, error) {
	reach, err := a.reach()
	if err != nil {
		return api.Started{}, err
	}
	crate := filepath.Clean(in.Crate)
	if _, err := reach.Stat(crate); err != nil {
		return api.Started{}, err
	}
	spec := job{Kind: api.JobCheck, Slot: crate, Title: "Checking " + filepath.Base(crate), Unit: "bytes"}
	if in.Into != "" {
		if _, _, err := a.place(filepath.Join(in.Into, "x")); err != nil {
			return api.Started{}, err
		}
		spec.Kind, spec.Title = api.JobReceive, "Receiving "+filepath.Base(crate)
	}
	j, err := run(a.jobs, spec, func(ctx context.Context, j *task) (api.Received, string, error) {
		j.step("checking every byte", 0, 0)
		out := api.Received{Label: drive.Label(reach.Drives, crate)}
		var rep *seal.Report
		if in.Into == "" {
			if rep, err = seal.Check(ctx, crate, a.formats()); err != nil {
				return out, "", err
			}
		} else {
			got, err := receive.Run(ctx, crate, in.Into, a.formats())
			if err != nil {
				return out, "", err
			}
			rep = &got.Report
			if got.Into != "" {
				out.Into = drive.Label(reach.Drives, got.Into)
			}
		}
		out.Report, out.Harm, out.Well = report.OfSeal(rep), rep.Harm(), rep.Well()
		out.Proof = []api.ProofLine{{Code: api.ProofBytes, OK: out.Harm == 0, What: "Every byte is what was sealed", Figure: words.Plural(rep.Files, "file") + ", " + words.Size(rep.Bytes)}}
		if n := len(rep.Parts) + len(rep.Lacks); n > 0 {
			out.Proof = append(out.Proof, api.ProofLine{Code: api.ProofParts, OK: len(rep.Lacks) == 0, What: "All parts lie beside each other", Figure: fmt.Sprintf("%d of %d", len(rep.Parts), n)})
		}
		out.Proof = append(out.Proof, provedLine(rep))
		switch {
		case out.Harm > 0:
			return out, "Damaged; nothing was unpacked", nil
		case in.Into != "":
			return out, "Unpacked", nil
		}
		return out, "Whole", nil
	})
	if err != nil {
		return api.Started{}, err
	}
	return j.view(), nil
}

func (a *App) received(c *echo.Context) (api.Received, error) {
	return resultOf[api.Received](a.jobs, c.Param("job"))
}

func soundFits(s pcm.Spec) bool {
	return slices.Contains([]pcm.Type{"", pcm.WAV, pcm.AIFF, pcm.FLAC}, s.Type) && slices.Contains([]pcm.Channels{"", pcm.Interleaved, pcm.Split}, s.Channels) && (s.Rate == 0 || slices.Contains(pcm.Rates, s.Rate)) && slices.Contains([]int{0, 16, 24, 32}, s.Depth) && (!s.Float || s.Depth == 32)
}

// sounds keeps what becomes of sounds, until their files change.
type sounds struct{ m sync.Map }

type soundKey struct {
	paths string
	to    pcm.Spec
	cut   pcm.Cut
}

type soundPlan struct {
	stamps []drive.Stamp
	plan   stow.SoundPlan
	err    error
}

func (h *sounds) plan(reach drive.Reach) stow.Sounds {
	return func(paths []string, to pcm.Spec, cut pcm.Cut) (stow.SoundPlan, error) {
		stamps := make([]drive.Stamp, len(paths))
		for i, p := range paths {
			info, err := reach.Stat(p)
			if err != nil {
				return stow.SoundPlan{}, err
			}
			stamps[i] = info.Stamp()
		}
		key := soundKey{strings.Join(paths, "\x00"), to, cut}
		if have, ok := h.m.Load(key); ok && slices.Equal(have.(soundPlan).stamps, stamps) {
			return have.(soundPlan).plan, have.(soundPlan).err
		}
		s, err := stow.PlanSound(reach, paths, to, cut)
		h.m.Store(key, soundPlan{stamps, s, err})
		return s, err
	}
}

// sampled is how a plan's files pack.
type sampled struct {
	plan   *stow.Plan
	ratios stow.Ratios
}

// estimates tell how large archives would be and how long sealing takes, which reads
// samples of the files.
func (a *App) estimates(c *echo.Context) (api.Estimates, error) {
	p, w, s, err := a.traced(c)
	if err != nil {
		return api.Estimates{}, err
	}
	pl, err := a.said(c.Request().Context(), p, w, s)
	if err != nil {
		return api.Estimates{}, err
	}
	reach, err := a.reach()
	if err != nil {
		return api.Estimates{}, err
	}
	have := w.sampled.Load()
	if have == nil || have.plan != pl.plan {
		ratios, err := pl.plan.Sample(c.Request().Context(), reach)
		if err != nil {
			return api.Estimates{}, err
		}
		have = &sampled{pl.plan, ratios}
		w.sampled.Store(have)
	}
	out := api.Estimates{Archives: []api.ArchiveSize{}}
	sizes := pl.texts().Estimates(have.ratios)
	for _, k := range []carrier.Kind{carrier.Zip, carrier.Tar, carrier.TarGzip, carrier.TarZstd} {
		out.Archives = append(out.Archives, api.ArchiveSize{Kind: k, Bytes: sizes[k]})
	}
	// Every byte is read where it is, and written and read back where it goes.
	reads := map[string]float64{}
	_, bytes := pl.texts().Totals()
	for _, cp := range pl.texts().Copies() {
		if d, ok := drive.Find(reach.Drives, cp.Source); ok {
			reads[d.ID] += float64(cp.Size)
		}
	}
	if d, ok := drive.Find(reach.Drives, p.Out); ok {
		reads[d.ID] += 2 * float64(bytes)
		out.To = d.Name
	}
	for _, d := range reach.Drives {
		if reads[d.ID] == 0 {
			continue
		}
		gives, measured := d.Rate()
		if gives <= 0 {
			continue
		}
		out.Seconds = max(out.Seconds, reads[d.ID]/float64(gives)) // drives work side by side
		out.Measured = out.Measured || measured
	}
	return out, nil
}
