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

// TestTerms: a term is a date between a day and ten years away, and nothing else.
func TestTerms(t *testing.T) {
	now := time.Date(2031, 4, 2, 10, 0, 0, 0, time.UTC)
	for days, good := range map[int]bool{-1: false, 0: false, 1: true, 30: true, 3650: true, 3651: false, 90_000: false, 1 << 40: false} {
		until, err := holding.Until(now, days)
		if (err == nil) != good || good && !until.Equal(now.AddDate(0, 0, days)) {
			t.Errorf("%d days: %v %v", days, until, err)
		}
	}
}

// TestRecords: what waits tells by itself where it stood, is known when it is back, and is
// not taken for something new of its name.
func TestRecords(t *testing.T) {
	bench := t.TempDir()
	old := filepath.Join(bench, "old")
	coretest.Write(t, filepath.Join(old, "a.wav"), "a")
	info, err := drive.System{}.Lstat(old)
	if err != nil {
		t.Fatal(err)
	}
	now := time.Now().Round(0)
	at, err := holding.Place([]drive.Drive{{ID: "b", Dir: bench}}, old, now)
	if err != nil {
		t.Fatal(err)
	}
	want := holding.Record{Was: "old", Since: now, Until: now.AddDate(0, 0, 7), Files: 1, Bytes: 1, Node: info.Node}
	if err := errors.Join(holding.Keep(at, want), holding.Move(old, at)); err != nil {
		t.Fatal(err)
	}
	if list := holding.Waiting(bench); len(list) != 1 || list[0] != at {
		t.Fatalf("%q wait", list)
	}
	got, ok := holding.Read(at)
	if !ok || got.Was != "old" || !got.Until.Equal(want.Until) {
		t.Fatalf("%+v", got)
	}
	coretest.Write(t, filepath.Join(old, "b.wav"), "something new of that name")
	if holding.IsBack(old, got) {
		t.Error("something new is taken for what was held")
	}
	if err := errors.Join(os.RemoveAll(old), holding.Move(at, old)); err != nil {
		t.Fatal(err)
	}
	if !holding.IsBack(old, got) {
		t.Error("it is not known when it is back")
	}
	if list := holding.Waiting(bench); len(list) != 0 {
		t.Errorf("%q wait though it is back", list)
	}
}

// TestErase: links in what is erased are taken away, and nothing behind them is.
func TestErase(t *testing.T) {
	bench, other := t.TempDir(), t.TempDir()
	coretest.Write(t, filepath.Join(other, "kept.wav"), "kept")
	at := filepath.Join(bench, drive.Holding, "20310402-100000.000 old")
	coretest.Write(t, filepath.Join(at, "a.wav"), "a")
	if err := errors.Join(os.Symlink(other, filepath.Join(at, "elsewhere")), os.Symlink(filepath.Join(other, "kept.wav"), filepath.Join(at, "one"))); err != nil {
		t.Fatal(err)
	}
	if err := holding.Erase(at, time.Now().Add(-time.Hour), time.Now()); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(other, "kept.wav")); err != nil {
		t.Error(err)
	}
	if _, err := os.Lstat(at); !errors.Is(err, os.ErrNotExist) {
		t.Error("it is still there", err)
	}
}

// FuzzRecord: no bytes make a record that leads out of its drive, or a term without end.
func FuzzRecord(f *testing.F) {
	f.Add([]byte(`{"was":"film/old","since":"2031-04-02T10:00:00Z","until":"2031-05-02T10:00:00Z","files":3,"bytes":9}`))
	f.Add([]byte(`{"was":"../etc","since":"2031-04-02T10:00:00Z","until":"9999-05-02T10:00:00Z"}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		r, ok := holding.Parse(b)
		if !ok {
			return
		}
		if drives := (drive.Drive{ID: "b", Dir: "/bench"}); !drives.Holds(filepath.Join("/bench", r.Was)) || r.Until.Before(r.Since) || r.Until.Sub(r.Since) > 11*366*24*time.Hour {
			t.Fatalf("%+v", r)
		}
	})
}
