package seal_test

import (
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/text/format/all"
)

// TestNoTemporaryRoom: a crate that is whole is called so where the disk for what is temporary
// takes nothing, and is received.
func TestNoTemporaryRoom(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: no race to be found")
	}
	dir := t.TempDir()
	var clips []string
	for range 2000 {
		clips = append(clips, clip("a rather long name of a clip that fills the document", "a.wav"))
	}
	coretest.Write(t, filepath.Join(dir, "film/a.wav"), "a")
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clips...))
	t.Setenv("TMPDIR", filepath.Join(dir, "none"))
	for _, end := range []string{".zip", ".tar", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		if rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{})); !rep.Well() {
			t.Errorf("%s: %+v", end, rep)
		}
		if rep := must[*seal.Report](t)(seal.Check(bg, out, all.Formats())); !rep.Well() {
			t.Errorf("%s: %+v", end, rep)
		}
		if got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in"+strings.ReplaceAll(end, ".", "")), Formats: all.Formats()})); got.Into == "" {
			t.Errorf("%s: %+v", end, got)
		}
	}
}
