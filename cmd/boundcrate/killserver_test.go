package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/coretest"
	"boundcrate/store"
)

// served is a running server process.
type served struct {
	t   *testing.T
	cmd *exec.Cmd
	url string
}

func startServer(t *testing.T, data, dir string) *served {
	t.Helper()
	return startServing(t, "--addr", "127.0.0.1:0", "--data", data, "--drive", "Bench="+filepath.Join(dir, "film"), "--drive", "Out="+filepath.Join(dir, "out"))
}

func startServing(t *testing.T, args ...string) *served {
	t.Helper()
	c := command(t, t.TempDir(), append([]string{"serve"}, args...)...)
	c.Stderr = os.Stderr
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal("the server did not start: ", err)
	}
	return &served{t, c, strings.TrimSpace(line[strings.Index(line, "http"):])}
}

// ask sends a request; the answer is zero when the server is gone.
func ask[T any](s *served, method, path string, in any) (out T, ok bool) {
	s.t.Helper()
	b, err := json.Marshal(in)
	if err != nil {
		s.t.Fatal(err)
	}
	r, err := http.NewRequest(method, s.url+path, bytes.NewReader(b))
	if err != nil {
		s.t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		return out, false
	}
	defer resp.Body.Close()
	text, err := io.ReadAll(resp.Body)
	if err != nil {
		return out, false
	}
	return out, resp.StatusCode == http.StatusNoContent || resp.StatusCode/100 == 2 && json.Unmarshal(text, &out) == nil
}

// snapshotOf is the snapshot of a project, "" where it has none yet.
func snapshotOf(s *served, project int64) api.Snapshot {
	sum, _ := ask[tracing.Summary](s, "GET", fmt.Sprintf("/api/projects/%d", project), nil)
	return sum.Snapshot
}

// TestKilledServer: a server that is killed in the middle of tracing, reading
// contents or sealing leaves the originals and its database as they must be; the
// next one says that the work was interrupted, and does it.
func TestKilledServer(t *testing.T) {
	rng := rand.New(rand.NewPCG(23, 29))
	dir, doc := project(t, 24, 512<<10)
	if err := os.Mkdir(filepath.Join(dir, "out"), 0o755); err != nil {
		t.Fatal(err)
	}
	data := filepath.Join(t.TempDir(), "data")
	before := coretest.Sums(t, filepath.Join(dir, "film"))
	crate := filepath.Join(dir, "out", "crate")
	for i := range 2 * kills() {
		s := startServer(t, data, dir)
		if p, ok := ask[api.Project](s, "POST", "/api/projects", api.NewProject{Documents: []string{doc}}); ok {
			for range 100 {
				if _, ok := ask[api.Started](s, "POST", "/api/projects/1/seal", packing.SealRequest{Snapshot: snapshotOf(s, 1), Out: crate}); ok || p.ID != 1 {
					break
				}
				time.Sleep(5 * time.Millisecond)
			}
		}
		time.Sleep(time.Duration(rng.IntN(150)) * time.Millisecond)
		_ = s.cmd.Process.Signal(syscall.SIGKILL)
		_ = s.cmd.Wait()
		if st, err := store.Open(data); err != nil {
			t.Errorf("kill %d: %v", i, err)
		} else {
			if err := st.Check(); err != nil {
				t.Errorf("kill %d: %v", i, err)
			}
			st.Close()
		}
		if _, err := os.Stat(crate); err == nil {
			if code, text, errs := invoke(t, data, "check", crate); code != 0 {
				t.Errorf("kill %d: what has the crate's name is none: %s%s", i, text, errs)
			}
		}
	}
	same(t, before, coretest.Sums(t, filepath.Join(dir, "film")))
	s := startServer(t, data, dir)
	state, ok := ask[api.AppState](s, "GET", "/api/state", nil)
	if !ok || len(state.Projects) != 1 {
		t.Fatalf("%+v", state)
	}
	for _, j := range state.Jobs {
		if j.State == api.Running {
			t.Errorf("a job of a dead server runs: %+v", j)
		}
	}
	// A second server on the same data is refused while this one runs.
	if code, _, errs := invoke(t, data, "serve", "--addr", "127.0.0.1:0", "--data", data); code != notDone || !strings.Contains(errs, "already") {
		t.Errorf("%d %s", code, errs)
	}
	var j api.Started
	for range 500 {
		if j, ok = ask[api.Started](s, "POST", "/api/projects/1/seal", packing.SealRequest{Snapshot: snapshotOf(s, 1), Out: crate}); ok {
			break
		}
		ask[tracing.Summary](s, "GET", "/api/projects/1", nil) // which traces it
		time.Sleep(10 * time.Millisecond)
	}
	for range 1000 {
		sealed, _ := ask[packing.Sealed](s, "GET", "/api/projects/1/sealed", nil)
		if sealed.Well && sealed.There && sealed.At.After(j.Job.Began) {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	if code, text, errs := invoke(t, data, "check", crate); code != 0 {
		t.Errorf("%s%s", text, errs)
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "out", "*.partial")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}
