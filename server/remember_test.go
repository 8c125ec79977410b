package server_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/tracing"
	"boundcrate/core/road/decide"
)

// TestLookWhileReading: while the contents of something huge are read, a look is a look: a file
// that is deleted is missing, and a decision is taken, though the reading goes on. It is not begun
// anew by either, and reads what came meanwhile once it is done.
func TestLookWhileReading(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\nhuge.wav\na.wav\nb.wav\n", "film/a.wav": "a", "film/b.wav": "b", "film/huge.wav": ""})
	if err := os.Truncate(filepath.Join(c.dir, "film/huge.wav"), 60<<30); err != nil {
		t.Skip("no file system with holes: ", err)
	}
	p := send[api.Project](c, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(c.dir, "film/cut.m3u")}})
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	reading := func() (list []api.Job) {
		for _, j := range get[api.AppState](c, "/api/state").Jobs {
			if j.Kind == api.JobRemember && j.State == api.Running {
				list = append(list, j)
			}
		}
		return list
	}
	until(c, "/api/state", "the contents to be read", func(api.AppState) bool { return len(reading()) == 1 })
	first := reading()[0].ID

	if err := os.Remove(filepath.Join(c.dir, "film/a.wav")); err != nil {
		t.Fatal(err)
	}
	until(c, at, "the file to be missing", func(s tracing.Summary) bool { return s.Missing == 1 })
	send[api.Started](c, "POST", at+"/aside", mending.SetAside{Expected: []string{filepath.Join(c.dir, "film/a.wav")}, Why: decide.Later})
	until(c, at+"/mend", "the decision", func(m mending.Mend) bool { return len(m.Aside) == 1 })
	if now := reading(); len(now) != 1 || now[0].ID != first {
		t.Errorf("%+v is not the reading %s", now, first)
	}
	send[api.Started](c, "POST", "/api/jobs/"+first+"/stop", nil)
}
