package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/report"
	"boundcrate/core/say/report/keeping"
)

// inode is which file stands at a path.
func inode(t *testing.T, p string) uint64 {
	t.Helper()
	fi, err := os.Stat(p)
	if err != nil {
		t.Fatal(err)
	}
	return drive.NodeOf(fi).Ino
}

// TestBackupCommand: each generation is a whole bag, which sha256sum and check find well; what did not change shares
// its storage with the one before, also under another name, and what is damaged there is not shared from.
func TestBackupCommand(t *testing.T) {
	dir, data, to := coretest.Lay(t, map[string]string{"film/cut.otio": cut("a.wav", "b.wav"), "film/a.wav": strings.Repeat("a", 5000), "film/b.wav": strings.Repeat("b", 5000)}), t.TempDir(), t.TempDir()
	at := func(p string) string { return filepath.Join(dir, "film", p) }
	run := func(code int, more ...string) keeping.Backup {
		t.Helper()
		return answer[keeping.Backup](t, data, code, append([]string{"backup", "--json", "--same-drive", "--to", to, at("cut.otio")}, more...)...)
	}
	first := run(0)
	if !first.Complete || first.Files != 3 || first.Copied.Files != 3 || first.Shared.Files != 0 || filepath.Dir(first.Generation) != filepath.Join(to, "film") {
		t.Fatalf("first %+v", first)
	}
	coretest.Write(t, at("c.wav"), strings.Repeat("c", 5000))
	os.Rename(at("a.wav"), at("renamed.wav"))
	coretest.Write(t, at("cut.otio"), cut("renamed.wav", "c.wav"))
	before := coretest.Sums(t, first.Generation)
	second := run(0)
	if !second.Complete || second.Shared.Files != 1 || second.Copied.Files != 2 {
		t.Fatalf("second %+v", second)
	}
	if a, b := inode(t, first.Generation+"/data/a.wav"), inode(t, second.Generation+"/data/renamed.wav"); a != b {
		t.Logf("%d and %d: this file system clones", a, b)
	}
	if after := coretest.Sums(t, first.Generation); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Error("the second changed the first")
	}
	for _, g := range []string{first.Generation, second.Generation} {
		for _, list := range []string{"manifest-sha256.txt", "tagmanifest-sha256.txt"} {
			cmd := exec.Command("sha256sum", "--quiet", "-c", list)
			cmd.Dir = g
			if out, err := cmd.CombinedOutput(); err != nil {
				t.Errorf("%s: %s", list, out)
			}
		}
		if rep := answer[report.Seal](t, data, 0, "check", "--json", g); !rep.Complete {
			t.Errorf("%s: %+v", g, rep)
		}
	}
	// Damage in a generation is told for every one that shares it, and is not passed on.
	hurt := second.Generation + "/data/renamed.wav"
	os.Chmod(hurt, 0o644)
	coretest.Write(t, hurt, strings.Repeat("x", 5000))
	got := answer[keeping.Verification](t, data, 1, "backup", "--json", "--verify", to)
	shared := inode(t, hurt) == inode(t, first.Generation+"/data/a.wav")
	if len(got.Generations) != 2 || !slices.Equal(got.Generations[1].Damaged, []string{hurt}) || shared != slices.Equal(got.Generations[0].Damaged, []string{first.Generation + "/data/a.wav"}) {
		t.Errorf("verified %+v", got)
	}
	third := run(0)
	if third.Shared.Files != 2 || third.Copied.Files != 1 {
		t.Errorf("third %+v", third)
	}
	if got := answer[keeping.Verification](t, data, 0, "backup", "--json", "--verify", third.Generation); len(got.Generations) != 1 {
		t.Errorf("the third alone: %+v", got)
	}
	// What is cut short, or lies, is not shared from either.
	os.Truncate(third.Generation+"/data/c.wav", 7)
	fourth := run(0)
	if fourth.Shared.Files != 2 || fourth.Copied.Files != 1 {
		t.Errorf("fourth %+v", fourth)
	}
	// The one that was verified last stays, and so does one that holds what nobody sealed.
	coretest.Write(t, first.Generation+"/data/mine.txt", "mine")
	fifth := run(0, "--keep", "1")
	var left []string
	for _, l := range fifth.Left {
		left = append(left, l.Why)
	}
	if !slices.Equal(fifth.Removed, []string{second.Generation, fourth.Generation}) || !slices.Equal(left, []string{"unsealed-file", "last-verified"}) {
		t.Errorf("fifth removed %v, left %+v", fifth.Removed, fifth.Left)
	}
	if b, err := os.ReadFile(first.Generation + "/data/mine.txt"); err != nil || string(b) != "mine" {
		t.Errorf("mine says %q, %v", b, err)
	}
	// Another project of the same name has a folder of its own; somebody's folder of that name stays theirs.
	other := coretest.Lay(t, map[string]string{"film/cut.otio": cut("z.wav"), "film/z.wav": "z"})
	if o := answer[keeping.Backup](t, data, 0, "backup", "--json", "--same-drive", "--to", to, filepath.Join(other, "film", "cut.otio")); filepath.Dir(o.Generation) != filepath.Join(to, "film-2") {
		t.Errorf("another film: %s", o.Generation)
	}
	for _, x := range []struct {
		args []string
		says string
	}{
		{[]string{"backup", "--to", to, at("cut.otio")}, "drive"},
		{[]string{"backup", "--same-drive", "--to", at("backups"), at("cut.otio")}, "inside"},
		{[]string{"backup", "--same-drive", "--to", to, "--keep", "0", at("cut.otio")}, "--keep"},
		{[]string{"backup", "--same-drive", "--to", to, at("none.otio")}, "none.otio"},
		{[]string{"backup", "--verify", dir}, "no backup"},
		{[]string{"backup", "--verify", to + "/none"}, "none"},
		{[]string{"backup", at("cut.otio")}, "--to"},
	} {
		if code, _, errs := invoke(t, data, x.args...); code != 2 || !strings.Contains(errs, x.says) {
			t.Errorf("%v: %d, %s", x.args, code, errs)
		}
	}
}
