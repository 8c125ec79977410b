package pcm

import (
	"bytes"
	"encoding/binary"
	"io"
	"math"
	"regexp"
	"strconv"
)

// chunk is one chunk of a WAVE file beside the sound, with its bytes. A large one stays
// where it is until it is written.
type chunk struct {
	id   string
	body []byte
	from *io.SectionReader // nil: body has it
}

// maxChunk is how much of such a chunk is held in memory, in bytes.
const maxChunk = 16 << 20

// readChunks keeps what stands beside the sound, but what is made anew.
func (s *Sound) readChunks() error {
	head := make([]byte, 8)
	var ds64 int64
	for at := int64(12); at+8 <= s.size; {
		if n, err := s.r.ReadAt(head, at); n < 8 {
			return err
		}
		id, length := string(head[:4]), int64(binary.LittleEndian.Uint32(head[4:]))
		switch id {
		case "ds64":
			b := make([]byte, 24)
			if n, _ := s.r.ReadAt(b, at+8); n == len(b) {
				ds64 = int64(binary.LittleEndian.Uint64(b[8:]))
			}
		case "data":
			if s.open {
				return nil // all behind it is sound
			}
			if length == math.MaxUint32 {
				length = ds64
			}
		case "fmt ":
			b := make([]byte, min(length, 40))
			if n, _ := s.r.ReadAt(b, at+8); n >= 24 && binary.LittleEndian.Uint16(b) == 0xFFFE {
				s.Mask = binary.LittleEndian.Uint32(b[20:])
			}
		case "fact", "JUNK", "PAD ", "FLLR":
		default:
			if at+8+length > s.size {
				break
			}
			if length > maxChunk {
				s.chunks = append(s.chunks, chunk{id: id, from: io.NewSectionReader(s.r, at+8, length)})
				break
			}
			b := make([]byte, length)
			if n, err := s.r.ReadAt(b, at+8); n < len(b) && err != io.EOF {
				return err
			}
			s.chunks = append(s.chunks, chunk{id: id, body: b})
		}
		at += 8 + length + length&1
	}
	return nil
}

// scaled are the chunks as they stand at another rate and depth: what counts in samples
// counts in those of the new rate.
func scaled(list []chunk, from, to, depth int) []chunk {
	out := make([]chunk, 0, len(list))
	for _, c := range list {
		if c.from != nil { // nothing that counts in samples is as large
			out = append(out, c)
			continue
		}
		b := bytes.Clone(c.body)
		le := binary.LittleEndian
		at32 := func(at int) {
			if at+4 <= len(b) {
				le.PutUint32(b[at:], uint32(resampled(int64(le.Uint32(b[at:])), from, to)))
			}
		}
		switch c.id {
		case "bext": // EBU Tech 3285 §2.3: TimeReference, in samples since midnight
			if len(b) >= 346 {
				le.PutUint64(b[338:], uint64(resampled(int64(le.Uint64(b[338:])), from, to)))
			}
		case "iXML":
			b = ixml(b, from, to, depth)
		case "cue ": // 24 bytes for each point: its position, and its offset in the data chunk
			for at := 4; at+24 <= len(b); at += 24 {
				at32(at + 4)
				at32(at + 20)
			}
		case "smpl": // the sample's period in nanoseconds; 24 bytes for each loop: begin and end
			if len(b) >= 36 {
				le.PutUint32(b[8:], uint32(math.Round(1e9/float64(to))))
			}
			for at := 36; at+24 <= len(b); at += 24 {
				at32(at + 8)
				at32(at + 12)
			}
		case "LIST":
			if len(b) >= 4 && string(b[:4]) == "adtl" { // labels of cue points: ltxt tells a length
				for at := 4; at+8 <= len(b); {
					n := int(le.Uint32(b[at+4:]))
					if string(b[at:at+4]) == "ltxt" && n >= 8 {
						at32(at + 12)
					}
					at += 8 + n + n&1
				}
			}
		}
		out = append(out, chunk{id: c.id, body: b})
	}
	return out
}

// Elements of iXML that tell a rate, a depth, or count in samples (iXML 2.10, from memory).
var (
	ixmlRates = regexp.MustCompile(`<((?:FILE|DIGITIZER|TIMESTAMP)_SAMPLE_RATE)>\s*\d+\s*</`)
	ixmlDepth = regexp.MustCompile(`<(AUDIO_BIT_DEPTH)>\s*\d+\s*</`)
	ixmlHigh  = regexp.MustCompile(`(<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>\s*)(\d+)(\s*</)`)
	ixmlLow   = regexp.MustCompile(`(<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>\s*)(\d+)(\s*</)`)
	ixmlBext  = regexp.MustCompile(`(<BWF_TIME_REFERENCE_(?:LOW|HIGH)>\s*)(\d+)(\s*</)`)
)

// shifted is an iXML chunk whose first sample's clock is another.
func shifted(b []byte, clock func(int64) int64) []byte {
	high, low := ixmlHigh.FindSubmatch(b), ixmlLow.FindSubmatch(b)
	if low == nil {
		return b
	}
	h := uint64(0)
	if high != nil {
		h, _ = strconv.ParseUint(string(high[2]), 10, 32)
	}
	l, _ := strconv.ParseUint(string(low[2]), 10, 32)
	n := uint64(clock(int64(h<<32 | l)))
	put := func(at *regexp.Regexp, v uint64) {
		b = at.ReplaceAll(b, []byte("${1}"+strconv.FormatUint(v, 10)+"${3}"))
	}
	put(ixmlHigh, n>>32)
	put(ixmlLow, n&math.MaxUint32)
	return b
}

func ixml(b []byte, from, to, depth int) []byte {
	b = ixmlRates.ReplaceAll(b, []byte("<$1>"+strconv.Itoa(to)+"</"))
	b = ixmlDepth.ReplaceAll(b, []byte("<$1>"+strconv.Itoa(depth)+"</"))
	b = shifted(b, func(n int64) int64 { return resampled(n, from, to) })
	// What repeats the bext chunk is left to that.
	return ixmlBext.ReplaceAll(b, nil)
}

// later are the chunks of a sound that begins later, in samples, and ends sooner: its
// clock goes on, points and loops that lie outside lie at its ends.
func later(list []chunk, first, frames int64) []chunk {
	out := make([]chunk, 0, len(list))
	for _, c := range list {
		if c.from != nil { // nothing that counts in samples is as large
			out = append(out, c)
			continue
		}
		b := bytes.Clone(c.body)
		le := binary.LittleEndian
		back := func(at int) {
			if at+4 <= len(b) {
				le.PutUint32(b[at:], uint32(max(0, min(int64(le.Uint32(b[at:]))-first, frames))))
			}
		}
		switch c.id {
		case "bext":
			if len(b) >= 346 {
				le.PutUint64(b[338:], le.Uint64(b[338:])+uint64(first))
			}
		case "iXML":
			b = shifted(b, func(n int64) int64 { return n + first })
		case "cue ":
			for at := 4; at+24 <= len(b); at += 24 {
				back(at + 4)
				back(at + 20)
			}
		case "smpl":
			for at := 36; at+24 <= len(b); at += 24 {
				back(at + 8)
				back(at + 12)
			}
		}
		out = append(out, chunk{id: c.id, body: b})
	}
	return out
}
