package pcm

import (
	"context"
	"io"
)

// Pieces of a sound that are packed to tell how far all of it will: how many, and how many
// frames of FLAC each is; and what stands before the frames (RFC 9639 §6: marker and
// STREAMINFO), in bytes.
const (
	sampledPieces = 6
	sampledFrames = 6
	flacHead      = 4 + 4 + 34
)

// sampled is how many bytes a sound will have about that is packed by FLAC, by pieces of it
// from its beginning to its end. Where no piece can be read, six tenths of its samples
// (common practice, no source).
func (c *Conversion) sampled() int64 {
	frames := int64(sampledFrames * flacBlock * c.Rate / c.To.Rate)
	if c.parts == nil && c.Type != FLAC && c.Frames > 2*sampledPieces*frames {
		if n, ok := c.packed(frames); ok {
			return n
		}
		return c.linear() * 6 / 10
	}
	if c.Frames <= 2*sampledPieces*frames && c.Type != FLAC { // short ones are packed whole
		whole := *c
		if res, err := whole.WriteTo(context.Background(), io.Discard, nil); err == nil {
			return res.Bytes
		}
	}
	if c.Type == FLAC && c.size > 0 && c.parts == nil && !c.cut && c.only == 0 { // as it is packed now
		per := float64(c.size) / float64(c.Frames*int64(c.Channels)*int64(c.Depth))
		return int64(per * float64(c.Length()*int64(c.Channels)*int64(c.To.Depth)))
	}
	return c.linear() * 6 / 10
}

// packed packs pieces of a linear sound.
func (c *Conversion) packed(frames int64) (int64, bool) {
	var raw, bytes int64
	for i := range int64(sampledPieces) {
		s := *c.Sound
		s.Take(Cut{First: i * (c.Frames - frames) / (sampledPieces - 1), Frames: frames})
		v, err := s.Convert(c.To)
		if err != nil || v == nil {
			return 0, false
		}
		res, err := v.WriteTo(context.Background(), io.Discard, nil)
		if err != nil {
			return 0, false
		}
		raw, bytes = raw+v.linear(), bytes+res.Bytes-flacHead
	}
	return flacHead + int64(float64(bytes)/float64(raw)*float64(c.linear())), raw > 0
}
