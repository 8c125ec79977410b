package stow

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/content"
)

// Ears hear sounds as they will be made. What came of it, and what becomes of a sound, is kept
// until its files change. Hearing takes as long as making: it is no part of planning, which
// asks for what was heard and notes what was not.
type Ears struct{ planned, heard sync.Map }

// kept is what came of asking about files, while they are what they were.
type kept[T any] struct {
	stamps []drive.Stamp
	got    T
	err    error
}

func (h *Hearing) key() string { return fmt.Sprintf("%q %+v %+v", h.Paths, h.To, h.Cut) }

func (h *Hearing) stamps(reach drive.Reach) ([]drive.Stamp, error) {
	stamps := make([]drive.Stamp, len(h.Paths))
	for i, p := range h.Paths {
		info, err := reach.Stat(p)
		if err != nil {
			return nil, err
		}
		stamps[i] = info.Stamp()
	}
	return stamps, nil
}

func of[T any](m *sync.Map, h *Hearing, stamps []drive.Stamp) (k *kept[T], ok bool) {
	had, ok := m.Load(h.key())
	if !ok || !slices.Equal(had.(*kept[T]).stamps, stamps) {
		return nil, false
	}
	return had.(*kept[T]), true
}

// Sounds is PlanSound, asked once while the files are what they were.
func (e *Ears) Sounds(reach drive.Reach) Sounds {
	return func(paths []string, to pcm.Spec, cut pcm.Cut) (SoundPlan, error) {
		h := Hearing{paths, to, cut}
		stamps, err := h.stamps(reach)
		if err != nil {
			return SoundPlan{}, err
		}
		if had, ok := of[SoundPlan](&e.planned, &h, stamps); ok {
			return had.got, had.err
		}
		s, err := PlanSound(reach, paths, to, cut)
		e.planned.Store(h.key(), &kept[SoundPlan]{stamps, s, err})
		return s, err
	}
}

// Listen answers plans out of what was heard.
func (e *Ears) Listen(reach drive.Reach) Listen {
	return func(h Hearing) (*content.Listened, error) {
		stamps, err := h.stamps(reach)
		if err != nil {
			return nil, err
		}
		had, ok := of[content.Listened](&e.heard, &h, stamps)
		if !ok {
			return nil, nil
		}
		return &had.got, had.err
	}
}

// Hear listens to sounds, several at once, and tells how many are done, one call at a time. What cannot be read is
// kept as its error; only the end of ctx is one here.
func (e *Ears) Hear(ctx context.Context, reach drive.Reach, list []Hearing, progress func(done int)) error {
	var mu sync.Mutex
	done := 0
	all, ctx := errgroup.WithContext(ctx)
	all.SetLimit(runtime.GOMAXPROCS(0))
	for _, h := range list {
		all.Go(func() error {
			stamps, err := h.stamps(reach)
			if err != nil {
				return ctx.Err() // planning meets it again
			}
			got, err := content.Listen(ctx, reach, h.Paths, h.To, h.Cut)
			if ctx.Err() != nil {
				return ctx.Err()
			}
			e.heard.Store(h.key(), &kept[content.Listened]{stamps, got, err})
			mu.Lock()
			defer mu.Unlock()
			done++
			progress(done)
			return nil
		})
	}
	return all.Wait()
}
