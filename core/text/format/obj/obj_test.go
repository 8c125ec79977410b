package obj

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "# deck\nmtllib brass and rope.mtl planks.mtl\nmtllib one with spaces.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl planks\nf 1 2 \\\nmtllib 3\nusemtl brass plate\nusemtl planks\nshadow_obj low poly.obj\nmaplib maps.lib\ncall parts/hook.obj 1 2\nusemap none.png\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.obj", sample,
		"used (picks brass plate+planks) line 2, mtllib | brass and rope.mtl",
		"used (picks brass plate+planks) line 2, mtllib | planks.mtl",
		"used (picks brass plate+planks) line 3, mtllib | one with spaces.mtl",
		"used line 12, shadow_obj | low poly.obj", "used line 13, maplib | maps.lib", "used line 14, call | parts/hook.obj",
	)
	formattest.Table(t, Format{}, "wide.obj", "\xFF\xFEm\x00t\x00l\x00l\x00i\x00b\x00 \x00a\x00.\x00m\x00t\x00l\x00\n\x00", "used (picks ) line 1, mtllib | a.mtl")
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.obj", []byte(sample))
}
