package server_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/core/pack/sift"
)

// TestRecipes: five come along and say what they do; one is used, and what differs by
// now is told; the present choices are kept under a name, take the place of one that
// comes along, and go again; one that cannot be followed is refused with its line.
func TestRecipes(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "b.wav"), "film/a.wav": "a", "film/b.wav": "b", "film/notes.txt": "n"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	asked := fmt.Sprintf("/api/recipes?project=%d", p.ID)
	list := get[packing.Recipes](c, asked).List
	if len(list) != 5 || slices.ContainsFunc(list, func(r packing.Recipe) bool { return r.Own || r.Says == "" || r.Text == "" || r.Problem != "" }) {
		t.Fatalf("%+v", list)
	}
	s := send[packing.Stow](c, "POST", at+"/recipe", packing.UseRecipe{Name: "archive"})
	if s.Options.Recipe != "archive" || !slices.Contains(s.Options.Also, "strays") || s.Options.Layout != "stands" {
		t.Errorf("%+v", s.Options)
	}
	s.Options.Prefix = "x "
	if s = send[packing.Stow](c, "PUT", at+"/stow", s.Options); s.Options.Recipe != "archive" {
		t.Errorf("%+v", s.Options)
	}
	differs := func(name string) (keys []string) {
		for _, r := range get[packing.Recipes](c, asked).List {
			if r.Name == name {
				for _, d := range r.Differs {
					keys = append(keys, d.Key)
				}
			}
		}
		return keys
	}
	if d := differs("archive"); !slices.Equal(d, []string{"prefix"}) {
		t.Errorf("%v", d)
	}
	send[any](c, "PUT", "/api/recipes", packing.SetRecipe{Name: "archive", Project: p.ID})
	if d := differs("archive"); len(d) != 0 {
		t.Errorf("%v", d)
	}
	send[any](c, "DELETE", "/api/recipes/archive", nil)
	if d := differs("archive"); !slices.Equal(d, []string{"prefix"}) {
		t.Errorf("%v", d)
	}
	for _, x := range []struct {
		in     packing.SetRecipe
		status int
		word   string
	}{
		{packing.SetRecipe{Name: "bad", Text: "layout: kind\nlaeve: []\n"}, 422, "line 2"}, {packing.SetRecipe{Name: "../x", Text: "layout: kind\n"}, 400, "up to 64"}, {packing.SetRecipe{Name: "bad", Text: "layout: \"{kind}/{nmae}\"\n"}, 422, "column 8"},
		{packing.SetRecipe{Name: "bad", Text: "sound: {rate: 47000}\n"}, 422, "48000"}, {packing.SetRecipe{Name: "bad", Text: "interchange: [aaf]\n"}, 422, "edl"},
	} {
		if status, body, _ := c.ask("PUT", "/api/recipes", x.in); status != x.status || !strings.Contains(body, x.word) {
			t.Errorf("%+v: %d %s", x.in, status, body)
		}
	}
	if status, _, _ := c.ask("POST", at+"/recipe", packing.UseRecipe{Name: "none"}); status != 404 {
		t.Error(status)
	}
	if status, _, _ := c.ask("DELETE", "/api/recipes/none", nil); status != 404 {
		t.Error(status)
	}

	// An archive on the project's own drive wants a second word.
	out := filepath.Join(c.dir, "crate")
	if status, body, _ := c.ask("POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: out}); status != 409 || !strings.Contains(body, "own drive") {
		t.Errorf("%d %s", status, body)
	}
	if d := get[packing.Destination](c, at+"/destination?out="+out); !d.OK || !d.Same {
		t.Errorf("%+v", d)
	}
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: out, Despite: true}).Job.ID)
	if _, err := os.Stat(filepath.Join(out, "data", "notes.txt")); err != nil {
		t.Error(err)
	}
}

// TestStrays: what nothing names is listed as it lies there, adopted and left again,
// which is undone as one; what is put away waits in the holding folder and comes back,
// and what a document names is never put away.
func TestStrays(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut-02.otio": timeline("a.wav", "twin.wav"), "film/a.wav": "same", "film/twin.wav": "same", "film/take.wav": "t", "film/notes.txt": "n", "film/cut-01.otio": timeline("take.wav"),
	})
	p := c.open("film/cut-02.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	path := func(n string) string { return filepath.Join(c.dir, "film", n) }
	until(c, at+"/stow", "the twins", func(s packing.Stow) bool { return s.Twins.Known })
	s := get[packing.Strays](c, at+"/strays")
	var got []string
	for _, x := range s.List {
		got = append(got, x.Name+" "+string(x.What))
	}
	slices.Sort(got)
	if !slices.Equal(got, []string{"cut-01.otio editions", "notes.txt strays", "take.wav strays"}) || len(s.Duplicates) != 1 || len(s.Duplicates[0].Labels) != 2 {
		t.Fatalf("%q %+v", got, s.Duplicates)
	}
	send[any](c, "POST", at+"/adopt", packing.Adopt{Paths: []string{path("take.wav"), path("notes.txt")}, Travels: true})
	if st := get[packing.Stow](c, at+"/stow"); st.AlongBytes != 2 || st.Files != 5 {
		t.Errorf("%d bytes go along, %d files", st.AlongBytes, st.Files)
	}
	send[any](c, "POST", at+"/undo", nil)
	c.settled(p.ID)
	if st := get[packing.Stow](c, at+"/stow"); st.AlongBytes != 0 || len(st.GivesUp) != 3 || st.ForArchive {
		t.Errorf("%+v", st.GivesUp)
	}
	for _, bad := range []packing.Adopt{{Paths: []string{path("a.wav")}, Travels: true}, {Paths: []string{"/etc/passwd"}, Travels: true}} {
		if status, _, _ := c.ask("POST", at+"/adopt", bad); status != 409 {
			t.Errorf("%v: %d", bad.Paths, status)
		}
	}
	// The older cut names the take: it stays, though the project does not name it.
	c.wait(send[api.Started](c, "POST", at+"/putaway", packing.PutAway{Snapshot: c.snapshot(at), Paths: []string{path("take.wav"), path("notes.txt")}, Days: 1}).Job.ID)
	if _, err := os.Stat(path("take.wav")); err != nil {
		t.Error("what a document names was put away", err)
	}
	if _, err := os.Stat(path("notes.txt")); err == nil {
		t.Error("what nothing names is still there")
	}
	held := get[overview.HeldList](c, "/api/held")
	if len(held.List) != 1 || held.List[0].Files != 1 {
		t.Fatalf("%+v", held)
	}
	send[any](c, "POST", fmt.Sprintf("/api/held/%d/back", held.List[0].ID), nil)
	if b, err := os.ReadFile(path("notes.txt")); err != nil || string(b) != "n" {
		t.Errorf("%s %v", b, err)
	}
	for _, bad := range []packing.PutAway{{Paths: []string{path("a.wav")}, Days: 1}, {Paths: []string{path("notes.txt")}}, {Days: 1}, {Paths: []string{path("cut-01.otio")}, Days: 1}} {
		bad.Snapshot = c.snapshot(at)
		if status, _, _ := c.ask("POST", at+"/putaway", bad); status != 400 && status != 409 {
			t.Errorf("%+v: %d", bad, status)
		}
	}
	// Of the twins one travels, and each document's switch is there for nested ones.
	st := get[packing.Stow](c, at+"/stow")
	st.Options.Leave.Twice = true
	send[packing.Stow](c, "PUT", at+"/stow", st.Options)
	// The files that came back made a new look; what is there twice is compared anew.
	st = until(c, at+"/stow", "one of the twins to stay", func(s packing.Stow) bool { return s.Twins.Known && s.Files == 2 })
	if st.Twins.Files != 1 || st.Twins.Bytes != 4 {
		t.Errorf("%+v", st.Twins)
	}
	b := get[packing.Berths](c, at+"/tables/berths?group=none&why="+string(sift.IsTwice))
	if b.Total != 1 || !b.Lines[0].Row.Stays || !strings.Contains(b.Lines[0].Row.WhyWord, "duplicate") {
		t.Errorf("%+v", b)
	}
}
