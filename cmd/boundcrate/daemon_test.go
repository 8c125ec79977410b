package main

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/core/coretest"
)

// TestVersion: by the contract.
func TestVersion(t *testing.T) {
	code, out, _ := invoke(t, t.TempDir(), "version", "--json")
	var v map[string]string
	if err := json.Unmarshal([]byte(out), &v); err != nil || code != 0 {
		t.Fatal(code, out, err)
	}
	for _, key := range []string{"version", "go", "system"} {
		if v[key] == "" {
			t.Errorf("no %s: %s", key, out)
		}
	}
	if _, told := v["revision"]; !told || len(v) != 4 {
		t.Error(out)
	}
}

// TestConfig: serve reads its file, what is beside it relative to it; flags win; a file that cannot
// be followed is named with its line, and nothing is served.
func TestConfig(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a", "other/b.wav": "b"})
	file := coretest.Write(t, filepath.Join(dir, "config.yaml"), "address: 127.0.0.1:0\ndata: state\nlog: all.log\nlevel: debug\ndrives:\n  - {name: Bench, folder: film}\ncarriers:\n  - {name: card, bytes: 64000000000}\n")
	s := startServing(t, "--config", file)
	state, ok := ask[api.AppState](s, "GET", "/api/state", nil)
	if !ok || len(state.Drives) != 1 || state.Drives[0].Name != "Bench" || state.Drives[0].Dir != filepath.Join(dir, "film") {
		t.Fatalf("%+v", state)
	}
	p, ok := ask[api.Project](s, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(dir, "film/cut.m3u")}})
	if !ok {
		t.Fatal("no project")
	}
	var plan packing.Stow
	for range 200 {
		if plan, ok = ask[packing.Stow](s, "GET", fmt.Sprintf("/api/projects/%d/stow", p.ID), nil); ok {
			break
		}
	}
	if len(plan.Limits) != 1 || plan.Limits[0].Name != "card" {
		t.Errorf("%+v", plan.Limits)
	}
	resp, err := http.Get(s.url + "/healthz")
	if err != nil || resp.StatusCode != 200 {
		t.Error(resp, err)
	}
	resp.Body.Close()
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	_ = s.cmd.Wait()
	if _, err := os.Stat(filepath.Join(dir, "state", "boundcrate.db")); err != nil {
		t.Error(err)
	}
	log, err := os.ReadFile(filepath.Join(dir, "all.log"))
	if err != nil || !strings.Contains(string(log), "msg=request") || !strings.Contains(string(log), "msg=job kind=trace") {
		t.Errorf("%s %v", log, err)
	}

	s = startServing(t, "--config", file, "--drive", "Other="+filepath.Join(dir, "other"), "--data", t.TempDir())
	if state, ok := ask[api.AppState](s, "GET", "/api/state", nil); !ok || len(state.Drives) != 1 || state.Drives[0].Name != "Other" {
		t.Errorf("flags do not win: %+v", state)
	}
	for text, word := range map[string]string{"adress: x\n": "line 1", "drives:\n  - {name: A, dir: x}\n": "line 2", "carriers:\n  - {name: x, bytes: -1}\n": "carrier", "level: loud\n": "loud", "drives: 7\n": "line 1", "address: 0.0.0.0:80\n": "loopback"} {
		bad := coretest.Write(t, filepath.Join(t.TempDir(), "c.yaml"), text)
		if code, _, errs := invoke(t, t.TempDir(), "serve", "--config", bad, "--data", t.TempDir()); code != notDone || !strings.Contains(errs, word) {
			t.Errorf("%q: %d %s", text, code, errs)
		}
	}
}

// TestDoctor: what is needed and fails makes the exit status 1; a drive that is out does not.
func TestDoctor(t *testing.T) {
	dir, data := t.TempDir(), t.TempDir()
	rep := answer[examined](t, data, 0, "doctor", "--json", "--drive", "Bench="+dir, "--drive", "Away="+filepath.Join(dir, "none"))
	if !rep.Well || len(rep.Folders) != 3 || rep.Folders[2].There || len(rep.Folders[1].Tried) < 9 || rep.Database != "" {
		t.Errorf("%+v", rep)
	}
	for _, f := range rep.Folders {
		for _, x := range f.Tried {
			if x.Says == "" {
				t.Errorf("%s says nothing", x.What)
			}
		}
	}
	if left, err := os.ReadDir(dir); err != nil || len(left) > 0 {
		t.Error(left, err)
	}
	coretest.Write(t, filepath.Join(data, "boundcrate", "boundcrate.db"), strings.Repeat("no database ", 1000))
	rep = answer[examined](t, data, 1, "doctor", "--json", "--drive", "Bench="+dir)
	if rep.Well || !strings.Contains(rep.Database, "damaged") {
		t.Errorf("%+v", rep)
	}
}
