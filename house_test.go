// Package boundcrate_test holds the rules of the house.
package boundcrate_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// road is the order of the core: a package imports only those of earlier lines. It goes through
// the wings one after another, so that no wing leans on a later one.
var road = []string{
	// places in texts that name files: bytes to mentions
	"core/text/bag",
	"core/text/problem",
	"core/text/mention",
	"core/text/names",
	"core/text/format/jsonscan", // carriers: they know no format
	"core/text/format/xmlscan",
	"core/text/format/linescan",
	"core/text/format/binscan",
	"core/text/format/cssscan",
	"core/text/format/part21",
	"core/text/format/timecode",
	"core/text/format",
	"core/text/format/*",
	"core/text/format/all",
	// files, and every way to write
	"core/disk/drive",
	"core/disk/fileset",
	"core/disk/ability",
	"core/disk/index",
	"core/disk/edition",
	"core/disk/holding",
	"core/disk/template",
	// what a file is
	"core/media/facts",
	"core/media/pcm",
	"core/media/look",
	"core/media/acoustic",
	// mentions to a graph, judged and decided
	"core/road/graph",
	"core/road/resolve",
	"core/road/rules",
	"core/road/trace",
	"core/road/origin",
	"core/road/tally",
	"core/road/may",
	"core/road/decide",
	// find, judge, write
	"core/mend/mend",
	"core/mend/writing",
	// all documents
	"core/survey/survey",
	// what travels, where to, sealed and received
	"core/pack/sift",
	"core/pack/export",
	"core/pack/content",
	"core/pack/carrier",
	"core/pack/proof",
	"core/pack/stow",
	"core/pack/lists",
	"core/pack/recipe",
	"core/pack/seal",
	"core/pack/relocate",
	"core/pack/receive",
	"core/pack/compare",
	"core/keep/line",
	"core/keep/back",
	"core/keep/backup",
	"core/keep/loose",
	// what lies outside, or inside documents, made files of the project
	"core/bring/home",
	"core/bring/inside",
	"core/bring/connect",
	// codes to sentences and JSON
	"core/say/words/phrase",
	"core/say/words",
	"core/say/words/sheet",
	"core/say/words/ableness",
	"core/say/report",
	"core/say/report/keeping",
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
		if pkg == "core" || strings.HasSuffix(pkg, "test") { // what tests share stands beside the road
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
	var wings []string
	for _, r := range road {
		if w := strings.Split(r, "/")[1]; len(wings) == 0 || wings[len(wings)-1] != w {
			if slices.Contains(wings, w) {
				t.Errorf("the wing %s stands in two places of the road", w)
			}
			wings = append(wings, w)
		}
	}
}

// TestThin: the command line and the server hold no rule of the job, so
// nothing imports them but what starts them; and the server knows only what can be
// done, neither the job's rules nor where anything is kept.
func TestThin(t *testing.T) {
	allowed := map[string][]string{
		"boundcrate/server": {"cmd/boundcrate", "e2e", "server/gen"}, "boundcrate/app": {"cmd/boundcrate", "server", "e2e"}, "boundcrate/app/desk": {"cmd/boundcrate", "app"},
		"boundcrate/store": {"cmd/boundcrate", "app", "app/desk", "app/jobs", "app/fault", "demo", "e2e"}, "boundcrate/demo": {"cmd/boundcrate", "e2e"}, "boundcrate/web": {"cmd/boundcrate", "e2e"},
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
			if strings.HasPrefix(imp, "boundcrate/core") && filepath.Dir(p) == "server" {
				t.Errorf("%s imports %s: it asks the application", p, imp)
			}
			if strings.HasPrefix(imp, "boundcrate/app/api") { // the wire: of the server, and within itself
				from, ruled = []string{"app", "app/api", "app/jobs", "server", "server/gen", "e2e"}, true
			}
			if !ruled {
				continue
			}
			for _, a := range from {
				if dir := filepath.ToSlash(filepath.Dir(p)); dir == a || a == "app/api" && path.Dir(dir) == a {
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

// TestSentences: what is said to people about a problem stands in words alone.
// The core beside it tells codes and figures.
func TestSentences(t *testing.T) {
	speak := []string{"core/say/words", "core/road/rules", "core/pack/recipe"} // the user's own rules and recipes are texts, whose reader tells what is wrong there
	seen := 0
	err := filepath.WalkDir("core", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return err
		}
		for _, s := range speak {
			if strings.HasPrefix(filepath.ToSlash(p), s+"/") {
				return nil
			}
		}
		f, err := parser.ParseFile(token.NewFileSet(), p, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			kv, ok := n.(*ast.KeyValueExpr)
			if !ok {
				return true
			}
			key, ok := kv.Key.(*ast.Ident)
			if !ok || key.Name != "Message" && key.Name != "Untouched" && key.Name != "Do" && key.Name != "Args" {
				return true
			}
			seen++
			ast.Inspect(kv.Value, func(n ast.Node) bool {
				if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING && strings.Contains(lit.Value, " ") && lit.Value != `": "` {
					t.Errorf("%s says %s: sentences stand in core/say/words", p, lit.Value)
				}
				return true
			})
			return true
		})
		return nil
	})
	if err != nil || seen == 0 {
		t.Fatal(seen, err)
	}
}

// TestWebDecidesByCodes: the interface compares no sentence and no label, only
// codes, which have no spaces in them.
func TestWebDecidesByCodes(t *testing.T) {
	compares := regexp.MustCompile(`(?:[=!]==|\bcase|includes\(|startsWith\(|endsWith\()\s*"([^"]*[^"\s] [^"]*)"`)
	seen := 0
	err := filepath.WalkDir(filepath.Join("web", "src"), func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(p, ".ts") && !strings.HasSuffix(p, ".tsx") {
			return err
		}
		b, err := os.ReadFile(p)
		if err != nil {
			return err
		}
		seen++
		for line := range strings.Lines(string(b)) {
			for _, m := range compares.FindAllStringSubmatch(line, -1) {
				t.Errorf("%s compares the text %q", p, m[1])
			}
		}
		return nil
	})
	if err != nil || seen == 0 {
		t.Fatal(seen, err)
	}
	if !compares.MatchString(`a === "same content as when last seen"`) || compares.MatchString(`key === " "`) {
		t.Error("the check itself does not see")
	}
}

// TestNoCircles: the interface's files import one another in one direction.
func TestNoCircles(t *testing.T) {
	const root = "web/src"
	imported := regexp.MustCompile(`(?s)(?:import|export)[^;]*?from "(\.[^"]+)"|import\("(\.[^"]+)"\)`)
	needs := map[string][]string{}
	err := filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasPrefix(filepath.Ext(p), ".ts") {
			return err
		}
		text, err := os.ReadFile(p)
		for _, m := range imported.FindAllStringSubmatch(string(text), -1) {
			needs[p] = append(needs[p], filepath.Join(filepath.Dir(p), m[1]+m[2]))
		}
		return err
	})
	if err != nil || len(needs) < 50 {
		t.Fatal(len(needs), err)
	}
	const under, done = 1, 2
	state := map[string]int{}
	var visit func(p string, way []string)
	visit = func(p string, way []string) {
		if _, is := needs[p]; !is {
			for _, end := range []string{".ts", ".tsx"} {
				if _, is := needs[p+end]; is {
					p += end
				}
			}
		}
		way = append(way, strings.TrimPrefix(p, root+"/"))
		switch state[p] {
		case under:
			t.Errorf("a circle: %s", strings.Join(way, " → "))
		case 0:
			state[p] = under
			for _, n := range needs[p] {
				visit(n, slices.Clone(way))
			}
			state[p] = done
		}
	}
	for p := range needs {
		visit(p, nil)
	}
}
