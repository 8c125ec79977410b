// Package send sends crates to others: into a folder of a drive, or to a transfer service by resumable
// upload (tus 1.0.0). Nothing is called but the one address that a person gave.
package send

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"hash"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"boundcrate/core/pack/carrier"
)

// Carrier takes one file.
type Carrier interface {
	// Limit is how many bytes a file may have; 0 where nobody says.
	Limit(ctx context.Context) (int64, error)
	// Put sends a file, or goes on where an earlier try came to. At the end the other side has all of it.
	Put(ctx context.Context, f *File, told func(sent int64)) (Receipt, error)
}

// Receipt is what the other side has.
type Receipt struct {
	ID     string    `json:"id"` // the upload's address, or the file's path
	SHA256 string    `json:"sha256"`
	At     time.Time `json:"at"`
}

// Sent is what came of sending, in the words of the command line.
type Sent struct {
	Crate   string  `json:"crate"`
	To      string  `json:"to"`
	Bytes   int64   `json:"bytes"`
	Resumed int     `json:"resumed"` // how often it went on after a break
	Receipt Receipt `json:"receipt"`
}

// File is what is sent: an archive as it stands, or a crate folder as a stored ZIP, which is made on the
// way, the same each time.
type File struct {
	Name   string // with its ending
	Size   int64
	SHA256 string // hex
	write  func(context.Context, io.Writer) error

	Resumed int
}

// Options is what to send where.
type Options struct {
	Crate string // absolute
	To    string // a folder, absolute, or an http or https address
	Token string // for the service; it is asked for each time and kept nowhere
	// Sum is the SHA-256 of a file, in hexadecimal, from memory while it is the one that was read; nil:
	// archives are read.
	Sum   func(ctx context.Context, path string) (string, error)
	State string // folder that remembers uploads that broke off; "" forgets them
	// Progress is told the bytes sent of all, −1 while the crate is read for its digest.
	Progress func(sent, total int64)
	Patience Patience
}

// Patience is how long a sender waits.
type Patience struct {
	Answer time.Duration // for an answer
	Pause  time.Duration // after the first break; each further one waits twice as long
	Most   time.Duration // the longest pause
	Tries  int           // breaks in a row without a byte sent between them
}

// Usual is the patience where nobody says otherwise.
var Usual = Patience{Answer: 30 * time.Second, Pause: 500 * time.Millisecond, Most: 30 * time.Second, Tries: 6}

// LimitError is a file that the carrier does not take.
type LimitError struct {
	To          string
	Size, Limit int64
	Parts       int // of the limit that would fit; 0: a file alone is larger
}

func (e *LimitError) Error() string {
	return fmt.Sprintf("%d bytes are more than %s takes (%d)", e.Size, e.To, e.Limit)
}

// BrokenError is a sending that broke off for good. The next try goes on where it came to.
type BrokenError struct {
	To         string
	Sent, Size int64
	Err        error
}

func (e *BrokenError) Error() string {
	return fmt.Sprintf("sending to %s broke off after %d of %d bytes: %v", e.To, e.Sent, e.Size, e.Err)
}

func (e *BrokenError) Unwrap() error { return e.Err }

// Remote tells addresses from folders.
func Remote(to string) bool { return strings.Contains(to, "://") }

// Fits tells the carrier's limit and how large what is sent will be, about; a *LimitError where it does
// not fit.
func Fits(ctx context.Context, o Options) (limit, size int64, err error) {
	if o.Patience == (Patience{}) {
		o.Patience = Usual
	}
	c, err := open(o)
	if err != nil {
		return 0, 0, err
	}
	return fits(ctx, c, o)
}

func fits(ctx context.Context, c Carrier, o Options) (limit, size int64, err error) {
	if limit, err = c.Limit(ctx); err != nil {
		return 0, 0, err
	}
	size, sizes, err := measure(ctx, o.Crate)
	if err != nil || limit <= 0 || size <= limit {
		return limit, size, err
	}
	e := &LimitError{o.To, size, limit, carrier.Parts(sizes, limit)}
	for _, n := range sizes {
		if n > limit {
			e.Parts = 0
		}
	}
	return limit, size, e
}

// Run sends a crate and tells the receipt. A limit is told before a byte goes.
func Run(ctx context.Context, o Options) (*Sent, error) {
	if o.Patience == (Patience{}) {
		o.Patience = Usual
	}
	c, err := open(o)
	if err != nil {
		return nil, err
	}
	_, size, err := fits(ctx, c, o)
	if err != nil {
		return nil, err
	}
	told := func(n int64) {
		if o.Progress != nil {
			o.Progress(n, size)
		}
	}
	told(-1)
	f, err := openWith(ctx, o.Crate, o.Sum)
	if err != nil {
		return nil, err
	}
	receipt, err := c.Put(ctx, f, told)
	if err != nil {
		return nil, err
	}
	return &Sent{o.Crate, o.To, f.Size, f.Resumed, receipt}, nil
}

func open(o Options) (Carrier, error) {
	if Remote(o.To) {
		return newTus(o)
	}
	fi, err := os.Stat(o.To)
	if err != nil {
		return nil, err
	}
	if !fi.IsDir() {
		return nil, fmt.Errorf("‘%s’ is not a folder", o.To)
	}
	crate, err := os.Stat(o.Crate)
	if err != nil {
		return nil, err
	}
	return folder{o.To, nameOf(crate, o.Crate)}, nil
}

// nameOf is what a crate is called where it is sent to: a folder is sent as a ZIP.
func nameOf(fi os.FileInfo, crate string) string {
	if fi.IsDir() {
		return filepath.Base(crate) + ".zip"
	}
	return filepath.Base(crate)
}

// Open reads a crate once, for the size and the digest of what will be sent.
func Open(ctx context.Context, crate string) (*File, error) { return openWith(ctx, crate, nil) }

func openWith(ctx context.Context, crate string, sum func(context.Context, string) (string, error)) (*File, error) {
	fi, err := os.Stat(crate)
	if err != nil {
		return nil, err
	}
	f := &File{Name: nameOf(fi, crate)}
	if fi.IsDir() {
		f.write = func(ctx context.Context, w io.Writer) error { return zipFolder(ctx, crate, w) }
	} else {
		f.write = func(ctx context.Context, w io.Writer) error { return copyFile(ctx, crate, w) }
	}
	if !fi.IsDir() && sum != nil {
		f.Size = fi.Size()
		f.SHA256, err = sum(ctx, crate)
		return f, err
	}
	h := newCounted()
	if err := f.write(ctx, h); err != nil {
		return nil, err
	}
	f.Size, f.SHA256 = h.n, hex.EncodeToString(h.Sum(nil))
	return f, nil
}

type counted struct {
	hash.Hash
	n int64
}

func newCounted() *counted { return &counted{Hash: sha256.New()} }

func (c *counted) Write(b []byte) (int, error) {
	c.n += int64(len(b))
	return c.Hash.Write(b)
}

// From is the file's bytes from an offset on. Of a folder they are made anew: it must be what it was,
// or the digest at the other end tells.
func (f *File) From(ctx context.Context, offset int64) io.ReadCloser {
	r, w := io.Pipe()
	go func() { w.CloseWithError(f.write(ctx, &skipping{w, offset})) }()
	return r
}

// skipping lets the first bytes go.
type skipping struct {
	w    io.Writer
	left int64
}

func (s *skipping) Write(b []byte) (int, error) {
	n := int64(len(b))
	if s.left >= n {
		s.left -= n
		return len(b), nil
	}
	k := s.left
	s.left = 0
	m, err := s.w.Write(b[k:])
	return int(k) + m, err
}
