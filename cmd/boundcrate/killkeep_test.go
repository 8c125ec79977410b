package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
	"boundcrate/core/say/report/keeping"
)

// reels are documents that name one another, of a size that takes a while to keep.
func reels(word string, n int) map[string]string {
	files := map[string]string{}
	for k := range n {
		files[fmt.Sprintf("film/d%d.m3u", k)] = fmt.Sprintf("#EXTM3U\n# %s\nd%d.m3u\n%s", word, (k+1)%n, strings.Repeat(fmt.Sprintf("# a long note of the day %d\n", k), 20_000))
	}
	return files
}

// TestKilledKeeps: a keeping or a restoring that is killed at any moment loses no edition; the documents are those of
// one edition, all of them, and exactly that edition is current.
func TestKilledKeeps(t *testing.T) {
	rng := rand.New(rand.NewPCG(53, 59))
	const documents = 6
	first, second := reels("first", documents), reels("second", documents)
	kept, restored := 0, 0
	for i := range 3 * kills() {
		dir, data := coretest.Lay(t, first), t.TempDir()
		doc := filepath.Join(dir, "film/d0.m3u")
		state := func() string {
			is := map[string]bool{}
			for name := range first {
				b, err := os.ReadFile(filepath.Join(dir, name))
				if err != nil {
					t.Fatal(err)
				}
				switch string(b) {
				case first[name]:
					is["first"] = true
				case second[name]:
					is["second"] = true
				default:
					is["neither"] = true
				}
			}
			if len(is) != 1 {
				return fmt.Sprint(is)
			}
			for s := range is {
				return s
			}
			return ""
		}
		answer[keeping.Kept](t, data, 0, "keep", "--json", "--note", "first", doc)
		for name, text := range second {
			coretest.Write(t, filepath.Join(dir, name), text)
		}
		keep, restore := []string{"keep", "--note", "second", doc}, []string{"restore", "--edition", "1", doc}
		if i%2 == 0 {
			killed(t, rng, long(t, t.TempDir(), keep...), data, keep...)
		} else {
			answer[keeping.Kept](t, data, 0, append([]string{"keep", "--json"}, keep[1:]...)...)
			killed(t, rng, long(t, t.TempDir(), "trace", doc), data, restore...)
		}
		_, _, _ = invoke(t, data, "trace", doc) // whatever comes next finishes it
		list := answer[keeping.Editions](t, data, 0, "editions", "--json", doc)
		now := state()
		for _, e := range list.Editions {
			if e.Current && now != e.Note && !(len(list.Editions) == 1 && now == "second") {
				t.Errorf("kill %d: edition %d (%s) is current, the documents are %s", i, e.ID, e.Note, now)
			}
			into := filepath.Join(t.TempDir(), "copy")
			if code, out, errs := invoke(t, data, "restore", "--edition", fmt.Sprint(e.ID), "--into", into, doc); code != 0 {
				t.Errorf("kill %d: edition %d: %s%s", i, e.ID, out, errs)
			}
			for name, text := range map[string]map[string]string{"first": first, "second": second}[e.Note] {
				if b, err := os.ReadFile(filepath.Join(into, filepath.Base(name))); err != nil || string(b) != text {
					t.Errorf("kill %d: edition %d holds another %s, %v", i, e.ID, name, err)
				}
			}
		}
		if len(list.Editions) == 2 {
			kept++
		}
		if now == "first" {
			restored++
		} else if now != "second" {
			t.Errorf("kill %d: the documents are %s", i, now)
		}
		if k := answer[keeping.Kept](t, data, 0, "keep", "--json", doc); len(k.Edition.Documents) != documents {
			t.Errorf("kill %d: kept again: %+v", i, k)
		}
	}
	t.Logf("%d times both were kept, %d times restored", kept, restored)
}

// TestKilledBackups: a backup that is killed at any moment leaves the generations before as they were and none that is
// not whole; the next one goes on.
func TestKilledBackups(t *testing.T) {
	rng := rand.New(rand.NewPCG(61, 67))
	for i := range kills() {
		files := map[string]string{}
		var names []string
		for k := range 30 {
			name := fmt.Sprintf("s%d.wav", k)
			files["film/"+name] = strings.Repeat(fmt.Sprint(k), 40_000)
			names = append(names, name)
		}
		files["film/cut.m3u"] = "#EXTM3U\n" + strings.Join(names, "\n") + "\n"
		dir, data, to := coretest.Lay(t, files), t.TempDir(), t.TempDir()
		args := []string{"backup", "--json", "--same-drive", "--to", to, filepath.Join(dir, "film/cut.m3u")}
		one := answer[keeping.Backup](t, data, 0, args...)
		before := coretest.Sums(t, one.Generation)
		for k := range 15 {
			os.Remove(filepath.Join(dir, "film", names[k]))
			names[k] = "new " + names[k]
			coretest.Write(t, filepath.Join(dir, "film", names[k]), strings.Repeat("n"+fmt.Sprint(k), 40_000))
		}
		coretest.Write(t, filepath.Join(dir, "film/cut.m3u"), "#EXTM3U\n"+strings.Join(names, "\n")+"\n")
		killed(t, rng, long(t, t.TempDir(), append([]string{"seal", "--out", filepath.Join(t.TempDir(), "x")}, args[5])...), data, args...)
		if after := coretest.Sums(t, one.Generation); fmt.Sprint(after) != fmt.Sprint(before) {
			t.Errorf("kill %d changed the generation before", i)
		}
		next := answer[keeping.Backup](t, data, 0, args...)
		if !next.Complete || next.Files != 31 {
			t.Errorf("kill %d: the next is %+v", i, next)
		}
		list := answer[keeping.Verification](t, data, 0, "backup", "--json", "--verify", to)
		for _, g := range list.Generations {
			if rep := answer[report.Seal](t, data, 0, "check", "--json", g.Path); !rep.Complete {
				t.Errorf("kill %d: %s is not whole", i, g.Path)
			}
		}
		if left, _ := filepath.Glob(filepath.Join(to, "film", "*.partial")); len(left) > 0 {
			t.Errorf("kill %d left %v", i, left)
		}
	}
}
