package collada

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <library_images>
    <image id="brass" name="b"><init_from>textures/brass%20colour.png</init_from></image>
    <image id="spare"><init_from> spare.png </init_from></image>
    <image id="new"><init_from><ref>wood.png</ref></init_from></image>
    <image id="raw"><init_from><hex format="PNG">89504E47</hex></init_from></image>
  </library_images>
  <library_effects><effect id="e"><profile_COMMON>
    <newparam sid="s"><surface type="2D"><init_from>brass</init_from></surface></newparam>
    <newparam sid="t"><sampler2D><instance_image url="#new"/></sampler2D></newparam>
    <technique><texture texture="s" texcoord="UV"/></technique>
  </profile_COMMON></effect></library_effects>
  <library_visual_scenes><visual_scene><node>
    <instance_geometry url="#mesh"/><instance_node url="hull.dae#hull"/><instance_node url="whole.dae"/>
    <input semantic="VERTEX" source="#v"/><channel target="node/translate.X"/><skin source="rig.dae#body"/>
  </node></visual_scene></library_visual_scenes>
</COLLADA>
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.dae", sample,
		"used image 'brass' | textures/brass%20colour.png", "listed image 'spare' | spare.png", "used image 'new' | wood.png", "listed (inside 4) image 'raw' | ",
		"used instance_node url | hull.dae#hull", "used instance_node url | whole.dae", "used skin source | rig.dae#body",
	)
	wide := []byte{0xFE, 0xFF}
	for _, c := range `<COLLADA><library_images><image id="ü"><init_from>müll.png</init_from></image></library_images></COLLADA>` {
		wide = append(wide, byte(c>>8), byte(c))
	}
	formattest.Table(t, Format{}, "wide.dae", string(wide), "listed image 'ü' | müll.png")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.dae", []byte(sample))
}

// TestCreate: images of COLLADA 1.5 are made from files (§8, create_2d,
// create_3d, create_cube).
func TestCreate(t *testing.T) {
	formattest.Table(t, Format{}, "x.dae", `<COLLADA version="1.5.0"><library_images><image id="i"><create_2d><init_from><ref>a.png</ref></init_from></create_2d></image><image id="j"><create_cube><init_from><ref>b.png</ref></init_from></create_cube></image><image id="k"><create_3d><init_from><ref>c.png</ref></init_from></create_3d></image></library_images></COLLADA>`,
		"listed image 'i' | a.png", "listed image 'j' | b.png", "listed image 'k' | c.png")
}
