package app

import (
	"sync"
	"time"

	"github.com/shirou/gopsutil/v4/disk"

	"boundcrate/core/disk/drive"
)

// patience with a drive: a mount whose other end is gone answers after minutes,
// or never.
const driveAnswers = time.Second

// answer is what a drive said when it was last asked.
type answer struct {
	connected   bool
	silent      bool  // it did not answer in time
	total, free int64 // bytes
}

// probes ask drives whether they are there, and wait for none of them longer
// than people do. A drive that is being asked is not asked again.
type probes struct {
	ask func(dir string) answer

	mu   sync.Mutex
	busy map[string]chan struct{}
	last map[string]answer
}

func newProbes(ask func(dir string) answer) *probes {
	if ask == nil {
		ask = askDrive
	}
	return &probes{ask: ask, busy: map[string]chan struct{}{}, last: map[string]answer{}}
}

func askDrive(dir string) answer {
	a := answer{connected: drive.Drive{Dir: dir}.Connected()}
	if a.connected {
		if u, err := disk.Usage(dir); err == nil {
			a.total, a.free = int64(u.Total), int64(u.Free)
		}
	}
	return a
}

// Begin asks a drive in the background; the channel closes with its answer.
func (p *probes) begin(dir string) <-chan struct{} {
	p.mu.Lock()
	defer p.mu.Unlock()
	if c, ok := p.busy[dir]; ok {
		return c
	}
	c := make(chan struct{})
	p.busy[dir] = c
	go func() {
		a := p.ask(dir)
		p.mu.Lock()
		defer p.mu.Unlock()
		p.last[dir] = a
		delete(p.busy, dir)
		close(c)
	}()
	return c
}

// all asks drives side by side. One that does not answer in time is silent.
func (p *probes) all(drives []drive.Drive) []answer {
	waits := make([]<-chan struct{}, len(drives))
	for i, d := range drives {
		waits[i] = p.begin(d.Dir)
	}
	late := time.NewTimer(driveAnswers)
	defer late.Stop()
	over := false
	list := make([]answer, len(drives))
	for i, d := range drives {
		if !over {
			select {
			case <-waits[i]:
			case <-late.C:
				over = true
			}
		}
		select {
		case <-waits[i]:
			p.mu.Lock()
			list[i] = p.last[d.Dir]
			p.mu.Unlock()
		default:
			list[i] = answer{silent: true}
		}
	}
	return list
}
