package facts_test

import (
	"bytes"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
)

// maxTaken is how much any reader may take beside twice what the file holds.
const maxTaken = 64 << 20

// TestClaims: whatever a header claims, in any of its numbers, reading it takes no more memory
// than the file could need.
func TestClaims(t *testing.T) {
	files := map[string][]byte{
		"wav": claiming(1, 2, 4, 16, 48000, 192000, 4000, 4000), "float": claiming(3, 2, 8, 32, 48000, 384000, 800, 800),
		"png": append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x10\x00\x00\x00\x10\x08\x06\x00\x00\x00"), make([]byte, 300)...),
	}
	if _, err := exec.LookPath("ffmpeg"); err == nil { // make test installs it where it may
		dir := t.TempDir()
		for _, ext := range []string{"m4a", "mp4", "mov", "mkv", "mxf", "ogg", "opus", "flac", "aiff", "mp3", "caf", "avi", "png", "jpg", "tif", "webp", "bmp", "exr", "dpx", "gif", "w64"} {
			p := filepath.Join(dir, "x."+ext)
			made := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=64x64:rate=25:duration=0.2", "-f", "lavfi", "-i", "sine=duration=0.2:sample_rate=48000", "-shortest", p)
			if strings.Contains("png jpg tif webp bmp exr dpx", ext) {
				made = exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=64x64:rate=25:duration=0.04", "-frames:v", "1", "-update", "1", p)
			}
			if b, err := made.CombinedOutput(); err != nil {
				t.Logf("%s is not made here: %s", ext, b)
			} else if b, err := os.ReadFile(p); err == nil {
				files[ext] = b
			}
		}
	}
	for _, sig := range []string{"GIF89a", "II*\x00\x08\x00\x00\x00", "MM\x00*\x00\x00\x00\x08", "fLaC\x00\x00\x00\x22", "OggS\x00\x02", "ID3\x03", "\x00\x00\x00\x18ftypmp42", "\x1aE\xdf\xa3", "FORM\x00\x00\x00\x00AIFFCOMM", "RIFF\x00\x00\x00\x00AVI LIST", "\x06\x0e\x2b\x34\x02\x05\x01\x01", "ply\nformat binary_little_endian 1.0\n", "\xff\xd8\xff\xe0", "\xff\xfb\x90\x00", "v/1\x01", "#?RADIANCE\n", "SDPX", "8BPS", "BM", "RIFF\x10\x00\x00\x00WEBPVP8X"} {
		files[sig] = append([]byte(sig), make([]byte, 600)...)
	}
	var m runtime.MemStats
	taken := func() uint64 { runtime.ReadMemStats(&m); return m.TotalAlloc }
	for name, whole := range files {
		b := bytes.Clone(whole)
		for at := 0; at+8 <= min(len(b), 400); at++ {
			for _, claim := range []uint64{1<<64 - 1, 0x7FFFFFFF} {
				binary.BigEndian.PutUint64(b[at:], claim)
				before := taken()
				r, n := bytes.NewReader(b), int64(len(b))
				_, _ = facts.Read(r, n) // that it is refused is right, too
				_, _ = facts.DecodedWithin(r, n, 1<<20)
				facts.Products(r, n)
				if got := taken() - before; got > maxTaken+2*uint64(n) {
					t.Fatalf("%q, %x at %d: %d MB taken for %d bytes", name, claim, at, got>>20, n)
				}
			}
			copy(b[at:at+8], whole[at:at+8])
		}
	}
}
