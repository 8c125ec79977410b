package any

import (
	"bytes"
	"strings"
	"testing"

	"boundcrate/core/format/formattest"
	"boundcrate/core/mention"
)

const sample = "# session\nclip = sound/gull cry.wav\nplate: \"stills/brass plate.png\" in=10\n'C:\\media\\bell.wav', other.mov; see https://example.org/page.png\nVersion 1.2.3. Thank you.\nbare.flac (and more text)\n/abs/with space/file name.tif\n"

func TestPlain(t *testing.T) {
	formattest.Table(t, Format{}, "x.session", sample,
		"used (guessed) line 2 | sound/gull cry.wav", "used (guessed) line 3 | stills/brass plate.png", `used (guessed) line 4 | C:\media\bell.wav`,
		"used (guessed) line 4 | other.mov", "used (guessed) line 6 | bare.flac", "used (guessed) line 7 | /abs/with space/file name.tif")
}

func TestCarriers(t *testing.T) {
	formattest.Table(t, Format{}, "x.proj", `{"v": "1.2", "clips": [{"src": "a b\/c.wav", "note": "see x. It is y.wav"}, "file:///m/d%20e.mp4", 7]}`,
		"used (guessed) line 1 | a b/c.wav", "used (guessed) line 1 | file:///m/d%20e.mp4")
	formattest.Table(t, Format{}, "x.proj", "<p><c src='a &amp; b.wav'>\n stills/one.png </c><![CDATA[two.png]]></p>",
		"used (guessed) line 1 | a & b.wav", "used (guessed) line 2 | stills/one.png", "used (guessed) line 2 | two.png")
	wide := "\x00\x01\x02head"
	for _, c := range []byte(`D:\takes\horn.wav`) {
		wide += string([]byte{c, 0})
	}
	formattest.Table(t, Format{}, "x.bin2", wide+"\x00\x00\x03\xFFsound/bell A.wav\x00\xFE\x10",
		`used (guessed) byte 7 | D:\takes\horn.wav`, "used (guessed) byte 45 | sound/bell A.wav")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.session", []byte(sample))
}

// BenchmarkRead scans 10 MB, most of it prose.
func BenchmarkRead(b *testing.B) {
	text := []byte(strings.Repeat("clip = sound/gull cry.wav\nSome words. And more words, e.g. 1.5 of them; nothing here.\n", 115_000))
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		if d, err := (Format{}).Read(mention.Text{Bytes: bytes.Clone(text)}, nil); err != nil || len(d.Mentions) != 115_000 {
			b.Fatal(len(d.Mentions), err)
		}
	}
}
