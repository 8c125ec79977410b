package ability_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"boundcrate/core/disk/ability"
)

func can(list []ability.Tried) map[ability.What]bool {
	m := map[ability.What]bool{}
	for _, t := range list {
		m[t.What] = t.Can
	}
	return m
}

// TestOf: what is said of a folder is what coreutils find, and nothing is left in it.
func TestOf(t *testing.T) {
	dir := t.TempDir()
	got := can(ability.Of(dir))
	if len(got) != 9 || !got[ability.Writes] || !got[ability.Lock] {
		t.Fatal(got)
	}
	if left, err := os.ReadDir(dir); err != nil || len(left) > 0 {
		t.Error(left, err)
	}
	if err := os.WriteFile(filepath.Join(dir, "a"), []byte("x"), 0o600); err != nil {
		t.Fatal(err)
	}
	for what, cmd := range map[ability.What][]string{
		ability.HardLink: {"ln", "a", "b"}, ability.Link: {"ln", "-s", "a", "c"}, ability.Clone: {"cp", "--reflink=always", "a", "d"}, ability.Case: {"test", "!", "-e", "A"},
	} {
		c := exec.Command(cmd[0], cmd[1:]...)
		c.Dir = dir
		if err := c.Run(); (err == nil) != got[what] {
			t.Errorf("%s: %v, by %v: %v", what, got[what], cmd, err)
		}
	}
	file := filepath.Join(dir, "a")
	for _, no := range []string{filepath.Join(dir, "none"), file} {
		if got := ability.Of(no); len(got) != 1 || got[0].Can || got[0].Err == nil || !got[0].Needed {
			t.Errorf("%s: %+v", no, got)
		}
	}
}
