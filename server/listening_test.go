package server_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/core/media/pcm"
)

// sound is a WAVE file of one second, half as loud again as full scale where it shall be, and
// the same as FLAC.
func sound(t *testing.T, peak float64) (wav, flac string) {
	t.Helper()
	b := []byte("RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x03\x00\x01\x00\x80\xbb\x00\x00\x00\xee\x02\x00\x04\x00\x20\x00data\x00\xee\x02\x00")
	for i := range 48000 {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(float32(peak*math.Sin(float64(i)/17))))
	}
	binary.LittleEndian.PutUint32(b[4:], uint32(len(b)-8))
	s, err := pcm.Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Convert(pcm.Spec{Type: pcm.FLAC, Depth: 24})
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if _, err := c.WriteTo(t.Context(), &out, nil); err != nil {
		t.Fatal(err)
	}
	return string(b), out.String()
}

// TestListening: a plan tells what hearing its sounds tells, once that was done, without
// anybody waiting for it; sealing before that is over stops and shows it instead.
func TestListening(t *testing.T) {
	loud, _ := sound(t, 1.5)
	_, whole := sound(t, 0.5)
	broken := []byte(whole)
	broken[len(broken)/2] ^= 0x40
	files := map[string]string{"film/cut.otio": timeline("loud.wav", "whole.flac", "broken.flac"), "film/loud.wav": loud, "film/whole.flac": whole, "film/broken.flac": string(broken)}
	options := packing.StowOptions{Layout: "kind", Sound: pcm.Spec{Type: pcm.WAV, Rate: 48000, Depth: 16}}
	want := []string{"broken-sound broken.flac", "clipped loud.wav"}
	told := func(s packing.Stow) (list []string) {
		for _, p := range s.Problems {
			list = append(list, string(p.Code)+" "+filepath.Base(p.Path))
		}
		slices.Sort(list)
		return list
	}
	c := start(t, files)
	at := fmt.Sprintf("/api/projects/%d", c.open("film/cut.otio").ID)
	send[packing.Stow](c, "PUT", at+"/stow", options)
	s := until(c, at+"/stow", "everything is heard", func(s packing.Stow) bool { return s.Unheard == 0 })
	if got := told(s); !slices.Equal(got, want) || s.About {
		t.Errorf("%q %+v", got, s)
	}
	out := filepath.Join(c.dir, "crate")
	if j := c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: out, Despite: true}).Job.ID); j.State != api.Done {
		t.Errorf("%+v", j)
	}
	// Sealed at once, before anybody looked.
	c = start(t, files)
	p := c.open("film/cut.otio")
	at = fmt.Sprintf("/api/projects/%d", p.ID)
	send[packing.Stow](c, "PUT", at+"/stow", options)
	for try := range 2 {
		j := c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshot(at), Out: filepath.Join(c.dir, "crate"), Despite: true}).Job.ID)
		if stopped := j.State == api.Failed && strings.Contains(j.Error, "may be damaged or clipped"); stopped {
			if s := get[packing.Stow](c, at+"/stow"); !slices.Equal(told(s), want) || try > 0 {
				t.Errorf("%+v", s.Problems)
			}
		} else if j.State != api.Done { // it was heard meanwhile
			t.Errorf("%+v", j)
		}
	}
}
