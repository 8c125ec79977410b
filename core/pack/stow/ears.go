package stow

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/content"
)

// Ears hear sounds as they will be made, and keep what came of it until their files
// change. Hearing takes as long as making: it is no part of planning, which asks for
// what was heard and notes what was not.
type Ears struct{ kept sync.Map }

type heard struct {
	infos []drive.Info
	content.Listened
	err error
}

func (h *Hearing) key() string { return fmt.Sprintf("%q %+v %+v", h.Paths, h.To, h.Cut) }

func (h *Hearing) stat(reach drive.Reach) ([]drive.Info, error) {
	infos := make([]drive.Info, len(h.Paths))
	for i, p := range h.Paths {
		var err error
		if infos[i], err = reach.Stat(p); err != nil {
			return nil, err
		}
	}
	return infos, nil
}

// Listen answers plans out of what was heard.
func (e *Ears) Listen(reach drive.Reach) Listen {
	return func(h Hearing) (*content.Listened, error) {
		infos, err := h.stat(reach)
		if err != nil {
			return nil, err
		}
		had, ok := e.kept.Load(h.key())
		if !ok || !slices.EqualFunc(had.(*heard).infos, infos, drive.Info.Same) {
			return nil, nil
		}
		return &had.(*heard).Listened, had.(*heard).err
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
			infos, err := h.stat(reach)
			if err != nil {
				return ctx.Err() // planning meets it again
			}
			got, err := content.Listen(ctx, reach, h.Paths, h.To, h.Cut)
			if ctx.Err() != nil {
				return ctx.Err()
			}
			e.kept.Store(h.key(), &heard{infos, got, err})
			mu.Lock()
			defer mu.Unlock()
			done++
			progress(done)
			return nil
		})
	}
	return all.Wait()
}
