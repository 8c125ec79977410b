package store_test

import (
	"errors"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/store"
)

// TestDamaged: noise, a database cut short, flipped pages and tables that are
// gone: each is told, nothing of it is lost, and a new one begins beside it.
func TestDamaged(t *testing.T) {
	noise := make([]byte, 40_000)
	for i := range noise {
		noise[i] = byte(rand.Uint32())
	}
	for what, harm := range map[string]func(b []byte) []byte{
		"noise": func([]byte) []byte { return noise },
		"cut":   func(b []byte) []byte { return b[:len(b)/2] },
		"head":  func(b []byte) []byte { return append([]byte("not a database at all"), b[21:]...) },
		"flipped pages": func(b []byte) []byte {
			for i := 4096; i < len(b); i += 7 {
				b[i] ^= 0xFF
			}
			return b
		},
	} {
		dir := filepath.Join(t.TempDir(), "data")
		path := filled(t, dir)
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		hurt := harm(b)
		if err := os.WriteFile(path, hurt, 0o600); err != nil {
			t.Fatal(err)
		}
		s, err := store.Open(dir)
		if err == nil {
			err = s.Check()
			s.Close()
		}
		var damaged *store.DamagedError
		if !errors.As(err, &damaged) {
			t.Errorf("%s: %v", what, err)
			continue
		}
		s, kept, err := store.Anew(dir, time.Now())
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		if err := s.Check(); err != nil {
			t.Errorf("%s: the new one: %v", what, err)
		}
		s.Close()
		if old, err := os.ReadFile(kept); err != nil || len(old) != len(hurt) {
			t.Errorf("%s: the old one is not kept: %d bytes of %d, %v", what, len(old), len(hurt), err)
		}
	}
	dir := filepath.Join(t.TempDir(), "data")
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := store.Exec(s, "DROP TABLE decisions"); err != nil {
		t.Fatal(err)
	}
	s.Close()
	var damaged *store.DamagedError
	if _, err := store.Open(dir); !errors.As(err, &damaged) {
		t.Errorf("a table is gone: %v", err)
	}
}

// filled makes a database with something in it and returns where it is.
func filled(t *testing.T, dir string) string {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 200 {
		if _, err := s.AddProject("film", []string{filepath.Join("/bench", string(rune('a'+i%26)), "cut.otio")}, "/bench", time.Now()); err != nil && i < 26 {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	return filepath.Join(dir, "boundcrate.db")
}
