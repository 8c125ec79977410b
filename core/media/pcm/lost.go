package pcm

import (
	"encoding/binary"
	"slices"
	"strings"
)

// Lost are the names of what stands beside the sound in its file, and that the file which is
// made of it cannot carry here: chunks of WAVE and AIFF files, metadata blocks of FLAC files.
// What counts frames, pads, or is made anew is none.
func (c *Conversion) Lost() (list []string) {
	if c.To.Type == WAV && c.Type == WAV {
		return nil
	}
	add := func(name string) {
		if name = strings.TrimSpace(name); !slices.Contains(list, name) {
			list = append(list, name)
		}
	}
	sounds := c.parts
	if sounds == nil {
		sounds = []*Sound{c.Sound}
	}
	for _, s := range sounds {
		for _, x := range s.chunks {
			add(x.id)
		}
		switch s.Type {
		case AIFF:
			s.aiffChunks(add)
		case FLAC:
			s.flacBlocks(add)
		}
	}
	slices.Sort(list)
	return list
}

// aiffChunks tells those that are not the sound itself (AIFF 1.3).
func (s *Sound) aiffChunks(add func(string)) {
	head := make([]byte, 8)
	for at := int64(12); at+8 <= s.size; {
		if n, _ := s.r.ReadAt(head, at); n < 8 {
			return
		}
		if id := string(head[:4]); id != "COMM" && id != "SSND" && id != "FVER" {
			add(id)
		}
		length := int64(binary.BigEndian.Uint32(head[4:]))
		at += 8 + length + length&1
	}
}

// blocks are the metadata blocks of FLAC by their numbers (RFC 9639 §8.1); STREAMINFO, PADDING
// and SEEKTABLE are made anew.
var blocks = map[byte]string{2: "APPLICATION", 4: "VORBIS_COMMENT", 5: "CUESHEET", 6: "PICTURE"}

func (s *Sound) flacBlocks(add func(string)) {
	head := make([]byte, 4)
	for at := int64(4); at+4 <= s.size; {
		if n, _ := s.r.ReadAt(head, at); n < 4 {
			return
		}
		length := int64(head[1])<<16 | int64(head[2])<<8 | int64(head[3])
		if name := blocks[head[0]&0x7F]; name != "" && length > 8 { // an empty comment says nothing
			add(name)
		}
		if head[0]&0x80 != 0 {
			return
		}
		at += 4 + length
	}
}
