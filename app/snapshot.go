package app

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"sync"
	"sync/atomic"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/places"
	"boundcrate/app/desk"
	"boundcrate/app/fault"
	"boundcrate/app/jobs"
	"boundcrate/app/live"
	"boundcrate/app/table"
	"boundcrate/core/disk/drive"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/survey/survey"
	"boundcrate/store"
)

// openProject is what is held in memory of one project. Everything a person decided is
// in the store; it can be made anew at any time by tracing again.
type openProject struct {
	now        atomic.Pointer[snapshot]
	found      atomic.Pointer[finds]
	plan       atomic.Pointer[planned]
	unplanned  atomic.Pointer[unplanned]
	came       atomic.Pointer[[]string] // outside files that came since somebody was asked
	elsewhere  atomic.Pointer[elsewhere]
	readings   trace.Readings
	asked      atomic.Int64 // rises with everything that was asked for, so that what is older is known
	choices    atomic.Int64 // rises with every choice that shapes the plan
	planning   sync.Mutex
	repairing  sync.Mutex
	loose      atomic.Pointer[looseFiles]
	twins      atomic.Pointer[twins]
	ears       stow.Ears
	sampled    atomic.Pointer[sampled]
	used       atomic.Int64           // when it was last asked for
	followed   atomic.Bool            // somebody waits for the end of the reading of contents
	unread     atomic.Bool            // there may be contents that are not remembered yet
	fresh      atomic.Bool            // some file was being written when it was last looked at
	waits      atomic.Pointer[string] // why no edition was kept by itself
	keeping    sync.Mutex             // of what follows
	keptAt     time.Time
	keptStands map[string]drive.Stamp // the documents as they were kept last
	keepSoon   *time.Timer
	looked     atomic.Int64 // when the disk was last asked, in nanoseconds since 1970
}

// snapshot is one trace and what was made of it. It never changes: a handler
// takes it once, and holds no lock while it asks a disk or the network.
type snapshot struct {
	id       api.Snapshot // what others call it
	number   int
	inputs   int64 // which asking it answers
	graph    *graph.Graph
	digest   uint64 // of the graph
	judged   *origin.Judged
	log      decide.Log
	drives   []drive.Drive
	traced   time.Time
	err      string // why there is no graph
	files    *table.Table[fileRow]
	docs     *table.Table[docRow]
	problems *table.Table[problemRow]
	revised  map[string]origin.Revision // files of managed stores, by path
	lastOf   map[graph.FileID]int64     // bytes that files which are not there had when last seen
	aside    map[string]decide.SetAside // by where the file is expected
	tally    tally.Tally

	wanted atomic.Pointer[wantedTable]   // made when it is first asked for
	since  atomic.Pointer[since]         // the same
	spread atomic.Pointer[places.Spread] // the same
}

// finds is what the last search found for a project.
type finds struct {
	folders  []string
	searched int
	looked   int
	applied  int
	offered  map[string][]mend.Candidate // by where the file is expected
	groups   []mend.Group
}

// maxOpen is how many projects are held in memory at once; those that were
// asked for least lately are let go.
const maxOpen = 8

func (a *App) openProject(id int64) *openProject {
	a.mu.Lock()
	defer a.mu.Unlock()
	w := a.openProjects[id]
	if w == nil {
		w = &openProject{}
		a.openProjects[id] = w
		for len(a.openProjects) > maxOpen {
			oldest := id
			for k, o := range a.openProjects {
				if k != id && (oldest == id || o.used.Load() < a.openProjects[oldest].used.Load()) {
					oldest = k
				}
			}
			if oldest == id || a.jobs.Busy(oldest) {
				break
			}
			delete(a.openProjects, oldest)
			a.live.Follow(oldest, nil, nil)
		}
	}
	w.used.Store(time.Now().UnixNano())
	return w
}

// open returns a project with its work.
func (a *App) open(id int64) (store.Project, *openProject, error) {
	p, err := a.store.Project(id)
	if err != nil {
		return p, nil, err
	}
	return p, a.openProject(id), nil
}

// traced is open for acts that need a trace. A project that was let go, or never opened, is traced
// first; who asks waits no longer than people do.
func (a *App) traced(project int64) (store.Project, *openProject, *snapshot, error) {
	p, w, err := a.open(project)
	if err != nil {
		return p, nil, nil, err
	}
	if w.now.Load() == nil {
		j, err := a.traceTask(project, jobs.Join, false)
		if err != nil {
			return p, nil, nil, err
		}
		late := time.NewTimer(a.jobs.Patience())
		defer late.Stop()
		select {
		case <-j.Done():
		case <-late.C:
		}
	}
	s := w.now.Load()
	if s == nil || s.graph == nil {
		detail := "The documents are being traced. Try again when that has finished."
		if s != nil && s.err != "" {
			detail = s.err
		}
		return p, nil, nil, fault.Say(fault.Conflict, "Not traced", detail)
	}
	return p, w, s, nil
}

// older refuses what was decided on another snapshot than the present one.
var older = fault.Say(fault.Conflict, "Changed in the meantime", "The documents were traced again since this page was shown. Nothing was done. Check the page and try again.")

// on is traced for what was decided on a snapshot: where another holds by now, nothing is done.
func (a *App) on(project int64, decided api.Snapshot) (store.Project, *openProject, *snapshot, error) {
	p, w, s, err := a.traced(project)
	if err == nil && s.id != decided {
		err = older
	}
	return p, w, s, err
}

// Retrace looks at everything once more.
func (a *App) Retrace(_ context.Context, project int64) (api.Started, error) {
	return a.startTrace(project)
}

// lookAgain is how old the last look may be before opening a page asks the disk.
const lookAgain = time.Second

// recent tells whether something was less than some time ago. What a clock that went back puts
// into the future was not.
func recent(at time.Time, within time.Duration) bool {
	ago := time.Since(at)
	return ago >= 0 && ago < within
}

// Refresh asks the disk again whether everything is as the pages show it. Nobody
// hears of it unless it takes long or something changed.
func (a *App) Refresh(ctx context.Context, project int64) error {
	p, w, err := a.open(project)
	if err != nil {
		return err
	}
	if w.now.Load() == nil || recent(time.Unix(0, w.looked.Load()), lookAgain) {
		return nil // the page's other questions trace it, or it is fresh
	}
	_, err = a.traceJob(p.ID, jobs.Join, true)
	return err
}

// stillWriting is how long after its last change a file may be under way.
const stillWriting = 3 * time.Second

// lookSoon is a look that nobody asked for: something on the disk moved.
func (a *App) lookSoon(id int64) {
	a.mu.Lock()
	w := a.openProjects[id]
	a.mu.Unlock()
	if w == nil || w.now.Load() == nil {
		return
	}
	if _, err := a.traceJob(id, jobs.Join, true); err != nil && !errors.Is(err, store.ErrNotFound) {
		a.log.Error("a project could not be looked at", "project", id, "error", err)
	}
}

// startTrace traces a project anew as a job: what was found is not sure any more.
func (a *App) startTrace(id int64) (api.Started, error) { return a.traceJob(id, jobs.Again, false) }

// traceJob traces a project as a job; what is new is remembered by another, so that a look is
// never longer than the disk takes to answer. second is what becomes of a trace under way. A quiet
// one that finds everything as it was changes nothing.
func (a *App) traceJob(id int64, second jobs.Second, quiet bool) (api.Started, error) {
	j, err := a.traceTask(id, second, quiet)
	if err != nil {
		return api.Started{}, err
	}
	return j.View(), nil
}

func (a *App) traceTask(id int64, second jobs.Second, quiet bool) (*jobs.Task, error) {
	p, err := a.store.Project(id)
	if err != nil {
		return nil, err
	}
	w := a.openProject(id)
	inputs := w.asked.Add(1)
	return jobs.Run(a.jobs, jobs.Spec{Kind: api.JobTrace, Project: id, Title: "Tracing " + p.Name, Unit: "references", Second: second, Quiet: quiet}, func(ctx context.Context, j *jobs.Task) (api.Nothing, string, error) {
		before := w.now.Load()
		s, reach, err := a.trace(ctx, p, w, inputs, j)
		if err != nil {
			return api.Nothing{}, "", err
		}
		if before != nil && before.graph != nil && s != before && s.graph != nil {
			w.outside(before, s)
		}
		if quiet && s == before && !w.fresh.Load() {
			return api.Nothing{}, "No changes", nil
		}
		now := time.Now()
		if err := a.keepUses(ctx, p, w, s, reach, now); err != nil {
			return api.Nothing{}, "", err
		}
		if err := a.store.KeepBeside(s.judged.Beside(), s.drives); err != nil {
			return api.Nothing{}, "", err
		}
		if err := a.store.KeepHealth(p.ID, drive.Path{}, survey.HealthOf(s.graph, s.judged), now); err != nil {
			return api.Nothing{}, "", err
		}
		a.remember(p, w, quiet)
		a.keepByItself(p, w, s)
		return api.Nothing{}, phrase.Plural(len(s.graph.References), "reference") + " in " + phrase.Plural(len(s.graph.Documents), "document"), nil
	})
}

// keepUses keeps what a project's documents use: as its repairs have it, and where there are
// repairs also as the documents say on disk. A program opens what stands there.
func (a *App) keepUses(ctx context.Context, p store.Project, w *openProject, s *snapshot, reach drive.Reach, now time.Time) error {
	graphs := []*graph.Graph{s.graph}
	if len(s.log.Repairs(s.drives)) > 0 {
		o, done, err := a.tracing(ctx, p, w, s)
		if err != nil {
			return err
		}
		defer done()
		plain, err := asOnDisk(ctx, o, p.Documents)
		if err != nil {
			return err
		}
		graphs = append(graphs, plain...)
	}
	return a.store.KeepUses(p.ID, reach, a.formats(), now, graphs...)
}

// asOnDisk is the trace of documents without repairs; none where they cannot be read.
func asOnDisk(ctx context.Context, o trace.Options, documents []string) ([]*graph.Graph, error) {
	o.Repairs, o.Readings = nil, nil
	g, err := trace.Run(ctx, o, documents...)
	var bad *trace.Error
	if errors.As(err, &bad) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return []*graph.Graph{g}, nil
}

// trace makes the project's next snapshot. One made of older inputs than the
// present one's is refused.
func (a *App) trace(ctx context.Context, p store.Project, w *openProject, inputs int64, j *jobs.Task) (*snapshot, drive.Reach, error) {
	log, err := a.store.Decisions(p.ID)
	if err != nil {
		return nil, nil, err
	}
	memory, err := a.store.Memory(nil)
	if err != nil {
		return nil, nil, err
	}
	defer memory.Close()
	a.freshFormats()
	o, reach, err := a.traceOptions(ctx, p, w, log, memory)
	if err != nil {
		return nil, nil, err
	}
	o.Progress = func(_, refs int) { j.Step("following references", int64(refs), 0) }
	g, err := trace.Run(ctx, o, p.Documents...)
	if err != nil && ctx.Err() != nil {
		return nil, nil, err
	}
	s := &snapshot{inputs: inputs, graph: g, log: log, drives: reach.Drives, traced: time.Now()}
	w.looked.Store(s.traced.UnixNano())
	if err != nil {
		s.err = words.Error(err)
	} else {
		s.digest = g.Digest()
		if now := w.now.Load(); j.Unseen() && now != nil && now.digest == s.digest && now.err == "" && reflect.DeepEqual(leading(now.log), leading(log)) && reflect.DeepEqual(now.drives, s.drives) {
			a.hub.Send(api.Event{Type: api.EventLooked, Project: p.ID, Looked: s.traced})
			return now, reach, nil
		}
		s.judge(a, p, reach, memory)
	}
	if err := a.publish(p.ID, w, s); err != nil {
		return nil, nil, err
	}
	return s, reach, err
}

// leading are the decisions that a trace and its judgement lean on; where files go in a crate is
// the plan's affair.
func leading(log decide.Log) (list decide.Log) {
	for _, d := range log {
		if d.Kind != decide.Wish && d.Kind != decide.Leave && d.Kind != decide.Carry {
			list = append(list, d)
		}
	}
	return list
}

// judge makes of a graph what pages ask for.
func (s *snapshot) judge(a *App, p store.Project, reach drive.Reach, memory *store.Memory) {
	g := s.graph
	s.lastOf = map[graph.FileID]int64{}
	for i := range g.Files {
		f := &g.Files[i]
		if len(f.Refs) == 0 || f.State != graph.Unplugged && f.State != graph.Missing {
			continue
		}
		if last, ok := memory.Last(g.References[f.Refs[0]].Expected); ok {
			s.lastOf[graph.FileID(i)] = last.Size
		}
	}
	s.judged = desk.Judge(context.Background(), g, a.surroundings(p, s.drives, reach), memory, s.log.Meant(g, s.drives))
	s.aside = s.log.Aside(s.drives)
	s.revised = map[string]origin.Revision{}
	for _, r := range s.judged.Revisions {
		s.revised[r.Path] = r
	}
	for i := range s.judged.Places {
		if pl := &s.judged.Places[i]; pl.Kind == origin.MissingPlace || pl.Kind == origin.UnpluggedPlace {
			pl.Bytes = 0
			for id, n := range s.lastOf {
				if f := &g.Files[id]; pl.Kind == origin.MissingPlace && f.State == graph.Missing || pl.Kind == origin.UnpluggedPlace && f.State == graph.Unplugged && drive.Within(pl.Path, f.Path) {
					pl.Bytes += n
				}
			}
		}
	}
	s.tally = tally.Of(g, s.judged, s.setAside)
	s.files = table.New(fileSpec(s), fileRows(s))
	s.docs, s.problems = table.New(docSpec(s), docRows(s)), table.New(problemSpec(), problemRows(s))
}

// setAside tells that a file is missing, lacks numbers, or is suspect, and does not count for now.
func (s *snapshot) setAside(id graph.FileID) bool {
	f := &s.graph.Files[id]
	_, ok := s.aside[s.graph.References[f.Refs[0]].Expected]
	gaps := f.State.Found() && f.Frames != nil && len(f.Frames.Gaps) > 0
	return ok && (f.State == graph.Missing || f.State == graph.Twins || gaps || len(s.judged.Suspicions(id)) > 0)
}

func (a *App) publish(id int64, w *openProject, s *snapshot) error {
	for {
		now := w.now.Load()
		s.number = 1
		if now != nil {
			if now.inputs > s.inputs {
				return jobs.ErrOlder
			}
			s.number = now.number + 1
		}
		s.id = api.Snapshot(fmt.Sprintf("%s.%d-%d", a.start, id, s.number)) // of this start, this project
		if w.now.CompareAndSwap(now, s) {
			a.live.Follow(id, s.folders(), s.drives)
			a.hub.Send(api.Event{Type: api.EventSnapshot, Project: id, Snapshot: s.id})
			return nil
		}
	}
}

// folders are those whose changes a snapshot may show: of every file, of every
// place where one is expected, and the project's own. Of a folder that is not
// there, the nearest that is.
func (s *snapshot) folders() map[string]bool {
	if s.graph == nil {
		return nil // it could not be read
	}
	dirs := map[string]bool{s.graph.Root: true}
	for i := range s.graph.Files {
		if len(dirs) > live.Most {
			break
		}
		if f := &s.graph.Files[i]; f.Frames != nil {
			dirs[f.Frames.Pattern.Dir] = true
		} else {
			dirs[filepath.Dir(f.Path)] = true
		}
	}
	there := map[string]bool{}
	for d := range dirs {
		for filepath.IsAbs(d) {
			if info, err := os.Stat(d); err == nil && info.IsDir() {
				there[d] = true
				break
			}
			if d == filepath.Dir(d) {
				break
			}
			d = filepath.Dir(d)
		}
	}
	return there
}
