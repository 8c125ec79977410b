package mendtest

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"path/filepath"
	"strings"

	"boundcrate/core/mend/mend"
)

// Maker makes a studio below a folder from a seed, with about so many references.
type Maker struct {
	Name string
	Make func(dir string, seed uint64, references int) (*Studio, error)
	Fits bool // weights are fitted on it, by even seeds; odd ones report
}

// Makers are the corpora. Each was written from other assumptions about who works how
// and what goes wrong, so that what fits one need not fit another. All of it is invented.
var Makers = []Maker{
	{"harbour", Make, true},         // a film: whole folders are moved, renamed, split
	{"scattered", Scatter, true},    // many small documents, single files on four drives, misleading copies
	{"packs", Packs, true},          // libraries in which hundreds of files have the same few names
	{"days", Days, true},            // recordings counted by machines, day after day; edits after copying
	{"assemblies", Parts, false},    // part numbers, revisions, releases, a vault that was tidied
	{"catalogue", Catalogue, false}, // pages for clients; years put away, names written as addresses
	{"theatre", Theatre, false},     // cues that are counted anew and cut short; written last
}

func newBuilder(dir string, seed, of uint64) *builder {
	return &builder{Rand: rand.New(rand.NewPCG(seed, of)), s: &Studio{Search: []string{dir}, Truth: map[string][]string{}, Seen: map[string]mend.Seen{}, Fate: map[string]string{}}}
}

// lot draws things by shares that are drawn anew for every studio.
type lot[T any] struct {
	of   []T
	upTo []float64
}

// lots gives each thing a share of its own, about by its weight (a Dirichlet distribution
// in effect: exponential draws, made one together).
func lots[T any](b *builder, of []T, weight func(T) float64) lot[T] {
	l := lot[T]{of: of}
	sum := 0.0
	for _, t := range of {
		sum += -math.Log(1-b.Float64()) * weight(t)
		l.upTo = append(l.upTo, sum)
	}
	return l
}

func (l lot[T]) draw(b *builder) T {
	at := b.Float64() * l.upTo[len(l.upTo)-1]
	for i, u := range l.upTo {
		if at < u {
			return l.of[i]
		}
	}
	return l.of[len(l.of)-1]
}

// lose says that a file is no longer where documents expect it, and by what fate.
func (b *builder) lose(expected string, content []byte, fate string) {
	b.s.Truth[expected], b.s.Fate[expected] = nil, fate
	b.s.Seen[expected] = seen(content)
}

// lies writes the file that was lost where it is now; what is there already stays, and
// this one is gone then.
func (b *builder) lies(expected, path string, content []byte) {
	if b.write(path, content) {
		b.s.Truth[expected] = append(b.s.Truth[expected], path)
	}
}

// otherFile is a file of the same kind with other bytes.
func (b *builder) otherFile(name string) []byte {
	return b.file(kindOf(name), "").content
}

func kindOf(name string) kind {
	switch strings.ToLower(filepath.Ext(name)) {
	case ".wav", ".aif":
		return sound
	case ".png", ".tif":
		return picture
	}
	return model
}

// ref is one reference of a document.
type ref struct {
	path    string // of the file it names, absolute
	seconds float64
}

// timeline writes a document of clips (OpenTimelineIO). With told, it tells how long each
// file is; uses is the part that is used of each, as a share, 0 for none told.
func (b *builder) timeline(path string, refs []ref, told bool, uses float64) {
	type object = map[string]any
	frames := func(s float64) object {
		return object{"OTIO_SCHEMA": "RationalTime.1", "rate": 24.0, "value": math.Floor(s * 24)}
	}
	span := func(from, length float64) object {
		return object{"OTIO_SCHEMA": "TimeRange.1", "start_time": frames(from), "duration": frames(length)}
	}
	var clips []object
	for i, r := range refs {
		at, err := filepath.Rel(filepath.Dir(path), r.path)
		if err != nil {
			b.err = err
		}
		media := object{"OTIO_SCHEMA": "ExternalReference.1", "target_url": (&url.URL{Path: filepath.ToSlash(at)}).EscapedPath()}
		clip := object{"OTIO_SCHEMA": "Clip.1", "name": fmt.Sprint("item ", i), "media_reference": media}
		if r.seconds > 0 && told {
			media["available_range"] = span(0, r.seconds)
		}
		if r.seconds > 0 && uses > 0 {
			clip["source_range"] = span(0, r.seconds*uses)
		}
		clips = append(clips, clip)
	}
	text, err := json.Marshal(object{"OTIO_SCHEMA": "Timeline.1", "name": "t", "tracks": object{"OTIO_SCHEMA": "Stack.1", "name": "tracks", "children": []object{
		{"OTIO_SCHEMA": "Track.1", "name": "1", "kind": "Video", "children": clips},
	}}})
	if err != nil {
		b.err = err
	}
	b.document(path, text)
}

// playlist writes a document of one path a line (M3U).
func (b *builder) playlist(path string, refs []ref) {
	text := "#EXTM3U\n"
	for _, r := range refs {
		at, err := filepath.Rel(filepath.Dir(path), r.path)
		if err != nil {
			b.err = err
		}
		text += filepath.ToSlash(at) + "\n"
	}
	b.document(path, []byte(text))
}

// robot writes a document of parts (URDF), which names them by relative addresses.
func (b *builder) robot(path string, refs []ref) {
	text := "<?xml version=\"1.0\"?>\n<robot name=\"r\">\n"
	for i, r := range refs {
		at, err := filepath.Rel(filepath.Dir(path), r.path)
		if err != nil {
			b.err = err
		}
		text += fmt.Sprintf("<link name=\"l%d\"><visual><geometry><mesh filename=\"%s\"/></geometry></visual></link>\n", i, filepath.ToSlash(at))
	}
	b.document(path, []byte(text+"</robot>\n"))
}

func (b *builder) document(path string, text []byte) {
	b.write(path, text)
	b.s.Documents = append(b.s.Documents, path)
}
