package fileset_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

func says(text string) func(io.Writer) error {
	return func(w io.Writer) error { _, err := io.WriteString(w, text); return err }
}

func well() error { return nil }

func is(t *testing.T, path, want string) {
	t.Helper()
	if b, err := os.ReadFile(path); err != nil || string(b) != want {
		t.Errorf("%s holds %q, not %q (%v)", path, b, want, err)
	}
}

func only(t *testing.T, dir string, want ...string) {
	t.Helper()
	es, err := os.ReadDir(dir)
	var have []string
	for _, e := range es {
		have = append(have, e.Name())
	}
	if err != nil || strings.Join(have, " ") != strings.Join(want, " ") {
		t.Errorf("%s holds %q, not %q (%v)", dir, have, want, err)
	}
}

// TestReplace: whole or not at all.
func TestReplace(t *testing.T) {
	p := coretest.Write(t, t.TempDir()+"/doc.otio", "before")
	broken := errors.New("broken")
	if err := fileset.Replace(p, 0o640, func(w io.Writer) error { _, _ = w.Write([]byte("half")); return broken }); !errors.Is(err, broken) {
		t.Error(err)
	}
	if b, _ := os.ReadFile(p); string(b) != "before" {
		t.Errorf("it holds %q", b)
	}
	if err := fileset.Replace(p, 0o640, func(w io.Writer) error { _, err := w.Write([]byte("after")); return err }); err != nil {
		t.Fatal(err)
	}
	fi, _ := os.Stat(p)
	if b, _ := os.ReadFile(p); string(b) != "after" || fi.Mode().Perm() != 0o640 {
		t.Errorf("%q %v", b, fi.Mode())
	}
	if es, _ := os.ReadDir(filepath.Dir(p)); len(es) != 1 {
		t.Errorf("left behind: %v", es)
	}
}

// begun is a writing that makes a file in a new folder and stages two others.
func begun(t *testing.T, dir, journals string, look func() error) *fileset.Txn {
	t.Helper()
	tx, err := fileset.Begin(journals, dir)
	if err != nil {
		t.Fatal(err)
	}
	for _, err := range []error{
		tx.Dirs(filepath.Join(dir, "new/deep")),
		tx.Create(filepath.Join(dir, "new/deep/c"), 0o644, time.Unix(1e9, 0), says("c"), nil),
		tx.Stage(filepath.Join(dir, "a"), 0o640, "", well, says("new a")),
		tx.Stage(filepath.Join(dir, "b"), 0o644, "", look, says("new b")),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	return tx
}

// TestTxn: committed, all is there; closed before, all is as it was; refused at the last
// look, the same; and two writings about one thing exclude each other.
func TestTxn(t *testing.T) {
	lay := func() (string, string) {
		return coretest.Lay(t, map[string]string{"a": "old a", "b": "old b"}), t.TempDir()
	}
	dir, journals := lay()
	tx := begun(t, dir, journals, well)
	if _, err := fileset.Begin(journals, dir); !errors.Is(err, fileset.ErrBusy) {
		t.Error(err)
	}
	s, err := tx.Commit()
	if err != nil || len(s.Done) != 2 || len(s.Left) != 0 || tx.Close() != nil {
		t.Fatal(s, err)
	}
	is(t, filepath.Join(dir, "a"), "new a")
	is(t, filepath.Join(dir, "b"), "new b")
	is(t, filepath.Join(dir, "new/deep/c"), "c")
	if fi, _ := os.Stat(filepath.Join(dir, "new/deep/c")); !fi.ModTime().Equal(time.Unix(1e9, 0)) {
		t.Error("it lost its time")
	}
	only(t, dir, "a", "b", "new")
	only(t, journals)

	changed := errors.New("changed")
	for what, end := range map[string]func(tx *fileset.Txn, refuse *bool) error{
		"closed":  func(*fileset.Txn, *bool) error { return nil },
		"refused": func(tx *fileset.Txn, refuse *bool) error { *refuse = true; _, err := tx.Commit(); return err },
		"not whole": func(tx *fileset.Txn, _ *bool) error {
			return tx.Stage(filepath.Join(dir, "a"), 0o644, "", well, func(io.Writer) error { return changed })
		},
	} {
		dir, journals := lay()
		refuse := false
		tx := begun(t, dir, journals, func() error {
			if refuse {
				return changed
			}
			return nil
		})
		if err := end(tx, &refuse); what != "closed" && !errors.Is(err, changed) {
			t.Error(what, err)
		}
		if err := tx.Close(); err != nil {
			t.Error(what, err)
		}
		is(t, filepath.Join(dir, "a"), "old a")
		is(t, filepath.Join(dir, "b"), "old b")
		only(t, dir, "a", "b")
		only(t, journals)
	}
}

// TestLeft: once the first file has its new name nothing is taken back; what could not be
// written is told.
func TestLeft(t *testing.T) {
	dir, journals := coretest.Lay(t, map[string]string{"a": "old a", "b": "old b"}), t.TempDir()
	looks := 0
	tx := begun(t, dir, journals, func() error {
		if looks++; looks > 1 {
			return fileset.ErrChanged
		}
		return nil
	})
	s, err := tx.Commit()
	if err != nil || len(s.Done) != 1 || len(s.Left) != 1 || s.Left[0].Path != filepath.Join(dir, "b") || tx.Close() != nil {
		t.Fatal(s, err)
	}
	is(t, filepath.Join(dir, "a"), "new a")
	is(t, filepath.Join(dir, "b"), "old b")
	is(t, filepath.Join(dir, "new/deep/c"), "c")
	only(t, dir, "a", "b", "new")
	only(t, journals)
}

// TestRecover: a writing that ended at any line of its journal, and after any of its
// renames, is taken away whole or finished whole; what another writing made, and what
// somebody changed since, is left; while another writes, nothing is done.
func TestRecover(t *testing.T) {
	for lines := 1; lines <= 20; lines++ {
		for renamed := range 3 {
			dir, journals := coretest.Lay(t, map[string]string{"a": "old a", "b": "old b", ".boundcrate-other-1": "another's"}), t.TempDir()
			tx := begun(t, dir, journals, well)
			defer tx.Close() // it holds its journal until then
			at, _ := filepath.Glob(filepath.Join(journals, "*"))
			// The commit's line, as Commit writes it.
			var list []map[string]string
			fresh, _ := filepath.Glob(filepath.Join(dir, tx.Mark()+"*"))
			for _, f := range fresh {
				b, _ := os.ReadFile(f)
				to := filepath.Join(dir, strings.TrimPrefix(string(b), "new "))
				list = append(list, map[string]string{"document": to, "fresh": f, "was": digest(t, to), "becomes": digest(t, f)})
			}
			commit, _ := json.Marshal(list)
			journal, _ := os.ReadFile(at[0])
			all := strings.SplitAfter(string(journal)+string(commit)+"\n", "\n")
			all = all[:len(all)-1]
			committed := lines >= len(all)
			if lines > len(all) || !committed && renamed > 0 {
				continue
			}
			if done, err := fileset.Recover(journals); len(done) > 0 || err != nil {
				t.Errorf("it was taken from whoever writes: %v %v", done, err)
			}
			// The process ends: its lock goes, its journal stays.
			left := t.TempDir()
			torn := strings.Join(all[:lines], "")
			if !committed {
				torn += all[lines][:len(all[lines])/2]
			}
			coretest.Write(t, filepath.Join(left, "x.writing"), torn)
			for i := range renamed {
				if err := os.Rename(list[i]["fresh"], list[i]["document"]); err != nil {
					t.Fatal(err)
				}
			}
			mine := committed && renamed == 0
			if mine {
				coretest.Write(t, filepath.Join(dir, "b"), "an afternoon")
			}
			done, err := fileset.Recover(left)
			switch {
			case !committed:
				is(t, filepath.Join(dir, "a"), "old a")
				is(t, filepath.Join(dir, "b"), "old b")
				for _, p := range fresh {
					if _, err := os.Stat(p); err == nil && strings.Contains(torn, `"folders":["`+dir+`"]`) {
						t.Errorf("%d lines: %s is left", lines, p)
					}
				}
			case mine:
				is(t, filepath.Join(dir, "a"), "new a")
				is(t, filepath.Join(dir, "b"), "an afternoon")
				if !errors.Is(err, fileset.ErrChanged) || len(done) != 1 {
					t.Errorf("%v %v", done, err)
				}
			default:
				is(t, filepath.Join(dir, "a"), "new a")
				is(t, filepath.Join(dir, "b"), "new b")
				is(t, filepath.Join(dir, "new/deep/c"), "c")
				if err != nil || len(done) != 2 {
					t.Errorf("%v %v", done, err)
				}
			}
			is(t, filepath.Join(dir, ".boundcrate-other-1"), "another's")
			only(t, left)
		}
	}
	// A drive that is out waits.
	journals := t.TempDir()
	coretest.Write(t, filepath.Join(journals, "z.writing"), `{"id":"00"}`+"\n"+`[{"document":"/gone/d","fresh":"/gone/f"}]`+"\n")
	if done, err := fileset.Recover(journals); len(done) > 0 || err != nil {
		t.Errorf("%v %v", done, err)
	}
	only(t, journals, "z.writing")
}

func digest(t *testing.T, path string) string {
	t.Helper()
	sum, err := drive.Fingerprint(context.Background(), drive.System{}, path, nil)
	if err != nil {
		t.Fatal(fmt.Errorf("%s: %w", path, err))
	}
	return sum
}

// TestMade: what a writing made and somebody changed since is theirs.
func TestMade(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"a": "old a", "b": "old b"})
	tx := begun(t, dir, "", well)
	at := filepath.Join(dir, "new/deep/c")
	time.Sleep(2 * time.Millisecond)
	coretest.Write(t, at, "theirs")
	if err := tx.Close(); err != nil {
		t.Fatal(err)
	}
	is(t, at, "theirs")
	if _, err := (drive.System{}).Stat(at); err != nil {
		t.Error(err)
	}
}

// TestSwap: two folders change places; of the earlier one only what was told goes.
func TestSwap(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"new/x": "new", "c/x": "old", "c/deep/y": "old", "c/deep/z": "old"})
	at := func(p string) string { return filepath.Join(dir, p) }
	was, err := fileset.Inventory(at("c"))
	if err != nil || len(was) != 3 {
		t.Fatal(was, err)
	}
	if err := fileset.Swap(at("new"), at("c"), at("aside")); err != nil {
		t.Fatal(err)
	}
	is(t, at("c/x"), "new")
	coretest.Write(t, at("aside/deep/mine"), "an afternoon")
	time.Sleep(2 * time.Millisecond)
	coretest.Write(t, at("aside/deep/z"), "changed")
	kept, err := fileset.Discard(at("aside"), was, func(string) int { return 0 })
	if err != nil || len(kept) != 2 {
		t.Error(kept, err)
	}
	is(t, at("aside/deep/mine"), "an afternoon")
	is(t, at("aside/deep/z"), "changed")
	only(t, at("aside/deep"), "mine", "z")
	only(t, at("aside"), "deep")
}

// TestToldBefore: the journal knows of a file before it has its name, and of folders before they
// are made; whatever moment ends the writing, recovery takes both away. What somebody put there
// instead stays.
func TestToldBefore(t *testing.T) {
	for _, theirs := range []bool{false, true} {
		dir, journals := t.TempDir(), t.TempDir()
		tx, err := fileset.Begin(journals, dir)
		if err != nil {
			t.Fatal(err)
		}
		at := filepath.Join(dir, "new", "deep", "a.wav")
		if err := tx.Dirs(filepath.Dir(at)); err != nil {
			t.Fatal(err)
		}
		if err := tx.Create(at, 0o644, time.Now(), func(w io.Writer) error { _, err := io.WriteString(w, "gull"); return err }, nil); err != nil {
			t.Fatal(err)
		}
		list, err := filepath.Glob(filepath.Join(journals, "*"))
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		told, err := os.ReadFile(list[0])
		if err != nil || strings.Count(string(told), `"made"`) != 3 {
			t.Fatalf("%s %v", told, err)
		}
		if err := tx.Close(); err != nil {
			t.Fatal(err)
		}
		// As a kill leaves it that comes right after the name was given.
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if theirs {
			coretest.Write(t, at, "mine")
		}
		if err := os.WriteFile(list[0], told, 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := fileset.Recover(journals); err != nil {
			t.Error(err)
		}
		if _, err := os.Stat(filepath.Join(dir, "new")); (err == nil) != theirs {
			t.Errorf("theirs %v: %v", theirs, err)
		}
	}
}
