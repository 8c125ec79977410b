package receive_test

import (
	"archive/tar"
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/receive"
	"boundcrate/core/text/format/all"
)

// member is one entry of a tar made by hand.
type member struct {
	name, text string
	kind       byte
}

// pack makes a bag below a base folder, its manifest true of the payload.
func pack(t *testing.T, base string, members ...member) string {
	t.Helper()
	manifest := ""
	for _, m := range members {
		if m.kind == tar.TypeReg && strings.HasPrefix(m.name, "data/") {
			manifest += fmt.Sprintf("%x  %s\n", sha256.Sum256([]byte(m.text)), m.name)
		}
	}
	all := append([]member{{"bagit.txt", "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n", tar.TypeReg}, {"manifest-sha256.txt", manifest, tar.TypeReg}}, members...)
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, m := range all {
		h := &tar.Header{Name: base + "/" + m.name, Mode: 0o755, Typeflag: m.kind}
		if m.kind == tar.TypeReg {
			h.Size = int64(len(m.text))
		} else {
			h.Linkname = m.text
		}
		if strings.HasPrefix(m.name, "../") || strings.HasPrefix(m.name, "/") {
			h.Name = m.name
		}
		if err := w.WriteHeader(h); err != nil {
			t.Fatal(err)
		}
		if m.kind == tar.TypeReg {
			if _, err := w.Write([]byte(m.text)); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return coretest.Write(t, filepath.Join(t.TempDir(), "crate.tar"), b.String())
}

// TestUnpack: a whole crate is unpacked byte for byte into a folder of its name;
// what it brings is not executable outside its payload's own files.
func TestUnpack(t *testing.T) {
	into := t.TempDir()
	crate := pack(t, "job", member{"data/a.wav", "sound", tar.TypeReg}, member{"data/deep/er/Ünïcode.txt", "text", tar.TypeReg})
	rep, err := receive.Run(context.Background(), receive.Options{Crate: crate, Into: into, Formats: all.Formats()})
	if err != nil || rep.Into != filepath.Join(into, "job") || rep.Harm() != 0 {
		t.Fatalf("%+v %v", rep, err)
	}
	for f, want := range map[string]string{"data/a.wav": "sound", "data/deep/er/Ünïcode.txt": "text"} {
		if b, err := os.ReadFile(filepath.Join(into, "job", f)); err != nil || string(b) != want {
			t.Errorf("%s: %q %v", f, b, err)
		}
	}
	// It is not unpacked over another, and nothing of the attempt stays.
	var there *receive.Error
	if _, err := receive.Run(context.Background(), receive.Options{Crate: crate, Into: into, Formats: all.Formats()}); !errors.As(err, &there) || there.Step != receive.There {
		t.Error(err)
	}
	if entries, _ := os.ReadDir(into); len(entries) != 1 {
		t.Errorf("%v", entries)
	}
}

// TestDanger: what would lead out of the folder, or is no plain file, is told
// and nothing at all is unpacked.
func TestDanger(t *testing.T) {
	for what, m := range map[string]member{
		"up": {"../../evil.txt", "x", tar.TypeReg}, "absolute": {"/tmp/evil.txt", "x", tar.TypeReg}, "link": {"data/link", "/etc/passwd", tar.TypeSymlink},
		"hard link": {"data/hard", "../../x", tar.TypeLink}, "device": {"data/dev", "", tar.TypeFifo}, "stray": {"data/not listed", "", tar.TypeReg},
	} {
		into := t.TempDir()
		crate := pack(t, "job", member{"data/a.wav", "sound", tar.TypeReg}, m)
		if what == "stray" {
			crate = pack(t, "job", member{"data/a.wav", "sound", tar.TypeReg}, member{"manifest-md5.txt", "00  data/a.wav\n", tar.TypeReg})
		}
		rep, err := receive.Run(context.Background(), receive.Options{Crate: crate, Into: into, Formats: all.Formats()})
		if err == nil && (rep.Harm() == 0 || rep.Into != "") {
			t.Errorf("%s: %+v", what, rep)
		}
		if entries, _ := os.ReadDir(into); len(entries) != 0 {
			t.Errorf("%s: something was unpacked: %v", what, entries)
		}
	}
	if _, err := os.Stat("/tmp/evil.txt"); err == nil {
		t.Fatal("a file was written outside")
	}
}

// TestStopped: a stop leaves nothing behind.
func TestStopped(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	stop()
	into := t.TempDir()
	if _, err := receive.Run(ctx, receive.Options{Crate: pack(t, "job", member{"data/a", "a", tar.TypeReg}), Into: into, Formats: all.Formats()}); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
	if entries, _ := os.ReadDir(into); len(entries) != 0 {
		t.Errorf("%v", entries)
	}
}
