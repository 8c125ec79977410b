package server_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"boundcrate/app"
	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/server"
	"boundcrate/store"
)

type client struct {
	t   testing.TB
	url string
	dir string // of the drive Bench
	api *app.App

	store *store.Store
}

// start serves an application with one drive that holds the given files.
func start(t testing.TB, files map[string]string) *client {
	t.Helper()
	dir := t.TempDir()
	bench := filepath.Join(dir, "bench")
	for name, text := range files {
		p := filepath.Join(bench, name)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	s, err := store.Open(filepath.Join(dir, "data"))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.PutDrive("Bench", bench, "fixed", false); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return (&client{t: t, dir: bench, store: s}).anew()
}

// anew is the same, served by another start of the application.
func (c *client) anew() *client {
	c.t.Helper()
	return c.served(app.Options{})
}

func (c *client) served(o app.Options) *client {
	c.t.Helper()
	o.Store = c.store
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: o, Files: fstest.MapFS{"index.html": {Data: []byte("<p>page</p>")}}})
	if err != nil {
		c.t.Fatal(err)
	}
	hs := httptest.NewServer(h)
	c.t.Cleanup(func() { stop(); a.Wait(); hs.CloseClientConnections(); hs.Close() })
	return &client{c.t, hs.URL, c.dir, a, c.store}
}

// ask sends a request and returns status, body and headers.
func (c *client) ask(method, path string, in any, header ...string) (int, string, http.Header) {
	c.t.Helper()
	var body io.Reader
	if in != nil {
		b, err := json.Marshal(in)
		if err != nil {
			c.t.Fatal(err)
		}
		body = strings.NewReader(string(b))
	}
	r, err := http.NewRequest(method, c.url+path, body)
	if err != nil {
		c.t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(header); i += 2 {
		if r.Header.Set(header[i], header[i+1]); header[i] == "Host" {
			r.Host = header[i+1]
		}
	}
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		c.t.Fatal(err)
	}
	defer resp.Body.Close()
	b, _ := io.ReadAll(resp.Body)
	return resp.StatusCode, string(b), resp.Header
}

func get[T any](c *client, path string) T {
	c.t.Helper()
	return send[T](c, "GET", path, nil)
}

func send[T any](c *client, method, path string, in any) T {
	c.t.Helper()
	status, body, _ := c.ask(method, path, in)
	var out T
	if status == http.StatusNoContent && body == "" {
		return out
	}
	if err := json.Unmarshal([]byte(body), &out); err != nil || status < 200 || status > 202 {
		c.t.Fatalf("%s %s: %d %s", method, path, status, body)
	}
	return out
}

// snapshot is which snapshot a project has, by its address.
func (c *client) snapshot(at string) api.Snapshot { return get[tracing.Summary](c, at).Snapshot }

// wait waits for a job's end, and after a trace until its project is remembered.
func (c *client) wait(id string) api.Job {
	c.t.Helper()
	for range 2000 {
		jobs := get[api.AppState](c, "/api/state").Jobs
		for _, j := range jobs {
			if j.ID == id && j.State != api.Running && (j.Kind != api.JobTrace || !slices.ContainsFunc(jobs, func(r api.Job) bool {
				return r.Kind == api.JobRemember && r.Project == j.Project && r.State == api.Running
			})) {
				return j
			}
		}
		time.Sleep(10 * time.Millisecond)
	}
	c.t.Fatal("the job did not end")
	return api.Job{}
}

func (c *client) open(doc string) api.Project {
	c.t.Helper()
	p := send[api.Project](c, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(c.dir, doc)}})
	c.wait(send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/trace", p.ID), nil).Job.ID)
	return p
}

// key is the identity of a file on the drive, as pages know it.
func (c *client) key(name string) string {
	c.t.Helper()
	return get[api.AppState](c, "/api/state").Drives[0].ID + ":/" + name
}

// badge tells whether a row has a badge.
func badge(r tracing.Row, code tracing.BadgeCode) bool {
	return slices.ContainsFunc(r.Badges, func(b tracing.Badge) bool { return b.Code == code })
}

// TestGuard: nothing but this machine's own pages is answered, and a content
// security policy lets nothing in from outside.
func TestGuard(t *testing.T) {
	c := start(t, nil)
	for _, h := range [][]string{
		{"Host", "example.org"}, {"Host", "127.0.0.1.example.org"}, {"Host", "evil:80"}, {"Origin", "http://example.org"}, {"Origin", "null"},
		{"Origin", "https://" + strings.TrimPrefix(c.url, "http://")}, {"Sec-Fetch-Site", "cross-site"}, {"Sec-Fetch-Site", "same-site"},
	} {
		if status, body, _ := c.ask("GET", "/api/state", nil, h...); status != http.StatusForbidden {
			t.Errorf("%v: %d %s", h, status, body)
		}
	}
	for _, h := range [][]string{nil, {"Origin", c.url}, {"Host", "localhost:1"}, {"Host", "[::1]:1"}, {"Sec-Fetch-Site", "same-origin"}} {
		if status, body, _ := c.ask("GET", "/api/state", nil, h...); status != http.StatusOK {
			t.Errorf("%v: %d %s", h, status, body)
		}
	}
	for _, p := range []string{"/", "/p/1/trace", "/api/state"} {
		_, _, h := c.ask("GET", p, nil)
		csp := h.Get("Content-Security-Policy")
		if !strings.HasPrefix(csp, "default-src 'none'") || strings.Contains(csp, "unsafe") || strings.Contains(csp, "http") || strings.Contains(csp, "*") {
			t.Errorf("%s: %q", p, csp)
		}
	}
}

// TestProblems: errors are problem details (RFC 9457 §3) that say what to do.
func TestProblems(t *testing.T) {
	c := start(t, map[string]string{"a.wav": "x", "broken.otio": `{"OTIO_SCHEMA": "Timeline.1", `})
	outside := filepath.Join(filepath.Dir(c.dir), "secret.txt")
	if err := os.WriteFile(outside, []byte("secret"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(outside, filepath.Join(c.dir, "link.png")); err != nil {
		t.Fatal(err)
	}
	q := url.QueryEscape
	for _, x := range []struct {
		method, path string
		in           any
		status       int
		says         string
	}{
		{"GET", "/api/browse?path=" + q(filepath.Dir(c.dir)), nil, 403, "outside your drives"},
		{"GET", "/api/browse?path=" + q(c.dir+"/../"), nil, 403, "outside your drives"},
		{"GET", "/api/media?path=" + q(outside+".png"), nil, 403, "outside your drives"},
		{"GET", "/api/media?path=" + q(filepath.Join(c.dir, "link.png")), nil, 403, "outside your drives"},
		{"GET", "/api/media?path=" + q(filepath.Join(c.dir, "gone.wav")), nil, 404, filepath.Join(c.dir, "gone.wav") + "’ was not found"},
		{"GET", "/api/media?path=" + q(filepath.Join(c.dir, "broken.otio")), nil, 415, "not shown"},
		{"GET", "/api/projects/77", nil, 404, "no longer exists"},
		{"GET", "/api/projects/x/tables/files", nil, 404, "no longer exists"},
		{"GET", "/api/nothing", nil, 404, "nothing at this address"},
		{"POST", "/api/projects", api.NewProject{Documents: []string{outside}}, 403, "outside your drives"},
		{"POST", "/api/projects", api.NewProject{Documents: []string{c.dir}}, 400, "is not a file"},
		{"POST", "/api/drives", api.NewDrive{Dir: "relative"}, 400, "full path"},
		{"POST", "/api/drives/none/plug", api.Plug{}, 404, "no longer exists"},
		{"POST", "/api/receive", packing.ReceiveRequest{Crate: outside}, 403, "outside your drives"},
	} {
		status, body, h := c.ask(x.method, x.path, x.in)
		var p api.ProblemReply
		if err := json.Unmarshal([]byte(body), &p); err != nil || status != x.status || p.Status != status || p.Title == "" || p.Type == "" ||
			!strings.HasPrefix(h.Get("Content-Type"), "application/problem+json") || !strings.Contains(p.Detail, x.says) {
			t.Errorf("%s %s: %d %s", x.method, x.path, status, body)
		}
		if strings.Contains(body, "secret\n") {
			t.Error("something outside was read")
		}
	}
	if status, body, _ := c.ask("POST", "/api/projects", "no object"); status != 400 || !strings.Contains(body, "could not be read") {
		t.Error(status, body)
	}
	p := send[api.Project](c, "POST", "/api/projects", api.NewProject{Documents: []string{filepath.Join(c.dir, "broken.otio")}})
	for range 500 {
		if s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID)); s.Error != "" {
			if !strings.Contains(s.Error, "broken.otio") || !strings.Contains(s.Error, "line 1") {
				t.Error(s.Error)
			}
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	t.Error("a broken document is not told of")
}

// timeline is a document with one clip for each name.
func timeline(names ...string) string {
	clips := make([]string, len(names))
	for i, n := range names {
		clips[i] = fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}}`, i, n)
	}
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(clips, ",") + `]}]}}`
}

// TestLedger: windows, filters, sorting and grouping of a ledger of 50,000
// rows, all of it on the server.
func TestLedger(t *testing.T) {
	if testing.Short() {
		t.Skip("one request after another: no race to be found")
	}
	names := make([]string, 50_000)
	for i := range names {
		names[i] = fmt.Sprintf("sound/take %05d.wav", i)
	}
	c := start(t, map[string]string{"film/cut.otio": timeline(names...), "film/sound/take 00007.wav": "seven"})
	p := c.open("film/cut.otio")
	rows := func(query string) tracing.Files {
		t.Helper()
		return get[tracing.Files](c, fmt.Sprintf("/api/projects/%d/tables/files?%s", p.ID, query))
	}
	if r := rows("limit=100&offset=25000"); r.Total != 50_002 || len(r.Lines) != 100 || r.Offset != 25_000 || r.Lines[0].Row.Name != "take 25000.wav" {
		t.Errorf("%d rows, %d shown from %d: %+v", r.Total, len(r.Lines), r.Offset, r.Lines[0])
	}
	if r := rows("limit=0"); len(r.Lines) != 500 {
		t.Errorf("a window of %d rows", len(r.Lines))
	}
	if r := rows("filter=00007"); r.Total != 2 || r.Window.Files != 1 || r.Bytes != 5 || r.Lines[1].Row.State != "here" {
		t.Errorf("%+v", r)
	}
	if r := rows("group=none&sort=-name&limit=1"); r.Total != 50_000 || r.Lines[0].Row.Name != "take 49999.wav" {
		t.Errorf("%+v", r)
	}
	if r := rows("state=missing&group=state&limit=1"); r.Total != 50_000 || r.Lines[0].Heading.Title != "Missing" || r.Lines[0].Heading.Count != 49_999 {
		t.Errorf("%+v", r)
	}
	if k := get[api.Stretch](c, fmt.Sprintf("/api/projects/%d/tables/files/stretch?state=missing", p.ID)); k.Rows != 49_999 {
		t.Errorf("%+v", k)
	}
	for _, name := range []string{"documents", "wanted", "berths"} {
		if status, body, _ := c.ask("GET", fmt.Sprintf("/api/projects/%d/tables/%s?limit=2", p.ID, name), nil); status != 200 || !strings.Contains(body, `"lines":[{`) {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
	if status, _, _ := c.ask("GET", fmt.Sprintf("/api/projects/%d/tables/none", p.ID), nil); status != 404 {
		t.Error(status)
	}
	_, csv, h := c.ask("GET", fmt.Sprintf("/api/projects/%d/csv/files?filter=00007", p.ID), nil)
	if !strings.HasPrefix(h.Get("Content-Type"), "text/csv") || strings.Count(csv, "\n") != 2 || !strings.Contains(csv, "take 00007.wav,") {
		t.Error(csv)
	}
}

// TestSealPlaces: a crate is never written into the project, over something
// else, or outside the drives, also not through a link.
func TestSealPlaces(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav"), "film/a.wav": "a", "other/mine.txt": "mine"})
	out := filepath.Join(filepath.Dir(c.dir), "elsewhere")
	if err := os.Mkdir(out, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(out, filepath.Join(c.dir, "way out")); err != nil {
		t.Fatal(err)
	}
	p := c.open("film/cut.otio")
	for _, place := range []string{"film/crate", "film", "other", "way out/crate", "../elsewhere/crate", ""} {
		at := filepath.Join(c.dir, place)
		if d := get[packing.Destination](c, fmt.Sprintf("/api/projects/%d/destination?out=%s", p.ID, url.QueryEscape(at))); d.OK || d.Why == "" {
			t.Errorf("%s: %+v", place, d)
		}
		if status, body, _ := c.ask("POST", fmt.Sprintf("/api/projects/%d/seal", p.ID), packing.SealRequest{Snapshot: c.snapshot(fmt.Sprintf("/api/projects/%d", p.ID)), Out: at}); status < 400 {
			t.Errorf("%s: %d %s", place, status, body)
		}
	}
	good := filepath.Join(c.dir, "crates", "film.zip")
	j := c.wait(send[api.Started](c, "POST", fmt.Sprintf("/api/projects/%d/seal", p.ID), packing.SealRequest{Snapshot: c.snapshot(fmt.Sprintf("/api/projects/%d", p.ID)), Out: good, Note: "For the mixer."}).Job.ID)
	if j.State != api.Done {
		t.Fatalf("%+v", j)
	}
	s := get[packing.Sealed](c, fmt.Sprintf("/api/projects/%d/sealed", p.ID))
	for _, l := range s.Proof {
		if !l.OK || strings.HasPrefix(l.Figure, "0 ") {
			t.Errorf("%+v", l)
		}
	}
	if !s.There || !s.Report.Complete || len(s.Proof) != 5 || s.Note != "For the mixer." {
		t.Errorf("%+v", s)
	}
	j = c.wait(send[api.Started](c, "POST", "/api/receive", packing.ReceiveRequest{Crate: good, Into: filepath.Join(c.dir, "in")}).Job.ID)
	if j.State != api.Done {
		t.Fatalf("%+v", j)
	}
	if b, err := os.ReadFile(filepath.Join(c.dir, "in", "film", "data", "audio", "a.wav")); err != nil || string(b) != "a" {
		t.Error(string(b), err)
	}
	if es, _ := os.ReadDir(out); len(es) > 0 {
		t.Error("something was written outside the drives")
	}
}

// TestDamagedMedia: a header that contradicts itself is told beside the file,
// with whatever could be read, and stops nothing.
func TestDamagedMedia(t *testing.T) {
	cut := "RIFF\x00\x10\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x80\xbb\x00\x00\x00\x77\x01\x00\x02\x00\x10\x00data\x00\x10\x00\x00cut"
	c := start(t, map[string]string{"cut.m3u": "#EXTM3U\nhorn.wav\nbell.png\n", "horn.wav": cut, "bell.png": "\x89PNG\r\n\x1a\nno picture"})
	p := c.open("cut.m3u")
	for name, says := range map[string]string{"horn.wav": "its sound is cut off, 3 bytes of 4096 are there", "bell.png": "it ends within its header"} {
		s := get[tracing.Slip](c, fmt.Sprintf("/api/projects/%d/slip?key=%s", p.ID, url.QueryEscape(c.key(name))))
		if !strings.Contains(s.Harm, says) || s.Row.State != "here" {
			t.Errorf("%s: %q %+v", name, s.Harm, s.Row)
		}
		if name == "horn.wav" && (s.Facts == nil || s.Facts.Rate != 48000) {
			t.Errorf("%+v", s.Facts)
		}
	}
	// What is there of a sound that is cut off can still be seen.
	if pk := get[tracing.Peaks](c, "/api/peaks?path="+url.QueryEscape(filepath.Join(c.dir, "horn.wav"))); len(pk.Low) != 1 {
		t.Errorf("%+v", pk)
	}
	if s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID)); s.Snapshot == "" {
		t.Error("the damage kept the project from being shown")
	}
}

// TestGuesses: what no format's rule tells is called a guess wherever a person
// meets it.
func TestGuesses(t *testing.T) {
	c := start(t, map[string]string{"p/x.session": "play sound/gull cry.wav at 10\nsee list.m3u\n", "p/list.m3u": "sound/bell.wav\n", "p/sound/gull cry.wav": "1", "p/sound/bell.wav": "2"})
	p := c.open("p/x.session")
	s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID))
	if s.Guessed != 2 || s.References != 3 || s.Documents != 2 {
		t.Errorf("%+v", s)
	}
	for name, guess := range map[string]bool{"gull cry.wav": true, "bell.wav": false} {
		slip := get[tracing.Slip](c, fmt.Sprintf("/api/projects/%d/slip?key=%s", p.ID, url.QueryEscape(c.key("p/sound/"+name))))
		if badge(slip.Row, tracing.BadgeGuess) != guess || strings.Contains(slip.Say, "Guessed") != guess {
			t.Errorf("%s: %+v %q", name, slip.Row, slip.Say)
		}
	}
}

// TestCounts: what the verdict says is what the ledger holds: twins are not
// missing, a place something will be written to is no file, a member of a
// package has its own name, and every kind of missing file is counted once.
func TestCounts(t *testing.T) {
	c := start(t, map[string]string{
		"p/list.csv":   "path,role,use\ncut.edl,,\nout/mix.wav,write,\ngone.wav,,\ngone.wav,,\nspare.png,,listed\nhttp://example.org/x.mov,,\nempty.xspf,,\n",
		"p/cut.edl":    "TITLE: X\nFCM: NON-DROP FRAME\n001  AX V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: card\n002  AX A C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00\n* FROM CLIP NAME: lost line\n",
		"p/a/card.mov": "1", "p/b/card.mov": "2", "p/empty.xspf": "",
	})
	p := c.open("p/list.csv")
	s := get[tracing.Summary](c, fmt.Sprintf("/api/projects/%d", p.ID))
	states, missing := map[string]int{}, map[string]int{}
	for _, n := range s.States {
		states[string(n.State)] = n.Files
	}
	for _, n := range s.Lost {
		missing[n.Word] = n.Files
	}
	if fmt.Sprint(states) != "map[here:1 missing:4 twins:1 unreadable:1]" || fmt.Sprint(missing) != "map[1 picture:1 2 sounds:2]" {
		t.Errorf("%v, missing %v", states, missing)
	}
	// Found are the list of cuts and the empty playlist's file is not: it cannot be read.
	if s.Files != 1 || s.ToFind != 4 || len(s.ProblemList) != 1 || s.ProblemList[0].Message != "not a valid XSPF document: it is empty" {
		t.Errorf("%d files, %d to find, %+v", s.Files, s.ToFind, s.Problems)
	}
	for _, place := range s.Places {
		if place.Kind == "missing" && place.Files != 3 || place.Kind == "own" && place.Files != 1 {
			t.Errorf("%+v", place)
		}
	}
	names := map[string]tracing.Row{}
	for _, l := range get[tracing.Files](c, fmt.Sprintf("/api/projects/%d/tables/files?limit=50", p.ID)).Lines {
		if l.Row != nil {
			names[l.Row.Name] = *l.Row
		}
	}
	if r := names["card"]; r.State != "twins" || r.Kind != "video" {
		t.Errorf("%+v", r)
	}
	if r := names["lost line"]; r.State != "missing" || r.Word != "sound" {
		t.Errorf("%+v", r)
	}
	if r := names["gone.wav"]; r.Uses != 2 {
		t.Errorf("%+v", r)
	}
	mix := names["mix.wav"]
	if !badge(mix, tracing.BadgeWrite) {
		t.Errorf("%+v", mix)
	}
	if slip := get[tracing.Slip](c, fmt.Sprintf("/api/projects/%d/slip?key=%s", p.ID, url.QueryEscape(mix.Key))); !strings.Contains(slip.Say, "New material will be written here") || slip.Path != "" || slip.Modified != nil || slip.Paths[1].Label != "writes to" {
		t.Errorf("%+v", slip)
	}
}
