package edl

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "TITLE: TIDE CLOCK\r\nFCM: DROP FRAME\r\n\r\n001  TAPE01   V     C        00:01:00:02 00:01:10:02 01:00:00:00 01:00:10:00\r\n* FROM CLIP NAME: BRASS PLATE.MOV\r\n002  TAPE01   V     C        00:02:00:02 00:02:00:02 01:00:10:00 01:00:10:00\r\n002  AX       V     D    024 00:00:00:00 00:00:05:00 01:00:10:00 01:00:15:00\r\n* FROM CLIP NAME: brass plate.mov\r\n* TO CLIP NAME: chart 1911.png\r\n* SOURCE FILE: /old/place/brass plate.mov\r\nM2   TAPE01       050.0                00:02:00:02\r\n003  BL       V     C        00:00:00:00 00:00:01:00 01:00:15:00 01:00:16:00\r\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.edl", sample,
		"used (alt 1) event 001 | BRASS PLATE.MOV", "used (alt 1) event 001 | TAPE01",
		"used (alt 2) event 002 | /old/place/brass plate.mov", "used (alt 2) event 002 | brass plate.mov", "used (alt 2) event 002 | TAPE01",
		"used (alt 3) event 002 | chart 1911.png",
	)
	file, err := formattest.Open(Format{}, "x.edl", []byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	// Ten seconds of drop-frame time address are 300 frames of 1001/30000 s.
	if r := file.Doc.Mentions[0].Range; r == nil || r.Duration < 10.009 || r.Duration > 10.011 || r.Start < 60.059 || r.Start > 60.061 {
		t.Errorf("%+v", r)
	}
	// The motion line of event 003 plays half as fast again backwards: 1 s of the
	// list uses 1.5 s that end where it begins (common practice).
	fast := "TITLE: X\nFCM: NON-DROP FRAME\n003  HORN  V  C  00:00:10:00 00:00:11:00 01:00:00:00 01:00:01:00\nM2   HORN  -045.0  00:00:10:00\n"
	if file, err = formattest.Open(Format{}, "x.edl", []byte(fast)); err != nil {
		t.Fatal(err)
	}
	if r := file.Doc.Mentions[0].Range; r == nil || r.Duration < 1.5 || r.Duration > 1.502 || r.Start+r.Duration < 10 || r.Start+r.Duration > 10.02 {
		t.Errorf("%+v", r)
	}
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.edl", []byte(sample))
}
