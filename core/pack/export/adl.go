package export

import (
	"fmt"
	"strconv"
	"strings"

	"boundcrate/core/media/pcm"
	"boundcrate/core/text/format/timecode"
)

// sampleRate is what an audio decision list counts the rest of a frame in.
const sampleRate = 48000

// adl writes an audio decision list (AES31-3; of channels from memory): every track of
// sound with as many channels as the widest of its clips has, straight cuts. Whole frames
// are told, so that no address has samples over.
func (t *timeline) adl(l losses) []byte {
	var b strings.Builder
	rate := timecode.Rate{Num: t.rate.Num, Den: t.rate.Den}
	address := func(n int) string { return rate.Address(n) + "/0000" }
	fps := fmt.Sprint(rate.Num / rate.Den)
	if rate.Den != 1 {
		fps = fmt.Sprintf("%.2f", float64(rate.Num)/float64(rate.Den))
	}
	quote := func(s string) string {
		if strings.Contains(s, `"`) {
			l.add(NameChanged, s)
			s = strings.ReplaceAll(s, `"`, "'")
		}
		return `"` + plain(s, l) + `"`
	}
	fmt.Fprintf(&b, "<ADL>\n<VERSION>\n\t(ADL_ID)\t\"06064341\"\n\t(VER_ADL_VERSION)\t01.01\n</VERSION>\n<PROJECT>\n\t(PROJ_TITLE)\t%s\n</PROJECT>\n", quote(t.name))
	fmt.Fprintf(&b, "<SEQUENCE>\n\t(SEQ_SAMPLE_RATE)\tS%d\n\t(S_RATE)\tS%d\n\t(FRAME_RATE)\t%s\n\t(SEQ_DEST_START)\t%s\n</SEQUENCE>\n", sampleRate, sampleRate, fps, address(t.start))
	for _, tr := range t.video {
		if len(tr.items) > 0 {
			l.add(ExtraTrack, tr.name)
		}
	}
	index := newSources(t)
	b.WriteString("<SOURCE_INDEX>\n")
	for i, f := range index.files {
		fmt.Fprintf(&b, "\t(Index)\t%04d\t(F)\t%s\t\"_\"\t%s\t%s\t%s\tN\n", i+1, quote("URL:"+uri(f.path)), address(f.origin), address(f.last-f.origin), quote(base(f.path)))
	}
	b.WriteString("</SOURCE_INDEX>\n<TRACKLIST>\n")
	var entries strings.Builder
	n, dest := 0, 1
	entry := func(file, from, to string, it item) {
		n++
		t.day(l, it.name, it.in, it.out, t.start+it.at, t.start+it.end)
		fmt.Fprintf(&entries, "\t(Entry)\t%04d\t(Cut)\tI\t%04d\t%s\t%s\t%s\t%s\t%s\t_\n", n, index.of[file], from, to, address(it.in), address(t.start+it.at), address(t.start+it.end))
	}
	for _, tr := range t.audio {
		wide := 1
		for _, it := range tr.items {
			wide = max(wide, it.wide)
		}
		for i, end := range pcm.ChannelEnds(wide) {
			name := tr.name
			if wide > 1 {
				name += " " + strings.TrimPrefix(end, ".")
			}
			fmt.Fprintf(&b, "\t(Track)\t%d\t%s\n", dest+i, quote(name))
		}
		for _, it := range tr.items {
			switch {
			case len(it.apart) > 0:
				for i, p := range it.apart {
					entry(p, "1", strconv.Itoa(dest+i), it)
				}
			case it.wide > 1:
				entry(it.path, channels(1, it.wide), channels(dest, it.wide), it)
			default: // one channel sounds on all of its track
				for i := range wide {
					entry(it.path, "1", strconv.Itoa(dest+i), it)
				}
			}
		}
		dest += wide
	}
	b.WriteString("</TRACKLIST>\n<EVENT_LIST>\n" + entries.String() + "</EVENT_LIST>\n</ADL>\n")
	return []byte(b.String())
}

// channels are n of them from the first, as a list tells them.
func channels(first, n int) string { return fmt.Sprintf("%d~%d", first, first+n-1) }

// source is a file that a list takes sound from, in frames.
type source struct {
	path         string
	origin, last int
}

// sources are numbered from 1 in the order in which they are met.
type sources struct {
	files []source
	of    map[string]int
}

func newSources(t *timeline) sources {
	s := sources{of: map[string]int{}}
	for _, tr := range t.audio {
		for _, it := range tr.items {
			paths := it.apart
			if len(paths) == 0 {
				paths = []string{it.path}
			}
			for _, p := range paths {
				if s.of[p] == 0 {
					s.files = append(s.files, source{path: p, origin: it.origin})
					s.of[p] = len(s.files)
				}
				f := &s.files[s.of[p]-1]
				f.last = max(f.last, it.out)
			}
		}
	}
	return s
}
