package adl

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "<ADL>\n<VERSION>\n (ADL_ID) \"1234\"\n (VER_ADL_VERSION) 01.01\n</VERSION>\n<SEQUENCE>\n (SAMPLE_RATE) 48000\n (S_RATE) S48000\n (FRAME_RATE) 25\n</SEQUENCE>\n<SOURCE_INDEX>\n (Index) 0001 (F) \"URL:file://localhost/Bench/foghorn/low%20horn.wav\" \"0601\" 00:00:00:00/0000 00:01:00:00/0000 \"low horn\" N\n (Index) 2 (F) \"URL:bells/bell A.wav\" \"_\" 00:00:00:00/0000 00:00:30:00/0000 \"_\" N\n (Index) 3 (F) \"URL:spare.wav\" \"_\" 00:00:00:00/0000 00:00:30:00/0000 \"_\" N\n</SOURCE_INDEX>\n<EVENT_LIST>\n (Entry) 0001 (Cut) I 1 01 01 00:00:02:00/0000 01:00:00:00/0000 01:00:05:00/0960 _\n (Entry) 0002 (Cut) I 0002 01 01 00:00:00:00/0000 01:00:05:00/0000 01:00:06:00/0000 _\n (Mute)\n (Entry) 0003 (Cut) I 0001 01 01 00:00:10:00/0000 01:00:10:00/0000 01:00:12:00/0000 _ (Mute)\n</EVENT_LIST>\n</ADL>\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.adl", sample,
		"used index 0001 | file://localhost/Bench/foghorn/low%20horn.wav", "dormant index 2 | bells/bell A.wav", "listed index 3 | spare.wav")
	file, err := formattest.Open(Format{}, "x.adl", []byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	// Entries 1 and 3 together: 2 s to 12 s of the recording.
	if r := file.Doc.Mentions[0].Range; r == nil || r.Start != 2 || r.Duration != 10 {
		t.Errorf("%+v", r)
	}
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.adl", []byte(sample))
}
