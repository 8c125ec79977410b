package pcm_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
)

// wave renders samples −1 to 1 of one channel.
func wave(depth, format int, samples []float64) []byte {
	var data bytes.Buffer
	for _, v := range samples {
		switch {
		case format == 3:
			_ = binary.Write(&data, binary.LittleEndian, float32(v))
		case depth == 8:
			data.WriteByte(byte(128 + int(v*127)))
		default:
			var b [4]byte
			binary.LittleEndian.PutUint32(b[:], uint32(int32(v*(1<<31-1))))
			data.Write(b[4-depth/8:])
		}
	}
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) }
	b.WriteString("RIFF\x00\x00\x00\x00WAVEfmt ")
	le(uint32(16))
	le(uint16(format))
	le(uint16(1))
	le(uint32(1000))
	le(uint32(1000 * depth / 8))
	le(uint16(depth / 8))
	le(uint16(depth))
	b.WriteString("data")
	le(uint32(data.Len()))
	b.Write(data.Bytes())
	return b.Bytes()
}

// TestPeaks: a tone of known amplitude peaks at it, in every sample form.
func TestPeaks(t *testing.T) {
	tone := make([]float64, 1000)
	for i := range tone {
		tone[i] = 0.5 * math.Sin(2*math.Pi*float64(i)/20)
		if i >= 500 {
			tone[i] = 0
		}
	}
	for _, c := range [][2]int{{8, 1}, {16, 1}, {24, 1}, {32, 1}, {32, 3}} {
		b := wave(c[0], c[1], tone)
		low, high, seconds, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10)
		if err != nil || len(low) != 10 || seconds != 1 {
			t.Fatalf("%v: %d slices, %v s, %v", c, len(low), seconds, err)
		}
		for i := range 10 {
			want := 0.5
			if i >= 5 {
				want = 0
			}
			if math.Abs(high[i]-want) > 0.01 || math.Abs(low[i]+want) > 0.01 {
				t.Errorf("%v, slice %d: %v to %v", c, i, low[i], high[i])
			}
		}
	}
	b := wave(24, 85, tone)
	if _, _, _, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10); !errors.Is(err, pcm.ErrNotLinear) {
		t.Error(err)
	}
	b = wave(16, 1, tone[:3])
	if low, _, _, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 10); err != nil || len(low) != 3 {
		t.Error(low, err)
	}
}

// TestAsWAV: an AIFF file read as a WAVE file, whole or in any parts, is what ffmpeg
// (Debian) makes of it.
func TestAsWAV(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	for _, coding := range []string{"pcm_s16be", "pcm_s24be", "pcm_s8", "pcm_s32be"} {
		src := filepath.Join(dir, coding+".aif")
		if out, err := exec.Command("ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", "anoisesrc=d=0.2:r=44100:seed=3", "-ac", "2", "-c:a", coding, src).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		raw, err := exec.Command("ffmpeg", "-v", "error", "-i", src, "-f", map[string]string{"pcm_s16be": "s16le", "pcm_s24be": "s24le", "pcm_s8": "u8", "pcm_s32be": "s32le"}[coding], "-").Output()
		if err != nil {
			t.Fatal(err)
		}
		b, err := os.ReadFile(src)
		if err != nil {
			t.Fatal(err)
		}
		r, err := pcm.AsWAV(bytes.NewReader(b), int64(len(b)))
		if err != nil {
			t.Fatal(err)
		}
		whole, err := io.ReadAll(r)
		if err != nil || !bytes.Equal(whole[44:], raw) {
			t.Errorf("%s: %d bytes of sound, not the %d of ffmpeg (%v)", coding, len(whole)-44, len(raw), err)
		}
		if w, err := facts.ReadWAV(bytes.NewReader(whole), int64(len(whole))); err != nil || w.Channels != 2 || w.Rate != 44100 {
			t.Errorf("%s: %+v %v", coding, w, err)
		}
		for off := int64(0); off < int64(len(whole)); off += 1013 {
			part := make([]byte, min(777, int64(len(whole))-off))
			if _, err := r.ReadAt(part, off); err != nil && err != io.EOF || !bytes.Equal(part, whole[off:off+int64(len(part))]) {
				t.Fatalf("%s: the part at %d is another (%v)", coding, off, err)
			}
		}
	}
}

// TestOneSound: the waveform of one sound is the same, whatever ffmpeg (Debian) wraps it
// in without loss.
func TestOneSound(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	src := filepath.Join(dir, "a.wav")
	peaks := func(name string, args ...string) (low, high []float64) {
		t.Helper()
		p := filepath.Join(dir, name)
		if out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-y"}, args...), p)...).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		b, err := os.ReadFile(p)
		if err != nil {
			t.Fatal(err)
		}
		low, high, seconds, err := pcm.Peaks(bytes.NewReader(b), int64(len(b)), 50)
		if err != nil || math.Abs(seconds-0.4) > 1e-6 || len(low) != 50 {
			t.Fatalf("%s: %v, %v s, %d parts", name, err, seconds, len(low))
		}
		return low, high
	}
	low, high := peaks("a.wav", "-f", "lavfi", "-i", "anoisesrc=d=0.4:r=44100:seed=3", "-ac", "2", "-c:a", "pcm_s16le")
	for name, coding := range map[string]string{"a.aif": "pcm_s16be", "a.flac": "flac"} {
		l, h := peaks(name, "-i", src, "-c:a", coding)
		if !slices.Equal(l, low) || !slices.Equal(h, high) {
			t.Errorf("%s is drawn otherwise", name)
		}
	}
}
