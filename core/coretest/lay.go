// Package coretest holds what tests of several packages of the core share.
package coretest

import (
	"os"
	"path/filepath"
	"testing"
)

// Write writes a file and the folders it lies in, and returns its path.
func Write(t testing.TB, p, text string) string {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(p, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return p
}

// Lay writes files below a new folder and returns it.
func Lay(t testing.TB, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		Write(t, filepath.Join(dir, name), text)
	}
	return dir
}
