package urdf

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0"?>
<robot name="linkage" xmlns:xi="x">
  <material name="brass"><texture filename="package://clockwork/tex/brass%20a.png"/></material>
  <material name="spare"><texture filename="tex/spare.png"/></material>
  <link name="wheel">
    <visual><geometry><mesh filename="package://clockwork/meshes/wheel.dae" scale="1 1 1"/></geometry><material name="brass"/></visual>
    <collision><geometry><mesh filename='../meshes/hull.stl'/></geometry></collision>
    <visual><geometry><box size="1 1 1"/></geometry><material name="own"><texture filename="tex/own.png"/></material></visual>
  </link>
</robot>
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.urdf", sample,
		"used material 'brass' | package://clockwork/tex/brass%20a.png",
		"listed material 'spare' | tex/spare.png",
		"used link 'wheel' mesh | package://clockwork/meshes/wheel.dae",
		"used link 'wheel' mesh | ../meshes/hull.stl",
		"used link 'wheel' texture | tex/own.png",
	)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.urdf", []byte(sample))
}
