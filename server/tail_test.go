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

// TestOthersVote: what another known document misses from the same folder votes along; in
// what other ways a document's own names might be read does not.
func TestOthersVote(t *testing.T) {
	var own, others []string
	files := map[string]string{}
	for i := range 8 {
		name := fmt.Sprintf("sound/s %d/clip %02d.wav", i/4, i)
		files["elsewhere/"+strings.TrimPrefix(name, "sound/")] = fmt.Sprint(i)
		if i < 5 {
			own = append(own, name)
		} else {
			others = append(others, "../film/"+name)
		}
	}
	files["film/cut.otio"], files["trailer/other.otio"] = timeline(own...), timeline(others...)
	c := start(t, files)
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	look := func() (said string) {
		c.snapshotSettled(at)
		c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{c.dir}}).Job.ID)
		m := get[mending.Mend](c, at+"/mend")
		if len(m.Groups) != 1 || m.Groups[0].Files != 5 {
			t.Fatalf("%+v", m.Groups)
		}
		return strings.Join(m.Groups[0].Reasons, "; ")
	}
	if said := look(); !strings.Contains(said, "5 of 5 files") {
		t.Error(said)
	}
	other := c.open("trailer/other.otio")
	c.snapshotSettled(fmt.Sprintf("/api/projects/%d", other.ID))
	if said := look(); !strings.Contains(said, "of 8 files") {
		t.Error("the other document has no vote:", said)
	}
}
