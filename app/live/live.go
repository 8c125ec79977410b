// Package live watches the folders that open projects lean on.
package live

import (
	"context"
	"errors"
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
	// Most is how many folders of one project are watched.
	Most = 4000
)

// Watch watches folders for projects. An event is only a reason
// to ask the disk again; what changed, the trace tells.
type Watch struct {
	look func(project int64)
	on   func() bool // somebody listens

	mu      sync.Mutex
	watcher *fsnotify.Watcher // nil: this system sends no events
	of      map[int64]map[string]bool
	by      map[string]map[int64]bool // folder → projects
	blind   map[int64]bool            // some folder of it cannot be watched
	due     map[int64]bool
}

// New makes one that looks at a project when something happens to it; on tells whether somebody
// listens.
func New(look func(int64), on func() bool) *Watch {
	l := &Watch{look: look, on: on, of: map[int64]map[string]bool{}, by: map[string]map[int64]bool{}, blind: map[int64]bool{}, due: map[int64]bool{}}
	l.watcher, _ = fsnotify.NewWatcher() // without one everything is polled
	return l
}

// Follow watches the folders that a project leans on now, and lets go of those it leaned on;
// none forgets the project.
func (l *Watch) Follow(project int64, want map[string]bool, drives []drive.Drive) {
	blind := l.watcher == nil || len(want) > Most
	if !blind {
		for d := range want {
			if on, ok := drive.Find(drives, d); ok && (on.Kind == "network" || on.Kind == "synced") {
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
			if l.watcher == nil || len(l.by) > 4*Most || l.watcher.Add(d) != nil {
				blind = true
				continue
			}
			l.by[d] = map[int64]bool{}
		}
		l.by[d][project] = true
	}
	l.of[project], l.blind[project] = want, blind
}

// Polled tells that a project is looked at again and again, since not all of it
// can be watched.
func (l *Watch) Polled(project int64) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.blind[project]
}

// Run waits for events until ctx ends.
func (l *Watch) Run(ctx context.Context) {
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
func (l *Watch) changed(ctx context.Context, dirs ...string) {
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
func (l *Watch) soon(ctx context.Context, project int64) {
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
