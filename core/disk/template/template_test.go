package template_test

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/disk/template"
)

// The template that ships makes its folders and its read-me, once; what is there is
// never changed.
func TestShipped(t *testing.T) {
	tm, err := template.Parse(template.Shipped())
	if err != nil || len(tm.Folders) == 0 {
		t.Fatal(tm, err)
	}
	at := filepath.Join(t.TempDir(), "Tide Clock")
	if err := tm.Make(at); err != nil {
		t.Fatal(err)
	}
	for _, f := range tm.Folders {
		if fi, err := os.Stat(filepath.Join(at, f)); err != nil || !fi.IsDir() {
			t.Error(f, err)
		}
	}
	if b, err := os.ReadFile(filepath.Join(at, "READ ME.txt")); err != nil || !strings.HasPrefix(string(b), "Tide Clock\n") {
		t.Errorf("%q %v", b, err)
	}
	if err := tm.Make(at); !errors.Is(err, fs.ErrExist) {
		t.Error("a folder that is there was made anew", err)
	}
}

// What leaves the project, or is not known, is refused by its line, and what was
// begun goes again.
func TestMistakes(t *testing.T) {
	for text, line := range map[string]int{
		"title: x\nfolders:\n  - a\n  - ../b\n": 4, "folders: [/etc]\n": 1, "folders:\n  - .\n": 2, "folders: a\n": 1, "title: x\nfolder: [a]\n": 2, "- a\n": 1, "": 1, "folders: ['a\\b']\n": 1,
	} {
		var m *template.MistakeError
		if _, err := template.Parse([]byte(text)); !errors.As(err, &m) || m.Line != line {
			t.Errorf("%q: %v", text, err)
		}
	}
	dir := t.TempDir()
	tm := template.Template{Folders: []string{"a/b", "a/" + strings.Repeat("x", 300)}}
	if err := tm.Make(filepath.Join(dir, "p")); err == nil {
		t.Error("a name of 300 bytes was made")
	}
	if es, _ := os.ReadDir(dir); len(es) > 0 {
		t.Error("something of it stays", es)
	}
}
