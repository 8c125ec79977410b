package server_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"boundcrate/app"
	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/server"
	"boundcrate/store"
)

// TestDrives: a name that is taken, a folder that is a drive already, a drive
// projects stand on: each is refused in words. One given through a link is kept
// as what it leads to.
func TestDrivesByHand(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav"), "film/a.wav": "a"})
	quay := filepath.Join(filepath.Dir(c.dir), "quay")
	link := filepath.Join(filepath.Dir(c.dir), "link")
	if err := errors.Join(os.MkdirAll(filepath.Join(quay, "sound"), 0o755), os.Symlink(quay, link)); err != nil {
		t.Fatal(err)
	}
	for what, in := range map[string]api.NewDrive{"name": {Name: "bench", Dir: quay}, "folder": {Name: "Other", Dir: c.dir}} {
		if status, body, _ := c.ask("POST", "/api/drives", in); status != 409 || !strings.Contains(body, "Bench") {
			t.Errorf("%s: %d %s", what, status, body)
		}
	}
	s := send[api.AppState](c, "POST", "/api/drives", api.NewDrive{Name: "Quay", Dir: link})
	id := ""
	for _, d := range s.Drives {
		if d.Name == "Quay" {
			if id = d.ID; d.Dir != quay {
				t.Errorf("it is kept as %s", d.Dir)
			}
		}
	}
	// It can be sealed to.
	p := c.open("film/cut.otio")
	if j := c.wait(send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/seal", p.ID), packing.SealRequest{Snapshot: c.snapshot(fmt.Sprintf("/api/projects/%d", p.ID)), Out: filepath.Join(quay, "crate")}).Job.ID); j.State != api.Done {
		t.Errorf("%+v", j)
	}
	if status, _, _ := c.ask("PUT", "/api/drives/"+id, api.NewDrive{Name: "Bench"}); status != 409 {
		t.Error("two drives of one name", status)
	}
	s = send[api.AppState](c, "PUT", "/api/drives/"+id, api.NewDrive{Name: "Landing"})
	if s.Drives[1].Name != "Landing" || s.Drives[1].ID != id {
		t.Errorf("%+v", s.Drives)
	}
	if status, body, _ := c.ask("DELETE", "/api/drives/"+s.Drives[0].ID, nil); status != 409 || !strings.Contains(body, "film") {
		t.Error("a drive projects stand on is gone", status, body)
	}
	if s = send[api.AppState](c, "DELETE", "/api/drives/"+id, nil); len(s.Drives) != 1 {
		t.Errorf("%+v", s.Drives)
	}
	if _, err := os.Stat(filepath.Join(quay, "sound")); err != nil {
		t.Error("forgetting a drive touched it", err)
	}
	folders := get[api.Folder](c, "/api/machine?path="+quay)
	if len(folders.Entries) != 2 || folders.Entries[1].Name != "sound" || folders.Parent == nil {
		t.Errorf("%+v", folders)
	}
}

// TestWindows: of a large folder one part is listed and looked at, and what one
// types narrows it.
func TestWindows(t *testing.T) {
	files := map[string]string{"big/deep/x.wav": "x"}
	for i := range 700 {
		files[fmt.Sprintf("big/take %03d.txt", i)] = "t"
	}
	c := start(t, files)
	dir := "/api/browse?path=" + filepath.Join(c.dir, "big")
	first, last, some := get[api.Folder](c, dir), get[api.Folder](c, dir+"&from=600"), get[api.Folder](c, dir+"&q=TAKE%2069")
	if first.Total != 701 || len(first.Entries) != 300 || !first.Entries[0].Folder || len(last.Entries) != 101 || last.Entries[100].Name != "take 699.txt" || some.Total != 10 {
		t.Errorf("%d of %d, %d, %d", len(first.Entries), first.Total, len(last.Entries), some.Total)
	}
	if beyond := get[api.Folder](c, dir+"&from=9999"); len(beyond.Entries) != 0 {
		t.Errorf("%+v", beyond)
	}
}

// TestSilentDrive: a mount that does not answer is told as that, and holds no
// page up.
func TestSilentDrive(t *testing.T) {
	s, err := store.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	dead, alive := t.TempDir(), t.TempDir()
	if err := errors.Join(s.PutDrive("Far", dead, "network", false), s.PutDrive("Bench", alive, "fixed", false)); err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	answers := make(chan struct{})
	var asked atomic.Int32
	a, h, err := server.New(ctx, server.Options{Files: fstest.MapFS{}, App: app.Options{Store: s, Ask: func(dir string) bool {
		if dir == dead {
			asked.Add(1)
			<-answers
		}
		return true
	}}})
	if err != nil {
		t.Fatal(err)
	}
	at := make(chan net.Addr, 1)
	go server.Listen(ctx, "127.0.0.1:0", h, func(a net.Addr) { at <- a })
	t.Cleanup(func() { stop(); a.Wait(); s.Close() })
	c := &client{t: t, url: "http://" + (<-at).String(), dir: alive, api: a}
	for range 3 {
		for _, d := range get[api.AppState](c, "/api/state").Drives {
			if d.Silent != (d.Name == "Far") || d.Connected == d.Silent {
				t.Errorf("%+v", d)
			}
		}
	}
	if n := asked.Load(); n != 1 {
		t.Errorf("it was asked %d times while it did not answer", n)
	}
	close(answers)
	for _, d := range get[api.AppState](c, "/api/state").Drives {
		if !d.Connected {
			t.Errorf("%+v", d)
		}
	}
}

// TestOddRequests: what is too much, too long or too slow is told as that.
func TestOddRequests(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("gone.wav"), "film/other/x.wav": "x"})
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	if status, body, _ := c.ask("PUT", base+"/stow", map[string]string{"out": strings.Repeat("x", 2<<20)}); status != 413 || !strings.Contains(body, "1 MB") {
		t.Error(status, body)
	}
	if status, body, _ := c.ask("GET", "/api/browse?path="+c.dir+"/"+strings.Repeat("n", 300), nil); status != 400 || !strings.Contains(body, "too long for") {
		t.Error(status, body)
	}
	// A folder that is chosen by hand for a file.
	for _, try := range []bool{true, false} {
		if status, body, _ := c.ask("POST", base+"/repairs", mending.Choose{Expected: c.key("film/gone.wav"), Path: filepath.Join(c.dir, "film/other"), Try: try}); status != 400 {
			t.Error(status, body)
		}
	}
	if status, _, _ := c.ask("GET", "/api/nothing", nil); status != 404 {
		t.Error(status)
	}
}

// TestTrickle: a request whose body trickles in ends.
func TestTrickle(t *testing.T) {
	defer server.Hurry(400 * time.Millisecond)()
	c := start(t, nil)
	r, w := io.Pipe()
	defer w.Close()
	go func() {
		for range 40 {
			if _, err := w.Write([]byte(" ")); err != nil {
				return
			}
			time.Sleep(500 * time.Millisecond)
		}
	}()
	req, err := http.NewRequest("POST", c.url+"/api/drives", r)
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	began := time.Now()
	resp, err := http.DefaultClient.Do(req)
	if err == nil {
		resp.Body.Close()
	}
	if err == nil && resp.StatusCode < 400 || time.Since(began) > 15*time.Second {
		t.Errorf("%v %v after %v", resp, err, time.Since(began))
	}
}

// TestOutsideReader: a document that the command line traced outside the drives,
// and that needs a folder, is neither forgotten nor taken for gone.
func TestOutsideReader(t *testing.T) {
	c := start(t, map[string]string{"old/gull.wav": "gull"})
	outside := filepath.Join(t.TempDir(), "list.m3u")
	if err := os.WriteFile(outside, []byte("#EXTM3U\n"+filepath.Join(c.dir, "old/gull.wav")+"\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, outside)
	if err != nil {
		t.Fatal(err)
	}
	if err := c.store.KeepUses(0, drive.System{}, all.Formats(), time.Now(), g); err != nil {
		t.Fatal(err)
	}
	ask := func() overview.Cleared {
		j := c.wait(send[api.Started](c, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(c.dir, "old")}).Job.ID)
		return get[overview.Cleared](c, "/api/clearout/"+j.ID)
	}
	if got := ask(); got.Safe || len(got.ReadBy) != 1 || len(got.Unread) != 1 {
		t.Errorf("%+v", got)
	}
	if err := os.Remove(outside); err != nil {
		t.Fatal(err)
	}
	if got := ask(); !got.Safe {
		t.Errorf("the document is gone: %+v", got)
	}
}

// TestUnwrittenRepair: a repair that is kept here leads elsewhere, and the document on disk
// still says where it led. A program opens what stands there: the folder must not go.
func TestUnwrittenRepair(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("../old/gull.wav", "../old/scene.otio"), "lib/gull.wav": "gull", "lib/scene.otio": timeline("gull.wav"), "deep/a.wav": "a"})
	p := c.open("film/cut.otio")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	old := filepath.Join(c.dir, "old/gull.wav")
	for _, name := range []string{"gull.wav", "scene.otio"} {
		if got := send[mending.Chosen](c, "POST", base+"/repairs", mending.Choose{Expected: filepath.Join(c.dir, "old", name), Path: filepath.Join(c.dir, "lib", name), Despite: true}); !got.Applied {
			t.Fatalf("%+v", got)
		}
	}
	coretest.Write(t, old, "the drive is back")
	coretest.Write(t, filepath.Join(c.dir, "old/scene.otio"), timeline("../deep/a.wav"))
	c.wait(send[api.Started](c, "POST", base+"/trace", nil).Job.ID)
	// Where it led, where it leads, and what the document there names that the project
	// does not see any more.
	for _, folder := range []string{"old", "lib", "deep"} {
		j := c.wait(send[api.Started](c, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(c.dir, folder)}).Job.ID)
		if got := get[overview.Cleared](c, "/api/clearout/"+j.ID); got.Safe || len(got.ReadBy) == 0 {
			t.Errorf("%s: %+v", folder, got.Clearout)
		}
	}
}
