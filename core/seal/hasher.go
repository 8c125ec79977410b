package seal

import (
	"crypto/sha256"
	"encoding/hex"
	"hash"
	"io"

	"github.com/zeebo/xxh3"
)

// hasher writes through to w while another goroutine digests what went by.
// Small files never start it.
type hasher struct {
	w     io.Writer
	tick  func(int)
	sha   hash.Hash
	xx    *xxh3.Hasher
	n     int64
	err   error
	queue chan []byte
	free  chan []byte
	done  chan struct{}
}

func newHasher(w io.Writer, tick func(int)) *hasher {
	return &hasher{w: w, tick: tick, sha: sha256.New(), xx: xxh3.New()}
}

const hashInline = 8 << 20

func (h *hasher) Write(b []byte) (int, error) {
	if h.queue == nil && h.n+int64(len(b)) > hashInline {
		h.queue, h.free, h.done = make(chan []byte, 3), make(chan []byte, 4), make(chan struct{})
		for range cap(h.free) {
			h.free <- make([]byte, 0, 1<<20)
		}
		go func() {
			defer close(h.done)
			for b := range h.queue {
				h.sha.Write(b)
				h.xx.Write(b)
				h.free <- b
			}
		}()
	}
	if h.queue == nil {
		h.sha.Write(b)
		h.xx.Write(b)
	} else {
		for rest := b; len(rest) > 0; {
			buf := <-h.free
			k := min(len(rest), cap(buf))
			h.queue <- append(buf[:0], rest[:k]...)
			rest = rest[k:]
		}
	}
	n, err := h.w.Write(b)
	h.n += int64(n)
	h.tick(n)
	if err != nil {
		h.err = err
	}
	return n, err
}

func (h *hasher) finish() digest {
	if h.queue != nil {
		close(h.queue)
		<-h.done
	}
	return digest{hex.EncodeToString(h.sha.Sum(nil)), h.xx.Sum64(), h.n}
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
