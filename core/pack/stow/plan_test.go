package stow_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
)

// project lays files down and traces its list.
func project(t *testing.T, list string, files ...string) *graph.Graph {
	t.Helper()
	dir := t.TempDir()
	for _, f := range append(files, "project/list.csv") {
		p := filepath.Join(dir, f)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		text := f
		if strings.HasSuffix(f, "list.csv") {
			text = list
		}
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}}, filepath.Join(dir, "project/list.csv"))
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// plan makes a plan and proves what its documents will say.
func plan(t *testing.T, g *graph.Graph, o stow.Options) *stow.Texts {
	t.Helper()
	p, err := stow.Make(context.Background(), g, o)
	if err != nil {
		t.Fatal(err)
	}
	texts, err := p.Texts(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}})
	if err != nil {
		t.Fatal(err)
	}
	return texts
}

// places says where everything goes: old name → place.
func places(p *stow.Texts) map[string]string {
	out := map[string]string{}
	for i := range p.Berths {
		b := &p.Berths[i]
		at := strings.TrimPrefix(b.Folder+"/"+b.Name, "/")
		if b.Absent {
			at = "(" + words.Absence(b.Why, "") + ") " + at
		}
		key := filepath.Join(filepath.Base(b.From), b.Was)
		out[key] = at
	}
	return out
}

func expect(t *testing.T, what string, p *stow.Texts, want map[string]string) {
	t.Helper()
	got := places(p)
	for k, v := range want {
		if got[k] != v {
			t.Errorf("%s: %s goes to %q, wanted %q", what, k, got[k], v)
		}
	}
	// The law of every plan: no two places are one on any system.
	seen := map[string]string{}
	for _, c := range p.Copies() {
		k := strings.ToLower(c.To)
		if seen[k] != "" {
			t.Errorf("%s: %s and %s both go to %s", what, seen[k], c.Source, c.To)
		}
		seen[k] = c.Source
	}
}

const list = "path,use\na/wave.wav,\n../lib/wave.wav,\n../lib/WAVE.WAV,\nstills/p.png,\ngone.wav,\nold/take.wav,dormant\nspare/x.wav,listed\n../lib/CON.wav,\n"

var files = []string{"project/a/wave.wav", "lib/wave.wav", "lib/WAVE.WAV", "project/stills/p.png", "project/old/take.wav", "project/spare/x.wav", "lib/CON.wav"}

// TestLayouts: both layouts, with what clashes, what is reserved on some
// systems (Windows naming rules) and what is not there.
func TestLayouts(t *testing.T) {
	g := project(t, list, files...)
	expect(t, "by kind", plan(t, g, stow.Options{Layout: stow.ByKind}), map[string]string{
		"project/list.csv": "list.csv", "a/wave.wav": "audio/wave.wav", "lib/wave.wav": "audio/wave-2.wav", "lib/WAVE.WAV": "audio/WAVE-3.WAV", "stills/p.png": "images/p.png",
		"project/gone.wav": "(missing) audio/gone.wav", "lib/CON.wav": "audio/CON_.wav",
	})
	p := plan(t, g, stow.Options{Layout: stow.AsStands})
	got := places(p)
	if got["a/wave.wav"] != "a/wave.wav" || got["stills/p.png"] != "stills/p.png" || !strings.HasPrefix(got["lib/wave.wav"], "outside/") || !strings.HasSuffix(got["lib/wave.wav"], "/lib/wave.wav") {
		t.Errorf("as the folders stand: %v", got)
	}
	expect(t, "as the folders stand", p, nil)
}

// TestLeave: what stays is listed with its reason and is aimed at all
// the same; what is used stays.
func TestLeave(t *testing.T) {
	g := project(t, list, files...)
	p := plan(t, g, stow.Options{Layout: stow.ByKind, Leave: sift.Choice{Dormant: true, Listed: true}})
	expect(t, "lean", p, map[string]string{
		"old/take.wav": "(inactive) audio/take.wav", "spare/x.wav": "(listed but not used) audio/x.wav", "a/wave.wav": "audio/wave.wav",
	})
	whole, _ := plan(t, g, stow.Options{Layout: stow.ByKind}).Totals()
	lean, _ := p.Totals()
	if whole-lean != 2 || len(p.Left) != 3 {
		t.Errorf("%d and %d files, left %v", whole, lean, p.Left)
	}
	weighed := sift.Weigh(g, nil, sift.Selection{})
	sum := 0
	for _, l := range weighed {
		sum += l.Files
	}
	if sum != whole-1 { // the list itself is not weighed
		t.Errorf("%d files are weighed, %d travel", sum, whole)
	}
}

// TestWishes: wishes come first, keep the extension, and push others aside.
func TestWishes(t *testing.T) {
	g := project(t, list, files...)
	base := plan(t, g, stow.Options{Layout: stow.ByKind})
	keys := map[string]graph.FileID{}
	for i := range base.Berths {
		b := &base.Berths[i]
		keys[filepath.Join(filepath.Base(b.From), b.Was)] = b.File
	}
	s := func(v string) *string { return &v }
	p := plan(t, g, stow.Options{Layout: stow.ByKind, ByHand: map[graph.FileID]decide.ByHand{
		keys["lib/wave.wav"]: {Name: s("wave")}, keys["stills/p.png"]: {Folder: s("../plates\\new"), Name: s("plate.jpg")},
	}})
	expect(t, "wishes", p, map[string]string{"lib/wave.wav": "audio/wave.wav", "a/wave.wav": "audio/wave-2.wav", "stills/p.png": "plates/new/plate.jpg.png"})
	// A folder cannot stand where a file does.
	p = plan(t, g, stow.Options{Layout: stow.ByKind, ByHand: map[graph.FileID]decide.ByHand{keys["stills/p.png"]: {Folder: s("audio/wave.wav")}}})
	expect(t, "folder on a file", p, nil)
	if len(p.Problems()) > 0 {
		t.Error(p.Problems())
	}
}

// TestMany: 3,000 files of one name are all renamed apart.
func TestMany(t *testing.T) {
	var b strings.Builder
	var files []string
	b.WriteString("path\n")
	for i := range 3000 {
		fmt.Fprintf(&b, "d%d/same.wav\n", i)
		files = append(files, fmt.Sprintf("project/d%d/same.wav", i))
	}
	p := plan(t, project(t, b.String(), files...), stow.Options{Layout: stow.ByKind})
	expect(t, "many", p, nil)
	if p.Clashes != 2999 || len(p.Copies()) != 3001 {
		t.Errorf("%d clashes, %d copies", p.Clashes, len(p.Copies()))
	}
}
