package e2e

import (
	"path/filepath"
	"testing"
)

// TestCompare: two documents side by side: what came, went and changed.
func TestCompare(t *testing.T) {
	a := bare(t, map[string]string{
		"film/one.m3u": "#EXTM3U\na.wav\nb.wav\nold/c.wav\n", "film/two.m3u": "#EXTM3U\na.wav\nnew.wav\nc.wav\n",
		"film/a.wav": "a", "film/b.wav": "bb", "film/old/c.wav": "ccc", "film/c.wav": "ccc", "film/new.wav": "nnnn",
	})
	p := open(t, a)
	p.visit("/compare?a=" + a.path("Bench/film/one.m3u"))
	p.sees("Which two?")
	p.choose("Second", filepath.Dir(a.path("Bench/film/two.m3u")))
	p.press("aside section button", "two.m3u")
	p.idle()
	p.clickIn("aside", "Compare")
	p.sees("1 file came · 1 file went · 1 file changed · 1 document changed")
	p.sees("old/c.wav → c.wav")
	p.sees("moved or renamed")
	p.sees("1 file the same")
}
