package seal

import (
	"bytes"
	"context"
	"encoding/hex"
	"errors"
	"io"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
)

// filled is a file that a difference crate lists, and where it was found.
type filled struct {
	sum    string // SHA-256, hex
	base   int    // number of the base
	member string // in it
	size   int64
	mod    time.Time
}

// toFetch reads fetch.txt (RFC 8493 §2.2.3): what the payload lacks, by its place. What is there
// already needs no fetching. A line that contradicts the manifest, or names what must not be
// unpacked, is a fault of the crate.
func (c *checker) toFetch(sums bag.Sums, inner map[string]bool) {
	text := c.tags[bag.FetchName]
	if text == nil {
		return
	}
	list, bad, err := bag.ReadFetch(text)
	if err != nil {
		c.fault(bag.Fault{Code: bag.Harmed, Member: bag.FetchName, Err: err})
	}
	for _, n := range bad {
		c.fault(bag.Fault{Code: bag.NoLine, Member: bag.FetchName, Line: n})
	}
	c.wanted = map[string]bag.Fetch{}
	for _, f := range list {
		d := bag.Unsafe(f.Path)
		if d == "" && !strings.HasPrefix(f.Path, bag.Payload+"/") {
			d = bag.OutsideData
		}
		sum := sums["sha256"][f.Path]
		named, ours := bag.OfNI(f.URI)
		switch {
		case d != "":
			c.fault(bag.Fault{Code: bag.Refused, Member: f.Path, Of: bag.FetchName, Danger: d})
		case !listed(sums, f.Path):
			c.fault(bag.Fault{Code: bag.Extra, Member: f.Path, Of: "manifest"})
		case ours && sum != "" && named != sum:
			c.fault(bag.Fault{Code: bag.Differs, Member: f.Path, Of: bag.FetchName})
		case inner[f.Path]:
		default:
			if !ours {
				f.URI = "" // it is fetched from nowhere, but may be found by its digest
			}
			c.wanted[f.Path] = f
		}
	}
}

func listed(sums bag.Sums, member string) bool {
	for _, list := range sums {
		if list[member] != "" {
			return true
		}
	}
	return false
}

// fill looks for what the payload lacks in the bases: crates, archives or folders. A file is taken
// only by its SHA-256, over all of its bytes; what a base says of itself is not believed. What is
// found goes into the vault, by which the crate is proved.
func (c *checker) fill(ctx context.Context, v *vault, sums bag.Sums, bases []string) error {
	if len(c.wanted) == 0 {
		return nil
	}
	places := map[string][]string{} // by the digest
	sizes := map[int64]bool{}
	for p, f := range c.wanted {
		sum := sums["sha256"][p]
		if sum == "" {
			continue // other digests are not asked: such a file is not one of ours
		}
		places[sum] = append(places[sum], p)
		sizes[f.Length] = true
	}
	c.bases, c.filled = bases, map[string]filled{}
	for n, base := range bases {
		if _, err := os.Stat(base); err != nil {
			return &NoCrate{base, err}
		}
		err := carrier.Read(ctx, base, func(m carrier.Member, r io.Reader) error {
			if r == nil || len(places) == 0 || !sizes[m.Size] && !sizes[-1] {
				return nil
			}
			h := bag.New("sha256")
			f, err := v.read(m.Name, io.TeeReader(&stopping{ctx, r}, h))
			if ctx.Err() != nil {
				return ctx.Err()
			}
			if err != nil {
				return nil // a damaged file is not what is looked for
			}
			sum := hex.EncodeToString(h.Sum(nil))
			for _, p := range places[sum] {
				if want := c.wanted[p].Length; want >= 0 && want != f.size {
					continue
				}
				at := *f
				v.put(path.Join(c.base, p), &at)
				c.filled[p] = filled{sum, n, m.Name, f.size, m.Mod}
				c.sums[strings.TrimPrefix(p, bag.Payload+"/")] = sum
			}
			places[sum] = slices.DeleteFunc(places[sum], func(p string) bool { _, ok := c.filled[p]; return ok })
			if len(places[sum]) == 0 {
				delete(places, sum)
			}
			return nil
		})
		if ctx.Err() != nil {
			return ctx.Err()
		}
		var cut *carrier.CutError
		if err != nil && !errors.As(err, &cut) { // of one that is cut short, what was readable counts
			return &NoCrate{base, err}
		}
	}
	return nil
}

// lacking are the places that were filled by nothing.
func (c *checker) lacking() (list []string) {
	for p := range c.wanted {
		if _, ok := c.filled[p]; !ok {
			list = append(list, p)
		}
	}
	slices.Sort(list)
	return list
}

// whole streams what the crate was filled with, each file verified on the way.
func (c *checker) whole(ctx context.Context, each func(name string, m carrier.Member, r io.Reader) error) error {
	left := len(c.filled)
	for n, base := range c.bases {
		from := map[string][]string{}
		for p, f := range c.filled {
			if f.base == n {
				from[f.member] = append(from[f.member], p)
			}
		}
		if len(from) == 0 {
			continue
		}
		// One member may fill several places: it is read again for each.
		for len(from) > 0 {
			turn := map[string]string{}
			for m, list := range from {
				turn[m] = list[0]
				if from[m] = list[1:]; len(list) == 1 {
					delete(from, m)
				}
			}
			err := carrier.Read(ctx, base, func(m carrier.Member, r io.Reader) error {
				p := turn[m.Name]
				if r == nil || p == "" {
					return nil
				}
				delete(turn, m.Name)
				h := bag.New("sha256")
				m.Mode &^= 0o111
				if err := each(p, m, io.TeeReader(r, h)); err != nil {
					return err
				}
				if hex.EncodeToString(h.Sum(nil)) != c.filled[p].sum {
					return ErrOther
				}
				left--
				return nil
			})
			var cut *carrier.CutError
			if err != nil && !errors.As(err, &cut) {
				return err
			}
		}
	}
	if left != 0 {
		return ErrOther
	}
	return nil
}

// unfetched is a tag manifest without the line of fetch.txt: a bag that is whole has none.
func unfetched(text []byte) []byte {
	sums, _, err := bag.ReadManifest(bytes.NewReader(text))
	if err != nil {
		return text
	}
	delete(sums, bag.FetchName)
	var b bytes.Buffer
	_ = bag.WriteManifest(&b, sums) // a buffer takes everything
	return b.Bytes()
}
