// Package content holds the things that will be in a crate: a file as it is, a
// document rewritten, a text generated. Each knows its size before it is made,
// writes itself, and tells by an intent what it will be made from and how, so
// that a crate under way is never taken up with another edit than it was begun
// with.
package content

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"slices"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/text/format"
	"boundcrate/core/text/mention"
)

// Content is one thing that will be in a crate.
type Content interface {
	// Size is how many bytes it will have; false where that is known only when
	// it is made.
	Size() (bytes int64, known bool)
	// WriteTo makes it. A source that changes on the way is a *ChangedError, one
	// that cannot be read a *ReadError.
	WriteTo(ctx context.Context, w io.Writer) error
	// Intent is a digest of what it is made from and how.
	Intent() string
	// Mode is the permissions it shall have; 0 for the usual.
	Mode() fs.FileMode
	// Mod is when what it is made from changed last; the zero time for what is made of nothing.
	Mod() time.Time
}

// ChangedError is a source that is not what it was when the crate was planned.
type ChangedError struct{ Path string }

func (e *ChangedError) Error() string {
	return "‘" + e.Path + "’ changed while it was being copied"
}

// ReadError is a source that could not be read.
type ReadError struct {
	Path string
	Err  error
}

func (e *ReadError) Error() string { return "‘" + e.Path + "’ could not be read: " + e.Err.Error() }

func (e *ReadError) Unwrap() error { return e.Err }

// AsIs is a file's own bytes.
type AsIs struct {
	Reach drive.Reach
	Path  string
	Info  drive.Info // when the crate was planned
}

// Size implements Content.
func (c AsIs) Size() (int64, bool) { return c.Info.Size, true }

// Mod implements Content.
func (c AsIs) Mod() time.Time { return c.Info.ModTime }

// Mode implements Content.
func (c AsIs) Mode() fs.FileMode { return c.Info.Mode.Perm() }

// Intent implements Content.
func (c AsIs) Intent() string {
	h := sha256.New()
	source(h, "as-is", c.Path, c.Info)
	return hex.EncodeToString(h.Sum(nil))
}

func source(h hash.Hash, how, path string, info drive.Info) {
	fmt.Fprintf(h, "%s\x00%s\x00%d\x00%d\x00", how, path, info.Size, info.ModTime.UnixNano())
}

// WriteTo implements Content.
func (c AsIs) WriteTo(ctx context.Context, w io.Writer) error {
	f, err := c.Reach.Open(c.Path)
	if err != nil {
		return &ReadError{c.Path, err}
	}
	defer f.Close()
	r := &reading{ctx: ctx, r: io.LimitReader(f, c.Info.Size)}
	n, err := io.CopyBuffer(struct{ io.Writer }{w}, r, make([]byte, max(512, min(1<<20, c.Info.Size))))
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case r.err != nil:
		return &ReadError{c.Path, r.err}
	case err != nil:
		return err
	}
	if now, err := c.Reach.Stat(c.Path); err != nil || n != c.Info.Size || !now.Same(c.Info) {
		return &ChangedError{c.Path}
	}
	return nil
}

// reading keeps a source's own errors apart from those of the destination.
type reading struct {
	ctx context.Context
	r   io.Reader
	err error
}

func (r *reading) Read(b []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	n, err := r.r.Read(b)
	if err != nil && err != io.EOF {
		r.err = err
	}
	return n, err
}

// Rewritten is a document that says other names. Its texts were let go since
// the edits were proved: Open opens it again, and refuses another document.
type Rewritten struct {
	Reach drive.Reach
	Path  string
	Info  drive.Info
	Open  func() (*format.File, error)
	Edits []mention.Edit
	size  *int64
}

// NewRewritten counts the bytes the document will have.
func NewRewritten(reach drive.Reach, path string, info drive.Info, open func() (*format.File, error), edits []mention.Edit) (Rewritten, error) {
	c := Rewritten{Reach: reach, Path: path, Info: info, Open: open, Edits: edits}
	var n counter
	if err := c.WriteTo(context.Background(), &n); err != nil {
		return c, err
	}
	size := int64(n)
	c.size = &size
	return c, nil
}

type counter int64

func (c *counter) Write(b []byte) (int, error) { *c += counter(len(b)); return len(b), nil }

// Size implements Content.
func (c Rewritten) Size() (int64, bool) {
	if c.size == nil {
		return 0, false
	}
	return *c.size, true
}

// Mod implements Content.
func (c Rewritten) Mod() time.Time { return c.Info.ModTime }

// Mode implements Content.
func (c Rewritten) Mode() fs.FileMode { return c.Info.Mode.Perm() }

// Intent implements Content.
func (c Rewritten) Intent() string {
	h := sha256.New()
	source(h, "rewritten", c.Path, c.Info)
	var b [8]byte
	number := func(n int64) { binary.LittleEndian.PutUint64(b[:], uint64(n)); h.Write(b[:]) }
	for _, e := range c.Edits {
		number(int64(e.Text))
		number(e.Off)
		number(e.End)
		number(int64(len(e.New)))
		h.Write(e.New)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// WriteTo implements Content. What the texts do not hold (the chunks of a GLB)
// is read again, so the file must still be the one that was planned with.
func (c Rewritten) WriteTo(_ context.Context, w io.Writer) error {
	file, err := c.Open()
	if err != nil {
		return err
	}
	src, err := c.Reach.Open(c.Path)
	if err != nil {
		return &ReadError{c.Path, err}
	}
	defer src.Close()
	if err := file.RewriteFrom(src, w, c.Edits); err != nil {
		return err
	}
	if now, err := c.Reach.Stat(c.Path); err != nil || !now.Same(c.Info) {
		return &ChangedError{c.Path}
	}
	return nil
}

// Converted is a sound of another type, rate or depth, a part of one, or several that
// hold a channel each as one.
type Converted struct {
	Reach drive.Reach
	Paths []string
	Infos []drive.Info
	To    pcm.Spec
	Cut   pcm.Cut
	size  int64
	known *pcm.Result // of a type whose size is known only when it is made
	// Made is told what came of it; nil: nobody asks.
	Made func(pcm.Result)
}

// Listened is what came of a sound that was heard as it will be made, and of which files.
type Listened struct {
	Infos  []drive.Info
	Result pcm.Result
}

// Listen makes a sound for its result alone. Where it is damaged on the way, the
// error is a *ReadError that is facts.ErrDamaged.
func Listen(ctx context.Context, reach drive.Reach, paths []string, to pcm.Spec, cut pcm.Cut) (Listened, error) {
	c, err := newConverted(reach, paths, to, cut)
	if err == nil {
		err = c.listen(ctx)
	}
	if err != nil {
		return Listened{}, err
	}
	return Listened{c.Infos, *c.known}, nil
}

// NewConverted opens a sound and tells the bytes it will have. Where they are known only
// once it is made, and where a damage is met only on the way, it is made once for that,
// unless somebody heard these very files already.
func NewConverted(ctx context.Context, reach drive.Reach, paths []string, to pcm.Spec, cut pcm.Cut, heard *Listened) (Converted, error) {
	c, err := newConverted(reach, paths, to, cut)
	if err != nil {
		return c, err
	}
	if heard != nil && slices.EqualFunc(heard.Infos, c.Infos, func(a, b drive.Info) bool { return a.Stamp() == b.Stamp() }) {
		c.known, c.size = &heard.Result, heard.Result.Bytes
		return c, nil
	}
	known := false
	err = c.open(func(v *pcm.Conversion) error {
		c.size, known = v.Size()
		known = known && v.Type != pcm.FLAC
		return nil
	})
	if err == nil && !known {
		err = c.listen(ctx)
	}
	return c, err
}

func newConverted(reach drive.Reach, paths []string, to pcm.Spec, cut pcm.Cut) (Converted, error) {
	c := Converted{Reach: reach, Paths: paths, To: to, Cut: cut}
	for _, p := range paths {
		info, err := reach.Stat(p)
		if err != nil {
			return c, &ReadError{p, err}
		}
		c.Infos = append(c.Infos, info)
	}
	return c, nil
}

func (c *Converted) listen(ctx context.Context) error {
	return c.open(func(v *pcm.Conversion) error {
		res, err := v.WriteTo(ctx, io.Discard, nil)
		c.size, c.known = res.Bytes, &res
		return err
	})
}

func (c *Converted) open(do func(*pcm.Conversion) error) error {
	s, closeAll, err := pcm.OpenFiles(c.Reach, c.Paths...)
	if bad, ok := errors.AsType[*pcm.FileError](err); ok {
		return &ReadError{bad.Path, bad.Err}
	}
	defer closeAll()
	s.Take(c.Cut)
	v, err := s.Convert(c.To)
	if err == nil && v == nil {
		return &ChangedError{c.Paths[0]} // it was to be converted when the crate was planned
	}
	if err == nil {
		err = do(v)
	}
	if errors.Is(err, facts.ErrDamaged) {
		return &ReadError{c.Paths[0], err}
	}
	return err
}

// Size implements Content.
func (c Converted) Size() (int64, bool) { return c.size, true }

// Mod implements Content.
func (c Converted) Mod() time.Time { return c.Infos[0].ModTime }

// Mode implements Content.
func (c Converted) Mode() fs.FileMode { return c.Infos[0].Mode.Perm() }

// Intent implements Content.
func (c Converted) Intent() string {
	h := sha256.New()
	for i, p := range c.Paths {
		source(h, "converted", p, c.Infos[i])
	}
	fmt.Fprintf(h, "%+v %+v", c.To, c.Cut)
	return hex.EncodeToString(h.Sum(nil))
}

// WriteTo implements Content.
func (c Converted) WriteTo(ctx context.Context, w io.Writer) error {
	err := c.open(func(v *pcm.Conversion) error {
		res, err := v.WriteTo(ctx, w, c.known)
		if err == nil && c.Made != nil {
			c.Made(res)
		}
		return err
	})
	if err != nil {
		return err
	}
	for i, p := range c.Paths {
		if now, err := c.Reach.Stat(p); err != nil || !now.Same(c.Infos[i]) {
			return &ChangedError{p}
		}
	}
	return nil
}

// Generated is a text of our own.
type Generated []byte

// Size implements Content.
func (c Generated) Size() (int64, bool) { return int64(len(c)), true }

// Mod implements Content.
func (c Generated) Mod() time.Time { return time.Time{} }

// Mode implements Content.
func (c Generated) Mode() fs.FileMode { return 0 }

// Intent implements Content.
func (c Generated) Intent() string {
	h := sha256.Sum256(c)
	return hex.EncodeToString(h[:])
}

// WriteTo implements Content.
func (c Generated) WriteTo(_ context.Context, w io.Writer) error {
	_, err := w.Write(c)
	return err
}
