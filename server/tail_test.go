package server_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/tracing"
	"boundcrate/core/mend/mend"
)

// TestForeignPath: a document names a file by a path of another machine. Found here once, by
// hand, it is known again when it was renamed since: by the end of its path.
func TestForeignPath(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\nD:\\audio\\show\\gull.wav\n", "shelf/show/gull.wav": "the very sound", "attic/x.wav": "THE VERY SOUND"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	send[mending.Chosen](c, "POST", at+"/repairs", mending.Choose{Expected: "D:/audio/show/gull.wav", Path: filepath.Join(c.dir, "shelf/show/gull.wav"), Despite: true})
	c.snapshotSettled(at)
	if s := c.settled(p.ID); s.ToFind != 0 {
		t.Fatalf("%d to find", s.ToFind)
	}
	if err := os.Rename(filepath.Join(c.dir, "shelf/show/gull.wav"), filepath.Join(c.dir, "attic/recorded in spring.wav")); err != nil {
		t.Fatal(err)
	}
	send[api.Started](c, "POST", at+"/trace", nil)
	c.snapshotSettled(at)
	c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{c.dir}}).Job.ID)
	list := get[mending.WantedList](c, at+"/tables/wanted")
	for _, l := range list.Lines {
		if l.Row == nil {
			continue
		}
		if !strings.HasSuffix(l.Row.Best, "recorded in spring.wav") || l.Row.Certainty == mend.Possible {
			t.Errorf("%+v", l.Row)
		}
		return
	}
	t.Errorf("nothing is missing: %+v", list)
}

// TestOutsideElsewhere: a file that lies outside the project is there, and somebody wants
// another one in its place: it is compared, taken, and given back.
func TestOutsideElsewhere(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\n../downloads/gull.wav\n", "downloads/gull.wav": "gull", "film/sound/gull.wav": "gull"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	if s := get[tracing.Summary](c, at); s.Away != 1 {
		t.Fatalf("%+v", s.Tally)
	}
	got := send[mending.Chosen](c, "POST", at+"/repairs", mending.Choose{Expected: filepath.Join(c.dir, "downloads/gull.wav"), Path: filepath.Join(c.dir, "film/sound/gull.wav")})
	if !got.Applied {
		t.Fatalf("%+v", got)
	}
	if s := c.settled(p.ID); s.Away != 0 || s.Missing != 0 {
		t.Errorf("%+v", s.Tally)
	}
	send[any](c, "POST", at+"/undo", nil)
	until(c, at, "it outside again", func(s tracing.Summary) bool { return s.Away == 1 })
}
