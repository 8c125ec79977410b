package server_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/tracing"
)

// entries are the lines of a folder: its folders, then its files with what they
// open as.
func (c *client) entries(dir string) (list []string) {
	c.t.Helper()
	for _, e := range get[api.Folder](c, "/api/browse?path="+url.QueryEscape(dir)).Entries {
		line := e.Name
		switch {
		case e.Gone:
			line += " (gone)"
		case e.Folder:
			line += "/"
		case e.Format != "":
			line += ": " + e.Format
		}
		list = append(list, line)
	}
	return list
}

// TestBrowse: a person sees folders and files, and of each file as what it would
// open; by what is in it first, by its name second; nothing outside the drives.
func TestBrowse(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": `{"OTIO_SCHEMA": "Timeline.1"}`, "film/reel.txt": "TITLE: X\nFCM: DROP FRAME\n001  TAPE V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n",
		"film/part of nothing.stp": "ISO-10303-21;HEADER;", "film/horn.wav": "RIFF", "film/.hidden": "x", "film/session.mix": "clip", "film/crate.partial/x": "x", "film/sub/x": "x",
		"film/mesh.stl": "solid",
	})
	if err := os.Symlink("/etc/hostname", filepath.Join(c.dir, "film/link")); err != nil {
		t.Fatal(err)
	}
	if got := c.entries(""); !slices.Equal(got, []string{"Bench/"}) {
		t.Errorf("%q", got)
	}
	want := []string{"sub/", "cut.otio: OpenTimelineIO timeline", "horn.wav", "mesh.stl", "part of nothing.stp: STEP assembly or part", "reel.txt: Edit decision list", "session.mix: Any other document"}
	if got := c.entries(filepath.Join(c.dir, "film")); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	f := get[api.Folder](c, "/api/browse?path="+url.QueryEscape(filepath.Join(c.dir, "film")))
	if f.Parent == nil || *f.Parent != c.dir || f.Label != "Bench/film" {
		t.Errorf("%+v", f)
	}
	if f := get[api.Folder](c, "/api/browse?path="+url.QueryEscape(c.dir)); f.Parent == nil || *f.Parent != "" {
		t.Errorf("above a drive stand the drives: %+v", f)
	}
	for _, bad := range []string{"/etc", filepath.Join(c.dir, ".."), filepath.Join(c.dir, "film/none"), filepath.Join(c.dir, "film/cut.otio")} {
		if status, body, _ := c.ask("GET", "/api/browse?path="+url.QueryEscape(bad), nil); status < 400 || status >= 500 || !strings.Contains(body, `"detail"`) {
			t.Errorf("%s: %d %s", bad, status, body)
		}
	}
}

// TestDrives: folders become drives by name; a real one is not unplugged by us.
func TestDrives(t *testing.T) {
	c := start(t, map[string]string{"a.m3u": "b.wav\n"})
	other := filepath.Join(filepath.Dir(c.dir), "quay")
	if err := os.Mkdir(other, 0o755); err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{"", "bench", "../x", "/no/such/folder", filepath.Join(c.dir, "a.m3u")} {
		if status, body, _ := c.ask("POST", "/api/drives", api.NewDrive{Dir: bad}); status != 400 || !strings.Contains(body, "Not a folder") {
			t.Errorf("%q: %d %s", bad, status, body)
		}
	}
	s := send[api.AppState](c, "POST", "/api/drives", api.NewDrive{Dir: " " + other + " "})
	i := slices.IndexFunc(s.Drives, func(d api.Drive) bool { return d.Name == "quay" })
	if i < 0 || s.Drives[i].Dir != other || !s.Drives[i].Connected || s.Drives[i].Total == 0 {
		t.Fatalf("%+v", s.Drives)
	}
	if status, body, _ := c.ask("POST", "/api/drives/"+s.Drives[i].ID+"/plug", api.Plug{Connected: false}); status != 409 || !strings.Contains(body, "by its cable") {
		t.Errorf("%d %s", status, body)
	}
	if status, _, _ := c.ask("POST", "/api/drives/none/plug", api.Plug{}); status != 404 {
		t.Error("an unknown drive was plugged", status)
	}
	// A drive that goes by itself is gone, and so is what lies on it.
	if err := os.Remove(other); err != nil {
		t.Fatal(err)
	}
	if got := c.entries(""); !slices.Contains(got, "quay (gone)") {
		t.Errorf("%q", got)
	}
}

// TestStop: work that was stopped says so and leaves the answer before it; work
// that nobody knows cannot be stopped.
func TestStop(t *testing.T) {
	files := map[string]string{}
	var list strings.Builder
	for i := range 300 {
		fmt.Fprintf(&list, "d%d/n.m3u\n", i)
		files[fmt.Sprintf("d%d/n.m3u", i)] = strings.Repeat("x.wav\n", 300)
	}
	files["all.m3u"] = list.String()
	c := start(t, files)
	p := c.open("all.m3u")
	before := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID))
	j := send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/trace", p.ID), nil).Job
	stopped := send[api.Started](c, "POST", "/api/jobs/"+j.ID+"/stop", nil).Job
	if stopped.State == api.Running {
		t.Errorf("%+v", stopped)
	}
	after := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID))
	if after.References != before.References || after.References != 300+300*300 || stopped.State == api.Stopped && after.Snapshot != before.Snapshot {
		t.Errorf("%+v, then %+v", before, after)
	}
	if status, _, _ := c.ask("POST", "/api/jobs/none/stop", nil); status != 404 {
		t.Error(status)
	}
}
