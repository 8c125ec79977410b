package loose_test

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/keep/loose"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

func night(t *testing.T) (string, loose.Set) {
	dir := coretest.Lay(t, map[string]string{
		"night/1 low.png": "a", "night/2 high.png": "b", "night/mask #1.png": "m", "night/log.txt": "l", "night/deep/3 %.png": "c", "else/map.png": "e",
	})
	at := func(p string) string { return filepath.Join(dir, p) }
	return dir, loose.Set{
		Title: "A night of charts", Author: "Chart room", Note: "Taken twice.\nThe second is better.", Made: time.Date(2026, 5, 1, 22, 0, 0, 0, time.UTC),
		Patterns: []string{"*.txt"}, Files: []string{at("night/log.txt"), at("else/map.png")},
		Groups: []loose.Group{
			{Name: "pictures & more", Patterns: []string{"**/? *.png"}, Files: []string{at("night/2 high.png"), at("night/1 low.png"), at("night/deep/3 %.png")}},
			{Name: "masks", Files: []string{at("night/mask #1.png")}},
		},
	}
}

// TestRoundTrip: a set comes back as it was kept, its order too; traced, every file of it is found, and each once.
func TestRoundTrip(t *testing.T) {
	dir, s := night(t)
	at := filepath.Join(dir, "night", loose.Name)
	if err := loose.Write(at, s); err != nil {
		t.Fatal(err)
	}
	got, err := loose.Read(at)
	if err != nil || !reflect.DeepEqual(*got, s) {
		t.Errorf("%+v came back as %+v, %v", s, got, err)
	}
	g, err := trace.Run(t.Context(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, at)
	if err != nil {
		t.Fatal(err)
	}
	var files []string
	for i := range g.Files {
		if !g.Files[i].State.Found() {
			t.Errorf("%s is %s", g.Files[i].Path, g.Files[i].State)
		}
		files = append(files, g.Files[i].Path)
	}
	if len(files) < 6 {
		t.Errorf("it leads to %q", files)
	}
	coretest.Write(t, filepath.Join(dir, "night", "4 new.png"), "n")
	coretest.Write(t, filepath.Join(dir, "night", "other.png"), "o")
	if fresh, err := got.New(filepath.Dir(at)); err != nil || len(fresh) != 1 || len(fresh["pictures & more"]) != 1 || filepath.Base(fresh["pictures & more"][0]) != "4 new.png" {
		t.Errorf("new are %v, %v", fresh, err)
	}
}

// TestNotOurs: other metadata, or anything else of the name, is not written over.
func TestNotOurs(t *testing.T) {
	dir, s := night(t)
	for name, text := range map[string]string{
		"another's": `{"@context":"https://w3id.org/ro/crate/1.1/context","@graph":[{"@id":"./","@type":"Dataset","name":"x"}]}`,
		"a text":    "not JSON", "empty": "", "typed otherwise": `{"@graph":[{"@id":"./","@type":["Dataset"]}]}`,
	} {
		at := coretest.Write(t, filepath.Join(dir, name, loose.Name), text)
		if err := loose.Write(at, s); !errors.Is(err, loose.ErrNotOurs) {
			t.Errorf("%s: %v", name, err)
		}
		if b, _ := os.ReadFile(at); string(b) != text {
			t.Errorf("%s was written over", name)
		}
	}
}

// reader reads the metadata with the npm package ro-crate: the groups as datasets, and every file in them.
const reader = `
const { ROCrate } = require('ro-crate'); const fs = require('fs');
const c = new ROCrate(JSON.parse(fs.readFileSync(process.argv[1])), { array: true, link: true });
const walk = (d) => { for (const p of d.hasPart || []) { if (p['@type'].includes('Dataset')) { console.log('group ' + p.name[0]); walk(p); } else console.log(decodeURIComponent(p['@id'])); } };
console.log(c.rootDataset.name[0]); console.log(c.rootDataset.author[0].name[0]); walk(c.rootDataset);
`

// TestROCrateReads: the npm package ro-crate reads a set as it was gathered.
func TestROCrateReads(t *testing.T) {
	modules, err := filepath.Abs("../../../web/node_modules")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(modules, "ro-crate")); err != nil {
		t.Skip("the npm package ro-crate is not installed: run npm install in web")
	}
	dir, s := night(t)
	at := filepath.Join(dir, "night", loose.Name)
	if err := loose.Write(at, s); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "-e", reader, at)
	cmd.Env = append(os.Environ(), "NODE_PATH="+modules)
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	want := []string{"A night of charts", "Chart room", "group pictures & more", "2 high.png", "1 low.png", "deep/3 %.png", "group masks", "mask #1.png", "log.txt", "file://" + filepath.ToSlash(filepath.Join(dir, "else/map.png"))}
	if got := strings.Split(strings.TrimSpace(string(out)), "\n"); !slices.Equal(got, want) {
		t.Errorf("it reads %q", got)
	}
}
