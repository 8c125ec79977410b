package depot_test

import (
	"bytes"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/send/depot"
)

// client uploads a file with the npm package tus-js-client, and goes on whenever the connection breaks off.
const client = `
const tus = require('tus-js-client'); const fs = require('fs');
const [file, endpoint] = process.argv.slice(1);
const up = new tus.Upload(fs.createReadStream(file), {
  endpoint, uploadSize: fs.statSync(file).size, chunkSize: 100000, retryDelays: Array(80).fill(5), metadata: { filename: 'crate.zip' },
  onError: (e) => { console.error(String(e)); process.exit(1); },
  onSuccess: () => console.log(up.url),
});
up.start();
`

// TestOtherClient: the npm package tus-js-client, which knows nothing of ours, sends a file whole through a service that
// breaks off and loses answers.
func TestOtherClient(t *testing.T) {
	modules, err := filepath.Abs("../../../web/node_modules")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(modules, "tus-js-client")); err != nil {
		t.Skip("the npm package tus-js-client is not installed: run npm install in web")
	}
	dir := t.TempDir()
	h, err := depot.New(depot.Options{Dir: dir, FailEvery: 300_000})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(h)
	defer s.Close()
	text := bytes.Repeat([]byte("a crate of sounds "), 60_000)
	file := filepath.Join(t.TempDir(), "crate.zip")
	if err := os.WriteFile(file, text, 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "-e", client, file, s.URL+depot.Base)
	cmd.Env = append(os.Environ(), "NODE_PATH="+modules)
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	id := filepath.Base(strings.TrimSpace(string(out)))
	if got, err := os.ReadFile(filepath.Join(dir, id)); err != nil || !bytes.Equal(got, text) {
		t.Errorf("%d of %d bytes arrived, %v", len(got), len(text), err)
	}
}
