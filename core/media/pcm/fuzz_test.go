package pcm

import (
	"bytes"
	"context"
	"io"
	"testing"
)

// FuzzConvert: no file makes reading or converting it panic, hang or take memory beyond
// what it holds; what is made has the samples and the bytes that were told.
func FuzzConvert(f *testing.F) {
	wav := AppendTest(nil, 1)[:9000]
	f.Add(wav, uint8(0), uint32(10), uint32(500))
	var flac bytes.Buffer
	s, err := Open(bytes.NewReader(AppendTest(nil, 1)), int64(44+44100*6))
	if err != nil {
		f.Fatal(err)
	}
	s.Take(Cut{First: 0, Frames: 2000})
	for _, to := range []Spec{{Type: FLAC}, {Type: AIFF, Depth: 16}} {
		c, err := s.Convert(to)
		if err != nil {
			f.Fatal(err)
		}
		flac.Reset()
		if _, err := c.WriteTo(context.Background(), &flac, nil); err != nil {
			f.Fatal(err)
		}
		f.Add(bytes.Clone(flac.Bytes()), uint8(3), uint32(0), uint32(0))
	}
	specs := []Spec{{Depth: 16}, {Type: FLAC}, {Type: AIFF, Depth: 24}, {Rate: 48000}, {Type: WAV, Rate: 44100, Depth: 32, Float: true}}
	f.Fuzz(func(t *testing.T, b []byte, which uint8, first, frames uint32) {
		s, err := Open(bytes.NewReader(b), int64(len(b)))
		if err != nil {
			return
		}
		if s.Rate < 4000 || s.Frames > 1<<20 { // an hour of work is no hang
			return
		}
		s.Take(Cut{First: int64(first), Frames: int64(frames)})
		c, err := s.Convert(specs[int(which)%len(specs)])
		if err != nil || c == nil {
			return
		}
		size, known := c.Size()
		var out bytes.Buffer
		res, err := c.WriteTo(context.Background(), &out, nil)
		if err != nil {
			return
		}
		if known && size != int64(out.Len()) || res.Bytes != int64(out.Len()) {
			t.Fatalf("%d bytes, told %d and %d", out.Len(), size, res.Bytes)
		}
		back, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
		if err != nil {
			if c.Length() == 0 {
				return // a file of no sound is none
			}
			t.Fatalf("what was made cannot be read: %v", err)
		}
		if back.Frames != c.Length() || back.Rate != c.To.Rate || back.Channels != c.Channels || back.Depth != c.To.Depth {
			t.Fatalf("%+v was made of %+v", back, c.To)
		}
		n := int64(0)
		if err := back.samples(func(x [][]float64) error { n += int64(len(x[0])); return nil }); err != nil || n != back.Frames {
			t.Fatalf("%d samples of %d: %v", n, back.Frames, err)
		}
	})
}

// TestStopped: a conversion ends when it is told to.
func TestStopped(t *testing.T) {
	b := AppendTest(nil, 2)
	s, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Convert(Spec{Rate: 48000})
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := c.WriteTo(ctx, io.Discard, nil); err != context.Canceled {
		t.Error(err)
	}
}

// TestTaken: what is cut of a sound is what stood there, and its clock, points and loops
// go along: a clock runs on, what lies before the beginning lies at it.
func TestTaken(t *testing.T) {
	b := AppendTest(nil, 3)
	le := func(v ...uint32) (out []byte) {
		for _, x := range v {
			out = append(out, byte(x), byte(x>>8), byte(x>>16), byte(x>>24))
		}
		return out
	}
	bext := make([]byte, 602)
	copy(bext[338:], le(1000, 0))
	list := []chunk{{id: "bext", body: bext}, {id: "cue ", body: append(le(2), le(1, 44100, 0, 0, 0, 44100, 2, 10, 0, 0, 0, 10)...)}, {id: "smpl", body: append(make([]byte, 36), le(0, 0, 44200, 999999, 0, 0)...)}}
	got := later(list, 44100, 1000)
	if x := got[0].body[338:342]; !bytes.Equal(x, le(45100)) {
		t.Errorf("the clock begins at %v", x)
	}
	if x := got[1].body; !bytes.Equal(x[8:12], le(0)) || !bytes.Equal(x[32:36], le(0)) {
		t.Errorf("the points are %v", x)
	}
	if x := got[2].body; !bytes.Equal(x[44:48], le(100)) || !bytes.Equal(x[48:52], le(1000)) {
		t.Errorf("the loop is %v", x[44:52])
	}
	s, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	s.Take(Cut{First: 44100, Frames: 500})
	c, err := s.Convert(Spec{})
	if err != nil || c == nil {
		t.Fatal(c, err)
	}
	var out bytes.Buffer
	if _, err := c.WriteTo(context.Background(), &out, nil); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(out.Bytes()[out.Len()-3000:], b[44+44100*6:][:3000]) {
		t.Error("other samples were taken")
	}
}
