// Package adl reads audio decision lists (AES31-3).
package adl

import (
	"bytes"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/format/timecode"
	"boundcrate/core/text/mention"
)

// Format is the reader.
type Format struct{}

// Name is "adl".
func (Format) Name() string { return "adl" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Audio decision list", Extensions: []string{"adl"}, Knows: "the source index, which entries place it, muted entries, used ranges"}
}

// Claims looks for the outermost tag or the source index.
func (Format) Claims(name string, head []byte) int {
	switch {
	case bytes.Contains(head, []byte("<ADL>")), bytes.Contains(head, []byte("<SOURCE_INDEX>")):
		return 90
	case format.Ext(name) == "adl":
		return 40
	}
	return 0
}

// Read reads the source index and the entries that place it. An index nothing
// places is listed; one that only muted entries place is dormant.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	l := &list{
		doc: &mention.Doc{Texts: []mention.Text{t}}, at: map[int]int{}, use: map[int]mention.Use{}, ranges: map[int]*mention.Range{}, origins: map[int]float64{},
		rate: timecode.Rate{Num: 25, Den: 1}, samples: 48000, entry: -1,
	}
	linescan.Each(t.Bytes, l.line)
	l.end()
	for n, i := range l.at {
		m := &l.doc.Mentions[i]
		m.Use = mention.Listed
		if u, placed := l.use[n]; placed {
			m.Use = u
		}
		if r := l.ranges[n]; r != nil && r.Start >= l.origins[n] {
			m.Range = &mention.Range{Start: r.Start - l.origins[n], Duration: r.Duration}
		}
	}
	return l.doc, nil
}

// list is a decision list under way; its sources go by their index numbers.
type list struct {
	doc     *mention.Doc
	at      map[int]int // mentions
	use     map[int]mention.Use
	ranges  map[int]*mention.Range
	origins map[int]float64 // at which a file's first sample is counted, in seconds
	rate    timecode.Rate
	samples int // a second
	section string
	// The entry under way: a mute on a line of its own still belongs to it.
	entry int
	muted bool
}

func (l *list) end() {
	if l.entry >= 0 {
		u := mention.Used
		if l.muted {
			u = mention.Dormant
		}
		if was, ok := l.use[l.entry]; !ok || u > was {
			l.use[l.entry] = u
		}
	}
	l.entry, l.muted = -1, false
}

func (l *list) line(off int64, line []byte) {
	trimmed := bytes.TrimSpace(line)
	switch {
	case len(trimmed) == 0:
	case trimmed[0] == '<':
		l.end()
		l.section = strings.ToUpper(strings.Trim(string(trimmed), "<>"))
	case bytes.HasPrefix(trimmed, []byte("(S_RATE)")):
		if f := bytes.Fields(trimmed); len(f) > 1 {
			if n, err := strconv.Atoi(strings.TrimPrefix(string(f[1]), "S")); err == nil && n > 0 {
				l.samples = n
			}
		}
	case bytes.HasPrefix(trimmed, []byte("(FRAME_RATE)")):
		if f := bytes.Fields(trimmed); len(f) > 1 {
			if v, err := strconv.ParseFloat(string(f[1]), 64); err == nil && v >= 1 && v < 1000 {
				l.rate = timecode.Rate{Num: int(v*1000 + 0.5), Den: 1000}
				if v == 29.97 {
					l.rate = timecode.Rate{Num: 30000, Den: 1001}
				}
			}
		}
	case l.section == "SOURCE_INDEX" && bytes.HasPrefix(trimmed, []byte("(Index)")):
		l.source(off, line, trimmed)
	case bytes.HasPrefix(trimmed, []byte("(Entry)")):
		l.end()
		n, ok := index(trimmed)
		if !ok {
			return
		}
		l.entry, l.muted = n, bytes.Contains(trimmed, []byte("(Mute)"))
		if r := placed(trimmed, l.rate, l.samples); r != nil {
			l.ranges[n] = union(l.ranges[n], r)
		}
	case bytes.HasPrefix(trimmed, []byte("(Mute)")):
		l.muted = true
	}
}

// source is a line of the index of sources.
func (l *list) source(off int64, line, trimmed []byte) {
	before, _, _ := bytes.Cut(trimmed[len("(Index)"):], []byte{'"'}) // the number stands before what is quoted
	f := bytes.Fields(before)
	url := quoted(trimmed, "URL:")
	if len(f) < 1 || url == nil {
		return
	}
	n, err := strconv.Atoi(string(f[0]))
	if err != nil {
		return
	}
	l.at[n] = len(l.doc.Mentions)
	for _, f := range bytes.Fields(trimmed[bytes.Index(trimmed, url)+len(url):]) {
		if v, ok := l.rate.Seconds(string(f), l.samples); ok {
			l.origins[n] = v
			break
		}
	}
	l.doc.Add(mention.Mention{
		Pieces:   l.doc.One(linescan.Within(off, line, url), linescan.Plain{Spaces: true, Never: `"`}),
		Spelling: mention.URI, Owner: "index " + string(f[0]),
	})
}

// quoted is the inside of the quoted value with a prefix, without either.
func quoted(line []byte, prefix string) []byte {
	i := bytes.Index(line, []byte(`"`+prefix))
	if i < 0 {
		return nil
	}
	v := line[i+1+len(prefix):]
	if j := bytes.IndexByte(v, '"'); j > 0 {
		return v[:j]
	}
	return nil
}

// index is the source index an entry places: the number after I.
func index(line []byte) (int, bool) {
	f := bytes.Fields(line)
	for i := 0; i+1 < len(f); i++ {
		if string(f[i]) == "I" {
			n, err := strconv.Atoi(string(f[i+1]))
			return n, err == nil
		}
	}
	return 0, false
}

// placed reads source in, destination in and destination out.
func placed(line []byte, rate timecode.Rate, sampleRate int) *mention.Range {
	var s []float64
	for _, f := range bytes.Fields(line) {
		if v, ok := rate.Seconds(string(f), sampleRate); ok {
			s = append(s, v)
		}
	}
	if len(s) < 3 || s[2] < s[1] {
		return nil
	}
	return &mention.Range{Start: s[0], Duration: s[2] - s[1]}
}

func union(a, b *mention.Range) *mention.Range {
	if a == nil {
		return b
	}
	from, to := min(a.Start, b.Start), max(a.Start+a.Duration, b.Start+b.Duration)
	return &mention.Range{Start: from, Duration: to - from}
}
