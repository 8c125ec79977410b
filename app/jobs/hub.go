package jobs

import (
	"context"
	"fmt"
	"sync"

	"boundcrate/app/api"
	"boundcrate/app/fault"
)

type pageKey struct{}

// ByPage says which page asks for what is done under a context: it is not told what it did itself.
func ByPage(ctx context.Context, page string) context.Context {
	return context.WithValue(ctx, pageKey{}, page)
}

// PageOf is the page that asks; "" where none said.
func PageOf(ctx context.Context) string {
	page, _ := ctx.Value(pageKey{}).(string)
	return page
}

// Hub hands events to every open page. A page that does not keep up hears of
// the latest state of each thing, and of nothing twice: no event is lost.
type Hub struct {
	mu    sync.Mutex
	pages map[*listener]bool
}

// listener is one page's events that it did not take yet, by what they are of.
type listener struct {
	mu      sync.Mutex
	waiting map[string]api.Event
	order   []string
	wake    chan struct{}
}

// NewHub makes one that no page listens to yet.
func NewHub() *Hub { return &Hub{pages: map[*listener]bool{}} }

// Send tells every page.
func (h *Hub) Send(e api.Event) {
	key := fmt.Sprintf("%s %d", e.Type, e.Project)
	if e.Job != nil {
		key = "job " + e.Job.ID
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.pages {
		p.mu.Lock()
		one := e
		was, known := p.waiting[key]
		if !known {
			p.order = append(p.order, key)
		} else if was.By != e.By {
			one.By = "" // of two pages' acts both hear
		}
		p.waiting[key] = one
		p.mu.Unlock()
		select {
		case p.wake <- struct{}{}:
		default:
		}
	}
}

func (l *listener) take() []api.Event {
	l.mu.Lock()
	defer l.mu.Unlock()
	list := make([]api.Event, len(l.order))
	for i, k := range l.order {
		list[i] = l.waiting[k]
	}
	l.waiting, l.order = map[string]api.Event{}, nil
	return list
}

func (h *Hub) join() *listener {
	p := &listener{waiting: map[string]api.Event{}, wake: make(chan struct{}, 1)}
	h.mu.Lock()
	defer h.mu.Unlock()
	if len(h.pages) >= maxPages {
		return nil
	}
	h.pages[p] = true
	return p
}

// Listens tells whether any page is open.
func (h *Hub) Listens() bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.pages) > 0
}

func (h *Hub) leave(p *listener) {
	h.mu.Lock()
	delete(h.pages, p)
	h.mu.Unlock()
}

// Listener hears what happens, until it is closed.
type Listener struct {
	of *Hub
	*listener
}

// maxPages is how many pages are told of what happens: each holds a line, and this machine
// has not so many for one program.
const maxPages = 500

// Listen begins to hear what happens.
func (h *Hub) Listen() (Listener, error) {
	p := h.join()
	if p == nil {
		return Listener{}, fault.Say(fault.Unavailable, "Too many pages", "Too many pages are open to update another one. Close some.")
	}
	return Listener{h, p}, nil
}

// Wake is told when there is something to take.
func (l Listener) Wake() <-chan struct{} { return l.wake }

// Take is what happened since it was last asked.
func (l Listener) Take() []api.Event { return l.take() }

// Close hears no more.
func (l Listener) Close() { l.of.leave(l.listener) }
