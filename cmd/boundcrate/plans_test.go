package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/sift"
	"boundcrate/core/road/graph"
	"boundcrate/core/say/report"
)

// answer runs a command with --json and reads what it prints.
func answer[T any](t *testing.T, data string, code int, args ...string) T {
	t.Helper()
	got, out, errs := invoke(t, data, args...)
	var v T
	if err := json.Unmarshal([]byte(out), &v); err != nil || got != code {
		t.Fatalf("%v: %d %v\n%s%s", args, got, err, out, errs)
	}
	return v
}

// TestPlans: several documents are one project for every command; sift and stow
// tell what would be, by the contract, and touch nothing.
func TestPlans(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"job/assembly.m3u": "#EXTM3U\nparts/a.wav\nparts/shared.wav\n", "job/drawings.m3u": "#EXTM3U\nparts/shared.wav\nother/a.wav\n",
		"job/parts/a.wav": "first", "job/parts/shared.wav": "shared", "job/other/a.wav": "second", "job/old/copy.wav": "shared", "job/old/notes.txt": "n",
		"lean.yaml": "layout: flat\ndrop: [\"**/other/*\"]\nprefix: tc_\n",
	})
	at := func(p string) string { return filepath.Join(dir, filepath.FromSlash(p)) }
	docs := []string{at("job/assembly.m3u"), at("job/drawings.m3u")}
	data := t.TempDir()
	before := coretest.Sums(t, dir)

	tr := answer[report.Trace](t, data, 0, append([]string{"trace", "--json"}, docs...)...)
	if tr.Document != docs[0] || !slices.Equal(tr.Documents, docs) || tr.Root != at("job") || len(tr.References) != 4 {
		t.Errorf("%+v", tr)
	}
	i := slices.IndexFunc(tr.Files, func(f report.File) bool { return f.Path == at("job/parts/shared.wav") })
	if i < 0 || tr.Files[i].References != 2 {
		t.Errorf("%+v", tr.Files)
	}

	s := answer[report.Sift](t, data, 0, append([]string{"sift", "--json", "--recipe", at("lean.yaml")}, docs...)...)
	if s.Travels.Files != 4 || len(s.Stays) != 1 || s.Stays[0].Path != at("job/other/a.wav") || s.Passes[len(s.Passes)-1] != 0 {
		t.Errorf("%+v", s)
	}
	if len(s.Strays) != 2 || !slices.ContainsFunc(s.Strays, func(x sift.Stray) bool {
		return x.Path == at("job/old/copy.wav") && x.Bytes == 6 && !x.Modified.IsZero()
	}) {
		t.Errorf("strays %+v", s.Strays)
	}
	if s = answer[report.Sift](t, data, 0, append([]string{"sift", "--json"}, docs...)...); len(s.Namesakes) != 1 || s.Namesakes[0].Name != "a.wav" || len(s.Stays) != 0 {
		t.Errorf("%+v", s)
	}

	p := answer[report.Stow](t, data, 0, append([]string{"stow", "--json"}, docs...)...)
	to := map[string]string{}
	var bytes int64
	for _, b := range p.Berths {
		to[b.Source] = b.To
		bytes += b.Bytes
	}
	if p.Clashes != 1 || to[at("job/parts/a.wav")] != "audio/a.wav" || to[at("job/other/a.wav")] != "audio/a-2.wav" || bytes != p.Bytes || p.Counts["audio"].Files != 3 {
		t.Errorf("%+v", p)
	}
	for _, k := range []carrier.Kind{carrier.Zip, carrier.TarZstd} {
		if p.Estimates[k] <= 0 {
			t.Errorf("no estimate of %s: %v", k, p.Estimates)
		}
	}
	p = answer[report.Stow](t, data, 0, append([]string{"stow", "--json", "--recipe", at("lean.yaml")}, docs...)...)
	for _, b := range p.Berths {
		if strings.Contains(b.To, "/") || strings.HasPrefix(b.To, "tc_") != (b.Kind != facts.Document) { // documents keep their names
			t.Errorf("%s moved to %s", b.Source, b.To)
		}
	}
	if after := coretest.Sums(t, dir); len(after) != len(before) {
		t.Error("a plan touched something")
	} else {
		for f, sum := range before {
			if after[f] != sum {
				t.Errorf("%s was changed", f)
			}
		}
	}

	// The two of them sealed are one crate that is whole.
	out := filepath.Join(t.TempDir(), "crate.tar.zst")
	if rep := answer[report.Seal](t, data, 0, append([]string{"seal", "--json", "--out", out}, docs...)...); !rep.Complete || rep.Files != 5 {
		t.Errorf("%+v", rep)
	}
	if code, text, errs := invoke(t, t.TempDir(), "check", out); code != 0 {
		t.Error(code, text, errs)
	}
}

// TestRecipes: a key that is not known is refused with the recipe and its line,
// a size that no part can have too, and nothing is sealed.
func TestRecipes(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"cut.m3u": "#EXTM3U\na.wav\n", "a.wav": "a"})
	out := filepath.Join(t.TempDir(), "crate")
	for text, want := range map[string]string{
		"layout: kind\nlayuot: flat\n": "line 2", "title: x\nparts: 2 kB\n": "at least 1 MB", "leave: [nonsense]\n": "nonsense", "a: [\n": "r.yaml",
	} {
		r := coretest.Write(t, filepath.Join(dir, "r.yaml"), text)
		code, _, errs := invoke(t, t.TempDir(), "seal", "--recipe", r, "--out", out, filepath.Join(dir, "cut.m3u"))
		if code != 2 || !strings.Contains(errs, want) || !strings.Contains(errs, "r.yaml") {
			t.Errorf("%q: %d %s", text, code, errs)
		}
		if _, err := os.Stat(out); err == nil {
			t.Fatal("it was sealed all the same")
		}
	}
}

// TestWritePoints: a project that would write elsewhere needs a person.
func TestWritePoints(t *testing.T) {
	track := func(to string) string {
		return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","metadata":{"bound_crate":{"record_to":"` + to + `"}},"children":[]}]}}`
	}
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": track("../other/takes"), "film/home.otio": track("."), "other/takes/x.wav": "x"})
	r := answer[report.Trace](t, t.TempDir(), 1, "trace", "--json", filepath.Join(dir, "film", "cut.otio"))
	if len(r.WritePoints) != 1 || r.WritePoints[0].Owner != "Track A1" || r.WritePoints[0].Path != filepath.Join(dir, "other", "takes") || !slices.Contains(r.WritePoints[0].Flags, graph.Outside) || slices.ContainsFunc(r.References, func(x report.Reference) bool { return x.Role != "write" }) {
		t.Errorf("%+v", r.WritePoints)
	}
	if r = answer[report.Trace](t, t.TempDir(), 0, "trace", "--json", filepath.Join(dir, "film", "home.otio")); len(r.WritePoints) != 1 || len(r.WritePoints[0].Flags) != 0 {
		t.Errorf("%+v", r.WritePoints)
	}
}

func decoded[T any](t *testing.T, out, about string) (v T) {
	t.Helper()
	if err := json.Unmarshal([]byte(out), &v); err != nil {
		t.Fatalf("%v\n%s%s", err, out, about)
	}
	return v
}
