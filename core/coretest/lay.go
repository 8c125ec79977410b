// Package coretest holds what tests of several packages of the core share.
package coretest

import (
	"crypto/sha256"
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

// Sums are the digests of all files below a folder, by path.
func Sums(t testing.TB, dir string) map[string][32]byte {
	t.Helper()
	sums := map[string][32]byte{}
	err := filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		sums[p] = sha256.Sum256(b)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return sums
}
