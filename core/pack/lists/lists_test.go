package lists_test

import (
	"encoding/json"
	"encoding/xml"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/lists"
)

// TestC4: the identifier of "alfa" is the one of the reference implementation's own examples (from
// memory), that of nothing is all its length.
func TestC4(t *testing.T) {
	if got := lists.C4([]byte("alfa")); got != "c43zYcLni5LF9rR4Lg4B8h3Jp8SBwjcnyyeh4bc6gTPHndKuKdjUWx1kJPYhZxYt3zV6tQXpDs2shPsPYjgG81wZM1" {
		t.Error(got)
	}
	if got := lists.C4(nil); len(got) != 90 {
		t.Error(got)
	}
}

// odd is a crate of names that a list must escape.
func odd() (lists.Crate, map[string]string) {
	c := lists.Crate{Name: "film & co", Note: "For <you>", From: "Picture desk", Documents: []string{"cut 1.otio"}, Made: time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC), Software: "Bound Crate", Version: "1"}
	files := map[string]string{}
	for _, name := range []string{"audio/50% off #1?.wav", "audio/é <&>.wav", "a:b/x.png", "cut 1.otio", "deep/er/model.glb"} {
		files[name] = name
		c.Files = append(c.Files, lists.File{Path: name, Size: int64(len(name)), SHA256: strings.Repeat("ab", 32), XXH3: 7, Mod: c.Made})
	}
	return c, files
}

// TestLists: both lists name every file once, whatever it is called, and are what their formats read.
func TestLists(t *testing.T) {
	c, files := odd()
	made, err := lists.Make(c, lists.Kinds...)
	if err != nil || len(made) != 3 {
		t.Fatal(made, err)
	}
	var doc struct {
		Graph []map[string]any `json:"@graph"`
	}
	if err := json.Unmarshal(made[0].Bytes, &doc); err != nil {
		t.Fatal(err)
	}
	n := 0
	for _, e := range doc.Graph {
		if e["@type"] == "File" {
			n++
		}
	}
	if n != len(files) {
		t.Errorf("%d files in the metadata", n)
	}
	var list struct {
		Paths []string `xml:"hashes>hash>path"`
	}
	if err := xml.Unmarshal(made[1].Bytes, &list); err != nil || len(list.Paths) != len(files) {
		t.Errorf("%v %v", list.Paths, err)
	}
	for _, p := range list.Paths {
		if files[p] == "" {
			t.Errorf("the hash list names %q", p)
		}
	}
	if !strings.Contains(string(made[2].Bytes), lists.C4(made[1].Bytes)) || !strings.Contains(strings.ReplaceAll(string(made[2].Bytes), "&amp;", "&"), filepath.Base(made[1].Path)) {
		t.Error("the chain does not tell the list")
	}
	if got, _ := lists.Make(c); len(got) != 0 {
		t.Error("lists nobody asked for")
	}
}

// reader reads the metadata with the npm package ro-crate, and finds every file.
const reader = `
const { ROCrate } = require('ro-crate'); const fs = require('fs'); const path = require('path');
const dir = process.argv[1];
const c = new ROCrate(JSON.parse(fs.readFileSync(path.join(dir, 'ro-crate-metadata.json'))), { array: true, link: true });
for (const p of c.rootDataset.hasPart) {
  const f = path.join(dir, decodeURIComponent(p['@id']));
  if (fs.statSync(f).size !== Number(p.contentSize[0])) throw new Error('size of ' + f);
  console.log(path.relative(dir, f));
}
if (c.rootDataset.author[0].name[0] !== 'Picture desk') throw new Error('author');
`

// TestROCrateReads: the npm package ro-crate reads the metadata and finds every file.
func TestROCrateReads(t *testing.T) {
	modules, err := filepath.Abs("../../../web/node_modules")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(modules, "ro-crate")); err != nil {
		t.Skip("the npm package ro-crate is not installed: run npm install in web")
	}
	c, files := odd()
	dir := coretest.Lay(t, files)
	made, err := lists.Make(c, lists.ROCrate)
	if err != nil {
		t.Fatal(err)
	}
	coretest.Write(t, filepath.Join(dir, made[0].Path), string(made[0].Bytes))
	cmd := exec.Command("node", "-e", reader, dir)
	cmd.Env = append(os.Environ(), "NODE_PATH="+modules)
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	if got := strings.Split(strings.TrimSpace(string(out)), "\n"); len(got) != len(files) {
		t.Errorf("it found %q", got)
	}
}
