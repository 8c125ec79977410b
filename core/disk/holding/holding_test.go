package holding_test

import (
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/holding"
)

// A folder that was taken comes back as it was, is met by no walk meanwhile, is
// erased no sooner than said, and never takes another's place.
func TestTakenAndBack(t *testing.T) {
	dir := t.TempDir()
	bench := filepath.Join(dir, "Bench")
	old := filepath.Join(bench, "old film")
	coretest.Write(t, filepath.Join(old, "takes", "a.wav"), "a")
	coretest.Write(t, filepath.Join(old, "cut.otio"), "{}")
	drives := []drive.Drive{{ID: "b", Name: "Bench", Dir: bench}}
	before := coretest.Sums(t, bench)
	now := time.Now()
	at, err := holding.Place(drives, old, now)
	if err != nil {
		t.Fatal(err)
	}
	if err := holding.Move(old, at); err != nil {
		t.Fatal(err)
	}
	met := 0
	if _, err := (drive.Walk{Reach: drive.System{}, Dirs: []string{bench}, Each: func(f drive.Folder) error { met += len(f.Files); return nil }}).Run(t.Context()); err != nil || met != 0 {
		t.Errorf("a walk meets %d files that are held (%v)", met, err)
	}
	var refused *holding.Error
	if err := holding.Erase(at, now.Add(time.Hour), now); !errors.As(err, &refused) || refused.Code != holding.TooSoon {
		t.Error(err)
	}
	// Somebody made a folder of the name anew.
	if err := os.Mkdir(old, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := holding.Move(at, old); !errors.As(err, &refused) || refused.Code != holding.InTheWay {
		t.Error(err)
	}
	if err := os.Remove(old); err != nil {
		t.Fatal(err)
	}
	if err := holding.Move(at, old); err != nil {
		t.Fatal(err)
	}
	after := coretest.Sums(t, bench)
	if len(before) != len(after) {
		t.Fatalf("%d files came back of %d", len(after), len(before))
	}
	for p, sum := range before {
		if after[p] != sum {
			t.Errorf("%s came back as another", p)
		}
	}
	for _, c := range []struct {
		folder string
		code   holding.Code
	}{{bench, holding.IsDrive}, {dir, holding.NoDrive}, {filepath.Join(dir, "elsewhere"), holding.NoDrive}, {at, holding.IsHeld}} {
		if _, err := holding.Place(drives, c.folder, now); !errors.As(err, &refused) || refused.Code != c.code {
			t.Errorf("%s: %v, not %s", c.folder, err, c.code)
		}
	}
	if _, err := holding.Place(append(drives, drive.Drive{ID: "c", Dir: filepath.Join(old, "takes")}), old, now); !errors.As(err, &refused) || refused.Code != holding.IsDrive {
		t.Error("a drive went with the folder it lies in", err)
	}
	if err := holding.Erase(old, now, now.Add(time.Hour)); err == nil {
		t.Error("what is not held was erased")
	}
	// Its drive is out, and comes back under another mount.
	if at, err = holding.Place(drives, old, now); err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(holding.Move(old, at), os.Rename(bench, bench+" 2")); err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{"erased": holding.Erase(at, now, now.Add(time.Hour)), "back": holding.Move(at, old)} {
		if !errors.As(err, &refused) || refused.Code != holding.NotThere {
			t.Errorf("%s without its drive: %v", what, err)
		}
	}
	drives[0].Dir = bench + " 2"
	at, ok := holding.At(drives, drive.Path{Drive: "b", Path: "old film"}, at)
	if err := holding.Erase(at, now, now.Add(time.Hour)); !ok || err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(filepath.Join(at, "cut.otio")); !errors.Is(err, os.ErrNotExist) {
		t.Error("erased, and still there")
	}
}
