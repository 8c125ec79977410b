package trace

import (
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/rules"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Readings keeps what documents said, without their texts, so that a second
// trace reads only the documents that changed. It is for one project; the zero
// value is ready. Safe for concurrent use.
type Readings struct {
	mu      sync.Mutex
	formats string
	of      map[string]*reading // by the document's real path
	plain   map[string]plain    // by real path: files that are no documents
}

// plain is a file that was opened and is no document.
type plain struct {
	stamp drive.Stamp
	look  *graph.Look
}

// reading is what one document said. It never changes.
type reading struct {
	stamp    drive.Stamp
	format   format.Format
	last     bool // a format that takes what no other does
	texts    []textOf
	said     []said
	says     map[string]string
	main     string // Doc.Default
	problems []problem.Problem
	parts    []part
	asked    map[string]bool // names it looked for on the disk, and the answers
}

type textOf struct {
	name   string
	member bool
}

// part is a file that was read in place.
type part struct {
	name, path string
	info       drive.Info
}

// said is a mention without the way back to its text.
type said struct {
	name, written, owner, member, kind string
	data                               *mention.Data // without Open
	inside                             facts.Kind    // of data
	sequence                           *mention.Sequence
	slide                              *graph.Slide
	rng                                *mention.Range
	told                               *mention.Told
	in                                 *mention.Scope
	group                              mention.Group
	text                               int32
	spelling                           mention.Spelling
	use                                mention.Use
	nature                             mention.Nature
	nth                                int32 // among those of its owner that are written alike
	fixed                              bool  // no text there could be rewritten
}

func (s *said) mention() mention.Mention {
	return mention.Mention{Spelling: s.spelling, Nature: s.nature, Data: s.data, Sequence: s.sequence}
}

func (s *said) scope() *mention.Scope {
	if s.in == nil {
		return (&mention.Mention{}).In()
	}
	return s.in
}

// Signature changes when documents may be read otherwise.
func Signature(set format.Set) string {
	var b strings.Builder
	b.WriteString("facts 2\x00") // what is read of a file's header beside them
	for _, f := range set {
		b.WriteString(f.Name() + "\x00")
		if r, ok := f.(*rules.File); ok {
			b.Write(r.Source)
		}
	}
	return b.String()
}

func (r *Readings) find(real string, stamp drive.Stamp, formats string) *reading {
	if r == nil {
		return nil
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.formats != formats {
		return nil
	}
	if got := r.of[real]; got != nil && got.stamp == stamp {
		return got
	}
	return nil
}

// lookOf is that of a file that was no document when it was last opened.
func (r *Readings) lookOf(real string, stamp drive.Stamp, formats string) (*graph.Look, bool) {
	if r == nil {
		return nil, false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	p, ok := r.plain[real]
	return p.look, ok && r.formats == formats && p.stamp == stamp
}

// keep replaces everything by what a trace read.
func (r *Readings) keep(of map[string]*reading, plain map[string]plain, formats string) {
	if r == nil {
		return
	}
	r.mu.Lock()
	r.formats, r.of, r.plain = formats, of, plain
	r.mu.Unlock()
}

// holds tells whether a reading would be the same now: what it was read with is
// as it was.
func (t *tracer) holds(path string, info drive.Info, r *reading) bool {
	a := &around{t: t, path: path, info: info}
	for name, there := range r.asked {
		if a.Exists(name) != there {
			return false
		}
	}
	for _, p := range r.parts {
		if place := a.find(p.name); !place.State.Found() || place.Info.Real != p.info.Real || place.Info.Stamp() != p.info.Stamp() {
			return false
		}
	}
	return true
}

// read reads a document, or takes what it said when it was last read.
func (t *tracer) read(path string, info drive.Info) (*reading, error) {
	if r := t.Readings.find(info.Real, info.Stamp(), t.formats); r != nil && t.holds(path, info, r) {
		return r, nil
	}
	around := &around{t: t, path: path, info: info}
	file, err := t.file(path, around)
	if err != nil {
		return nil, err
	}
	return digest(file, info, around), nil
}

func (t *tracer) file(path string, around *around) (*format.File, error) {
	src, err := t.Reach.Open(path)
	if err != nil {
		return nil, err
	}
	file, err := t.Formats.OpenAmong(filepath.Base(path), src, around)
	if t.hold == nil || err != nil {
		return file, errors.Join(err, src.Close())
	}
	*t.hold = src
	return file, nil
}

// digest takes from a document what a trace needs, and lets its text go.
func digest(file *format.File, info drive.Info, around *around) *reading {
	doc := file.Doc
	_, last := file.Format.(format.Last)
	r := &reading{
		stamp: info.Stamp(), format: file.Format, last: last, says: doc.Says, main: doc.Default, problems: doc.Problems,
		said: make([]said, len(doc.Mentions)), parts: around.included, asked: around.asked,
	}
	for _, t := range doc.Texts {
		r.texts = append(r.texts, textOf{t.Name, t.Member})
	}
	type alike struct {
		text           int // a package's members count together
		owner, written string
	}
	nth := make(map[alike]int32, len(doc.Mentions))
	for k := range doc.Mentions {
		m := &doc.Mentions[k]
		s := &r.said[k]
		*s = said{
			owner: m.Owner, member: m.Member, kind: m.Kind, sequence: m.Sequence, rng: m.Range, told: m.Told, in: m.Scope, group: m.Group,
			text: int32(m.Text), spelling: m.Spelling, use: m.Use, nature: m.Nature, fixed: len(m.Pieces) == 0, slide: slideOf(m.Slide),
		}
		s.written = doc.Written(k)
		switch {
		case m.Inside():
			s.data, s.inside = &mention.Data{Size: m.Data.Size}, embeddedKind(m, s.written)
		case m.Shown == nil && len(m.Lean) == 0:
			s.name = s.written
		default:
			s.name = doc.Name(k)
		}
		if s.use == mention.Bystander {
			continue
		}
		key := alike{m.Text, s.owner, s.written}
		if r.texts[m.Text].member {
			key.text = -1
		}
		s.nth = nth[key]
		nth[key]++
	}
	return r
}

// plainly is the slide of most, kept once.
var plainly = &graph.Slide{}

func slideOf(s *mention.Slide) *graph.Slide {
	switch {
	case s == nil:
		return nil
	case s.First != nil:
		return &graph.Slide{Origin: s.Origin, Raised: true, Images: true, First: s.First.Value, Rate: s.First.Rate}
	case s.Raised:
		return &graph.Slide{Origin: s.Origin, Raised: true}
	}
	return plainly
}

// around answers a document that is being read: names are resolved as those
// of its mentions are.
type around struct {
	t        *tracer
	path     string
	info     drive.Info
	ours     func(real string) bool // nil: nobody writes yet
	included []part                 // in the order of their texts
	asked    map[string]bool
}

func (a *around) find(name string) *graph.Place {
	return a.t.resolver.Resolve(a.path, &mention.Mention{Spelling: mention.Path}, name, name)
}

// Exists implements format.Around.
func (a *around) Exists(name string) bool {
	if a.asked == nil {
		a.asked = map[string]bool{}
	}
	a.asked[name] = a.find(name).State.Found()
	return a.asked[name]
}

// Include implements format.Around. A file is opened for each name that it is
// included by. Its mentions are those of the first reading, which alone can
// write it.
func (a *around) Include(name string) (src format.Source, ours bool, err error) {
	place := a.find(name)
	if !place.State.Found() {
		return nil, false, fs.ErrNotExist
	}
	if place.Info.Real == a.info.Real {
		return nil, false, fs.ErrExist // itself
	}
	again := slices.ContainsFunc(a.included, func(p part) bool { return p.info.Real == place.Info.Real })
	ours = !again && (a.ours == nil || a.ours(place.Info.Real))
	file, err := a.t.Reach.Open(place.Path)
	if err != nil {
		return nil, false, err
	}
	defer file.Close()
	b, err := io.ReadAll(io.NewSectionReader(file, 0, min(file.Size(), maxIncluded)))
	if err != nil {
		return nil, false, err
	}
	a.included = append(a.included, part{name, place.Path, place.Info})
	return bytes.NewReader(b), ours, nil
}

// maxIncluded bounds a file that is read in place: what is longer is no text
// somebody included.
const maxIncluded = 64 << 20

// ChangedError is a document that is not the one that was traced any more.
type ChangedError struct{ Path string }

func (e *ChangedError) Error() string { return "‘" + e.Path + "’ changed since it was traced" }

// Reopen opens document i of a graph once more, with its texts, for whoever
// rewrites it. It must still be what was traced: another is a *ChangedError.
// The document of an included text is its host's.
func (o Options) Reopen(g *graph.Graph, i graph.DocID) (*format.File, error) {
	return o.reopen(g, i, nil)
}

// ReopenHeld is Reopen for whoever reads what stands inside beside the texts (a
// member of a package): it can be read until the closer is closed.
func (o Options) ReopenHeld(g *graph.Graph, i graph.DocID) (*format.File, io.Closer, error) {
	var src io.Closer
	file, err := o.reopen(g, i, &src)
	if err != nil && src != nil {
		src.Close()
	}
	return file, src, err
}

func (o Options) reopen(g *graph.Graph, i graph.DocID, hold *io.Closer) (*format.File, error) {
	host := g.Documents[i].Host
	d := &g.Documents[host]
	now, err := o.Reach.Stat(d.Path)
	if err != nil {
		return nil, &Error{d.Path, err}
	}
	if !now.Same(d.Info) {
		return nil, &ChangedError{d.Path}
	}
	t := &tracer{Options: o, hold: hold}
	t.resolver = o.resolver(context.Background(), g.Root)
	a := &around{t: t, path: d.Path, info: d.Info, ours: func(real string) bool {
		for k := range g.Documents {
			if p := &g.Documents[k]; p.Info.Real == real {
				return p.Host == host && !p.Shared
			}
		}
		return false
	}}
	file, err := t.file(d.Path, a)
	if err != nil {
		return nil, &Error{d.Path, err}
	}
	for _, p := range a.included {
		for k := range g.Documents {
			if was := &g.Documents[k]; was.Info.Real == p.info.Real && !p.info.Same(was.Info) {
				return nil, &ChangedError{p.path}
			}
		}
	}
	return file, nil
}

// Part is document i's own file of its host's, as Reopen opened it.
func Part(g *graph.Graph, i graph.DocID, host *format.File) *format.File {
	if d := &g.Documents[i]; d.Host != i {
		return host.Part(d.Text)
	}
	return host
}

// opaque tells packages whose document nobody here reads.
func opaque(err error) bool {
	var mal *format.MalformedError
	return errors.As(err, &mal) && mal.Opaque
}
