package server_test

import (
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api/schema"
	"boundcrate/server"
)

// TestTypes: what the interface knows of the types on the wire and of the routes is what Go says.
// Run make types when it fails.
func TestTypes(t *testing.T) {
	want, err := json.MarshalIndent(schema.Of(server.Wire()), "", "  ")
	if err != nil {
		t.Fatal(err)
	}
	web := filepath.Join("..", "web")
	have, err := os.ReadFile(filepath.Join(web, "schema.json"))
	if err != nil || string(have) != string(want)+"\n" {
		t.Fatalf("web/schema.json is not what the Go types say (%v)", err)
	}
	for file, make := range map[string]*exec.Cmd{
		"types.ts": exec.Command("node_modules/.bin/json2ts", "--input", "schema.json"),
		"acts.ts":  exec.Command("node_modules/.bin/prettier", "--stdin-filepath", "src/api/acts.ts"),
	} {
		make.Dir, make.Stdin = web, strings.NewReader(server.Client())
		out, err := make.Output()
		if errors.Is(err, fs.ErrNotExist) {
			t.Skip("the generators are not installed: run npm install in web")
		}
		if err != nil {
			t.Fatal(err)
		}
		if have, err := os.ReadFile(filepath.Join(web, "src", "api", file)); err != nil || string(have) != string(out) {
			t.Errorf("web/src/api/%s is not what Go says (%v)", file, err)
		}
	}
}
