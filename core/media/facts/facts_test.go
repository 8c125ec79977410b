package facts_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
)

// wave makes a WAVE file of silence; kind is RIFF, RF64 or BW64.
func wave(kind string, format, channels, rate, depth, frames int, extra ...string) []byte {
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) }
	data := frames * channels * depth / 8
	b.WriteString(kind)
	le(uint32(0xFFFFFFFF))
	b.WriteString("WAVE")
	size := uint32(data)
	if kind != "RIFF" { // EBU Tech 3306: sizes stand in ds64
		b.WriteString("ds64")
		le(uint32(28))
		le(uint64(data + 100))
		le(uint64(data))
		le(uint64(frames))
		le(uint32(0))
		size = 0xFFFFFFFF
	}
	for _, x := range extra {
		b.WriteString(x[:4])
		le(uint32(len(x) - 4))
		b.WriteString(x[4:])
		if len(x)%2 == 1 {
			b.WriteByte(0)
		}
	}
	b.WriteString("fmt ")
	if format == 0xFFFE {
		le(uint32(40))
	} else {
		le(uint32(16))
	}
	le(uint16(format))
	le(uint16(channels))
	le(uint32(rate))
	le(uint32(rate * channels * depth / 8))
	le(uint16(channels * depth / 8))
	le(uint16(depth))
	if format == 0xFFFE {
		le(uint16(22))
		le(uint16(depth))
		le(uint32(3))
		le(uint16(1))
		b.Write(make([]byte, 14))
	}
	b.WriteString("data")
	le(size)
	b.Write(make([]byte, data))
	return b.Bytes()
}

func TestWave(t *testing.T) {
	for name, c := range map[string]struct {
		b    []byte
		want facts.Facts
	}{
		"plain":      {wave("RIFF", 1, 2, 48000, 24, 4800), facts.Facts{Seconds: 0.1, Rate: 48000, Depth: 24, Channels: 2}},
		"RF64":       {wave("RF64", 1, 1, 44100, 16, 44100), facts.Facts{Seconds: 1, Rate: 44100, Depth: 16, Channels: 1}},
		"BW64":       {wave("BW64", 3, 6, 96000, 32, 960), facts.Facts{Seconds: 0.01, Rate: 96000, Depth: 32, Channels: 6}},
		"extensible": {wave("RIFF", 0xFFFE, 2, 48000, 24, 480), facts.Facts{Seconds: 0.01, Rate: 48000, Depth: 24, Channels: 2}},
		"odd chunks": {wave("RIFF", 1, 1, 8000, 8, 800, "bextodd", "LISTeven"), facts.Facts{Seconds: 0.1, Rate: 8000, Depth: 8, Channels: 1}},
	} {
		got, err := facts.Read(bytes.NewReader(c.b), int64(len(c.b)))
		if err != nil || got != c.want {
			t.Errorf("%s: %+v %v, wanted %+v", name, got, err, c.want)
		}
		for cut := range len(c.b) - 1 { // damage is a problem, never a panic
			if cut > 200 {
				break
			}
			if _, err := facts.Read(bytes.NewReader(c.b[:cut]), int64(cut)); cut > 60 && cut < 100 && !errors.Is(err, facts.ErrDamaged) {
				t.Errorf("%s cut at %d: %v", name, cut, err)
			}
		}
	}
	b := wave("RIFF", 1, 2, 48000, 24, 4800)
	if got, err := facts.Read(bytes.NewReader(b[:len(b)/2]), int64(len(b)/2)); !errors.Is(err, facts.ErrDamaged) || got.Rate != 48000 {
		t.Errorf("cut sound: %+v %v", got, err)
	}
}

// TestJudges: what ffmpeg was told to make is what is read.
func TestJudges(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed; make test installs it where it may")
	}
	dir := t.TempDir()
	for name, c := range map[string]struct {
		args []string
		want facts.Facts
	}{
		"a.wav":  {[]string{"-f", "lavfi", "-i", "sine=r=44100:d=1.5", "-c:a", "pcm_s24le", "-ac", "2"}, facts.Facts{Seconds: 1.5, Rate: 44100, Depth: 24, Channels: 2}},
		"b.wav":  {[]string{"-f", "lavfi", "-i", "sine=r=96000:d=0.5", "-c:a", "pcm_f32le", "-rf64", "always"}, facts.Facts{Seconds: 0.5, Rate: 96000, Depth: 32, Channels: 1}},
		"e.aiff": {[]string{"-f", "lavfi", "-i", "sine=r=44100:d=1", "-c:a", "pcm_s24be", "-ac", "2"}, facts.Facts{Seconds: 1, Rate: 44100, Depth: 24, Channels: 2}},
		"f.flac": {[]string{"-f", "lavfi", "-i", "sine=r=48000:d=2", "-c:a", "flac", "-sample_fmt", "s16"}, facts.Facts{Seconds: 2, Rate: 48000, Depth: 16, Channels: 1}},
		"g.ogg":  {[]string{"-f", "lavfi", "-i", "sine=r=44100:d=1", "-c:a", "libvorbis", "-ac", "2"}, facts.Facts{Seconds: 1, Rate: 44100, Channels: 2}},
		"h.opus": {[]string{"-f", "lavfi", "-i", "sine=r=48000:d=1", "-c:a", "libopus", "-ac", "1"}, facts.Facts{Seconds: 1, Rate: 48000, Channels: 1}},
		"i.mov":  {[]string{"-f", "lavfi", "-i", "testsrc=s=320x240:d=2:r=25", "-f", "lavfi", "-i", "sine=r=48000:d=2", "-c:v", "mpeg4", "-c:a", "pcm_s16le", "-ac", "2"}, facts.Facts{Seconds: 2, Rate: 48000, Depth: 16, Channels: 2, Width: 320, Height: 240}},
		"j.mp4":  {[]string{"-f", "lavfi", "-i", "testsrc=s=160x120:d=1:r=25", "-c:v", "mpeg4"}, facts.Facts{Seconds: 1, Width: 160, Height: 120}},
		"k.tif":  {[]string{"-f", "lavfi", "-i", "testsrc=s=77x33", "-frames:v", "1"}, facts.Facts{Width: 77, Height: 33}},
		"l.webp": {[]string{"-f", "lavfi", "-i", "testsrc=s=66x44", "-frames:v", "1", "-c:v", "libwebp"}, facts.Facts{Width: 66, Height: 44}},
		"m.bmp":  {[]string{"-f", "lavfi", "-i", "testsrc=s=31x17", "-frames:v", "1"}, facts.Facts{Width: 31, Height: 17}},
		"n.exr":  {[]string{"-f", "lavfi", "-i", "testsrc=s=50x20", "-frames:v", "1", "-pix_fmt", "gbrpf32le"}, facts.Facts{Width: 50, Height: 20}},
		"p.fits": {[]string{"-f", "lavfi", "-i", "testsrc=s=40x30", "-frames:v", "1", "-pix_fmt", "gray16be"}, facts.Facts{Width: 40, Height: 30, Depth: 16}},
		"q.mp3":  {[]string{"-f", "lavfi", "-i", "sine=r=44100:d=2", "-c:a", "libmp3lame", "-b:a", "128k", "-ac", "2"}, facts.Facts{Seconds: 2.03, Rate: 44100, Channels: 2}},
		"r.mp3":  {[]string{"-f", "lavfi", "-i", "sine=r=22050:d=2", "-c:a", "libmp3lame", "-q:a", "4", "-ac", "1", "-write_xing", "1"}, facts.Facts{Seconds: 2.06, Rate: 22050, Channels: 1}},
		"s.mp3":  {[]string{"-f", "lavfi", "-i", "sine=r=48000:d=3", "-c:a", "libmp3lame", "-b:a", "64k", "-write_xing", "0", "-id3v2_version", "0", "-write_id3v1", "1"}, facts.Facts{Seconds: 3.01, Rate: 48000, Channels: 1}},
		"c.png":  {[]string{"-f", "lavfi", "-i", "testsrc=s=123x45", "-frames:v", "1"}, facts.Facts{Width: 123, Height: 45}},
		"d.jpg":  {[]string{"-f", "lavfi", "-i", "testsrc=s=64x48", "-frames:v", "1"}, facts.Facts{Width: 64, Height: 48}},
	} {
		p := filepath.Join(dir, name)
		if out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error"}, c.args...), p)...).CombinedOutput(); err != nil {
			t.Fatalf("%s: %s", name, out)
		}
		b, err := os.ReadFile(p)
		if err != nil {
			t.Fatal(err)
		}
		got, err := facts.Read(bytes.NewReader(b), int64(len(b)))
		if got.Seconds-c.want.Seconds < 0.02 && c.want.Seconds-got.Seconds < 0.02 { // coders pad to whole packets
			got.Seconds = c.want.Seconds
		}
		if err != nil || got != c.want {
			t.Errorf("%s: %+v %v, wanted %+v", name, got, err, c.want)
		}
		for cut := 0; cut < min(len(b), 300); cut += 7 {
			_, _ = facts.Read(bytes.NewReader(b[:cut]), int64(cut)) // a damaged header ends, whatever it says
		}
	}
}

// TestIdentifiers: what a recorder writes into a file is found again. ffprobe
// says of the MXF file what we do; bext is 602 bytes before the coding history
// (EBU Tech 3285), and mediainfo reads the same time reference.
func TestIdentifiers(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		t.Skip("ffmpeg is not installed; make test installs it where it may")
	}
	dir := t.TempDir()
	mxf, wav := filepath.Join(dir, "a.mxf"), filepath.Join(dir, "a.wav")
	for _, args := range [][]string{
		{"-f", "lavfi", "-i", "testsrc=s=320x240:d=2:r=25", "-f", "lavfi", "-i", "sine=r=48000:d=2", "-c:v", "mpeg2video", "-c:a", "pcm_s16le", "-timecode", "10:00:36:00", "-metadata", "reel_name=HARBOUR2", mxf},
		{"-f", "lavfi", "-i", "sine=r=48000:d=1", "-write_bext", "1", "-metadata", "originator_reference=BENCH0001", "-metadata", "time_reference=172800000", "-metadata", "umid=0x060A2B340101010501010D20130000001F5F1C2D3E4F5061728394A5B6C7D8E9", wav},
	} {
		if out, err := exec.Command("ffmpeg", append([]string{"-v", "error"}, args...)...).CombinedOutput(); err != nil {
			t.Fatalf("%s", out)
		}
	}
	read := func(p string) facts.Facts {
		b, err := os.ReadFile(p)
		if err != nil {
			t.Fatal(err)
		}
		got, err := facts.Read(bytes.NewReader(b), int64(len(b)))
		if err != nil {
			t.Fatal(err)
		}
		for cut := 0; cut < min(len(b), 3000); cut += 37 {
			_, _ = facts.Read(bytes.NewReader(b[:cut]), int64(cut))
		}
		return got
	}
	got := read(mxf)
	out, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "format_tags=material_package_umid", "-of", "csv=p=0", mxf).Output()
	if want := strings.ToLower(strings.TrimPrefix(strings.TrimSpace(string(out)), "0x")); err != nil || got.ID == "" || got.ID != want {
		t.Errorf("UMID %q, ffprobe says %q %v", got.ID, want, err)
	}
	// Ten hours and 36 seconds at 25 frames a second (SMPTE ST 12-1).
	said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream_tags=timecode,reel_name:format_tags=timecode", "-of", "flat", mxf).Output()
	if err != nil || !strings.Contains(string(said), "10:00:36:00") || !strings.Contains(string(said), got.Reel) || got.Starts != 36036 || got.Reel != "HARBOUR2" {
		t.Errorf("begins at %v on %q; ffprobe says %s %v", got.Starts, got.Reel, said, err)
	}
	if got.Width != 320 || got.Height != 240 || got.Rate != 48000 || got.Depth != 16 || got.Channels != 1 || got.Seconds < 1.9 || got.Seconds > 2.1 {
		t.Errorf("%+v", got)
	}
	if got := read(wav); got.ID != "060a2b340101010501010d20130000001f5f1c2d3e4f5061728394a5b6c7d8e9" || got.Clock != 172_800_000 || got.Seconds != 1 {
		t.Errorf("%+v", got)
	}
	if _, err := exec.LookPath("mediainfo"); err == nil {
		out, _ := exec.Command("mediainfo", "--Inform=General;%Delay%", wav).Output()
		other, _ := exec.Command("mediainfo", "--Inform=Audio;%Delay%", wav).Output()
		if ms := strings.TrimSpace(string(out)) + strings.TrimSpace(string(other)); !strings.HasPrefix(ms, "3600000") {
			t.Errorf("mediainfo says the sound begins at %q ms, 172,800,000 samples are 3,600,000", ms)
		}
	}
	ixml := wave("RIFF", 1, 1, 8000, 8, 8, "iXML<BWFXML><FILE_UID>ABCD-17</FILE_UID></BWFXML>")
	if got, err := facts.Read(bytes.NewReader(ixml), int64(len(ixml))); err != nil || got.ID != "ABCD-17" {
		t.Errorf("%+v %v", got, err)
	}
}

// TestModels: sizes that headers tell (STL and PLY by common practice; GLB by
// ISO/IEC 12113 §4.4).
func TestModels(t *testing.T) {
	stl := make([]byte, 84+50*3)
	stl[80] = 3
	scene := `{"accessors":[{"count":8},{"count":36}],"meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1}]}]} `
	le := func(v int) string { return string(binary.LittleEndian.AppendUint32(nil, uint32(v))) }
	glb := "glTF" + le(2) + le(20+len(scene)) + le(len(scene)) + "JSON" + scene
	for _, c := range []struct {
		b    string
		want facts.Facts
		bad  bool
	}{
		{string(stl), facts.Facts{Faces: 3}, false}, {string(stl[:100]), facts.Facts{}, false},
		{"ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nelement face 12\nend_header\n", facts.Facts{Vertices: 8, Faces: 12}, false},
		{"ply\nformat ascii 1.0\nelement vertex 8\n", facts.Facts{}, true},
		{glb, facts.Facts{Vertices: 8, Faces: 12}, false}, {glb[:60], facts.Facts{}, true},
	} {
		got, err := facts.Read(strings.NewReader(c.b), int64(len(c.b)))
		if got != c.want || errors.Is(err, facts.ErrDamaged) != c.bad {
			t.Errorf("%.20q: %+v %v", c.b, got, err)
		}
	}
}

// TestExtended: AIFF 1.3 stores 44,100 as 40 0E AC 44 00 00 00 00 00 00.
func TestExtended(t *testing.T) {
	b := []byte("FORM\x00\x00\x00\x2eAIFFCOMM\x00\x00\x00\x12\x00\x01\x00\x00\xac\x44\x00\x10\x40\x0e\xac\x44\x00\x00\x00\x00\x00\x00")
	if got, err := facts.Read(bytes.NewReader(b), int64(len(b))); err != nil || got != (facts.Facts{Seconds: 1, Rate: 44100, Depth: 16, Channels: 1}) {
		t.Errorf("%+v %v", got, err)
	}
	// DDS, KTX 2 and HDR have no coder here; their headers are written by hand.
	d := append([]byte("DDS \x7c\x00\x00\x00\x00\x00\x00\x00\x20\x00\x00\x00\x40\x00\x00\x00"), make([]byte, 108)...)
	k := append([]byte("\xABKTX 20\xBB\r\n\x1A\n\x00\x00\x00\x00\x01\x00\x00\x00\x40\x00\x00\x00\x20\x00\x00\x00"), make([]byte, 52)...)
	// The resolution line of a Radiance picture: rows first, "-Y 32 +X 64".
	h := []byte("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 32 +X 64\n....")
	for _, b := range [][]byte{d, k, h} {
		if got, err := facts.Read(bytes.NewReader(b), int64(len(b))); err != nil || got.Width != 64 || got.Height != 32 {
			t.Errorf("%+v %v", got, err)
		}
	}
}

func TestKinds(t *testing.T) {
	var jpg, pg, gf bytes.Buffer
	im := image.NewGray(image.Rect(0, 0, 7, 5))
	_ = jpeg.Encode(&jpg, im, nil)
	_ = png.Encode(&pg, im)
	_ = gif.Encode(&gf, im, nil)
	for _, c := range []struct {
		name string
		head []byte
		want facts.Kind
	}{
		{"x.txt", wave("RIFF", 1, 1, 8000, 8, 1), facts.Audio}, {"x.bin", jpg.Bytes(), facts.Image}, {"x", pg.Bytes(), facts.Image}, {"x", gf.Bytes(), facts.Image},
		{"x", []byte("fLaC"), facts.Audio}, {"x", []byte("\x00\x00\x00\x20ftypM4A "), facts.Audio}, {"x", []byte("\x00\x00\x00\x20ftypisom"), facts.Video},
		{"x", []byte("ISO-10303-21;"), facts.Part}, {"x", []byte("glTF"), facts.Geometry}, {"x", []byte("%PDF-1.4"), facts.Drawing},
		{"a.STP", nil, facts.Part}, {"a.usdz", nil, facts.Geometry}, {"a.mtlx", nil, facts.Material}, {"a.edl", nil, facts.Document}, {"a.svgz", nil, facts.Drawing}, {"a.csv", nil, facts.Data}, {"a", nil, facts.Other},
	} {
		if got := facts.KindOf(c.name, c.head); got != c.want {
			t.Errorf("%s %.12q is %s, wanted %s", c.name, c.head, got, c.want)
		}
	}
	for _, b := range [][]byte{jpg.Bytes(), pg.Bytes(), gf.Bytes()} {
		if got, err := facts.Read(bytes.NewReader(b), int64(len(b))); err != nil || got.Width != 7 || got.Height != 5 {
			t.Errorf("%+v %v", got, err)
		}
		if _, err := facts.Read(bytes.NewReader(b[:20]), 20); !errors.Is(err, facts.ErrDamaged) {
			t.Error(err)
		}
	}
}

// TestFingerprint: "abc" is the example of FIPS 180-4.
func TestFingerprint(t *testing.T) {
	p := filepath.Join(t.TempDir(), "abc")
	if err := os.WriteFile(p, []byte("abc"), 0o644); err != nil {
		t.Fatal(err)
	}
	var seen int64
	sum, err := drive.Fingerprint(context.Background(), drive.System{}, p, func(n int64) { seen += n })
	if err != nil || sum != "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad" || seen != 3 {
		t.Error(sum, err, seen)
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := drive.Fingerprint(ctx, drive.System{}, p, nil); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
}
