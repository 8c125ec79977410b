package seal_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
)

// TestAsidesGo: an earlier crate whose taking away was ended in the middle, after any of its files
// and several times over, is gone after the next seal; a file of somebody's in it stays.
func TestAsidesGo(t *testing.T) {
	dir := t.TempDir()
	coretest.Write(t, filepath.Join(dir, "film/a.wav"), "gull")
	coretest.Write(t, filepath.Join(dir, "film/b.wav"), "horn")
	doc := coretest.Write(t, filepath.Join(dir, "film/cut.otio"), timeline(clip("a", "a.wav"), clip("b", "b.wav")))
	out := filepath.Join(dir, "c")
	must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
	// In the order that they go: what is sealed, what tells of it, what tells of that.
	order := []string{"data/audio/a.wav", "data/audio/b.wav", "data/cut.otio", "READ ME.txt", "bag-info.txt", "crate.json", "bagit.txt", "manifest-sha256.txt", "tagmanifest-sha256.txt"}
	for k := range len(order) + 1 {
		aside := fmt.Sprintf("%s.earlier-%d.partial", out, k+2)
		if k == 0 {
			aside = out + ".earlier.partial"
		}
		must[any](t)(nil, os.CopyFS(aside, os.DirFS(out)))
		for _, name := range order[:k] {
			must[any](t)(nil, os.Remove(filepath.Join(aside, name)))
		}
		if k == len(order) {
			if left, _ := filepath.Glob(filepath.Join(aside, "*.*")); len(left) > 0 {
				t.Fatalf("a crate holds more: %v", left)
			}
		}
	}
	theirs := coretest.Write(t, out+".earlier-99.partial/data/mine.wav", "somebody's")
	others := coretest.Write(t, out+".earlier-x.partial/a.wav", "no name of ours")
	if rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{})); !rep.Well() {
		t.Fatalf("%+v", rep)
	}
	left, _ := filepath.Glob(out + ".*")
	if len(left) != 2 {
		t.Errorf("left behind: %v", left)
	}
	for _, p := range []string{theirs, others} {
		if _, err := os.Stat(p); err != nil {
			t.Error(err)
		}
	}
}
