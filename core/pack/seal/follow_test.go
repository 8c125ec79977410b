package seal

import (
	"crypto/sha256"
	"errors"
	"io"
	"math/rand/v2"
	"os"
	"testing"
	"time"
)

func followed(t *testing.T) *follower {
	t.Helper()
	f, err := os.CreateTemp(t.TempDir(), "")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { f.Close() })
	return follow(f)
}

// TestFollow: whoever reads behind the writer gets every byte once, in order,
// while the rest is still being written.
func TestFollow(t *testing.T) {
	w := followed(t)
	type read struct {
		n   int64
		sum [32]byte
		err error
	}
	got := make(chan read, 1)
	early := make(chan int64, 1)
	go func() {
		h := sha256.New()
		n, err := io.CopyN(h, &w.reader, 1000)
		early <- n
		if err == nil {
			var rest int64
			rest, err = io.Copy(h, &w.reader)
			n += rest
		}
		got <- read{n, [32]byte(h.Sum(nil)), err}
	}()
	h := sha256.New()
	rng := rand.NewChaCha8([32]byte{3})
	buf := make([]byte, 3<<20+17)
	total := int64(0)
	for range 30 { // beyond one step of the follower
		_, _ = rng.Read(buf)
		h.Write(buf)
		n, err := w.Write(buf)
		if err != nil {
			t.Fatal(err)
		}
		total += int64(n)
	}
	select {
	case <-early:
	case <-time.After(20 * time.Second):
		t.Fatal("nothing was read before the end of the writing")
	}
	w.end(nil)
	if r := <-got; r.err != nil || r.n != total || r.sum != [32]byte(h.Sum(nil)) {
		t.Errorf("%d of %d bytes, %v", r.n, total, r.err)
	}
}

// TestFollowFails: what ends the writing ends the reading too, with its error.
func TestFollowFails(t *testing.T) {
	w := followed(t)
	full := errors.New("no room")
	got := make(chan error, 1)
	go func() {
		_, err := io.Copy(io.Discard, &w.reader)
		got <- err
	}()
	if _, err := w.Write([]byte("begun")); err != nil {
		t.Fatal(err)
	}
	w.end(full)
	select {
	case err := <-got:
		if !errors.Is(err, full) {
			t.Error(err)
		}
	case <-time.After(20 * time.Second):
		t.Fatal("the reader waits for ever")
	}
}

// TestHasher: small files, large ones and those of an archive have the digests
// sha256 gives, whatever pieces they are written in.
func TestHasher(t *testing.T) {
	for _, size := range []int{0, 1, 1 << 20, hashInline, hashInline + 1, 3*hashInline + 12345} {
		data := make([]byte, size)
		_, _ = rand.NewChaCha8([32]byte{byte(size)}).Read(data)
		want := sha256.Sum256(data)
		shared := newDigester()
		for _, to := range []*digester{nil, shared} {
			h := newHasher(io.Discard, to, false, func(int) {})
			for rest := data; len(rest) > 0; {
				n := min(len(rest), 700_001)
				if _, err := h.Write(rest[:n]); err != nil {
					t.Fatal(err)
				}
				rest = rest[n:]
			}
			told := make(chan digest, 1)
			h.finish(func(d digest) { told <- d })
			if d := <-told; d.size != int64(size) || d.sum != hexOf(want[:]) {
				t.Errorf("%d bytes: %+v", size, d)
			}
		}
		shared.close()
	}
}

func hexOf(b []byte) string {
	const digits = "0123456789abcdef"
	out := make([]byte, 0, 2*len(b))
	for _, c := range b {
		out = append(out, digits[c>>4], digits[c&15])
	}
	return string(out)
}
