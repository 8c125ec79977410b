package store_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/drive"
	"boundcrate/core/format/all"
	"boundcrate/core/resolve"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
	"boundcrate/store"
)

func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// film is a folder with a document of n clips, all there.
func film(t testing.TB, n int) (dir, doc string) {
	t.Helper()
	dir = t.TempDir()
	list := "#EXTM3U\n"
	for i := range n {
		name := fmt.Sprintf("take %d.wav", i)
		if err := os.WriteFile(filepath.Join(dir, name), fmt.Appendf(nil, "sound %d", i), 0o644); err != nil {
			t.Fatal(err)
		}
		list += name + "\n"
	}
	doc = filepath.Join(dir, "list.m3u")
	if err := os.WriteFile(doc, []byte(list), 0o644); err != nil {
		t.Fatal(err)
	}
	return dir, doc
}

func graph(t testing.TB, doc string, repairs ...resolve.Repair) *trace.Graph {
	t.Helper()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Repairs: repairs}, doc)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// TestRemember: what was seen is known again after the application ended; a
// file that did not change is not read again; one that did is.
func TestRemember(t *testing.T) {
	dir, doc := film(t, 3)
	data := t.TempDir()
	s := open(t, data)
	now := time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	var read int64
	remember := func(g *trace.Graph) {
		t.Helper()
		read = 0
		if err := s.Remember(context.Background(), g, drive.System{}, nil, now, func(done, _ int64) { read = done }); err != nil {
			t.Fatal(err)
		}
	}
	remember(graph(t, doc))
	if read == 0 {
		t.Error("nothing was read")
	}
	if remember(graph(t, doc)); read != 0 {
		t.Errorf("%d bytes were read again", read)
	}
	changed := filepath.Join(dir, "take 1.wav")
	if err := os.WriteFile(changed, []byte("another take"), 0o644); err != nil {
		t.Fatal(err)
	}
	if remember(graph(t, doc)); read != int64(len("another take")) {
		t.Errorf("%d bytes were read", read)
	}
	s.Close()
	s = open(t, data)
	last, ok := s.Last(changed)
	if !ok || last.Size != int64(len("another take")) || len(last.SHA256) != 64 || !last.At.Equal(now) {
		t.Errorf("%+v %v", last, ok)
	}
	if _, ok := s.Last(filepath.Join(dir, "none")); ok {
		t.Error("something never seen is known")
	}
	// What a repair found is also known under the place that is asked for.
	moved := filepath.Join(dir, "moved.wav")
	if err := os.Rename(filepath.Join(dir, "take 2.wav"), moved); err != nil {
		t.Fatal(err)
	}
	remember(graph(t, doc, resolve.Repair{From: filepath.Join(dir, "take 2.wav"), To: moved}))
	a, _ := s.Last(moved)
	if b, ok := s.Last(filepath.Join(dir, "take 2.wav")); !ok || a.SHA256 != b.SHA256 {
		t.Error("the old place is not known any more")
	}
}

// TestDrives: a drive keeps its id when it comes back under another mount.
func TestDrives(t *testing.T) {
	s := open(t, t.TempDir())
	for _, dir := range []string{"/a", "/b"} {
		if err := s.PutDrive("Bench", dir, "fixed", false); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.PutDrive("Alder", "/c", "network", true); err != nil {
		t.Fatal(err)
	}
	list, err := s.Drives()
	if err != nil || len(list) != 2 || list[0].Name != "Alder" || list[1].Dir != "/b" || list[1].ID == "" || !list[0].Stand {
		t.Errorf("%+v %v", list, err)
	}
}

// TestProject: choices, wishes and repairs are kept, undone one by one or by
// batch, and go with the project.
func TestProject(t *testing.T) {
	data := t.TempDir()
	s := open(t, data)
	now := time.Now()
	p, err := s.AddProject("Film", "/d/film.otio", "/d", now)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := s.AddProject("Film two", "/d/film.otio", "/", now); err != nil || again.ID != p.ID || again.Root != "/" {
		t.Errorf("%+v %v", again, err)
	}
	name, folder := "new.wav", "sub"
	if err := errors.Join(s.PutOverride(p.ID, "k", nil, &name), s.PutOverride(p.ID, "k", &folder, nil)); err != nil {
		t.Fatal(err)
	}
	o, err := s.StowOptions(p)
	if w := o.Overrides["k"]; err != nil || o.Layout != stow.ByKind || *w.Name != name || *w.Folder != folder {
		t.Errorf("%+v %v", o, err)
	}
	if err := s.DropOverride(p.ID, "k"); err != nil {
		t.Fatal(err)
	}
	if o, _ = s.StowOptions(p); len(o.Overrides) != 0 {
		t.Error("a wish was not forgotten")
	}
	add := func(batch int64, froms ...string) {
		t.Helper()
		var rows []store.Repair
		for _, f := range froms {
			rows = append(rows, store.Repair{ProjectID: p.ID, From: f, To: f + "2", Batch: batch})
		}
		if err := s.AddRepairs(rows); err != nil {
			t.Fatal(err)
		}
	}
	add(1, "/a", "/b")
	add(2, "/c", "/d")
	list, err := s.Repairs(p.ID)
	if err != nil || len(list) != 4 || store.Rules(list)[3].From != "/d" {
		t.Fatalf("%+v %v", list, err)
	}
	if err := errors.Join(s.DropRepair(p.ID, list[0].ID, false), s.DropRepair(p.ID, list[2].ID, true)); err != nil {
		t.Fatal(err)
	}
	if list, _ = s.Repairs(p.ID); len(list) != 1 || list[0].From != "/b" {
		t.Errorf("%+v", list)
	}
	if err := s.DropRepair(p.ID, 999, false); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
	if err := s.DeleteProject(p.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Project(p.ID); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
	if list, _ = s.Repairs(p.ID); len(list) != 0 {
		t.Error("repairs outlived their project")
	}
}

// TestInterrupted: a job that ran when the application ended did not finish.
func TestInterrupted(t *testing.T) {
	data := t.TempDir()
	s := open(t, data)
	if err := errors.Join(s.PutJob(store.Job{ID: "1", State: "running"}), s.PutJob(store.Job{ID: "2", State: "done"}), s.Interrupted(time.Now())); err != nil {
		t.Fatal(err)
	}
	s.Close()
	// Opening again changes nothing; a file that is no database is refused by name.
	open(t, data)
	broken := t.TempDir()
	if err := os.WriteFile(filepath.Join(broken, "boundcrate.db"), []byte("this is no database, and it is long enough to be asked"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Open(broken); err == nil {
		t.Error("a broken database was opened")
	}
}

// BenchmarkRemember keeps 2,000 files in one go.
func BenchmarkRemember(b *testing.B) {
	_, doc := film(b, 2000)
	g := graph(b, doc)
	for b.Loop() {
		b.StopTimer()
		s := open(b, b.TempDir())
		b.StartTimer()
		if err := s.Remember(context.Background(), g, drive.System{}, nil, time.Now(), nil); err != nil {
			b.Fatal(err)
		}
	}
}
