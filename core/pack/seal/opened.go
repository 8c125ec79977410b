package seal

import (
	"context"
	"path"
	"path/filepath"
	"sort"
	"strings"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
)

// Opened is a crate, ours or any bag, as it says it is: its list is believed, its files are not checked.
type Opened struct {
	Reach     drive.Reach       // its files, and nothing else
	Data      string            // its folder data
	Documents []string          // that were sealed; of other bags, payload files that are documents
	Sums      map[string]string // SHA-256 of its files, by their places below data/
	Origins   map[string]Origin // by our record, of files by their places
	Said      map[string][]Said // by our record, what documents said before they were rewritten, by their places
	Thinned   bool              // by our record, sequences were cut to what is used
	Elsewhere map[string]bool   // places of files that a difference crate leaves to another
	close     func()
}

// Origin is where a file of a crate came from.
type Origin struct {
	From     string    // absolute, on the system that sealed it
	Modified time.Time // zero: not told
	Made     bool      // its bytes are not those that stood there: sound that was converted, cut or joined
}

// Said is what stood at one place of a document before it was sealed, and what stands there now.
type Said struct{ Owner, Old, New string }

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
	o := &Opened{Reach: v, Sums: map[string]string{}, Origins: map[string]Origin{}, Said: map[string][]Said{}, Elsewhere: map[string]bool{}, close: v.close}
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
			if place, ok := strings.CutPrefix(member, bag.Payload+"/"); ok {
				c.sums[place] = sum
			}
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
	for member := range c.wanted {
		o.Elsewhere[strings.TrimPrefix(member, bag.Payload+"/")] = true
	}
	if rec := c.record(); rec != nil {
		o.remember(rec)
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

// remember takes from the record where files came from.
func (o *Opened) remember(rec *record) {
	o.Thinned = len(rec.Thinned) > 0
	place := func(p string) string { return strings.TrimPrefix(p, bag.Payload+"/") }
	for _, f := range rec.Files {
		o.Origins[place(f.Path)] = Origin{f.Source, f.Modified, f.Sound != "" || len(f.With) > 0}
	}
	for _, d := range rec.Documents {
		if at := place(d.Path); o.Origins[at].From == "" {
			o.Origins[at] = Origin{From: d.Source}
		}
	}
	for _, m := range rec.Simpler {
		at := o.Origins[place(m.Path)]
		at.Made = true
		o.Origins[place(m.Path)] = at
	}
	for _, t := range rec.Texts {
		if t.Old != t.New {
			o.Said[place(t.Document)] = append(o.Said[place(t.Document)], Said{t.Owner, t.Old, t.New})
		}
	}
}
