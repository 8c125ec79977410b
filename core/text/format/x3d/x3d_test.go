package x3d

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0" encoding="UTF-8"?>
<X3D version="3.3"><Scene>
  <Shape><Appearance><ImageTexture DEF="planks" url='"planks%20a.png" "../tex/planks.png" "http://example.org/planks.png"'/></Appearance></Shape>
  <Inline load="false" url="&quot;mast &amp; rope.x3d&quot;"/><Inline url='lamp.x3d'/>
  <Anchor url='"http://example.org/page.html"'><Shape/></Anchor>
  <Script url='"javascript: function f() {}" "behave.js"'/><Background frontUrl='"sky.png"' backUrl='"sea.png"'/><AudioClip url='"horn.wav"'/>
  <ImageTexture url='"data:image/png;base64,iVBORw0KGgo="'/>
</Scene></X3D>
`

const classic = "#VRML V2.0 utf8\n# url \"not.png\"\nEXTERNPROTO Bell [ field SFFloat pitch ] [ \"bell proto.wrl#Bell\" \"http://example.org/b.wrl\" ]\nShape { appearance Appearance { texture ImageTexture { url [ \"a \\\"b\\\".png\", \"b.png\" ] repeatS TRUE } } }\nInline { url \"hull.wrl\" load FALSE }\nAnchor { url \"page.html\" children [ Inline { url [\"mast.wrl\"] } ] }\nScript { url \"javascript: x\" }\nBackground { topUrl [\"sky.png\"] }\nScript { url \"tide.js\" }\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.x3d", sample,
		"used (alt 1) ImageTexture 'planks' | planks%20a.png", "used (alt 1) ImageTexture 'planks' | ../tex/planks.png", "used (alt 1) ImageTexture 'planks' | http://example.org/planks.png",
		"dormant (alt 2) Inline | mast & rope.x3d", "used (alt 3) Inline | lamp.x3d", "dormant (alt 4) Script | behave.js",
		"used (alt 5) Background frontUrl | sky.png", "used (alt 6) Background backUrl | sea.png", "used (alt 7) AudioClip | horn.wav",
		"used (inside 8, alt 8) ImageTexture | data:image/png;base64,",
	)
	formattest.Table(t, Format{}, "x.wrl", classic,
		"used (alt 1) EXTERNPROTO Bell | bell proto.wrl#Bell", "used (alt 1) EXTERNPROTO Bell | http://example.org/b.wrl",
		`used (alt 2) ImageTexture | a "b".png`, "used (alt 2) ImageTexture | b.png", "dormant (alt 3) Inline | hull.wrl", "used (alt 4) Inline | mast.wrl", "used (alt 6) Background topUrl | sky.png", "used (alt 7) Script | tide.js",
	)
}

func TestBadInput(t *testing.T) {
	formattest.Bad(t, Format{}, "x.wrl", "#VRML V2.0 utf8\nInline { url \"a.wrl\" }\nInline { url \"b", "line 3: damaged-from a string is not closed", 1)
}

// TestFirstVersion: scenes of VRML 1.0 name what they show in fields of their own; what an
// anchor leads to is not shown.
func TestFirstVersion(t *testing.T) {
	formattest.Table(t, Format{}, "x.wrl", "#VRML V1.0 ascii\nSeparator {\n Texture2 { filename \"brick wall.jpg\" }\n WWWInline { name \"tower.wrl\" bboxSize 1 1 1 }\n WWWAnchor { name \"no.wrl\" Cube {} }\n Info { string \"no.wrl\" }\n}\n",
		"used (alt 1) Texture2 filename | brick wall.jpg", "used (alt 2) WWWInline name | tower.wrl")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.x3d", []byte(sample), []byte(classic))
}
