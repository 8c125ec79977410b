package export

import (
	"fmt"
	"path"
	"strings"

	"boundcrate/core/text/names"
)

// maxEvents is what the numbers of an edit decision list can count.
const maxEvents = 999

// edl writes an edit decision list (SMPTE ST 258:2004): the first track of picture, up to
// four of sound, straight cuts; the record side is the timeline's address.
func (t *timeline) edl(l losses) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "TITLE: %s\n", short(plain(t.name, l), 70))
	if t.rate.Den == 1001 && t.rate.Num == 30000 {
		mode := "NON-DROP FRAME"
		if t.rate.Drop {
			mode = "DROP FRAME"
		}
		fmt.Fprintf(&b, "FCM: %s\n", mode)
	}
	reels := reels{of: map[string]string{}, taken: map[string]bool{}, l: l}
	n := 0
	write := func(tr lane, channel string) {
		for _, it := range tr.items {
			if n++; n > maxEvents {
				l.add(ExtraTrack, tr.name)
				continue
			}
			t.day(l, it.name, it.in, it.out, t.start+it.at, t.start+it.end)
			fmt.Fprintf(&b, "%03d  %-8s %-5s C        %s %s %s %s\n", n, reels.name(it.path), channel,
				t.rate.Address(it.in), t.rate.Address(it.out), t.rate.Address(t.start+it.at), t.rate.Address(t.start+it.end))
			fmt.Fprintf(&b, "* FROM CLIP NAME: %s\n* SOURCE FILE: %s\n", plain(it.name, l), plain(it.path, l))
			if it.sequence {
				l.add(Sequence, it.name)
			}
		}
	}
	for i, tr := range t.video {
		if i == 0 {
			write(tr, "V")
		} else if len(tr.items) > 0 {
			l.add(ExtraTrack, tr.name)
		}
	}
	for i, tr := range t.audio {
		switch {
		case i == 0:
			write(tr, "A")
		case i < 4:
			write(tr, fmt.Sprintf("A%d", i+1))
		case len(tr.items) > 0:
			l.add(ExtraTrack, tr.name)
		}
	}
	return []byte(b.String())
}

func short(s string, n int) string {
	for len(s) > n {
		s = strings.ToValidUTF8(s[:len(s)-1], "")
	}
	return s
}

// reels gives every file a reel name of up to eight letters and figures, its own.
type reels struct {
	of    map[string]string
	taken map[string]bool
	l     losses
}

func (r *reels) name(file string) string {
	if s, ok := r.of[file]; ok {
		return s
	}
	stem, _ := names.Split(path.Base(file))
	clean := strings.Map(func(c rune) rune {
		switch {
		case c >= 'a' && c <= 'z':
			return c - 'a' + 'A'
		case c >= 'A' && c <= 'Z', c >= '0' && c <= '9':
			return c
		}
		return -1
	}, stem)
	s := clean
	if len(s) > 8 {
		s = s[:8]
		r.l.add(LongName, base(file))
	} else if !strings.EqualFold(s, stem) {
		r.l.add(NameChanged, base(file))
	}
	if s == "" || s == "AX" || s == "BL" || s == "BLACK" {
		s = "REEL"
	}
	for n := 2; r.taken[s]; n++ {
		end := fmt.Sprint(n)
		head := clean
		if len(head) > 8-len(end) {
			head = head[:8-len(end)]
		}
		s = head + end
	}
	r.taken[s] = true
	r.of[file] = s
	return s
}
