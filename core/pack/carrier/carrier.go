// Package carrier writes and reads what files are carried in: a folder, a ZIP
// (APPNOTE, with ZIP64), a tar (POSIX pax) as it is, under gzip (RFC 1952) or
// under Zstandard (RFC 8878). carriertest holds all of them to one conformance
// test.
package carrier

import (
	"archive/tar"
	"archive/zip"
	"cmp"
	"compress/flate"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/klauspost/compress/zstd"

	"boundcrate/core/media/facts"
)

// Kind is what a crate is made as.
type Kind string

// The kinds.
const (
	Folder  Kind = "folder"
	Zip     Kind = "zip"
	Tar     Kind = "tar"
	TarGzip Kind = "tar.gz"
	TarZstd Kind = "tar.zst"
)

// Archives are the kinds that are one file.
var Archives = []Kind{Zip, Tar, TarGzip, TarZstd}

// KindOf goes by the ending of a path and returns the crate's name, which is
// the base folder of an archive.
func KindOf(p string) (k Kind, name string) {
	base := filepath.Base(p)
	for _, k := range []Kind{TarGzip, TarZstd, Zip, Tar} {
		if strings.HasSuffix(strings.ToLower(base), "."+string(k)) && len(base) > len(k)+1 {
			return k, base[:len(base)-len(k)-1]
		}
	}
	return Folder, base
}

// File is one file on its way into a carrier.
type File struct {
	Name string // with slashes
	Size int64  // bytes; exactly as many are written
	Kind facts.Kind
	Mode fs.FileMode // permissions; 0 is 0644
	Mod  time.Time   // when it changed last; zero: now
}

func (f File) mod(now time.Time) time.Time {
	if f.Mod.IsZero() {
		return now
	}
	return f.Mod
}

func (f File) mode() fs.FileMode {
	if f.Mode.Perm() == 0 {
		return 0o644
	}
	return f.Mode.Perm()
}

// Writer takes files, one after another; that of a folder takes several at once.
type Writer interface {
	Add(f File, write func(io.Writer) error) error
	Close() error
}

// Stored tells kinds whose bytes hardly shrink: deflating them costs time
// for nothing.
func Stored(k facts.Kind) bool {
	switch k {
	case facts.Audio, facts.Video, facts.Image, facts.Sequence:
		return true
	}
	return false
}

// NewFolder writes files below a folder, which must be there.
func NewFolder(dir string) Writer { return folder{dir} }

type folder struct{ dir string }

func (w folder) Add(f File, write func(io.Writer) error) error {
	p := filepath.Join(w.dir, filepath.FromSlash(f.Name))
	if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
		return err
	}
	out, err := os.OpenFile(p, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, f.mode())
	if err != nil {
		return err
	}
	err = write(out)
	if err == nil {
		startWriteback(out)
	}
	if err = errors.Join(err, out.Close()); err == nil && !f.Mod.IsZero() {
		err = os.Chtimes(p, f.Mod, f.Mod)
	}
	return err
}

func (w folder) Close() error { return nil }

// NewArchive writes files below a base folder of an archive.
func NewArchive(k Kind, w io.Writer, base string, now time.Time) (Writer, error) {
	switch k {
	case Zip:
		return &zipWriter{zip.NewWriter(w), base, now}, nil
	case TarGzip:
		z := gzip.NewWriter(w)
		return &tarWriter{tar.NewWriter(z), z, base, now}, nil
	case TarZstd:
		z, err := zstd.NewWriter(w, zstd.WithEncoderConcurrency(max(2, runtime.NumCPU())), zstd.WithWindowSize(4<<20))
		if err != nil {
			return nil, err
		}
		return &tarWriter{tar.NewWriter(z), z, base, now}, nil
	case Tar:
		return &tarWriter{tar.NewWriter(w), nil, base, now}, nil
	}
	return nil, fmt.Errorf("%s is no archive", k)
}

type zipWriter struct {
	w    *zip.Writer
	base string
	now  time.Time
}

func (z *zipWriter) Add(f File, write func(io.Writer) error) error {
	h := &zip.FileHeader{Name: path.Join(z.base, f.Name), Method: zip.Deflate, Modified: f.mod(z.now)}
	if Stored(f.Kind) {
		h.Method = zip.Store
	}
	h.SetMode(f.mode())
	d := &deciding{z: z.w, h: h}
	if err := write(d); err != nil {
		return err
	}
	return d.begin()
}

// deciding looks at the beginning of a member before it is packed: what does not shrink
// there is stored, since packing it costs time for nothing.
type deciding struct {
	z    *zip.Writer
	h    *zip.FileHeader
	head []byte
	w    io.Writer // once it is decided
}

// decidedBy is how much of a member is looked at, in bytes, shrinks what is left of it where
// packing pays.
const (
	decidedBy = 64 << 10
	shrinks   = 0.97
)

func (d *deciding) Write(b []byte) (int, error) {
	if d.w != nil {
		return d.w.Write(b)
	}
	d.head = append(d.head, b...)
	if len(d.head) < decidedBy {
		return len(b), nil
	}
	return len(b), d.begin()
}

func (d *deciding) begin() (err error) {
	if d.w != nil {
		return nil
	}
	if d.h.Method == zip.Deflate && !packs(d.head) {
		d.h.Method = zip.Store
	}
	if d.w, err = d.z.CreateHeader(d.h); err == nil {
		_, err = d.w.Write(d.head)
	}
	d.head = nil
	return err
}

// packs tells whether bytes shrink by Deflate.
func packs(b []byte) bool {
	if len(b) == 0 {
		return false
	}
	var n packed
	w, err := flate.NewWriter(&n, flate.BestSpeed)
	if err != nil {
		return true
	}
	_, err = w.Write(b)
	return errors.Join(err, w.Close()) != nil || float64(n) < shrinks*float64(len(b))
}

type packed int

func (p *packed) Write(b []byte) (int, error) { *p += packed(len(b)); return len(b), nil }

func (z *zipWriter) Close() error { return z.w.Close() }

type tarWriter struct {
	w     *tar.Writer
	outer io.Closer // the compressor, nil for none
	base  string
	now   time.Time
}

func (t *tarWriter) Add(f File, write func(io.Writer) error) error {
	err := t.w.WriteHeader(&tar.Header{
		Typeflag: tar.TypeReg, Name: path.Join(t.base, f.Name), Size: f.Size, Mode: int64(f.mode()),
		ModTime: f.mod(t.now).Truncate(time.Second), Format: tar.FormatPAX,
	})
	if err != nil {
		return err
	}
	return write(t.w)
}

func (t *tarWriter) Close() error {
	err := t.w.Close()
	if t.outer != nil {
		err = errors.Join(err, t.outer.Close())
	}
	return err
}

// Limit is what a carrier of the trade takes.
type Limit struct {
	Name  string
	Bytes int64
	Each  bool // of each file, not of all together
}

// Limits are common practice, but for FAT32's 4 GiB − 1 (its directory entry
// holds the size in 32 bits).
var Limits = []Limit{
	{Name: "free transfer", Bytes: 2_000_000_000},
	{Name: "FAT32 file", Bytes: 1<<32 - 1, Each: true},
	{Name: "DVD", Bytes: 4_700_000_000},
}

// Fits tells whether a load of files fits, and in how many parts of the limit it could
// go: 0 where a single file is too large for any. Files are not parted.
func (l Limit) Fits(sizes []int64) (fits bool, parts int) {
	var total int64
	for _, n := range sizes {
		if n > l.Bytes {
			return false, 0
		}
		total += n
	}
	if l.Each || total <= l.Bytes {
		return true, 1
	}
	return false, Parts(sizes, l.Bytes)
}

// maxPacked bounds how many files are packed one by one: more are so small beside a
// part that their sum tells.
const maxPacked = 20_000

// Parts is how many parts of a limit files go into, none of them larger than that, each
// into the first part that has room, the largest first: never more than 11/9 of the
// fewest and 2/3 of a part (G. Dósa, "The tight bound of first fit decreasing
// bin-packing algorithm is FFD(I) ≤ 11/9 OPT(I) + 6/9", ESCAPE 2007).
func Parts(sizes []int64, limit int64) int {
	sorted := slices.Clone(sizes)
	slices.SortFunc(sorted, func(a, b int64) int { return cmp.Compare(b, a) })
	var rest int64
	for _, n := range sorted[min(len(sorted), maxPacked):] {
		rest += n
	}
	groups := Share(sorted[:min(len(sorted), maxPacked)], limit)
	for _, g := range groups {
		rest -= limit
		for _, i := range g {
			rest += sorted[i]
		}
	}
	return max(1, len(groups)) + int(max(0, (rest+limit-1)/limit))
}

// Share packs sizes into parts of a limit, as Parts counts them: the numbers of those that
// each part takes, in their order. Sizes that come in order, the largest first, are packed
// as Dósa has it.
func Share(sizes []int64, limit int64) (groups [][]int) {
	var room []int64
	for i, n := range sizes {
		k := slices.IndexFunc(room, func(r int64) bool { return r >= n })
		if k < 0 {
			k, room, groups = len(room), append(room, limit), append(groups, nil)
		}
		room[k] -= n
		groups[k] = append(groups[k], i)
	}
	return groups
}
