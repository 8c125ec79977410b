package seal

import (
	"path"
	"strings"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/lists"
	"boundcrate/core/text/bag"
)

// lists makes the lists that others read the crate by, once the digests of its files are known. They
// are part of the payload, and tell of all of it but themselves.
func (s *sealer) lists() ([]item, error) {
	if len(s.Lists) == 0 || s.part != s.parts { // of several parts, the last holds them
		return nil, nil
	}
	c := lists.Crate{Name: s.name, Note: s.Note, From: s.From, Made: s.Now, Software: Software, Version: s.Version}
	for _, d := range s.record().Documents {
		c.Documents = append(c.Documents, strings.TrimPrefix(d.Path, bag.Payload+"/"))
	}
	mods := map[string]time.Time{}
	for _, cp := range s.texts.Copies() {
		mods[path.Join(bag.Payload, cp.To)] = s.mods[cp.Source]
	}
	for _, of := range []map[string]digest{s.before, s.sums, s.fetched} {
		for p, d := range of {
			if place, ok := strings.CutPrefix(p, bag.Payload+"/"); ok {
				c.Files = append(c.Files, lists.File{Path: place, Size: d.size, SHA256: d.sum, XXH3: d.quick, Mod: mods[p]})
			}
		}
	}
	made, err := lists.Make(c, s.Lists...)
	var items []item
	for _, m := range made {
		items = append(items, item{to: path.Join(bag.Payload, m.Path), from: m.Path, kind: facts.Data, size: int64(len(m.Bytes)), content: content.Generated(m.Bytes), doc: true})
		s.total += 2 * int64(len(m.Bytes))
	}
	s.of, s.listings = s.of+len(items), s.listings+len(items)
	return items, err
}

// taken tells that a file of the project would stand where a list will.
func taken(items []item, kinds []lists.Kind) string {
	if len(kinds) == 0 {
		return ""
	}
	for _, it := range items {
		place := strings.ToLower(strings.TrimPrefix(it.to, bag.Payload+"/"))
		if place == "ro-crate-metadata.json" || strings.HasPrefix(place, "ascmhl/") || place == "ascmhl" {
			return it.from
		}
	}
	return ""
}
