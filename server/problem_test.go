package server_test

import (
	"encoding/json"
	"strings"
	"testing"

	"boundcrate/app/api"
)

// TestProblemTypes: the type of every refusal is an address, and what stands there explains it.
func TestProblemTypes(t *testing.T) {
	c := start(t, map[string]string{"film/cut.m3u": "#EXTM3U\n"})
	_, page, h := c.ask("GET", "/problems", nil)
	if !strings.HasPrefix(h.Get("Content-Type"), "text/html") {
		t.Fatal(h)
	}
	for _, x := range []struct{ method, path, name string }{
		{"GET", "/api/projects/99", "unknown"},
		{"GET", "/api/browse?path=/etc", "forbidden"},
		{"GET", "/api/media?path=/x.txt", "unsupported"},
		{"POST", "/api/projects", "wrong"},
	} {
		_, body, _ := c.ask(x.method, x.path, map[string]any{})
		var p api.ProblemReply
		if err := json.Unmarshal([]byte(body), &p); err != nil || p.Type != "/problems#"+x.name || !strings.Contains(page, `id="`+x.name+`"`) {
			t.Errorf("%s: %s %v", x.path, body, err)
		}
	}
}
