package mtlx

import (
	"testing"

	"boundcrate/core/text/format/formattest"
)

const sample = `<?xml version="1.0"?>
<materialx version="1.39" xmlns:xi="http://www.w3.org/2001/XInclude" fileprefix="tex/">
  <xi:include href="library/brass.mtlx"/>
  <nodegraph name="deck" fileprefix="deck_">
    <image name="planks" type="color3"><input name="file" type="filename" value="planks &lt;A&gt;.png" colorspace="srgb"/></image>
    <tiledimage name="hull" type="color3" fileprefix=""><input name="file" type="filename" value="hull.&lt;UDIM&gt;.png"/></tiledimage>
  </nodegraph>
  <image name="mast"><parameter name="file" type="filename" value="mast.exr"/><input name="x" type="float" value="1"/></image>
</materialx>
`

func TestMentions(t *testing.T) {
	formattest.Table(t, Format{}, "x.mtlx", sample,
		"used xi:include | library/brass.mtlx",
		"used image 'planks' file | planks <A>.png → deck_planks <A>.png",
		"used (seq) tiledimage 'hull' file | hull.<UDIM>.png",
		"used image 'mast' file | mast.exr → tex/mast.exr",
	)
}

func FuzzRead(f *testing.F) {
	formattest.Fuzz(f, Format{}, "x.mtlx", []byte(sample))
}
