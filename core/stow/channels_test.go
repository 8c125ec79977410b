package stow

import (
	"fmt"
	"testing"
)

// TestChannelNames: which names say that a file holds a channel of a sound.
func TestChannelNames(t *testing.T) {
	for name, want := range map[string]string{
		"gull.L.wav": "gull 1/2", "gull.R.wav": "gull 2/2", "gull.l.aif": "gull 1/2", "a.b.R.flac": "a.b 2/2", "take.1.wav": "take 1/0", "take.12.wav": "take 12/0",
		"gull.wav": "", "gull L.wav": "", "L.wav": "", ".L.wav": "", "take.01.wav": "", "take.0.wav": "", "take.-1.wav": "", "take.x.wav": "",
	} {
		sound, n, of := channelOf(name)
		got := ""
		if n > 0 {
			got = fmt.Sprintf("%s %d/%d", sound, n, of)
		}
		if got != want {
			t.Errorf("%s: %q", name, got)
		}
	}
}
