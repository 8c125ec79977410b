// Package cue reads cue sheets (common practice; the commands of the red-book
// mastering world): FILE and CDTEXTFILE name files.
package cue

import (
	"bytes"
	"strconv"
	"strings"

	"boundcrate/core/text/format"
	"boundcrate/core/text/format/linescan"
	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// Format is the reader.
type Format struct{}

// Name is "cue".
func (Format) Name() string { return "cue" }

// About tells people of it.
func (Format) About() format.About {
	return format.About{Title: "Cue sheet", Extensions: []string{"cue"}, Knows: "the sound files of its tracks and the CD text file"}
}

// Claims wants a FILE command and a TRACK command.
func (Format) Claims(name string, head []byte) int {
	isCue := format.Ext(name) == "cue"
	file, track := false, false
	linescan.Each(head, func(_ int64, line []byte) {
		_, word, _ := linescan.Word(line)
		file = file || bytes.EqualFold(word, []byte("FILE"))
		track = track || bytes.EqualFold(word, []byte("TRACK"))
	})
	switch {
	case file && track:
		return 70
	case isCue:
		return 40
	}
	return 0
}

var types = map[string]bool{"WAVE": true, "MP3": true, "AIFF": true, "BINARY": true, "MOTOROLA": true, "FLAC": true}

// Read reads the commands; their keywords in any letter case. A bare name may
// hold spaces and ends before the type. One without a folder is looked for in
// the whole project: sheets often outlive the folder, or the coding, of their sound.
func (Format) Read(t mention.Text, _ format.Include) (*mention.Doc, error) {
	d := &mention.Doc{Texts: []mention.Text{t}}
	n := 0
	sound := -1 // the mention of the present FILE
	linescan.Each(t.Bytes, func(off int64, line []byte) {
		n++
		_, word, rest := linescan.Word(line)
		if bytes.EqualFold(word, []byte("INDEX")) && sound >= 0 {
			_, _, at := linescan.Word(rest)
			if s, ok := index(string(bytes.TrimSpace(at))); ok {
				if m := &d.Mentions[sound]; m.Range == nil || s < m.Range.Start {
					m.Range = &mention.Range{Start: s}
				}
			}
			return
		}
		isFile := bytes.EqualFold(word, []byte("FILE"))
		if !isFile && !bytes.EqualFold(word, []byte("CDTEXTFILE")) {
			return
		}
		name := bytes.TrimRight(rest, " \t")
		if len(name) > 0 && name[0] == '"' {
			end := bytes.IndexByte(name[1:], '"')
			if end < 0 {
				d.Problems = append(d.Problems, problem.Problem{Kind: problem.OpenQuote, Line: n})
				return
			}
			name = name[:end+2]
		} else if i := bytes.LastIndexAny(name, " \t"); isFile && i >= 0 && types[string(bytes.ToUpper(name[i+1:]))] {
			name = bytes.TrimRight(name[:i], " \t")
		}
		if len(name) == 0 {
			return
		}
		at := d.Add(mention.Mention{
			Pieces:   d.One(linescan.Within(off, line, name), linescan.Quoted{Bare: true}),
			Spelling: mention.Path, Nature: mention.Roaming, Owner: mention.Numbered("line ", n),
		})
		if sound = -1; isFile {
			sound = at
		}
	})
	return d, nil
}

// index reads MM:SS:FF, 75 frames to the second (IEC 60908).
func index(s string) (seconds float64, ok bool) {
	p := strings.Split(s, ":")
	if len(p) != 3 {
		return 0, false
	}
	var v [3]int
	for i := range p {
		n, err := strconv.Atoi(p[i])
		if err != nil || n < 0 || n > 1<<20 || i > 0 && n >= []int{0, 60, 75}[i] {
			return 0, false
		}
		v[i] = n
	}
	return float64(v[0]*60+v[1]) + float64(v[2])/75, true
}
