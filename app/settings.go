package app

import (
	"context"
	"fmt"
	"os/exec"
	"path/filepath"
	"runtime"

	"boundcrate/app/api/overview"
	"boundcrate/app/fault"
)

// maxLogged bounds how many jobs the log can show.
const maxLogged = 200

// Settings are those of the application on this machine.
func (a *App) Settings(context.Context) (overview.Settings, error) {
	n, err := a.store.KeptJobs()
	out := overview.Settings{Version: a.version, Data: a.store.Dir(), Editions: a.editionsDir, KeepJobs: n}
	return out, err
}

// SetSettings changes them.
func (a *App) SetSettings(ctx context.Context, in overview.SetSettings) (overview.Settings, error) {
	if in.KeepJobs < 1 || in.KeepJobs > maxLogged {
		return overview.Settings{}, fault.Say(fault.Wrong, "Number of jobs", fmt.Sprintf("The log can show 1 to %d jobs.", maxLogged))
	}
	if err := a.store.SetKeptJobs(in.KeepJobs); err != nil {
		return overview.Settings{}, err
	}
	return a.Settings(ctx)
}

// Reveal opens the folder of a file on the drives, or one of the application's own, in the machine's own file
// manager.
func (a *App) Reveal(ctx context.Context, in overview.Reveal) error {
	at := filepath.Clean(in.Path)
	if at != a.store.Dir() && at != a.editionsDir {
		reach, err := a.reach()
		if err != nil {
			return err
		}
		info, err := reach.Stat(at)
		if err != nil {
			return err
		}
		if !info.Mode.IsDir() {
			at = filepath.Dir(at)
		}
	}
	if err := a.reveal(at); err != nil {
		return fault.Say(fault.Unavailable, "No file manager", "No file manager could be started on this machine. Copy the path instead.")
	}
	return nil
}

// revealer starts the system's own opener for a folder; it does not wait for what that starts.
func revealer(dir string) error {
	name := map[string]string{"darwin": "open", "windows": "explorer"}[runtime.GOOS]
	if name == "" {
		name = "xdg-open" // freedesktop.org xdg-utils
	}
	cmd := exec.Command(name, dir)
	if err := cmd.Start(); err != nil {
		return err
	}
	go func() { _ = cmd.Wait() }() // its end is nobody's concern, but it must not stay a zombie
	return nil
}
