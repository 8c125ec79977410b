package mend_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/text/mention"
)

// TestAssign holds the method against exhaustive search on small cases.
func TestAssign(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for range 400 {
		rows, columns := 1+rng.IntN(5), 1+rng.IntN(5)
		worth := make([][]float64, rows)
		for i := range worth {
			worth[i] = make([]float64, columns)
			for j := range worth[i] {
				if rng.IntN(3) > 0 {
					worth[i][j] = float64(rng.IntN(100)) / 100
				}
			}
		}
		got := mend.Assign(worth)
		sum, taken := 0.0, map[int]bool{}
		for i, j := range got {
			if j >= 0 {
				if taken[j] {
					t.Fatalf("column %d is given twice: %v", j, got)
				}
				taken[j] = true
				sum += worth[i][j]
			}
		}
		if best := exhaust(worth, 0, map[int]bool{}); math.Abs(best-sum) > 1e-9 {
			t.Fatalf("%v gives %v, %.2f; %.2f can be had", worth, got, sum, best)
		}
	}
}

func exhaust(worth [][]float64, i int, taken map[int]bool) float64 {
	if i == len(worth) {
		return 0
	}
	best := exhaust(worth, i+1, taken)
	for j, w := range worth[i] {
		if !taken[j] {
			taken[j] = true
			best = max(best, w+exhaust(worth, i+1, taken))
			delete(taken, j)
		}
	}
	return best
}

// TestRenaming: what became of one name is what becomes of its siblings.
func TestRenaming(t *testing.T) {
	for _, c := range []struct {
		from, to string
		habit    mend.Habit
		sibling  string
		becomes  string // "": cannot be told
	}{
		{"gull.wav", "gull.wav", mend.Kept, "horn.wav", "horn.wav"},
		{"gull.wav", "final_gull.wav", mend.Before, "horn.wav", "final_horn.wav"},
		{"HF gull.wav", "gull.wav", mend.Before, "HF horn.wav", "horn.wav"},
		{"HF gull.wav", "gull.wav", mend.Before, "horn.wav", ""},
		{"gull.wav", "gull_48k.wav", mend.After, "horn.wav", "horn_48k.wav"},
		{"gull.wav", "gull.flac", mend.Kept, "horn.WAV", "horn.flac"},
		{"gull.wav", "gull.flac", mend.Kept, "horn.aif", ""},
		{"gull.wav", "x gull.flac", mend.Before, "horn.wav", "x horn.flac"},
		{"cam1_0007.mov", "camA_0007.mov", mend.Within, "cam1_0012.mov", "camA_0012.mov"},
		{"T7.wav", "T007.wav", mend.Padded, "T8.wav", ""},
		{"Gull Cry.wav", "gull_cry.wav", mend.Respelled, "Low Horn.wav", ""},
		{"gull.wav", "2026-03-04 gull.wav", mend.Dated, "horn.wav", ""},
		{"2026-03-04_gull.wav", "2026-05-01_gull.wav", mend.Dated, "horn.wav", ""},
		{"gull.wav", "012 gull.wav", mend.Numbered, "horn.wav", ""},
	} {
		how, ok := mend.RenamingOf(c.from, c.to)
		if !ok || how.Habit != c.habit {
			t.Errorf("%s → %s: %+v %v", c.from, c.to, how, ok)
			continue
		}
		if got, _ := how.Apply(c.sibling); got != c.becomes {
			t.Errorf("%s → %s makes %q of %s, wanted %q", c.from, c.to, got, c.sibling, c.becomes)
		}
	}
	for _, pair := range [][2]string{{"take 3.wav", "take 4.wav"}, {"003 a.wav", "004 a.wav"}, {"gull.wav", "anvil.wav"}} {
		if how, ok := mend.RenamingOf(pair[0], pair[1]); ok {
			t.Errorf("%v is taken for a renaming: %+v", pair, how)
		}
	}
}

var fiveNames = []string{"gull over stern", "winch close", "low horn", "deck steps", "rope creak", "bell far"}

// TestMoved: each case is where the six files of a lost folder are, and how sure that is
// by names alone: never certain.
func TestMoved(t *testing.T) {
	every := func(form string) map[string]string {
		out := map[string]string{}
		for _, n := range fiveNames {
			out[fmt.Sprintf(form, n)] = "of " + n
		}
		return out
	}
	with := func(files map[string]string, more ...string) map[string]string {
		for _, m := range more {
			files[m] = "more"
		}
		return files
	}
	serial := map[string]string{}
	for i := range 8 {
		serial[fmt.Sprintf("attic/wood/T%03d.wav", i)] = "x"
	}
	for _, c := range []struct {
		name   string
		files  map[string]string
		names  []string
		want   mend.Certainty
		files1 int
	}{
		{"moved as it was", every("attic/wood/%s.wav"), fiveNames, mend.Likely, 6},
		{"moved, one is not there", without(every("attic/wood/%s.wav"), "attic/wood/low horn.wav"), fiveNames, mend.Likely, 5},
		{"moved twice", with(merge(every("attic/wood/%s.wav"), every("shelf/wood/%s.wav"))), fiveNames, mend.Possible, 6},
		{"moved, and one stands elsewhere too", with(every("attic/wood/%s.wav"), "shelf/low horn.wav"), fiveNames, mend.Likely, 6},
		{"a variant beside it", every("film/wood cleaned/%s.wav"), fiveNames, mend.Possible, 6},
		{"under another name beside it", every("film/timber/%s.wav"), fiveNames, mend.Likely, 6},
		{"in a backup", every("backup/wood/%s.wav"), fiveNames, mend.Possible, 6},
		{"beside another's document", with(every("attic/wood/%s.wav"), "attic/wood/other.otio"), fiveNames, mend.Likely, 6},
		{"in another's project", with(every("attic/wood/%s.wav"), "attic/other.otio"), fiveNames, mend.Likely, 6},
		{"all with one prefix", every("attic/wood/sel-%s.wav"), fiveNames, mend.Likely, 6},
		{"names that only count", serial, []string{"T000", "T001", "T002", "T003", "T004", "T005"}, mend.Likely, 6},
	} {
		dir := coretest.Lay(t, c.files)
		var list []mend.Wanted
		for _, n := range c.names {
			list = append(list, mend.Wanted{Expected: filepath.Join(dir, "film", "wood", n+".wav"), Kind: facts.Audio})
		}
		offered, err := mend.Find(context.Background(), build(t, dir, true), list, reading(nil), nil)
		if err != nil {
			t.Fatal(err)
		}
		groups := mend.Groups(list, offered)
		if len(groups) != 1 || groups[0].Certainty != c.want || groups[0].Files() != c.files1 {
			t.Errorf("%s: %d groups, %s", c.name, len(groups), groups[0].Certainty)
			continue
		}
		for i, cs := range offered {
			if _, sure := mend.Sure(cs); sure != (c.want == mend.Certain) {
				t.Errorf("%s: %s taken unasked: %v\n%q", c.name, c.names[i], sure, expectedFacts(cs))
			}
		}
	}
}

func without(files map[string]string, name string) map[string]string {
	delete(files, name)
	return files
}

func merge(a, b map[string]string) map[string]string {
	for k, v := range b {
		a[k] = v
	}
	return a
}

// TestOtherSets: six files of a folder that is gone, whose names another folder has. What
// makes the second another set of files is never taken unasked, whatever a document tells
// of lengths; names alone never are; and of what is a move it takes a witness for five files
// and nothing that could be meant as well.
func TestOtherSets(t *testing.T) {
	dir := t.TempDir()
	for _, c := range []struct {
		name, from, to string
		told           bool // sizes
		more           []string
		claimed        bool
		want           mend.Certainty
	}{
		{"days", "film/day1/takes", "film/day2/takes", true, nil, false, mend.Possible},
		{"dates", "film/2031-04-02/audio", "film/2031-04-03/audio", true, nil, false, mend.Possible},
		{"years", "2030/film/audio", "2031/film/audio", true, nil, false, mend.Possible},
		{"reels", "film/reel A/audio", "film/reel B/audio", true, nil, false, mend.Possible},
		{"rolls", "film/A001/audio", "film/A002/audio", true, nil, false, mend.Possible},
		{"versions", "film/mix v1/stems", "film/mix v2/stems", true, nil, false, mend.Possible},
		{"languages", "film/en/voices", "film/de/voices", true, nil, false, mend.Possible},
		{"languages in words", "film/voices english", "shelf/voices german", true, nil, false, mend.Possible},
		{"qualities", "film/high/textures", "film/low/textures", true, nil, false, mend.Possible},
		{"made of them", "film/audio", "film/denoised/audio", true, nil, false, mend.Possible},
		{"smaller ones", "film/textures", "film/low/textures", true, nil, false, mend.Possible},
		{"two people, by names", "people/anna/takes", "people/ben/takes", false, nil, false, mend.Likely},
		{"two clients, by names", "jobs/harbour/audio", "jobs/lighthouse/audio", false, nil, false, mend.Likely},
		{"an archive's other project, by names", "work/film/audio", "archive/other film/audio", false, nil, false, mend.Likely},
		{"a move, by names", "film/wood", "attic/wood", false, nil, false, mend.Likely},
		{"a move, sizes told", "film/wood", "attic/wood", true, nil, false, mend.Certain},
		{"renamed above, sizes told", "film/sound/wood", "film/noise/wood", true, nil, false, mend.Certain},
		{"a move, one there twice", "film/wood", "attic/wood", true, []string{"shelf/low horn.wav"}, false, mend.Likely},
		{"another document's", "film/wood", "attic/wood", true, nil, true, mend.Likely},
		{"the first stands still", "film/wood", "attic/wood", true, []string{"film/wood/other.wav"}, false, mend.Likely},
	} {
		at := filepath.Join(dir, c.name)
		var list []mend.Wanted
		for i, n := range fiveNames {
			coretest.Write(t, filepath.Join(at, c.to, n+".wav"), strings.Repeat("x", 20+i))
			w := mend.Wanted{Expected: filepath.Join(at, c.from, n+".wav"), Kind: facts.Audio}
			if c.told {
				w.Told = &mention.Told{Size: int64(20 + i)}
			}
			list = append(list, w)
		}
		for _, m := range c.more {
			coretest.Write(t, filepath.Join(at, m), strings.Repeat("x", 22)) // as large as the one of its name
		}
		rd := reading(nil)
		rd.Claimed = func(p string) bool { return c.claimed && filepath.Base(p) == "low horn.wav" }
		offered, err := mend.Find(context.Background(), build(t, at, true), list, rd, nil)
		if err != nil {
			t.Fatal(err)
		}
		groups := mend.Groups(list, offered)
		if len(groups) != 1 || groups[0].Files() != len(fiveNames) || groups[0].Certainty != c.want {
			t.Errorf("%s: wanted %s: %d groups, %s\n%q", c.name, c.want, len(groups), groups[0].Certainty, expectedFacts(offered[0]))
		}
	}
}
