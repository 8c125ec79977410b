package seal

import (
	"crypto/sha256"
	"crypto/sha512"
	"encoding/hex"
	"hash"
	"io"

	"github.com/zeebo/xxh3"
)

// hasher writes through to w and digests what goes by: small files at once,
// large ones beside the writing. In an archive, where one file follows another,
// all of it goes to one digester, so that the digest of a file is still under
// way while the next is written.
type hasher struct {
	w    io.Writer
	tick func(int)
	to   *digester // nil: none yet
	own  bool      // the digester is this file's alone
	mine *digesting
	n    int64
	err  error
}

// digester digests the files of one carrier, one after the other.
type digester struct {
	queue chan chunk
	free  chan []byte
	done  chan struct{}
}

// chunk is bytes of a file, or its end.
type chunk struct {
	of   *digesting
	data []byte
	end  func(digest)
}

type digesting struct {
	sha  hash.Hash
	long hash.Hash // SHA-512; nil: nobody asked for it
	xx   *xxh3.Hasher
	n    int64
}

func (d *digesting) take(b []byte) {
	_, _ = d.sha.Write(b)
	if d.long != nil {
		_, _ = d.long.Write(b)
	}
	_, _ = d.xx.Write(b)
	d.n += int64(len(b))
}

func (d *digesting) digest() digest {
	out := digest{sum: hex.EncodeToString(d.sha.Sum(nil)), quick: d.xx.Sum64(), size: d.n}
	if d.long != nil {
		out.long = hex.EncodeToString(d.long.Sum(nil))
	}
	return out
}

func newDigester() *digester {
	d := &digester{queue: make(chan chunk, 7), free: make(chan []byte, 8), done: make(chan struct{})}
	for range cap(d.free) {
		d.free <- make([]byte, 0, 1<<20)
	}
	go func() {
		defer close(d.done)
		for c := range d.queue {
			if c.end != nil {
				c.end(c.of.digest())
				continue
			}
			c.of.take(c.data)
			d.free <- c.data
		}
	}()
	return d
}

// close waits until every digest is known.
func (d *digester) close() {
	close(d.queue)
	<-d.done
}

// newHasher digests what goes to w; long asks for SHA-512 too.
func newHasher(w io.Writer, to *digester, long bool, tick func(int)) *hasher {
	h := &hasher{w: w, tick: tick, to: to, mine: &digesting{sha: sha256.New(), xx: xxh3.New()}}
	if long {
		h.mine.long = sha512.New()
	}
	return h
}

const hashInline = 8 << 20

func (h *hasher) Write(b []byte) (int, error) {
	if h.to == nil && h.n+int64(len(b)) > hashInline {
		h.to, h.own = newDigester(), true
	}
	if h.to == nil {
		h.mine.take(b)
	}
	for rest := b; h.to != nil && len(rest) > 0; {
		buf := <-h.to.free
		k := min(len(rest), cap(buf))
		h.to.queue <- chunk{of: h.mine, data: append(buf[:0], rest[:k]...)}
		rest = rest[k:]
	}
	n, err := h.w.Write(b)
	h.n += int64(n)
	h.tick(n)
	if err != nil {
		h.err = err
	}
	return n, err
}

// finish tells the digest: at once, or when a digester that is shared comes to
// it.
func (h *hasher) finish(done func(digest)) {
	switch {
	case h.to == nil:
		done(h.mine.digest())
	case h.own:
		h.to.close()
		done(h.mine.digest())
	default:
		h.to.queue <- chunk{of: h.mine, end: done}
	}
}

// quickly is the xxh3 of a stream; tick is told the bytes as they go by.
func quickly(r io.Reader, tick func(int) error) (uint64, error) {
	h := xxh3.New()
	buf := make([]byte, 1<<18)
	for {
		n, err := r.Read(buf)
		h.Write(buf[:n])
		if terr := tick(n); terr != nil {
			return 0, terr
		}
		if err == io.EOF {
			return h.Sum64(), nil
		}
		if err != nil {
			return 0, err
		}
	}
}
