// Package carriertest holds what carries a crate to the same behaviour, whatever
// it is: what was put in comes out, in its order, and nothing else.
package carriertest

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/carrier"
)

// Files are put into a carrier.
var Files = []struct {
	Name string
	Data []byte
	Kind facts.Kind
	Mode os.FileMode
}{
	{"bagit.txt", []byte("BagIt-Version: 1.0\n"), facts.Other, 0},
	{"data/a.wav", bytes.Repeat([]byte("RIFF"), 5000), facts.Audio, 0o640},
	{"data/deep/er/Ünïcode näme.txt", []byte("text"), facts.Document, 0o644},
	{"data/run me", []byte("#!/bin/sh\n"), facts.Other, 0o755},
	{"data/empty", nil, facts.Other, 0o444},
	{"data/" + long, []byte("a long name"), facts.Data, 0},
}

// long is longer than the 100 bytes of an old tar header.
var long = string(bytes.Repeat([]byte("long name "), 19)) + ".dat"

// Make writes Files into a carrier of a kind and returns its path.
func Make(t testing.TB, k carrier.Kind) string {
	t.Helper()
	dir := t.TempDir()
	var w carrier.Writer
	out := filepath.Join(dir, "crate."+string(k))
	if k == carrier.Folder {
		out = filepath.Join(dir, "crate")
		if err := os.Mkdir(out, 0o755); err != nil {
			t.Fatal(err)
		}
		w = carrier.NewFolder(out)
	} else {
		f, err := os.Create(out)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		if w, err = carrier.NewArchive(k, f, "crate", time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)); err != nil {
			t.Fatal(err)
		}
	}
	for _, f := range Files {
		err := w.Add(carrier.File{Name: f.Name, Size: int64(len(f.Data)), Kind: f.Kind, Mode: f.Mode}, func(w io.Writer) error {
			_, err := w.Write(f.Data)
			return err
		})
		if err != nil {
			t.Fatalf("%s: %v", f.Name, err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out
}

// Check reads a carrier that holds Files.
func Check(t testing.TB, p string, k carrier.Kind) {
	t.Helper()
	base := ""
	if k != carrier.Folder {
		base = "crate/"
	}
	got := map[string]string{}
	err := carrier.Read(context.Background(), p, func(m carrier.Member, r io.Reader) error {
		if m.Dir {
			return nil
		}
		if m.Odd != carrier.Plain || r == nil {
			return fmt.Errorf("%s is %q", m.Name, m.Odd)
		}
		b, err := io.ReadAll(r)
		if err == nil && int64(len(b)) != m.Size {
			err = fmt.Errorf("%s holds %d bytes and says %d", m.Name, len(b), m.Size)
		}
		got[m.Name] = fmt.Sprintf("%o ", m.Mode.Perm()) + string(b)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range Files {
		mode := f.Mode
		if mode == 0 {
			mode = 0o644
		}
		if want := fmt.Sprintf("%o ", mode) + string(f.Data); got[base+f.Name] != want {
			t.Errorf("%s: %.60q, wanted %.60q", f.Name, got[base+f.Name], want)
		}
	}
	if len(got) != len(Files) {
		t.Errorf("it holds %d files", len(got))
	}
}
