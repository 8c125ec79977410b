package mend

import (
	"fmt"
	"path/filepath"
	"strings"

	"github.com/zeebo/xxh3"
)

// copies finds those of the best candidates that are copies of one another, as far as their
// sizes and three pieces of them tell.
func (f *finder) copies(s *search) bool {
	type key struct {
		size int64
		ext  string
	}
	sized := map[key][]*Candidate{}
	for _, c := range s.found[:min(contested, len(s.found))] {
		if c.proved() || c.Score < worthALook*s.found[0].Score {
			continue
		}
		if f.weigh(c); c.Size > 0 {
			k := key{c.Size, strings.ToLower(filepath.Ext(c.Path))}
			sized[k] = append(sized[k], c)
		}
	}
	found := false
	for _, list := range sized {
		if len(list) < 2 {
			continue
		}
		alike := map[string][]*Candidate{}
		for _, c := range list {
			if sample, err := f.sample(c); err == nil {
				alike[sample] = append(alike[sample], c)
			}
		}
		for sample, some := range alike {
			for _, c := range some {
				if len(some) > 1 && c.bytes == "" {
					c.bytes, found = sample, true
					c.add(Evidence{Code: Copies, N: int64(len(some))})
				}
			}
		}
	}
	return found
}

// piece is how many bytes are read at the beginning, in the middle and at the end.
const piece = 64 << 10

func (f *finder) sample(c *Candidate) (string, error) {
	file, err := f.rd.Reach.Open(c.Path)
	if err != nil {
		return "", err
	}
	defer file.Close()
	h := xxh3.New()
	buffer := make([]byte, min(piece, c.Size))
	for _, at := range []int64{0, max(0, (c.Size-piece)/2), max(0, c.Size-piece)} {
		n, err := file.ReadAt(buffer[:min(int64(len(buffer)), c.Size-at)], at)
		if n == 0 {
			return "", err
		}
		_, _ = h.Write(buffer[:n]) // a digest takes everything
	}
	return fmt.Sprintf("%d %x", c.Size, h.Sum128().Bytes()), nil
}
