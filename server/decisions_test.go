package server_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
)

func list(names ...string) string { return "#EXTM3U\n" + strings.Join(names, "\n") + "\n" }

func (c *client) settled(project int64) tracing.Summary {
	c.t.Helper()
	c.wait(send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/trace", project), nil).Job.ID)
	return get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", project))
}

func (c *client) berths(project int64) map[string]packing.Berth {
	c.t.Helper()
	out := map[string]packing.Berth{}
	for _, l := range get[packing.Berths](c, fmt.Sprintf("/api/projects/%d/tables/berths", project)).Lines {
		out[l.Row.Was] = *l.Row
	}
	return out
}

// TestWishes: wishes said at the same time from many pages are all kept; those
// of many files are one act; each can be forgotten.
func TestWishes(t *testing.T) {
	files := map[string]string{}
	var names []string
	for i := range 12 {
		name := fmt.Sprintf("take %02d.wav", i)
		files[name], names = fmt.Sprint(i), append(names, name)
	}
	files["cut.m3u"] = list(names...)
	c := start(t, files)
	p := c.open("cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	berths := c.berths(p.ID)
	var all sync.WaitGroup
	for i, n := range names {
		all.Go(func() {
			name := fmt.Sprintf("renamed %02d.wav", i)
			if status, body, _ := c.ask("PUT", at+"/berths", packing.Wish{Keys: []string{berths[n].Key}, Name: &name}); status != http.StatusNoContent {
				t.Errorf("%s: %d %s", n, status, body)
			}
		})
	}
	all.Wait()
	for i, n := range names {
		if b := c.berths(p.ID)[n]; b.Name != fmt.Sprintf("renamed %02d.wav", i) || !b.Wished {
			t.Errorf("%s: %+v", n, b)
		}
	}
	// Three at once: a folder, and that they stay.
	keys := []string{berths[names[0]].Key, berths[names[1]].Key, berths[names[2]].Key}
	folder, stays := "horns", true
	send[any](c, "PUT", at+"/berths", packing.Wish{Keys: keys, Folder: &folder})
	b := c.berths(p.ID)
	for _, n := range names[:3] {
		if b[n].Folder != folder || !strings.HasPrefix(b[n].Name, "renamed") {
			t.Errorf("%s: %+v", n, b[n])
		}
	}
	send[any](c, "PUT", at+"/berths", packing.Wish{Keys: keys, Stays: &stays})
	if s := get[packing.Stow](c, at+"/stow"); s.Files != 1+len(names)-3 {
		t.Errorf("%d files travel", s.Files)
	}
	send[any](c, "POST", at+"/undo", nil) // one act
	if s := get[packing.Stow](c, at+"/stow"); s.Files != 1+len(names) {
		t.Errorf("%d files travel after the undo", s.Files)
	}
	send[any](c, "POST", at+"/redo", nil)
	if s := get[packing.Stow](c, at+"/stow"); s.Files != 1+len(names)-3 {
		t.Errorf("%d files travel after the redo", s.Files)
	}
	send[any](c, "PUT", at+"/berths", packing.Wish{Keys: keys, Reset: true})
	if b := c.berths(p.ID)[names[0]]; b.Wished || b.Stays || b.Folder != "audio" {
		t.Errorf("after the reset: %+v", b)
	}
	// A name is for one file alone, and a key must be one.
	name := "x.wav"
	for _, w := range []packing.Wish{{Keys: keys, Name: &name}, {Keys: nil, Folder: &folder}, {Keys: []string{"none"}, Folder: &folder}} {
		if status, _, _ := c.ask("PUT", at+"/berths", w); status < 400 || status >= 500 {
			t.Errorf("%+v: %d", w, status)
		}
	}
	d := get[mending.Decisions](c, at+"/decisions")
	if len(d.List) < len(names)+7 || !d.CanUndo || d.CanRedo || d.List[0].Say == "" {
		t.Errorf("%+v", d)
	}
}

// TestMoves: one decision heals a folder that went elsewhere as a whole, and
// takes it back as a whole.
func TestMoves(t *testing.T) {
	c := start(t, map[string]string{
		"p/cut.m3u": list("fx/a.wav", "fx/b.wav", "fx/deep/c.wav", "fx/none.wav"), "effects/a.wav": "a", "effects/b.wav": "b", "effects/deep/c.wav": "c",
	})
	p := c.open("p/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	if s := get[tracing.Summary](c, at); s.ToFind != 4 {
		t.Fatalf("%+v", s)
	}
	c.wait(send[api.Started](c, "POST", at+"/moves", mending.MoveFolder{From: c.dir + "/p/fx", To: c.dir + "/effects"}).Job.ID)
	s := get[tracing.Summary](c, at)
	if s.ToFind != 1 || !s.CanUndo {
		t.Errorf("%+v", s)
	}
	m := get[mending.Mend](c, at+"/mend")
	if len(m.Repairs) != 1 || !m.Repairs[0].Prefix || !m.Repairs[0].Live {
		t.Errorf("%+v", m.Repairs)
	}
	send[any](c, "POST", at+"/undo", nil)
	if s := c.settled(p.ID); s.ToFind != 4 || !s.CanRedo {
		t.Errorf("%+v", s)
	}
	for _, bad := range []mending.MoveFolder{{From: "", To: c.dir}, {From: c.dir, To: c.dir}, {From: c.dir + "/p/fx", To: c.dir + "/nowhere"}, {From: c.dir + "/p/fx", To: "/outside"}} {
		if status, body, _ := c.ask("POST", at+"/moves", bad); status < 400 || status >= 500 {
			t.Errorf("%+v: %d %s", bad, status, body)
		}
	}
}

// TestSeveralDocuments: the documents of a project are a ledger like all others;
// the one it begins with has a slip of its own.
func TestSeveralDocuments(t *testing.T) {
	c := start(t, map[string]string{"a.m3u": list("x.wav", "in.m3u"), "b.m3u": list("x.wav"), "in.m3u": list("none.wav"), "x.wav": "x"})
	p := send[api.Project](c, "POST", "/api/projects", api.NewProject{Documents: []string{c.dir + "/a.m3u", c.dir + "/b.m3u"}})
	c.settled(p.ID)
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	docs := get[tracing.DocumentList](c, at+"/tables/documents?sort=-depth")
	if docs.Rows != 3 || docs.Lines[0].Row.Name != "in.m3u" || docs.Lines[0].Row.Depth != 1 || docs.Lines[0].Row.Open != 1 {
		t.Errorf("%+v", docs)
	}
	for _, l := range docs.Lines {
		slip := get[tracing.Slip](c, at+"/slip?key="+url.QueryEscape(l.Row.Key))
		if slip.Row.Name != l.Row.Name || slip.Say == "" || slip.Path == "" {
			t.Errorf("%+v", slip)
		}
	}
	if k := get[api.Stretch](c, at+"/tables/documents/stretch?filter=in.m3u"); k.Rows != 1 || k.First != 0 || k.Head == "" {
		t.Errorf("%+v", k)
	}
	status, csv, _ := c.ask("GET", at+"/csv/documents.csv", nil)
	if status != 200 || strings.Count(csv, "\n") != 4 || !strings.HasPrefix(csv, "document,folder,format") {
		t.Errorf("%d %s", status, csv)
	}
	x := get[tracing.Files](c, at+"/tables/files?filter=x.wav&group=none")
	if x.Rows != 1 || x.Lines[0].Row.Uses != 2 {
		t.Errorf("%+v", x)
	}
	// What is wanted is no more once it is found elsewhere.
	if w := get[mending.Wanted](c, at+"/wanted?key="+url.QueryEscape(c.dir+"/x.wav")); w.Row != nil {
		t.Errorf("%+v", w)
	}
	if status, _, _ := c.ask("GET", at+"/tables/nonsense", nil); status != 404 {
		t.Error(status)
	}
}
