package css

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "/* url(not.png) */\n@import \"base sheet.css\";\n@import url(more.css) screen;\nbody { background: url( paper\\ grain.png ) }\n.a::before { content: \"url(no.png)\"; background: URL('a\\27 b.png') }\n.b { background: url(#grad) }\n.c { background: url(data:image/gif;base64,R0lGODlhAQABAAAAACw=) }\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.css", sample,
		"used @import | base sheet.css", "used @import | more.css", "used url | paper grain.png", "used url | a'b.png", "used (inside 14) url | data:image/gif;base64,")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.css", []byte(sample))
}
