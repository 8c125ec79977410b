package drive

import (
	"slices"
	"testing"
)

// TestAliases: mount points as proc(5), "/proc/pid/mountinfo", gives them.
func TestAliases(t *testing.T) {
	mounts := []mount{
		{"8:1", "/", "/"}, {"8:2", "/", "/media/bench"}, {"8:2", "/films/tide", "/srv/tide"}, {"8:2", "/films/tide/sound/old", "/home/a/old takes"}, {"8:3", "/films/tide", "/media/copy"}, {"8:1", "/srv/shared", "/mnt/shared"},
	}
	for _, c := range []struct {
		path string
		want []string
	}{
		{"/media/bench/films/tide/sound", []string{"/srv/tide/sound", "/home/a/old takes"}},
		{"/srv/tide/sound", []string{"/media/bench/films/tide/sound", "/home/a/old takes"}},
		{"/home/a/old takes", []string{"/media/bench/films/tide/sound/old", "/srv/tide/sound/old"}},
		{"/media/bench/other", nil}, {"/media/copy/x", nil}, {"/srv/shared/x", []string{"/mnt/shared/x"}},
	} {
		if got := aliases(c.path, mounts); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, wanted %q", c.path, got, c.want)
		}
	}
}
