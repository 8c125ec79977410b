package mend_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/drive"
	"boundcrate/core/edition"
	"boundcrate/core/facts"
	"boundcrate/core/graph"
	"boundcrate/core/mend"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
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

// TestAllOrNone: a document that changes at the very last moment leaves all of
// them as they were, and nothing beside them.
func TestAllOrNone(t *testing.T) {
	for after := range 8 {
		dir, docs, g := nests(t, 4)
		before := coretest.Sums(t, dir)
		journals := t.TempDir()
		o := options()
		o.Reach = &fickle{path: docs[2], after: after}
		done, _, err := write(g, o, edition.Keeper{}, journals)
		after := coretest.Sums(t, dir)
		if err == nil {
			if len(done) != 4 {
				t.Errorf("%d written", len(done))
			}
			continue
		}
		for p, sum := range before {
			if after[p] != sum {
				t.Errorf("%s is not as it was (%v)", p, err)
			}
		}
		for p := range after {
			if _, was := before[p]; !was && !strings.Contains(p, edition.Folder) {
				t.Errorf("%s is left", p)
			}
		}
		if left, _ := os.ReadDir(journals); len(left) > 0 {
			t.Errorf("the journal is left: %v", left)
		}
	}
}

// TestRecover: what a kill left between any two names is finished; what somebody
// changed since is left to them; what never was whole is swept; and while another
// writes, nothing is done.
func TestRecover(t *testing.T) {
	sum := func(p string) string {
		s, err := facts.Fingerprint(context.Background(), drive.System{}, p, nil)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	type place struct{ Document, Fresh, Edition, Was, Becomes string }
	lower := func(v any) string {
		b, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		s := string(b)
		for _, k := range []string{"Document", "Fresh", "Edition", "Was", "Becomes"} {
			s = strings.ReplaceAll(s, `"`+k+`"`, `"`+strings.ToLower(k)+`"`)
		}
		return s
	}
	for renamed := range 4 {
		dir := t.TempDir()
		var list []place
		for i := range 3 {
			p := place{Document: filepath.Join(dir, fmt.Sprintf("d%d.m3u", i)), Fresh: filepath.Join(dir, fmt.Sprintf(".boundcrate-writing-%d", i)), Edition: filepath.Join(dir, fmt.Sprintf("editions/d%d.m3u", i))}
			coretest.Write(t, p.Document, fmt.Sprint("old ", i))
			coretest.Write(t, p.Edition, fmt.Sprint("old ", i))
			coretest.Write(t, p.Fresh, fmt.Sprint("new ", i))
			p.Was, p.Becomes = sum(p.Document), sum(p.Fresh)
			list = append(list, p)
		}
		for i := range renamed {
			if err := os.Rename(list[i].Fresh, list[i].Document); err != nil {
				t.Fatal(err)
			}
		}
		journals := t.TempDir()
		at := coretest.Write(t, filepath.Join(journals, "x.writing"), lower([]string{dir})+"\n"+lower(list)+"\n")
		held, ok, err := drive.Hold(at, os.O_RDWR)
		if err != nil || !ok {
			t.Fatal(err)
		}
		if done, err := mend.Recover(journals); len(done) > 0 || err != nil {
			t.Errorf("it was taken from whoever writes: %v %v", done, err)
		}
		held.Close()
		mine := renamed == 2
		if mine {
			coretest.Write(t, list[2].Document, "an afternoon")
		}
		done, err := mend.Recover(journals)
		for i := range list {
			want := fmt.Sprint("new ", i)
			if mine && i == 2 {
				want = "an afternoon"
			}
			if b, _ := os.ReadFile(list[i].Document); string(b) != want {
				t.Errorf("%d renamed: %s holds %q, not %q", renamed, list[i].Document, b, want)
			}
			if _, err := os.Stat(list[i].Fresh); err == nil {
				t.Errorf("%s is left", list[i].Fresh)
			}
		}
		var changed *trace.ChangedError
		if mine != errors.As(err, &changed) || !mine && (err != nil || len(done) != 3) {
			t.Errorf("%v %v", done, err)
		}
		if left, _ := os.ReadDir(journals); len(left) > 0 {
			t.Errorf("left: %v", left)
		}
	}
	// Killed before the journal was whole, and with a drive that is out.
	dir, journals := t.TempDir(), t.TempDir()
	coretest.Write(t, filepath.Join(dir, "d.m3u"), "old")
	coretest.Write(t, filepath.Join(dir, ".boundcrate-writing-7"), "half")
	coretest.Write(t, filepath.Join(journals, "y.writing"), lower([]string{dir})+"\n[{\"docu")
	coretest.Write(t, filepath.Join(journals, "z.writing"), lower([]string{"/gone"})+"\n"+lower([]place{{Document: "/gone/d.m3u", Fresh: "/gone/f"}}))
	if done, err := mend.Recover(journals); len(done) > 0 || err != nil {
		t.Errorf("%v %v", done, err)
	}
	if left, _ := os.ReadDir(dir); len(left) != 1 {
		t.Errorf("left: %v", left)
	}
	if left, _ := os.ReadDir(journals); len(left) != 1 || left[0].Name() != "z.writing" {
		t.Errorf("the one that must wait: %v", left)
	}
}
