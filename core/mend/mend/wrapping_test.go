package mend_test

import (
	"bytes"
	"context"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/media/acoustic"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
)

// TestWrapping: what ffmpeg (Debian) makes of a lost sound without loss is likely, and
// says why; through a lossy coding it is possible, with a figure; another sound of its
// name and length is neither.
func TestWrapping(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	tune := func(k float64) []byte {
		b := make([]byte, 2000*8)
		for i := range b {
			s := float64(i) / 2000
			b[i] = byte(128 + 60*math.Sin(2*math.Pi*(110+40*math.Floor(3*s*k)*math.Mod(7*k, 3))*s)*math.Exp(-2*math.Mod(3*s*k, 1)))
		}
		return mendtest.Wave(b)
	}
	write := func(name string, b []byte) string {
		p := filepath.Join(dir, name)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(p, b, 0o644); err != nil {
			t.Fatal(err)
		}
		return p
	}
	lost := write("was/gull.wav", tune(1))
	if out, err := exec.Command("ffmpeg", "-v", "error", "-i", lost, "-ar", "44100", "-c:a", "pcm_s16le", filepath.Join(dir, "gull.wav")).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, out)
	}
	src, err := os.ReadFile(filepath.Join(dir, "gull.wav"))
	if err != nil {
		t.Fatal(err)
	}
	known, err := facts.Read(bytes.NewReader(src), int64(len(src)))
	if err != nil {
		t.Fatal(err)
	}
	if known.Decoded, err = facts.Decoded(bytes.NewReader(src), int64(len(src))); err != nil {
		t.Fatal(err)
	}
	was, err := acoustic.Of(bytes.NewReader(src), int64(len(src)))
	if err != nil {
		t.Fatal(err)
	}
	w := wanted("gull.wav")
	w.Last = &mend.Seen{Size: int64(len(src)), SHA256: hashOf(t, filepath.Join(dir, "gull.wav")), Facts: known}
	rd := reading(nil)
	rd.Heard = func(string) (acoustic.Print, bool) { return was, true }
	for _, c := range []struct {
		name      string
		args      []string
		certainty mend.Certainty
		says      mend.Code
	}{
		{"gull.flac", nil, mend.Likely, mend.SameSound},
		{"gull.aif", nil, mend.Likely, mend.SameSound},
		{"gull.mp3", []string{"-b:a", "96k"}, mend.Possible, mend.SoundsAlike},
		{"gull 22.wav", []string{"-ar", "22050"}, mend.Possible, mend.SoundsAlike},
	} {
		at := filepath.Join(dir, "found", c.name)
		if err := os.RemoveAll(filepath.Dir(at)); err != nil {
			t.Fatal(err)
		}
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-i", filepath.Join(dir, "gull.wav")}, c.args...), at)...).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		got, err := mend.Find(context.Background(), build(t, filepath.Dir(at), false), []mend.Wanted{w}, rd, nil)
		if err != nil || len(got[0]) != 1 || got[0][0].Certainty != c.certainty || !got[0][0].HasCode(c.says) {
			t.Errorf("%s: %q %+v %v", c.name, expectedFacts(got[0]), got[0], err)
		}
	}
	other := write("other/gull.wav", tune(1.37))
	got, err := mend.Find(context.Background(), build(t, filepath.Dir(other), false), []mend.Wanted{w}, rd, nil)
	if err != nil || len(got[0]) != 1 || got[0][0].HasCode(mend.SameSound) || got[0][0].HasCode(mend.SoundsAlike) || got[0][0].Certainty != mend.Possible {
		t.Errorf("another sound of its name: %+v %v", got[0], err)
	}
}
