package server_test

import (
	"fmt"
	"maps"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/core/coretest"
)

// TestDecidedOnAnother: what writes to the disk names the snapshot it was decided on. On an older
// one, on one of another start, and on none at all nothing is done, and that is said.
func TestDecidedOnAnother(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n../lib/b.wav\n", "film/a.wav": "a", "lib/b.wav": "b", "film/notes.txt": "n"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	old := c.snapshot(at)
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	now := c.snapshot(at)
	if now == old || strings.Split(string(now), "-")[0] != strings.Split(string(old), "-")[0] {
		t.Fatalf("%s after %s", now, old)
	}
	_, n, _ := strings.Cut(string(now), "-")
	before := coretest.Sums(t, c.dir)
	for _, s := range []api.Snapshot{old, api.Snapshot("ANOTHER1-" + n), ""} {
		for part, in := range map[string]any{
			"write":   mending.WriteRepairs{Snapshot: s},
			"points":  places.SetPoints{Snapshot: s},
			"inside":  places.WriteOut{Snapshot: s},
			"home":    places.BringHome{Snapshot: s},
			"frames":  mending.CopyFrames{Snapshot: s},
			"putaway": packing.PutAway{Snapshot: s, Paths: []string{filepath.Join(c.dir, "film/notes.txt")}, Days: 1},
			"seal":    packing.SealRequest{Snapshot: s, Out: filepath.Join(c.dir, "crate")},
		} {
			if status, body, _ := c.ask("POST", at+"/"+part, in); status != 409 || !strings.Contains(body, "Nothing was done") {
				t.Errorf("%s on %q: %d %s", part, s, status, body)
			}
		}
	}
	if after := coretest.Sums(t, c.dir); !maps.Equal(after, before) {
		t.Errorf("%v\nbecame\n%v", before, after)
	}
	// On the present one the same is done.
	if j := c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: now, Out: filepath.Join(c.dir, "crate")}).Job.ID); j.State != api.Done {
		t.Errorf("%+v", j)
	}
}
