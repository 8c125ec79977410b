package seal

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/export"
	"boundcrate/core/pack/proof"
	"boundcrate/core/pack/sift"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/tally"
	"boundcrate/core/text/bag"
	"boundcrate/core/text/problem"
)

// Names of the files a crate has beside its payload and what every bag has.
const (
	recordName = "crate.json"
	readmeName = "READ ME.txt"
	// SheetName is the handoff sheet of a crate, a page that needs nothing else.
	SheetName = "sheet.html"
)

// Software is what bag-info.txt and the record name as maker.
const Software = "Bound Crate"

// record is what a crate remembers of how it was made.
type record struct {
	Software  string           `json:"software"`
	Made      time.Time        `json:"made"`
	Note      string           `json:"note,omitempty"`
	For       string           `json:"for,omitempty"` // the recipient
	From      string           `json:"from,omitempty"`
	Since     string           `json:"since,omitempty"` // of a difference crate: the name of the crate it builds on
	Documents []recordDocument `json:"documents"`
	Files     []recordFile     `json:"files"`
	Thinned   []recordThinned  `json:"thinned,omitempty"` // sequences of which not all images travel
	Texts     []recordText     `json:"texts"`
	Left      []stow.Left      `json:"left"`
	Rules     []recordRules    `json:"rules,omitempty"`
	Unsaid    []string         `json:"unsaid,omitempty"`      // documents in the crate that could not be made to name its files
	Rebuilt   []string         `json:"rebuildable,omitempty"` // those of them whose files a program makes again
	Kept      []string         `json:"kept,omitempty"`        // places in the crate for files that did not travel
	Suspect   []Suspect        `json:"suspects,omitempty"`    // files that travelled though something spoke against them
	// What the sheets tell besides.
	Tally      tally.Tally    `json:"tally,omitzero"`
	Renamed    []Renamed      `json:"renamed,omitempty"`
	Points     []stow.Aimed   `json:"writePoints,omitempty"` // that led elsewhere
	Repoints   []stow.Repoint `json:"repoint,omitempty"`
	Simpler    []recordMade   `json:"simpler,omitempty"`
	SoundLoses *export.Loss   `json:"soundLoses,omitempty"`
	Fetched    []string       `json:"fetched,omitempty"` // of a difference crate: files that are not carried
	// Expect is what every reference of its documents must lead to; nil in records of
	// before there was such a thing.
	Expect *proof.Expectations `json:"expectations,omitempty"`
}

// recordRules is a rules file that a document of the crate was read by: without
// it nobody else could prove the crate.
type recordRules struct {
	ID     string `json:"id"`
	Source string `json:"source"` // YAML
}

type recordDocument struct {
	Path   string `json:"path"`   // in the crate
	Source string `json:"source"` // where it came from
}

type recordFile struct {
	Path     string        `json:"path"`
	Source   string        `json:"source"`
	Modified time.Time     `json:"modified"`       // when the source changed last
	With     []string      `json:"with,omitempty"` // of a sound that was joined: the files of its further channels
	Why      stow.Renaming `json:"renamed,omitempty"`
	Revision string        `json:"revision,omitempty"` // of a file that came out of a managed store
	Sound    string        `json:"sound,omitempty"`    // what its sound was brought to
	XXH3     string        `json:"xxh3,omitempty"`     // of 64 bits, hex: by it sealing again reads back what stands
	Kind     facts.Kind    `json:"kind,omitempty"`
	Facts    *facts.Facts  `json:"facts,omitempty"` // as it is in the crate
	Cut      *pcm.Cut      `json:"cut,omitempty"`   // what was taken of it, in samples of each channel
	Long     int64         `json:"long,omitempty"`  // of one that was cut: how many it had
}

// recordThinned is a sequence that was cut to what is used.
type recordThinned struct {
	Path   string  `json:"path"`   // its pattern in the crate
	Source string  `json:"source"` // and where it comes from
	Cut    pcm.Cut `json:"cut"`    // in images from its first one
	Long   int64   `json:"long"`   // how many it had
}

// recordText keeps what a document said before it was rewritten.
type recordText struct {
	Document string `json:"document"`
	Owner    string `json:"owner"`
	Old      string `json:"old"`
	New      string `json:"new"`
}

// baseName is the last part of a path, "" of none.
func baseName(p string) string {
	if p == "" {
		return ""
	}
	return filepath.Base(p)
}

// placed tells of each source where it stands in the crate.
func (s *sealer) placed() map[string]string {
	at := map[string]string{}
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; b.Source != "" && !b.Absent && !b.Apart() {
			at[b.Source] = path.Join(bag.Payload, b.To())
		}
	}
	return at
}

func (s *sealer) record() record {
	g := s.Plan.Graph
	at := s.placed()
	rec := record{Suspect: s.suspect(), Expect: s.want, Software: Software, Made: s.Now.UTC().Truncate(time.Second), Since: baseName(s.Since), Note: s.Note, For: s.For, From: s.From, Left: s.texts.LeftOut(), Unsaid: s.unsupportedNames(), Texts: []recordText{}}
	for _, i := range g.Roots {
		if p := at[g.Files[g.Documents[i].File].Path]; p != "" {
			rec.Documents = append(rec.Documents, recordDocument{p, g.Documents[i].Path})
		}
	}
	for i := range s.Plan.Berths {
		b := &s.Plan.Berths[i]
		if b.Absent && !b.IsSequence() && b.File != graph.None && b.Why != stow.Absence(sift.IsTwice) { // a duplicate's place is that of the one that travels
			rec.Kept = append(rec.Kept, path.Join(bag.Payload, b.To()))
			if s.Plan.Judged.Rebuildable(b.File) {
				rec.Rebuilt = append(rec.Rebuilt, path.Join(bag.Payload, b.To()))
			}
		}
	}
	told := map[string]bool{}
	for i := range g.Documents {
		if d := &g.Documents[i]; d.Rules != nil && !told[d.Format] {
			told[d.Format] = true
			rec.Rules = append(rec.Rules, recordRules{strings.TrimPrefix(d.Format, "rules:"), string(d.Rules)})
		}
	}
	known := s.factsOf()
	for _, c := range s.texts.Copies() {
		f := recordFile{Path: path.Join(bag.Payload, c.To), Source: c.Source, Modified: s.mods[c.Source], With: c.With, Why: c.Renamed, Revision: s.Plan.Revisions[c.Source], Kind: c.Kind}
		if d := s.sum(f.Path); d.quick != 0 {
			f.XXH3 = strconv.FormatUint(d.quick, 16)
		}
		if is, ok := known[c.Source]; ok {
			is = brought(is, &c)
			f.Facts = &is
		}
		if c.Sound != nil {
			f.Sound, f.Cut, f.Long = c.Sound.String(), c.Cut, c.Long
		}
		rec.Files = append(rec.Files, f)
	}
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; b.IsSequence() && b.Cut != nil && !b.Absent {
			rec.Thinned = append(rec.Thinned, recordThinned{path.Join(bag.Payload, b.To()), filepath.Join(b.From, b.Was), *b.Cut, b.Long})
		}
	}
	rec.Renamed = s.renamed()
	rec.Tally, rec.Points, rec.Repoints, rec.SoundLoses = s.counted(), s.texts.Aimed(), s.texts.Repoints(), s.Plan.SoundLoses
	for _, m := range s.texts.Made() {
		rec.Simpler = append(rec.Simpler, recordMade{m.To, m.Form, m.Losses})
	}
	rec.Fetched = slices.Sorted(maps.Keys(s.fetched))
	for _, t := range s.texts.All() {
		rec.Texts = append(rec.Texts, recordText{at[g.Documents[t.Doc].Path], t.Owner, t.Old, t.New})
	}
	return rec
}

// unsupportedNames lists the documents, as they stand in the crate, that could not be
// rewritten. A trace alone may not show it: guesses that lead nowhere are not
// believed.
func (s *sealer) unsupportedNames() (list []string) {
	lost, untrue := map[string]bool{}, map[string]bool{}
	for _, p := range s.Plan.Graph.Problems {
		lost[p.Path] = lost[p.Path] || p.Kind == problem.Unfollowed || p.Kind == problem.Unasked
	}
	for _, p := range s.texts.Problems() {
		lost[p.Path] = lost[p.Path] || p.Kind == problem.CannotSay
		untrue[p.Path] = untrue[p.Path] || p.Kind == problem.FalseSum
	}
	for i := range s.Plan.Berths {
		if b := &s.Plan.Berths[i]; !b.Absent && (b.Doc >= 0 && lost[b.Source] || untrue[b.Source]) {
			list = append(list, path.Join(bag.Payload, b.To()))
		}
	}
	return list
}

func generated(name string, b []byte) item {
	return item{to: name, from: name, size: int64(len(b)), kind: facts.Data, content: content.Generated(b)}
}

// tags makes the tag files, which need the payload's digests, in the order
// they are written. The tag manifest comes last.
func (s *sealer) tags() []item {
	payload := map[string]digest{}
	var size int64
	for p, d := range s.sums {
		payload[p] = d
		size += d.size
	}
	maps.Copy(payload, s.fetched)
	for _, d := range s.fetched {
		size += d.size
	}
	var info bytes.Buffer
	manifests := s.manifests(bag.Manifest, payload)
	s.listed += bytes.Count(manifests[0].content.(content.Generated), []byte{'\n'})
	s.want.Fill(func(place string) string { return s.sum(path.Join(bag.Payload, place)).sum })
	rec := s.record()
	text := rec.text()
	labels := []bag.Label{{Name: "Bag-Software-Agent", Value: Software}, {Name: "Bagging-Date", Value: s.Now.Format("2006-01-02")}, {Name: "Payload-Oxum", Value: bag.Oxum(size, len(payload))}}
	if s.part > 0 {
		labels = append(labels, bag.Label{Name: bag.Group, Value: s.group()}, bag.Label{Name: bag.Count, Value: fmt.Sprintf("%d of %d", s.part, s.parts)})
	}
	if s.From != "" {
		labels = append(labels, bag.Label{Name: "Contact-Name", Value: s.From})
	}
	if strings.TrimSpace(s.Note) != "" {
		labels = append(labels, bag.Label{Name: "External-Description", Value: s.Note})
	}
	_ = bag.WriteInfo(&info, labels)
	list := []item{generated(bag.Declaration, []byte(bag.Declared)), generated(bag.InfoName, info.Bytes())}
	list = append(list, manifests...)
	if len(s.fetched) > 0 {
		list = append(list, s.fetchList())
	}
	if s.part > 0 && s.PartNote != nil {
		list = append(list, generated(partName("PART.txt", s.part, s.parts), []byte(s.PartNote(s.name, s.part, s.parts))))
	}
	sheet := rec.sheet(s.name, func(p string) int64 { return s.sum(p).size })
	sheet.Made = s.Now
	if s.part > 0 { // it tells of all parts, and is the same in each
		sheet.Files, sheet.Bytes = s.all.files, s.all.bytes
	}
	s.sheet = sheet
	if s.Readme != nil {
		list = append(list, generated(readmeName, []byte(s.Readme(sheet))))
	}
	if s.Page != nil {
		list = append(list, generated(SheetName, s.Page(sheet)))
	}
	return append(list, generated(recordName, text))
}

// maxIndented is how many expectations a record has that is laid out for people.
const maxIndented = 2000

func (r *record) text() []byte {
	var text []byte
	if len(r.Expect.List) > maxIndented {
		text, _ = json.Marshal(r)
	} else {
		text, _ = json.MarshalIndent(r, "", "  ")
	}
	return append(text, '\n')
}

func (s *sealer) tagManifests(tags []item) []item {
	sums := map[string]digest{}
	for _, t := range tags {
		sums[t.to] = s.sum(t.to)
	}
	return s.manifests(bag.TagManifest, sums)
}

// manifests list digests, by SHA-256 and, where it was asked for, by SHA-512.
func (s *sealer) manifests(name func(string) string, of map[string]digest) (list []item) {
	short, long := map[string]string{}, map[string]string{}
	for p, d := range of {
		short[p], long[p] = d.sum, d.long
	}
	add := func(algorithm string, sums map[string]string) {
		var b bytes.Buffer
		_ = bag.WriteManifest(&b, sums) // a buffer takes everything
		list = append(list, generated(name(algorithm), b.Bytes()))
	}
	add("sha256", short)
	if s.SHA512 {
		add("sha512", long)
	}
	return list
}

// Omitted are the places in a crate (below its folder, with slashes) of used files that were left
// out on purpose, and why, by its record; nil where that is none of ours.
func Omitted(record []byte) map[string]decide.Why {
	rec := parseRecord(record)
	if rec == nil || rec.Expect == nil {
		return nil
	}
	out := map[string]decide.Why{}
	for i := range rec.Expect.List {
		e := &rec.Expect.List[i]
		if e.OnPurpose == "" || e.To < 0 || e.To >= len(rec.Expect.Targets) {
			continue
		}
		for _, m := range rec.Expect.Targets[e.To] {
			out[path.Join(bag.Payload, m.Path)] = decide.Why(e.OnPurpose)
		}
	}
	return out
}

// RecordName is the name of a crate's record in its folder.
const RecordName = recordName
