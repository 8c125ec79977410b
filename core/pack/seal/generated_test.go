package seal_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/formattest"
)

// TestGenerated: a document made by chance, of every format, whose files lie in
// its own folder and beside it, is sealed in both layouts, carried away, and
// proved where nothing else is: complete, with the bytes of every file.
func TestGenerated(t *testing.T) {
	for k := range formattest.Makers {
		m := &formattest.Makers[k]
		t.Run(m.File, func(t *testing.T) {
			t.Parallel()
			for seed := range uint64(3) {
				for _, layout := range []stow.Layout{stow.ByKind, stow.AsStands} {
					g := formattest.NewGen(seed, uint64(k))
					text, names := m.Document(g)
					if len(names) == 0 {
						continue
					}
					dir := t.TempDir()
					project := filepath.Join(dir, "a", "project")
					doc := coretest.Write(t, filepath.Join(project, m.File), text)
					var want []string
					for i, n := range names {
						content := fmt.Sprintf("leaf %d of %s", i, m.File)
						switch m.Ext { // what is followed must be whole
						case ".stp":
							content = "ISO-10303-21;HEADER;ENDSEC;DATA;/* " + content + " */ENDSEC;END-ISO-10303-21;"
						case ".wrl":
							content = "#VRML V2.0 utf8\n# " + content
						}
						coretest.Write(t, filepath.Join(project, n), content)
						want = append(want, content)
					}
					rep, err := sealing(t, doc, filepath.Join(dir, "out", "crate"), stow.Options{Layout: layout})
					if err != nil || !rep.Complete || len(rep.Left) > 0 {
						t.Fatalf("seed %d, %s: %v %+v\n%s", seed, layout, err, rep, text)
					}
					if b, err := os.ReadFile(doc); err != nil || string(b) != text {
						t.Fatalf("seed %d: the original changed %v", seed, err)
					}
					moved := filepath.Join(t.TempDir(), "elsewhere")
					if err := os.Rename(rep.Crate, moved); err != nil {
						t.Fatal(err)
					}
					if err := os.RemoveAll(dir); err != nil {
						t.Fatal(err)
					}
					if rep, err = seal.Check(bg, moved, all.Formats()); err != nil || !rep.Well() {
						t.Fatalf("seed %d, %s: carried away: %v %+v\n%s", seed, layout, err, rep, text)
					}
					if got := leaves(t, filepath.Join(moved, "data")); !slices.Equal(got, want) {
						t.Fatalf("seed %d, %s: the crate holds %q, wanted %q", seed, layout, got, want)
					}
				}
			}
		})
	}
}

// leaves are the contents of all files below a folder that were made to be
// carried, in the order they were made.
func leaves(t *testing.T, dir string) (list []string) {
	t.Helper()
	const begin = "leaf "
	number := func(s string) (n int) {
		_, _ = fmt.Sscanf(s[strings.Index(s, begin):], begin+"%d", &n) // they were written so above
		return n
	}
	err := filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		if strings.Contains(string(b), begin) {
			list = append(list, string(b))
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	slices.SortFunc(list, func(a, b string) int { return number(a) - number(b) })
	return list
}
