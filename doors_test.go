package boundcrate_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
)

// What a reader has to hold in the head at once.
const (
	maxNames = 40  // exported names of a package
	maxLines = 80  // lines of a function
	longest  = 500 // lines of a file
)

// TestSmallDoors: no package shows more than a reader can hold, no function and
// no file is longer than a screen or two. The members of an enumeration are one
// name with their type: whoever knows the type has them listed there.
func TestSmallDoors(t *testing.T) {
	doors := map[string]map[string]bool{}
	err := filepath.WalkDir(".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			if err == nil {
				err = fs.SkipDir
			}
			return err
		}
		if d.IsDir() || !strings.HasSuffix(p, ".go") {
			return nil
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, p, nil, 0)
		if err != nil {
			return err
		}
		if n := set.File(f.Pos()).LineCount(); n > longest {
			t.Errorf("%s has %d lines", p, n)
		}
		pkg := filepath.ToSlash(filepath.Dir(p))
		if doors[pkg] == nil {
			doors[pkg] = map[string]bool{}
		}
		if strings.HasSuffix(p, "_test.go") { // a table of cases is read from top to bottom, however long
			return nil
		}
		for _, decl := range f.Decls {
			if fn, ok := decl.(*ast.FuncDecl); ok {
				if n := set.Position(fn.End()).Line - set.Position(fn.Pos()).Line + 1; n > maxLines {
					t.Errorf("%s: %s has %d lines", p, fn.Name.Name, n)
				}
			}
			for _, name := range shown(decl) {
				doors[pkg][name] = true
			}
		}
		return nil
	})
	if err != nil || len(doors) < 50 {
		t.Fatal(len(doors), err)
	}
	for pkg, names := range doors {
		if len(names) > maxNames {
			t.Errorf("%s shows %d names", pkg, len(names))
		}
	}
}

// shown are the exported names of a declaration; a constant that has a type of
// the package's own is a member of that type.
func shown(decl ast.Decl) (names []string) {
	add := func(n *ast.Ident) {
		if n.IsExported() {
			names = append(names, n.Name)
		}
	}
	switch d := decl.(type) {
	case *ast.FuncDecl:
		if d.Recv == nil {
			add(d.Name)
		}
	case *ast.GenDecl:
		member := false // of an enumeration: the type is said once and goes on with iota
		for _, s := range d.Specs {
			switch s := s.(type) {
			case *ast.TypeSpec:
				add(s.Name)
			case *ast.ValueSpec:
				if s.Type != nil || len(s.Values) > 0 {
					of, own := s.Type.(*ast.Ident)
					member = d.Tok == token.CONST && own && of.IsExported()
				}
				if !member {
					for _, n := range s.Names {
						add(n)
					}
				}
			}
		}
	}
	return names
}
