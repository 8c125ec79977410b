// Package seal carries a plan out: it copies in one pass with SHA-256, rewrites
// the documents to relative names, reads everything back, writes the manifests
// of a BagIt 1.0 bag (RFC 8493), and proves the crate by tracing it with
// nothing else reachable.
//
// A crate under way has a temporary name; its own name appears when it is
// whole. Sources are only read.
package seal

import (
	"bytes"
	"cmp"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"crypto/sha256"

	"github.com/shirou/gopsutil/v4/disk"
	"github.com/zeebo/xxh3"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/format"
	"boundcrate/core/mention"
	"boundcrate/core/rules"
	"boundcrate/core/stow"
	"boundcrate/core/trace"
)

// Names of the files a crate has beside its payload.
const (
	payloadDir = "data"
	recordName = "crate.json"
	readmeName = "READ ME.txt"
	journal    = ".sealing.journal"
)

// Software is what bag-info.txt and the record name as maker.
const Software = "Bound Crate"

// Options is how to seal.
type Options struct {
	Plan    *stow.Plan
	Out     string // absolute; its ending tells the carrier
	Formats format.Set
	Reach   drive.Reach
	Note    string // the user's own words for the one who receives it
	Now     time.Time
	// Progress is called often, from several goroutines in turn.
	Progress func(Progress)
}

// Progress tells how far a seal has come.
type Progress struct {
	Step  string // copying, reading back, proving
	Done  int64  // bytes of Total: every byte is copied once and read back once
	Total int64
	Files int // files finished
	Of    int
	File  string // the file just finished
}

// Renamed is a file whose name in the crate differs from the one it came with.
type Renamed struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Report is the JSON of `boundcrate seal` and `boundcrate check`.
type Report struct {
	Crate    string            `json:"crate"`
	Files    int               `json:"files"` // of the payload
	Bytes    int64             `json:"bytes"`
	Renamed  []Renamed         `json:"renamed"`
	Left     []stow.Left       `json:"left"`
	Parts    []string          `json:"parts"`
	Complete bool              `json:"complete"`
	Problems []mention.Problem `json:"problems"`
	// Harm is how many of the problems are of the crate itself: it is not what
	// was sealed, or must not be unpacked. What its documents lack is none.
	Harm int `json:"-"`
	// Sums are the SHA-256 of the sources that were copied as they are.
	Sums map[string]string `json:"-"`
	// ReadBack are the payload's bytes that were read back and found equal,
	// Listed the lines of its manifest.
	ReadBack int64 `json:"-"`
	Listed   int   `json:"-"`
}

// Well tells whether nothing needs a person.
func (r *Report) Well() bool { return r.Complete && len(r.Problems) == 0 }

// Refusal is a destination a crate must not be written to.
type Refusal struct{ Out, Why string }

func (e *Refusal) Error() string {
	return fmt.Sprintf("The crate cannot be sealed to ‘%s’: %s. Nothing was written.", e.Out, e.Why)
}

// ChangedError is a source that changed while it was copied.
type ChangedError struct{ Path string }

func (e *ChangedError) Error() string {
	return fmt.Sprintf("‘%s’ changed while it was being copied. The crate was not made and the file was left alone. Wait until nothing writes to it, then seal again.", e.Path)
}

// CopyError is a file that could not be copied.
type CopyError struct {
	Path string
	Err  error
}

func (e *CopyError) Error() string {
	if errors.Is(e.Err, syscall.ENOSPC) {
		return fmt.Sprintf("There was no room left on the destination for ‘%s’. The crate was not made; what was written was taken away again.", e.Path)
	}
	return fmt.Sprintf("‘%s’ could not be copied: %s. The crate was not made and the file was left alone.", e.Path, trace.Reason(e.Err))
}

func (e *CopyError) Unwrap() error { return e.Err }

// record is what a crate remembers of how it was made.
type record struct {
	Software  string           `json:"software"`
	Made      time.Time        `json:"made"`
	Note      string           `json:"note,omitempty"`
	Documents []recordDocument `json:"documents"`
	Files     []recordFile     `json:"files"`
	Texts     []recordText     `json:"texts"`
	Left      []stow.Left      `json:"left"`
	Rules     []recordRules    `json:"rules,omitempty"`
	Unsaid    []string         `json:"unsaid,omitempty"` // documents in the crate that could not be made to name its files
}

// recordRules is a rules file that a document of the crate was read by: without
// it nobody else could prove the crate.
type recordRules struct {
	ID     string `json:"id"`
	Source string `json:"source"` // YAML
}

type recordDocument struct {
	Path   string `json:"path"`   // in the crate
	Source string `json:"source"` // where it came from
}

type recordFile struct {
	Path   string `json:"path"`
	Source string `json:"source"`
	Why    string `json:"renamed,omitempty"`
}

// recordText keeps what a document said before it was rewritten.
type recordText struct {
	Document string `json:"document"`
	Owner    string `json:"owner"`
	Old      string `json:"old"`
	New      string `json:"new"`
}

// item is one file of the crate, payload or tag.
type item struct {
	to    string // below the crate's base
	from  string // source, for messages and the journal
	mod   time.Time
	size  int64
	kind  facts.Kind
	write func(ctx context.Context, w io.Writer) error
}

// digest is what one pass over an item's bytes gives.
type digest struct {
	sum   string // SHA-256, hex
	quick uint64 // xxh3, compared when it is read back
	size  int64
}

// Run seals. It returns an error when no crate was made; a crate that is made
// and not complete is a report that says so.
func Run(ctx context.Context, o Options) (*Report, error) {
	if err := Refuse(o.Plan, o.Out); err != nil {
		return nil, err
	}
	s := &sealer{Options: o, sums: map[string]digest{}}
	carrier, name := CarrierOf(o.Out)
	s.name = name
	items, err := s.items(carrier)
	if err != nil {
		return nil, err
	}
	if err := s.room(); err != nil {
		return nil, err
	}
	if carrier == Folder {
		err = s.folder(ctx, items)
	} else {
		err = s.archive(ctx, carrier, items)
	}
	if err != nil {
		return nil, err
	}
	return s.report(), nil
}

type sealer struct {
	Options
	name     string
	total    int64
	of       int
	done     atomic.Int64
	files    atomic.Int64
	mu       sync.Mutex
	sums     map[string]digest
	texts    []recordText
	back     atomic.Int64 // payload bytes read back and equal
	listed   int          // lines of the payload manifest
	complete bool
	problems []mention.Problem
}

func (s *sealer) tick(step string, n int64, file string) {
	done := s.done.Add(n)
	if file != "" {
		s.files.Add(1)
	}
	if s.Progress != nil {
		s.mu.Lock()
		s.Progress(Progress{step, done, s.total, int(s.files.Load()), s.of, file})
		s.mu.Unlock()
	}
}

// Refuse tells why a destination must not be written to, nil if it may.
func Refuse(p *stow.Plan, out string) error {
	no := func(why string) error { return &Refusal{out, why} }
	carrier, name := CarrierOf(out)
	if name == "" || name == "." || name == "/" {
		return no("it has no name")
	}
	parent := filepath.Dir(out)
	real := out
	if r, err := filepath.EvalSymlinks(parent); err == nil {
		real = filepath.Join(r, filepath.Base(out))
	}
	for i := range p.Graph.Given {
		if d := p.Graph.Documents[i].Path; d == out {
			return no("that is a document of the project")
		}
	}
	for _, at := range []string{out, real} {
		root, err := filepath.EvalSymlinks(p.Graph.Root)
		if err != nil {
			root = p.Graph.Root
		}
		if drive.Within(p.Graph.Root, at) || drive.Within(root, at) {
			return no("it lies inside the project folder. Choose a place outside " + p.Graph.Root)
		}
	}
	fi, err := os.Lstat(out)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if fi, err := os.Stat(parent); err == nil && !fi.IsDir() {
			return no("its parent is no folder")
		}
		return nil
	case err != nil:
		return no(trace.Reason(err))
	case carrier == Folder && fi.IsDir():
		entries, err := os.ReadDir(out)
		if err != nil {
			return no(trace.Reason(err))
		}
		if len(entries) == 0 || sameCrate(out, p) {
			return nil
		}
		return no("that folder is not empty and is no earlier crate of the same documents")
	case carrier == Folder:
		return no("a file of that name is there")
	case !fi.Mode().IsRegular():
		return no("a folder or link of that name is there")
	case !holdsBag(out):
		return no("a file of that name is there and is no crate")
	}
	return nil
}

// sameCrate tells whether a folder is a crate of the plan's documents.
func sameCrate(dir string, p *stow.Plan) bool {
	b, err := os.ReadFile(filepath.Join(dir, recordName))
	if err != nil {
		return false
	}
	if _, err := os.Stat(filepath.Join(dir, "bagit.txt")); err != nil {
		return false
	}
	var rec record
	if json.Unmarshal(b, &rec) != nil || len(rec.Documents) != p.Graph.Given {
		return false
	}
	for _, d := range rec.Documents {
		if !slices.ContainsFunc(p.Graph.Documents[:p.Graph.Given], func(g trace.Document) bool { return g.Path == d.Source }) {
			return false
		}
	}
	return true
}

func holdsBag(archive string) bool {
	found := false
	stop := errors.New("found")
	_ = members(context.Background(), archive, func(m member, _ io.Reader) error {
		if path.Base(m.name) == "bagit.txt" {
			found = true
			return stop
		}
		return nil
	})
	return found
}

// room asks the destination for free space. Where the system does not tell,
// the copy itself will.
func (s *sealer) room() error {
	_, bytes := s.Plan.Totals()
	at := filepath.Dir(s.Out)
	for at != filepath.Dir(at) {
		if _, err := os.Stat(at); err == nil {
			break
		}
		at = filepath.Dir(at)
	}
	if u, err := disk.Usage(at); err == nil && u.Free < uint64(bytes) {
		return &Refusal{s.Out, fmt.Sprintf("it needs %d bytes and only %d are free there", bytes, u.Free)}
	}
	return nil
}

// items makes the payload's list and checks that no document changed since it
// was traced.
func (s *sealer) items(c Carrier) ([]item, error) {
	var list []item
	var moved []recordText
	for _, cp := range s.Plan.Copies() {
		info, err := s.Reach.Stat(cp.Source)
		if err != nil {
			return nil, &CopyError{cp.Source, err}
		}
		it := item{to: path.Join(payloadDir, cp.To), from: cp.Source, size: info.Size, mod: info.ModTime, kind: cp.Kind}
		if cp.Doc >= 0 {
			d := &s.Plan.Graph.Documents[cp.Doc]
			if info.Size != d.Info.Size || !info.ModTime.Equal(d.Info.ModTime) {
				return nil, fmt.Errorf("‘%s’ changed since it was traced. The crate was not made. Trace it again, then seal", cp.Source)
			}
			file, edits := s.Plan.Document(cp.Doc)
			write := func(ctx context.Context, w io.Writer) error {
				return s.rewrite(cp.Source, info, file, edits, w)
			}
			if len(edits) > 0 {
				var n counter
				if err := write(context.Background(), &n); err != nil {
					return nil, err
				}
				it.size = int64(n)
			}
			it.write = write
			for k, name := range s.Plan.Wants(cp.Doc) {
				if old := file.Doc.Name(k); old != name {
					moved = append(moved, recordText{it.to, file.Doc.Mentions[k].Owner, old, name})
				}
			}
		} else {
			it.write = func(ctx context.Context, w io.Writer) error { return s.copy(ctx, cp.Source, info, w) }
		}
		s.total += 2 * it.size
		list = append(list, it)
	}
	slices.SortFunc(moved, func(a, b recordText) int {
		return cmp.Or(strings.Compare(a.Document, b.Document), strings.Compare(a.Owner, b.Owner), strings.Compare(a.Old, b.Old))
	})
	s.of = len(list)
	s.texts = moved
	return list, nil
}

type counter int64

func (c *counter) Write(b []byte) (int, error) { *c += counter(len(b)); return len(b), nil }

// rewrite writes a document with its edits. The texts were read at the trace;
// what else the file holds (the chunks of a GLB) is read again, so the file
// must still be the one that was traced.
func (s *sealer) rewrite(source string, was drive.Info, f *format.File, edits []mention.Edit, w io.Writer) error {
	src, err := drive.OpenSized(s.Reach, source)
	if err != nil {
		return &CopyError{source, err}
	}
	defer src.Close()
	if err := f.RewriteFrom(src, w, edits); err != nil {
		return &CopyError{source, err}
	}
	if now, err := s.Reach.Stat(source); err != nil || now.Size != was.Size || !now.ModTime.Equal(was.ModTime) {
		return &ChangedError{source}
	}
	return nil
}

// copy streams a source, and refuses one that changes on the way.
func (s *sealer) copy(ctx context.Context, source string, was drive.Info, w io.Writer) error {
	f, err := s.Reach.Open(source)
	if err != nil {
		return &CopyError{source, err}
	}
	defer f.Close()
	n, err := io.CopyBuffer(struct{ io.Writer }{w}, struct{ io.Reader }{cancelled{ctx, io.LimitReader(f, was.Size)}}, make([]byte, max(512, min(1<<20, was.Size))))
	if err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return &CopyError{source, err}
	}
	now, err := s.Reach.Stat(source)
	if err != nil || n != was.Size || now.Size != was.Size || !now.ModTime.Equal(was.ModTime) {
		return &ChangedError{source}
	}
	return nil
}

type cancelled struct {
	ctx context.Context
	r   io.Reader
}

func (c cancelled) Read(b []byte) (int, error) {
	if err := c.ctx.Err(); err != nil {
		return 0, err
	}
	return c.r.Read(b)
}

// take runs one item through its digests into w.
func (s *sealer) take(ctx context.Context, it item, w io.Writer) (digest, error) {
	h := newHasher(w, func(n int) { s.tick("copying", int64(n), "") })
	err := it.write(ctx, h)
	d := h.finish()
	if err == nil {
		err = h.err
	}
	return d, err
}

// hasher writes through to w while another goroutine digests what went by.
// Small files never start it.
type hasher struct {
	w     io.Writer
	tick  func(int)
	sha   hash.Hash
	xx    *xxh3.Hasher
	n     int64
	err   error
	queue chan []byte
	free  chan []byte
	done  chan struct{}
}

func newHasher(w io.Writer, tick func(int)) *hasher {
	return &hasher{w: w, tick: tick, sha: sha256.New(), xx: xxh3.New()}
}

const hashInline = 1 << 18

func (h *hasher) Write(b []byte) (int, error) {
	if h.queue == nil && h.n+int64(len(b)) > hashInline {
		h.queue, h.free, h.done = make(chan []byte, 3), make(chan []byte, 4), make(chan struct{})
		for range cap(h.free) {
			h.free <- make([]byte, 0, 1<<20)
		}
		go func() {
			defer close(h.done)
			for b := range h.queue {
				h.sha.Write(b)
				h.xx.Write(b)
				h.free <- b
			}
		}()
	}
	if h.queue == nil {
		h.sha.Write(b)
		h.xx.Write(b)
	} else {
		for rest := b; len(rest) > 0; {
			buf := <-h.free
			k := min(len(rest), cap(buf))
			h.queue <- append(buf[:0], rest[:k]...)
			rest = rest[k:]
		}
	}
	n, err := h.w.Write(b)
	h.n += int64(n)
	h.tick(n)
	if err != nil {
		h.err = err
	}
	return n, err
}

func (h *hasher) finish() digest {
	if h.queue != nil {
		close(h.queue)
		<-h.done
	}
	return digest{hex.EncodeToString(h.sha.Sum(nil)), h.xx.Sum64(), h.n}
}

// each runs f over the items on all cores and stops at the first error.
func each(ctx context.Context, items []item, f func(context.Context, item) error) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	var wg sync.WaitGroup
	var next atomic.Int64
	for range max(2, runtime.NumCPU()) {
		wg.Go(func() {
			for ctx.Err() == nil {
				i := int(next.Add(1)) - 1
				if i >= len(items) {
					return
				}
				if err := f(ctx, items[i]); err != nil {
					cancel(err)
				}
			}
		})
	}
	wg.Wait()
	return context.Cause(ctx)
}

// tags makes the tag files, which need the payload's digests, in the order
// they are written. The tag manifest comes last.
func (s *sealer) tags() []item {
	text := func(name string, b []byte) item {
		return item{to: name, from: name, size: int64(len(b)), kind: facts.Data, write: func(_ context.Context, w io.Writer) error {
			_, err := w.Write(b)
			return err
		}}
	}
	payload := map[string]string{}
	var size int64
	for p, d := range s.sums {
		payload[p] = d.sum
		size += d.size
	}
	var manifest bytes.Buffer
	_ = writeManifest(&manifest, payload) // a buffer takes everything
	s.listed = bytes.Count(manifest.Bytes(), []byte{'\n'})
	rec, _ := json.MarshalIndent(s.record(), "", "  ")
	return []item{
		text("bagit.txt", []byte(bagit)),
		text("bag-info.txt", []byte(s.info(size, len(payload)))),
		text("manifest-sha256.txt", manifest.Bytes()),
		text(readmeName, []byte(s.readme(size, len(payload)))),
		text(recordName, append(rec, '\n')),
	}
}

func (s *sealer) tagManifest(tags []item) item {
	sums := map[string]string{}
	for _, t := range tags {
		sums[t.to] = s.sums[t.to].sum
	}
	var b bytes.Buffer
	_ = writeManifest(&b, sums)
	return item{to: "tagmanifest-sha256.txt", from: "tagmanifest-sha256.txt", size: int64(b.Len()), kind: facts.Data,
		write: func(_ context.Context, w io.Writer) error { _, err := w.Write(b.Bytes()); return err }}
}

func (s *sealer) info(size int64, files int) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Bag-Software-Agent: %s\nBagging-Date: %s\nPayload-Oxum: %d.%d\n", Software, s.Now.Format("2006-01-02"), size, files)
	if note := strings.Join(strings.Fields(s.Note), " "); note != "" {
		fmt.Fprintf(&b, "External-Description: %s\n", note)
	}
	return b.String()
}

// unsaid lists the documents, as they stand in the crate, that could not be
// rewritten. A trace alone may not show it: guesses that lead nowhere are not
// believed.
func (s *sealer) unsaid() (list []string) {
	lost := map[string]bool{}
	for _, p := range s.Plan.Problems {
		lost[p.Path] = lost[p.Path] || p.Code == "cannot-say"
	}
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; b.Doc >= 0 && !b.Absent && lost[b.Source] {
			list = append(list, path.Join(payloadDir, b.Folder, b.Name))
		}
	}
	return list
}

func (s *sealer) record() record {
	rec := record{Software: Software, Made: s.Now.UTC().Truncate(time.Second), Note: s.Note, Texts: s.texts, Left: s.Plan.Left, Unsaid: s.unsaid()}
	for i := range s.Plan.Berths {
		b := &s.Plan.Berths[i]
		if b.Doc >= 0 && b.Doc < s.Plan.Graph.Given && !b.Absent {
			rec.Documents = append(rec.Documents, recordDocument{path.Join(payloadDir, b.Folder, b.Name), b.Source})
		}
	}
	why := map[string]string{}
	for i := range s.Plan.Berths {
		why[s.Plan.Berths[i].Source] = s.Plan.Berths[i].Renamed
	}
	told := map[string]bool{}
	for i := range s.Plan.Graph.Documents {
		if f, ok := s.Plan.Graph.Documents[i].File.Format.(*rules.File); ok && !told[f.ID] {
			told[f.ID] = true
			rec.Rules = append(rec.Rules, recordRules{f.ID, string(f.Source)})
		}
	}
	for _, c := range s.Plan.Copies() {
		rec.Files = append(rec.Files, recordFile{path.Join(payloadDir, c.To), c.Source, why[c.Source]})
	}
	return rec
}

func (s *sealer) readme(size int64, files int) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n%s\n\nSealed on %s: %d files, %d bytes.\n", s.name, strings.Repeat("=", len(s.name)), s.Now.Format("2 January 2006"), files, size)
	if s.Note != "" {
		fmt.Fprintf(&b, "\n%s\n", strings.TrimSpace(s.Note))
	}
	b.WriteString("\nOpen\n----\n")
	for _, d := range s.record().Documents {
		fmt.Fprintf(&b, "%s\n", d.Path)
	}
	b.WriteString("\nAll material lies in the folder \"data\" and is named relative to the documents, so\nthe folder can be put anywhere. It is a BagIt 1.0 bag (RFC 8493). To check every\nbyte with no special program, go into this folder and run:\n\n    sha256sum -c manifest-sha256.txt\n")
	if len(s.Plan.Left) > 0 {
		b.WriteString("\nNot in this crate\n-----------------\n")
		for _, l := range s.Plan.Left {
			fmt.Fprintf(&b, "%s: %s\n", l.Path, l.Why)
		}
	}
	var renamed []string
	for i := range s.Plan.Berths {
		if bt := &s.Plan.Berths[i]; bt.Renamed != "" && !bt.Absent {
			renamed = append(renamed, fmt.Sprintf("%s is now %s: %s", bt.Was, path.Join(bt.Folder, bt.Name), bt.Renamed))
		}
	}
	if len(renamed) > 0 {
		fmt.Fprintf(&b, "\nRenamed\n-------\n%s\n", strings.Join(renamed, "\n"))
	}
	return b.String()
}

func (s *sealer) report() *Report {
	r := &Report{
		Crate: s.Out, Complete: s.complete, ReadBack: s.back.Load(), Listed: s.listed, Renamed: []Renamed{}, Parts: []string{}, Sums: map[string]string{},
		Left: append([]stow.Left{}, s.Plan.Left...), Problems: append([]mention.Problem{}, s.Plan.Problems...),
	}
	r.Problems = append(r.Problems, s.problems...)
	for p, d := range s.sums {
		if strings.HasPrefix(p, payloadDir+"/") {
			r.Files++
			r.Bytes += d.size
		}
	}
	for _, c := range s.Plan.Copies() {
		if c.Doc < 0 {
			r.Sums[c.Source] = s.sums[path.Join(payloadDir, c.To)].sum
		}
	}
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; b.Renamed != "" && !b.Absent && b.Name != b.Was {
			from := b.Source
			if from == "" {
				from = filepath.Join(b.From, b.Was)
			}
			r.Renamed = append(r.Renamed, Renamed{from, path.Join(payloadDir, b.Folder, b.Name)})
		}
	}
	return r
}
