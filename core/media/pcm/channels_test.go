package pcm

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/bits"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
)

func written(t *testing.T, s *Sound, to Spec, at string) {
	t.Helper()
	c, err := s.Convert(to)
	if err != nil || c == nil {
		t.Fatalf("%+v %v", c, err)
	}
	var out bytes.Buffer
	if _, err := c.WriteTo(context.Background(), &out, nil); err != nil {
		t.Fatal(err)
	}
	if size, known := c.Size(); known && size != int64(out.Len()) {
		t.Errorf("%d bytes, told %d", out.Len(), size)
	}
	if err := os.WriteFile(at, out.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
}

// TestChannels: a file for each channel holds what sox takes of that channel, sample for
// sample (its remix), and those joined again are what they were, in every wrapping and for
// parts in time too.
func TestChannels(t *testing.T) {
	need(t, "ffmpeg", "sox", "soxi")
	for _, c := range []struct {
		ext      string
		channels int
		depth    string
	}{{".wav", 2, "16"}, {".wav", 6, "24"}, {".aiff", 2, "24"}, {".aiff", 3, "16"}, {".flac", 2, "24"}, {".flac", 6, "16"}, {".wav", 2, "32"}} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			dir := t.TempDir()
			at := func(n string) string { return filepath.Join(dir, n) }
			from := at("x" + c.ext)
			args := []string{"-R", "-n", "-r", "48000", "-c", fmt.Sprint(c.channels), "-b", c.depth, from, "synth", "0.7"}
			for i := range c.channels {
				args = append(args, "sine", fmt.Sprint(200+100*i))
			}
			output(t, "sox", append(args, "gain", "-3")...)
			open := func(paths ...string) *Sound {
				t.Helper()
				s, done, err := OpenFiles(drive.System{}, paths...)
				if err != nil {
					t.Fatal(err)
				}
				t.Cleanup(done)
				return s
			}
			var parts []string
			for k, end := range ChannelEnds(c.channels) {
				s := open(from)
				s.Take(Cut{Channel: k + 1})
				parts = append(parts, at("x"+end+c.ext))
				written(t, s, Spec{}, parts[k])
				output(t, "sox", from, at("judge.wav"), "remix", fmt.Sprint(k+1))
				if got, want := pcmOf(t, parts[k]), pcmOf(t, at("judge.wav")); !slices.Equal(got, want) {
					t.Fatalf("channel %d: %d samples, sox has %d", k+1, len(got), len(want))
				}
				if got := strings.TrimSpace(output(t, "soxi", "-c", parts[k])); got != "1" {
					t.Errorf("%s channels", got)
				}
			}
			written(t, open(parts...), Spec{}, at("back"+c.ext))
			if !slices.Equal(pcmOf(t, at("back"+c.ext)), pcmOf(t, from)) {
				t.Error("joined again it is something else")
			}
			s := open(from)
			s.Take(Cut{First: 5000, Frames: 9000, Channel: c.channels})
			written(t, s, Spec{}, at("part"+c.ext))
			if got, want := pcmOf(t, at("part"+c.ext)), pcmOf(t, parts[len(parts)-1])[5000:14000]; !slices.Equal(got, want) {
				t.Error("another part")
			}
		})
	}
}

// TestSpeakers: a file that says which speakers its channels are for (WAVE_FORMAT_EXTENSIBLE,
// dwChannelMask) says it of each, and of all again when they are joined.
func TestSpeakers(t *testing.T) {
	need(t, "ffmpeg", "ffprobe")
	dir := t.TempDir()
	at := func(n string) string { return filepath.Join(dir, n) }
	output(t, "ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=300:d=0.2", "-af", "pan=5.1|c0=c0|c1=.5*c0|c2=.2*c0|c3=.1*c0|c4=.3*c0|c5=.4*c0", at("x.wav"))
	var parts []string
	var union uint32
	for k := range 6 {
		s, done, err := OpenFiles(drive.System{}, at("x.wav"))
		if err != nil {
			t.Fatal(err)
		}
		defer done()
		all := s.Mask
		s.Take(Cut{Channel: k + 1})
		if bits.OnesCount32(s.Mask) != 1 || s.Mask&union != 0 || s.Mask&all == 0 || s.Mask < union {
			t.Errorf("channel %d is for %b of %b", k+1, s.Mask, all)
		}
		union |= s.Mask
		parts = append(parts, at(fmt.Sprint(k, ".wav")))
		written(t, s, Spec{}, parts[k])
	}
	s, done, err := OpenFiles(drive.System{}, parts...)
	if err != nil || s.Mask != union {
		t.Fatalf("%b, %b before: %v", s.Mask, union, err)
	}
	defer done()
	written(t, s, Spec{}, at("back.wav"))
	if got := strings.TrimSpace(output(t, "ffprobe", "-v", "error", "-show_entries", "stream=channel_layout", "-of", "csv=p=0", at("back.wav"))); got != "5.1" {
		t.Errorf("ffprobe calls it %s", got)
	}
}

// TestUneven: what does not fit together to the sample is not joined.
func TestUneven(t *testing.T) {
	one := func(rate, channels, depth int, frames int64) *Sound {
		return &Sound{Type: WAV, Rate: rate, Channels: channels, Depth: depth, Frames: frames}
	}
	for _, c := range []struct {
		parts []*Sound
		well  bool
	}{
		{[]*Sound{one(48000, 1, 24, 100), one(48000, 1, 24, 100)}, true},
		{[]*Sound{one(48000, 1, 24, 100), one(48000, 1, 24, 101)}, false},
		{[]*Sound{one(48000, 1, 24, 100), one(44100, 1, 24, 100)}, false},
		{[]*Sound{one(48000, 1, 24, 100), one(48000, 1, 16, 100)}, false},
		{[]*Sound{one(48000, 2, 24, 100), one(48000, 1, 24, 100)}, false},
		{nil, false},
	} {
		if _, err := Join(c.parts); (err == nil) != c.well || err != nil && !errors.Is(err, ErrUneven) {
			t.Errorf("%v: %v", c, err)
		}
	}
}
