package writing_test

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/writing"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/resolve"
)

// nests is a project of documents that name each other and one lost sound, with
// the repair that finds it.
func nests(t *testing.T, n int) (dir string, docs []string, g *graph.Graph) {
	t.Helper()
	files := map[string]string{"found/gull.wav": "gull"}
	for i := range n {
		files[fmt.Sprintf("film/d%d.m3u", i)] = fmt.Sprintf("#EXTM3U\nlost.wav\nd%d.m3u\n", (i+1)%n)
	}
	dir = coretest.Lay(t, files)
	for i := range n {
		docs = append(docs, filepath.Join(dir, fmt.Sprintf("film/d%d.m3u", i)))
	}
	return dir, docs, follow(t, docs[0], resolve.Repair{From: filepath.Join(dir, "film/lost.wav"), To: filepath.Join(dir, "found/gull.wav")})
}

// fickle is a reach whose file is another after it was looked at so often.
type fickle struct {
	drive.System
	path  string
	after int
}

func (f *fickle) Stat(p string) (drive.Info, error) {
	info, err := f.System.Stat(p)
	if p == f.path {
		if f.after--; f.after < 0 {
			info.Size++
		}
	}
	return info, err
}

// TestAllOrNone: a document that changes at the very last moment leaves all of them as they
// were, and nothing beside them; one that changes once the first has its new name is left
// to whoever changed it, and told, and no document is in between.
func TestAllOrNone(t *testing.T) {
	unfinished := 0
	for after := range 12 {
		dir, docs, g := nests(t, 4)
		before := coretest.Sums(t, dir)
		journals := t.TempDir()
		o := options()
		o.Reach = &fickle{path: docs[2], after: after}
		done, _, err := write(g, o, edition.Keeper{}, journals)
		after := coretest.Sums(t, dir)
		var bad *writing.Error
		switch {
		case err == nil:
			if len(done) != 4 {
				t.Errorf("%d written", len(done))
			}
			continue
		case errors.As(err, &bad) && bad.Step == writing.Unfinished:
			unfinished++
			if bad.Document != docs[2] || len(done) != 3 || after[docs[2]] != before[docs[2]] {
				t.Errorf("%v: %d written", err, len(done))
			}
			for _, w := range done {
				if b, _ := os.ReadFile(w.Document); !strings.Contains(string(b), "../found/gull.wav") {
					t.Errorf("%s says %q", w.Document, b)
				}
				if before[w.Document] != after[w.Edition] {
					t.Errorf("%s was not kept", w.Document)
				}
			}
		default:
			for p, sum := range before {
				if after[p] != sum {
					t.Errorf("%s is not as it was (%v)", p, err)
				}
			}
			for p := range after {
				if _, was := before[p]; !was {
					t.Errorf("%s is left", p)
				}
			}
		}
		if left, _ := os.ReadDir(journals); len(left) > 0 {
			t.Errorf("the journal is left: %v", left)
		}
	}
	if unfinished == 0 {
		t.Error("no document ever changed in between")
	}
}
