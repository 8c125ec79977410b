package pcm

import (
	"bytes"
	"context"
	"crypto/md5"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
)

func need(t *testing.T, programs ...string) {
	t.Helper()
	for _, p := range programs {
		if _, err := exec.LookPath(p); err != nil {
			t.Skip(p + " is not installed; make test installs it where it may")
		}
	}
}

func output(t *testing.T, name string, args ...string) string {
	t.Helper()
	out, err := exec.Command(name, args...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s %v: %v\n%s", name, args, err, out)
	}
	return string(out)
}

// converted converts a file into another and returns its bytes.
func converted(t *testing.T, from, to string, spec Spec) []byte {
	t.Helper()
	b, err := os.ReadFile(from)
	if err != nil {
		t.Fatal(err)
	}
	s, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Convert(spec)
	if err != nil || c == nil {
		t.Fatalf("%+v %v", c, err)
	}
	var out bytes.Buffer
	res, err := c.WriteTo(context.Background(), &out, nil)
	if err != nil {
		t.Fatal(err)
	}
	if spec.Type == FLAC { // once more, with the digest that is known now
		out.Reset()
		if _, err := c.WriteTo(context.Background(), &out, &res); err != nil {
			t.Fatal(err)
		}
	}
	if size, known := c.Size(); known && size != int64(out.Len()) || res.Bytes != int64(out.Len()) {
		t.Errorf("%d bytes, told %d and %d", out.Len(), size, res.Bytes)
	}
	if err := os.WriteFile(to, out.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// pcmOf is a file's samples as 32 bits, by ffmpeg.
func pcmOf(t *testing.T, path string) []int32 {
	t.Helper()
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-f", "s32le", "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	x := make([]int32, len(out)/4)
	for i := range x {
		x[i] = int32(binary.LittleEndian.Uint32(out[4*i:]))
	}
	return x
}

// TestWrappings: what nothing is lost of is sample for sample the same in every
// wrapping, read by ffmpeg, and soxi tells the rate, depth and length.
func TestWrappings(t *testing.T) {
	need(t, "ffmpeg", "sox", "soxi")
	dir := t.TempDir()
	for _, c := range []struct {
		from string
		args []string
		to   Spec
	}{
		{"a.wav", []string{"-b", "16"}, Spec{Type: FLAC}}, {"a.wav", []string{"-b", "24"}, Spec{Type: FLAC}}, {"a.wav", []string{"-b", "24"}, Spec{Type: AIFF}},
		{"a.wav", []string{"-b", "16"}, Spec{Depth: 24}}, {"a.aiff", []string{"-b", "24"}, Spec{Type: WAV}}, {"a.aiff", []string{"-b", "16"}, Spec{Type: FLAC, Depth: 24}},
		{"a.flac", []string{"-b", "24"}, Spec{Type: WAV}}, {"a.wav", []string{"-b", "32"}, Spec{Type: AIFF}}, {"a.wav", []string{"-b", "8"}, Spec{Type: WAV, Depth: 16}},
		{"a.wav", []string{"-b", "16"}, Spec{Type: WAV, Depth: 32, Float: true}},
	} {
		t.Run(fmt.Sprint(c.from, c.args, c.to), func(t *testing.T) {
			from, to := filepath.Join(dir, c.from), filepath.Join(dir, "out"+c.to.Type.Ext())
			if c.to.Type == "" {
				to = filepath.Join(dir, "out.wav")
			}
			args := append([]string{"-R", "-n", "-r", "44100", "-c", "2"}, c.args...)
			output(t, "sox", append(args, from, "synth", "1.3", "pinknoise", "gain", "-6")...)
			converted(t, from, to, c.to)
			a, b := pcmOf(t, from), pcmOf(t, to)
			if len(a) != len(b) {
				t.Fatalf("%d samples of %d", len(b), len(a))
			}
			for i := range a {
				if a[i] != b[i] {
					t.Fatalf("sample %d is %d, was %d", i, b[i], a[i])
				}
			}
			if c.to.Depth > 0 && !c.to.Float {
				if got := strings.TrimSpace(output(t, "soxi", "-b", to)); got != fmt.Sprint(c.to.Depth) {
					t.Errorf("soxi tells %s bits", got)
				}
			}
			if c.to.Type == FLAC { // it decodes, and the digest in it is that of its samples
				got, err := os.ReadFile(to)
				if err != nil {
					t.Fatal(err)
				}
				raw := output(t, "ffprobe", "-v", "error", "-show_entries", "stream=duration,sample_rate", "-of", "csv=p=0", to)
				if !strings.HasPrefix(raw, "44100,1.3") {
					t.Errorf("ffprobe says %s", raw)
				}
				sum := md5.New()
				depth := c.to.Depth
				if depth == 0 {
					depth = map[string]int{"16": 16, "24": 24}[c.args[1]]
				}
				for _, v := range a {
					for bit := 32 - depth; bit < 32; bit += 8 {
						sum.Write([]byte{byte(uint32(v) >> bit)})
					}
				}
				if !bytes.Equal(got[26:42], sum.Sum(nil)) {
					t.Error("the digest of its samples is another")
				}
			}
		})
	}
}

// TestRateAgainst: 44.1 to 48 kHz gives what sox makes of it with its best filter, in the
// band that both pass, and as many samples as sox says; a time reference, cue points and
// loops are at the same times as before.
func TestRateAgainst(t *testing.T) {
	need(t, "sox", "soxi", "ffmpeg", "ffprobe")
	dir := t.TempDir()
	from, to, ref := filepath.Join(dir, "a.wav"), filepath.Join(dir, "b.wav"), filepath.Join(dir, "ref.wav")
	output(t, "sox", "-R", "-n", "-r", "44100", "-c", "2", "-b", "24", from, "synth", "2", "sine", "200-15000", "sine", "9000-300", "gain", "-3")
	output(t, "sox", from, "-b", "24", "-D", ref, "rate", "-v", "48000")
	converted(t, from, to, Spec{Rate: 48000})
	if a, b := output(t, "soxi", "-s", to), output(t, "soxi", "-s", ref); a != b {
		t.Errorf("%s samples, sox makes %s", a, b)
	}
	a, b := pcmOf(t, to), pcmOf(t, ref)
	var power, diff float64
	for i := 9600; i < min(len(a), len(b))-9600; i++ {
		x, y := float64(a[i])/(1<<31), float64(b[i])/(1<<31)
		power += x * x
		diff += (x - y) * (x - y)
	}
	if db := 10 * math.Log10(diff/power); db > -100 {
		t.Errorf("what sox makes differs by %.1f dB", db)
	}

	bext := filepath.Join(dir, "bext.wav")
	output(t, "ffmpeg", "-v", "error", "-y", "-i", from, "-c:a", "pcm_s24le", "-write_bext", "1", "-metadata", "time_reference=158760000", "-metadata", "description=gull", bext)
	raw, err := os.ReadFile(bext)
	if err != nil {
		t.Fatal(err)
	}
	le := binary.LittleEndian
	cue := le.AppendUint32([]byte("cue "), 28)
	cue = le.AppendUint32(cue, 1)
	for _, v := range []uint32{1, 44100, 0x61746164, 0, 0, 44100} {
		cue = le.AppendUint32(cue, v)
	}
	ixml := "<BWFXML><SPEED><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>0</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>158760000</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO><TIMESTAMP_SAMPLE_RATE>44100</TIMESTAMP_SAMPLE_RATE><AUDIO_BIT_DEPTH>24</AUDIO_BIT_DEPTH></SPEED></BWFXML>"
	ixml += strings.Repeat(" ", len(ixml)&1)
	raw = append(raw, cue...)
	raw = append(append(raw, "iXML"...), le.AppendUint32(nil, uint32(len(ixml)))...)
	raw = append(raw, ixml...)
	le.PutUint32(raw[4:], uint32(len(raw)-8))
	if err := os.WriteFile(bext, raw, 0o644); err != nil {
		t.Fatal(err)
	}
	out := converted(t, bext, to, Spec{Rate: 48000, Depth: 16})
	said := output(t, "ffprobe", "-v", "error", "-show_entries", "format_tags=time_reference,comment:stream=sample_rate,bits_per_sample", "-of", "flat", to)
	if !strings.Contains(said, `"172800000"`) || !strings.Contains(said, `"48000"`) { // an hour
		t.Errorf("ffprobe says %s", said)
	}
	at := bytes.Index(out, []byte("cue "))
	if at < 0 || le.Uint32(out[at+16:]) != 48000 || le.Uint32(out[at+32:]) != 48000 {
		t.Error("the cue point is not where it was")
	}
	for _, want := range []string{"_LO>172800000<", "<TIMESTAMP_SAMPLE_RATE>48000<", "<AUDIO_BIT_DEPTH>16<"} {
		if !bytes.Contains(out, []byte(want)) {
			t.Errorf("iXML does not say %s", want)
		}
	}
	if _, err := exec.LookPath("mediainfo"); err == nil {
		if got := strings.Fields(output(t, "mediainfo", "--Inform=Audio;%Delay% %SamplingRate% %BitDepth%", to)); len(got) != 3 || !strings.HasPrefix(got[0], "3600000") || got[1] != "48000" || got[2] != "16" {
			t.Errorf("mediainfo says %s", got)
		}
	}
}

// TestDither: from 24 to 16 bits the error's power is a quarter of a step squared
// (Lipshitz, Wannamaker, Vanderkooy 1992, for triangular noise two steps wide), it does
// not hang on the sound, and no harmonic of a tone of less than a step stands above it.
func TestDither(t *testing.T) {
	const n = 1 << 18
	q := newQuantizer(16, true, 0)
	step := math.Ldexp(1, -15)
	var power, with, sound float64
	third, own, noise := complex(0, 0), complex(0, 0), complex(0, 0)
	const cycles = 997
	for i := range n {
		x := 0.4 * step * math.Sin(turn*cycles*float64(i)/n)
		y := float64(q.value(x)) * step
		e := y - x
		power += e * e
		with += e * x
		sound += x * x
		s, c := math.Sincos(turn * 3 * cycles * float64(i) / n)
		third += complex(y*c, y*s)
		s, c = math.Sincos(turn * cycles * float64(i) / n)
		own += complex(y*c, y*s)
		s, c = math.Sincos(turn * 5021 * float64(i) / n)
		noise += complex(y*c, y*s)
	}
	if got := power / n / (step * step); math.Abs(got-0.25) > 0.0125 {
		t.Errorf("the error's power is %.4f of a step squared", got)
	}
	if got := math.Abs(with) / math.Sqrt(power*sound); got > 0.01 {
		t.Errorf("the error goes with the sound by %.4f", got)
	}
	amp := func(c complex128) float64 { return 2 * math.Hypot(real(c), imag(c)) / n / step }
	if got := amp(own); math.Abs(got-0.4) > 0.01 {
		t.Errorf("the tone has %.4f of a step", got)
	}
	if amp(third) > 0.01 || amp(noise) > 0.01 { // of n values 0.5 of noise leave 0.5·2/√n = 0.002 each
		t.Errorf("the third harmonic has %.4f of a step, noise %.4f", amp(third), amp(noise))
	}
}

// TestRefusedSound: what is no sound, or not what it says, is refused, and what a type
// cannot hold.
func TestRefusedSound(t *testing.T) {
	wave := func(rate uint32, depth uint16, data int) []byte {
		le := binary.LittleEndian
		b := []byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00")
		b = le.AppendUint32(b, rate)
		b = le.AppendUint32(b, rate*uint32(depth)/8)
		b = le.AppendUint16(b, depth/8)
		b = le.AppendUint16(b, depth)
		b = append(b, "data"...)
		b = le.AppendUint32(b, uint32(data))
		return append(b, make([]byte, data)...)
	}
	for name, b := range map[string][]byte{"noise": bytes.Repeat([]byte("noise"), 100), "rate 0": wave(0, 16, 100), "cut": wave(48000, 16, 1000)[:300], "empty": nil, "flac": []byte("fLaC is what it says only")} {
		if s, err := Open(bytes.NewReader(b), int64(len(b))); err == nil {
			t.Errorf("%s: %+v", name, s)
		}
	}
	b := wave(48000, 32, 4000)
	s, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Convert(Spec{Type: FLAC}); !errors.Is(err, ErrCannotBear) {
		t.Error(err)
	}
	if c, err := s.Convert(Spec{Rate: 48000}); c != nil || err != nil {
		t.Errorf("%+v %v", c, err)
	}
}

// TestCutFLAC: a FLAC file that ends in its middle is damaged, and says so.
func TestCutFLAC(t *testing.T) {
	need(t, "sox")
	p := filepath.Join(t.TempDir(), "a.flac")
	output(t, "sox", "-R", "-n", "-r", "44100", "-b", "16", p, "synth", "3", "pinknoise")
	b, err := os.ReadFile(p)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range []int{len(b), len(b) / 2} {
		s, err := Open(bytes.NewReader(b[:n]), int64(n))
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Whole(); (err != nil) != (n < len(b)) || err != nil && !errors.Is(err, facts.ErrDamaged) {
			t.Errorf("%d bytes of %d: %v", n, len(b), err)
		}
	}
}

// BenchmarkConvert: 24 bits of 44.1 kHz to 16 of 48, two channels; X is times real time.
func BenchmarkConvert(b *testing.B) {
	const seconds = 20
	wav := AppendTest(nil, seconds)
	s, err := Open(bytes.NewReader(wav), int64(len(wav)))
	if err != nil {
		b.Fatal(err)
	}
	c, err := s.Convert(Spec{Rate: 48000, Depth: 16})
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := c.WriteTo(context.Background(), &counting{w: discard{}}, nil); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(seconds*float64(b.N)/b.Elapsed().Seconds(), "X")
}

type discard struct{}

func (discard) Write(b []byte) (int, error) { return len(b), nil }

// AppendTest is a WAVE file of some seconds, of 24 bits and two channels.
func AppendTest(b []byte, seconds int) []byte {
	le := binary.LittleEndian
	data := seconds * 44100 * 6
	b = append(b, "RIFF"...)
	b = le.AppendUint32(b, uint32(36+data))
	b = append(b, "WAVEfmt \x10\x00\x00\x00\x01\x00\x02\x00"...)
	b = le.AppendUint32(b, 44100)
	b = le.AppendUint32(b, 44100*6)
	b = append(b, 6, 0, 24, 0)
	b = append(b, "data"...)
	b = le.AppendUint32(b, uint32(data))
	for i := range data {
		b = append(b, byte(i*i>>3))
	}
	return b
}
