package mend_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/mend/mend"
	"boundcrate/core/mend/mend/mendtest"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

func TestXDbg(t *testing.T) {
	who, fate, alone := os.Getenv("WHO"), os.Getenv("FATE"), os.Getenv("ALONE") != ""
	if who == "" {
		t.Skip()
	}
	n := 0
	for _, m := range mendtest.Makers {
		if m.Name != who {
			continue
		}
		for seed := uint64(1); seed < 9; seed += 2 {
			dir := t.TempDir()
			s, _ := m.Make(dir, seed, 500)
			x, _ := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: s.Search})
			docs := [][]string{s.Documents}
			if alone {
				docs = nil
				for _, d := range s.Documents {
					docs = append(docs, []string{d})
				}
			}
			for _, ds := range docs {
				g, _ := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: s.Root}, ds...)
				w := mend.Missing(g, origin.Judge(g, origin.Options{Reach: drive.System{}}), mend.Nothing)
				off, _ := mend.Find(context.Background(), x, w, mend.Reading{Reach: drive.System{}, Hash: mend.Once(drive.System{}, nil), Memory: mend.Nothing, Used: mend.Used(g)}, nil)
				for i := range w {
					f := s.Fate[w[i].Expected]
					wrong := len(off[i]) > 0 && !s.Right(w[i].Expected, off[i][0].Path)
					if fate == "LIKELY" {
						wrong = wrong && off[i][0].Certainty == mend.Likely
					} else if f != fate || len(s.Truth[w[i].Expected]) == 0 {
						continue
					} else {
						wrong = wrong || len(off[i]) == 0
					}
					if !wrong {
						continue
					}
					n++
					if n%7 != 1 {
						continue
					}
					rel := func(p string) string { return strings.TrimPrefix(p, dir) }
					fmt.Println("WANT", rel(w[i].Expected), "fate", f, "truth", func() (o []string) {
						for _, p := range s.Truth[w[i].Expected] {
							o = append(o, rel(p))
						}
						return
					}())
					for k, c := range off[i] {
						if k < 3 || s.Right(w[i].Expected, c.Path) {
							fmt.Printf("   %.2f %v %s %v\n", c.Score, s.Right(w[i].Expected, c.Path), rel(c.Path), func() (o []string) {
								for _, l := range [][]mend.Evidence{c.For, c.Against} {
									for _, e := range l {
										o = append(o, fmt.Sprintf("%s:%d/%d", e.Code, e.N, e.Of))
									}
								}
								return
							}())
						}
					}
				}
			}
		}
	}
	fmt.Println("n", n)
}
