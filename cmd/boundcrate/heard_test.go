package main

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
	"boundcrate/core/say/words"
)

// TestHeardBefore: what only hearing a sound tells is told in the plan, and again when it was
// sealed. One that is broken is carried as it is, byte for byte; one too loud tells the gain
// with which nothing is cut: sox lowers it by that, and nothing is told any more.
func TestHeardBefore(t *testing.T) {
	if _, err := exec.LookPath("sox"); err != nil {
		t.Skip("sox is not installed; make test installs it where it may")
	}
	dir := coretest.Lay(t, map[string]string{"film/cut.otio": cut("loud.wav", "broken.flac", "short.flac", "sound.flac")})
	at := func(p string) string { return filepath.Join(dir, p) }
	sox := func(args ...string) {
		if out, err := exec.Command("sox", append([]string{"-R"}, args...)...).CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	sox("-n", "-r", "48000", "-e", "floating-point", "-b", "32", at("film/loud.wav"), "synth", "1", "sine", "440", "gain", "0")
	b, err := os.ReadFile(at("film/loud.wav"))
	if err != nil {
		t.Fatal(err)
	}
	for i := bytes.Index(b, []byte("data")) + 8; i+4 <= len(b); i += 4 { // half as loud again as full scale
		binary.LittleEndian.PutUint32(b[i:], math.Float32bits(1.5*math.Float32frombits(binary.LittleEndian.Uint32(b[i:]))))
	}
	coretest.Write(t, at("film/loud.wav"), string(b))
	sox("-n", "-r", "96000", "-b", "24", at("film/sound.flac"), "synth", "1.5", "pinknoise")
	whole, err := os.ReadFile(at("film/sound.flac"))
	if err != nil {
		t.Fatal(err)
	}
	broken := bytes.Clone(whole)
	broken[len(broken)/2] ^= 0x40
	coretest.Write(t, at("film/broken.flac"), string(broken))
	coretest.Write(t, at("film/short.flac"), string(whole[:len(whole)/2]))
	recipe := coretest.Write(t, filepath.Join(t.TempDir(), "r.yaml"), "sound: {type: wav, rate: 48000, depth: 24}\n")
	told := func(list []words.Problem) (out []string) {
		for _, p := range list {
			out = append(out, string(p.Code)+" "+filepath.Base(p.Path))
		}
		slices.Sort(out)
		return out
	}
	want := []string{"broken-sound broken.flac", "broken-sound short.flac", "clipped loud.wav"}
	p := answer[report.Stow](t, t.TempDir(), 1, "stow", "--json", "--recipe", recipe, at("film/cut.otio"))
	if got := told(p.Problems); !slices.Equal(got, want) {
		t.Errorf("planned: %q", got)
	}
	crate := filepath.Join(t.TempDir(), "crate")
	rep := answer[report.Seal](t, t.TempDir(), 1, "seal", "--json", "--recipe", recipe, "--out", crate, at("film/cut.otio"))
	if got := told(rep.Problems); !slices.Equal(got, want) || rep.Files != p.Files || rep.Bytes != p.Bytes {
		t.Errorf("sealed: %q %+v", got, rep)
	}
	found := map[string][32]byte{}
	for f, sum := range coretest.Sums(t, filepath.Join(crate, "data")) {
		found[filepath.Base(f)] = sum
	}
	for f, sum := range coretest.Sums(t, at("film")) {
		if name := filepath.Base(f); (name == "broken.flac" || name == "short.flac") && found[name] != sum {
			t.Errorf("%s did not go as it is: %v", name, found)
		}
	}
	if len(found) != 5 {
		t.Errorf("%v", found)
	}
	loud := p.Problems[slices.IndexFunc(p.Problems, func(p words.Problem) bool { return p.Code == "clipped" })]
	gain := regexp.MustCompile(`Lower it by ([0-9.]+) dB`).FindStringSubmatch(loud.Do)
	if gain == nil {
		t.Fatal(loud)
	}
	sox(at("film/loud.wav"), at("film/lower.wav"), "gain", "-"+gain[1])
	if err := os.Rename(at("film/lower.wav"), at("film/loud.wav")); err != nil {
		t.Fatal(err)
	}
	p = answer[report.Stow](t, t.TempDir(), 1, "stow", "--json", "--recipe", recipe, at("film/cut.otio"))
	if got := told(p.Problems); !slices.Equal(got, want[:2]) {
		t.Errorf("lower by %s dB: %q", gain[1], got)
	}
}
