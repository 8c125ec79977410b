package app

import (
	"context"

	"boundcrate/app/api/overview"
	"boundcrate/app/examine"
	"boundcrate/core/say/words"
)

// Doctor tells what the application can and cannot do on this machine.
func (a *App) Doctor(context.Context) (overview.Examined, error) {
	out := overview.Examined{Version: a.version, Well: true}
	if err := a.store.Check(); err != nil {
		out.Database, out.Well = words.Error(err), false
	}
	drives, err := a.drives()
	if err != nil {
		return out, err
	}
	out.Folders = examine.All(a.store.Dir(), drives)
	for _, f := range out.Folders {
		out.Well = out.Well && f.Well()
	}
	return out, nil
}
