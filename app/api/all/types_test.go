package all_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/app/api/all"
)

// TestTypes: TypeScript's types are those of Go. Run make types when it fails.
func TestTypes(t *testing.T) {
	want, err := json.MarshalIndent(all.Schema(), "", "  ")
	if err != nil {
		t.Fatal(err)
	}
	web := filepath.Join("..", "..", "..", "web")
	have, err := os.ReadFile(filepath.Join(web, "schema.json"))
	if err != nil || string(have) != string(want)+"\n" {
		t.Fatalf("web/schema.json is not what the Go types say (%v)", err)
	}
	tool := filepath.Join(web, "node_modules", ".bin", "json2ts")
	if _, err := os.Stat(tool); err != nil {
		t.Skip("the type generator is not installed: run npm install in web")
	}
	cmd := exec.Command("node_modules/.bin/json2ts", "--input", "schema.json")
	cmd.Dir = web
	made, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	have, err = os.ReadFile(filepath.Join(web, "src", "api", "types.ts"))
	if err != nil || string(have) != string(made) {
		t.Fatalf("web/src/api/types.ts is not what web/schema.json says (%v)", err)
	}
}
