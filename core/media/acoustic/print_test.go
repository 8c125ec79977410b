package acoustic_test

import (
	"bytes"
	"encoding/binary"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/media/acoustic"
)

// performance plays a piece: notes from its seed, played with the small freedoms of a
// take.
func performance(piece, take uint64) []byte {
	const rate, seconds = 44100, 16
	notes, play := rand.New(rand.NewPCG(piece, 1)), rand.New(rand.NewPCG(take, 2))
	samples := make([]float64, rate*seconds)
	for at := 0.0; at < seconds-1; {
		pitch := 110 * math.Pow(2, float64(notes.IntN(36))/12) * math.Pow(2, (play.Float64()-0.5)*0.06)
		length := 0.12 + 0.5*notes.Float64()
		from := at + 0.05*play.Float64()
		for h := 1; h <= 6; h++ {
			phase, loud := play.Float64()*7, (0.5+notes.Float64())/float64(h)
			for i := int(from * rate); i < min(len(samples), int((from+length*1.6)*rate)); i++ {
				t := float64(i)/rate - from
				samples[i] += 0.12 * loud * math.Exp(-3*t) * math.Sin(2*math.Pi*pitch*float64(h)*t+phase)
			}
		}
		at += length * (0.97 + 0.06*play.Float64())
	}
	var w bytes.Buffer
	put := func(v any) { _ = binary.Write(&w, binary.LittleEndian, v) }
	w.WriteString("RIFF")
	put(uint32(36 + 2*len(samples)))
	w.WriteString("WAVEfmt ")
	for _, v := range []any{uint32(16), uint16(1), uint16(1), uint32(rate), uint32(2 * rate), uint16(2), uint16(16)} {
		put(v)
	}
	w.WriteString("data")
	put(uint32(2 * len(samples)))
	for _, v := range samples {
		put(int16(math.Max(-1, math.Min(1, v+0.001*play.NormFloat64())) * 32767))
	}
	return w.Bytes()
}

func heard(t testing.TB, path string) acoustic.Print {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	p, err := acoustic.Of(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatalf("%s: %v", filepath.Base(path), err)
	}
	return acoustic.Unpack(p.Pack())
}

// TestLikeness: what ffmpeg (Debian) makes of a recording, through lossy codings, other
// rates, depths and levels, is like it; another take of the same piece and another
// piece are not.
func TestLikeness(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	lay := func(name string, b []byte) string {
		p := filepath.Join(dir, name)
		if err := os.WriteFile(p, b, 0o644); err != nil {
			t.Fatal(err)
		}
		return p
	}
	for piece := range uint64(2) {
		src := lay("a.wav", performance(piece, 1))
		first := heard(t, src)
		for name, args := range map[string][]string{
			"192.mp3": {"-b:a", "192k"}, "96.mp3": {"-b:a", "96k"}, "64.mp3": {"-b:a", "64k"}, "22.wav": {"-ar", "22050"}, "48.wav": {"-ar", "48000"}, "8.wav": {"-c:a", "pcm_u8"},
			"soft.wav": {"-af", "volume=-12dB"}, "a.flac": {}, "a.aif": {}, "two.wav": {"-ac", "2"}, "late.wav": {"-ss", "1.37"},
		} {
			p := filepath.Join(dir, name)
			if out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-y", "-i", src}, args...), p)...).CombinedOutput(); err != nil {
				t.Fatalf("%s: %v %s", name, err, out)
			}
			l := first.Likeness(heard(t, p))
			t.Logf("piece %d, %s: %.2f", piece, name, l)
			if l < acoustic.Alike {
				t.Errorf("piece %d: %s is %.2f like it", piece, name, l)
			}
		}
		for name, b := range map[string][]byte{"another take": performance(piece, 2), "a third take": performance(piece, 3), "another piece": performance(piece+10, 1)} {
			l := first.Likeness(heard(t, lay("o.wav", b)))
			t.Logf("piece %d, %s: %.2f", piece, name, l)
			if l >= acoustic.Alike {
				t.Errorf("piece %d: %s is %.2f like it", piece, name, l)
			}
		}
	}
}

// BenchmarkOf listens to 16 seconds: how often faster than they play.
func BenchmarkOf(b *testing.B) {
	file := performance(1, 1)
	for b.Loop() {
		if _, err := acoustic.Of(bytes.NewReader(file), int64(len(file))); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(16/b.Elapsed().Seconds()*float64(b.N), "×/real-time")
}
