package sfz

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const bells = "// a bell\n#define $ROOM hall\n<control>\ndefault_path=samples/bell_\n#define $MIC close\n<group> lovel=0 /* sample=not.wav\nstill not */ key=60\n<region> sample=strike A $MIC.wav lokey=60 hikey=61<region>sample=..\\\\x.wav\n<region>\nsample=*sine // built in\n<control>default_path=\n<region> sample=$ROOM/tail.wav\n#include \"more bells.sfz\"\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.sfz", bells,
		"used line 8, <region> | strike A $MIC.wav → samples/bell_strike A close.wav",
		`used line 8, <region> | ..\\x.wav → samples/bell_..\\x.wav`,
		"used line 12, <region> | $ROOM/tail.wav → hall/tail.wav",
		"used line 13, #include | more bells.sfz",
	)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.sfz", []byte(bells))
}
