package main

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/compare"
	"boundcrate/core/say/report/keeping"
)

// TestKeepCommand: the contract of keep, editions, restore and compare over editions: nested documents, several
// that are one project, one outside the root, one that broke, one that is gone, a file that is really called so.
func TestKeepCommand(t *testing.T) {
	dir, data := coretest.Lay(t, map[string]string{
		"w/film/cut.otio": cut("scene.otio", "../other/lent.otio", "a.wav"), "w/film/scene.otio": cut("b.wav"), "w/film/mix.otio": cut("a.wav"),
		"w/other/lent.otio": cut("c.wav"), "w/film/a.wav": "a", "w/film/b.wav": "b", "w/film/cut.otio@3": "really",
	}), t.TempDir()
	at := func(p string) string { return filepath.Join(dir, "w", filepath.FromSlash(p)) }
	text := func(p string) string {
		b, err := os.ReadFile(at(p))
		if err != nil {
			return err.Error()
		}
		return string(b)
	}
	first := answer[keeping.Kept](t, data, 0, "keep", "--json", "--note", "as shown", at("film/cut.otio"), at("film/mix.otio"))
	e := first.Edition
	if first.Unchanged || !e.Current || e.ID != 1 || e.Line != "1" || e.By != "hand" || e.Note != "as shown" || len(e.Documents) != 3 || len(e.Outside) != 1 || e.Outside[0].Path != at("other/lent.otio") || e.Material.Files != 2 {
		t.Fatalf("kept %+v", first)
	}
	if again := answer[keeping.Kept](t, data, 0, "keep", "--json", at("film/mix.otio")); !again.Unchanged || again.Edition.ID != 1 || len(again.Edition.Documents) != 3 {
		t.Errorf("by the other document: %+v", again)
	}
	whole := map[string]string{"film/cut.otio": text("film/cut.otio"), "film/scene.otio": text("film/scene.otio"), "film/mix.otio": text("film/mix.otio")}
	coretest.Write(t, at("film/scene.otio"), cut("b.wav", "a.wav"))
	coretest.Write(t, at("film/later.txt"), "it came later")
	coretest.Write(t, at("other/lent.otio"), cut("d.wav"))
	if two := answer[keeping.Kept](t, data, 0, "keep", "--json", "--alternative", at("film/cut.otio")); two.Unchanged || two.Edition.From != 1 || two.Edition.Line != "2" {
		t.Errorf("an alternative: %+v", two)
	}
	doc := at("film/cut.otio")
	if same := answer[compare.Comparison](t, data, 0, "compare", "--json", doc+"@1", doc+"@1"); !same.Equal() || same.Same != 3 {
		t.Errorf("with itself: %+v", same)
	}
	ab := answer[compare.Comparison](t, data, 1, "compare", "--json", doc+"@1", doc+"@2")
	ba := answer[compare.Comparison](t, data, 1, "compare", "--json", doc+"@2", doc+"@1")
	if len(ab.Came) != 1 || len(ba.Went) != 1 || ab.Came[0] != ba.Went[0] || len(ab.Went) != 1 || ab.Went[0] != ba.Came[0] || ab.Same != ba.Same || len(ab.Changed) != len(ba.Changed) {
		t.Errorf("turned round: %+v and %+v", ab, ba)
	}
	if now := answer[compare.Comparison](t, data, 0, "compare", "--json", doc+"@2", doc); !now.Equal() {
		t.Errorf("with what is there: %+v", now)
	}
	// The present is broken, or gone: the present state is kept as it is, and all come back.
	coretest.Write(t, at("film/cut.otio"), "{ half")
	os.Remove(at("film/scene.otio"))
	back := answer[keeping.Restored](t, data, 0, "restore", "--json", "--edition", "1", doc)
	for p, want := range whole {
		if text(p) != want {
			t.Errorf("%s is %q", p, text(p))
		}
	}
	if len(back.Written) != 2 || len(back.Same) != 1 || back.Kept == nil || back.Kept.By != "before-restore" || len(back.Outside) != 1 || text("other/lent.otio") != cut("d.wav") || text("film/later.txt") != "it came later" {
		t.Errorf("restored %+v", back)
	}
	into := filepath.Join(t.TempDir(), "copy")
	if got := answer[keeping.Restored](t, data, 0, "restore", "--json", "--edition", "3", "--into", into, doc); got.Kept != nil || got.Into != into || text("film/cut.otio") != whole["film/cut.otio"] {
		t.Errorf("a copy: %+v", got)
	}
	if b, err := os.ReadFile(filepath.Join(into, "cut.otio")); err != nil || string(b) != "{ half" {
		t.Errorf("the broken state is kept as %q, %v", b, err)
	}
	list := answer[keeping.Editions](t, data, 0, "editions", "--json", doc)
	var current []int
	for _, e := range list.Editions {
		if e.Current {
			current = append(current, e.ID)
		}
	}
	if len(list.Editions) != 3 || !slices.Equal(current, []int{1}) {
		t.Errorf("%d editions, %v current", len(list.Editions), current)
	}
	for _, x := range []struct {
		args []string
		says string
	}{
		{[]string{"restore", "--edition", "9", doc}, "there is no edition 9"},
		{[]string{"restore", "--edition", "1", at("film/a.wav")}, "no edition of it is kept"},
		{[]string{"restore", "--edition", "1", "--into", into, doc}, "exist"},
		{[]string{"compare", doc + "@9", doc}, "there is no edition 9"},
		{[]string{"keep", at("film/gone.otio")}, "gone.otio"},
		{[]string{"keep", "--data", at("film/a.wav"), doc}, "--editions"},
	} {
		cmd := command(t, data, x.args...)
		out, _ := cmd.CombinedOutput()
		if code := cmd.ProcessState.ExitCode(); code != 2 || !strings.Contains(string(out), x.says) {
			t.Errorf("%v: %d, %s", x.args, code, out)
		}
	}
	if file := answer[compare.Comparison](t, data, 1, "compare", "--json", doc+"@3", doc); file.Same != 0 || len(file.Documents) != 1 {
		t.Errorf("a file that is really called so: %+v", file)
	}
	elsewhere := filepath.Join(t.TempDir(), "mine")
	if k := answer[keeping.Kept](t, data, 0, "keep", "--json", "--editions", elsewhere, "--data", at("film/a.wav"), doc); k.Edition.ID != 1 {
		t.Errorf("in a folder of one's own: %+v", k)
	}
	states, _ := filepath.Glob(filepath.Join(data, "*", "editions", "states", "*", e.Documents[0].SHA256+".zst"))
	coretest.Write(t, states[0], "spoiled")
	if got := answer[keeping.Editions](t, data, 1, "editions", "--json", doc); !slices.Contains(got.Broken, 1) {
		t.Errorf("damaged: %+v", got.Broken)
	}
	before := coretest.Sums(t, at("film"))
	if out, err := command(t, data, "restore", "--edition", "1", doc).CombinedOutput(); err == nil || !strings.Contains(string(out), "damaged") {
		t.Errorf("of a damaged store: %s", out)
	}
	if after := coretest.Sums(t, at("film")); len(after) != len(before) {
		t.Error("a refused restore changed the project")
	}
}
