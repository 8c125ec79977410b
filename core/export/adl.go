package export

import (
	"fmt"
	"strings"

	"boundcrate/core/format/timecode"
)

// sampleRate is what an audio decision list counts the rest of a frame in.
const sampleRate = 48000

// adl writes an audio decision list (AES31-3): every track of sound, straight cuts. Whole
// frames are told, so that no address has samples over.
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
	index := map[string]int{}
	var files []string
	last := map[string]int{}
	for _, tr := range t.audio {
		for _, it := range tr.items {
			if index[it.path] == 0 {
				files = append(files, it.path)
				index[it.path] = len(files)
			}
			last[it.path] = max(last[it.path], it.out)
		}
	}
	for _, tr := range t.video {
		if len(tr.items) > 0 {
			l.add(ExtraTrack, tr.name)
		}
	}
	b.WriteString("<SOURCE_INDEX>\n")
	for i, f := range files {
		fmt.Fprintf(&b, "\t(Index)\t%04d\t(F)\t%s\t\"_\"\t%s\t%s\t%s\tN\n", i+1, quote("URL:"+uri(f)), address(0), address(last[f]), quote(base(f)))
	}
	b.WriteString("</SOURCE_INDEX>\n<TRACKLIST>\n")
	for i, tr := range t.audio {
		fmt.Fprintf(&b, "\t(Track)\t%d\t%s\n", i+1, quote(tr.name))
	}
	b.WriteString("</TRACKLIST>\n<EVENT_LIST>\n")
	n := 0
	for i, tr := range t.audio {
		for _, it := range tr.items {
			n++
			fmt.Fprintf(&b, "\t(Entry)\t%04d\t(Cut)\tI\t%04d\t1\t%d\t%s\t%s\t%s\t_\n", n, index[it.path], i+1, address(it.in), address(t.start+it.at), address(t.start+it.end))
		}
	}
	b.WriteString("</EVENT_LIST>\n</ADL>\n")
	return []byte(b.String())
}
