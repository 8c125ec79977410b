package mend_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/formattest"
)

// TestScattered: a document made by chance, of every format, loses its files to
// other folders and other names. What was seen of them finds every one again,
// for certain; written into the document, the same places name the same bytes.
func TestScattered(t *testing.T) {
	ctx := context.Background()
	for k := range formattest.Makers {
		m := &formattest.Makers[k]
		if m.Bare || m.File == "x.session" {
			continue // a name without a folder is found by itself; a guess that leads nowhere is not believed
		}
		t.Run(m.File, func(t *testing.T) {
			for seed := range uint64(4) {
				g := formattest.NewGen(100+seed, uint64(k))
				text, names := m.Document(g)
				if m.Ext == ".stp" || m.Ext == ".wrl" || len(names) == 0 {
					continue // nested documents are scattered in their own tests
				}
				dir := t.TempDir()
				root := filepath.Join(dir, "a", "project")
				doc := coretest.Write(t, filepath.Join(root, m.File), text)
				seen := map[string]mend.Seen{}
				var want []string
				for i, n := range names {
					content := fmt.Sprintf("%s %d %d", m.File, seed, i)
					p := coretest.Write(t, filepath.Join(root, n), content)
					seen[p] = mend.Seen{Size: int64(len(content)), SHA256: sum(t, p)}
					want = append(want, content)
				}
				scatter(t, g, root, names, m.Ext)

				repairs := []resolve.Repair{}
				follow := func() *graph.Graph {
					gr, err := trace.Run(ctx, trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: dir, Repairs: repairs}, doc)
					if err != nil {
						t.Fatal(err)
					}
					return gr
				}
				x, err := index.Build(ctx, index.Options{Reach: drive.System{}, Dirs: []string{dir}})
				if err != nil {
					t.Fatal(err)
				}
				ev := reading(seen)
				err = mend.Until(ctx, follow(), nil, ev.Memory, false, func(_ *graph.Graph, ws []mend.Wanted) ([][]mend.Candidate, error) {
					return mend.Find(ctx, x, ws, ev, nil)
				}, func(rs []resolve.Repair) (*graph.Graph, *origin.Judged, error) {
					repairs = append(repairs, rs...)
					return follow(), nil, nil
				})
				if err != nil {
					t.Fatal(err)
				}
				mended := follow()
				if got := said(t, mended); strings.Join(got, "\n") != strings.Join(want, "\n") {
					t.Fatalf("seed %d: mended, it names %q, wanted %q\n%s", seed, got, want, text)
				}
				before, err := os.ReadFile(doc)
				if err != nil {
					t.Fatal(err)
				}
				written, problems, err := write(mended, options(), edition.Keeper{}, t.TempDir())
				if err != nil || len(problems) > 0 {
					t.Fatalf("seed %d: %v %v\n%s", seed, err, problems, text)
				}
				for _, w := range written {
					if kept, err := os.ReadFile(w.Edition); err != nil || !bytes.Equal(kept, before) {
						t.Fatalf("seed %d: the edition is not the earlier document %v", seed, err)
					}
				}
				repairs = nil
				if got := said(t, follow()); strings.Join(got, "\n") != strings.Join(want, "\n") {
					after, _ := os.ReadFile(doc)
					t.Fatalf("seed %d: written, it names %q, wanted %q\n%s\n→\n%s", seed, got, want, text, after)
				}
			}
		})
	}
}

// scatter moves two of three files to another folder, half of them under
// another name.
func scatter(t *testing.T, g *formattest.Gen, root string, names []string, ext string) {
	t.Helper()
	for i, n := range names {
		if g.IntN(3) == 0 {
			continue
		}
		to := filepath.Base(n)
		if g.IntN(2) == 0 {
			to = fmt.Sprintf("renamed %d%s", i, ext)
		}
		p := filepath.Join(root, "..", fmt.Sprintf("attic %d", g.IntN(3)), fmt.Sprint(i), to)
		if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.Rename(filepath.Join(root, n), p); err != nil {
			t.Fatal(err)
		}
	}
}

// said are the bytes that every reference leads to, in order.
func said(t *testing.T, g *graph.Graph) (list []string) {
	t.Helper()
	for i := range g.References {
		b := []byte("nothing")
		if p := g.References[i].Path; p != "" && g.References[i].State.Found() {
			var err error
			if b, err = os.ReadFile(p); err != nil {
				t.Fatal(err)
			}
		}
		list = append(list, string(b))
	}
	return list
}

func sum(t *testing.T, p string) string {
	t.Helper()
	s, err := mend.Once(drive.System{}, nil)(context.Background(), p)
	if err != nil {
		t.Fatal(err)
	}
	return s
}
