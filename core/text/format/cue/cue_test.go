package cue

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "REM GENRE Sea\nCDTEXTFILE \"text data.cdt\"\nFILE \"side one.wav\" WAVE\n  TRACK 01 AUDIO\n    INDEX 01 00:00:00\nfile bell strike A.wav wave\n  TRACK 02 AUDIO\n    TITLE \"FILE \"\"x\"\"\"\nFILE plain.bin BINARY\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.cue", sample,
		"used line 2 | text data.cdt", "used line 3 | side one.wav", "used line 6 | bell strike A.wav", "used line 9 | plain.bin")
	formattest.Table(t, Format{}, "latin.cue", "FILE \"M\xF6we.wav\" WAVE\n", "used line 1 | Möwe.wav")
	formattest.Table(t, Format{}, "windows.cue", "FILE \"keeper\x92s horn, \xE9t\xE9.wav\" WAVE\n", "used line 1 | keeper’s horn, été.wav")
	// What is used of a file begins at its first index, 75 frames to the second.
	file, err := formattest.Open(Format{}, "x.cue", []byte("FILE \"a.wav\" WAVE\n TRACK 01 AUDIO\n  INDEX 00 01:02:15\n  INDEX 01 01:03:00\nFILE \"b.wav\" WAVE\n TRACK 02 AUDIO\n  INDEX 01 00:00:75\n"))
	if err != nil {
		t.Fatal(err)
	}
	if r := file.Doc.Mentions[0].Range; r == nil || r.Start != 62.2 || file.Doc.Mentions[1].Range != nil {
		t.Errorf("%+v %+v", r, file.Doc.Mentions[1].Range)
	}
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.cue", "FILE \"a.wav WAVE\nFILE \"b.wav\" WAVE", "line 1: open-quote", 1)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.cue", []byte(sample))
}
