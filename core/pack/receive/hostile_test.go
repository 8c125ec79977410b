package receive_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/receive"
	"boundcrate/core/text/format/all"
)

// shape is one archive: members in their order, names as they stand in it.
type shape []member

const declared = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"

// good is a bag below c with one sound, and what is put before and after it.
func good(before []member, after ...member) shape {
	manifest := fmt.Sprintf("%x  data/a.wav\n", sha256.Sum256([]byte("sound")))
	s := append(shape{}, before...)
	s = append(s, member{"c/bagit.txt", declared, tar.TypeReg}, member{"c/manifest-sha256.txt", manifest, tar.TypeReg}, member{"c/data/a.wav", "sound", tar.TypeReg})
	return append(s, after...)
}

// based is a whole bag below another base folder.
func based(base string) shape {
	var s shape
	for _, m := range good(nil) {
		s = append(s, member{base + strings.TrimPrefix(m.name, "c"), m.text, m.kind})
	}
	return s
}

func (s shape) tar(t *testing.T) string {
	t.Helper()
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, m := range s {
		h := &tar.Header{Name: m.name, Mode: 0o644, Typeflag: m.kind, Format: tar.FormatPAX}
		if m.kind == tar.TypeReg {
			h.Size = int64(len(m.text))
		} else {
			h.Linkname = m.text
		}
		if err := w.WriteHeader(h); err != nil {
			t.Skip(err) // a name that no tar holds
		}
		if m.kind == tar.TypeReg {
			fmt.Fprint(w, m.text)
		}
	}
	w.Close()
	return b.String()
}

func (s shape) zip(t *testing.T) string {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, m := range s {
		h := &zip.FileHeader{Name: m.name}
		switch m.kind {
		case tar.TypeSymlink, tar.TypeLink:
			h.SetMode(fs.ModeSymlink | 0o777)
		case tar.TypeFifo, tar.TypeChar:
			h.SetMode(fs.ModeNamedPipe | 0o644)
		}
		f, err := w.CreateHeader(h)
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprint(f, m.text)
	}
	w.Close()
	return b.String()
}

// TestHostile: about sixty archives that are no honest crate. Of none of them
// anything is unpacked, and nothing is written anywhere.
func TestHostile(t *testing.T) {
	shapes := map[string]shape{}
	for _, name := range []string{
		"../evil", "../../evil", "/evil", "c/../evil", "c/../../evil", "c/data/../../evil", `..\evil`, `c\..\..\evil`, `C:\evil`, "C:/evil", `\\host\share\evil`,
		"c/data/\x01evil", "c/data/evil\n", "c/data/..", "c/..", "evil", "autorun.sh", "d/evil", "c.txt", "data/evil", "c/data/not listed", "c/stray", "c/data/deep/stray",
		"c/.hidden", "c/data/a.WAV", "c/data/A.wav", "c/Data/a.wav", "C/data/a.wav", "c/data/a.wav/x", "c/bagit.txt/x",
		"c/tagmanifest-sha256.txt", "c/data/a.wav ", "c/data/a.wav.",
	} {
		shapes["member "+name] = good(nil, member{name, "x", tar.TypeReg})
	}
	for _, base := range []string{".git", "-rf", ".", "..", ".ssh", "", "c\\d", "a\x01b", "--help"} {
		shapes["base "+base] = based(base)
	}
	for kind, flag := range map[string]byte{"symlink": tar.TypeSymlink, "hard link": tar.TypeLink, "pipe": tar.TypeFifo, "device": tar.TypeChar} {
		shapes[kind] = good(nil, member{"c/data/link", "/etc/passwd", flag})
		shapes[kind+" before"] = good([]member{{"c/data", "/tmp", flag}})
		shapes[kind+" for a file"] = good([]member{{"c/data/a.wav", "../../../evil", flag}})
	}
	shapes["two bags"] = append(good(nil), based("d")...)
	shapes["two bags, the damaged first"] = append(shape{{"d/bagit.txt", declared, tar.TypeReg}}, good(nil)...)
	shapes["a bag at the top and below"] = append(shape{{"bagit.txt", declared, tar.TypeReg}, {"manifest-sha256.txt", "", tar.TypeReg}}, good(nil)...)
	shapes["a member twice"] = good(nil, member{"c/data/a.wav", "other", tar.TypeReg})
	shapes["a member twice, alike"] = good(nil, member{"c/data/a.wav", "sound", tar.TypeReg})
	shapes["a manifest twice"] = good(nil, member{"c/manifest-sha256.txt", "", tar.TypeReg})
	shapes["two forms of one letter"] = good([]member{{"c/data/\u00e9.wav", "x", tar.TypeReg}}, member{"c/data/e\u0301.wav", "y", tar.TypeReg})
	shapes["other bytes"] = append(good(nil)[:2], member{"c/data/a.wav", "SOUND", tar.TypeReg})
	shapes["nothing of what is listed"] = good(nil)[:2]
	shapes["no manifest"] = append(good(nil)[:1], good(nil)[2])
	shapes["a manifest of another's files"] = good(nil, member{"c/manifest-md5.txt", "00  ../../etc/passwd\n", tar.TypeReg})
	shapes["an unknown digest"] = good(nil, member{"c/manifest-crc9.txt", "00  data/a.wav\n", tar.TypeReg})
	shapes["another version"] = append(shape{{"c/bagit.txt", "hello", tar.TypeReg}}, good(nil)[1:]...)
	for what, s := range shapes {
		for form, pack := range map[string]func(*testing.T) string{"tar": s.tar, "zip": s.zip} {
			t.Run(what+" "+form, func(t *testing.T) {
				dir := t.TempDir()
				crate := coretest.Write(t, filepath.Join(dir, "crate."+form), pack(t))
				into := filepath.Join(dir, "deep", "in")
				rep, err := receive.Run(context.Background(), receive.Options{Crate: crate, Into: into, Formats: all.Formats()})
				if err == nil && (rep.Into != "" || rep.Harm() == 0) {
					t.Errorf("received: %+v", rep)
				}
				_ = filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
					if err == nil && !e.IsDir() && p != crate {
						t.Errorf("%s was written", p)
					}
					return nil
				})
			})
		}
	}
	if n := 2 * len(shapes); n < 60 {
		t.Errorf("only %d archives", n)
	}
	for _, p := range []string{"/evil", "/tmp/evil", "/tmp/a.wav"} {
		if _, err := os.Lstat(p); err == nil {
			t.Errorf("%s was written", p)
		}
	}
}

// TestSwept: what a crash left of an unpacking is taken away by the next, and
// what another process unpacks at this moment is not.
func TestSwept(t *testing.T) {
	into := t.TempDir()
	crate := coretest.Write(t, filepath.Join(t.TempDir(), "crate.tar"), good(nil).tar(t))
	coretest.Write(t, filepath.Join(into, ".c.partial/data/half.wav"), "ha")
	rep, err := receive.Run(context.Background(), receive.Options{Crate: crate, Into: into, Formats: all.Formats()})
	if err != nil || rep.Into != filepath.Join(into, "c") {
		t.Fatalf("%+v %v", rep, err)
	}
	if entries, _ := os.ReadDir(into); len(entries) != 1 {
		t.Errorf("left behind: %v", entries)
	}
	if _, err := os.Stat(filepath.Join(rep.Into, "data/half.wav")); err == nil {
		t.Error("what a crash left was delivered")
	}
}
