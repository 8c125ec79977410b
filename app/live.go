package app

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/fsnotify/fsnotify"

	"boundcrate/core/disk/drive"
)

const (
	// settles is how long after the first event a project is looked at: what one
	// act changes comes as many events.
	settles = 400 * time.Millisecond
	// polls is how often a project is looked at whose folders cannot all be
	// watched: network drives send no events, and systems bound how many folders
	// are watched.
	polls = 1500 * time.Millisecond
	// mostWatched is how many folders of one project are watched.
	mostWatched = 4000
)

// live watches the folders that open projects lean on. An event is only a reason
// to ask the disk again; what changed, the trace tells.
type live struct {
	look func(project int64)
	on   func() bool // somebody listens

	mu      sync.Mutex
	watcher *fsnotify.Watcher // nil: this system sends no events
	of      map[int64]map[string]bool
	by      map[string]map[int64]bool // folder → projects
	blind   map[int64]bool            // some folder of it cannot be watched
	due     map[int64]bool
}

func newLive(look func(int64), on func() bool) *live {
	l := &live{look: look, on: on, of: map[int64]map[string]bool{}, by: map[string]map[int64]bool{}, blind: map[int64]bool{}, due: map[int64]bool{}}
	l.watcher, _ = fsnotify.NewWatcher() // without one everything is polled
	return l
}

// folders are those whose changes a snapshot may show: of every file, of every
// place where one is expected, and the project's own. Of a folder that is not
// there, the nearest that is.
func (s *snapshot) folders() map[string]bool {
	dirs := map[string]bool{s.graph.Root: true}
	for i := range s.graph.Files {
		if len(dirs) > mostWatched {
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

// follow watches what a project leans on now, and lets go of what it leaned on.
func (l *live) follow(project int64, s *snapshot) {
	want := map[string]bool{}
	if s != nil && s.graph != nil {
		want = s.folders()
	}
	blind := l.watcher == nil || len(want) > mostWatched
	if s != nil && !blind {
		for d := range want {
			if on, ok := drive.Find(s.drives, d); ok && (on.Kind == "network" || on.Kind == "synced") {
				blind = true
			}
		}
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	for d := range l.of[project] {
		if !want[d] {
			delete(l.by[d], project)
			if len(l.by[d]) == 0 {
				delete(l.by, d)
				if l.watcher != nil {
					_ = l.watcher.Remove(d) // it may be gone itself
				}
			}
		}
	}
	if len(want) == 0 {
		delete(l.of, project)
		delete(l.blind, project)
		return
	}
	for d := range want {
		if l.by[d] == nil {
			if l.watcher == nil || len(l.by) > 4*mostWatched || l.watcher.Add(d) != nil {
				blind = true
				continue
			}
			l.by[d] = map[int64]bool{}
		}
		l.by[d][project] = true
	}
	l.of[project], l.blind[project] = want, blind
}

// polled tells that a project is looked at again and again, since not all of it
// can be watched.
func (l *live) polled(project int64) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.blind[project]
}

// run waits for events until ctx ends.
func (l *live) run(ctx context.Context) {
	events, failed := make(chan fsnotify.Event), make(chan error)
	if l.watcher != nil {
		defer l.watcher.Close()
		events, failed = l.watcher.Events, l.watcher.Errors
	}
	tick := time.NewTicker(polls)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case e := <-events:
			if strings.HasPrefix(filepath.Base(e.Name), ".") || e.Op == fsnotify.Chmod {
				continue // ours under way, and rights that no picture shows
			}
			l.changed(ctx, filepath.Dir(e.Name), e.Name)
		case err := <-failed:
			if errors.Is(err, fsnotify.ErrEventOverflow) {
				l.changed(ctx, "", "") // events were lost: of everything
			}
		case <-tick.C:
			if l.on() {
				l.mu.Lock()
				for project := range l.blind {
					if l.blind[project] {
						l.soon(ctx, project)
					}
				}
				l.mu.Unlock()
			}
		}
	}
}

// changed looks soon at the projects that lean on one of the folders; "" is all.
func (l *live) changed(ctx context.Context, dirs ...string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, d := range dirs {
		if d == "" {
			for project := range l.of {
				l.soon(ctx, project)
			}
			return
		}
		for project := range l.by[d] {
			l.soon(ctx, project)
		}
	}
}

// soon looks at a project once what happens to it has settled. l.mu is held.
func (l *live) soon(ctx context.Context, project int64) {
	if l.due[project] {
		return
	}
	l.due[project] = true
	time.AfterFunc(settles, func() {
		l.mu.Lock()
		delete(l.due, project)
		l.mu.Unlock()
		if ctx.Err() == nil {
			l.look(project)
		}
	})
}
