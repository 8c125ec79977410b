package resolve_test

import (
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

// What is not where its name leads is looked for in the search folders, in their
// order, under its whole relative name before its last part; what is there is not.
func TestSearchFolders(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{
		"song/list.csv": "path\nhere.wav\nbells/a.wav\n../lost/b.wav\nC:/old/c.wav\nbells/none.wav\n", "song/here.wav": "x",
		"one/here.wav": "y", "one/bells/a.wav": "deep", "one/a.wav": "flat", "one/b.wav": "x",
		"two/a.wav": "x", "two/b.wav": "x", "two/c.wav": "x",
	})
	for _, c := range []struct{ search, want string }{
		{"", "song/here.wav - - - -"},
		{"one", "song/here.wav one/bells/a.wav one/b.wav - -"},
		{"two one", "song/here.wav two/a.wav two/b.wav two/c.wav -"},
		{"nowhere one two", "song/here.wav one/bells/a.wav one/b.wav two/c.wav -"},
	} {
		o := trace.Options{Formats: all.Formats(), Reach: drive.System{}}
		for _, s := range strings.Fields(c.search) {
			o.Search = append(o.Search, filepath.Join(dir, s))
		}
		g, err := trace.Run(t.Context(), o, filepath.Join(dir, "song", "list.csv"))
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for i := range g.References {
			r := &g.References[i]
			if r.State == graph.Missing {
				got = append(got, "-")
				continue
			}
			rel, _ := filepath.Rel(dir, r.Path)
			if got = append(got, filepath.ToSlash(rel)); r.Search != "" && !drive.Within(r.Search, r.Path) || (r.Search == "") != strings.HasPrefix(rel, "song") {
				t.Errorf("%s was found through %q", rel, r.Search)
			}
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%q: %s, not %s", c.search, s, c.want)
		}
	}
}
