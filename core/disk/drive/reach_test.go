package drive_test

import (
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/drive/drivetest"
)

// TestReach: the system, the drives alone and one crate alone show a tree alike,
// and differ only in what they keep from view.
func TestReach(t *testing.T) {
	dir := coretest.Lay(t, drivetest.Files)
	outside := coretest.Write(t, filepath.Join(t.TempDir(), "outside.txt"), "not to be seen")
	for name, r := range map[string]drive.Reach{
		"system": drive.System{}, "drives": drive.Set{Drives: []drive.Drive{{ID: "1", Name: "Bench", Dir: dir}}}, "confined": drive.Confined{Dir: dir},
	} {
		t.Run(name, func(t *testing.T) {
			drivetest.Run(t, r, dir)
			_, err := r.Stat(outside)
			if sees := err == nil; sees != (name == "system") {
				t.Errorf("it sees what lies outside: %v (%v)", sees, err)
			}
		})
	}
	// A link leads out of a crate no more than a path does.
	if err := os.Symlink(outside, filepath.Join(dir, "way out")); err != nil {
		t.Fatal(err)
	}
	if f, err := (drive.Confined{Dir: dir}).Open(filepath.Join(dir, "way out")); err == nil {
		f.Close()
		t.Error("a link led out")
	}
}

// TestPipe: a pipe that nobody writes to is refused at once, by every reach.
func TestPipe(t *testing.T) {
	dir := t.TempDir()
	pipe := filepath.Join(dir, "pipe.wav")
	if err := coretest.Fifo(pipe); err != nil {
		t.Skip(err)
	}
	for name, r := range map[string]drive.Reach{"system": drive.System{}, "drives": drive.Set{Drives: []drive.Drive{{Dir: dir}}}, "confined": drive.Confined{Dir: dir}} {
		done := make(chan error, 1)
		go func() {
			_, err := r.Open(pipe)
			done <- err
		}()
		select {
		case err := <-done:
			if !errors.Is(err, drive.ErrNotRegular) {
				t.Errorf("%s: %v", name, err)
			}
		case <-time.After(20 * time.Second):
			t.Fatalf("%s waits for the pipe", name)
		}
	}
}

// TestPath: an identity outlives the place a drive is plugged in at.
func TestPath(t *testing.T) {
	at := func(dir string) []drive.Drive { return []drive.Drive{{ID: "d1", Name: "Shuttle", Dir: dir}} }
	for _, c := range []struct{ path, want string }{
		{"/media/one/film/a.wav", "d1:/film/a.wav"}, {"/media/one", "d1:/"}, {"/media/ones/a.wav", "/media/ones/a.wav"}, {"/elsewhere", "/elsewhere"},
	} {
		p := drive.At(at("/media/one"), c.path)
		if p.String() != c.want || drive.ParsePath(c.want) != p {
			t.Errorf("%s is %s", c.path, p)
		}
		if abs, ok := drive.Abs(at("/media/one"), p); !ok || abs != c.path {
			t.Errorf("%s leads back to %s", p, abs)
		}
		moved, ok := drive.Abs(at("/mnt/two"), p)
		if !ok || drive.At(at("/mnt/two"), moved) != p {
			t.Errorf("%s under another mount is %s", p, moved)
		}
	}
	if _, ok := drive.Abs(nil, drive.Path{Drive: "d1", Path: "/a"}); ok {
		t.Error("a drive that is not known has no place")
	}
}
