package server_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/places"
	"boundcrate/app/api/ruling"
	"boundcrate/app/api/tracing"
	"boundcrate/core/road/origin"
)

// refusals asks what must be refused, each with its status.
func (c *client) refusals(list []struct {
	method, path string
	in           any
	status       int
}) {
	c.t.Helper()
	for _, r := range list {
		if status, body, _ := c.ask(r.method, r.path, r.in); status != r.status {
			c.t.Errorf("%s %s %+v: %d, not %d: %s", r.method, r.path, r.in, status, r.status, body)
		}
	}
}

type refused = []struct {
	method, path string
	in           any
	status       int
}

// TestWrites: what writes into documents is refused where it would act on something
// else than was shown, outside the drives, or over something; nothing changes then.
func TestWrites(t *testing.T) {
	svg := `<svg xmlns="http://www.w3.org/2000/svg"><image id="stamp" href="data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="/></svg>`
	c := start(t, map[string]string{"film/list.csv": "path,role\ntakes,write\n../old,write\n", "film/plan.svg": svg, "film/there.png": "mine", "old/x.wav": "x"})
	list, plan := c.open("film/list.csv"), c.open("film/plan.svg")
	points := get[places.Points](c, fmt.Sprintf("/api/projects/%d/points", list.ID))
	if len(points.List) != 2 || points.List[0].Label != "Bench/old" || points.List[0].Says == "" {
		t.Fatalf("%+v", points)
	}
	inside := get[places.NoFiles](c, fmt.Sprintf("/api/projects/%d/inside", plan.ID))
	if len(inside.List) != 1 || inside.List[0].Name != "stamp.png" || inside.List[0].Why != "" {
		t.Fatalf("%+v", inside)
	}
	film := filepath.Join(c.dir, "film")
	out := func(folder, name string) places.WriteOut {
		return places.WriteOut{Snapshot: inside.Snapshot, Files: []places.OutFile{{Ref: inside.List[0].Ref, Folder: folder, Name: name}}}
	}
	at, in := fmt.Sprintf("/api/projects/%d/points", list.ID), fmt.Sprintf("/api/projects/%d/inside", plan.ID)
	if err := os.Symlink(filepath.Dir(c.dir), filepath.Join(film, "out")); err != nil {
		t.Fatal(err)
	}
	c.refusals(refused{
		{"POST", at, places.SetPoints{Snapshot: points.Snapshot + "1", Points: []int{0}}, 409},
		{"POST", at, places.SetPoints{Snapshot: points.Snapshot, Points: []int{7}}, 404},
		{"POST", at, places.SetPoints{Snapshot: points.Snapshot, Points: []int{0}, Folder: "/etc"}, 403},
		{"POST", at, places.SetPoints{Snapshot: points.Snapshot, Points: []int{0}, Folder: filepath.Join(film, "there.png")}, 400},
		{"POST", in, places.WriteOut{Snapshot: inside.Snapshot + "1"}, 409},
		{"POST", in, places.WriteOut{Snapshot: inside.Snapshot}, 400},
		{"POST", in, out(film, "there.png"), 409},
		{"POST", in, out(film, "../x.png"), 400},
		{"POST", in, out(film, ".hidden"), 400},
		{"POST", in, out("/etc", "x.png"), 403},
		{"POST", in, out(filepath.Join(film, "out"), "x.png"), 403},
		{"POST", in, out(filepath.Join(film, "there.png"), "x.png"), 400},
		{"POST", fmt.Sprintf("/api/projects/%d/putback", plan.ID), api.PutBack{Act: 1}, 404},
	})
	if b, _ := os.ReadFile(filepath.Join(film, "plan.svg")); string(b) != svg {
		t.Error("the drawing changed")
	}
	j := c.wait(send[api.Started](c, "POST", in, out(filepath.Join(film, "new folder"), "stamp.png")).Job.ID)
	if j.State != api.Done {
		t.Fatalf("%+v", j)
	}
	c.settle(plan.ID)
	s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", plan.ID))
	if s.Inside != 0 || s.LastAct == nil {
		t.Fatalf("%+v", s)
	}
	// What somebody wrote since is not undone by the way.
	if err := os.WriteFile(filepath.Join(film, "plan.svg"), []byte(strings.Replace(svg, "stamp", "seal", 1)), 0o644); err != nil {
		t.Fatal(err)
	}
	if status, body, _ := c.ask("POST", fmt.Sprintf("/api/projects/%d/putback", plan.ID), api.PutBack{Act: s.LastAct.ID}); status != 409 {
		t.Error(status, body)
	}
}

// TestDeclared: drives and folders are what a person says they are, and nothing
// that makes no sense.
func TestDeclared(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("../parts/bolt/r1/bolt.wav"), "parts/bolt/r1/bolt.wav": "1", "parts/bolt/r2/bolt.wav": "2"})
	p := c.open("film/cut.otio")
	cards := get[overview.DriveCards](c, "/api/drives")
	id := cards.List[0].Drive.ID
	odd := "floppy"
	c.refusals(refused{
		{"PUT", "/api/drives/" + id + "/set", overview.SetDrive{Kind: &odd}, 400},
		{"PUT", "/api/drives/none/set", overview.SetDrive{Kind: new("fixed")}, 404},
		{"PUT", "/api/drives/" + id + "/set", overview.SetDrive{Slowed: new(int64(5))}, 404}, // it is no stand-in
		{"POST", "/api/declared", overview.Declare{Path: filepath.Join(c.dir, "none"), Kind: origin.AsLibrary}, 404},
		{"POST", "/api/declared", overview.Declare{Path: "/etc", Kind: origin.AsLibrary}, 403},
		{"POST", "/api/declared", overview.Declare{Path: filepath.Join(c.dir, "film/cut.otio"), Kind: origin.AsLibrary}, 400},
		{"POST", "/api/declared", overview.Declare{Path: c.dir, Kind: "attic"}, 400},
		{"POST", "/api/drives/none/measure", nil, 404},
		{"PUT", "/api/projects/1/search", mending.SetSearch{Folders: []string{"/etc"}}, 403},
		{"PUT", "/api/habits", ruling.SetHabits{Text: "rebuildable: 3"}, 422},
	})
	send[overview.DriveCards](c, "POST", "/api/declared", overview.Declare{Path: filepath.Join(c.dir, "parts"), Kind: origin.AsStore})
	c.settle(p.ID)
	row := until(c, fmt.Sprintf("/api/projects/%d/tables/files", p.ID), "the store", func(f tracing.Files) bool {
		return len(f.Lines) > 1 && f.Lines[1].Row != nil && badge(*f.Lines[1].Row, tracing.BadgeStore)
	})
	if !badge(*row.Lines[1].Row, tracing.BadgeNewer) {
		t.Errorf("%+v", row.Lines[1].Row.Badges)
	}
	// A folder that nobody asked about is not taken, nor one that is needed.
	ask := c.wait(send[api.Started](c, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(c.dir, "parts")}).Job.ID)
	c.refusals(refused{
		{"POST", "/api/clearout/none/hold", overview.Hold{Days: 7}, 404},
		{"POST", "/api/clearout/" + ask.ID + "/hold", overview.Hold{Days: 7}, 409},
		{"POST", "/api/clearout/" + ask.ID + "/hold", overview.Hold{Days: 7, Reasons: []overview.Reason{{Of: "Bench/film/cut.otio", Why: " "}}}, 409},
		{"POST", "/api/clearout/" + ask.ID + "/hold", overview.Hold{Reasons: []overview.Reason{{Of: "Bench/film/cut.otio", Why: "it is over"}}}, 400},
		{"POST", "/api/clearout/" + ask.ID + "/hold", overview.Hold{Days: 90_000, Reasons: []overview.Reason{{Of: "Bench/film/cut.otio", Why: "it is over"}}}, 400},
		{"POST", "/api/held/9/back", nil, 404},
	})
	// Whoever came to need it since is asked about once more.
	late := filepath.Join(c.dir, "late.m3u8")
	if err := os.WriteFile(late, []byte("parts/bolt/r2/bolt.wav\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	c.open("late.m3u8")
	c.refusals(refused{{"POST", "/api/clearout/" + ask.ID + "/hold", overview.Hold{Days: 7, Reasons: []overview.Reason{{Of: "Bench/film/cut.otio", Why: "it is over"}}}, 409}})
	ask = c.wait(send[api.Started](c, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(c.dir, "parts")}).Job.ID)
	held := send[overview.HeldList](c, "POST", "/api/clearout/"+ask.ID+"/hold", overview.Hold{Days: 7, Reasons: []overview.Reason{{Of: "Bench/film/cut.otio", Why: "it is over"}, {Of: "Bench/late.m3u8", Why: "it is over"}}})
	// What the database forgot the drive tells.
	if err := c.store.Dropped(held.List[0].ID); err != nil {
		t.Fatal(err)
	}
	was := held.List[0]
	held = send[overview.HeldList](c, "GET", "/api/held", nil)
	if len(held.List) != 1 || held.List[0].Label != was.Label || !held.List[0].Until.Equal(was.Until) || len(held.List[0].Reasons) != 2 {
		t.Fatalf("%+v, was %+v", held, was)
	}
	if len(held.List) != 1 || !held.List[0].There || held.List[0].Over || held.List[0].Label != "Bench/parts" {
		t.Fatalf("%+v", held)
	}
	c.refusals(refused{{"POST", fmt.Sprintf("/api/held/%d/erase", held.List[0].ID), nil, 409}})
	if back := send[overview.HeldList](c, "POST", fmt.Sprintf("/api/held/%d/back", held.List[0].ID), nil); len(back.List) != 0 {
		t.Errorf("%+v", back)
	}
	if _, err := os.Stat(filepath.Join(c.dir, "parts/bolt/r2/bolt.wav")); err != nil {
		t.Error(err)
	}
}

// TestStock: every project has its health after one look, and a document that no
// project has is found, but none that another names.
func TestStock(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("a.wav", "gone.wav", "inner.otio"), "film/a.wav": "a", "film/inner.otio": timeline("a.wav"),
		"song/list.csv": "path,role\nx.wav,read\n../old/takes,write\n", "song/x.wav": "x", "notes/empty.csv": "path\n", "broken/cut.otio": "{",
	})
	p := c.open("film/cut.otio")
	c.wait(send[api.Started](c, "POST", "/api/stock", nil).Job.ID)
	got := map[string]string{}
	for _, g := range get[overview.Stock](c, "/api/stock").Groups {
		for _, r := range g.Rows {
			if r.Health == nil {
				t.Errorf("%s was not looked at", r.Name)
				continue
			}
			got[r.Label] = fmt.Sprintf("%v %d %d %v", r.Project != nil && r.Project.ID == p.ID, r.Health.Missing, r.Health.WritesOut, r.Health.Error != "")
		}
	}
	for label, want := range map[string]string{"Bench/film/cut.otio": "true 1 0 false", "Bench/film/inner.otio": "", "Bench/notes/empty.csv": "", "Bench/broken/cut.otio": "false 0 0 true"} {
		if got[label] != want {
			t.Errorf("%s: %q, not %q", label, got[label], want)
		}
	}
}
