package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/mention"
	"boundcrate/core/receive"
	"boundcrate/core/seal"
	"boundcrate/core/sift"
	"boundcrate/core/stow"
	"boundcrate/server/api"
	"boundcrate/store"
)

// limits are what carriers take: common practice, but for FAT32's 4 GiB − 1.
var limits = []api.Limit{
	{Name: "free transfer", Bytes: 2_000_000_000},
	{Name: "FAT32 file", Bytes: 1<<32 - 1, File: true},
	{Name: "DVD", Bytes: 4_700_000_000},
}

// planFor returns a project's plan.
func (a *App) planFor(c *echo.Context) (store.Project, *work, *stow.Plan, stow.Options, error) {
	p, w, _, err := a.traced(c)
	if err != nil {
		return p, nil, nil, stow.Options{}, err
	}
	o, err := a.store.StowOptions(p)
	if err != nil {
		return p, nil, nil, o, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.graph == nil {
		return p, nil, nil, o, say(http.StatusConflict, "Not traced", "The project has not been traced yet.")
	}
	return p, w, w.planned(o), o, nil
}

func (a *App) stow(c *echo.Context) (api.Stow, error) {
	p, w, plan, o, err := a.planFor(c)
	if err != nil {
		return api.Stow{}, err
	}
	s := api.Stow{
		Snapshot: w.snapshot, Options: api.StowOptions{Layout: o.Layout, Leave: o.Leave, AnyNames: o.AnyNames}, Clashes: plan.Clashes, Note: p.Note, Out: p.Out,
		Left: append([]stow.Left{}, plan.Left...), Problems: append([]mention.Problem{}, plan.Problems...), Weighed: sift.Weigh(plan.Graph), Limits: []api.Limit{},
	}
	s.Files, s.Bytes = plan.Totals()
	kinds, folders := map[string]*api.Count{}, map[string]*api.Count{}
	var largest int64
	for i := range plan.Berths {
		b := &plan.Berths[i]
		if b.Absent {
			s.Absent++
			continue
		}
		if b.Renamed != "" {
			s.Renamed++
		}
		if b.Kind != facts.Sequence {
			largest = max(largest, b.Size)
		}
		for key, m := range map[string]map[string]*api.Count{kindWords[b.Kind]: kinds, b.Folder: folders} {
			if m[key] == nil {
				m[key] = &api.Count{Key: key}
			}
			m[key].Files += b.Files()
			m[key].Bytes += b.Size
		}
	}
	s.Kinds = counts(kinds)
	s.Folders = counts(folders)
	sort.Slice(s.Folders, func(i, j int) bool { return s.Folders[i].Key < s.Folders[j].Key })
	for _, l := range limits {
		l.Fits = s.Bytes <= l.Bytes
		if l.File {
			l.Fits = largest <= l.Bytes
		}
		s.Limits = append(s.Limits, l)
	}
	return s, nil
}

func (a *App) setStow(c *echo.Context, in api.StowOptions) (api.Stow, error) {
	p, w, err := a.open(c)
	if err != nil {
		return api.Stow{}, err
	}
	if in.Layout != stow.ByKind && in.Layout != stow.AsStands {
		return api.Stow{}, say(http.StatusBadRequest, "No such layout", "There is no layout called “"+string(in.Layout)+"”.")
	}
	b, err := json.Marshal(stow.Options{Layout: in.Layout, Leave: in.Leave, AnyNames: in.AnyNames})
	if err != nil {
		return api.Stow{}, err
	}
	p.Options = string(b)
	if err := a.store.SaveProject(p); err != nil {
		return api.Stow{}, err
	}
	a.replan(p.ID, w)
	return a.stow(c)
}

func (a *App) replan(id int64, w *work) {
	w.mu.Lock()
	w.plan = nil
	w.mu.Unlock()
	a.hub.send(api.Event{Type: api.EventProject, Project: id})
}

func (a *App) berths(c *echo.Context) (api.Berths, error) {
	_, w, plan, o, err := a.planFor(c)
	if err != nil {
		return api.Berths{}, err
	}
	words := strings.Fields(strings.ToLower(c.QueryParam("filter")))
	only := c.QueryParam("only")
	var list []*stow.Berth
next:
	for i := range plan.Berths {
		b := &plan.Berths[i]
		if only == "clash" && !b.Clashed || only == "renamed" && b.Renamed == "" || only == "absent" && !b.Absent || only == "travels" && b.Absent {
			continue
		}
		hay := strings.ToLower(strings.Join([]string{b.Was, b.Name, b.Folder, kindWords[b.Kind]}, " "))
		for _, word := range words {
			if !strings.Contains(hay, word) {
				continue next
			}
		}
		list = append(list, b)
	}
	sort.SliceStable(list, func(i, j int) bool {
		x, y := list[i], list[j]
		if x.Folder != y.Folder {
			return x.Folder < y.Folder
		}
		return strings.ToLower(x.Name) < strings.ToLower(y.Name)
	})
	from, to := window(c, len(list))
	out := api.Berths{Snapshot: w.snapshot, Total: len(list), Offset: from, Berths: []api.Berth{}}
	for _, b := range list[from:to] {
		_, wished := o.Overrides[b.Key]
		out.Berths = append(out.Berths, api.Berth{
			Key: b.Key, From: drive.Label(w.drives, b.From), Was: b.Was, Folder: b.Folder, Name: b.Name, Kind: kindWords[b.Kind], Use: b.Use.String(),
			Size: b.Size, Files: b.Files(), Uses: b.Uses, Absent: b.Absent, Why: b.Why, Renamed: b.Renamed, Clashed: b.Clashed, Wished: wished, Sequence: b.Kind == facts.Sequence,
		})
	}
	return out, nil
}

func (a *App) wish(c *echo.Context, in api.Wish) (nothing, error) {
	p, w, plan, _, err := a.planFor(c)
	if err != nil {
		return nothing{}, err
	}
	known := false
	for i := range plan.Berths {
		known = known || plan.Berths[i].Key == in.Key
	}
	if !known {
		return nothing{}, store.ErrNotFound
	}
	if in.Reset {
		err = a.store.DropOverride(p.ID, in.Key)
	} else {
		err = a.store.PutOverride(p.ID, in.Key, in.Folder, in.Name)
	}
	if err == nil {
		a.replan(p.ID, w)
	}
	return nothing{}, err
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
		d, ok := drive.Find(reach.Drives, p)
		if !ok || d.Dir == p {
			return "", reach, &os.PathError{Op: "seal", Path: out, Err: drive.ErrOutside}
		}
		if !d.Connected() {
			return "", reach, &os.PathError{Op: "seal", Path: out, Err: drive.ErrUnplugged}
		}
	}
	return out, reach, nil
}

func (a *App) destination(c *echo.Context) (api.Destination, error) {
	_, _, plan, _, err := a.planFor(c)
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
	_, out.Needs = plan.Totals()
	if u, err := disk.Usage(driveDir(reach.Drives, at)); err == nil {
		out.Free = int64(u.Free)
	}
	if err := seal.Refuse(plan, at); err != nil {
		var r *seal.Refusal
		if out.Why = err.Error(); errors.As(err, &r) {
			out.Why = strings.ToUpper(r.Why[:1]) + r.Why[1:] + "."
		}
		return out, nil
	}
	if out.Free > 0 && out.Free < out.Needs {
		out.Why = "It needs " + sizeWords(out.Needs) + " and only " + sizeWords(out.Free) + " are free there."
		return out, nil
	}
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

func driveDir(drives []drive.Drive, p string) string {
	d, _ := drive.Find(drives, p)
	return d.Dir
}

// sealedRow is what the store keeps of a seal.
type sealedRow struct {
	Report *seal.Report
	Proof  []api.ProofLine
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
	p, _, err := a.open(c)
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
	s := api.Sealed{Report: row.Report, At: p.SealedAt, Proof: append([]api.ProofLine{}, row.Proof...), Note: p.Note}
	if row.Report != nil {
		s.Label = drive.Label(reach.Drives, row.Report.Crate)
		_, err := reach.Stat(row.Report.Crate)
		s.There = err == nil
	}
	return s, nil
}

func (a *App) seal(c *echo.Context, in api.SealRequest) (api.Started, error) {
	p, _, plan, _, err := a.planFor(c)
	if err != nil {
		return api.Started{}, err
	}
	out, reach, err := a.place(in.Out)
	if err != nil {
		return api.Started{}, err
	}
	if err := seal.Refuse(plan, out); err != nil {
		return api.Started{}, err
	}
	p.Note, p.Out = in.Note, out
	if err := a.store.SaveProject(p); err != nil {
		return api.Started{}, err
	}
	files, bytes := plan.Totals()
	j := a.jobs.start(api.JobSeal, p.ID, "Sealing "+filepath.Base(out), "bytes", false, func(ctx context.Context, j *job) (string, error) {
		began := time.Now()
		rep, err := seal.Run(ctx, seal.Options{
			Plan: plan, Out: out, Formats: a.formats(), Reach: reach, Note: in.Note, Now: began,
			Progress: func(g seal.Progress) { j.step(g.Step, g.Done, g.Total) },
		})
		if err != nil {
			return "", err
		}
		now := time.Now()
		proof := sealProof(rep, plan, files, bytes, now.Sub(began))
		b, err := json.Marshal(sealedRow{rep, proof})
		if err != nil {
			return "", err
		}
		fresh, err := a.store.Project(p.ID)
		if err != nil {
			return "", err
		}
		fresh.Sealed, fresh.SealedAt = string(b), &now
		if err := a.store.SaveProject(fresh); err != nil {
			return "", err
		}
		a.hub.send(api.Event{Type: api.EventProject, Project: p.ID})
		if err := a.store.Remember(ctx, plan.Graph, reach, rep.Sums, now, nil); err != nil {
			return "", err
		}
		if rep.Well() {
			return "Sealed and complete", nil
		}
		return "Sealed, not complete", nil
	})
	return j.view(), nil
}

// sealProof says each check of a seal as a line with its figure.
func sealProof(rep *seal.Report, plan *stow.Plan, files int, bytes int64, took time.Duration) []api.ProofLine {
	lines := []api.ProofLine{
		{OK: rep.Files == files, What: "Every file copied", Figure: fmt.Sprintf("%d of %d", rep.Files, files)},
		{OK: rep.ReadBack == rep.Bytes, What: "Every byte read back and compared", Figure: sizeWords(rep.ReadBack), Note: fmt.Sprintf("in %.1f s, %s a second", took.Seconds(), sizeWords(int64(float64(rep.Bytes)/max(took.Seconds(), 0.001))))},
		{OK: rep.Listed == rep.Files, What: "SHA-256 of every file in the manifest", Figure: plural(rep.Listed, "line")},
	}
	docs := 0
	for _, cp := range plan.Copies() {
		if cp.Doc >= 0 {
			docs++
		}
	}
	lines = append(lines, api.ProofLine{OK: len(plan.Problems) == 0, What: "Documents name their files relative to themselves", Figure: plural(docs, "document")})
	return append(lines, traced(rep))
}

func traced(rep *seal.Report) api.ProofLine {
	l := api.ProofLine{OK: rep.Complete, What: "Traced with nothing else reachable", Figure: "complete"}
	if !rep.Complete {
		l.Figure = fmt.Sprintf("%d open", len(rep.Problems)-rep.Harm)
		l.Note = "The crate is made and lacks what the list below names."
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
	title := "Checking " + filepath.Base(crate)
	if in.Into != "" {
		if _, _, err := a.place(filepath.Join(in.Into, "x")); err != nil {
			return api.Started{}, err
		}
		title = "Receiving " + filepath.Base(crate)
	}
	j := a.jobs.start(api.JobReceive, 0, title, "bytes", true, func(ctx context.Context, j *job) (string, error) {
		j.step("checking every byte", 0, 0)
		out := api.Received{Label: drive.Label(reach.Drives, crate)}
		if in.Into == "" {
			rep, err := seal.Check(ctx, crate, a.formats())
			if err != nil {
				return "", err
			}
			out.Report = *rep
		} else {
			rep, err := receive.Run(ctx, crate, in.Into, a.formats())
			if err != nil {
				return "", err
			}
			out.Report, out.Into = rep.Report, drive.Label(reach.Drives, rep.Into)
		}
		harm := out.Report.Harm
		out.Proof = []api.ProofLine{
			{OK: harm == 0, What: "Every byte is what was sealed", Figure: plural(out.Report.Files, "file") + ", " + sizeWords(out.Report.Bytes)},
			traced(&out.Report),
		}
		j.mu.Lock()
		j.result = out
		j.mu.Unlock()
		switch {
		case harm > 0:
			return "Damaged; nothing was unpacked", nil
		case in.Into != "":
			return "Unpacked", nil
		}
		return "Whole", nil
	})
	return j.view(), nil
}

func (a *App) received(c *echo.Context) (api.Received, error) {
	j, err := a.jobs.get(c.Param("job"))
	if err != nil {
		return api.Received{}, err
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	r, ok := j.result.(api.Received)
	if !ok {
		return r, store.ErrNotFound
	}
	return r, nil
}
