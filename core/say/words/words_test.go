package words_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/problem"
)

// constants are the values of a string type's constants, read from the source:
// a code that is added tomorrow is asked for too.
func constants(t *testing.T, pkg, typ string) (values []string) {
	t.Helper()
	files, err := filepath.Glob(filepath.Join("..", "..", "*", pkg, "*.go"))
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range files {
		f, err := parser.ParseFile(token.NewFileSet(), p, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		ast.Inspect(f, func(n ast.Node) bool {
			spec, ok := n.(*ast.ValueSpec)
			if !ok || spec.Type == nil {
				return true
			}
			if id, ok := spec.Type.(*ast.Ident); !ok || id.Name != typ {
				return true
			}
			for _, v := range spec.Values {
				if lit, ok := v.(*ast.BasicLit); ok && lit.Kind == token.STRING {
					s, err := strconv.Unquote(lit.Value)
					if err != nil {
						t.Fatal(err)
					}
					values = append(values, s)
				}
			}
			return true
		})
	}
	if len(values) == 0 {
		t.Fatalf("%s has no constants of type %s", pkg, typ)
	}
	return values
}

// TestEveryCode: every code of the core has words, no two of a kind the same,
// and none is only its code.
func TestEveryCode(t *testing.T) {
	for _, c := range []struct {
		pkg, typ string
		say      func(code string) string
		plain    map[string]bool // codes that are the very word
	}{
		{"mend", "Reason", func(s string) string { return words.Suggestion(mend.Suggestion{Why: mend.Reason(s), N: 3}) }, nil},
		{"graph", "Suspicion", func(s string) string { return words.Suspicion(graph.Suspicion(s)) }, nil},
		{"decide", "Why", func(s string) string { return words.Aside(decide.Why(s)) }, nil},
		{"mend", "Code", func(s string) string {
			return words.Evidence(mend.Evidence{Code: mend.Code(s), Text: "x", N: 3, Of: 4, Have: &facts.Facts{}, Want: &facts.Facts{}})
		}, map[string]bool{"damaged": true}},
		{"graph", "State", func(s string) string { return words.State(graph.State(s)) }, nil},
		{"graph", "Why", func(s string) string { return words.Why(graph.Why(s), "part") }, nil},
		{"facts", "Kind", func(s string) string { return words.Kind(facts.Kind(s)) }, map[string]bool{"video": true, "sequence": true, "geometry": true, "part": true, "material": true, "drawing": true, "document": true, "data": true, "other": true}},
		{"export", "Form", func(s string) string { return words.Form(export.Form(s)) }, nil},
		{"export", "Code", func(s string) string { return words.Loss(export.Loss{Code: export.Code(s), Count: 2}) }, nil},
		{"sift", "Given", func(s string) string { return words.GivesUp(sift.GivenUp{What: sift.Given(s)}) }, nil},
		{"sift", "Along", func(s string) string { return words.Along(sift.Along(s)) }, map[string]bool{"adopted": true}},
		{"problem", "Kind", func(s string) string {
			return words.OfProblem(problem.Problem{Kind: problem.Kind(s), Args: []string{s + " a", s + " b", s + " c"}}).Message
		}, nil},
		{"recipe", "Trouble", func(s string) string {
			return words.RecipeError("r.yaml", &recipe.Error{Line: 1, Key: "k", Word: "w", Trouble: recipe.Trouble(s), Err: &stow.PatternError{Code: "empty"}})
		}, nil},
		{"problem", "Why", func(s string) string { return words.Error(problem.No(problem.Why(s), "x")) }, nil},
		{"stow", "PatternCode", func(s string) string { return words.BadPattern(&stow.PatternError{Code: stow.PatternCode(s)}) }, nil},
		{"sift", "Why", func(s string) string { return words.Stays(sift.Why(s)) }, nil},
		{"stow", "Absence", func(s string) string { return words.Absence(stow.Absence(s), "part") }, map[string]bool{"missing": true}},
		{"stow", "Renaming", func(s string) string { return words.Renaming(stow.Renaming(s)) }, nil},
		{"origin", "WarningCode", func(s string) string {
			return words.Warning(origin.Warning{Code: origin.WarningCode(s), Paths: []string{"/a"}, Files: 5, Folders: 4})
		}, nil},
		{"bag", "FaultCode", func(s string) string {
			return words.Fault(bag.Fault{Code: bag.FaultCode(s), Member: "data/a", Danger: bag.IsLink, Err: errTest})
		}, nil},
		{"seal", "RefusalCode", func(s string) string {
			return words.Refusal(&seal.Refusal{Code: seal.RefusalCode(s), Detail: "x", Err: errTest})
		}, nil},
	} {
		said := map[string]string{}
		for _, code := range constants(t, c.pkg, c.typ) {
			if code == "" {
				continue // nothing to say
			}
			text := c.say(code)
			switch {
			case text == "":
				t.Errorf("%s.%s %q has no words", c.pkg, c.typ, code)
			case text == code && !c.plain[code]:
				t.Errorf("%s.%s %q is said as its code", c.pkg, c.typ, code)
			case said[text] != "" && c.pkg != "bag":
				t.Errorf("%s.%s %q and %q are said alike: %s", c.pkg, c.typ, code, said[text], text)
			}
			said[text] = code
		}
	}
}

type testError struct{}

func (testError) Error() string { return "the reason" }

var errTest = testError{}

func TestCounts(t *testing.T) {
	for want, got := range map[string]string{
		"1 file": phrase.Plural(1, "file"), "0 files": phrase.Plural(0, "file"), "2 entries": phrase.Plural(2, "entry"), "3 geometry": words.Kinds(3, facts.Geometry), "2 pictures": words.Kinds(2, facts.Image), "1 sound": words.Kinds(1, facts.Audio),
	} {
		if got != want {
			t.Errorf("%q, wanted %q", got, want)
		}
	}
	// Decimal units, as carriers and drive makers count (IEC 80000-13 keeps the
	// binary ones apart by name).
	for n, want := range map[int64]string{0: "0 bytes", 1: "1 byte", 999: "999 bytes", 1000: "1.0 kB", 4_700_000_000: "4.7 GB", 123_456_789: "123.5 MB"} {
		if got := phrase.Size(n); got != want {
			t.Errorf("%d is %q, wanted %q", n, got, want)
		}
	}
}

// TestProblem: what stands in an argument is never taken for a place, and every argument
// is told.
func TestProblem(t *testing.T) {
	for _, k := range constants(t, "problem", "Kind") {
		p := problem.Problem{Kind: problem.Kind(k), Document: "/{0}.sfz", Args: []string{"{1}a", "{0}b", "{doc}c"}}
		got := words.OfProblem(p)
		if strings.Contains(got.Message, "{1}b") || strings.Contains(got.Message, "/{1}a.sfz") || got.Code == "" || got.Document != p.Document {
			t.Errorf("%+v", got)
		}
	}
	got := words.OfProblem(problem.Problem{Kind: problem.SourceTooLarge, Args: []string{"gull", "12", "10"}})
	if want := "contains the source gull of 12 bytes; sources of more than 10 bytes must be kept outside the package"; got.Message != want || got.Code != "too-large" {
		t.Errorf("%+v", got)
	}
}
