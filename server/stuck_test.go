package server_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/server"
)

// every are all GET routes with what they ask for, of an open project; streams are none.
func (c *client) every(p api.Project, file string) (list []string) {
	c.t.Helper()
	says := map[string]string{"limit": "100", "path": file, "key": c.key("film/a.wav"), "out": filepath.Join(c.dir, "crate"), "last": file, "project": fmt.Sprint(p.ID)}
	for _, r := range server.Routed() {
		if r.Method != "GET" || strings.HasSuffix(r.Path, "/events") {
			continue
		}
		at := strings.NewReplacer("/projects/:id", fmt.Sprintf("/projects/%d", p.ID), ":id", "1").Replace(r.Path)
		q := url.Values{}
		for _, n := range r.Names {
			if says[n] != "" {
				q.Set(n, says[n])
			}
		}
		if strings.HasSuffix(r.Path, ":table") || strings.HasSuffix(r.Path, "/stretch") {
			for _, table := range []string{"files", "documents", "wanted", "berths"} {
				list = append(list, strings.Replace(at, ":table", table, 1)+"?"+q.Encode())
			}
			continue
		}
		list = append(list, at+"?"+q.Encode())
	}
	return list
}

// TestNeverStuck: however many ask at once, and even where the database has a single connection
// for readers, every route answers, with a trace under way. A route that held a query open
// while it asked another would stop here for good.
func TestNeverStuck(t *testing.T) {
	files := map[string]string{"film/cut.otio": timeline("a.wav", "gone.wav", "../lib/b.wav"), "film/a.wav": "a", "lib/b.wav": "b", "other/gone.wav": "g", "film/notes.txt": "n"}
	for i := range 30 {
		files[fmt.Sprintf("film/d%d.m3u", i)] = fmt.Sprintf("#EXTM3U\na.wav\n../lib/b.wav\nlost%d.wav\n", i)
	}
	clients, long := 32, 3*time.Second
	if os.Getenv("FAULTS") != "" {
		long = 30 * time.Second
	}
	for _, readers := range []int{1, 4} {
		c := start(t, files)
		p := c.open("film/cut.otio")
		c.open("film/d1.m3u")
		c.store.Readers(readers)
		at := fmt.Sprintf("/api/projects/%d", p.ID)
		c.wait(send[api.Started](c, "POST", at+"/search", mending.Search{Folders: []string{c.dir}}).Job.ID)
		list := c.every(p, filepath.Join(c.dir, "film/a.wav"))
		ctx, stop := context.WithTimeout(t.Context(), long)
		var mu sync.Mutex
		var took []time.Duration
		var wg sync.WaitGroup
		for n := range clients {
			wg.Go(func() {
				for k := n * 7; ctx.Err() == nil; k++ {
					began := time.Now()
					r, err := http.NewRequestWithContext(t.Context(), "GET", c.url+list[k%len(list)], nil)
					if err != nil {
						t.Error(err)
						return
					}
					resp, err := (&http.Client{Timeout: 20 * time.Second}).Do(r)
					if err != nil {
						t.Errorf("%d readers: %s does not answer: %v", readers, list[k%len(list)], err)
						return
					}
					_, _ = io.Copy(io.Discard, resp.Body)
					resp.Body.Close()
					if resp.StatusCode >= 500 {
						t.Errorf("%s: %d", list[k%len(list)], resp.StatusCode)
					}
					mu.Lock()
					took = append(took, time.Since(began))
					mu.Unlock()
				}
			})
		}
		wg.Go(func() { // what is asked for changes meanwhile
			for ctx.Err() == nil {
				_, _, _ = c.ask("POST", at+"/trace", nil)
				time.Sleep(50 * time.Millisecond)
			}
		})
		wg.Wait()
		stop()
		slices.Sort(took)
		t.Logf("%d readers, %d routes: %d answers, half of them within %v, 99 of 100 within %v, all within %v", readers, len(list), len(took), took[len(took)/2].Round(time.Millisecond), took[len(took)*99/100].Round(time.Millisecond), took[len(took)-1].Round(time.Millisecond))
	}
}
