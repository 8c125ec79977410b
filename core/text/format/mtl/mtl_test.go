package mtl

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = "# a library\nnewmtl brass plate\nKd 0.8 0.6 0.2\nmap_Kd -o 0.5 -s 1 1 1 -blendu on textures/brass colour.png\nbump -bm 0.2 -imfchan l textures/brass bump.png\nmap_aat on\nnewmtl planks\n\tmap_Pr -type sphere -clamp on C:\\tex\\rough.tif  \nrefl -type cube_top sky.hdr\nnorm planks_n.png\nmap_Ks -mm 0 1\n"

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.mtl", sample,
		"used (under brass plate) material 'brass plate' map_Kd | textures/brass colour.png",
		"used (under brass plate) material 'brass plate' bump | textures/brass bump.png",
		"used (under planks) material 'planks' map_Pr | C:\\tex\\rough.tif",
		"used (under planks) material 'planks' refl | sky.hdr",
		"used (under planks) material 'planks' norm | planks_n.png",
	)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.mtl", []byte(sample))
}
