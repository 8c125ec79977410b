package server_test

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/say/words"
)

// TestAccept: the first candidates of chosen files are taken as one act; a doubtful one only
// where that is said, and what has none stays.
func TestAccept(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("gull.wav", "horn.wav", "rope.wav", "none.wav", "../away/rope.wav"),
		"away/gull.wav": "gull", "away/horn.wav": "horn", "away/rope.wav": "rope",
	})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{filepath.Join(c.dir, "away")}}).Job.ID)
	list := get[mending.WantedList](c, at+"/tables/wanted?group=none")
	all := &api.Rows{Snapshot: list.Snapshot, Group: "none"}
	tried := send[mending.Accepted](c, "POST", at+"/accept", mending.Accept{Rows: all, Try: true})
	if tried.None != 1 || len(tried.List) != 3 || tried.Doubts != 1 || !tried.List[0].Doubtful || tried.Files != 2 || tried.Applied {
		t.Fatalf("%+v", tried)
	}
	out := tried.List[2].Expected
	if got := send[mending.Accepted](c, "POST", at+"/accept", mending.Accept{Rows: all, Without: []string{out}}); !got.Applied || got.Files != 1 {
		t.Errorf("%+v", got)
	}
	until(c, at, "one relinked", func(s tracing.Summary) bool { return s.ToFind == 3 })
	c.refusals(refused{
		{"POST", at + "/accept", mending.Accept{Rows: all}, 409}, // chosen on an older snapshot
		{"POST", at + "/accept", mending.Accept{Keys: []string{"nobody"}}, 400},
	})
	if got := send[mending.Accepted](c, "POST", at+"/accept", mending.Accept{Keys: []string{tried.List[0].Expected, out}, Despite: true}); got.Files != 2 {
		t.Errorf("%+v", got)
	}
	until(c, at, "all but the one that is nowhere", func(s tracing.Summary) bool { return s.ToFind == 1 })
	send[any](c, "POST", at+"/undo", nil)
	until(c, at, "one act taken back", func(s tracing.Summary) bool { return s.ToFind == 3 })
}

// TestOmitted: what was set aside or left out by choice is told as left out on purpose and not as
// missing, and whoever opens the received documents is not asked to find it.
func TestOmitted(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "gone.wav", "lost.wav"), "film/a.wav": "a"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	key := c.key("film/gone.wav")
	send[api.Started](c, "POST", at+"/aside", mending.SetAside{Expected: []string{filepath.Join(c.dir, "film/gone.wav")}, Why: "not-needed"})
	until(c, at, key+" aside", func(s tracing.Summary) bool { return s.ToFind == 1 })
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: filepath.Join(c.dir, "crate")}).Job.ID)
	if s := get[packing.Sealed](c, at+"/sealed"); s.Well || s.Omitted != 1 || len(s.Report.Problems) != 2 {
		t.Errorf("%+v", s)
	}
	j := send[api.Started](c, "POST", "/api/receive", packing.ReceiveRequest{Crate: filepath.Join(c.dir, "crate"), Into: filepath.Join(c.dir, "in")})
	c.wait(j.Job.ID)
	r := get[packing.Received](c, "/api/jobs/"+j.Job.ID+"/result")
	if r.Omitted != 1 || !slices.ContainsFunc(r.Report.Problems, func(p words.Problem) bool { return p.Code == "left-out" }) {
		t.Errorf("%+v", r)
	}
	q := c.open("in/crate/data/cut.otio")
	if s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", q.ID)); s.Missing != 2 || s.ToFind != 1 {
		t.Errorf("%+v", s.Tally)
	}
}

// TestPlainLists: what pages show in a form of their own can be had whole, as CSV.
func TestPlainLists(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "gone.wav"), "film/a.wav": "a", "film/stray, one.txt": "s"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	until(c, at+"/stow", "what nothing names", func(s packing.Stow) bool { return !s.Seeking })
	for name, want := range map[string]string{"strays": `"stray, one.txt"`, "left": "gone.wav", "points": "track or output", "problems": "what to do"} {
		if status, body, _ := c.ask("GET", at+"/csv/"+name+".csv", nil); status != 200 || !strings.Contains(body, want) {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
	// As a page for paper, and filtered and sorted on screen.
	if status, body, h := c.ask("GET", at+"/print/left", nil); status != 200 || !strings.Contains(body, "gone.wav") || strings.Contains(body, "<script") || !strings.Contains(h.Get("Content-Security-Policy"), "style-src 'sha256-") {
		t.Errorf("%d %s %v", status, body, h)
	}
	for query, want := range map[string]int{"": 1, "?filter=stray&sort=-size": 1, "?filter=nothing": 0} {
		if s := get[packing.Strays](c, at+"/strays"+query); len(s.List) != want || s.Files != want {
			t.Errorf("%s: %+v", query, s)
		}
	}
	c.refusals(refused{{"GET", at + "/csv/nothing.csv", nil, 404}, {"GET", at + "/print/nothing", nil, 404}, {"GET", at + "/strays?sort=nothing", nil, 400}})
}

// TestDropped: a file that is dropped on the window is found by its name and size, wherever the
// index has it; another of the same name is not taken for it.
func TestDropped(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "old/cut.m3u": "#EXTM3U\nlonger.wav\n", "film/crate.zip": "PK"})
	id := get[api.AppState](c, "/api/state").Drives[0].ID
	c.wait(send[api.Started](c, "POST", "/api/drives/"+id+"/index", nil).Job.ID)
	got := send[overview.DroppedList](c, "POST", "/api/dropped", overview.Dropped{Files: []overview.DroppedName{{Name: "cut.m3u", Size: 14}, {Name: "crate.zip", Size: 2}, {Name: "gone.m3u", Size: 3}}})
	if len(got.List) != 2 || got.List[0].Label != "Bench/film/cut.m3u" || got.List[0].Format == "" || !got.List[1].Archive || !slices.Equal(got.NotFound, []string{"gone.m3u"}) {
		t.Errorf("%+v", got)
	}
	c.refusals(refused{{"POST", "/api/dropped", overview.Dropped{}, 400}})
}
