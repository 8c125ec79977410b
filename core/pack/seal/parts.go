package seal

import (
	"bytes"
	"cmp"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/core/pack/carrier"
	"boundcrate/core/text/bag"
)

// partOf tells parts by their names: NAME-2of3.zip.
var partOf = regexp.MustCompile(`^(.*)-(\d+)of(\d+)$`)

// partName is the name of a part of an archive.
func partName(out string, part, of int) string {
	dir, base := filepath.Split(out)
	ext := filepath.Ext(base)
	if k, name := carrier.KindOf(base); k != carrier.Folder {
		ext = base[len(name):]
	}
	return dir + fmt.Sprintf("%s-%0*dof%d%s", strings.TrimSuffix(base, ext), len(strconv.Itoa(of)), part, of, ext)
}

// siblings are all parts of an archive that is one of several, by the name of one; not ok
// where the name does not tell.
func siblings(p string, of int) (list []string, ok bool) {
	k, name := carrier.KindOf(p)
	m := partOf.FindStringSubmatch(name)
	if k == carrier.Folder || m == nil || m[3] != strconv.Itoa(of) || of > maxParts {
		return nil, false
	}
	whole := filepath.Join(filepath.Dir(p), m[1]+filepath.Base(p)[len(name):])
	for i := range of {
		list = append(list, partName(whole, i+1, of))
	}
	return list, slices.Contains(list, p)
}

// maxParts bounds how many parts an archive may have.
const maxParts = 10_000

// group is what the parts of one seal have in common and those of no other.
func (s *sealer) group() string { return s.name + " " + s.Now.UTC().Format(time.RFC3339Nano) }

// What an archive takes for a member beside its bytes and its name, at most, in bytes: its
// headers (ZIP64 and PAX), what no coder packs, and a line in each manifest.
const (
	aroundEach   = 3072
	aroundOfEach = 1000 // and one byte of that many
	aroundAll    = 64 << 10
	aroundListed = 800 // a file in a list that others read the crate by
)

func weight(it item) int64 {
	return it.size + it.size/aroundOfEach + aroundEach + 6*int64(len(it.to))
}

// inParts makes an archive of several, none of them larger than Parts: each file in the
// first that has room, the largest first, as carrier.Parts counts them. Each is a bag of its
// own; unpacked into one folder they are the crate. All get their names at
// once, when every one of them was read back and the whole was proved.
func (s *sealer) inParts(ctx context.Context, k carrier.Kind, items []item) (err error) {
	rec := s.record()
	text, err := json.Marshal(rec)
	if err != nil {
		return err
	}
	room := s.Parts - aroundAll - 2*int64(len(text)) - int64(len(s.Lists)*len(items)*aroundListed)
	if s.Page != nil {
		room -= int64(len(s.Page(rec.sheet(s.name, func(string) int64 { return s.total }))))
	}
	if room <= 0 {
		return &Refusal{Out: s.Out, Code: OutTooLarge, Detail: recordName, Needs: int64(len(text))}
	}
	slices.SortStableFunc(items, func(a, b item) int { return cmp.Compare(weight(b), weight(a)) })
	weights := make([]int64, len(items))
	for i, it := range items {
		if weights[i] = weight(it); weights[i] > room {
			return &Refusal{Out: s.Out, Code: OutTooLarge, Detail: it.from, Needs: it.size}
		}
	}
	groups := carrier.Share(weights, room)
	if len(groups) < 2 {
		return s.archive(ctx, k, items)
	}
	if s.Since != "" {
		return &Refusal{Out: s.Out, Code: OutSinceParts}
	}
	if len(groups) > maxParts {
		return &Refusal{Out: s.Out, Code: OutTooLarge, Detail: s.name}
	}
	if err := s.refuseParts(len(groups)); err != nil {
		return err
	}
	v := newVault(s.Out+"!", s.Trace.Formats)
	defer v.close()
	all := map[string]digest{}
	var list []*underWay
	for _, it := range items {
		s.all.files, s.all.bytes = s.all.files+1, s.all.bytes+it.size
	}
	for i, numbers := range groups {
		group := make([]item, len(numbers))
		for k, n := range numbers {
			group[k] = items[n]
		}
		s.part, s.parts, s.sums, s.before = i+1, len(groups), map[string]digest{}, maps.Clone(all)
		out := partName(s.Out, s.part, s.parts)
		u, err := s.one(ctx, out, k, group, v)
		if err == nil {
			list = append(list, u)
			s.made = append(s.made, out)
			var fi os.FileInfo
			if fi, err = u.Stat(); err == nil && fi.Size() > s.Parts { // the reckoning was wrong: better none than one that does not fit
				err = &Refusal{Out: out, Code: OutTooLarge, Detail: out, Needs: fi.Size()}
			}
		}
		if err != nil {
			for _, u := range list {
				u.drop()
			}
			return err
		}
		for p, d := range s.sums {
			if strings.HasPrefix(p, bag.Payload+"/") {
				all[p] = d
			}
		}
	}
	s.sums = all
	return s.release(ctx, v, list)
}

// refuseParts tells why parts must not be written: what stands at their places is no crate
// of the same documents, or parts of an earlier seal would lie among them.
func (s *sealer) refuseParts(of int) error {
	mine := map[string]bool{}
	for i := range of {
		p := partName(s.Out, i+1, of)
		mine[filepath.Base(p)] = true
		if err := Refuse(s.Plan, p, s.Trace.Drives); err != nil {
			return err
		}
	}
	entries, err := os.ReadDir(filepath.Dir(s.Out))
	if err != nil {
		return nil // it is not there yet
	}
	kind, _ := carrier.KindOf(s.Out)
	for _, e := range entries {
		k, name := carrier.KindOf(e.Name())
		if m := partOf.FindStringSubmatch(name); k == kind && m != nil && m[1] == s.name && !mine[e.Name()] {
			return &Refusal{Out: s.Out, Code: OutOtherParts, Detail: filepath.Join(filepath.Dir(s.Out), e.Name())}
		}
	}
	return nil
}

// membership is which part of how many a bag says that it is (RFC 8493 §2.2.2); 0: it is one
// by itself.
func membership(info map[string][]string) (group string, part, of int) {
	if len(info[bag.Group]) == 0 || len(info[bag.Count]) == 0 {
		return "", 0, 0
	}
	a, b, _ := strings.Cut(info[bag.Count][0], " of ")
	part, err := strconv.Atoi(a)
	of, err2 := strconv.Atoi(b)
	if err != nil || err2 != nil || part < 1 || part > of || of < 2 {
		return "", 0, 0
	}
	return info[bag.Group][0], part, of
}

// others checks the other parts of an archive that is one of several, as far as they lie
// beside it.
func (c *checker) others(ctx context.Context, v *vault) error {
	group, part, of := membership(bag.ReadInfo(bytes.NewReader(c.tags[bag.InfoName])))
	if of == 0 {
		return nil
	}
	paths, ok := siblings(c.path, of)
	if !ok || paths[part-1] != c.path {
		c.rep.Parts = []string{c.path} // its name does not tell those of the others
		for i := range min(of, maxParts) {
			if i+1 != part {
				c.rep.Lacks = append(c.rep.Lacks, fmt.Sprintf("part %d of %d", i+1, of))
			}
		}
		return nil
	}
	held := map[string]bool{}
	for name := range c.names {
		held[c.inner(name)] = true
	}
	for i, p := range paths {
		if p == c.path {
			c.rep.Parts = append(c.rep.Parts, p)
			continue
		}
		other, err := newChecker(p)
		if err != nil {
			c.rep.Lacks = append(c.rep.Lacks, p)
			continue
		}
		known, err := other.readAll(ctx, v, nil)
		var no *NoCrate
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case errors.As(err, &no):
			c.rep.Lacks = append(c.rep.Lacks, p)
			continue
		case err != nil:
			return err
		}
		if g, n, _ := membership(bag.ReadInfo(bytes.NewReader(other.tags[bag.InfoName]))); known && (g != group || n != i+1 || other.base != c.base) {
			c.rep.Lacks, c.rep.Foreign = append(c.rep.Lacks, p), append(c.rep.Foreign, p)
			continue
		}
		for name := range other.names {
			if in := other.inner(name); strings.HasPrefix(in, bag.Payload+"/") {
				if held[in] {
					other.fault(bag.Fault{Code: bag.Refused, Member: in, Danger: bag.IsTwice})
				}
				held[in] = true
			}
		}
		for _, f := range other.rep.Faults {
			f.Member = filepath.Base(p) + "!/" + f.Member
			c.fault(f)
		}
		c.rep.Files, c.rep.Bytes = c.rep.Files+other.rep.Files, c.rep.Bytes+other.rep.Bytes
		c.rep.Parts = append(c.rep.Parts, p)
		c.parts = append(c.parts, other)
	}
	return nil
}

type tag struct {
	name  string
	bytes []byte
}

// together are the tag files of the crate that several parts make: their manifests as one,
// and what they say of themselves without saying that they are parts.
func (c *checker) together() (list []tag) {
	sums := map[string]map[string]string{}
	for _, p := range append([]*checker{c}, c.parts...) {
		for name, text := range p.tags {
			alg, tagged, ok := bag.IsManifest(name)
			if !ok || tagged {
				continue
			}
			if sums[alg] == nil {
				sums[alg] = map[string]string{}
			}
			of, _, _ := bag.ReadManifest(bytes.NewReader(text)) // it was read before
			maps.Copy(sums[alg], of)
		}
	}
	info := bag.ReadInfo(bytes.NewReader(c.tags[bag.InfoName]))
	var labels []bag.Label
	for _, name := range slices.Sorted(maps.Keys(info)) {
		if name == bag.Group || name == bag.Count {
			continue
		}
		for _, v := range info[name] {
			if name == "Payload-Oxum" {
				v = bag.Oxum(c.rep.Bytes, c.rep.Files)
			}
			labels = append(labels, bag.Label{Name: name, Value: v})
		}
	}
	var text bytes.Buffer
	_ = bag.WriteInfo(&text, labels) // a buffer takes everything
	list = []tag{{bag.Declaration, c.tags[bag.Declaration]}, {bag.InfoName, text.Bytes()}}
	for _, name := range []string{recordName, readmeName, SheetName} {
		if t := c.lastTags()[name]; t != nil {
			list = append(list, tag{name, t})
		}
	}
	manifest := func(name string, of map[string]string) tag {
		var b bytes.Buffer
		_ = bag.WriteManifest(&b, of)
		return tag{name, b.Bytes()}
	}
	for _, alg := range slices.Sorted(maps.Keys(sums)) {
		list = append(list, manifest(bag.Manifest(alg), sums[alg]))
	}
	plain := slices.Clone(list)
	for _, alg := range slices.Sorted(maps.Keys(sums)) {
		of := map[string]string{}
		for _, t := range plain {
			h := bag.New(alg)
			h.Write(t.bytes)
			of[t.name] = hex.EncodeToString(h.Sum(nil))
		}
		list = append(list, manifest(bag.TagManifest(alg), of))
	}
	return list
}
