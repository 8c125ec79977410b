package seal

import (
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path"
	"sort"
	"strings"

	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/format"
	"boundcrate/core/text/names"
)

// maxTags bounds all tag files of a crate together: manifests of a million
// lines. maxNames bounds its members, by what is kept of each.
const (
	maxTags    = 128 << 20
	maxNames   = 128 << 20
	memberCost = 200 // bytes beside the name itself
)

var errMembers = errors.New("it has more members than any crate")

var errTags = errors.New("its tag files are larger than any crate's")

// checker is what is known of a crate while it is checked.
type checker struct {
	path    string     // of the crate
	at      string     // of its members in messages
	base    string     // folder within an archive, "" for none
	formats format.Set // by which its documents are read, the crate's own rules last
	docs    []string   // its documents, below the base, once it was traced
	folder  bool
	names   map[string]int64
	tags    map[string][]byte // tag files at the top, by their names below the base
	quick   map[string]uint64 // xxh3 of every member
	sums    map[string]string // SHA-256 of every file of the payload, by its place below data/
	rep     *Report
	parts   []*checker           // the others of an archive that is one of several
	wanted  map[string]bag.Fetch // what its payload lacks and lists to be fetched, by its place below the base
	bases   []string             // where that was looked for
	filled  map[string]filled    // and what was found
}

func (c *checker) fault(f bag.Fault) { c.rep.Faults = append(c.rep.Faults, f) }

func newChecker(p string) (*checker, error) {
	fi, err := os.Stat(p)
	if err != nil {
		return nil, &NoCrate{p, err}
	}
	c := &checker{path: p, at: p, folder: fi.IsDir(), names: map[string]int64{}, tags: map[string][]byte{}, quick: map[string]uint64{}, sums: map[string]string{}, rep: &Report{Crate: p}}
	if !c.folder {
		c.at = p + "!"
	}
	return c, nil
}

func inspect(ctx context.Context, p string, formats format.Set, bases []string, tells bool) (*checker, error) {
	c, err := newChecker(p)
	if err != nil {
		return nil, err
	}
	v := newVault(c.at, formats)
	defer v.close()
	if err := c.inspect(ctx, v, formats, bases); err != nil {
		return nil, err
	}
	if tells {
		c.rep.Sheet = c.sheet(v)
	}
	return c, nil
}

// inspect checks the crate; what of it must be held lies in the vault.
func (c *checker) inspect(ctx context.Context, v *vault, formats format.Set, bases []string) error {
	if known, err := c.readAll(ctx, v, bases); err != nil || !known {
		return err
	}
	if err := c.others(ctx, v); err != nil {
		return err
	}
	rec := c.record()
	if rec != nil {
		c.rep.Suspect = rec.Suspect
	}
	var err error
	if len(c.rep.Lacks)+len(c.rep.ToFetch) == 0 {
		err = c.trace(ctx, formats, v, rec)
	} else if rec != nil { // its documents are proved with all its parts
		c.rep.Left = rec.Left
	}
	if err != nil {
		return err
	}
	c.rep.Complete = c.rep.Complete && c.rep.Harm()+len(c.rep.Lacks)+len(c.rep.ToFetch) == 0
	sort.SliceStable(c.rep.Faults, func(i, j int) bool { return c.rep.Faults[i].Member < c.rep.Faults[j].Member })
	sort.SliceStable(c.rep.Problems, func(i, j int) bool { return c.rep.Problems[i].Path < c.rep.Problems[j].Path })
	return nil
}

// readAll reads all of a bag once, and holds it against its manifests. It is not known where
// members were refused, and what is left is no bag.
func (c *checker) readAll(ctx context.Context, v *vault, bases []string) (known bool, err error) {
	if err := c.list(ctx); err != nil {
		return false, err
	}
	if len(c.names) == 0 || c.tags[bag.Declaration] == nil {
		if len(c.rep.Faults) > 0 && !c.folder {
			return false, nil // refused members are the news
		}
		return false, &NoCrate{c.path, nil}
	}
	inner := map[string]bool{}
	for name := range c.names {
		inner[c.inner(name)] = true
	}
	sums, faults := bag.ReadManifests(c.tags, inner)
	later := map[string]bool{}
	info := bag.ReadInfo(bytes.NewReader(c.tags[bag.InfoName]))
	c.rep.Note, c.rep.From = strings.Join(info["External-Description"], "\n"), strings.Join(info["Contact-Name"], ", ")
	if rec := parseRecord(c.tags[recordName]); rec != nil {
		c.rep.For = rec.For
		for _, k := range rec.Kept {
			later[k] = true
		}
	}
	for _, f := range faults {
		if f.Code == bag.ToFetch {
			continue // told once it is known what is lacking
		}
		if f.Code == bag.Extra && later[f.Member] {
			f.Code = CameLater
		}
		c.fault(f)
	}
	// A crate of ours ends with its record and its tag manifest: without them its end is gone,
	// however whole the rest is.
	if agent := info["Bag-Software-Agent"]; len(agent) > 0 && agent[0] == Software {
		for _, name := range []string{recordName, bag.TagManifest("sha256")} {
			if !inner[name] {
				c.fault(bag.Fault{Code: bag.Gone, Member: name})
			}
		}
	}
	for _, m := range sums.Strays(inner, func(m string) bool {
		return bag.Standard(m) || m == recordName || m == readmeName || m == SheetName || m == journalName
	}) {
		c.fault(bag.Fault{Code: bag.Extra, Member: m})
	}
	c.toFetch(sums, inner)
	if err := c.fill(ctx, v, sums, bases); err != nil {
		return false, err
	}
	if c.rep.ToFetch = c.lacking(); len(c.rep.ToFetch) > 0 {
		c.fault(bag.Fault{Code: bag.ToFetch, Member: bag.FetchName})
	}
	return true, c.digest(ctx, sums, v)
}

// CameLater: a file stands at a place the crate kept for it, and no manifest
// lists it.
const CameLater bag.FaultCode = "came-later"

// inner cuts the base folder off a member's name.
func (c *checker) inner(name string) string {
	if c.base == "" {
		return name
	}
	return strings.TrimPrefix(name, c.base+"/")
}

// list reads all names, refuses dangerous ones and keeps the tag files. Of an
// archive there is one base folder, which holds everything.
func (c *checker) list(ctx context.Context) error {
	folded := map[string]string{}
	used := map[string]bool{} // folders that hold something
	tags := map[string][]byte{}
	total, kept := int64(0), 0
	refuse := func(m string, d bag.Danger) { c.fault(bag.Fault{Code: bag.Refused, Member: m, Danger: d}) }
	err := carrier.Read(ctx, c.path, func(m carrier.Member, r io.Reader) error {
		if kept += 2*len(m.Name) + memberCost; kept > maxNames {
			return errMembers
		}
		if d := bag.Unsafe(m.Name); d != "" && !c.folder {
			refuse(m.Name, d)
			return nil
		}
		switch m.Odd {
		case carrier.Link:
			refuse(m.Name, bag.IsLink)
			return nil
		case carrier.Device:
			refuse(m.Name, bag.IsDevice)
			return nil
		case carrier.Unreadable:
			refuse(m.Name, bag.CannotRead)
			return nil
		}
		if m.Dir {
			return nil
		}
		if _, twice := c.names[m.Name]; twice {
			refuse(m.Name, bag.IsTwice)
			return nil
		}
		key := names.Same(m.Name)
		if _, clash := folded[key]; clash && !c.folder {
			refuse(m.Name, bag.IsSameName)
			return nil
		}
		c.names[m.Name], folded[key] = m.Size, m.Name
		for dir := path.Dir(key); dir != "."; dir = path.Dir(dir) {
			used[dir] = true
		}
		if strings.Count(m.Name, "/") <= 1 && (strings.HasSuffix(m.Name, ".txt") || path.Base(m.Name) == recordName || path.Base(m.Name) == SheetName) {
			// What it says of its size keeps the buffer from growing by doubling.
			buf := bytes.NewBuffer(make([]byte, 0, max(0, min(m.Size, maxTags-total))+bytes.MinRead))
			_, err := buf.ReadFrom(io.LimitReader(r, maxTags-total+1))
			t := buf.Bytes()
			if total += int64(len(t)); total > maxTags {
				return errTags
			}
			if err != nil {
				c.fault(bag.Fault{Code: bag.Harmed, Member: m.Name, Err: err})
			}
			tags[m.Name] = t
		}
		return nil
	})
	var list *carrier.ListError
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.As(err, &list), errors.Is(err, carrier.ErrNotRegular), errors.Is(err, errTags), errors.Is(err, errMembers):
		return &NoCrate{c.path, err}
	case err != nil && c.folder:
		return &NoCrate{c.path, err}
	case err != nil:
		c.fault(bag.Fault{Code: bag.CutShort, Err: err})
	}
	for name := range c.names {
		if used[names.Same(name)] && !c.folder {
			refuse(name, bag.FileFolder)
		}
	}
	c.findBase(tags, refuse)
	for name, t := range tags {
		if inner := c.inner(name); !strings.Contains(inner, "/") && (c.base == "" || inner != name) {
			c.tags[inner] = t
		}
	}
	return nil
}

// findBase finds the one base folder of an archive (§4 of RFC 8493).
func (c *checker) findBase(tags map[string][]byte, refuse func(string, bag.Danger)) {
	if c.folder || tags[bag.Declaration] != nil && !c.second(tags, refuse) {
		return
	}
	var bases []string
	for name := range tags {
		if dir, file := path.Split(name); file == bag.Declaration && strings.Count(name, "/") == 1 {
			bases = append(bases, strings.TrimSuffix(dir, "/"))
		}
	}
	sort.Strings(bases)
	if len(bases) == 0 {
		return
	}
	c.base = bases[0]
	for _, b := range bases[1:] {
		refuse(path.Join(b, bag.Declaration), bag.SecondBag)
	}
	if d := bag.UnsafeBase(c.base); d != "" {
		refuse(c.base, d)
	}
	for name := range c.names {
		if !strings.HasPrefix(name, c.base+"/") {
			refuse(name, bag.BesideBase)
		}
	}
}

// second tells of a bag within a bag whose own declaration stands at the top.
func (c *checker) second(tags map[string][]byte, refuse func(string, bag.Danger)) bool {
	for name := range tags {
		if strings.HasSuffix(name, "/"+bag.Declaration) {
			refuse(name, bag.SecondBag)
		}
	}
	return false
}

func (c *checker) cameLater() bool {
	for _, f := range c.rep.Faults {
		if f.Code == CameLater {
			return true
		}
	}
	return false
}
