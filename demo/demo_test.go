package demo_test

import (
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/demo"
)

// TestMedia: ffprobe reads every sample sound and picture and agrees with what
// our own header readers say; the whole world stays below 150 MB; writing it
// again leaves what the user made of it.
func TestMedia(t *testing.T) {
	dir := t.TempDir()
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	var sounds, pictures []string
	var total int64
	err := filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		fi, err := d.Info()
		total += fi.Size()
		switch filepath.Ext(p) {
		case ".wav":
			sounds = append(sounds, p)
		case ".png":
			pictures = append(pictures, p)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	if total > 150e6 || len(sounds) < 20 || len(pictures) < 60 {
		t.Errorf("%d bytes, %d sounds, %d pictures", total, len(sounds), len(pictures))
	}
	mark := filepath.Join(dir, "drives", "Bench", "downloads", "mine.txt")
	if err := os.WriteFile(mark, []byte("mine"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := demo.Write(t.Context(), dir); err != nil {
		t.Fatal(err)
	}
	if b, err := os.ReadFile(mark); err != nil || string(b) != "mine" {
		t.Error("a written world was written again", err)
	}
	if _, err := exec.LookPath("ffprobe"); err != nil {
		t.Skip("ffprobe is not installed; make test installs it where it may")
	}
	for _, p := range append(sounds, pictures[:20]...) {
		out, err := exec.Command("ffprobe", "-v", "error", "-of", "json", "-show_streams", p).CombinedOutput()
		var judge struct {
			Streams []struct {
				SampleRate       string `json:"sample_rate"`
				Channels         int    `json:"channels"`
				BitsPerRawSample string `json:"bits_per_raw_sample"`
				BitsPerSample    int    `json:"bits_per_sample"`
				Duration         string `json:"duration"`
				Width            int    `json:"width"`
				Height           int    `json:"height"`
			}
		}
		if err != nil || json.Unmarshal(out, &judge) != nil || len(judge.Streams) != 1 {
			t.Errorf("%s: %v %s", p, err, out)
			continue
		}
		f, err := os.Open(p)
		if err != nil {
			t.Fatal(err)
		}
		fi, _ := f.Stat()
		got, err := facts.Read(f, fi.Size())
		f.Close()
		j := judge.Streams[0]
		rate, _ := strconv.Atoi(j.SampleRate)
		seconds, _ := strconv.ParseFloat(j.Duration, 64)
		if strings.HasSuffix(p, ".png") {
			rate, seconds, j.Channels, j.BitsPerSample = 0, 0, 0, 0
		}
		if err != nil || got.Rate != rate || got.Channels != j.Channels || got.Depth != j.BitsPerSample || got.Width != j.Width || got.Height != j.Height || got.Seconds-seconds > 0.001 || seconds-got.Seconds > 0.001 {
			t.Errorf("%s: %+v, ffprobe says %+v (%v)", p, got, j, err)
		}
	}
}

// TestForeignFolder: a folder that holds something else is left alone.
func TestForeignFolder(t *testing.T) {
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "mine.txt"), []byte("mine"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := demo.Write(t.Context(), dir); err == nil {
		t.Error("a sample world was written into a foreign folder")
	}
	if es, _ := os.ReadDir(dir); len(es) != 1 {
		t.Error("something was written beside it")
	}
}
