package seal

import (
	"bytes"
	"context"
	"encoding/hex"
	"errors"
	"hash"
	"io"
	"path"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"github.com/zeebo/xxh3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/rules"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
	"boundcrate/core/text/problem"
)

// NoCrate is a path that cannot be checked as a crate.
type NoCrate struct {
	Path string
	Err  error // nil: it holds no bagit.txt
}

func (e *NoCrate) Error() string {
	if e.Err == nil {
		return "‘" + e.Path + "’ is no crate"
	}
	return "‘" + e.Path + "’ cannot be checked as a crate: " + e.Err.Error()
}

func (e *NoCrate) Unwrap() error { return e.Err }

// Check verifies a crate: every digest of every manifest, nothing missing,
// nothing extra, and the trace of its documents with nothing else reachable.
// An error means that it could not be checked at all. What a difference crate lists and does not hold
// is looked for in the bases, crates or folders.
func Check(ctx context.Context, p string, formats format.Set, bases ...string) (*Report, error) {
	c, err := inspect(ctx, p, formats, bases, false)
	if err != nil {
		return nil, err
	}
	return c.rep, nil
}

// Checked is a crate that was checked, and can be unpacked as what was checked.
type Checked struct {
	Report *Report
	Base   string // the folder it unpacks to by itself
	c      *checker
}

// Inspect is Check for whoever unpacks.
func Inspect(ctx context.Context, p string, formats format.Set, bases ...string) (*Checked, error) {
	c, err := inspect(ctx, p, formats, bases, true)
	if err != nil {
		return nil, err
	}
	base := c.base
	if base == "" {
		_, base = carrier.KindOf(p)
	}
	return &Checked{c.rep, base, c}, nil
}

// Formats are those its documents are read by: those that are known here, then the crate's own rules.
func (c *Checked) Formats() format.Set { return c.c.formats }

// ErrOther: what is unpacked is not what was checked.
var ErrOther = errors.New("it is not what was checked a moment ago")

// Members streams the files of the crate for unpacking; names are below the
// base folder. Bytes that differ from those that were checked are ErrOther once
// they were read, before each returns.
func (c *Checked) Members(ctx context.Context, each func(name string, m carrier.Member, r io.Reader) error) error {
	if len(c.c.filled) > 0 {
		return c.filledMembers(ctx, each)
	}
	if len(c.c.parts) == 0 {
		return c.c.members(ctx, each)
	}
	for _, part := range append([]*checker{c.c}, c.c.parts...) {
		err := part.members(ctx, func(name string, m carrier.Member, r io.Reader) error {
			if !strings.HasPrefix(name, bag.Payload+"/") {
				_, err := io.Copy(io.Discard, r)
				return err
			}
			return each(name, m, r)
		})
		if err != nil {
			return err
		}
	}
	for _, t := range c.c.together() {
		if err := each(t.name, carrier.Member{Name: t.name, Size: int64(len(t.bytes)), Mode: 0o644}, bytes.NewReader(t.bytes)); err != nil {
			return err
		}
	}
	return nil
}

// filledMembers are those of a difference crate that was filled: a whole bag, without fetch.txt.
func (c *Checked) filledMembers(ctx context.Context, each func(name string, m carrier.Member, r io.Reader) error) error {
	err := c.c.members(ctx, func(name string, m carrier.Member, r io.Reader) error {
		_, tag, ok := bag.IsManifest(name)
		switch {
		case name == bag.FetchName:
			_, err := io.Copy(io.Discard, r)
			return err
		case ok && tag:
			text, err := io.ReadAll(r)
			if err != nil {
				return err
			}
			text = unfetched(text)
			m.Size = int64(len(text))
			return each(name, m, bytes.NewReader(text))
		}
		return each(name, m, r)
	})
	if err != nil {
		return err
	}
	return c.c.whole(ctx, each)
}

func (c *checker) members(ctx context.Context, each func(name string, m carrier.Member, r io.Reader) error) error {
	left := len(c.quick)
	err := carrier.Read(ctx, c.path, func(m carrier.Member, r io.Reader) error {
		if r == nil {
			return nil
		}
		want, ok := c.quick[m.Name]
		if !ok {
			return ErrOther
		}
		left--
		h := xxh3.New()
		if err := each(c.inner(m.Name), m, io.TeeReader(r, h)); err != nil {
			return err
		}
		if h.Sum64() != want {
			return ErrOther
		}
		return nil
	})
	if err == nil && left != 0 {
		err = ErrOther
	}
	return err
}

// digest streams the crate once and compares every digest.
func (c *checker) digest(ctx context.Context, sums bag.Sums, v *vault) error {
	files, size := 0, int64(0)
	err := carrier.Read(ctx, c.path, func(m carrier.Member, r io.Reader) error {
		if _, known := c.names[m.Name]; r == nil || !known {
			return nil
		}
		if _, again := c.quick[m.Name]; again {
			return nil
		}
		in := c.inner(m.Name)
		quick := xxh3.New()
		hashes := map[string]hash.Hash{}
		ws := []io.Writer{quick}
		for alg, list := range sums {
			if list[in] != "" {
				hashes[alg] = bag.New(alg)
				ws = append(ws, hashes[alg])
			}
		}
		if strings.HasPrefix(in, bag.Payload+"/") && hashes["sha256"] == nil {
			other := bag.New("sha256")
			ws = append(ws, other)
			defer func() { c.sums[strings.TrimPrefix(in, bag.Payload+"/")] = hex.EncodeToString(other.Sum(nil)) }()
		}
		var n counter
		tee := io.TeeReader(&stopping{ctx, r}, io.MultiWriter(append(ws, &n)...))
		var err error
		if c.folder {
			_, err = io.CopyBuffer(struct{ io.Writer }{io.Discard}, struct{ io.Reader }{tee}, make([]byte, 1<<18))
		} else {
			err = v.take(m.Name, tee)
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		c.quick[m.Name] = quick.Sum64()
		if strings.HasPrefix(in, bag.Payload+"/") {
			files++
			size += int64(n)
		}
		if err != nil {
			c.fault(bag.Fault{Code: bag.Harmed, Member: in, Err: err})
			return nil
		}
		for alg, h := range hashes {
			got := hex.EncodeToString(h.Sum(nil))
			if place, ok := strings.CutPrefix(in, bag.Payload+"/"); ok && alg == "sha256" {
				c.sums[place] = got
			}
			if got != sums[alg][in] {
				c.fault(bag.Fault{Code: bag.Differs, Member: in, Of: alg})
			}
		}
		return nil
	})
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil && c.folder {
		return &NoCrate{c.path, err}
	}
	c.count(sums, files, size)
	return nil
}

// count holds what is there against what is listed: files, bytes and what the bag says of them.
func (c *checker) count(sums bag.Sums, files int, size int64) {
	c.rep.Files, c.rep.Bytes = files, size
	there := map[string]bool{}
	for p, f := range c.filled {
		there[p], c.rep.Files, c.rep.Bytes = true, c.rep.Files+1, c.rep.Bytes+f.size
	}
	for _, p := range c.rep.ToFetch {
		there[p] = true
	}
	for name := range c.names {
		there[c.inner(name)] = true
	}
	for _, p := range sums.Missing(there) {
		c.fault(bag.Fault{Code: bag.Gone, Member: p})
	}
	if want := bag.ReadInfo(bytes.NewReader(c.tags[bag.InfoName]))["Payload-Oxum"]; len(want) > 0 {
		if got := bag.Oxum(c.rep.Bytes, c.rep.Files); got != want[0] && !c.cameLater() && len(c.rep.ToFetch) == 0 {
			c.fault(bag.Fault{Code: bag.WrongOxum, Member: bag.InfoName, Want: want[0], Have: got})
		}
	}
}

type counter int64

func (c *counter) Write(b []byte) (int, error) { *c += counter(len(b)); return len(b), nil }

// stopping ends with its context.
type stopping struct {
	ctx context.Context
	r   io.Reader
}

func (s *stopping) Read(b []byte) (int, error) {
	if err := s.ctx.Err(); err != nil {
		return 0, err
	}
	return s.r.Read(b)
}

// trace proves the documents of the crate: those its record names, else every
// payload file whose content is a document.
func (c *checker) trace(ctx context.Context, formats format.Set, v *vault, rec *record) error {
	var reach drive.Reach = v
	base := filepath.Join(c.at, c.base)
	if c.folder {
		reach = confined(base)
		if len(c.filled) > 0 {
			reach = over{reach, v}
		}
	}
	var docs []string
	if rec != nil {
		for _, d := range rec.Documents {
			if bag.Unsafe(d.Path) == "" {
				docs = append(docs, filepath.Join(base, d.Path))
			}
		}
		c.rep.Left = append(c.rep.Left, rec.Left...)
		for _, r := range rec.Rules {
			if f, problems := rules.Parse(r.ID, []byte(r.Source)); f != nil {
				f.Foreign = true
				formats = append(slices.Clone(formats), f) // after those that are known here
			} else {
				c.rep.Problems = append(c.rep.Problems, problem.Problem{Kind: problem.BadRules, Path: filepath.Join(base, recordName), Document: c.path, Args: []string{r.ID, problems[0].String()}})
			}
		}
	} else {
		for name := range c.names {
			if in := c.inner(name); strings.HasPrefix(in, bag.Payload+"/") && claimed(formats, reach, filepath.Join(c.at, name)) {
				docs = append(docs, filepath.Join(c.at, name))
			}
		}
		sort.Strings(docs)
	}
	c.formats = formats
	for _, d := range docs {
		if rel, err := filepath.Rel(base, d); err == nil {
			c.docs = append(c.docs, filepath.ToSlash(rel))
		}
	}
	e := evidence{formats: formats, reach: reach, data: filepath.Join(base, bag.Payload), docs: docs, late: c.late(), digest: c.sum}
	if rec != nil {
		e.again, e.want = places(rec.Rebuilt), rec.Expect
	}
	p, err := prove(ctx, e)
	if err != nil {
		return err
	}
	if rec != nil && (len(docs) == 0 || len(docs) != len(rec.Documents)) {
		p.Complete = false
		p.Open = append(p.Open, proof.Open{Code: proof.NoRoots, Path: filepath.Join(base, recordName)})
	}
	c.rep.Complete, c.rep.Proof, c.rep.Rules = p.Complete, p.Verdict, p.rules
	if rec != nil && len(rec.Unsaid) > 0 {
		c.rep.Complete = false
		for _, d := range rec.Unsaid {
			c.rep.Unsaid = append(c.rep.Unsaid, path.Join(c.base, d))
		}
	}
	c.rep.Problems = append(c.rep.Problems, p.problems...)
	if len(c.rep.Left) == 0 {
		c.rep.Left = append([]stow.Left{}, p.left...)
	}
	return nil
}

// record is what the crate remembers of how it was made.
func (c *checker) record() *record { return parseRecord(c.lastTags()[recordName]) }

// lastTags are the tag files, of parts those of the last, which alone knows the digests of
// all.
func (c *checker) lastTags() map[string][]byte {
	last, most := c, 0
	for _, p := range append([]*checker{c}, c.parts...) {
		if _, n, _ := membership(bag.ReadInfo(bytes.NewReader(p.tags[bag.InfoName]))); n > most {
			last, most = p, n
		}
	}
	return last.tags
}

// sum is the digest of a file of the payload, in whichever part it lies.
func (c *checker) sum(place string) string {
	for _, p := range append([]*checker{c}, c.parts...) {
		if s := p.sums[place]; s != "" {
			return s
		}
	}
	return ""
}

// late are the files that came to places which the crate kept for them.
func (c *checker) late() func(place string) bool {
	came := map[string]bool{}
	for _, f := range c.rep.Faults {
		if f.Code == CameLater {
			came[strings.TrimPrefix(f.Member, bag.Payload+"/")] = true
		}
	}
	return func(place string) bool { return came[place] }
}

// claimed tells documents by their content.
func claimed(formats format.Set, reach drive.Reach, p string) bool {
	f, err := reach.Open(p)
	if err != nil {
		return false
	}
	defer f.Close()
	head := make([]byte, min(format.HeadSize, f.Size()))
	n, _ := f.ReadAt(head, 0)
	head = head[:n]
	d := formats.Sure(filepath.Base(p), head)
	kind := facts.KindOf(p, head)
	return d != nil && kind != facts.Audio && kind != facts.Video && kind != facts.Image
}
