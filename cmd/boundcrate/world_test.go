package main

import (
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/demo"
)

// contract is the output of trace --json, as others read it.
type contract struct {
	Document, Format, Root string
	References             []struct {
		Document, Written, State, Use, Kind, Owner, Role, Why string
		Path                                                  *string
		Files                                                 *[]string
		Gaps                                                  *[]any
		Guessed                                               *bool
	}
	Files []struct {
		Path, State, Use, Kind, Class, Origin string
		Size                                  int64
		References                            int
		Suspect                               []string
	}
	WritePoints []struct {
		Path  string
		Flags []string
	}
	Warnings []struct{ Code, Message string }
	Problems []struct{ Path, Document, Message string }
}

// reports traces a document and tells what in the output breaks the contract.
func reports(t *testing.T, data string, args ...string) (c contract) {
	t.Helper()
	status, out, errs := invoke(t, data, append([]string{"trace", "--json"}, args...)...)
	if err := json.Unmarshal([]byte(out), &c); err != nil {
		t.Fatalf("%v: %v %s", args, err, errs)
	}
	pending := len(c.Problems) > 0
	whole := map[string]bool{}
	last := ""
	for i, r := range c.References {
		wrong := func(what string) { t.Errorf("%s, reference %d (%q): %s", c.Document, i, r.Written, what) }
		if !slices.Contains(strings.Fields("here away missing unplugged twins unsaved inside unreadable"), r.State) ||
			!slices.Contains(strings.Fields("used dormant listed"), r.Use) ||
			!slices.Contains(strings.Fields("audio video image sequence geometry part material drawing document data other"), r.Kind) || r.Guessed == nil || r.Owner == "" {
			wrong("a word the contract does not have: " + r.State + " " + r.Use + " " + r.Kind)
		}
		// A nested document's entries follow all of the document that names it.
		doc, _, _ := strings.Cut(r.Document, "!/")
		if doc != last && whole[doc] {
			wrong("the entries of a document do not stand together")
		}
		last, whole[doc] = doc, true
		switch {
		case !filepath.IsAbs(r.Document) || r.Path != nil && !filepath.IsAbs(*r.Path):
			wrong("a path that is not absolute")
		case r.Role == "write":
			continue
		case r.Kind == "sequence":
			if r.Path != nil || r.Files == nil || r.Gaps == nil {
				wrong("a sequence lists its files and gaps")
			}
			pending = pending || r.Gaps != nil && len(*r.Gaps) > 0
		case r.State == "twins":
			if r.Path != nil || r.Files == nil || len(*r.Files) < 2 {
				wrong("twins list their files")
			}
		case (r.State == "here" || r.State == "away") != (r.Path != nil) && r.State != "unreadable":
			wrong("a path is told where a file was found, and nowhere else")
		}
		if r.Path != nil && (r.State == "here" || r.State == "away") {
			if inside := strings.HasPrefix(*r.Path, c.Root+"/"); inside != (r.State == "here") {
				wrong(r.State + ", but its path is " + *r.Path)
			}
			if fi, err := os.Stat(*r.Path); err != nil || !fi.Mode().IsRegular() {
				wrong("no file is where it was found")
			}
		}
		pending = pending || r.Use == "used" && slices.Contains([]string{"missing", "unplugged", "twins", "unsaved", "unreadable"}, r.State)
	}
	named := 0
	for _, f := range c.Files {
		named += f.References
		if !slices.Contains(strings.Fields("material document rebuildable companion"), f.Class) || !slices.Contains(strings.Fields("project other-project library store dump loose none"), f.Origin) || f.Suspect == nil {
			t.Errorf("%s: a file in words the contract does not have: %+v", c.Document, f)
		}
		if found := f.State == "here" || f.State == "away"; found && f.Origin == "none" || f.State == "missing" && f.Origin != "none" && f.Class != "material" {
			t.Errorf("%s: %s is %s of origin %s", c.Document, f.Path, f.State, f.Origin)
		}
	}
	if named > len(c.References) {
		t.Errorf("%s: %d references are of files, there are %d", c.Document, named, len(c.References))
	}
	for _, w := range c.WritePoints {
		pending = pending || slices.Contains(w.Flags, "outside")
	}
	for _, w := range c.Warnings {
		pending = pending || w.Code == "nothing-recognised"
	}
	if (status == 1) != pending || status > 1 {
		t.Errorf("%s: exit status %d, and something needs a person: %v", c.Document, status, pending)
	}
	return c
}

// TestWorld holds the contract on every document of the sample world, whatever
// its format; seals each project, takes everything else away, and holds it
// again on the crate.
func TestWorld(t *testing.T) {
	dir := t.TempDir()
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	data := filepath.Join(dir, "home")
	drives := []string{"--drive", "Bench=" + dir + "/drives/Bench", "--drive", "Quay=" + dir + "/drives/Quay", "--drive", "Shuttle=" + dir + "/drives/Shuttle"}
	formats, states := map[string]int{}, map[string]int{}
	var docs []string
	err := filepath.WalkDir(dir+"/drives", func(p string, d fs.DirEntry, err error) error {
		if err == nil && slices.Contains(strings.Fields(".otio .gltf .usda .mtlx .adl .edl .sfz .stp .svg .urdf .dae .qdpx .csv .loop .mtl .obj"), filepath.Ext(p)) {
			docs = append(docs, p)
		}
		return err
	})
	if err != nil || len(docs) < 20 {
		t.Fatal(docs, err)
	}
	for _, doc := range docs {
		c := reports(t, data, append(drives, doc)...)
		formats[c.Format]++
		for _, r := range c.References {
			states[r.State]++
		}
	}
	for _, state := range strings.Fields("here away missing unplugged twins unsaved inside unreadable") {
		if states[state] == 0 {
			t.Errorf("nothing in the world is %s: %v", state, states)
		}
	}
	if len(formats) < 10 {
		t.Errorf("%v", formats)
	}
	crates := filepath.Join(dir, "crates")
	for _, doc := range []string{"film/cut-04.otio", "deck-scene/deck.usda", "clock-mechanism/tide clock.stp", "foghorn/soundscape.adl", "spoken-memories/memories.qdpx"} {
		name := strings.ReplaceAll(filepath.Base(doc), ".", "-")
		status, out, errs := invoke(t, data, append(append([]string{"seal", "--json", "--out", filepath.Join(crates, name)}, drives...), dir+"/drives/Bench/tide-clock/"+doc)...)
		if status > 1 {
			t.Fatal(doc, errs)
		}
		if m := decode(t, out); (m["complete"] == true && len(m["problems"].([]any)) == 0) != (status == 0) {
			t.Errorf("%s: %d %v", doc, status, m["problems"])
		}
	}
	if err := os.Rename(dir+"/drives", dir+"/drives taken away"); err != nil {
		t.Fatal(err)
	}
	found := 0
	err = filepath.WalkDir(crates, func(p string, d fs.DirEntry, err error) error {
		if err != nil || !slices.Contains(strings.Fields("cut-04.otio deck.usda memories.qdpx soundscape.adl"), filepath.Base(p)) && filepath.Base(p) != "tide clock.stp" {
			return err
		}
		rest, _ := filepath.Rel(crates, p)
		crate, _, _ := strings.Cut(rest, "/")
		for _, r := range reports(t, data, "--root", filepath.Join(crates, crate), p).References {
			if r.State == "away" || r.State == "twins" || r.State == "unplugged" {
				t.Errorf("%s leads out of its crate: %q is %s", p, r.Written, r.State)
			}
			if r.State == "here" {
				found++
			}
		}
		return nil
	})
	if err != nil || found < 30 {
		t.Errorf("%d found in the crates, %v", found, err)
	}
}

// TestWords goes the road as a person at a terminal reads it.
func TestWords(t *testing.T) {
	dir := t.TempDir()
	data := filepath.Join(dir, "home")
	says := func(want int, args []string, words ...string) {
		t.Helper()
		status, out, errs := invoke(t, data, args...)
		for _, w := range words {
			if !strings.Contains(out, w) {
				t.Errorf("%v does not say %q:\n%s%s", args, w, out, errs)
			}
		}
		if status != want {
			t.Errorf("%v: exit status %d, wanted %d\n%s%s", args, status, want, out, errs)
		}
	}
	doc := filepath.Join(dir, "film/list.m3u")
	for p, text := range map[string]string{"film/list.m3u": "#EXTM3U\nhere.wav\nold/gull.wav\nnested.xspf\n", "film/here.wav": "1", "film/nested.xspf": "<playlist", "store/gull.wav": "gull"} {
		p = filepath.Join(dir, p)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	says(1, []string{"trace", doc}, "here.wav", "old/gull.wav", "missing", "unreadable", "nested.xspf, line 1: not a valid XSPF document: the text ends")
	says(1, []string{"mend", "--search", dir + "/store", doc}, dir+"/film/old/gull.wav", dir+"/store/gull.wav", "same name", "1 searched for, 0 certain among 1 file.")
	says(1, []string{"seal", "--out", dir + "/out/crate", doc}, "crate")
	says(1, []string{"check", dir + "/out/crate"}, "old/gull.wav")
	says(1, []string{"receive", "--into", dir + "/in", dir + "/out/crate"}, "Unpacked to "+dir+"/in/crate")
	if err := os.Remove(filepath.Join(dir, "out/crate/bag-info.txt")); err != nil {
		t.Fatal(err)
	}
	says(1, []string{"receive", "--into", dir + "/in 2", dir + "/out/crate"}, "The check failed. Nothing was unpacked.", "bag-info.txt")
}
