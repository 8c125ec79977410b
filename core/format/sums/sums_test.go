package sums

import (
	"testing"

	"boundcrate/core/format/formattest"
)

const sample = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad  data/sound/gull cry.wav\nd41d8cd98f00b204e9800998ecf8427e *empty.bin\n"

// TestMentions: the digest of "abc" is that of FIPS 180-4; of "", that of the
// test suite of RFC 1321.
func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.sha256", sample, "used line 1 | data/sound/gull cry.wav", "used line 2 | empty.bin")
	// RFC 8493 §2.1.3: CR, LF and % are escaped in a manifest.
	formattest.Table(t, Format{}, "manifest-md5.txt", "d41d8cd98f00b204e9800998ecf8427e  data/a%0A%25.txt\n", "used line 1 | data/a\n%.txt")
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.sha256", sample+"nonsense\n", "line 3: this is no checksum line", 2)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.sha256", []byte(sample))
}
