package seal_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format/all"
)

// TestCheckFinds: every kind of harm to a crate is told.
func TestCheckFinds(t *testing.T) {
	dir, doc := small(t)
	for _, c := range []struct {
		name, code string
		harm       func(crate string) error
	}{
		{"a bit flipped", "damaged", func(c string) error { return os.WriteFile(c+"/data/audio/gull.wav", []byte("gulL"), 0o644) }},
		{"a file gone", "missing", func(c string) error { return os.Remove(c + "/data/audio/gull.wav") }},
		{"a file more", "extra", func(c string) error { return os.WriteFile(c+"/data/x", nil, 0o644) }},
		{"a tag file changed", "damaged", func(c string) error { return os.WriteFile(c+"/bag-info.txt", []byte("Payload-Oxum: 1.1\n"), 0o644) }},
		{"a link", "refused", func(c string) error { return os.Symlink("/etc/passwd", c+"/data/l") }},
		{"a manifest line that is none", "damaged", func(c string) error {
			return os.WriteFile(c+"/manifest-sha256.txt", []byte("what is this\n"), 0o644)
		}},
	} {
		out := filepath.Join(dir, "c", c.name)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		if err := c.harm(out); err != nil {
			t.Fatal(err)
		}
		rep := must[*seal.Report](t)(seal.Check(bg, out, all.Formats()))
		found := false
		for _, p := range words.SealProblems(rep) {
			found = found || p.Code == c.code
		}
		if !found {
			t.Errorf("%s: %+v", c.name, rep.Problems)
		}
		if got, err := receive.Run(bg, receive.Options{Crate: out, Into: dir + "/never", Formats: all.Formats()}); err != nil || got.Into != "" {
			t.Errorf("%s was unpacked: %+v %v", c.name, got, err)
		}
	}
	if _, err := os.Stat(dir + "/never"); !errors.Is(err, fs.ErrNotExist) {
		t.Error("a damaged crate left something behind")
	}
	for _, bad := range []string{dir, dir + "/nothing", doc} {
		if _, err := seal.Check(bg, bad, all.Formats()); err == nil {
			t.Errorf("%s passed as a crate", bad)
		}
	}
}

// TestWholeIsReceived: what the documents of a crate lack, or say wrongly of
// themselves, is told and keeps nobody from unpacking it: every byte is what was
// sealed. A mislabelled document lacks nothing.
func TestWholeIsReceived(t *testing.T) {
	list := func(encoding string) string {
		return `<?xml version="1.0" encoding="` + encoding + `"?><playlist xmlns="http://xspf.org/ns/0/"><trackList><track><location>a.wav</location></track></trackList></playlist>`
	}
	for name, c := range map[string]struct {
		nested   string
		complete bool
		code     string
	}{
		"damaged": {list("utf-8")[:100], false, "malformed"}, "mislabelled": {list("utf-16"), true, "encoding"}, "lacking": {strings.ReplaceAll(list("utf-8"), "a.wav", "b.wav"), false, "incomplete"}, "whole": {list("utf-8"), true, ""},
	} {
		dir := coretest.Lay(t, map[string]string{"p/list.m3u": "a.wav\nnested.xspf\n", "p/a.wav": "a", "p/nested.xspf": c.nested})
		for _, end := range []string{"", ".zip"} {
			out := filepath.Join(dir, "out", name+end)
			if rep := must[*seal.Report](t)(sealing(t, filepath.Join(dir, "p/list.m3u"), out, stow.Options{})); rep.Complete != c.complete {
				t.Errorf("%s: sealed as %+v", name, rep)
			}
			got := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: out, Into: filepath.Join(dir, "in"+end), Formats: all.Formats()}))
			if got.Into == "" || got.Complete != c.complete || got.Well() != (c.code == "") || got.Harm() != 0 || c.code != "" && !slices.ContainsFunc(words.SealProblems(&got.Report), func(p words.Problem) bool { return p.Code == c.code }) {
				t.Errorf("%s: received as %+v", name, got)
			}
		}
	}
}

// TestHostileArchives: members that would leave the folder are refused.
func TestHostileArchives(t *testing.T) {
	dir := t.TempDir()
	for i, names := range [][]string{{"../x"}, {"/abs"}, {"c/../../x"}, {"c/a", "c/a"}, {"c/A", "c/a"}, {"link"}, {`..\x`}} {
		var z bytes.Buffer
		w := zip.NewWriter(&z)
		var tb bytes.Buffer
		tw := tar.NewWriter(&tb)
		for _, n := range append([]string{"c/bagit.txt"}, names...) {
			h := &zip.FileHeader{Name: n}
			th := &tar.Header{Name: n, Size: 1, Mode: 0o644, Typeflag: tar.TypeReg}
			if n == "link" {
				h.SetMode(fs.ModeSymlink | 0o777)
				th.Typeflag, th.Linkname, th.Size = tar.TypeSymlink, "/etc/passwd", 0
			}
			f := must[io.Writer](t)(w.CreateHeader(h))
			fmt.Fprint(f, "x")
			if err := tw.WriteHeader(th); err != nil {
				t.Fatal(err)
			}
			if th.Size > 0 {
				fmt.Fprint(tw, "x")
			}
		}
		w.Close()
		tw.Close()
		for end, b := range map[string][]byte{".zip": z.Bytes(), ".tar": tb.Bytes()} {
			p := coretest.Write(t, filepath.Join(dir, fmt.Sprint(i)+end), string(b))
			rep := must[*receive.Report](t)(receive.Run(bg, receive.Options{Crate: p, Into: dir + "/in", Formats: all.Formats()}))
			refused := false
			for _, pr := range words.SealProblems(&rep.Report) {
				refused = refused || pr.Code == "refused"
			}
			if !refused || rep.Into != "" {
				t.Errorf("%v in %s: %+v", names, end, rep.Problems)
			}
		}
	}
	if _, err := os.Stat(dir + "/in"); !errors.Is(err, fs.ErrNotExist) {
		t.Error("something was unpacked")
	}
}

func TestTruncatedArchives(t *testing.T) {
	dir, doc := small(t)
	for _, end := range []string{".zip", ".tar", ".tar.gz", ".tar.zst"} {
		out := filepath.Join(dir, "c"+end)
		must[*seal.Report](t)(sealing(t, doc, out, stow.Options{}))
		whole := must[[]byte](t)(os.ReadFile(out))
		for i := range 10 {
			p := coretest.Write(t, filepath.Join(dir, "cut"+end), string(whole[:len(whole)*i/10]))
			rep, err := seal.Check(bg, p, all.Formats())
			if err == nil && rep.Well() {
				t.Errorf("%s cut to %d/10 passes", end, i)
			}
		}
	}
}

func TestRefuses(t *testing.T) {
	dir, doc := small(t)
	coretest.Write(t, dir+"/full/something", "x")
	coretest.Write(t, dir+"/plain.zip", "no crate")
	for _, out := range []string{dir + "/film/crate", dir + "/film", doc, dir + "/full", dir + "/plain.zip"} {
		var r *seal.Refusal
		if _, err := sealing(t, doc, out, stow.Options{}); !errors.As(err, &r) {
			t.Errorf("%s: %v", out, err)
		}
	}
	// The same crate again is allowed, one of another document is not.
	for _, out := range []string{dir + "/c", dir + "/c.zip"} {
		for range 2 {
			if rep := must[*seal.Report](t)(sealing(t, doc, out, stow.Options{})); !rep.Well() {
				t.Error(rep.Problems)
			}
		}
	}
	other := coretest.Write(t, dir+"/elsewhere/other.otio", timeline())
	if _, err := sealing(t, other, dir+"/c", stow.Options{}); err == nil {
		t.Error("another document's crate was written over")
	}
}
