package facts_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"os"
	"path/filepath"
	"testing"

	"boundcrate/core/media/facts"
)

// claiming is a WAVE file whose fmt chunk says what is given.
func claiming(format, channels, block, depth uint16, rate, perSecond, data uint32, samples int) []byte {
	b := append([]byte("RIFF\x00\x00\x00\x00WAVEfmt "), 16, 0, 0, 0)
	for _, v := range []uint16{format, channels} {
		b = binary.LittleEndian.AppendUint16(b, v)
	}
	b = binary.LittleEndian.AppendUint32(b, rate)
	b = binary.LittleEndian.AppendUint32(b, perSecond)
	b = binary.LittleEndian.AppendUint16(b, block)
	b = binary.LittleEndian.AppendUint16(b, depth)
	b = binary.LittleEndian.AppendUint32(append(b, "data"...), data)
	return append(b, make([]byte, samples)...)
}

// FuzzRead: no bytes make a reader of headers give up, whatever they claim to be.
func FuzzRead(f *testing.F) {
	samples, err := filepath.Glob("testdata/*")
	if err != nil {
		f.Fatal(err)
	}
	for _, p := range samples {
		if b, err := os.ReadFile(p); err == nil && len(b) < 1<<16 {
			f.Add(b)
		}
	}
	f.Add(claiming(1, 0, 0, 16, 48000, 0, 4000, 4000))
	f.Add(claiming(3, 2, 8, 32, 48000, 384000, 0xFFFFFFFF, 800))
	for _, sig := range []string{"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR", "GIF89a", "II*\x00\x08\x00\x00\x00", "MM\x00*", "fLaC\x00\x00\x00\x22", "OggS\x00\x02", "ID3\x03", "\x00\x00\x00\x18ftypmp42", "\x1aE\xdf\xa3", "FORM\x00\x00\x00\x00AIFFCOMM", "RIFF\x00\x00\x00\x00AVI LIST", "\x06\x0e\x2b\x34\x02\x05\x01\x01", "solid x\n facet", "ply\nformat ascii 1.0\n", "\xff\xd8\xff\xe0", "\xff\xfb\x90\x00", "v/1\x01", "#?RADIANCE\n", "SDPX", "8BPS", "BM", "RIFF\x10\x00\x00\x00WEBPVP8X"} {
		f.Add(append([]byte(sig), make([]byte, 600)...))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		r, n := bytes.NewReader(b), int64(len(b))
		if _, err := facts.Read(r, n); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		if _, err := facts.DecodedWithin(r, n, 1<<16); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		facts.Products(r, n)
		facts.KindOf("x", b)
	})
}

// TestNoChannels: a WAVE file that says it has no channels is read to the end by all who
// read it, and is no sound.
func TestNoChannels(t *testing.T) {
	b := claiming(1, 0, 0, 16, 48000, 0, 4000, 4000)
	if f, err := facts.Read(bytes.NewReader(b), int64(len(b))); f.Channels != 0 || errors.Is(err, facts.ErrGaveUp) {
		t.Error(f, err)
	}
	if sum, err := facts.Decoded(bytes.NewReader(b), int64(len(b))); err == nil || errors.Is(err, facts.ErrGaveUp) {
		t.Error(sum, err)
	}
}
