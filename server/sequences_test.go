package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/places"
	"boundcrate/app/api/tracing"
	"boundcrate/core/road/decide"
)

// TestSequences: two pages do whatever comes to their minds with one project, and somebody moves
// files meanwhile. Nothing fails in the server, every refusal is said in words, and what holds in
// the end is what another start makes of the same disk and the same decisions. make faults runs
// 200 of them, and make test a few with the race detector.
func TestSequences(t *testing.T) {
	seeds := 4
	if os.Getenv("FAULTS") != "" {
		seeds = 200
	}
	for seed := range seeds {
		t.Run(fmt.Sprint(seed), func(t *testing.T) { sequence(t, uint64(seed)) })
	}
}

func sequence(t *testing.T, seed uint64) {
	c := start(t, map[string]string{
		"film/cut.otio": timeline("a.wav", "gone.wav", "sub/lost.wav", "../lib/b.wav"), "film/in.m3u": "#EXTM3U\na.wav\nlost.wav\n", "film/stray.txt": "s",
		"film/a.wav": "a", "lib/b.wav": "b", "other/gone.wav": "g", "other/sub/lost.wav": "l",
	})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	keys := []string{c.key("film/a.wav"), c.key("film/gone.wav"), c.key("film/sub/lost.wav"), c.key("lib/b.wav"), c.key("film/stray.txt"), "nobody"}
	var wg sync.WaitGroup
	for page := range 2 {
		rng := rand.New(rand.NewPCG(seed, uint64(page)))
		wg.Go(func() {
			for range 14 {
				method, path, body := anyAct(c, rng, at, keys)
				if why := c.tries(method, path, body, fmt.Sprint("page ", page)); why != "" {
					t.Errorf("%s %s %+v: %s", method, path, body, why)
				}
			}
		})
	}
	wg.Go(func() {
		here, there := filepath.Join(c.dir, "film/a.wav"), filepath.Join(c.dir, "other/a.wav")
		for range 6 {
			time.Sleep(time.Duration(seed%7) * time.Millisecond)
			_ = os.Rename(here, there)
			_ = os.Rename(there, here)
		}
	})
	wg.Wait()
	c.snapshotSettled(at)
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	again := c.anew()
	again.wait(send[api.Started](again, "POST", at+"/trace", nil).Job.ID)
	a, b := get[tracing.Summary](c, at), get[tracing.Summary](again, at)
	if a.Tally != b.Tally || a.Repairs != b.Repairs || a.CanUndo != b.CanUndo || a.CanRedo != b.CanRedo {
		t.Errorf("it says %+v (%d repairs), another start %+v (%d)", a.Tally, a.Repairs, b.Tally, b.Repairs)
	}
	x, y := get[packing.Stow](c, at+"/stow"), get[packing.Stow](again, at+"/stow")
	if x.Files != y.Files || x.Bytes != y.Bytes || x.Options.Layout != y.Options.Layout || x.All != y.All {
		t.Errorf("it would seal %d files, %d bytes (%+v), another start %d, %d (%+v)", x.Files, x.Bytes, x.All, y.Files, y.Bytes, y.All)
	}
	if err := c.store.Check(); err != nil {
		t.Error(err)
	}
}

// anyAct is something that a page may ask for, well or badly, of a project or of all.
func anyAct(c *client, rng *rand.Rand, at string, keys []string) (method, path string, body any) {
	key := keys[rng.IntN(len(keys))]
	yes := rng.IntN(2) == 0
	snapshot := api.Snapshot("OTHER123-1")
	if rng.IntN(5) > 0 {
		var s tracing.Summary
		if resp, err := http.Get(c.url + at); err == nil {
			_ = json.NewDecoder(resp.Body).Decode(&s)
			resp.Body.Close()
		}
		snapshot = s.Snapshot
	}
	dir := func(name string) string { return filepath.Join(c.dir, name) }
	return pick(rng, []asking{
		{"POST", "/trace", nil}, {"POST", "/look", nil}, {"POST", "/undo", nil}, {"POST", "/redo", nil},
		{"PUT", "/stow", packing.StowOptions{Layout: pick(rng, []string{"by-kind", "flat", "as-stands", "no such"})}},
		{"PUT", "/berths", packing.Wish{Keys: []string{key}, Stays: &yes}},
		{"PUT", "/berths", packing.Wish{Rows: &api.Rows{Snapshot: snapshot, Filter: "wav"}, Stays: &yes}},
		{"POST", "/moves", mending.MoveFolder{From: dir("film"), To: dir("other")}},
		{"POST", "/repairs", mending.Choose{Expected: key, Path: dir("other/gone.wav"), Despite: yes}},
		{"POST", "/aside", mending.SetAside{Expected: []string{key}, Why: decide.Later}},
		{"POST", "/search", mending.Search{Folders: []string{c.dir}}},
		{"POST", "/adopt", packing.Adopt{Paths: []string{dir("film/stray.txt")}, Travels: yes}},
		{"POST", "/write", mending.WriteRepairs{Snapshot: snapshot, Try: yes}},
		{"POST", "/home", places.BringHome{Snapshot: snapshot}},
		{"POST", "/seal", packing.SealRequest{Snapshot: snapshot, Out: dir(fmt.Sprintf("crate %d", rng.IntN(2)))}},
		{"GET", "/tables/files?group=state", nil}, {"GET", "/tables/berths?sort=-size", nil}, {"GET", "/slip?key=" + url.QueryEscape(key), nil},
		{"GET", "/spread", nil}, {"GET", "/strays", nil}, {"GET", "/decisions", nil}, {"GET", "/mend", nil},
	}).of(at)
}

type asking struct {
	method, path string
	body         any
}

func (a asking) of(at string) (method, path string, body any) { return a.method, at + a.path, a.body }

func pick[T any](rng *rand.Rand, list []T) T { return list[rng.IntN(len(list))] }

// tries sends a request, and tells what is wrong with the answer, if anything.
func (c *client) tries(method, path string, in any, page string) string {
	b, err := json.Marshal(in)
	if err != nil {
		return err.Error()
	}
	r, err := http.NewRequest(method, c.url+path, bytes.NewReader(b))
	if err != nil {
		return err.Error()
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("X-Page", page)
	resp, err := (&http.Client{Timeout: 20 * time.Second}).Do(r)
	if err != nil {
		return err.Error()
	}
	defer resp.Body.Close()
	said, err := io.ReadAll(resp.Body)
	switch {
	case err != nil:
		return err.Error()
	case resp.StatusCode >= 500:
		return resp.Status + " " + string(said)
	case resp.StatusCode >= 400:
		var problem api.ProblemReply
		if err := json.Unmarshal(said, &problem); err != nil || problem.Title == "" || !strings.HasPrefix(problem.Type, "/problems#") {
			return resp.Status + " is not said in words: " + string(said)
		}
	}
	return ""
}
