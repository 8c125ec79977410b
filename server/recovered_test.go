package server_test

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/disk/fileset"
)

// TestRecoveredIsAnAct: a writing that is killed after it was decided, and finished by the next
// start, can be put back like any other; one whose act was kept before the end is one act.
func TestRecoveredIsAnAct(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "lib/a.wav": "a"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	doc := filepath.Join(c.dir, "film/cut.m3u")
	before, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	// As the writing of a document stands the moment after its commit.
	after := strings.Replace(string(before), "a.wav", "../lib/a.wav", 1)
	sum := func(b []byte) string { s := sha256.Sum256(b); return hex.EncodeToString(s[:]) }
	data := filepath.Dir(c.store.Journals())
	edition := filepath.Join(data, "editions", fmt.Sprint(p.ID), "cut.m3u")
	fresh := filepath.Join(c.dir, "film", ".boundcrate-writing-x-1")
	list, _ := json.Marshal([]fileset.Place{{Path: doc, Fresh: fresh, Edition: edition, Was: sum(before), Becomes: sum([]byte(after))}})
	for path, text := range map[string]string{edition: string(before), fresh: after, filepath.Join(c.store.Journals(), "0123456789abcdef.writing"): `{"id":"x"}` + "\n" + string(list) + "\n"} {
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	again := c.anew()
	if b, err := os.ReadFile(doc); err != nil || string(b) != after {
		t.Fatalf("%s %v", b, err)
	}
	act := get[tracing.Summary](again, at).LastAct
	if act == nil || len(act.Documents) != 1 || !strings.Contains(act.Say, "interrupted") {
		t.Fatalf("%+v", act)
	}
	journal := fmt.Sprintf("{\"id\":\"x\"}\n%s\n", list)
	if err := os.WriteFile(filepath.Join(c.store.Journals(), "0123456789abcdef.writing"), []byte(journal), 0o644); err != nil {
		t.Fatal(err)
	}
	again = c.anew()
	if same := get[tracing.Summary](again, at).LastAct; same == nil || same.ID != act.ID {
		t.Errorf("%+v is not %+v", same, act)
	}
	if status, body, _ := again.ask("POST", at+"/putback", api.PutBack{Act: act.ID}); status != 204 {
		t.Fatal(status, body)
	}
	if b, err := os.ReadFile(doc); err != nil || string(b) != string(before) {
		t.Errorf("%s %v", b, err)
	}
}

// TestDriveElsewhere: a drive that is mounted elsewhere keeps its projects, where they were sealed
// to, and what was written, which still can be put back.
func TestDriveElsewhere(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/other/a.wav": "a"})
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	c.wait(send[api.Started](c, "POST", at+"/moves", mending.MoveFolder{From: filepath.Join(c.dir, "film"), To: filepath.Join(c.dir, "film/other")}).Job.ID)
	before, err := os.ReadFile(filepath.Join(c.dir, "film/cut.m3u"))
	if err != nil {
		t.Fatal(err)
	}
	if w := send[mending.WriteResult](c, "POST", at+"/write", mending.WriteRepairs{Snapshot: c.snapshot(at)}); len(w.Written) != 1 {
		t.Fatalf("%+v", w)
	}
	time.Sleep(50 * time.Millisecond) // a file written in the moment of sealing counts as changed since
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshotSettled(at), Out: filepath.Join(c.dir, "crate")}).Job.ID)

	elsewhere := filepath.Join(filepath.Dir(c.dir), "mounted elsewhere")
	if err := os.Rename(c.dir, elsewhere); err != nil {
		t.Fatal(err)
	}
	if err := c.store.PutDrive("Bench", elsewhere, "fixed", false); err != nil {
		t.Fatal(err)
	}
	again := c.anew()
	var s tracing.Summary
	until(again, at, "the trace", func(now tracing.Summary) bool { s = now; return now.Snapshot != "" })
	if s.Error != "" || s.Missing != 0 || s.Project.Documents[0] != filepath.Join(elsewhere, "film/cut.m3u") || s.Project.Root != filepath.Join(elsewhere, "film") {
		t.Errorf("%+v", s)
	}
	if st := get[packing.Stow](again, at+"/stow"); st.Out != filepath.Join(elsewhere, "crate") {
		t.Errorf("it was sealed to %s", st.Out)
	}
	if sealed := get[packing.Sealed](again, at+"/sealed"); !sealed.There || len(sealed.Stale) > 0 {
		t.Errorf("%+v", sealed)
	}
	if status, body, _ := again.ask("POST", at+"/putback", api.PutBack{Act: s.LastAct.ID}); status != 204 {
		t.Fatal(status, body)
	}
	if b, err := os.ReadFile(filepath.Join(elsewhere, "film/cut.m3u")); err != nil || string(b) != string(before) {
		t.Errorf("%s %v", b, err)
	}
	// The same documents are the same project, wherever they are mounted.
	if same := send[api.Project](again, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(elsewhere, "film/cut.m3u")}}); same.ID != p.ID {
		t.Errorf("%d is not %d", same.ID, p.ID)
	}
}

// snapshotSettled is the snapshot once what was begun by the last act is done.
func (c *client) snapshotSettled(at string) api.Snapshot {
	c.t.Helper()
	until(c, "/api/state", "all work to end", func(s api.AppState) bool {
		return !slices.ContainsFunc(s.Jobs, func(j api.Job) bool { return j.State == api.Running })
	})
	return c.snapshot(at)
}
