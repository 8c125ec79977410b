package seal

import (
	"archive/tar"
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"github.com/klauspost/compress/zstd"

	"boundcrate/core/facts"
)

// Carrier is what a crate is made as.
type Carrier string

// The carriers.
const (
	Folder  Carrier = "folder"
	Zip     Carrier = "zip"
	Tar     Carrier = "tar"
	TarGzip Carrier = "tar.gz"
	TarZstd Carrier = "tar.zst"
)

// CarrierOf goes by the ending of a path and returns the crate's name, which
// is the base folder of an archive.
func CarrierOf(p string) (c Carrier, name string) {
	base := filepath.Base(p)
	for _, c := range []Carrier{TarGzip, TarZstd, Zip, Tar} {
		if strings.HasSuffix(strings.ToLower(base), "."+string(c)) && len(base) > len(c)+1 {
			return c, base[:len(base)-len(c)-1]
		}
	}
	return Folder, base
}

// packer takes the files of a crate, one after another.
type packer interface {
	add(name string, size int64, kind facts.Kind, write func(io.Writer) error) error
	close() error
}

// compressed tells kinds whose bytes hardly shrink: deflating them costs time
// for nothing.
func compressed(k facts.Kind) bool {
	switch k {
	case facts.Audio, facts.Video, facts.Image, facts.Sequence:
		return true
	}
	return false
}

type zipPacker struct {
	w    *zip.Writer
	base string
	now  time.Time
}

func (z *zipPacker) add(name string, _ int64, kind facts.Kind, write func(io.Writer) error) error {
	h := &zip.FileHeader{Name: path.Join(z.base, name), Method: zip.Deflate, Modified: z.now}
	if compressed(kind) {
		h.Method = zip.Store
	}
	h.SetMode(0o644)
	w, err := z.w.CreateHeader(h)
	if err != nil {
		return err
	}
	return write(w)
}

func (z *zipPacker) close() error { return z.w.Close() }

type tarPacker struct {
	w     *tar.Writer
	outer io.Closer // the compressor, nil for none
	base  string
	now   time.Time
}

func (t *tarPacker) add(name string, size int64, _ facts.Kind, write func(io.Writer) error) error {
	err := t.w.WriteHeader(&tar.Header{
		Typeflag: tar.TypeReg, Name: path.Join(t.base, name), Size: size, Mode: 0o644,
		ModTime: t.now.Truncate(time.Second), Format: tar.FormatPAX,
	})
	if err != nil {
		return err
	}
	return write(t.w)
}

func (t *tarPacker) close() error {
	err := t.w.Close()
	if t.outer != nil {
		err = errors.Join(err, t.outer.Close())
	}
	return err
}

func newPacker(c Carrier, w io.Writer, base string, now time.Time) (packer, error) {
	switch c {
	case Zip:
		return &zipPacker{zip.NewWriter(w), base, now}, nil
	case TarGzip:
		z := gzip.NewWriter(w)
		return &tarPacker{tar.NewWriter(z), z, base, now}, nil
	case TarZstd:
		z, err := zstd.NewWriter(w, zstd.WithEncoderConcurrency(2), zstd.WithWindowSize(4<<20))
		if err != nil {
			return nil, err
		}
		return &tarPacker{tar.NewWriter(z), z, base, now}, nil
	}
	return &tarPacker{tar.NewWriter(w), nil, base, now}, nil
}

// member is one entry of a crate that is read: a file, or something that has
// no place in one.
type member struct {
	name string // with slashes, below the crate's base folder once that is cut
	size int64
	odd  string // what it is if it is no plain file: "link", "device"
	dir  bool
}

// errList: not even the list of an archive could be read.
var errList = errors.New("its list cannot be read")

// members streams the entries of a crate in the order they stand. The reader
// is nil for folders and odd entries. A damaged archive ends with an error
// after what was readable of it.
func members(ctx context.Context, p string, each func(member, io.Reader) error) error {
	c, _ := CarrierOf(p)
	info, err := os.Stat(p)
	if err != nil {
		return err
	}
	if info.IsDir() {
		return folderMembers(ctx, p, each)
	}
	f, err := os.Open(p)
	if err != nil {
		return err
	}
	defer f.Close()
	head := make([]byte, 512)
	n, _ := io.ReadFull(f, head)
	head = head[:n]
	// The content decides, whatever the ending says.
	switch {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")), bytes.HasPrefix(head, []byte("PK\x05\x06")), c == Zip:
		return zipMembers(ctx, f, info.Size(), each)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	var r io.Reader = bufio.NewReaderSize(f, 1<<20)
	switch {
	case bytes.HasPrefix(head, []byte{0x1F, 0x8B}):
		z, err := gzip.NewReader(r)
		if err != nil {
			return fmt.Errorf("%w: %v", errList, err)
		}
		r = z
	case bytes.HasPrefix(head, []byte{0x28, 0xB5, 0x2F, 0xFD}):
		z, err := zstd.NewReader(r, zstd.WithDecoderMaxWindow(128<<20), zstd.WithDecoderConcurrency(1))
		if err != nil {
			return fmt.Errorf("%w: %v", errList, err)
		}
		defer z.Close()
		r = z
	}
	return tarMembers(ctx, r, each)
}

func folderMembers(ctx context.Context, dir string, each func(member, io.Reader) error) error {
	return filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		rel, _ := filepath.Rel(dir, p)
		m := member{name: filepath.ToSlash(rel)}
		switch {
		case rel == ".":
			return nil
		case e.IsDir():
			m.dir = true
			return each(m, nil)
		case e.Type()&fs.ModeSymlink != 0:
			m.odd = "link"
			return each(m, nil)
		case !e.Type().IsRegular():
			m.odd = "device or pipe"
			return each(m, nil)
		}
		f, err := os.Open(p)
		if err != nil {
			return each(member{name: m.name, odd: "file that cannot be read"}, nil)
		}
		defer f.Close()
		if fi, err := f.Stat(); err == nil {
			m.size = fi.Size()
		}
		return each(m, f)
	})
}

func zipMembers(ctx context.Context, f *os.File, size int64, each func(member, io.Reader) error) error {
	z, err := zip.NewReader(f, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return fmt.Errorf("%w: %v", errList, err)
	}
	for _, e := range z.File {
		if err := ctx.Err(); err != nil {
			return err
		}
		m := member{name: e.Name, size: int64(e.UncompressedSize64), dir: strings.HasSuffix(e.Name, "/")}
		if mode := e.Mode(); !m.dir && !mode.IsRegular() {
			m.odd = "link"
			if mode&fs.ModeSymlink == 0 {
				m.odd = "device or pipe"
			}
		}
		if m.dir || m.odd != "" {
			if err := each(m, nil); err != nil {
				return err
			}
			continue
		}
		if err := zipMember(e, m, each); err != nil {
			return err
		}
	}
	return nil
}

func zipMember(e *zip.File, m member, each func(member, io.Reader) error) error {
	r, err := e.Open()
	if err != nil {
		return each(m, failing{err})
	}
	defer r.Close()
	return each(m, r)
}

// failing is a reader that only tells why.
type failing struct{ err error }

func (f failing) Read([]byte) (int, error) { return 0, f.err }

func tarMembers(ctx context.Context, r io.Reader, each func(member, io.Reader) error) error {
	t := tar.NewReader(r)
	for n := 0; ; n++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		h, err := t.Next()
		if err == io.EOF && n > 0 {
			return nil
		}
		if err != nil && !errors.Is(err, tar.ErrInsecurePath) {
			if n == 0 {
				return fmt.Errorf("%w: %v", errList, err)
			}
			return fmt.Errorf("it is damaged after %d members: %w", n, err)
		}
		m := member{name: h.Name, size: h.Size}
		switch h.Typeflag {
		case tar.TypeReg:
			if err := each(m, t); err != nil {
				return err
			}
			continue
		case tar.TypeDir:
			m.dir = true
		case tar.TypeSymlink, tar.TypeLink:
			m.odd = "link"
		default:
			m.odd = "device or pipe"
		}
		if err := each(m, nil); err != nil {
			return err
		}
	}
}

// place opens the file an archive is written to, under a name that is not yet
// the crate's own.
func place(out string) (*os.File, error) {
	return os.CreateTemp(filepath.Dir(out), "."+filepath.Base(out)+".*.partial")
}
