// Package boundcrate_test holds the rules of the house.
package boundcrate_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// road is the order of the core: a package imports only those of earlier lines.
var road = []string{
	"core/mention",
	"core/format/jsonscan", // carriers: they know no format
	"core/format/xmlscan",
	"core/format/linescan",
	"core/format/cssscan",
	"core/format/part21",
	"core/format/timecode",
	"core/format",
	"core/format/*",
	"core/format/all",
	"core/drive",
	"core/facts",
	"core/pcm",
	"core/resolve",
	"core/rules",
	"core/trace",
	"core/edition",
	"core/mend",
	"core/sift",
	"core/stow",
	"core/seal",
	"core/receive",
}

func place(pkg string) int {
	best := -1
	for i, r := range road {
		if r == pkg {
			return i
		}
		if dir, ok := strings.CutSuffix(r, "/*"); ok && path.Dir(pkg) == dir {
			best = i
		}
	}
	return best
}

func ours(imp string) (string, bool) { return strings.CutPrefix(imp, "boundcrate/") }

// TestRoad: core imports nothing of the store, the server or the interface,
// and a package of the road only those before it.
func TestRoad(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("core", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), p, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		pkg := filepath.ToSlash(filepath.Dir(p))
		if pkg == "core" || pkg == "core/format/formattest" || pkg == "core/coretest" {
			return nil
		}
		at := place(pkg)
		if at < 0 {
			t.Errorf("%s is not on the road; give it its place in house_test.go and docs/architecture.md", pkg)
		}
		for _, i := range f.Imports {
			imp, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			to, own := ours(imp)
			if !own {
				continue
			}
			seen++
			switch k := place(to); {
			case !strings.HasPrefix(to, "core/"):
				t.Errorf("%s imports %s: core stands alone", p, to)
			case k < 0 || k > at:
				t.Errorf("%s imports %s, which is not before it on the road", p, to)
			case k == at && to != pkg:
				t.Errorf("%s imports %s: formats do not know each other", p, to)
			}
		}
		return nil
	})
	if err != nil || seen == 0 {
		t.Fatal(seen, err)
	}
}

// TestThin: the command line and the server hold no rule of the job, so
// nothing imports them but what starts them.
func TestThin(t *testing.T) {
	allowed := map[string][]string{
		"boundcrate/server": {"cmd/boundcrate", "e2e"}, "boundcrate/server/api": {"server", "server/api/gen", "e2e"},
		"boundcrate/store": {"cmd/boundcrate", "server", "demo", "e2e"}, "boundcrate/demo": {"cmd/boundcrate", "e2e"}, "boundcrate/web": {"cmd/boundcrate", "e2e"},
	}
	err := filepath.WalkDir(".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			if err == nil {
				err = fs.SkipDir
			}
			return err
		}
		if d.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") && !strings.HasPrefix(p, "e2e") {
			return nil
		}
		f, err := parser.ParseFile(token.NewFileSet(), p, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
	imports:
		for _, i := range f.Imports {
			imp, _ := strconv.Unquote(i.Path.Value)
			from, ruled := allowed[imp]
			if !ruled {
				continue
			}
			for _, a := range from {
				if filepath.ToSlash(filepath.Dir(p)) == a {
					continue imports
				}
			}
			t.Errorf("%s imports %s", p, imp)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
