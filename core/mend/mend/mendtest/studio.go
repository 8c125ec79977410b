// Package mendtest makes studios that lost things, with the truth of where each went,
// to fit and to report what mending makes of them. All of it is invented, from a
// seed; contents are small and real: sound, pictures, models.
package mendtest

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/mend/mend"
)

// Studio is one that lost things.
type Studio struct {
	Root      string   // the project's folder
	Search    []string // where to look
	Documents []string // timelines
	// Truth is where each lost file went, by the path that is expected of it. Several:
	// copies of the same bytes, any of which is right. None: it is gone for good.
	Truth map[string][]string
	// Fate is what became of each, in a word or two.
	Fate map[string]string
	// Seen is what was known of each before.
	Seen map[string]mend.Seen
}

// Memory is what was known before.
func (s *Studio) Memory(_, path string) (mend.Seen, bool) {
	seen, ok := s.Seen[path]
	return seen, ok
}

type file struct {
	name    string
	content []byte
	seconds float64
}

type folder struct {
	dir   string // below the root
	files []file
	kind  kind
}

type kind int

const (
	sound kind = iota
	picture
	model
)

type builder struct {
	*rand.Rand
	s     *Studio
	other int
	err   error
}

// Make makes a studio below a folder, with about so many references.
func Make(dir string, seed uint64, references int) (*Studio, error) {
	b := newBuilder(filepath.Join(dir, "studio"), seed, 7)
	b.s.Root = filepath.Join(dir, "studio", "harbour film")
	fate := lots(b, fates, func(f folderFate) float64 { return f.often })
	met := map[string]bool{}
	var folders []*folder
	for n := 0; n < references; {
		f := b.folder()
		if met[f.dir] {
			continue
		}
		met[f.dir] = true
		folders = append(folders, f)
		n += len(f.files)
	}
	b.documents(folders)
	b.sums(folders)
	for i, f := range folders {
		if i%9 == 8 { // some lost nothing
			for _, x := range f.files {
				b.write(b.expected(f, x.name), x.content)
			}
			continue
		}
		became := fate.draw(b)
		for _, x := range f.files {
			b.lose(b.expected(f, x.name), x.content, became.name)
		}
		became.happens(b, f)
	}
	for range references { // what else lies about, in whatever folders
		f := folders[b.IntN(len(folders))]
		x := f.files[b.IntN(len(f.files))]
		stem, ext := parts(x.name)
		switch b.IntN(16) {
		case 0, 7, 8, 9:
			stem = b.name(b.IntN(styles))
		case 1:
			stem += fmt.Sprintf(" %02d", b.IntN(20))
		case 2:
			stem += b.pick([]string{" old", "_edit", " (2)", "-x"})
		case 3:
			stem = b.pick([]string{"test ", "x_", "my "}) + stem
		case 4, 5:
			ext = map[kind]string{sound: ".aif", picture: ".tif", model: ".stl"}[f.kind]
		case 6, 10:
			stem = strings.ToUpper(stem)
		case 11, 12, 13, 14:
			stem += fmt.Sprintf(" take %d", 2+b.IntN(7))
		}
		b.write(filepath.Join(b.s.Search[0], b.pick(attics), fmt.Sprint("lot ", b.IntN(9)), stem+ext), b.file(f.kind, "").content)
	}
	return b.s, b.err
}

var (
	subjects = strings.Fields("gull harbour winch chain creak tide bell rope deck lantern engine door steps crowd rain wind horn oar hull mast anchor crane market kettle gravel")
	manners  = strings.Fields("long short soft hard far near inside outside slow fast wet dry low high left right dawn dusk")
	places   = strings.Fields("foley wood metal cloth water takes location plates scans props rig textures walls voices rooms effects drones loops stills maps")
	attics   = []string{"to sort", "desktop", "from the other machine", "tray", "shared"}
	styles   = 4
)

func (b *builder) pick(list []string) string { return list[b.IntN(len(list))] }

func (b *builder) name(style int) string {
	switch style {
	case 0:
		return b.pick(subjects) + " " + b.pick(manners) + b.pick([]string{"", " a", " b", " with echo", " no echo"})
	case 1:
		return fmt.Sprintf("%s_%s_%02d", b.pick(subjects), b.pick(manners), 1+b.IntN(40))
	case 2:
		return fmt.Sprintf("%s-v%02d", b.pick(subjects), 1+b.IntN(5))
	}
	return fmt.Sprintf("T%03d", 1+b.IntN(400))
}

func (b *builder) folder() *folder {
	f := &folder{dir: b.pick(places) + "/" + b.pick(places), kind: kind(b.IntN(3))}
	if b.IntN(3) == 0 {
		f.dir += fmt.Sprintf(" %d", 1+b.IntN(4))
	}
	if b.IntN(3) == 0 {
		f.dir = b.pick(places) + "/" + f.dir
	}
	style, met := b.IntN(styles), map[string]bool{}
	series := b.IntN(300)
	for n, most := 0, 2+b.IntN(2+b.IntN(40)); n < most; n++ {
		name := b.name(style)
		if style == 3 {
			name = fmt.Sprintf("T%03d", series+n)
		}
		if x := b.file(f.kind, name); !met[x.name] {
			met[x.name] = true
			f.files = append(f.files, x)
		}
	}
	return f
}

func (b *builder) file(k kind, stem string) file {
	switch k {
	case picture:
		return file{name: stem + ".png", content: b.png()}
	case model:
		return file{name: stem + ".obj", content: b.obj()}
	}
	content, seconds := b.wav()
	return file{stem + ".wav", content, seconds}
}

// rate is low so that a second costs little.
const rate = 2000

func (b *builder) wav() ([]byte, float64) {
	n := 300 + b.IntN(4000)
	data := make([]byte, n)
	for i := range data {
		data[i] = byte(b.Uint32())
	}
	return Wave(data), float64(n) / rate
}

// Wave is a WAV file of samples of 8 bits.
func Wave(data []byte) []byte {
	var w bytes.Buffer
	w.WriteString("RIFF")
	put := func(v any) { _ = binary.Write(&w, binary.LittleEndian, v) } // a buffer takes it
	put(uint32(36 + len(data) + len(data)&1))
	w.WriteString("WAVEfmt ")
	put(uint32(16))
	put(uint16(1))
	put(uint16(1))
	put(uint32(rate))
	put(uint32(rate))
	put(uint16(1))
	put(uint16(8))
	w.WriteString("data")
	put(uint32(len(data)))
	w.Write(data)
	if len(data)&1 == 1 {
		w.WriteByte(0)
	}
	return w.Bytes()
}

// aiff is an AIFF file (AIFF 1.3) of the same samples, which have a sign there.
func aiff(data []byte) []byte {
	var w bytes.Buffer
	put := func(v any) { _ = binary.Write(&w, binary.BigEndian, v) }
	w.WriteString("FORM")
	put(uint32(4 + 26 + 16 + len(data) + len(data)&1))
	w.WriteString("AIFFCOMM")
	put(uint32(18))
	put(uint16(1))
	put(uint32(len(data)))
	put(uint16(8))
	put(uint16(16383 + 10)) // the rate as an 80-bit float: 2^10 · 1.953125
	put(uint64(rate) << (63 - 10))
	w.WriteString("SSND")
	put(uint32(8 + len(data)))
	put(uint64(0))
	for _, v := range data {
		w.WriteByte(v ^ 0x80)
	}
	if len(data)&1 == 1 {
		w.WriteByte(0)
	}
	return w.Bytes()
}

func (b *builder) png() []byte {
	m := image.NewGray(image.Rect(0, 0, 4+b.IntN(30), 4+b.IntN(30)))
	for i := range m.Pix {
		m.Pix[i] = byte(b.Uint32())
	}
	m.SetGray(0, 0, color.Gray{1})
	var w bytes.Buffer
	if err := png.Encode(&w, m); err != nil {
		b.err = err
	}
	return w.Bytes()
}

func (b *builder) obj() []byte {
	var w bytes.Buffer
	for range 3 + b.IntN(40) {
		fmt.Fprintf(&w, "v %d %d %d\n", b.IntN(900), b.IntN(900), b.IntN(900))
	}
	w.WriteString("f 1 2 3\n")
	return w.Bytes()
}

func (b *builder) expected(f *folder, name string) string {
	return filepath.Join(b.s.Root, filepath.FromSlash(f.dir), name)
}

// write writes a file; what is there already stays.
func (b *builder) write(path string, content []byte) bool {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		b.err = err
		return false
	}
	if _, err := os.Lstat(path); err == nil {
		return false
	}
	if err := os.WriteFile(path, content, 0o644); err != nil {
		b.err = err
	}
	return true
}

// put writes a file where it went, and keeps that as the truth.
func (b *builder) put(f *folder, x file, path string, content []byte) {
	b.lies(b.expected(f, x.name), path, content)
}

// documents are three timelines that share the folders: half of the clips tell how
// long their file is, and each uses a part of it.
func (b *builder) documents(folders []*folder) {
	type object = map[string]any
	const fps = 25.0
	frames := func(s float64) object {
		return object{"OTIO_SCHEMA": "RationalTime.1", "rate": fps, "value": s * fps}
	}
	span := func(from, length float64) object {
		return object{"OTIO_SCHEMA": "TimeRange.1", "start_time": frames(from), "duration": frames(length)}
	}
	for d := range 3 {
		var clips []object
		for i, f := range folders {
			if i%3 != d {
				continue
			}
			told := b.IntN(2) == 0
			for _, x := range f.files {
				path := f.dir + "/" + x.name
				ref := object{"OTIO_SCHEMA": "ExternalReference.1", "target_url": (&url.URL{Path: path}).EscapedPath()}
				clip := object{"OTIO_SCHEMA": "Clip.1", "name": strings.TrimSuffix(x.name, filepath.Ext(x.name)), "media_reference": ref}
				if x.seconds > 0 {
					from := x.seconds * 0.5 * b.Float64()
					clip["source_range"] = span(from, (x.seconds-from)*b.Float64())
					if told {
						ref["available_range"] = span(0, x.seconds)
					}
				}
				clips = append(clips, clip)
			}
		}
		text, err := json.MarshalIndent(object{"OTIO_SCHEMA": "Timeline.1", "name": "reel", "tracks": object{"OTIO_SCHEMA": "Stack.1", "name": "tracks", "children": []object{
			{"OTIO_SCHEMA": "Track.1", "name": "A1", "kind": "Audio", "children": clips},
		}}}, "", " ")
		if err != nil {
			b.err = err
		}
		path := filepath.Join(b.s.Root, fmt.Sprintf("reel %d.otio", d+1))
		b.write(path, text)
		b.s.Documents = append(b.s.Documents, path)
	}
}

// sums is a checksum list of every eighth folder (FIPS 180-4).
func (b *builder) sums(folders []*folder) {
	var w bytes.Buffer
	for i, f := range folders {
		for _, x := range f.files {
			if i%8 == 5 {
				fmt.Fprintf(&w, "%x  %s/%s\n", sha256.Sum256(x.content), f.dir, x.name)
			}
		}
	}
	path := filepath.Join(b.s.Root, "SHA256SUMS")
	b.write(path, w.Bytes())
	b.s.Documents = append(b.s.Documents, path)
}

func (b *builder) attic() string { return filepath.Join(b.s.Search[0], b.pick(attics)) }

// Right tells whether a file is what was wanted.
func (s *Studio) Right(expected, path string) bool { return slices.Contains(s.Truth[expected], path) }

func seen(content []byte) mend.Seen {
	sum := sha256.Sum256(content)
	s := mend.Seen{Size: int64(len(content)), SHA256: hex.EncodeToString(sum[:])}
	if known, err := facts.Read(bytes.NewReader(content), s.Size); err == nil && known != (facts.Facts{}) {
		known.Decoded, _ = facts.Decoded(bytes.NewReader(content), s.Size)
		s.Facts = known
	}
	return s
}
