package facts_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/media/facts"
)

func decoded(t *testing.T, path string) string {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	d, err := facts.Decoded(f, int64(len(b)))
	if err != nil {
		return ""
	}
	return d
}

// TestDecoded: what ffmpeg (Debian) makes of one sound without loss is the same
// sound, whatever wraps it; another rate, depth or coding is not, and another sound
// is not.
func TestDecoded(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	made := func(name string, args ...string) string {
		t.Helper()
		p := filepath.Join(dir, name)
		if out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-y"}, args...), p)...).CombinedOutput(); err != nil {
			t.Fatalf("%s: %v %s", name, err, out)
		}
		return p
	}
	for _, depth := range []struct{ wav, aiff, flac string }{{"pcm_s16le", "pcm_s16be", "s16"}, {"pcm_s24le", "pcm_s24be", "s32"}} {
		src := made("a.wav", "-f", "lavfi", "-i", "anoisesrc=d=0.7:c=pink:r=48000:seed=5", "-ac", "2", "-c:a", depth.wav)
		want := decoded(t, src)
		if want == "" {
			t.Fatal("a WAVE file was not read")
		}
		for _, p := range []string{
			made("a.aif", "-i", src, "-c:a", depth.aiff), made("a.flac", "-i", src, "-sample_fmt", depth.flac),
			made("b.wav", "-i", src, "-c:a", depth.wav, "-rf64", "always"), made("c.wav", "-i", src, "-c:a", depth.wav, "-metadata", "title=other words"),
		} {
			if got := decoded(t, p); got != want {
				t.Errorf("%s: %s is %q, not %q", depth.wav, filepath.Base(p), got, want)
			}
		}
		for _, p := range []string{
			made("r.wav", "-i", src, "-ar", "44100", "-c:a", depth.wav), made("d.wav", "-i", src, "-c:a", "pcm_u8"), made("m.wav", "-i", src, "-ac", "1", "-c:a", depth.wav),
			made("o.wav", "-f", "lavfi", "-i", "anoisesrc=d=0.7:c=pink:r=48000:seed=6", "-ac", "2", "-c:a", depth.wav), made("x.mp3", "-i", src), made("f.wav", "-i", src, "-c:a", "pcm_f32le"),
		} {
			if got := decoded(t, p); got == want {
				t.Errorf("%s: %s is taken for the same sound", depth.wav, filepath.Base(p))
			}
		}
	}
	src := made("a.png", "-f", "lavfi", "-i", "testsrc=s=64x48:d=1", "-frames:v", "1")
	want := decoded(t, src)
	for _, p := range []string{made("a.tif", "-i", src), made("a.bmp", "-i", src), made("b.png", "-i", src, "-compression_level", "0")} {
		if got := decoded(t, p); got != want || got == "" {
			t.Errorf("%s is %q, not %q", filepath.Base(p), got, want)
		}
	}
	for _, p := range []string{made("s.png", "-i", src, "-vf", "scale=32:24"), made("h.png", "-i", src, "-vf", "hflip"), made("a.jpg", "-i", src)} {
		if got := decoded(t, p); got == want {
			t.Errorf("%s is taken for the same picture", filepath.Base(p))
		}
	}
}

// BenchmarkDecoded digests a minute of 24 bits in stereo at 48 kHz: how often faster
// than it plays.
func BenchmarkDecoded(b *testing.B) {
	path := filepath.Join(b.TempDir(), "a.wav")
	if err := os.WriteFile(path, wave("RIFF", 1, 2, 48000, 24, 60*48000), 0o644); err != nil {
		b.Fatal(err)
	}
	f, err := os.Open(path)
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := facts.Decoded(f, info.Size()); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(60/b.Elapsed().Seconds()*float64(b.N), "×/real-time")
}
