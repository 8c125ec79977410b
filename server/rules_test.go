package server_test

import (
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

const show = "extensions: [show]\ncarrier: text\npaths:\n  - match: '^play (.*)$'\n"

// TestRules: a rules file is kept as it is written, switched on only if it can
// be used, and tried on samples within the drives alone.
func TestRules(t *testing.T) {
	c := start(t, map[string]string{"day.show": "play horn.wav\n# no\nplay gone.wav\n", "horn.wav": "h", "other.txt": "nothing"})
	put := func(name, text string, on bool) (int, string) {
		code, body, _ := c.ask("PUT", "/api/rules", map[string]any{"name": name, "text": text, "on": on})
		return code, body
	}
	for _, x := range []struct {
		name, text string
		on         bool
		code       int
		says       string
	}{
		{"gallery", show, true, http.StatusOK, `"on":true`},
		{"gallery", strings.Replace(show, "text", "yaml", 1), true, http.StatusConflict, "line 2"},
		{"gallery", strings.Replace(show, "text", "yaml", 1), false, http.StatusOK, `"on":false`},
		{"../../gallery", show, false, http.StatusBadRequest, "Not a name"},
		{"", show, false, http.StatusBadRequest, "Not a name"},
		{"gallery", show, true, http.StatusOK, `"on":true`},
	} {
		if code, body := put(x.name, x.text, x.on); code != x.code || !strings.Contains(body, x.says) {
			t.Errorf("%q %v: %d %s", x.name, x.on, code, body)
		}
	}
	if entries, err := os.ReadDir(filepath.Join(filepath.Dir(c.dir), "data", "rules")); err != nil || len(entries) != 1 || entries[0].Name() != "gallery.yaml" {
		t.Error(entries, err)
	}
	try := func(sample string) (int, string) {
		code, body, _ := c.ask("POST", "/api/rules/try", map[string]any{"text": show, "sample": sample})
		return code, body
	}
	if code, body := try(filepath.Join(c.dir, "day.show")); code != http.StatusOK || !strings.Contains(body, `"written":"gone.wav","path":"Bench/gone.wav","state":"missing"`) || !strings.Contains(body, `"written":"horn.wav","path":"Bench/horn.wav","state":"here"`) {
		t.Error(code, body)
	}
	if _, body := try(filepath.Join(c.dir, "other.txt")); !strings.Contains(body, `"finds":[]`) {
		t.Error(body)
	}
	if code, body := try(filepath.Join(filepath.Dir(c.dir), "data", "boundcrate.db")); code == http.StatusOK && !strings.Contains(body, `"damage":["`) {
		t.Error("a sample outside the drives was read", code, body)
	}
	code, body, _ := c.ask("GET", "/api/state", nil)
	if code != http.StatusOK || !strings.Contains(body, "rules:gallery") {
		t.Error("a rules file that is on is not listed with what can be opened")
	}
	if code, _, _ := c.ask("DELETE", "/api/rules/gallery", nil); code != http.StatusOK {
		t.Error(code)
	}
	if code, _, _ := c.ask("DELETE", "/api/rules/gallery", nil); code != http.StatusNotFound {
		t.Error(code)
	}
}
