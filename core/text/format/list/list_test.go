package list

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "Path;Use;Owner;Role;Note\r\nsound/gull cry.wav;;Sound desk;;\r\n\"sound/a; \"\"b\"\".wav\";dormant;;read;x\r\n/mix/out.wav;LISTED;Mixer;Write;\r\n;;;;\r\nC:\\\\maps\\\\rust.png\r\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.csv", sample,
		"used Sound desk | sound/gull cry.wav", `dormant line 3 | sound/a; "b".wav`, "listed (write) Mixer | /mix/out.wav", `used line 6 | C:\\maps\\rust.png`)
	formattest.Table(t, Format{}, "x.txt", "#1 chart.png\nsound/gull cry.wav\n\n", "used line 1 | #1 chart.png", "used line 2 | sound/gull cry.wav")
	formattest.Table(t, Format{}, "x.tsv", "note\tfile\nhello\ta b.wav\n", "used line 2 | a b.wav")
}

// TestProse: text that is no list is left to others.
func TestProse(t *testing.T) {
	for _, s := range []string{"Dear workshop, the bell is in bell.wav.\nThank you.", "a,b\n1,2\n", "key = value\n"} {
		for _, name := range []string{"x.txt", "x.csv"} {
			if n := (Format{}).Claims(name, []byte(s)); n != askedFor {
				t.Errorf("%q is claimed as %s: %d", s, name, n)
			}
		}
	}
	// Under another extension only a heading of several columns is one.
	for s, want := range map[string]bool{"Location;Kind;Note\r\na.wav;;\r\n": true, "file, edit\n": false, "path\na.wav\n": false} {
		if n := (Format{}).Claims("x.bin", []byte(s)); n > 0 != want {
			t.Errorf("%q is claimed as x.bin: %d", s, n)
		}
	}
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.csv", []byte(sample))
}

// TestLineEnds: a quoted field may hold line ends (RFC 4180 §2.6), and a quote
// that nothing closes takes no rows with it.
func TestLineEnds(t *testing.T) {
	formattest.Table(t, Format{}, "x.csv", "path,note\n\"a.wav\",\"two\nlines, \"\"three\"\"\r\nparts\"\nb.wav,\"x\"\n", "used line 2 | a.wav", "used line 5 | b.wav")
	formattest.Table(t, Format{}, "x.csv", "path,note\na.wav,5\" disk\nb.wav,x\nc.wav,y\n", "used line 2 | a.wav", "used line 3 | b.wav", "used line 4 | c.wav")
}
