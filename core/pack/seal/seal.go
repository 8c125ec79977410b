// Package seal carries a plan out: it copies in one pass with SHA-256, rewrites
// the documents to relative names, reads everything back, writes the manifests
// of a BagIt 1.0 bag (RFC 8493), and proves the crate by tracing it with
// nothing else reachable.
//
// A crate under way has a temporary name; its own name appears when it is
// whole. Sources are only read.
package seal

import (
	"cmp"
	"context"
	"io"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"maps"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
	"boundcrate/core/text/problem"
)

// Options is how to seal.
type Options struct {
	Plan *stow.Plan
	// Texts is what its documents will say, where somebody worked that out already.
	Texts *stow.Texts
	Out   string // absolute; its ending tells the carrier
	// Trace is how the plan's graph was traced: documents are opened once more by
	// it, and the crate is proved with its formats.
	Trace   trace.Options
	Keeps   bool         // the crate is to keep the whole project: it must lie on another drive, but with
	Beside  bool         // this, which lets it lie on the project's own
	SHA512  bool         // manifests of SHA-512 too
	Lists   []lists.Kind // what others read it by, in the payload
	Version string       // of this program, for those
	Parts   int64        // bytes that no archive is larger than; 0: it is one. Each of several is a bag of its own
	Since   string       // a crate that the receiver has, absolute: what it holds is listed and not carried; "" for none
	Like    string       // a crate in a folder, absolute, that stays as it is: files of the same SHA-256 share its storage; "" for none
	// Stands tells the SHA-256 of a file of Like that nobody wrote to since it was last read: it is not read once more.
	// Nil: all of them are read.
	Stands func(path string, is drive.Stamp) (sha256 string, ok bool)
	Note   string // the user's own words for the one who receives it
	For    string // whom it is for
	From   string // who made it
	Now    time.Time
	// Digest is the SHA-256 of a file, in hexadecimal, from memory while it is the one that was read,
	// else by reading it. It tells which files of an earlier crate stand. nil: files are read.
	Digest func(ctx context.Context, path string) (string, error)
	// Readme writes the sheet for people, which lies in the crate.
	Readme func(Sheet) string
	// Page writes the same as a page to be printed, which lies in the crate; nil: none does.
	Page     func(Sheet) []byte
	PartNote func(name string, part, of int) string // what a part says beside its files
	// Progress is called often, from several goroutines in turn.
	Progress func(Progress)
}

// Renamed is a file whose name in the crate differs from the one it came with.
type Renamed struct {
	From string        `json:"from"`
	To   string        `json:"to"` // below the crate's base
	Why  stow.Renaming `json:"why"`
}

// Report is what came of sealing or checking a crate.
type Report struct {
	Crate    string
	Files    int // of the payload
	Bytes    int64
	Renamed  []Renamed
	Left     []stow.Left
	Complete bool          // every document in it finds all it needs, and it is what was sealed
	Proof    proof.Verdict // what that rests on
	Rules    []string      // rules files of the crate itself that its documents were read by
	Suspect  []Suspect     // files that travelled though something spoke against them
	Problems []problem.Problem
	Faults   []bag.Fault // of the crate itself, when it was checked
	Unsaid   []string    // documents in the crate that could not be made to name its files
	// Note, From and For are what a checked crate tells of itself: its description and contact
	// (RFC 8493 §2.2.2), and whom its record says it is for; "" where it tells nothing.
	Note, From, For string
	// Sums are the SHA-256 of the sources that were copied as they are.
	Sums map[string]string
	// Archives are the files of a crate that is sealed as archives, by path: the SHA-256 of each, and
	// which file has it.
	Archives map[string]mend.Seen
	// Parts are the archives that it is made of, Lacks those of them that do not lie beside
	// the one that was checked.
	Parts, Lacks []string
	// Foreign are those of Lacks that lie there and belong to another crate, or to another
	// sealing of this one.
	Foreign []string
	// Kept are files that came into the earlier crate, or were changed in it, while it was
	// replaced: they lie beside the new one.
	Kept []string
	// Copied and Stood are what of the payload was copied, and what an earlier crate had already.
	Copied, Stood Amount
	// Unshared is how many files were copied although an earlier crate had them: the drive shares no storage.
	Unshared int
	// SHA256 is that of a crate which is one file in a format's own package, which has no manifest.
	SHA256 string
	// Lists is how many files of the payload are lists that others read it by.
	Lists int
	// Since is the crate that a difference crate builds on, Fetched what it lists and does not carry.
	Since   string
	Fetched Amount
	// Sheet is what the crate tells of itself: of a seal, and of what was inspected.
	Sheet Sheet
	// ToFetch are the files of the payload, below the crate's base, that are listed to be fetched and
	// were found nowhere.
	ToFetch []string
	// ReadBack are the payload's bytes that were read back and found equal,
	// Listed the lines of its manifest.
	ReadBack int64
	Listed   int
}

// Well tells whether nothing needs a person.
func (r *Report) Well() bool {
	return r.Complete && len(r.Problems)+len(r.Faults)+len(r.Unsaid)+len(r.Lacks)+len(r.ToFetch)+len(r.Kept)+len(r.Suspect) == 0
}

// Harm is how many things are wrong with the crate itself: it is not what was
// sealed, or must not be unpacked. What its documents lack is none, nor what
// came later to a place it kept.
func (r *Report) Harm() (n int) {
	for _, f := range r.Faults {
		if f.Code != bag.ToFetch && f.Code != CameLater {
			n++
		}
	}
	return n
}

// item is one file of the crate, payload or tag.
type item struct {
	to      string // below the crate's base
	from    string // source, for messages
	size    int64
	kind    facts.Kind
	content content.Content
	doc     bool // a document, which is carried whatever the receiver has
}

// digest is what one pass over an item's bytes gives.
type digest struct {
	sum   string // SHA-256, hex
	long  string // SHA-512, hex; "" where nobody asked for it
	quick uint64 // xxh3, compared when it is read back
	size  int64
}

// Run seals. It returns an error when no crate was made; a crate that is made
// and not complete is a report that says so.
func Run(ctx context.Context, o Options) (*Report, error) {
	if err := Refuse(o.Plan, o.Out, o.Trace.Drives); err != nil {
		return nil, err
	}
	if o.Keeps && !o.Beside && SameDrive(o.Trace.Reach, o.Plan.Graph.Root, o.Out) {
		return nil, &Refusal{Out: o.Out, Code: OutSameDrive, Detail: o.Plan.Graph.Root}
	}
	if o.Since != "" && sameFile(o.Since, o.Out) {
		return nil, &Refusal{Out: o.Out, Code: OutIsSince}
	}
	if PackageOf(o.Out) != "" && (o.Since != "" || o.Parts > 0 || len(o.Lists) > 0 || o.Keeps) {
		return nil, &Refusal{Out: o.Out, Code: OutPackage}
	}
	texts := o.Texts
	if texts == nil {
		var err error
		if texts, err = o.Plan.Texts(ctx, o.Trace); err != nil {
			return nil, err
		}
	}
	s := &sealer{Options: o, texts: texts, sums: map[string]digest{}, mods: map[string]time.Time{}, lossy: map[string][]problem.Problem{}, archives: map[string]mend.Seen{}, want: o.Plan.Expect()}
	kind, name := carrier.KindOf(o.Out)
	s.name = name
	items, err := s.items(ctx)
	if at := taken(items, o.Lists); err == nil && at != "" {
		err = &Refusal{Out: o.Out, Code: OutListed, Detail: at}
	}
	if err == nil && o.Since != "" {
		items, err = s.leaveOut(ctx, items)
	}
	if err != nil {
		return nil, err
	}
	switch one := PackageOf(o.Out); {
	case one != "":
		err = s.onePackage(ctx, one, items)
	case kind == carrier.Folder && o.Parts > 0:
		err = &Refusal{Out: o.Out, Code: OutNoParts}
	case kind == carrier.Folder:
		err = s.folder(ctx, items)
	case o.Parts > 0:
		err = s.inParts(ctx, kind, items)
	default:
		err = s.archive(ctx, kind, items)
	}
	if err != nil {
		return nil, err
	}
	return s.report(), nil
}

type sealer struct {
	Options
	texts    *stow.Texts
	name     string
	total    int64
	of       int
	done     atomic.Int64
	files    atomic.Int64
	lossy    map[string][]problem.Problem // of sounds, by where they lie
	mu       sync.Mutex
	sums     map[string]digest
	digests  *digester            // of the archive under way; nil in a folder
	back     atomic.Int64         // payload bytes read back and equal
	listed   int                  // lines of the payload manifest
	mods     map[string]time.Time // when sources changed last
	before   map[string]digest    // of several parts: what the earlier ones hold
	proof    *proved
	tally    *tally.Tally
	packed   string               // SHA-256 of a file that is a package
	archives map[string]mend.Seen // see Report
	unshared atomic.Int64
	glb      []part // of one: what its binary chunk must hold
	glbText  string // SHA-256 of its JSON
	listings int    // files of lists
	sheet    Sheet  // what its tag files told last
	want     *proof.Expectations
	part     int // of several: the one that is written, from 1
	parts    int
	made     []string               // the parts
	kept     []string               // of an earlier crate: what came into it while it was replaced
	fetched  map[string]digest      // of a difference crate: what is listed and not carried, by its place
	without  map[string]item        // the same, as it would be made
	stood    Amount                 // of the payload: what the earlier crate had already
	shared   map[string]drive.Stamp // files that are the earlier crate's own, as they were when they were read back
	all      struct {               // of them together
		files int
		bytes int64
	}
}

func (s *sealer) tick(step Step, n int64, file string) {
	done := s.done.Add(n)
	if file != "" {
		s.files.Add(1)
	}
	if s.Progress != nil {
		s.mu.Lock()
		s.Progress(Progress{step, done, s.total, len(s.sums), int(s.files.Load()), s.of, file})
		s.mu.Unlock()
	}
}

func (s *sealer) keep(to string, d digest) {
	s.mu.Lock()
	s.sums[to] = d
	s.mu.Unlock()
}

func (s *sealer) sum(to string) digest {
	s.mu.Lock()
	defer s.mu.Unlock()
	if d, ok := s.fetched[to]; ok {
		return d
	}
	return s.sums[to]
}

// items makes the payload's list. What changed since the trace is refused, of
// documents; other files are taken as they are now.
func (s *sealer) items(ctx context.Context) ([]item, error) {
	g := s.Plan.Graph
	var list []item
	for _, cp := range s.texts.Copies() {
		info, err := s.Trace.Reach.Stat(cp.Source)
		if err != nil {
			return nil, &content.ReadError{Path: cp.Source, Err: err}
		}
		s.mods[cp.Source] = info.ModTime.UTC()
		it := item{to: path.Join(bag.Payload, cp.To), from: cp.Source, kind: cp.Kind, doc: cp.Doc != graph.None || cp.Aside != nil}
		edits, in, doc := cp.Edits, g, cp.Doc
		if cp.Aside != nil {
			in, doc = cp.Aside.Graph, cp.Aside.Doc
			if len(edits) > 0 && !info.Same(in.Documents[doc].Info) {
				return nil, &trace.ChangedError{Path: cp.Source}
			}
		}
		if cp.Doc != graph.None {
			if !info.Same(g.Documents[cp.Doc].Info) {
				return nil, &trace.ChangedError{Path: cp.Source}
			}
			edits = s.texts.Edits(cp.Doc)
		}
		if len(edits) > 0 {
			open := func() (*format.File, error) {
				f, err := s.Trace.Reopen(in, doc)
				if err != nil {
					return nil, err
				}
				return trace.Part(in, doc, f), nil
			}
			if it.content, err = content.NewRewritten(s.Trace.Reach, cp.Source, info, open, edits); err != nil {
				return nil, err
			}
		} else if cp.Sound != nil {
			if s.Progress != nil {
				s.Progress(Progress{Step: Preparing, Of: len(list), File: cp.Source})
			}
			var cut pcm.Cut
			if cp.Cut != nil {
				cut = *cp.Cut
			}
			made, err := content.NewConverted(ctx, s.Trace.Reach, append([]string{cp.Source}, cp.With...), *cp.Sound, cut, cp.Known)
			if err != nil {
				return nil, err
			}
			to := it.to
			made.Made = func(r pcm.Result) { s.noteSound(cp.Source, to, r) }
			it.content = made
		} else {
			it.content = content.AsIs{Reach: s.Trace.Reach, Path: cp.Source, Info: info}
		}
		it.size, _ = it.content.Size()
		s.total += 2 * it.size
		list = append(list, it)
	}
	for _, m := range s.texts.Made() {
		it := item{to: path.Join(bag.Payload, m.To), from: m.To, kind: facts.Document, content: content.Generated(m.Bytes), size: int64(len(m.Bytes)), doc: true}
		s.total += 2 * it.size
		list = append(list, it)
	}
	s.of = len(list)
	return list, nil
}

// noteSound keeps what a conversion could not carry as it was.
func (s *sealer) noteSound(source, to string, r pcm.Result) {
	s.mu.Lock()
	defer s.mu.Unlock()
	list := stow.SoundProblems(source, r)
	if len(list) > 0 {
		s.lossy[to] = list
	}
}

// problems are those of the plan, and of what came of sounds.
func (s *sealer) problems() []problem.Problem {
	list := slices.DeleteFunc(slices.Clone(s.texts.Problems()), func(p problem.Problem) bool {
		return p.Kind == problem.Clipped || p.Kind == problem.NoNumbers // told again by what came of it
	})
	for _, p := range s.Plan.Graph.Problems {
		if p.Kind == problem.Unfollowed || p.Kind == problem.Unasked {
			list = append(list, p)
		}
	}
	for _, to := range slices.Sorted(maps.Keys(s.lossy)) {
		list = append(list, s.lossy[to]...)
	}
	return list
}

// take runs one item through its digests into w; they are kept when they are
// known, which in an archive is later.
func (s *sealer) take(ctx context.Context, it item, w io.Writer) error {
	h := newHasher(w, s.digests, s.SHA512, func(n int) { s.tick(Copying, int64(n), "") })
	err := it.content.WriteTo(ctx, h)
	if err == nil {
		err = h.err
	}
	if err == nil && h.n != it.size {
		err = &WriteError{it.from, io.ErrShortWrite}
	}
	h.finish(func(d digest) {
		if err == nil {
			s.keep(it.to, d)
		}
	})
	return err
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

func (s *sealer) renamed() []Renamed {
	var list []Renamed
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; b.Renamed != stow.AsItWas && !b.Absent && (b.Name != b.Was || b.Clashed) {
			from := b.Source
			if from == "" {
				from = filepath.Join(b.From, b.Was)
			}
			list = append(list, Renamed{from, path.Join(bag.Payload, b.To()), b.Renamed})
		}
	}
	return list
}

func (s *sealer) report() *Report {
	r := &Report{
		Copied: s.carried(), Unshared: int(s.unshared.Load()), Stood: s.stood, Since: s.Since, Fetched: s.lent(), Sheet: s.sheet, SHA256: s.packed, Lists: s.listings,
		Crate: s.Out, Archives: s.archives, Parts: s.made, Kept: s.kept, ReadBack: s.back.Load(), Listed: s.listed, Renamed: s.renamed(), Sums: map[string]string{},
		Left: s.texts.LeftOut(), Problems: s.problems(), Unsaid: s.unsupportedNames(),
		Complete: s.proof.Complete && len(s.unsupportedNames()) == 0, Proof: s.proof.Verdict, Suspect: s.suspect(),
	}
	if len(s.made) > 0 {
		r.Crate = s.made[0]
	}
	r.Problems = append(r.Problems, s.proof.problems...)
	for p, d := range s.sums {
		if strings.HasPrefix(p, bag.Payload+"/") {
			r.Files++
			r.Bytes += d.size
		}
	}
	for _, c := range s.texts.Copies() {
		if c.Doc == graph.None && c.Sound == nil {
			r.Sums[c.Source] = s.sum(path.Join(bag.Payload, c.To)).sum
		}
	}
	slices.SortFunc(r.Left, func(a, b stow.Left) int { return cmp.Or(strings.Compare(a.Path, b.Path), cmp.Compare(a.Why, b.Why)) })
	return r
}

// suspect counts files that travel though something speaks against them.
func (s *sealer) suspect() (list []Suspect) {
	for i := range s.Plan.Berths {
		b := &s.Plan.Berths[i]
		if b.Absent || b.File == graph.None {
			continue
		}
		if why := s.Plan.Judged.Suspicions(b.File); len(why) > 0 {
			list = append(list, Suspect{b.To(), why})
		}
	}
	return list
}

// WriteError is a file that could not be written.
type WriteError struct {
	Path string
	Err  error
}

func (e *WriteError) Error() string {
	return "‘" + e.Path + "’ could not be written: " + e.Err.Error()
}

func (e *WriteError) Unwrap() error { return e.Err }

// confined is the reach a folder crate is proved with.
func confined(dir string) drive.Reach { return drive.Confined{Dir: dir} }
