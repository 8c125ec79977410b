// Package edl reads edit decision lists in the CMX 3600 form (SMPTE ST 258).
//
// They hold no paths: each side of an event is matched by its source file, else
// its clip name, else its reel, within the project folder and the drives.
package edl

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

// Name is "edl".
func (Format) Name() string { return "edl" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Edit decision list", Extensions: []string{"edl"}, Knows: "reels, clip names and source files of every event, matched by name; used ranges"}
}

// Claims wants an event line.
func (Format) Claims(name string, head []byte) int {
	events, title := 0, false
	linescan.Each(head, func(_ int64, line []byte) {
		if _, ok := parse(line); ok {
			events++
		}
		title = title || bytes.HasPrefix(line, []byte("TITLE:")) || bytes.HasPrefix(line, []byte("FCM:"))
	})
	switch {
	case events > 0 && title:
		return 90
	case events > 0:
		return 60
	case format.Ext(name) == "edl":
		return 40
	}
	return 0
}

// event is one line of an event: a side.
type event struct {
	number  string
	reel    []byte
	kind    string // by its channels
	in, out string
}

// channels tells what an event cuts: V is picture, A with its numbers sound, B both.
func channels(c []byte) string {
	switch {
	case bytes.ContainsAny(c, "VB"):
		return "video"
	case bytes.HasPrefix(c, []byte("A")):
		return "audio"
	}
	return ""
}

// parse reads "001  REEL  V  C        00:00:00:00 00:00:05:00 01:00:00:00 01:00:05:00".
func parse(line []byte) (event, bool) {
	f := linescan.Fields(line)
	if len(f) < 8 || len(f[0]) < 3 {
		return event{}, false
	}
	for _, c := range f[0] {
		if c < '0' || c > '9' {
			return event{}, false
		}
	}
	for _, tc := range f[len(f)-4:] {
		if len(tc) != 11 || !strings.ContainsAny(string(tc[8:9]), ":;.,") {
			return event{}, false
		}
	}
	return event{string(f[0]), f[1], channels(f[2]), string(f[len(f)-4]), string(f[len(f)-3])}, true
}

// side is what names one side of an event, best first.
type side struct {
	file, clip, reel *mention.Piece
	event            event
	speed            float64 // frames a second that an M2 line plays it at; 0: as it was shot
}

// motion reads a motion memory line: "M2   REEL   015.0   01:00:00:00".
func motion(line []byte) (reel string, speed float64, ok bool) {
	f := bytes.Fields(line)
	if len(f) < 3 || string(f[0]) != "M2" {
		return "", 0, false
	}
	speed, err := strconv.ParseFloat(string(f[2]), 64)
	return string(f[1]), speed, err == nil && speed > -10_000 && speed < 10_000
}

// nominal is how many frames a second of an FCM list's time address counts.
const nominal = 30

// stretched is the media a side uses: the record side's length, played faster,
// slower or backwards from where it begins.
func (s *side) stretched(in, length float64) *mention.Range {
	switch {
	case s.speed < 0:
		used := length * -s.speed / nominal
		return &mention.Range{Start: max(0, in-used), Duration: min(in, used)}
	case s.speed > 0:
		length *= s.speed / nominal
	}
	return &mention.Range{Start: in, Duration: length}
}

// Read reads events and the comments that follow them.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	var rate *timecode.Rate
	var sides []side // of the present event
	group, sources := 0, 0
	flush := func() {
		for _, s := range sides {
			group++
			for _, p := range []*mention.Piece{s.file, s.clip, s.reel} {
				if p == nil {
					continue
				}
				m := mention.Mention{Pieces: []mention.Piece{*p}, Spelling: mention.Bare, Kind: s.event.kind, Owner: "event " + s.event.number, Group: mention.Group{N: group, Instead: true}}
				if s.reel != nil {
					m.Told = mention.Told{Reel: string(s.event.reel)}.OrNil()
				}
				if rate != nil {
					in, ok := rate.Seconds(s.event.in, 0)
					out, ok2 := rate.Seconds(s.event.out, 0)
					if ok && ok2 && out >= in {
						m.Range = s.stretched(in, out-in)
					}
				}
				d.Add(m)
			}
		}
		sides, sources = nil, 0
	}
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		if e, ok := parse(line); ok {
			if len(sides) > 0 && sides[0].event.number != e.number {
				flush()
			}
			s := side{event: e}
			switch strings.ToUpper(string(e.reel)) {
			case "AX", "BL", "BLACK": // auxiliary and black name nothing
			default:
				s.reel = &mention.Piece{Span: linescan.Within(off, line, e.reel), Coding: linescan.Plain{Not: "*"}}
			}
			sides = append(sides, s)
			return
		}
		trimmed := bytes.TrimSpace(line)
		if bytes.HasPrefix(trimmed, []byte("FCM:")) {
			rate = &timecode.Rate{Num: 30000, Den: 1001, Drop: bytes.Contains(trimmed, []byte("DROP FRAME")) && !bytes.Contains(trimmed, []byte("NON"))}
			return
		}
		if reel, speed, ok := motion(trimmed); ok {
			for i := range sides {
				if strings.EqualFold(string(sides[i].event.reel), reel) {
					sides[i].speed = speed
				}
			}
			return
		}
		if len(trimmed) == 0 || trimmed[0] != '*' || len(sides) == 0 {
			return
		}
		key, value, ok := bytes.Cut(trimmed[1:], []byte(":"))
		value = bytes.TrimSpace(value)
		if !ok || len(value) == 0 {
			return
		}
		piece := &mention.Piece{Span: linescan.Within(off, line, value), Coding: linescan.Plain{Spaces: true}}
		switch strings.ToUpper(string(bytes.TrimSpace(key))) {
		case "FROM CLIP NAME":
			sides[0].clip = piece
		case "TO CLIP NAME":
			sides[len(sides)-1].clip = piece
		case "SOURCE FILE":
			sides[min(sources, len(sides)-1)].file = piece
			sources++
		}
	})
	flush()
	return d, nil
}
