package facts

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"io"
	"math"
	"strconv"
	"strings"

	_ "golang.org/x/image/bmp"  // frame sizes
	_ "golang.org/x/image/tiff" // frame sizes
	_ "golang.org/x/image/webp" // frame sizes
)

// reader reads one kind of header. head is the file's first bytes, at most
// headSize of them.
type reader struct {
	off  int
	sig  string
	read func(r io.ReaderAt, size int64, head []byte) (Facts, error)
}

const headSize = 4096

var readers = []reader{
	{8, "WAVE", func(r io.ReaderAt, size int64, _ []byte) (Facts, error) {
		w, err := ReadWAV(r, size)
		return w.Facts, err
	}},
	{8, "AIFF", aiff}, {8, "AIFC", aiff}, {0, "fLaC", flac}, {0, "OggS", ogg},
	{0, "\x89PNG", picture}, {0, "\xFF\xD8\xFF", picture}, {0, "GIF8", picture}, {0, "II*\x00", picture}, {0, "MM\x00*", picture}, {8, "WEBP", picture}, {0, "BM", picture},
	{0, "#?RADIANCE", radiance}, {0, "\x76\x2F\x31\x01", openEXR}, {0, "DDS ", dds}, {0, "\xABKTX 20\xBB\r\n\x1A\n", ktx2}, {0, "SIMPLE  =", fits},
	{4, "ftyp", isoMedia}, {0, "ID3", mp3}, {0, "\xFF\xFB", mp3}, {0, "\xFF\xFA", mp3}, {0, "\xFF\xF3", mp3}, {0, "\xFF\xF2", mp3}, {0, "\xFF\xE3", mp3},
	{0, "\x06\x0e\x2b\x34\x02\x05\x01\x01\x0d\x01\x02", mxf}, {0, "ply\n", ply}, {0, "ply\r\n", ply}, {0, "glTF", glb},
}

func damaged(format string, a ...any) error {
	return fmt.Errorf("%w: %s", ErrDamaged, fmt.Sprintf(format, a...))
}

func picture(r io.ReaderAt, size int64, _ []byte) (Facts, error) {
	c, _, err := image.DecodeConfig(io.NewSectionReader(r, 0, size))
	switch {
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return Facts{}, damaged("it ends within its header")
	case err != nil:
		return Facts{}, damaged("%v", err)
	}
	return Facts{Width: c.Width, Height: c.Height}, nil
}

// aiff walks the chunks to COMM (AIFF 1.3). The rate is an 80-bit float.
func aiff(r io.ReaderAt, size int64, _ []byte) (Facts, error) {
	b := make([]byte, 8+18)
	for at := int64(12); at+8 <= size; {
		n, err := r.ReadAt(b, at)
		if n < 8 {
			return Facts{}, err
		}
		length := int64(binary.BigEndian.Uint32(b[4:]))
		if string(b[:4]) == "COMM" {
			if n < len(b) || length < 18 {
				return Facts{}, damaged("its COMM chunk has %d bytes", length)
			}
			f := Facts{Channels: int(binary.BigEndian.Uint16(b[8:])), Depth: int(binary.BigEndian.Uint16(b[14:])), Rate: int(math.Round(extended(b[16:])))}
			if f.Rate > 0 {
				f.Seconds = float64(binary.BigEndian.Uint32(b[10:])) / float64(f.Rate)
			}
			return f, nil
		}
		at += 8 + length + length&1
	}
	return Facts{}, damaged("it has no COMM chunk")
}

// extended is an IEEE 754 extended float of ten bytes: 40 0E AC 44 00 … is 44,100.
func extended(b []byte) float64 {
	exp := int(binary.BigEndian.Uint16(b)&0x7FFF) - 16383 - 63
	return math.Ldexp(float64(binary.BigEndian.Uint64(b[2:])), exp)
}

// flac reads STREAMINFO, which comes first (RFC 9639 §8.2).
func flac(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	if len(head) < 42 || head[4]&0x7F != 0 {
		return Facts{}, damaged("its first block is no STREAMINFO")
	}
	v := binary.BigEndian.Uint64(head[18:])
	f := Facts{Rate: int(v >> 44), Channels: int(v>>41&7) + 1, Depth: int(v>>36&31) + 1}
	if f.Rate > 0 {
		f.Seconds = float64(v&(1<<36-1)) / float64(f.Rate)
	}
	return f, nil
}

// ogg reads the identification header of Vorbis or Opus, and the granule of the
// last page (RFC 3533 §6, RFC 7845 §4).
func ogg(r io.ReaderAt, size int64, head []byte) (Facts, error) {
	var f Facts
	skip := 0
	switch {
	case len(head) >= 48 && bytes.HasPrefix(head[28:], []byte("\x01vorbis")):
		f = Facts{Channels: int(head[39]), Rate: int(binary.LittleEndian.Uint32(head[40:]))}
	case len(head) >= 47 && bytes.HasPrefix(head[28:], []byte("OpusHead")):
		f = Facts{Channels: int(head[37]), Rate: 48000}
		skip = int(binary.LittleEndian.Uint16(head[38:]))
	default:
		return Facts{}, nil
	}
	tail := make([]byte, min(size, 1<<16))
	if n, err := r.ReadAt(tail, size-int64(len(tail))); n < len(tail) {
		return f, err
	}
	if i := bytes.LastIndex(tail, []byte("OggS")); i >= 0 && i+14 <= len(tail) && f.Rate > 0 {
		f.Seconds = float64(int64(binary.LittleEndian.Uint64(tail[i+6:]))-int64(skip)) / float64(f.Rate)
	}
	return f, nil
}

// radiance reads the resolution line after the header's empty line.
func radiance(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	_, rest, ok := bytes.Cut(head, []byte("\n\n"))
	line, _, ok2 := bytes.Cut(rest, []byte("\n"))
	w := strings.Fields(string(line))
	if !ok || !ok2 || len(w) != 4 {
		return Facts{}, damaged("it has no resolution line")
	}
	a, err := strconv.Atoi(w[1])
	b, err2 := strconv.Atoi(w[3])
	if err != nil || err2 != nil {
		return Facts{}, damaged("its resolution is %q", line)
	}
	if strings.HasSuffix(w[0], "X") {
		a, b = b, a
	}
	return Facts{Width: b, Height: a}, nil
}

// openEXR walks the attributes to dataWindow.
func openEXR(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	text := func(b []byte) (string, []byte) {
		s, rest, ok := bytes.Cut(b, []byte{0})
		if !ok {
			return "", nil
		}
		return string(s), rest
	}
	for b := head[min(8, len(head)):]; len(b) > 0; {
		name, rest := text(b)
		kind, rest := text(rest)
		if name == "" || len(rest) < 4 {
			break
		}
		n := int64(binary.LittleEndian.Uint32(rest))
		if rest = rest[4:]; n > int64(len(rest)) {
			break
		}
		if name == "dataWindow" && kind == "box2i" && n == 16 {
			v := func(i int) int { return int(int32(binary.LittleEndian.Uint32(rest[4*i:]))) }
			return Facts{Width: v(2) - v(0) + 1, Height: v(3) - v(1) + 1}, nil
		}
		b = rest[n:]
	}
	return Facts{}, damaged("it has no data window in its first bytes")
}

func dds(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	if len(head) < 20 || binary.LittleEndian.Uint32(head[4:]) != 124 {
		return Facts{}, damaged("its header is not 124 bytes long")
	}
	return Facts{Height: int(binary.LittleEndian.Uint32(head[12:])), Width: int(binary.LittleEndian.Uint32(head[16:]))}, nil
}

func ktx2(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	if len(head) < 28 {
		return Facts{}, damaged("it ends within its header")
	}
	return Facts{Width: int(binary.LittleEndian.Uint32(head[20:])), Height: max(1, int(binary.LittleEndian.Uint32(head[24:])))}, nil
}

// fits reads the cards of the first header unit (FITS 4.0 §4): 80 bytes each.
func fits(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	var f Facts
	for at := 0; at+80 <= len(head); at += 80 {
		card := string(head[at : at+80])
		key := strings.TrimSpace(card[:8])
		if key == "END" {
			break
		}
		value, _, _ := strings.Cut(card[10:], "/")
		n, err := strconv.Atoi(strings.TrimSpace(value))
		switch {
		case err != nil:
		case key == "NAXIS1":
			f.Width = n
		case key == "NAXIS2":
			f.Height = n
		case key == "BITPIX":
			f.Depth = max(n, -n)
		}
	}
	return f, nil
}

// isoMedia walks the boxes of an ISO base media file (ISO/IEC 14496-12) to the
// movie's length, and its tracks' frame size and sound.
func isoMedia(r io.ReaderAt, size int64, _ []byte) (Facts, error) {
	var f Facts
	var walk func(at, end int64, depth int) error
	walk = func(at, end int64, depth int) error {
		b := make([]byte, 16)
		for n := 0; at+8 <= end && n < 10_000; n++ {
			if k, err := r.ReadAt(b, at); k < 8 {
				return err
			}
			length, head := int64(binary.BigEndian.Uint32(b)), int64(8)
			switch length {
			case 0:
				length = end - at
			case 1:
				length, head = int64(binary.BigEndian.Uint64(b[8:])), 16
			}
			if length < head || at+length > end {
				return damaged("a box at byte %d says %d bytes", at, length)
			}
			body := func(n int64) []byte {
				out := make([]byte, min(n, length-head))
				k, _ := r.ReadAt(out, at+head)
				return out[:k]
			}
			switch string(b[4:8]) {
			case "moov", "trak", "mdia", "minf", "stbl":
				if depth < 8 {
					if err := walk(at+head, at+length, depth+1); err != nil {
						return err
					}
				}
			case "mvhd":
				v := body(32)
				switch {
				case len(v) >= 20 && v[0] == 0 && binary.BigEndian.Uint32(v[12:]) > 0:
					f.Seconds = float64(binary.BigEndian.Uint32(v[16:])) / float64(binary.BigEndian.Uint32(v[12:]))
				case len(v) >= 32 && v[0] == 1 && binary.BigEndian.Uint32(v[20:]) > 0:
					f.Seconds = float64(binary.BigEndian.Uint64(v[24:])) / float64(binary.BigEndian.Uint32(v[20:]))
				}
			case "tkhd":
				if v := body(length - head); len(v) >= 84 {
					w, h := int(binary.BigEndian.Uint32(v[len(v)-8:])>>16), int(binary.BigEndian.Uint32(v[len(v)-4:])>>16)
					if w > 0 && f.Width == 0 {
						f.Width, f.Height = w, h
					}
				}
			case "stsd":
				if v := body(64); len(v) >= 44 && f.Rate == 0 {
					switch string(v[12:16]) {
					case "mp4a", "lpcm", "sowt", "twos", "alac", "fLaC", "Opus", "in24", "fl32":
						f.Channels, f.Depth, f.Rate = int(binary.BigEndian.Uint16(v[32:])), int(binary.BigEndian.Uint16(v[34:])), int(binary.BigEndian.Uint16(v[40:]))
						if string(v[12:16]) == "mp4a" || string(v[12:16]) == "Opus" {
							f.Depth = 0 // a fixed 16 there says nothing
						}
					}
				}
			}
			at += length
		}
		return nil
	}
	return f, walk(0, size, 0)
}
