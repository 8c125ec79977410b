package server_test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/coretest"
	"boundcrate/core/road/graph"
)

// until asks again until an answer is as wanted.
func until[T any](c *client, path, what string, ok func(T) bool) T {
	c.t.Helper()
	var got T
	for range 500 {
		if got = get[T](c, path); ok(got) {
			return got
		}
		time.Sleep(10 * time.Millisecond)
	}
	c.t.Fatalf("%s: %+v", what, got)
	return got
}

// TestLook: whoever opens a page sees what the disk holds now. Where nothing
// changed the snapshot stays, the time of the look is the new one, and no job
// is told of; a file that went, and one that was put in another's place with its
// size and time, are seen. A proof says that its sources changed since.
func TestLook(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("sound/gull.wav", "sound/horn.wav"), "film/sound/gull.wav": "gull", "film/sound/horn.wav": "horn", "film/notes.txt": "rated four",
	})
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	look := func() {
		time.Sleep(1100 * time.Millisecond) // a look is good for a second
		send[struct{}](c, "POST", base+"/look", nil)
	}
	first := get[tracing.Summary](c, base)
	jobs := len(get[api.AppState](c, "/api/state").Jobs)
	look()
	s := until(c, base, "no new look", func(s tracing.Summary) bool { return s.Traced.After(*first.Traced) })
	if s.Snapshot != first.Snapshot {
		t.Errorf("nothing changed, and there is snapshot %s after %s", s.Snapshot, first.Snapshot)
	}
	if n := len(get[api.AppState](c, "/api/state").Jobs); n != jobs {
		t.Errorf("a look is told as a job: %d after %d", n, jobs)
	}

	j := c.wait(send[api.Started](c, "POST", base+"/seal", packing.SealRequest{Snapshot: c.snapshot(base), Out: filepath.Join(c.dir, "crate")}).Job.ID)
	if s := get[tracing.Summary](c, base); j.State != api.Done || !s.Sealed || !s.Complete || s.SealedStale != 0 || s.SealedGone {
		t.Fatalf("%+v %+v", j, s)
	}
	// Another sound in the place of the first, as long and as old.
	gull := filepath.Join(c.dir, "film/sound/gull.wav")
	info, err := os.Stat(gull)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(gull+".new", []byte("duck"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.Chtimes(gull+".new", info.ModTime(), info.ModTime()); err != nil {
		t.Fatal(err)
	}
	if err := os.Rename(gull+".new", gull); err != nil {
		t.Fatal(err)
	}
	look()
	s = until(c, base, "the change was not seen", func(s tracing.Summary) bool { return s.SealedStale == 1 })
	if sealed := get[packing.Sealed](c, base+"/sealed"); len(sealed.Stale) != 1 || !sealed.There {
		t.Errorf("%+v", sealed)
	}
	if s.Snapshot == first.Snapshot {
		t.Error("another file is no new snapshot")
	}
	// A file that only went along: notes that lie in the project.
	send[packing.Stow](c, "POST", base+"/recipe", packing.UseRecipe{Name: "archive"})
	if j := c.wait(send[api.Started](c, "POST", base+"/seal", packing.SealRequest{Snapshot: c.snapshot(base), Out: filepath.Join(c.dir, "crate"), Despite: true}).Job.ID); j.State != api.Done {
		t.Fatalf("%+v", j)
	}
	until(c, base, "sealed anew, and older at once", func(s tracing.Summary) bool { return s.SealedStale == 0 })
	coretest.Write(t, filepath.Join(c.dir, "film/notes.txt"), "rated five")
	if sealed := until(c, base+"/sealed", "what went along changed, and nobody says so", func(s packing.Sealed) bool { return len(s.Stale) == 1 }); !strings.HasSuffix(sealed.Stale[0], "notes.txt") {
		t.Errorf("%+v", sealed.Stale)
	}
	if err := os.Remove(gull); err != nil {
		t.Fatal(err)
	}
	if err := os.RemoveAll(filepath.Join(c.dir, "crate")); err != nil {
		t.Fatal(err)
	}
	look()
	s = until(c, base, "the file is gone, and nobody says so", func(s tracing.Summary) bool { return s.ToFind == 1 })
	if !s.SealedGone {
		t.Error("the crate is gone, and nobody says so")
	}
	for _, n := range s.States {
		if n.State == graph.Here && n.Files != 1 {
			t.Errorf("%+v", s.States)
		}
	}
}

// TestLive: what happens on the disk shows by itself within two seconds: a file
// that goes, comes back, one that is looked for where no folder is yet, and a
// document that is saved.
func TestLive(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("sound/gull.wav", "later/horn.wav"), "film/sound/gull.wav": "gull"})
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	jobs := len(get[api.AppState](c, "/api/state").Jobs)
	gull := filepath.Join(c.dir, "film/sound/gull.wav")
	missing := func(n int) func(tracing.Summary) bool { return func(s tracing.Summary) bool { return s.ToFind == n } }
	for _, step := range []struct {
		what string
		act  func() error
		ok   func(tracing.Summary) bool
	}{
		{"a file goes", func() error { return os.Remove(gull) }, missing(2)},
		{"it comes back", func() error { return os.WriteFile(gull, []byte("gull"), 0o644) }, missing(1)},
		{"its folder goes", func() error { return os.Rename(filepath.Dir(gull), filepath.Join(c.dir, "film/away")) }, missing(2)},
		{"and comes back", func() error { return os.Rename(filepath.Join(c.dir, "film/away"), filepath.Dir(gull)) }, missing(1)},
		{"a folder is made and filled", func() error {
			if err := os.Mkdir(filepath.Join(c.dir, "film/later"), 0o755); err != nil {
				return err
			}
			return os.WriteFile(filepath.Join(c.dir, "film/later/horn.wav"), []byte("horn"), 0o644)
		}, missing(0)},
		{"the document is saved", func() error {
			return os.WriteFile(filepath.Join(c.dir, "film/cut.otio"), []byte(timeline("sound/gull.wav", "a.wav", "b.wav")), 0o644)
		}, missing(2)},
	} {
		began := time.Now()
		if err := step.act(); err != nil {
			t.Fatal(err)
		}
		until(c, base, step.what, step.ok)
		t.Logf("%s: %v", step.what, time.Since(began).Round(time.Millisecond))
	}
	// Nobody was told of a job for any of it.
	if n := len(get[api.AppState](c, "/api/state").Jobs); n != jobs {
		t.Errorf("%d jobs, %d before", n, jobs)
	}
}

// TestPolled: on a network drive no events come; the disk is asked again and
// again while a page is open, and that is said.
func TestPolled(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("gull.wav"), "film/gull.wav": "gull"})
	if err := c.store.PutDrive("Bench", c.dir, "network", false); err != nil {
		t.Fatal(err)
	}
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	until(c, base, "it is not said", func(s tracing.Summary) bool { return s.Polled })
	resp, err := http.Get(c.url + "/api/events") // a page
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	if err := os.Remove(filepath.Join(c.dir, "film/gull.wav")); err != nil {
		t.Fatal(err)
	}
	until(c, base, "it was not seen", func(s tracing.Summary) bool { return s.ToFind == 1 })
}

// TestLetGo: a project that was let go from memory, as all are by a new start, answers its first
// question, whichever that is; and what a job resulted in is known after the start, too.
func TestLetGo(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a", "old/b.wav": "b"})
	p := c.open("film/cut.m3u")
	asked := c.wait(send[api.Started](c, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(c.dir, "old")}).Job.ID)
	said := get[overview.Cleared](c, "/api/clearout/"+asked.ID)
	again := c.anew()
	for _, part := range []string{"/stow", "/mend", "/tables/files", "/decisions", "/points"} {
		if status, body, _ := again.ask("GET", fmt.Sprintf("/api/projects/%d%s", p.ID, part), nil); status != 200 {
			t.Errorf("%s: %d %s", part, status, body)
		}
	}
	if now := get[overview.Cleared](again, "/api/clearout/"+asked.ID); said.Folder == "" || now.Folder != said.Folder || !now.At.Equal(said.At) {
		t.Errorf("%+v\nwas\n%+v", now, said)
	}
}
