package store

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
)

// RecipeFile is a recipe of the data folder: its text as it stands, which may be edited
// there with any program.
type RecipeFile struct {
	Name string // without its extension
	Text string
}

func (s *Store) recipesDir() string { return filepath.Join(s.dir, "recipes") }

// RecipeFiles lists the recipes of the data folder by name.
func (s *Store) RecipeFiles() ([]RecipeFile, error) {
	files, err := texts(s.recipesDir())
	if err != nil {
		return nil, err
	}
	list := make([]RecipeFile, len(files))
	for i, f := range files {
		list[i] = RecipeFile{f.name, f.text}
	}
	return list, nil
}

// SetRecipe keeps a recipe under a name; one of that name takes its place.
func (s *Store) SetRecipe(name, text string) error {
	if !rulesName.MatchString(name) {
		return ErrRulesName
	}
	if err := os.MkdirAll(s.recipesDir(), 0o755); err != nil {
		return err
	}
	return replaceFile(filepath.Join(s.recipesDir(), name+rulesExt), text)
}

// DropRecipe takes a recipe away.
func (s *Store) DropRecipe(name string) error {
	if !rulesName.MatchString(name) {
		return ErrNotFound
	}
	err := os.Remove(filepath.Join(s.recipesDir(), name+rulesExt))
	if errors.Is(err, fs.ErrNotExist) {
		return ErrNotFound
	}
	return err
}
