package server_test

import (
	"compress/gzip"
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"boundcrate/app"
	"boundcrate/server"
	"boundcrate/store"
)

// TestPacked: what the interface is made of is sent as it lies packed, by what a browser takes;
// long answers are packed, media and streams are not.
func TestPacked(t *testing.T) {
	s, err := store.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: app.Options{Store: s}, Files: fstest.MapFS{
		"index.html": {Data: []byte("<p>page</p>")}, "assets/a.js": {Data: []byte("plain")}, "assets/a.js.br": {Data: []byte("brotli")}, "assets/a.js.gz": {Data: []byte("gzip")}, "assets/b.woff2": {Data: []byte("font")},
	}})
	if err != nil {
		t.Fatal(err)
	}
	hs := httptest.NewServer(h)
	t.Cleanup(func() { stop(); a.Wait(); hs.Close(); s.Close() })
	ask := func(at, accept string) (string, http.Header) {
		t.Helper()
		r, err := http.NewRequest("GET", hs.URL+at, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Accept-Encoding", accept)
		resp, err := http.DefaultTransport.RoundTrip(r)
		if err != nil {
			t.Fatal(err)
		}
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		if err != nil || resp.StatusCode != 200 {
			t.Fatal(at, resp.StatusCode, err)
		}
		return string(b), resp.Header
	}
	for _, x := range []struct{ at, accept, body, coding, kind string }{
		{"/assets/a.js", "gzip, deflate, br", "brotli", "br", "text/javascript"},
		{"/assets/a.js", "gzip;q=0.5", "gzip", "gzip", "text/javascript"},
		{"/assets/a.js", "br;q=0, gzip", "gzip", "gzip", "text/javascript"},
		{"/assets/a.js", "identity", "plain", "", "text/javascript"},
		{"/assets/b.woff2", "br, gzip", "font", "", "font/woff2"},
		{"/", "br, gzip", "<p>page</p>", "", "text/html"},
	} {
		body, h := ask(x.at, x.accept)
		if body != x.body || h.Get("Content-Encoding") != x.coding || !strings.HasPrefix(h.Get("Content-Type"), x.kind) {
			t.Errorf("%s by %q: %q %v", x.at, x.accept, body, h)
		}
	}
	body, head := ask("/api/state", "gzip")
	z, err := gzip.NewReader(strings.NewReader(body))
	if err != nil || head.Get("Content-Encoding") != "gzip" {
		t.Fatal(err, head)
	}
	if b, err := io.ReadAll(z); err != nil || !strings.Contains(string(b), `"formats"`) {
		t.Errorf("%s %v", b, err)
	}
}
