// Package template makes the folders of a new project from a small YAML file.
package template

import (
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/disk/fileset"
)

// Template is the folders of a new project, and what its read-me says.
type Template struct {
	Title   string
	Folders []string // relative, slashes between
	Readme  string   // {name} is the project's name; "" makes none
}

//go:embed film.yaml
var shipped []byte

// Shipped is the one that ships, as YAML with remarks.
func Shipped() []byte { return shipped }

// MistakeError is what a template cannot say, by its line, 1-based.
type MistakeError struct {
	Line int
	Word string
	Err  error
}

func (e *MistakeError) Error() string { return fmt.Sprintf("line %d: %q: %v", e.Line, e.Word, e.Err) }

func (e *MistakeError) Unwrap() error { return e.Err }

var (
	errKey    = errors.New("title, folders and readme are what a template tells")
	errFolder = errors.New("a folder's name is relative, and stays in the project")
)

// Parse reads a template; keys it does not know are refused by their line.
func Parse(b []byte) (t Template, err error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(b, &doc); err != nil {
		return t, &MistakeError{Err: err}
	}
	if len(doc.Content) == 0 || doc.Content[0].Kind != yaml.MappingNode {
		return t, &MistakeError{1, "", errKey}
	}
	for top, i := doc.Content[0], 0; i+1 < len(top.Content); i += 2 {
		key, value := top.Content[i], top.Content[i+1]
		switch {
		case key.Value == "title" && value.Kind == yaml.ScalarNode:
			t.Title = value.Value
		case key.Value == "readme" && value.Kind == yaml.ScalarNode:
			t.Readme = value.Value
		case key.Value == "folders" && value.Kind == yaml.SequenceNode:
			for _, n := range value.Content {
				if n.Kind != yaml.ScalarNode || !filepath.IsLocal(filepath.FromSlash(n.Value)) || strings.Contains(n.Value, `\`) || filepath.Clean(n.Value) == "." {
					return t, &MistakeError{n.Line, n.Value, errFolder}
				}
				t.Folders = append(t.Folders, n.Value)
			}
		default:
			return t, &MistakeError{key.Line, key.Value, errKey}
		}
	}
	return t, nil
}

// Make makes a project's folder, at a path that nothing has, with all of a
// template. Where anything fails, what was made is taken away again.
func (t Template) Make(at string) (err error) {
	var made []string
	defer func() {
		if err != nil {
			for _, p := range slices.Backward(made) {
				os.Remove(p)
			}
		}
	}()
	if err := os.Mkdir(at, 0o755); err != nil {
		return err
	}
	made = append(made, at)
	for _, f := range t.Folders {
		dirs, err := fileset.MakeDirs(filepath.Join(at, filepath.FromSlash(f)))
		if made = append(made, dirs...); err != nil {
			return err
		}
	}
	if t.Readme != "" {
		p := filepath.Join(at, "READ ME.txt")
		made = append(made, p)
		text := strings.ReplaceAll(t.Readme, "{name}", filepath.Base(at))
		if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
			return err
		}
	}
	return fileset.SyncDir(at)
}
