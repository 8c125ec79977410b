package server_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/app/api/tracing"
)

// TestOtherProject: what belongs to one project is nothing to another: its repairs, what was
// written into its documents, its snapshots, its files.
func TestOtherProject(t *testing.T) {
	c := start(t, map[string]string{
		"one/cut.m3u": "#EXTM3U\na.wav\n", "one/moved/a.wav": "a", "two/cut.m3u": "#EXTM3U\nb.wav\n", "two/moved/b.wav": "b",
	})
	var at []string
	for _, name := range []string{"one", "two"} {
		p := c.open(name + "/cut.m3u")
		here := fmt.Sprintf("/api/projects/%d", p.ID)
		at = append(at, here)
		c.wait(send[api.Started](c, "POST", here+"/moves", mending.MoveFolder{From: filepath.Join(c.dir, name), To: filepath.Join(c.dir, name, "moved")}).Job.ID)
	}
	if w := send[mending.WriteResult](c, "POST", at[1]+"/write", mending.WriteRepairs{Snapshot: c.snapshotSettled(at[1])}); len(w.Written) != 1 {
		t.Fatalf("%+v", w)
	}
	c.snapshotSettled(at[1])
	repair := get[mending.Mend](c, at[0]+"/mend").Repairs[0].ID
	act := get[tracing.Summary](c, at[1]).LastAct.ID
	theirs := get[tracing.Files](c, at[1]+"/tables/files?group=none").Lines[0].Row.Key
	before := get[tracing.Summary](c, at[0])
	written, err := os.ReadFile(filepath.Join(c.dir, "two/cut.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	yes := true
	for _, x := range []struct {
		method, path string
		body         any
	}{
		{"DELETE", fmt.Sprintf("%s/repairs/%d", at[1], repair), nil},
		{"POST", at[0] + "/putback", api.PutBack{Act: act}},
		{"POST", at[0] + "/write", mending.WriteRepairs{Snapshot: c.snapshot(at[1])}},
		{"POST", at[0] + "/home", places.BringHome{Snapshot: c.snapshot(at[1])}},
		{"POST", at[0] + "/seal", packing.SealRequest{Snapshot: c.snapshot(at[1]), Out: filepath.Join(c.dir, "crate")}},
		{"PUT", at[0] + "/berths", packing.Wish{Keys: []string{theirs}, Stays: &yes}},
		{"POST", at[0] + "/repairs", mending.Choose{Expected: theirs, Path: filepath.Join(c.dir, "one/moved/a.wav")}},
		{"POST", at[0] + "/aside", mending.SetAside{Expected: []string{theirs}}},
	} {
		if status, body, _ := c.ask(x.method, x.path, x.body); status < 400 || status >= 500 {
			t.Errorf("%s %s: %d %s", x.method, x.path, status, body)
		}
	}
	for _, path := range []string{"/slip?key=" + theirs, "/wanted?key=" + theirs} {
		var row struct{ Row *struct{ Key string } }
		if status, body, _ := c.ask("GET", at[0]+path, nil); status == 200 {
			if row = get[struct{ Row *struct{ Key string } }](c, at[0]+path); row.Row != nil && row.Row.Key == theirs {
				t.Errorf("%s: %s", path, body)
			}
		}
	}
	after := get[tracing.Summary](c, at[0])
	if after.Tally != before.Tally || after.Repairs != before.Repairs || after.Snapshot != before.Snapshot {
		t.Errorf("%+v became %+v", before, after)
	}
	if b, err := os.ReadFile(filepath.Join(c.dir, "two/cut.m3u")); err != nil || string(b) != string(written) {
		t.Errorf("%s %v", b, err)
	}
}
