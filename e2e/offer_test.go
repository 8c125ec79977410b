package e2e

import (
	"archive/zip"
	"os"
	"path/filepath"
	"testing"
)

// TestOffered: Survey tells of an archive on a drive that holds files by the names of a project's missing
// ones, and Receive opens with both of them chosen.
func TestOffered(t *testing.T) {
	a := serveDemo(t)
	at := a.path("Shuttle/sent/sounds for the film.zip")
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		t.Fatal(err)
	}
	f, err := os.Create(at)
	if err != nil {
		t.Fatal(err)
	}
	z := zip.NewWriter(f)
	for _, n := range []string{"sounds/foghorn_low_02.wav", "sounds/gull over stern.wav"} {
		if _, err := z.Create(n); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	f.Close()
	p := open(t, a)
	p.visit("/")
	p.click("Check all projects")
	p.sees("2 missing files may be in sounds for the film.zip")
	p.idle()
	p.click("sounds for the film.zip")
	p.sees("Documents that arrived apart · cut-04.otio")
	p.sees("sounds for the film.zip")
}
