package carrier

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
	"path/filepath"
	"strings"
	"time"

	"github.com/klauspost/compress/zstd"
)

// Odd is what a member is that is no plain file.
type Odd string

// The odd ones.
const (
	Plain      Odd = ""
	Link       Odd = "link"
	Device     Odd = "device" // or pipe
	Unreadable Odd = "unreadable"
)

// Member is one entry of a carrier that is read.
type Member struct {
	Name string // with slashes
	Size int64
	Mode fs.FileMode
	Mod  time.Time // when it changed last; an archive tells whole seconds
	Odd  Odd
	Dir  bool
}

// ErrNotRegular: a pipe or device stands where an archive was named.
var ErrNotRegular = errors.New("it is neither a folder nor a file")

// ListError: not even the list of an archive could be read.
type ListError struct{ Err error }

func (e *ListError) Error() string { return "its list cannot be read: " + e.Err.Error() }

func (e *ListError) Unwrap() error { return e.Err }

// CutError is an archive that is damaged after so many members.
type CutError struct {
	After int
	Err   error
}

func (e *CutError) Error() string {
	return fmt.Sprintf("it is damaged after %d members: %v", e.After, e.Err)
}

func (e *CutError) Unwrap() error { return e.Err }

// Read streams the members of a carrier in the order they stand; the content
// decides what it is, whatever the ending says. The reader is nil for folders
// and odd members. A damaged archive ends with an error after what was readable
// of it.
func Read(ctx context.Context, p string, each func(Member, io.Reader) error) error {
	k, _ := KindOf(p)
	info, err := os.Stat(p)
	if err != nil {
		return err
	}
	if info.IsDir() {
		return readFolder(ctx, p, each)
	}
	if !info.Mode().IsRegular() {
		return ErrNotRegular
	}
	f, err := os.Open(p)
	if err != nil {
		return err
	}
	defer f.Close()
	return ReadArchive(ctx, f, info.Size(), k, each)
}

// ReadArchive is Read for an archive that is open.
func ReadArchive(ctx context.Context, f io.ReadSeeker, size int64, k Kind, each func(Member, io.Reader) error) error {
	head := make([]byte, 512)
	n, _ := io.ReadFull(f, head)
	head = head[:n]
	if at, ok := f.(io.ReaderAt); ok && (bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06")) || k == Zip) {
		return readZip(ctx, at, size, each)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	var r io.Reader = bufio.NewReaderSize(f, 1<<20)
	switch {
	case bytes.HasPrefix(head, []byte{0x1F, 0x8B}):
		z, err := gzip.NewReader(r)
		if err != nil {
			return &ListError{err}
		}
		r = z
	case bytes.HasPrefix(head, []byte{0x28, 0xB5, 0x2F, 0xFD}):
		z, err := zstd.NewReader(r, zstd.WithDecoderMaxWindow(128<<20), zstd.WithDecoderConcurrency(2))
		if err != nil {
			return &ListError{err}
		}
		defer z.Close()
		r = z
	}
	return readTar(ctx, r, each)
}

func readFolder(ctx context.Context, dir string, each func(Member, io.Reader) error) error {
	return filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		rel, _ := filepath.Rel(dir, p)
		m := Member{Name: filepath.ToSlash(rel)}
		switch {
		case rel == ".":
			return nil
		case e.IsDir():
			m.Dir = true
			return each(m, nil)
		case e.Type()&fs.ModeSymlink != 0:
			m.Odd = Link
			return each(m, nil)
		case !e.Type().IsRegular():
			m.Odd = Device
			return each(m, nil)
		}
		f, err := os.Open(p)
		if err != nil {
			return each(Member{Name: m.Name, Odd: Unreadable}, nil)
		}
		defer f.Close()
		if fi, err := f.Stat(); err == nil {
			m.Size, m.Mode, m.Mod = fi.Size(), fi.Mode(), fi.ModTime()
		}
		return each(m, f)
	})
}

func readZip(ctx context.Context, f io.ReaderAt, size int64, each func(Member, io.Reader) error) error {
	z, err := zip.NewReader(f, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return &ListError{err}
	}
	for _, e := range z.File {
		if err := ctx.Err(); err != nil {
			return err
		}
		m := Member{Name: e.Name, Size: int64(e.UncompressedSize64), Mode: e.Mode(), Mod: e.Modified, Dir: strings.HasSuffix(e.Name, "/")}
		if mode := e.Mode(); !m.Dir && !mode.IsRegular() {
			m.Odd = Device
			if mode&fs.ModeSymlink != 0 {
				m.Odd = Link
			}
		}
		if m.Dir || m.Odd != Plain {
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

func zipMember(e *zip.File, m Member, each func(Member, io.Reader) error) error {
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

func readTar(ctx context.Context, r io.Reader, each func(Member, io.Reader) error) error {
	t := tar.NewReader(r)
	for n := 0; ; n++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		h, err := t.Next()
		if err == io.EOF && n > 0 {
			// What is left is padding, and the checksum of what compressed it all.
			if _, err := io.Copy(io.Discard, r); err != nil {
				return &CutError{n, err}
			}
			return nil
		}
		if err != nil && !errors.Is(err, tar.ErrInsecurePath) {
			if n == 0 {
				return &ListError{err}
			}
			return &CutError{n, err}
		}
		m := Member{Name: h.Name, Size: h.Size, Mode: h.FileInfo().Mode(), Mod: h.ModTime}
		switch h.Typeflag {
		case tar.TypeReg:
			if err := each(m, t); err != nil {
				return err
			}
			continue
		case tar.TypeDir:
			m.Dir = true
		case tar.TypeSymlink, tar.TypeLink:
			m.Odd = Link
		default:
			m.Odd = Device
		}
		if err := each(m, nil); err != nil {
			return err
		}
	}
}
