package edition_test

import (
	"os"
	"path/filepath"
	"testing"

	"boundcrate/core/disk/edition"
)

// TestKeep: every edition gets a name of its own, beside the document or in the
// store, and none is written over.
func TestKeep(t *testing.T) {
	dir := t.TempDir()
	doc := filepath.Join(dir, "cut.otio")
	for _, k := range []edition.Keeper{{}, {Dir: filepath.Join(dir, "store", "3")}} {
		var kept []string
		for _, text := range []string{"one", "two", "three"} {
			if err := os.WriteFile(doc, []byte(text), 0o644); err != nil {
				t.Fatal(err)
			}
			p, err := k.Keep(doc)
			if err != nil {
				t.Fatal(err)
			}
			kept = append(kept, p)
		}
		for i, want := range []string{"one", "two", "three"} {
			if b, _ := os.ReadFile(kept[i]); string(b) != want || filepath.Ext(kept[i]) != ".otio" {
				t.Errorf("%s holds %q, wanted %q", kept[i], b, want)
			}
		}
	}
	if _, err := (edition.Keeper{}).Keep(filepath.Join(dir, "none.otio")); err == nil {
		t.Error("an edition of nothing was kept")
	}
}
