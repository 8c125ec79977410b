package server_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
)

// TestMending: search, what is applied unasked, choosing by hand, undoing and
// writing, through the API alone.
func TestMending(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("sound/gull.wav", "sound/horn.wav", "sound/gull.wav"), "film/sound/gull.wav": "gull", "film/sound/horn.wav": "horn", "lib/other horn.wav": "another horn",
	})
	p := c.open("film/cut.otio") // remembers both
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	if err := os.MkdirAll(filepath.Join(c.dir, "lib/birds"), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.Rename(filepath.Join(c.dir, "film/sound/gull.wav"), filepath.Join(c.dir, "lib/birds/g1.wav")); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(filepath.Join(c.dir, "film/sound/horn.wav")); err != nil {
		t.Fatal(err)
	}
	c.wait(send[api.Started](c, "POST", base+"/trace", nil).Job.ID)
	m := get[mending.Mend](c, base+"/mend")
	if m.Missing != 2 || m.Searched != 0 || len(m.Suggest) == 0 {
		t.Fatalf("%+v", m)
	}
	if status, body, _ := c.ask("POST", base+"/search", mending.Search{}); status != 400 {
		t.Error(status, body)
	}
	if status, body, _ := c.ask("POST", base+"/search", mending.Search{Folders: []string{filepath.Dir(c.dir)}}); status != 403 {
		t.Error(status, body)
	}
	j := c.wait(send[api.Started](c, "POST", base+"/search", mending.Search{Folders: []string{filepath.Join(c.dir, "lib")}}).Job.ID)
	if j.State != api.Done || j.Message != "2 searched for, 1 found" {
		t.Fatalf("%+v", j)
	}
	m = get[mending.Mend](c, base+"/mend")
	if m.Missing != 1 || len(m.Repairs) != 1 || m.Repairs[0].ToLabel != "Bench/lib/birds/g1.wav" || !m.Repairs[0].Live || m.Found != 1 || len(m.Writable) != 1 {
		t.Fatalf("%+v", m)
	}
	horn := get[mending.WantedList](c, base+"/tables/wanted").Lines[0].Row
	if one := get[mending.Wanted](c, base+"/wanted?key="+url.QueryEscape(horn.Key)); one.Last == nil || one.Row.Name != "horn.wav" {
		t.Errorf("%+v", one)
	}
	other := filepath.Join(c.dir, "lib/other horn.wav")
	tried := send[mending.Chosen](c, "POST", base+"/repairs", mending.Choose{Expected: horn.Key, Path: other, Try: true})
	if tried.Applied || len(tried.Candidate.Warnings) == 0 {
		t.Errorf("another size is no warning: %+v", tried)
	}
	if status, _, _ := c.ask("POST", base+"/repairs", mending.Choose{Expected: horn.Key, Path: filepath.Join(c.dir, "none.wav")}); status != 404 {
		t.Error(status)
	}
	if send[mending.Chosen](c, "POST", base+"/repairs", mending.Choose{Expected: horn.Key, Path: other}).Applied {
		t.Error("what speaks against it was not said first")
	}
	if !send[mending.Chosen](c, "POST", base+"/repairs", mending.Choose{Expected: horn.Key, Path: other, Despite: true}).Applied {
		t.Error("not applied")
	}
	c.settle(p.ID)
	m = get[mending.Mend](c, base+"/mend")
	if m.Missing != 0 || len(m.Repairs) != 2 {
		t.Fatalf("%+v", m)
	}
	if status, _, _ := c.ask("POST", base+"/repairs", mending.Choose{Expected: horn.Key, Path: other}); status != 409 {
		t.Error("what is not missing was mended", status)
	}
	slip := get[tracing.Slip](c, base+"/slip?key="+url.QueryEscape(c.key("lib/other horn.wav")))
	if slip.Repair == nil || len(slip.Paths) != 3 || slip.Row.Uses != 1 {
		t.Errorf("%+v", slip)
	}
	if status, body, _ := c.ask("DELETE", fmt.Sprintf("%s/repairs/%d", base, m.Repairs[1].ID), nil); status != http.StatusNoContent {
		t.Fatal(status, body)
	}
	c.settle(p.ID)
	if m = get[mending.Mend](c, base+"/mend"); m.Missing != 1 || len(m.Repairs) != 1 {
		t.Errorf("%+v", m)
	}
	w := send[mending.WriteResult](c, "POST", base+"/write", mending.WriteRepairs{Snapshot: c.snapshot(base)})
	if len(w.Written) != 1 || w.Written[0].Mentions != 2 || len(w.Problems) != 0 {
		t.Fatalf("%+v", w)
	}
	if b, _ := os.ReadFile(filepath.Join(c.dir, "film/cut.otio")); strings.Count(string(b), `"../lib/birds/g1.wav"`) != 2 || !strings.Contains(string(b), `"sound/horn.wav"`) {
		t.Errorf("%s", b)
	}
}

// settle waits until no work runs for a project.
func (c *client) settle(project int64) {
	c.t.Helper()
	for _, j := range get[api.AppState](c, "/api/state").Jobs {
		if j.Project == project && j.State == api.Running {
			c.wait(j.ID)
		}
	}
}

// TestStowing: choices are kept, refused ones are not; a project that is
// forgotten is gone and its files are not.
func TestStowing(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a/x.wav", "b/x.wav"), "film/a/x.wav": "1", "film/b/x.wav": "22"})
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	s := get[packing.Stow](c, base+"/stow")
	if s.Files != 3 || s.Clashes != 1 || s.Renamed != 1 || s.Options.Layout != "kind" {
		t.Fatalf("%+v", s)
	}
	s.Options.Layout = "stands"
	if s = send[packing.Stow](c, "PUT", base+"/stow", s.Options); s.Clashes != 0 {
		t.Errorf("%+v", s)
	}
	s.Options.Layout = "sideways"
	if status, _, _ := c.ask("PUT", base+"/stow", s.Options); status != 400 {
		t.Error(status)
	}
	b := get[packing.Berths](c, base+"/tables/berths?group=none&filter=x.wav&limit=1&offset=1")
	if b.Total != 2 || len(b.Lines) != 1 || b.Lines[0].Row.Folder != "b" {
		t.Fatalf("%+v", b)
	}
	name := "second"
	_ = send[struct{}](c, "PUT", base+"/berths", packing.Wish{Keys: []string{b.Lines[0].Row.Key}, Name: &name})
	if b = get[packing.Berths](c, base+"/tables/berths?group=none&only=renamed"); b.Total != 1 || b.Lines[0].Row.Name != "second.wav" || !b.Lines[0].Row.Wished {
		t.Errorf("%+v", b)
	}
	if status, _, _ := c.ask("PUT", base+"/berths", packing.Wish{Keys: []string{"nothing"}, Name: &name}); status != 404 {
		t.Error(status)
	}
	_ = send[struct{}](c, "PUT", base+"/berths", packing.Wish{Keys: []string{b.Lines[0].Row.Key}, Reset: true})
	if b = get[packing.Berths](c, base+"/tables/berths?group=none&only=renamed"); b.Total != 0 {
		t.Errorf("%+v", b)
	}
	if status, _, _ := c.ask("DELETE", base, nil); status != http.StatusNoContent {
		t.Error(status)
	}
	if status, _, _ := c.ask("GET", base, nil); status != 404 {
		t.Error("a forgotten project is known", status)
	}
	if _, err := os.Stat(filepath.Join(c.dir, "film/cut.otio")); err != nil {
		t.Error(err)
	}
}

// TestMedia: sound is served in ranges and never as anything a page could run.
func TestMedia(t *testing.T) {
	c := start(t, map[string]string{"a.wav": "0123456789", "b.wav": "no sound"})
	at := "/api/media?path=" + url.QueryEscape(filepath.Join(c.dir, "a.wav"))
	status, body, h := c.ask("GET", at, nil, "Range", "bytes=2-4")
	if status != http.StatusPartialContent || body != "234" || h.Get("Content-Type") != "audio/wav" || h.Get("X-Content-Type-Options") != "nosniff" {
		t.Error(status, body, h)
	}
	if status, body, _ := c.ask("GET", "/api/peaks?path="+url.QueryEscape(filepath.Join(c.dir, "b.wav")), nil); status != 422 || !strings.Contains(body, "b.wav") {
		t.Error(status, body)
	}
}

// TestEvents: a page hears of a trace as it happens: the job and the snapshot. One
// that is slow hears only how far each came.
func TestEvents(t *testing.T) {
	c := start(t, map[string]string{"cut.otio": timeline("a.wav")})
	resp, err := http.Get(c.url + "/api/events")
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	if ct := resp.Header.Get("Content-Type"); ct != "text/event-stream" {
		t.Error(ct)
	}
	events := make(chan api.Event, 100)
	go func() {
		defer close(events)
		sc := bufio.NewScanner(resp.Body)
		for sc.Scan() {
			if data, ok := strings.CutPrefix(sc.Text(), "data: "); ok {
				var e api.Event
				if json.Unmarshal([]byte(data), &e) == nil {
					events <- e
				}
			}
		}
	}()
	p := send[api.Project](c, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(c.dir, "cut.otio")}})
	done, snapshot := false, false
	late := time.After(10 * time.Second)
	for !done || !snapshot {
		select {
		case e := <-events:
			done = done || e.Type == api.EventJob && e.Job.State == api.Done && e.Project == p.ID
			snapshot = snapshot || e.Type == api.EventSnapshot && strings.HasSuffix(string(e.Snapshot), "-1")
		case <-late:
			t.Fatal("the page did not hear of it", done, snapshot)
		}
	}
}
