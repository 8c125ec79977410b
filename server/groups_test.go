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
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
)

// TestGroupsMended: a renamed folder is one group; what is taken out stays missing,
// the rest is one act that is undone as one; a repair by hand offers what follows
// from it; the lines are told before they are written.
func TestGroupsMended(t *testing.T) {
	files := map[string]string{"film/cut.otio": timeline("wood/gull far.wav", "wood/winch near.wav", "wood/low horn.wav", "fx/east bell.wav", "fx/west bell.wav", "fx/north bell.wav")}
	for _, n := range []string{"gull far", "winch near", "low horn"} {
		files["attic/wood/HF "+n+".wav"] = n
	}
	for _, n := range []string{"east", "west", "north"} {
		files["shelf/x/"+n+" ring.wav"] = n // a name that none would think of
	}
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{c.dir}}).Job.ID)
	m := get[mending.Mend](c, at+"/mend")
	if len(m.Groups) == 0 || m.Groups[0].Files != 3 || m.Groups[0].Renamed != "with “HF ” before the name" || m.Groups[0].Certainty != mend.Likely || m.Missing != 6 {
		t.Fatalf("%+v", m)
	}
	g := get[mending.GroupFiles](c, at+"/group?key="+url.QueryEscape(m.Groups[0].Key))
	if len(g.List) != 3 || g.List[0].Found != "HF "+g.List[0].Name {
		t.Errorf("%+v", g)
	}
	c.wait(send[api.Started](c, "POST", at+"/group", mending.MendGroup{Key: m.Groups[0].Key, Without: []string{filepath.Join(c.dir, "film/wood/low horn.wav")}}).Job.ID)
	if s := get[tracing.Summary](c, at); s.ToFind != 4 {
		t.Errorf("%d to find", s.ToFind)
	}
	told := send[mending.WriteResult](c, "POST", at+"/write", mending.WriteRepairs{Snapshot: c.snapshot(at), Try: true})
	if len(told.Lines) != 2 || !strings.Contains(told.Lines[0].Becomes, "HF") || len(told.Written) != 0 {
		t.Errorf("%+v", told)
	}
	if b, err := os.ReadFile(filepath.Join(c.dir, "film/cut.otio")); err != nil || strings.Contains(string(b), "HF") {
		t.Error("what was only told was written", err)
	}
	send[any](c, "POST", at+"/undo", nil)
	if s := c.settled(p.ID); s.ToFind != 6 {
		t.Errorf("undone, %d to find", s.ToFind)
	}
	// By hand; the others follow.
	send[mending.Chosen](c, "POST", at+"/repairs", mending.Choose{Expected: filepath.Join(c.dir, "film/fx/east bell.wav"), Path: filepath.Join(c.dir, "shelf/x/east ring.wav"), Despite: true})
	c.settled(p.ID)
	m = get[mending.Mend](c, at+"/mend")
	if len(m.Groups) == 0 || m.Groups[0].Files != 2 || m.Groups[0].To != filepath.Join(c.dir, "shelf/x") {
		t.Fatalf("%+v", m.Groups)
	}
	c.wait(send[api.Started](c, "POST", at+"/group", mending.MendGroup{Key: m.Groups[0].Key}).Job.ID)
	if s := get[tracing.Summary](c, at); s.ToFind != 3 {
		t.Errorf("followed, %d to find", s.ToFind)
	}
	if status, _, _ := c.ask("POST", at+"/group", mending.MendGroup{Key: m.Groups[0].Key}); status != 409 {
		t.Errorf("mended twice: %d", status)
	}
}

// TestTwoPeople: of two acts on one file at once one holds, and undoing takes all of it
// back; what one project mended is offered to another that misses the same.
func TestTwoPeople(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("../wood/gull.wav"), "trailer/cut.otio": timeline("../wood/gull.wav", "../wood/none.wav"), "attic/gull.wav": "g", "shelf/other.wav": "o",
	})
	film, trailer := c.open("film/cut.otio"), c.open("trailer/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", film.ID)
	expected := filepath.Join(c.dir, "wood/gull.wav")
	status := make(chan int)
	for _, to := range []string{"attic/gull.wav", "shelf/other.wav"} {
		go func() {
			code, _, _ := c.ask("POST", at+"/repairs", mending.Choose{Expected: expected, Path: filepath.Join(c.dir, to), Despite: true})
			status <- code
		}()
	}
	if got := []int{<-status, <-status}; !slices.Contains(got, 200) || !slices.Contains(got, 409) {
		t.Errorf("%v", got)
	}
	c.settled(film.ID)
	m := get[mending.Mend](c, at+"/mend")
	if len(m.Repairs) != 1 || len(m.Others) != 1 || m.Others[0].ID != trailer.ID || m.Others[0].Missing != 1 {
		t.Errorf("%+v", m)
	}
	there := fmt.Sprintf("/api/projects/%d", trailer.ID)
	offer := get[mending.Mend](c, there+"/mend")
	if len(offer.Groups) != 1 || offer.Groups[0].Files != 1 || offer.Groups[0].Certainty != mend.Likely || offer.Suggest[0].Path != offer.Groups[0].To {
		t.Fatalf("%+v", offer)
	}
	c.wait(send[api.Started](c, "POST", there+"/group", mending.MendGroup{Key: offer.Groups[0].Key, Despite: true}).Job.ID)
	if s := get[tracing.Summary](c, there); s.ToFind != 1 {
		t.Errorf("%d to find", s.ToFind)
	}
	if m = get[mending.Mend](c, at+"/mend"); len(m.Others) != 0 {
		t.Errorf("still told: %+v", m.Others)
	}
	send[any](c, "POST", at+"/undo", nil)
	if s := c.settled(film.ID); s.ToFind != 1 {
		t.Errorf("undone, %d to find", s.ToFind)
	}
}

// TestSetAside: with a reason it does not count, and comes back with one act.
func TestSetAside(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "b.wav"), "film/a.wav": "a"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	b := filepath.Join(c.dir, "film/b.wav")
	for _, bad := range []mending.SetAside{{Expected: []string{b}, Why: "because"}, {Expected: []string{filepath.Join(c.dir, "film/a.wav")}, Why: decide.Later}, {Why: decide.Later}} {
		if status, body, _ := c.ask("POST", at+"/aside", bad); status < 400 || status >= 500 {
			t.Errorf("%+v: %d %s", bad, status, body)
		}
	}
	c.wait(send[api.Started](c, "POST", at+"/aside", mending.SetAside{Expected: []string{b}, Why: decide.Later}).Job.ID)
	m := get[mending.Mend](c, at+"/mend")
	if m.Missing != 0 || len(m.Aside) != 1 || m.Aside[0].Says != "will be supplied later" {
		t.Fatalf("%+v", m)
	}
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: filepath.Join(c.dir, "crate")}).Job.ID)
	told := false
	sheets, _ := filepath.Glob(filepath.Join(c.dir, "crate", "*.txt"))
	for _, f := range sheets {
		b, err := os.ReadFile(f)
		told = told || err == nil && strings.Contains(string(b), "set aside: will be supplied later")
	}
	if !told {
		t.Errorf("none of %q says why it is missing", sheets)
	}
	send[any](c, "DELETE", fmt.Sprintf("%s/repairs/%d", at, m.Aside[0].ID), nil)
	if s := c.settled(p.ID); s.ToFind != 1 {
		t.Errorf("brought back, %d to find", s.ToFind)
	}
}

// TestSuspect: a file that changed in place is to be looked at until somebody says
// that it is meant, and again when it changes once more.
func TestSuspect(t *testing.T) {
	c := start(t, map[string]string{"cut.otio": timeline("a.wav"), "a.wav": "as it was"})
	p := c.open("cut.otio")
	at, a := fmt.Sprintf("/api/projects/%d", p.ID), filepath.Join(c.dir, "a.wav")
	change := func(to string) {
		t.Helper()
		if err := os.WriteFile(a, []byte(to), 0o644); err != nil {
			t.Fatal(err)
		}
		c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	}
	for _, content := range []string{"as it is!", "longer than it was"} {
		change(content)
		for range 2 { // not only once
			if s := get[tracing.Summary](c, at); s.ToFind != 1 {
				t.Errorf("%q: %d to find", content, s.ToFind)
			}
			change(content)
		}
		c.wait(send[api.Started](c, "POST", at+"/meant", mending.SayMeant{Expected: a}).Job.ID)
		if s := get[tracing.Summary](c, at); s.ToFind != 0 {
			t.Errorf("%q is meant, and %d to find", content, s.ToFind)
		}
	}
	change("as it was")
	if s := get[tracing.Summary](c, at); s.ToFind != 0 {
		t.Errorf("as it was again, and %d to find", s.ToFind)
	}
}

// TestSpell: loose spellings are repaired as one act, and written the document names its
// file exactly.
func TestSpell(t *testing.T) {
	c := start(t, map[string]string{"cut.otio": timeline("Gull%20CRY.wav", "b.wav"), "gull cry.wav": "gull", "b.wav": "b"})
	p := c.open("cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	m := get[mending.Mend](c, at+"/mend")
	if len(m.Loose) != 1 || m.Loose[0].Is != "gull cry.wav" {
		t.Fatalf("%+v", m.Loose)
	}
	c.wait(send[api.Started](c, "POST", at+"/spell", nil).Job.ID)
	if m = get[mending.Mend](c, at+"/mend"); len(m.Loose) != 0 || len(m.Repairs) != 1 {
		t.Errorf("%+v", m)
	}
	if status, _, _ := c.ask("POST", at+"/spell", nil); status != 409 {
		t.Errorf("spelled twice: %d", status)
	}
	send[mending.WriteResult](c, "POST", at+"/write", mending.WriteRepairs{Snapshot: c.snapshot(at)})
	b, err := os.ReadFile(filepath.Join(c.dir, "cut.otio"))
	if err != nil || !strings.Contains(string(b), `"gull%20cry.wav"`) {
		t.Errorf("%v %s", err, b)
	}
}
