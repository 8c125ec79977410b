package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"testing"
	"time"

	"boundcrate/app"
	"boundcrate/app/api"
	"boundcrate/app/api/packing"
)

// TestSaying: before a server without patience a switch is answered before the documents are
// proved, and says so; once they are, sizes are no longer about. What takes longer is asked for
// where the answer said.
func TestSaying(t *testing.T) {
	files := map[string]string{}
	var names []string
	for i := range 200 {
		name := fmt.Sprintf("sound/take %03d.wav", i)
		names, files["film/"+name] = append(names, name), fmt.Sprint(i)
	}
	files["film/cut.otio"] = timeline(names...)
	c := start(t, files).served(app.Options{Patience: time.Nanosecond})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	proved := func(s packing.Stow) bool {
		if s.Saying && !s.About {
			t.Errorf("unproved, and its bytes are certain: %+v", s)
		}
		return !s.Saying && s.Files == 201
	}
	until(c, at+"/stow", "the documents to be proved", proved)
	o := get[packing.Stow](c, at+"/stow").Options
	o.Layout = "flat"
	if s := send[packing.Stow](c, "PUT", at+"/stow", o); s.Options.Layout != "flat" || s.Files != 201 {
		t.Errorf("%+v", s)
	}
	until(c, at+"/stow", "them to be proved again", proved)

	status, body, head := c.ask("GET", at+"/estimates", nil)
	for status == http.StatusAccepted {
		if head.Get("Location") == "" {
			t.Fatal("it goes on, and does not say where", body)
		}
		status, body, head = c.ask("GET", head.Get("Location"), nil)
	}
	var e packing.Estimates
	if err := json.Unmarshal([]byte(body), &e); err != nil || status != 200 || len(e.Archives) == 0 || e.Archives[0].Bytes == 0 {
		t.Errorf("%d %s", status, body)
	}
}

// TestUnplanned: where no plan can be made, a project at a glance says why; pages that ask again
// begin no job each time.
func TestUnplanned(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	if err := c.store.SetOptions(p.ID, "{ damaged"); err != nil {
		t.Fatal(err)
	}
	c = c.anew()
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	status, body := 200, ""
	for range 200 {
		if status, body, _ = c.ask("GET", at, nil); status != 200 {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	if status < 400 || body == "" {
		t.Errorf("%d %s", status, body)
	}
	for range 20 {
		_, _, _ = c.ask("GET", at, nil)
	}
	for _, j := range get[api.AppState](c, "/api/state").Jobs {
		if j.Kind == api.JobSay {
			t.Errorf("%+v", j)
		}
	}
}
