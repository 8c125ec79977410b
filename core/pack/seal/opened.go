package seal

import (
	"context"
	"path"
	"path/filepath"
	"sort"
	"strings"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// Opened is a crate, ours or any bag, as it says it is: its list is believed, its files are not checked.
type Opened struct {
	Reach     drive.Reach // its files, and nothing else
	Data      string      // its folder data
	Documents []string    // that were sealed; of other bags, payload files that are documents
	Sums      map[string]string
	close     func()
}

// Close lets go of what is held of an archive.
func (o *Opened) Close() { o.close() }

// Open opens a crate. Of an archive its documents are held, and the beginnings of its other files.
// What is no crate is a *NoCrate.
func Open(ctx context.Context, p string, formats format.Set) (*Opened, error) {
	c, err := newChecker(p)
	if err != nil {
		return nil, err
	}
	v := newVault(c.at, formats)
	o := &Opened{Reach: v, Sums: map[string]string{}, close: v.close}
	if c.folder {
		if err := c.list(ctx); err != nil {
			return nil, err
		}
		if c.tags[bag.Declaration] == nil {
			return nil, &NoCrate{p, nil}
		}
		o.Reach = confined(p)
		inner := map[string]bool{}
		for name := range c.names {
			inner[name] = true
		}
		sums, _ := bag.ReadManifests(c.tags, inner)
		for member, sum := range sums["sha256"] {
			c.sums[strings.TrimPrefix(member, bag.Payload+"/")] = sum
		}
		c.toFetch(sums, inner)
		if len(c.wanted) > 0 {
			o.Reach = over{o.Reach, v}
		}
	} else if known, err := c.readAll(ctx, v, nil); err != nil || !known {
		v.close()
		if err == nil {
			err = &NoCrate{p, nil}
		}
		return nil, err
	} else if err := c.others(ctx, v); err != nil {
		v.close()
		return nil, err
	}
	// What a difference crate lists counts as its own: only its bytes are elsewhere.
	for member, f := range c.wanted {
		v.put(path.Join(c.base, member), &vaultFile{size: max(0, f.Length)})
		if sum, ok := bag.OfNI(f.URI); ok {
			c.sums[strings.TrimPrefix(member, bag.Payload+"/")] = sum
		}
	}
	for _, part := range append([]*checker{c}, c.parts...) {
		for place, sum := range part.sums {
			o.Sums[place] = sum
		}
	}
	base := filepath.Join(c.at, c.base)
	o.Data = filepath.Join(base, bag.Payload)
	if rec := c.record(); rec != nil {
		for _, d := range rec.Documents {
			if bag.Unsafe(d.Path) == "" {
				o.Documents = append(o.Documents, filepath.Join(base, d.Path))
			}
		}
		return o, nil
	}
	for name := range c.names {
		if in := c.inner(name); strings.HasPrefix(in, bag.Payload+"/") && claimed(formats, o.Reach, filepath.Join(c.at, name)) {
			o.Documents = append(o.Documents, filepath.Join(c.at, name))
		}
	}
	sort.Strings(o.Documents)
	return o, nil
}
