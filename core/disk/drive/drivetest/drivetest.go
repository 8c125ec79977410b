// Package drivetest holds every drive.Reach to the same behaviour.
package drivetest

import (
	"errors"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"testing"

	"boundcrate/core/disk/drive"
)

// Files is the tree a reach must show below its folder.
var Files = map[string]string{"a.txt": "first", "sub/b.txt": "second", "sub/deep/c.txt": ""}

// Run asks a reach of a folder that holds Files everything.
func Run(t *testing.T, r drive.Reach, dir string) {
	t.Helper()
	for name, text := range Files {
		p := filepath.Join(dir, name)
		info, err := r.Stat(p)
		if err != nil || !info.Mode.IsRegular() || info.Size != int64(len(text)) || info.Real == "" {
			t.Errorf("%s: %+v %v", name, info, err)
		}
		if l, err := r.Lstat(p); err != nil || l.Size != info.Size || l.Real != "" {
			t.Errorf("%s by itself: %+v %v", name, l, err)
		}
		f, err := r.Open(p)
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(f)
		if err != nil || string(b) != text {
			t.Errorf("%s holds %q (%v)", name, b, err)
		}
		if len(text) > 2 {
			part := make([]byte, 2)
			if _, err := f.ReadAt(part, 1); err != nil || string(part) != text[1:3] {
				t.Errorf("%s from its second byte: %q %v", name, part, err)
			}
		}
		if err := f.Close(); err != nil {
			t.Error(err)
		}
	}
	list, err := r.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, e := range list {
		names = append(names, e.Name())
		if e.IsDir() != (e.Name() == "sub") {
			t.Errorf("%s is a folder: %v", e.Name(), e.IsDir())
		}
	}
	if !slices.Equal(names, []string{"a.txt", "sub"}) {
		t.Errorf("the folder lists %q", names)
	}
	for _, missing := range []string{"none", "sub/none", "none/none"} {
		p := filepath.Join(dir, missing)
		if _, err := r.Stat(p); !errors.Is(err, fs.ErrNotExist) {
			t.Errorf("%s: %v", missing, err)
		}
		if _, err := r.Open(p); !errors.Is(err, fs.ErrNotExist) {
			t.Errorf("%s opened: %v", missing, err)
		}
	}
	if f, err := r.Open(filepath.Join(dir, "sub")); err == nil {
		f.Close()
		t.Error("a folder was opened as a file")
	}
}
