package main

import (
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// clocked gives a recording a time reference (EBU Tech 3285, bext), in samples after
// midnight.
func clocked(t *testing.T, path string, clock uint64) {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	bext := make([]byte, 602)
	binary.LittleEndian.PutUint64(bext[338:], clock)
	chunk := append(binary.LittleEndian.AppendUint32([]byte("bext"), 602), bext...)
	b = slices.Insert(b, 12, chunk...)
	binary.LittleEndian.PutUint32(b[4:], uint32(len(b)-8))
	if err := os.WriteFile(path, b, 0o644); err != nil {
		t.Fatal(err)
	}
}

// TestHandoffChannels: a file for each channel lies beside the sound that the document goes
// on naming, and the audio list names those; files of one channel each are joined beside;
// what nothing names travels only as it is wanted; what does not fit is told. Sox judges.
func TestHandoffChannels(t *testing.T) {
	if _, err := exec.LookPath("sox"); err != nil {
		t.Skip("sox is not installed; make test installs it where it may")
	}
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": cut("sound/pair.wav", "sound/one.wav", "sound/mono.L.wav", "sound/mono.R.wav", "sound/odd.L.wav", "sound/odd.R.wav")})
	at := func(p string) string { return filepath.Join(dir, p) }
	if err := os.MkdirAll(at("film/sound"), 0o755); err != nil {
		t.Fatal(err)
	}
	for f, args := range map[string][]string{
		"pair.wav": {"2", "1.5"}, "one.wav": {"1", "1.5"}, "mono.L.wav": {"1", "1.5"}, "mono.R.wav": {"1", "1.5"}, "odd.L.wav": {"1", "1.5"}, "odd.R.wav": {"1", "1.6"}, "stray.wav": {"3", "1.5"}, "loose.1.wav": {"1", "1.5"}, "loose.2.wav": {"1", "1.5"}, "take.1.wav": {"1", "1.5"}, "take.2.wav": {"1", "1.5"},
	} {
		if out, err := exec.Command("sox", "-R", "-n", "-r", "48000", "-b", "24", "-c", args[0], at("film/sound/"+f), "synth", args[1], "pinknoise").CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	for _, f := range []string{"loose.1.wav", "loose.2.wav"} {
		clocked(t, at("film/sound/"+f), 48000*3600)
	}
	seal := func(channels string, status int) (string, report.Seal) {
		t.Helper()
		recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "also: [strays]\ninterchange: [adl]\nsound: {channels: "+channels+"}\n")
		out := filepath.Join(t.TempDir(), "crate")
		rep := answer[report.Seal](t, t.TempDir(), status, "seal", "--json", "--recipe", recipe, "--out", out, at("film/cut.otio"))
		if !rep.Complete {
			t.Fatalf("%+v", rep)
		}
		return filepath.Join(out, "data"), rep
	}
	wide := func(f string) string {
		t.Helper()
		out, err := exec.Command("soxi", "-c", f).Output()
		if err != nil {
			return "none"
		}
		return strings.TrimSpace(string(out))
	}
	crate, _ := seal("split", 0)
	for f, want := range map[string]string{
		"audio/pair.wav": "2", "audio/pair.L.wav": "1", "audio/pair.R.wav": "1", "audio/one.wav": "1", "audio/one.1.wav": "none", "strays/sound/stray.wav": "none", "strays/sound/stray.1.wav": "1", "strays/sound/stray.3.wav": "1",
	} {
		if got := wide(filepath.Join(crate, f)); got != want {
			t.Errorf("%s has %s channels, not %s", f, got, want)
		}
	}
	list := answer[report.Trace](t, t.TempDir(), 0, "trace", "--json", filepath.Join(crate, "cut.adl"))
	named := map[string]bool{}
	for _, f := range list.Files {
		named[filepath.Base(f.Path)] = f.State == "here"
	}
	if !named["pair.L.wav"] || !named["pair.R.wav"] || named["pair.wav"] || !named["one.wav"] {
		t.Errorf("the list names %v", named)
	}
	adl, err := os.ReadFile(filepath.Join(crate, "cut.adl"))
	if err != nil || strings.Count(string(adl), "(Track)") != 2 || strings.Count(string(adl), "(Entry)") != 12 {
		t.Errorf("%s %v", adl, err) // a track of two channels: what has one sounds on both
	}
	crate, rep := seal("interleaved", 1)
	for f, want := range map[string]string{
		"audio/pair.wav": "2", "audio/pair.L.wav": "none", "audio/mono.L.wav": "1", "audio/mono.wav": "2", "audio/odd.wav": "none", "audio/odd.L.wav": "1", "strays/sound/loose.wav": "2", "strays/sound/loose.1.wav": "none",
		"strays/sound/take.wav": "none", "strays/sound/take.1.wav": "1", // numbered takes are no channels: nothing says that they were recorded together
	} {
		if got := wide(filepath.Join(crate, f)); got != want {
			t.Errorf("%s has %s channels, not %s", f, got, want)
		}
	}
	if len(rep.Problems) != 1 || !strings.HasSuffix(rep.Problems[0].Path, "odd.L.wav") {
		t.Errorf("%+v", rep.Problems)
	}
	joined, err := exec.Command("sox", filepath.Join(crate, "audio/mono.wav"), "-t", "raw", "-", "remix", "2").Output()
	if err != nil {
		t.Fatal(err)
	}
	right, err := exec.Command("sox", at("film/sound/mono.R.wav"), "-t", "raw", "-").Output()
	if err != nil || string(joined) != string(right) {
		t.Errorf("the right channel is another: %v", err)
	}
}
