package facts

import (
	"bytes"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"encoding/xml"
	"io"
	"math"
	"strconv"
	"strings"
	"unicode/utf16"
)

// bext reads a broadcast extension (EBU Tech 3285 §2.3): 602 bytes of fields
// before the coding history. Its UMID identifies the recording; the time
// reference is the first sample's, counted from midnight.
func (w *WAV) bext(b []byte) {
	if len(b) < 348 {
		return
	}
	w.Clock = int64(binary.LittleEndian.Uint64(b[338:]))
	if version := binary.LittleEndian.Uint16(b[346:]); version >= 1 && len(b) >= 412 {
		w.ID = umid(b[348:412])
	}
	if ref := strings.TrimRight(string(bytes.TrimRight(b[288:320], "\x00")), " "); w.ID == "" {
		w.ID = ref
	}
}

// umid is a unique material identifier in hex (SMPTE ST 330): 32 bytes, or 64
// with the source pack; empty where none was given.
func umid(b []byte) string {
	b = bytes.TrimRight(b, "\x00")
	switch n := len(b); {
	case n == 0:
		return ""
	case n <= 32:
		b = append(bytes.Clone(b), make([]byte, 32-n)...)
	default:
		b = append(bytes.Clone(b), make([]byte, 64-n)...)
	}
	return hex.EncodeToString(b)
}

// ixml reads the tape and the set of files of an iXML chunk, and the file identifier where bext has none.
func (w *WAV) ixml(b []byte) {
	var x struct {
		Tape    string `xml:"TAPE"`
		FileUID string `xml:"FILE_UID"`
		Set     struct {
			Total  string `xml:"TOTAL_FILES"`
			Family string `xml:"FAMILY_UID"`
			Index  string `xml:"FILE_SET_INDEX"`
		} `xml:"FILE_SET"`
	}
	if xml.Unmarshal(bytes.TrimRight(b, "\x00 \r\n"), &x) != nil {
		return
	}
	w.Family = strings.TrimSpace(x.Set.Family)
	if n, err := strconv.Atoi(strings.TrimSpace(x.Set.Total)); err == nil && n > 0 && w.Family != "" {
		w.FamilyOf = n
	}
	if w.Reel = strings.TrimSpace(x.Tape); w.ID != "" {
		return
	}
	if w.ID = strings.TrimSpace(x.FileUID); w.ID == "" && x.Set.Family != "" {
		w.ID = strings.TrimSpace(x.Set.Family + " " + x.Set.Index)
	}
}

// The tables of ISO/IEC 11172-3 §2.4.2.3 and ISO/IEC 13818-3: kbit/s by index
// for layer III, samples a second by version.
var (
	mp3Rates   = [4][3]int{{11025, 12000, 8000}, {}, {22050, 24000, 16000}, {44100, 48000, 32000}}
	mp3Bits    = [15]int{0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320}
	mp3LowBits = [15]int{0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160}
)

// mp3 reads the first frame's header, behind an ID3v2 tag, and the count of
// frames that a writer of variable rates leaves in the first frame; without one
// the rate is taken to be constant.
func mp3(r io.ReaderAt, size int64, head []byte) (Facts, error) {
	at := int64(0)
	if bytes.HasPrefix(head, []byte("ID3")) && len(head) >= 10 {
		at = 10 + int64(head[6]&0x7F)<<21 + int64(head[7]&0x7F)<<14 + int64(head[8]&0x7F)<<7 + int64(head[9]&0x7F)
		if head[5]&0x10 != 0 {
			at += 10 // a footer
		}
	}
	b := make([]byte, 4096)
	n, err := r.ReadAt(b, at)
	if err != nil && err != io.EOF {
		return Facts{}, err
	}
	b = b[:n]
	// Padding may stand before the first frame.
	for len(b) >= 4 && !(b[0] == 0xFF && b[1]&0xE0 == 0xE0) {
		b, at = b[1:], at+1
	}
	if len(b) < 4 {
		return Facts{}, damaged("it has no frame of sound where one should begin")
	}
	version, layer := b[1]>>3&3, b[1]>>1&3
	bits, rate := int(b[2]>>4), int(b[2]>>2&3)
	if version == 1 || layer != 1 || bits == 0 || bits == 15 || rate == 3 {
		return Facts{}, damaged("its first frame is none of layer III")
	}
	f := Facts{Rate: mp3Rates[version][rate], Channels: 2}
	samples, kbit, side := 1152, mp3Bits[bits], 32
	if version != 3 {
		samples, kbit, side = 576, mp3LowBits[bits], 17
	}
	if b[3]>>6 == 3 {
		if f.Channels, side = 1, 9; version == 3 {
			side = 17
		}
	}
	frames := 0
	if x := b[min(len(b), 4+side):]; len(x) >= 12 && (string(x[:4]) == "Xing" || string(x[:4]) == "Info") && x[7]&1 != 0 {
		frames = int(binary.BigEndian.Uint32(x[8:]))
	} else if x := b[min(len(b), 4+32):]; len(x) >= 18 && string(x[:4]) == "VBRI" {
		frames = int(binary.BigEndian.Uint32(x[14:]))
	}
	if frames > 0 {
		f.Seconds = float64(frames) * float64(samples) / float64(f.Rate)
	} else {
		tail := make([]byte, 3)
		if _, err := r.ReadAt(tail, size-128); err == nil && string(tail) == "TAG" {
			size -= 128 // an ID3v1 tag
		}
		f.Seconds = float64(size-at) * 8 / float64(kbit*1000)
	}
	return f, nil
}

// mxf reads the header metadata of an MXF file (SMPTE ST 377-1): the material
// package's UMID and where its timecode begins, from the descriptors the frame size,
// the sound, the length, from a tape's package the reel. Keys, local tags and their order are from memory of the standard.
func mxf(r io.ReaderAt, size int64, head []byte) (Facts, error) {
	var sets mxfSets
	f := &sets.Facts
	label := []byte("\x06\x0e\x2b\x34\x02\x53\x01\x01\x0d\x01\x01\x01\x01\x01")
	at, end := int64(0), size
	for n := 0; at+17 <= end && n < 10_000; n++ {
		k := make([]byte, 16+9)
		if m, err := r.ReadAt(k, at); m < 17 {
			return *f, err
		}
		length, head := int64(k[16]), int64(17)
		if k[16]&0x80 != 0 {
			digits := int(k[16] & 0x7F)
			if digits > 8 {
				return *f, damaged("a set at byte %d has a length of %d bytes", at, digits)
			}
			length = 0
			for _, c := range k[17 : 17+digits] {
				length = length<<8 | int64(c)
			}
			head += int64(digits)
		}
		if length < 0 || at+head+length > size {
			return *f, damaged("a set at byte %d says %d bytes", at, length)
		}
		switch {
		case n == 0 && bytes.HasPrefix(k, []byte("\x06\x0e\x2b\x34\x02\x05\x01\x01\x0d\x01\x02\x01\x01")):
			// The header partition: its metadata's size bounds the walk.
			b := make([]byte, min(length, 64))
			_, _ = r.ReadAt(b, at+head)
			if len(b) >= 40 {
				if bytes := int64(binary.BigEndian.Uint64(b[32:])); bytes > 0 {
					end = min(size, at+head+length+bytes+1<<16)
				}
			}
		case bytes.HasPrefix(k, label) && length < 1<<20:
			b := make([]byte, length)
			if m, err := r.ReadAt(b, at+head); m < len(b) {
				return *f, err
			}
			sets.read(k[14], b)
		}
		at += head + length
	}
	// A descriptor need not tell the length; a track and its sequence do.
	for sequence, rate := range sets.tracks {
		if n := sets.lengths[sequence]; n > 0 && n < math.MaxInt32 && rate > 0 {
			f.Seconds = max(f.Seconds, float64(n)/rate)
		}
	}
	for _, p := range sets.packages {
		if p.kind == 0x36 && f.Starts == 0 {
			f.Starts = sets.starts(p.tracks)
		}
		if sets.tapes[p.descriptor] {
			f.Reel = p.name
		}
	}
	return *f, nil
}

// mxfSets gathers what the sets of an MXF header tell. Sets refer to each other by their
// instances, of 16 bytes.
type mxfSets struct {
	Facts
	tracks   map[string]float64  // of a track: its sequence's instance → edits a second
	lengths  map[string]int      // of a sequence: its instance → its length in edits
	sequence map[string]string   // of a track: its instance → its sequence's
	parts    map[string][]string // of a sequence: its instance → its components'
	clocks   map[string]int64    // of a timecode component: its instance → its first frame
	tapes    map[string]bool     // the instances of the descriptors of tapes
	packages []mxfPackage
}

type mxfPackage struct {
	kind             byte // 0x36 material, 0x37 source
	name, descriptor string
	tracks           []string
}

// starts is where the timecode of tracks begins, in seconds.
func (f *mxfSets) starts(tracks []string) float64 {
	for _, t := range tracks {
		sequence := f.sequence[t]
		for _, c := range append(f.parts[sequence], sequence) { // a track may have the component itself
			if first, ok := f.clocks[c]; ok && f.tracks[sequence] > 0 {
				return float64(first) / f.tracks[sequence]
			}
		}
	}
	return 0
}

// instances are those of a batch of references: how many, of how many bytes, each.
func instances(v []byte) (list []string) {
	for v = v[min(8, len(v)):]; len(v) >= 16; v = v[16:] {
		list = append(list, string(v[:16]))
	}
	return list
}

// utf16BE is a text of 16 bits a unit, which a zero may end.
func utf16BE(v []byte) string {
	units := make([]uint16, 0, len(v)/2)
	for ; len(v) >= 2; v = v[2:] {
		if u := binary.BigEndian.Uint16(v); u != 0 {
			units = append(units, u)
		}
	}
	return string(utf16.Decode(units))
}

// mxfRate is a Rational, 0 where it makes no sense.
func mxfRate(v []byte) float64 {
	if len(v) < 8 || binary.BigEndian.Uint32(v[4:]) == 0 {
		return 0
	}
	return float64(binary.BigEndian.Uint32(v)) / float64(binary.BigEndian.Uint32(v[4:]))
}

func mxfNumber(v []byte) int {
	switch len(v) {
	case 4:
		return int(binary.BigEndian.Uint32(v))
	case 8:
		return int(min(binary.BigEndian.Uint64(v), math.MaxInt32))
	}
	return 0
}

func (f *mxfSets) read(kind byte, b []byte) {
	var edit, trackRate float64
	var length, sequenceLength int
	var instance, sequence string
	var first int64
	var parts []string
	p := mxfPackage{kind: kind}
	for len(b) >= 4 {
		tag, n := binary.BigEndian.Uint16(b), int(binary.BigEndian.Uint16(b[2:]))
		if b = b[4:]; n > len(b) {
			return
		}
		v := b[:n]
		b = b[n:]
		switch tag {
		case 0x4401: // Package UID
			if kind == 0x36 && n == 32 { // of the material package
				f.ID = umid(v)
			}
		case 0x3C0A:
			instance = string(v)
		case 0x4402:
			p.name = utf16BE(v)
		case 0x4403:
			p.tracks = instances(v)
		case 0x4701:
			p.descriptor = string(v)
		case 0x1001:
			parts = instances(v)
		case 0x1501:
			if n == 8 {
				first = int64(binary.BigEndian.Uint64(v))
			}
		case 0x4B01:
			trackRate = mxfRate(v)
		case 0x4803:
			sequence = string(v)
		case 0x0202:
			sequenceLength = mxfNumber(v)
		case 0x3001:
			edit = mxfRate(v)
		case 0x3002:
			length = mxfNumber(v)
		case 0x3203:
			f.Width = mxfNumber(v)
		case 0x3202:
			f.Height = mxfNumber(v)
		case 0x3D03:
			f.Rate = int(math.Round(mxfRate(v)))
		case 0x3D07:
			f.Channels = mxfNumber(v)
		case 0x3D01:
			f.Depth = mxfNumber(v)
		}
	}
	if edit > 0 && length > 0 && f.Seconds == 0 {
		f.Seconds = float64(length) / edit
	}
	if f.tracks == nil {
		f.tracks, f.lengths, f.sequence = map[string]float64{}, map[string]int{}, map[string]string{}
		f.parts, f.clocks, f.tapes = map[string][]string{}, map[string]int64{}, map[string]bool{}
	}
	switch kind {
	case 0x36, 0x37:
		f.packages = append(f.packages, p)
	case 0x3B: // a track
		f.tracks[sequence], f.sequence[instance] = trackRate, sequence
	case 0x0F: // a sequence
		f.lengths[instance], f.parts[instance] = sequenceLength, parts
	case 0x14: // a timecode component
		f.clocks[instance] = first
	case 0x2E: // a tape's descriptor
		f.tapes[instance] = true
	}
}

// stl reads the number of facets of a binary STL file, which its 81st to 84th
// byte tell. The format has no signature: a file that is exactly as long as it
// then must be is taken for one. Text files would have to be read whole.
func stl(size int64, head []byte) Facts {
	if len(head) < 84 {
		return Facts{}
	}
	if n := int64(binary.LittleEndian.Uint32(head[80:])); n > 0 && 84+50*n == size {
		return Facts{Faces: int(n)}
	}
	return Facts{}
}

// ply reads the elements that its header declares.
func ply(_ io.ReaderAt, _ int64, head []byte) (Facts, error) {
	text, _, ok := strings.Cut(string(head), "end_header")
	if !ok {
		return Facts{}, damaged("its header does not end in its first bytes")
	}
	var f Facts
	for _, line := range strings.Split(text, "\n") {
		w := strings.Fields(line)
		if len(w) != 3 || w[0] != "element" {
			continue
		}
		n, err := strconv.Atoi(w[2])
		if err != nil || n < 0 {
			return f, damaged("it declares %q elements", w[2])
		}
		switch w[1] {
		case "vertex":
			f.Vertices = n
		case "face":
			f.Faces = n
		}
	}
	return f, nil
}

// maxScene bounds the scene description of a GLB that is read for its facts.
const maxScene = 16 << 20

// glb reads the scene of a binary glTF (ISO/IEC 12113 §4.4): vertices and
// triangles of all its meshes.
func glb(r io.ReaderAt, size int64, head []byte) (Facts, error) {
	if len(head) < 20 {
		return Facts{}, damaged("it ends within its header")
	}
	if total := int64(binary.LittleEndian.Uint32(head[8:])); total > size {
		return Facts{}, damaged("it says %d bytes and has %d", total, size)
	}
	n := int64(binary.LittleEndian.Uint32(head[12:]))
	if n > size-20 || string(head[16:20]) != "JSON" {
		return Facts{}, damaged("its first chunk is no scene")
	}
	if n > maxScene {
		return Facts{}, nil
	}
	b := make([]byte, n)
	if m, err := r.ReadAt(b, 20); int64(m) < n {
		return Facts{}, err
	}
	var scene struct {
		Accessors []struct{ Count int }
		Meshes    []struct {
			Primitives []struct {
				Attributes map[string]int
				Indices    *int
				Mode       *int
			}
		}
	}
	if err := json.Unmarshal(b, &scene); err != nil {
		return Facts{}, damaged("%v", err)
	}
	count := func(i int) int {
		if i < 0 || i >= len(scene.Accessors) {
			return 0
		}
		return max(0, scene.Accessors[i].Count)
	}
	var f Facts
	for _, m := range scene.Meshes {
		for _, p := range m.Primitives {
			at, ok := p.Attributes["POSITION"]
			if !ok {
				continue
			}
			corners := count(at)
			f.Vertices += corners
			if p.Indices != nil {
				corners = count(*p.Indices)
			}
			if p.Mode == nil || *p.Mode == 4 { // triangles
				f.Faces += corners / 3
			}
		}
	}
	return f, nil
}
