package mend_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/text/names"
)

func wanted(name string) mend.Wanted {
	return mend.Wanted{Expected: "/gone/sound/" + name, Kind: facts.KindOfName(name)}
}

func build(t *testing.T, dir string, skim bool) index.Index {
	t.Helper()
	x, err := index.Build(context.Background(), index.Options{Reach: drive.System{}, Dirs: []string{dir}, Names: skim})
	if err != nil {
		t.Fatal(err)
	}
	return x
}

// TestInOneGo is a property over trees: looked for together, each file is
// offered what it is offered alone, in whatever order the others put it; every file of its very name is among that,
// nothing of another kind is, and an index of names alone says the same.
func TestInOneGo(t *testing.T) {
	words := []string{"horn", "gull", "fog", "tide", "deck", "bell", "take", "low", "far"}
	for seed := range uint64(25) {
		rng := rand.New(rand.NewPCG(seed, 3))
		name := func() string {
			s := words[rng.IntN(len(words))]
			for range rng.IntN(3) {
				s += []string{" ", "_", "-"}[rng.IntN(3)] + words[rng.IntN(len(words))]
			}
			if rng.IntN(3) == 0 {
				s += fmt.Sprint(" ", rng.IntN(12))
			}
			if rng.IntN(4) == 0 {
				s = strings.ToUpper(s)
			}
			return s + []string{".wav", ".wav", ".flac", ".png"}[rng.IntN(4)]
		}
		files := map[string]string{}
		for range 60 {
			files[fmt.Sprintf("d%d/%s", rng.IntN(4), name())] = fmt.Sprint(rng.IntN(20))
		}
		dir := coretest.Lay(t, files)
		var list []mend.Wanted
		for range 12 {
			list = append(list, wanted(name()))
		}
		x := build(t, dir, false)
		together, err := mend.Find(context.Background(), x, list, reading(nil), nil)
		if err != nil {
			t.Fatal(err)
		}
		skimmed, err := mend.Find(context.Background(), build(t, dir, true), list, reading(nil), nil)
		if err != nil {
			t.Fatal(err)
		}
		for i, w := range list {
			alone, err := mend.Find(context.Background(), x, []mend.Wanted{w}, reading(nil), nil)
			if err != nil {
				t.Fatal(err)
			}
			if got, want := which(together[i]), which(alone[0]); !slices.Equal(got, want) {
				t.Fatalf("seed %d, %s: together %q, alone %q", seed, w.Expected, got, want)
			}
			if got, want := expectedFacts(skimmed[i]), expectedFacts(together[i]); !slices.Equal(got, want) {
				t.Fatalf("seed %d, %s: by names alone %q, else %q", seed, w.Expected, got, want)
			}
			offered := map[string]mend.Candidate{}
			for _, c := range together[i] {
				offered[c.Path] = c
				if facts.KindOfName(c.Path) != w.Kind {
					t.Errorf("seed %d: %s is offered for %s", seed, c.Path, w.Expected)
				}
				if c.Certainty == mend.Certain {
					t.Errorf("seed %d: %s is certain by its name alone", seed, c.Path)
				}
			}
			for f := range files {
				p, base := filepath.Join(dir, f), filepath.Base(w.Expected)
				c, ok := offered[p]
				exact := filepath.Base(f) == base
				if exact && (!ok || !c.HasCode(mend.Name)) {
					t.Errorf("seed %d: %s has the very name of %s and is not offered for it", seed, f, base)
				}
				if !exact && ok && c.HasCode(mend.Name) || ok && c.HasCode(mend.NameLoose) && names.Fold(filepath.Base(f)) != names.Fold(base) {
					t.Errorf("seed %d: %s is offered as of the name %s", seed, f, base)
				}
			}
		}
	}
}

// expectedFacts is what stands in a list of candidates: which, how sure, why.
func expectedFacts(list []mend.Candidate) (out []string) {
	for _, c := range list {
		s := fmt.Sprintf("%s %s %.3f %d", c.Path, c.Certainty, c.Score, c.Size)
		for _, e := range c.For {
			s += fmt.Sprint(" ", e.Code, e.Text, e.N)
		}
		out = append(out, s)
	}
	return out
}

// which are the files of a list and what their names alone say for them.
func which(list []mend.Candidate) (out []string) {
	for _, c := range list {
		s := c.Path
		for _, e := range c.For {
			if e.Code != mend.InOneMove && e.Code != mend.OnlyMove && e.Code != mend.Nearest {
				s += fmt.Sprint(" ", e.Code, e.Text, e.N)
			}
		}
		out = append(out, s)
	}
	slices.Sort(out)
	return out
}

// TestCrowd: among thousands of like names the likest are offered, best first,
// and the very name before them all.
func TestCrowd(t *testing.T) {
	files := map[string]string{}
	for i := range 2000 {
		files[fmt.Sprintf("s%02d/clip %06d.wav", i%40, i*37)] = "x"
	}
	files["attic/clip 123456.wav"] = "found"
	dir := coretest.Lay(t, files)
	got, err := mend.Find(context.Background(), build(t, dir, true), []mend.Wanted{wanted("clip 123456.wav"), wanted("clip 999999.wav")}, reading(nil), nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(got[0]) == 0 || got[0][0].Path != filepath.Join(dir, "attic/clip 123456.wav") || got[0][0].Size != 5 || got[0][0].Certainty != mend.Possible {
		t.Errorf("%q", expectedFacts(got[0]))
	}
	for i, list := range got {
		if len(list) > 12 || !slices.IsSortedFunc(list[1:], func(a, b mend.Candidate) int {
			if a.Score > b.Score || a.Score == b.Score && a.Path < b.Path {
				return -1
			}
			return 1
		}) {
			t.Errorf("%d: %q", i, expectedFacts(list))
		}
	}
}

// TestContentAlone: a file is found under any name by the content it had, and is
// certain when it is the only one; with a second copy a person is asked.
func TestContentAlone(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"a/something else.wav": "the very sound", "a/same size.wav": "THE VERY SOUND", "a/short.wav": "x"})
	last := mend.Seen{Size: 14, SHA256: hashOf(t, filepath.Join(dir, "a/something else.wav")), At: time.Now()}
	w := wanted("gull.wav")
	w.Last = &last
	got := find(t, dir, w, nil)
	if len(got) != 1 || got[0].Certainty != mend.Certain || !got[0].HasCode(mend.Content) {
		t.Errorf("%q", expectedFacts(got))
	}
	if best, ok := mend.Sure(got); !ok || best.Path != filepath.Join(dir, "a/something else.wav") {
		t.Errorf("%+v %v", best, ok)
	}
	coretest.Write(t, filepath.Join(dir, "b/copy.wav"), "the very sound")
	got = find(t, dir, w, nil)
	if _, ok := mend.Sure(got); ok || len(got) != 2 {
		t.Errorf("one of two copies was taken unasked: %q", expectedFacts(got))
	}
}

// TestOneName: of a thousand files of one name the one in folders called alike is offered
// first, though only some of them are compared.
func TestOneName(t *testing.T) {
	files := map[string]string{"zoo/foley/near/a.wav": "x"}
	for i := range 1000 {
		files[fmt.Sprintf("heap/%03d/a.wav", i)] = "x"
	}
	dir := coretest.Lay(t, files)
	w := mend.Wanted{Expected: "/gone/foley/near/a.wav", Kind: facts.Audio}
	got := find(t, dir, w, nil)
	if len(got) == 0 || got[0].Path != filepath.Join(dir, "zoo/foley/near/a.wav") || got[0].Certainty == mend.Certain || got[0].HasCode(mend.OnlyOne) {
		t.Errorf("%q %+v", expectedFacts(got), got[:1])
	}
}
