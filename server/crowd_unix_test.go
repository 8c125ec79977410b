//go:build unix

package server_test

import (
	"context"
	"io"
	"net/http"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"boundcrate/app/api"
)

// TestCrowd: however many pages want to hear what happens, those that are too many are told so,
// and whoever asks is answered; when they go, others are let in.
func TestCrowd(t *testing.T) {
	if testing.Short() {
		t.Skip("a crowd is nothing for a short run")
	}
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n"})
	want := 10_000
	var limit syscall.Rlimit
	if syscall.Getrlimit(syscall.RLIMIT_NOFILE, &limit) == nil {
		want = min(want, int(limit.Cur)/2-200) // both ends are ours
	}
	if os.Getenv("FAULTS") == "" {
		want = min(want, 700)
	}
	ctx, leave := context.WithCancel(t.Context())
	defer leave()
	var heard, refused, others int
	var mu sync.Mutex
	var opened, gone sync.WaitGroup
	turn := make(chan struct{}, 100)
	many := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: -1}}
	for range want {
		opened.Add(1)
		gone.Go(func() {
			turn <- struct{}{}
			r, _ := http.NewRequestWithContext(ctx, "GET", c.url+"/api/events", nil)
			resp, err := many.Do(r)
			<-turn
			mu.Lock()
			switch {
			case err != nil:
				others++
			case resp.StatusCode == http.StatusOK:
				heard++
			case resp.StatusCode == http.StatusServiceUnavailable:
				refused++
			default:
				others++
			}
			mu.Unlock()
			opened.Done()
			if err == nil {
				_, _ = io.Copy(io.Discard, resp.Body)
				resp.Body.Close()
			}
		})
	}
	opened.Wait()
	if heard == 0 || refused == 0 || others > 0 || heard+refused != want {
		t.Errorf("of %d pages %d hear, %d are refused, %d failed", want, heard, refused, others)
	}
	if s := get[api.AppState](c, "/api/state"); len(s.Drives) != 1 {
		t.Errorf("%+v", s)
	}
	leave()
	gone.Wait()
	for range 100 {
		again, off := context.WithTimeout(t.Context(), time.Second)
		r, _ := http.NewRequestWithContext(again, "GET", c.url+"/api/events", nil)
		resp, err := many.Do(r)
		if err == nil {
			resp.Body.Close()
		}
		off()
		if err == nil && resp.StatusCode == http.StatusOK {
			return
		}
		time.Sleep(20 * time.Millisecond)
	}
	t.Error("nobody is let in once the others are gone")
}

// endless is a body without end.
type endless struct{ read atomic.Int64 }

func (e *endless) Read(b []byte) (int, error) {
	if e.read.Load() > 1<<30 {
		return 0, io.EOF
	}
	for i := range b {
		b[i] = 'x'
	}
	e.read.Add(int64(len(b)))
	return len(b), nil
}

// TestHugeBody: a body of 1 GB is refused before it was read, whether it says how long it is or
// not.
func TestHugeBody(t *testing.T) {
	c := start(t, nil)
	for _, told := range []int64{1 << 30, -1} {
		body := &endless{}
		r, err := http.NewRequest("POST", c.url+"/api/projects", io.MultiReader(strings.NewReader(`{"name":"`), body))
		if err != nil {
			t.Fatal(err)
		}
		r.ContentLength = told
		r.Header.Set("Content-Type", "application/json")
		resp, err := http.DefaultClient.Do(r)
		if err == nil {
			resp.Body.Close()
		}
		if err == nil && resp.StatusCode != http.StatusRequestEntityTooLarge || body.read.Load() > 64<<20 {
			t.Errorf("of length %d: %v, %v, %d bytes were read", told, resp, err, body.read.Load())
		}
	}
}
