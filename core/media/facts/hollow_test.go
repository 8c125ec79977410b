package facts_test

import (
	"bytes"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"boundcrate/core/media/facts"
)

// TestHollow: what holds nothing of what its name says is told, cut at any place; what is
// whole, or is nobody's to judge by its name, is not.
func TestHollow(t *testing.T) {
	m := image.NewGray(image.Rect(0, 0, 64, 64))
	for i := range m.Pix {
		m.Pix[i] = byte(i * 37)
	}
	encoded := func(f func(*bytes.Buffer) error) []byte {
		var b bytes.Buffer
		if err := f(&b); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	p := encoded(func(b *bytes.Buffer) error { return png.Encode(b, m) })
	j := encoded(func(b *bytes.Buffer) error { return jpeg.Encode(b, m, nil) })
	g := encoded(func(b *bytes.Buffer) error { return gif.Encode(b, m, nil) })
	w := claiming(1, 1, 2, 16, 48000, 96000, 96000, 96000)
	of := func(name string, b []byte) facts.Hollow {
		r := bytes.NewReader(b)
		got, err := facts.Read(r, int64(len(b)))
		return facts.HollowOf(name, r, int64(len(b)), b[:min(len(b), 4096)], got, err)
	}
	for _, c := range []struct {
		name string
		b    []byte
		want facts.Hollow
	}{
		{"a.png", p, ""}, {"a.jpg", j, ""}, {"a.gif", g, ""}, {"a.wav", w, ""},
		{"a.png", nil, facts.Empty}, {"a.wav", nil, facts.Empty}, {"a.step", nil, facts.Empty}, {"notes.txt", nil, ""},
		{"a.mov", make([]byte, 10_000), facts.Empty}, {"a.wav", make([]byte, 44), facts.Empty}, {"a.dat", make([]byte, 44), ""},
		{"a.mp4", []byte("\n<!DOCTYPE html><html><title>Sign in</title>"), facts.WebPage}, {"a.svg", []byte("<svg/>"), ""},
		{"a.wav", []byte(gitPointer), facts.Pointer}, {"a.step", []byte(gitPointer), facts.Pointer}, {"a.wav", []byte("version https://git-lfs"), ""}, {"page.html", []byte("<html>"), ""},
		{"a.png", p[:len(p)/2], facts.BrokenOff}, {"a.png", p[:20], facts.BrokenOff}, {"a.jpg", append(j[:len(j)/2:len(j)/2], make([]byte, 4096)...), facts.BrokenOff},
		{"a.gif", append(g[:len(g)/2:len(g)/2], make([]byte, 4096)...), facts.BrokenOff}, {"a.wav", w[:len(w)/2], facts.CutShort}, {"a.wav", w[:40], facts.BrokenOff},
		{"a.wav", []byte(strings.Repeat("no header that anybody here knows ", 40)), ""},
	} {
		if got := of(c.name, c.b); got != c.want {
			t.Errorf("%s of %d bytes is %q, wanted %q", c.name, len(c.b), got, c.want)
		}
	}
}

// gitPointer is what git keeps in place of a large file.
const gitPointer = "version https://git-lfs.github.com/spec/v1\noid sha256:4d7a214614ab2935c943f9e0ff69d22eadbb8f32b1258daaa5e2ca24d17e2393\nsize 12345\n"
