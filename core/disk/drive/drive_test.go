package drive_test

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
)

func link(t *testing.T, target, p string) {
	t.Helper()
	if err := os.Symlink(target, p); err != nil {
		t.Fatal(err)
	}
}

// TestSet: only the drives are reached, by whatever way a path or a link tries
// to lead out; a link from one drive to another is followed.
func TestSet(t *testing.T) {
	dir := t.TempDir()
	bench, quay := filepath.Join(dir, "bench"), filepath.Join(dir, "quay")
	coretest.Write(t, bench+"/film/a.wav", "here")
	coretest.Write(t, quay+"/lib/b.wav", "there")
	secret := coretest.Write(t, dir+"/secret.txt", "secret")
	link(t, secret, bench+"/out.txt")
	link(t, "../secret.txt", bench+"/rel.txt")
	link(t, dir, bench+"/up")
	link(t, quay+"/lib/b.wav", bench+"/across.wav")
	link(t, "loop", bench+"/loop")
	if err := coretest.Fifo(bench + "/pipe"); err != nil {
		t.Fatal(err)
	}
	s := drive.Set{Drives: []drive.Drive{{ID: "1", Name: "Bench", Dir: bench}, {ID: "2", Name: "Quay", Dir: quay}, {ID: "3", Name: "Gone", Dir: dir + "/gone"}}}
	for p, want := range map[string]string{bench + "/film/a.wav": "here", bench + "/across.wav": "there", bench + "/film/../film/a.wav": "here"} {
		f, err := s.Open(p)
		if err != nil {
			t.Errorf("%s: %v", p, err)
			continue
		}
		b, _ := io.ReadAll(f)
		f.Close()
		if info, err := s.Stat(p); string(b) != want || err != nil || info.Size != int64(len(want)) {
			t.Errorf("%s: %q %+v %v", p, b, info, err)
		}
	}
	for p, reason := range map[string]error{
		secret: drive.ErrOutside, bench + "/../secret.txt": drive.ErrOutside, bench + "/out.txt": drive.ErrOutside, bench + "/up/secret.txt": drive.ErrOutside,
		bench + "/none.wav": fs.ErrNotExist, dir + "/gone/x": drive.ErrUnplugged, "/": drive.ErrOutside,
	} {
		if _, err := s.Open(p); !errors.Is(err, reason) {
			t.Errorf("open %s: %v, wanted %v", p, err, reason)
		}
		if _, err := s.Stat(p); !errors.Is(err, reason) {
			t.Errorf("stat %s: %v, wanted %v", p, err, reason)
		}
	}
	for _, p := range []string{bench + "/rel.txt", bench + "/loop", bench + "/pipe"} {
		if f, err := s.Open(p); err == nil {
			f.Close()
			t.Errorf("%s was opened", p)
		}
	}
	var pe *fs.PathError
	if _, err := s.Open(bench + "/film/none.wav"); !errors.As(err, &pe) || pe.Path != bench+"/film/none.wav" {
		t.Errorf("the error does not name the whole path: %v", err)
	}
	if _, err := s.ReadDir(dir); !errors.Is(err, drive.ErrOutside) {
		t.Error("the folder above the drives was listed", err)
	}
	var met []string
	_, err := drive.Files(context.Background(), s, bench, func(p string, _ drive.Entry) error {
		met = append(met, strings.TrimPrefix(p, bench+"/"))
		return nil
	})
	if err != nil || strings.Join(met, " ") != "film/a.wav" {
		t.Errorf("walked %v %v", met, err)
	}
	if got := drive.Label(s.Drives, quay+"/lib/b.wav"); got != "Quay/lib/b.wav" {
		t.Error(got)
	}
}

// TestConfined: a proof reaches the crate and nothing beside it.
func TestConfined(t *testing.T) {
	dir := t.TempDir()
	coretest.Write(t, dir+"/crate/data/a.wav", "a")
	coretest.Write(t, dir+"/beside.wav", "b")
	link(t, "../../beside.wav", dir+"/crate/data/trick.wav")
	c := drive.Confined{Dir: dir + "/crate"}
	if _, err := c.Stat(dir + "/crate/data/a.wav"); err != nil {
		t.Error(err)
	}
	for _, p := range []string{dir + "/beside.wav", dir + "/crate/data/trick.wav", dir + "/crate/../beside.wav"} {
		if f, err := c.Open(p); err == nil {
			f.Close()
			t.Errorf("%s was reached", p)
		}
	}
}
