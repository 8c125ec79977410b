package line

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"sync"

	"github.com/klauspost/compress/zstd"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
)

// DamagedError is a kept state whose bytes are not there, or are not those that were kept.
type DamagedError struct {
	SHA256 string
	Err    error
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("what was kept as %s… is damaged: %v", e.SHA256[:min(12, len(e.SHA256))], e.Err)
}

func (e *DamagedError) Unwrap() error { return e.Err }

var errBytes = errors.New("its bytes are not those that were kept")

// at is where the bytes of a digest are kept.
func (s *Store) at(sha string) string {
	return filepath.Join(s.dir, "states", sha[:2], sha+".zst")
}

// has tells that bytes are kept, whole or not.
func (s *Store) has(sha string) bool {
	_, err := os.Stat(s.at(sha))
	return err == nil
}

// encoders are kept from one file to the next: each is made of several megabytes. Documents are text, of which the
// quickest level leaves hardly more than the usual one, in half the time; who keeps is waiting.
var encoders = sync.Pool{New: func() any {
	z, err := zstd.NewWriter(nil, zstd.WithEncoderConcurrency(1), zstd.WithEncoderLevel(zstd.SpeedFastest))
	if err != nil {
		panic(err) // only options that do not exist are refused
	}
	return z
}}

// put keeps bytes under their digest, unless they are. They are read once more, and are others than expected
// where errBytes is returned. Damaged ones are moved aside and kept anew: whatever needs them is whole again.
func (s *Store) put(ctx context.Context, sha string, open func() (io.ReadCloser, error)) error {
	at := s.at(sha)
	if s.has(sha) {
		if err := s.Copy(ctx, sha, io.Discard); err == nil {
			return nil
		}
		if err := os.Rename(at, at+".damaged"); err != nil {
			return err
		}
	}
	if _, err := fileset.MakeDirs(filepath.Dir(at)); err != nil {
		return err
	}
	src, err := open()
	if err != nil {
		return err
	}
	defer src.Close()
	err = fileset.Create(at, 0o644, func(w io.Writer) error {
		z := encoders.Get().(*zstd.Encoder)
		defer func() {
			z.Reset(nil)
			encoders.Put(z)
		}()
		z.Reset(w)
		h := sha256.New()
		if _, err := io.Copy(io.MultiWriter(z, h), src); err != nil {
			return errors.Join(err, z.Close())
		}
		if hex.EncodeToString(h.Sum(nil)) != sha {
			return errors.Join(errBytes, z.Close())
		}
		return z.Close()
	})
	if errors.Is(err, fs.ErrExist) {
		return nil
	}
	return err
}

// Copy writes the bytes of a digest. Where they are not exactly those that were kept the error is a
// *DamagedError, and what was written must not be used.
func (s *Store) Copy(ctx context.Context, sha string, w io.Writer) error {
	if len(sha) != 2*sha256.Size {
		return &DamagedError{sha, errBytes}
	}
	f, err := os.Open(s.at(sha))
	if err != nil {
		return &DamagedError{sha, err}
	}
	defer f.Close()
	z, err := zstd.NewReader(f, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxWindow(128<<20))
	if err != nil {
		return &DamagedError{sha, err}
	}
	defer z.Close()
	h := sha256.New()
	out := &noting{w: w}
	if _, err = io.Copy(io.MultiWriter(h, out), drive.ContextReader(ctx, z)); err != nil {
		if out.err != nil || ctx.Err() != nil {
			return err
		}
		return &DamagedError{sha, err}
	}
	if hex.EncodeToString(h.Sum(nil)) != sha {
		return &DamagedError{sha, errBytes}
	}
	return nil
}

// noting remembers that writing failed, which is no damage of the store.
type noting struct {
	w   io.Writer
	err error
}

func (n *noting) Write(b []byte) (int, error) {
	k, err := n.w.Write(b)
	n.err = err
	return k, err
}
