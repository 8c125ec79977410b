package seal

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"hash/crc32"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/text/bag"
)

// Package is a format's own file that holds a document with all it needs, "" for none.
type Package string

// The packages.
const (
	OTIOZ Package = "otioz" // OpenTimelineIO file bundle: content.otio, version.txt, media/
	GLB   Package = "glb"   // glTF 2.0 §4.4
	USDZ  Package = "usdz"  // USDZ: stored, data aligned to 64 bytes, the root layer first
)

// PackageOf tells by the ending of a destination.
func PackageOf(out string) Package {
	switch p := Package(strings.TrimPrefix(strings.ToLower(filepath.Ext(out)), ".")); p {
	case OTIOZ, GLB, USDZ:
		return p
	}
	return ""
}

// Layout is how a package wants its files to lie; "" leaves it to the recipe.
func (p Package) Layout() stow.Layout {
	switch p {
	case OTIOZ:
		return "media/{name}"
	case USDZ:
		return stow.AsStands
	}
	return ""
}

// held are the file types a package may hold (USDZ specification, "File Types"; a bundle of media holds any).
var held = map[Package][]string{USDZ: {".usda", ".usdc", ".usd", ".png", ".jpg", ".jpeg", ".exr", ".avif", ".m4a", ".mp3", ".wav"}}

// onePackage makes a crate that is one file in a format's own package.
func (s *sealer) onePackage(ctx context.Context, kind Package, items []item) error {
	root, err := s.packable(items)
	if err != nil {
		return err
	}
	dir := filepath.Dir(s.Out)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return &WriteError{s.Out, err}
	}
	f, isHeld, err := drive.Hold(filepath.Join(dir, "."+filepath.Base(s.Out)+partialEnd), os.O_RDWR|os.O_CREATE)
	if err != nil {
		return &WriteError{s.Out, err}
	}
	if !isHeld {
		return &Refusal{Out: s.Out, Code: OutBusy}
	}
	u := &underWay{File: f, out: s.Out}
	fail := func(err error) error { u.drop(); return err }
	if err := f.Truncate(0); err != nil {
		return fail(&WriteError{s.Out, err})
	}
	switch kind {
	case GLB:
		err = s.writeGLB(ctx, f, root, items)
	default:
		err = s.writePackage(ctx, f, kind, root, items)
	}
	if err == nil {
		err = errors.Join(f.Chmod(0o644), f.Sync())
	}
	if err != nil {
		return fail(err)
	}
	drive.Forget(f)
	if s.packed, err = s.readPackage(ctx, f, kind, root); err != nil {
		return fail(err)
	}
	rec := s.record()
	s.sheet = rec.sheet(filepath.Base(s.Out), func(p string) int64 { return s.sum(p).size })
	s.sheet.Packed = s.packed
	if _, err := os.Lstat(s.Out); err == nil {
		return fail(&Refusal{Out: s.Out, Code: OutFile})
	}
	u.sum = s.packed
	if err := s.named(u); err != nil {
		return fail(err)
	}
	f.Close()
	return fileset.SyncDir(dir)
}

// formatsOf are the formats of documents that a package is made of.
var formatsOf = map[Package][]string{OTIOZ: {"otio"}, GLB: {"gltf", "glb"}, USDZ: {"usda"}}

// PackageFor is the package that a graph's document has; "" where it has none, or several were given.
func PackageFor(g *graph.Graph) Package {
	if len(g.Roots) != 1 {
		return ""
	}
	for _, p := range []Package{OTIOZ, GLB, USDZ} {
		if slices.Contains(formatsOf[p], g.Documents[g.Roots[0]].Format) {
			return p
		}
	}
	return ""
}

// Packable tells why a destination that is a package cannot hold all of a plan; nil if it can, or is none.
func Packable(p *stow.Plan, out string) error {
	kind := PackageOf(out)
	if kind == "" {
		return nil
	}
	g := p.Graph
	no := func(code RefusalCode, detail string) error { return &Refusal{Out: out, Code: code, Detail: detail} }
	if len(g.Roots) != 1 {
		return no(OutManyRoots, "")
	}
	doc := &g.Documents[g.Roots[0]]
	if !slices.Contains(formatsOf[kind], doc.Format) {
		return no(OutOtherFormat, doc.Path)
	}
	named := map[string]bool{}
	for i := range g.Files {
		if f := &g.Files[i]; len(f.Refs) > 0 {
			named[f.Path] = true
			if f.Frames != nil {
				for _, p := range f.Frames.Files {
					named[p] = true
				}
			}
		}
	}
	for _, c := range p.NewTexts().Copies() {
		is := c.Doc != graph.None || c.Aside != nil
		switch {
		case c.Source == doc.Path:
		case !named[c.Source]: // it goes along, and nothing names it
			return no(OutPackage, c.Source)
		case kind == OTIOZ && (is || path.Dir(c.To) != "media"), kind == GLB && is:
			return no(OutNotHeld, c.Source)
		case held[kind] != nil && !slices.Contains(held[kind], strings.ToLower(path.Ext(c.To))):
			return no(OutNotHeld, c.Source)
		}
	}
	return nil
}

// packable is the one root document, or why the package cannot hold all of it.
func (s *sealer) packable(items []item) (root item, err error) {
	if err := Packable(s.Plan, s.Out); err != nil {
		return item{}, err
	}
	doc := s.Plan.Graph.Documents[s.Plan.Graph.Roots[0]].Path
	for _, it := range items {
		if it.from == doc {
			return it, nil
		}
	}
	return item{}, &Refusal{Out: s.Out, Code: OutOtherFormat, Detail: doc}
}

// member is what a file of the plan is called in a package.
func member(kind Package, it, root item) string {
	if kind == OTIOZ && it.to == root.to {
		return "content.otio"
	}
	return strings.TrimPrefix(it.to, bag.Payload+"/")
}

// alignment of the data in a USDZ (USDZ specification, "Layout"), in bytes.
const alignment = 64

// writePackage writes a ZIP package: the root first, all stored.
func (s *sealer) writePackage(ctx context.Context, f *os.File, kind Package, root item, items []item) error {
	w := &counting{w: f}
	z := zip.NewWriter(w)
	order := append([]item{root}, slices.DeleteFunc(slices.Clone(items), func(it item) bool { return it.to == root.to })...)
	if kind == OTIOZ {
		order = slices.Insert(order, 1, generated(bag.Payload+"/version.txt", []byte("1.0.0")))
		s.listings++
	}
	for _, it := range order {
		crc := crc32.NewIEEE()
		if err := it.content.WriteTo(ctx, crc); err != nil {
			return err
		}
		h := &zip.FileHeader{Name: member(kind, it, root), Method: zip.Store, CRC32: crc.Sum32(), CompressedSize64: uint64(it.size), UncompressedSize64: uint64(it.size)}
		mod := it.content.Mod()
		if mod.IsZero() {
			mod = s.Now
		}
		//lint:ignore SA1019 CreateRaw writes these fields alone, not Modified
		h.ModifiedDate, h.ModifiedTime = dosTime(mod.UTC())
		if kind == USDZ {
			if err := z.Flush(); err != nil {
				return &WriteError{s.Out, err}
			}
			h.Extra = padding(w.n + 30 + int64(len(h.Name)))
		}
		to, err := z.CreateRaw(h)
		if err != nil {
			return &WriteError{s.Out, err}
		}
		if err := s.take(ctx, it, to); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return &WriteError{s.Out, err}
	}
	return nil
}

// padding is an extra field after which data that begins at an offset, without it, is aligned.
func padding(at int64) []byte {
	n := (alignment - (at+4)%alignment) % alignment
	b := make([]byte, 4+n)
	binary.LittleEndian.PutUint16(b, 0x1986)
	binary.LittleEndian.PutUint16(b[2:], uint16(n))
	return b
}

// dosTime is a time as a ZIP has it (APPNOTE §4.4.6), two seconds fine.
func dosTime(t time.Time) (date, clock uint16) {
	if t.Year() < 1980 || t.Year() > 2107 {
		return 1<<5 | 1, 0
	}
	return uint16((t.Year()-1980)<<9 | int(t.Month())<<5 | t.Day()), uint16(t.Hour()<<11 | t.Minute()<<5 | t.Second()/2)
}

type counting struct {
	w io.Writer
	n int64
}

func (c *counting) Write(b []byte) (int, error) {
	n, err := c.w.Write(b)
	c.n += int64(n)
	return n, err
}

// readPackage reads the file back: every member against what was written, then the proof by its own
// contents alone. It returns the file's SHA-256.
func (s *sealer) readPackage(ctx context.Context, f *os.File, kind Package, root item) (string, error) {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return "", &WriteError{s.Out, err}
	}
	h := sha256.New()
	size, err := io.Copy(h, &stopping{ctx, f})
	if err != nil {
		return "", &WriteError{s.Out, err}
	}
	sum := hex.EncodeToString(h.Sum(nil))
	s.want.Fill(func(place string) string { return s.sum(path.Join(bag.Payload, place)).sum })
	if kind == GLB {
		return sum, s.proveGLB(ctx, f, size)
	}
	z, err := zip.NewReader(f, size)
	if err != nil {
		return "", &WriteError{s.Out, err}
	}
	v := newVault(s.Out+"!", s.Trace.Formats)
	defer v.close()
	for _, m := range z.File {
		place := m.Name
		if kind == OTIOZ && m.Name == "content.otio" {
			place = strings.TrimPrefix(root.to, bag.Payload+"/")
		}
		r, err := m.Open()
		if err != nil {
			return "", &WriteError{s.Out, err}
		}
		err = s.readMember(ctx, v, path.Join(bag.Payload, place), r)
		r.Close()
		if err != nil {
			return "", err
		}
	}
	return sum, s.prove(ctx, v, s.Out+"!", s.Out+"!")
}

func (s *sealer) readMember(ctx context.Context, v *vault, to string, r io.Reader) error {
	h := sha256.New()
	if err := v.take(to, io.TeeReader(&stopping{ctx, r}, h)); err != nil {
		return &WriteError{s.Out, err}
	}
	d := s.sum(to)
	if d.sum != hex.EncodeToString(h.Sum(nil)) {
		return &WriteError{s.Out, ErrReadBack}
	}
	s.back.Add(d.size)
	s.tick(ReadingBack, d.size, to)
	return nil
}

// imageType is an image's media type by its first bytes; "" of one that glTF 2.0 does not know (§3.8.2).
func imageType(b []byte) string {
	switch {
	case strings.HasPrefix(string(b), "\x89PNG\r\n\x1a\n"):
		return "image/png"
	case strings.HasPrefix(string(b), "\xff\xd8\xff"):
		return "image/jpeg"
	}
	return ""
}
