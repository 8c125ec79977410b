package look_test

import (
	"bytes"
	"errors"
	"testing"

	"boundcrate/core/media/acoustic"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/look"
	"boundcrate/core/media/pcm"
)

// FuzzOf: no bytes make those give up who look at what a file holds: small pictures,
// waveforms, what a recording sounds like.
func FuzzOf(f *testing.F) {
	wav := append([]byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x80\xbb\x00\x00\x00\x77\x01\x00\x02\x00\x10\x00data\x00\x04\x00\x00"), make([]byte, 1024)...)
	none := bytes.Clone(wav)
	none[22], none[32] = 0, 0 // no channels
	for _, b := range [][]byte{wav, none, append([]byte("fLaC\x00\x00\x00\x22"), make([]byte, 200)...), append([]byte("FORM\x00\x00\x02\x00AIFFCOMM\x00\x00\x00\x12\x00\x01"), make([]byte, 300)...), []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x08\x00\x00\x00\x08\x08\x02"), []byte("GIF89a\x08\x00\x08\x00\xf0\x00\x00"), []byte("plain text")} {
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		r, n := bytes.NewReader(b), int64(len(b))
		if _, err := look.Of(r, n); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		if _, err := acoustic.Of(r, n); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		if _, _, _, err := pcm.Peaks(r, n, 50); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		if _, err := pcm.Open(r, n); errors.Is(err, facts.ErrGaveUp) {
			t.Fatal(err)
		}
		_, _ = look.Text(b)
		_, _ = look.Picture(b)
		_, _, _, _ = look.Wave(b)
		acoustic.Unpack(b)
	})
}
